"""The data folder in order: who holds it, what is left over in it, and what is gone for good."""

import fcntl
import os
import shutil
import signal
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from .models import Frame, Habit, Job, Outing, Scene


class Taken(Exception):  # noqa: N818
    """Somebody else holds it."""


@contextmanager
def held(name: str, wait: bool = False) -> Iterator[None]:
    """Hold a lock of the data folder. Raises Taken where another holds it, unless it is waited for."""
    with (settings.DATA / name).open("w") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | (0 if wait else fcntl.LOCK_NB))
        except BlockingIOError as error:
            raise Taken(name) from error
        yield


def end_with_parent() -> None:
    """Stop like on Ctrl-C when whoever started this process is gone, however that came."""
    if sys.stdin is None or sys.stdin.isatty() or os.environ.get("SUNLATCH_ALONE"):
        return

    def listen() -> None:
        with suppress(OSError):
            while os.read(0, 1):
                pass
        os.kill(os.getpid(), signal.SIGTERM)
        threading.Event().wait(4.0)
        os._exit(1)

    threading.Thread(target=listen, name="parent", daemon=True).start()


def sweep() -> None:
    """Remove what a stop left half done, files without a row, and what was removed long ago. Called while nobody
    else works in the data folder."""
    for folder in (settings.ARRIVING_FOLDER, settings.DATA / "landing"):
        shutil.rmtree(folder, ignore_errors=True)
    settings.ARRIVING_FOLDER.mkdir(parents=True, exist_ok=True)
    before = settings.DATA / "sheets"  # where blobs lay when they were all strokes
    if before.is_dir() and not settings.BLOB_FOLDER.exists():
        before.rename(settings.BLOB_FOLDER)
    for root in (
        settings.FRAME_FOLDER,
        settings.BLOB_FOLDER,
        settings.EXPORT_FOLDER,
        settings.PYRAMID_FOLDER,
    ):
        for path in Path(root).rglob("*.part*"):
            _remove(path)
    _gone_for_good()
    known = set(Frame.everything.values_list("sha256", flat=True))
    for path in Path(settings.FRAME_FOLDER).glob("??/*"):
        if path.name not in known:
            _remove(path)
    done = set(Job.everything.filter(state=Job.DONE).values_list("pk", flat=True))
    for path in Path(settings.EXPORT_FOLDER).glob("*"):
        if path.name not in done:
            _remove(path)


def _gone_for_good() -> None:
    """What was removed so long ago that it cannot be taken back."""
    before = timezone.now() - timedelta(days=settings.REMOVED_DAYS)
    Job.everything.filter(removed__lt=before).delete()
    Habit.everything.filter(removed__lt=before).delete()
    Scene.everything.filter(removed__lt=before).delete()
    for frame in Frame.everything.filter(removed__lt=before):
        frame.scenes(manager="everything").all().delete()
        frame.delete()
    for outing in Outing.everything.filter(removed__lt=before):
        Scene.everything.filter(frame__outing=outing).delete()
        outing.delete()


def _remove(path: Path) -> None:
    with suppress(OSError):
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink()
