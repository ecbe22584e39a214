"""The data folder in order: who holds it, what is left over in it, and what is gone for good."""

import logging
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
from django.db.models import Q
from django.utils import timezone
from filelock import FileLock, Timeout

from sunlatch.running.shelf import GONE, LOCKS

from .models import Frame, Habit, Job, Outing, Revision, Scene

log = logging.getLogger(__name__)
ASIDE = "set-aside"
"""Where files go of which the database knows nothing."""


class Taken(Exception):  # noqa: N818
    """Somebody else holds it."""


@contextmanager
def held(name: str, wait: bool = False) -> Iterator[None]:
    """Hold a lock of the data folder. Raises Taken where another holds it, unless it is waited for."""
    lock = FileLock(settings.DATA / name, thread_local=False)
    try:
        lock.acquire(timeout=-1 if wait else 0)
    except Timeout as error:
        raise Taken(name) from error
    try:
        yield
    finally:
        lock.release()


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


def prune() -> None:
    """Remove what a stop left half done, and what was removed long ago; set aside files without a row. Called while nobody
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
        settings.JOIN_FOLDER,
        settings.THUMBNAIL_FOLDER,
    ):
        for left in (*Path(root).rglob("*.part*"), *Path(root).glob(f"{GONE}*"), Path(root) / LOCKS):
            _remove(left)
    _gone_for_good()
    _set_aside_what_nobody_knows()


def _gone_for_good() -> None:
    """What was removed so long ago that it cannot be taken back, with its files. A frame of which some scene is made that
    is still there, or can come back, stays."""
    before = timezone.now() - timedelta(days=settings.REMOVED_DAYS)
    frames, jobs = _known_frames(), _known_jobs()
    Job.everything.filter(removed__lt=before).delete()
    Habit.everything.filter(removed__lt=before).delete()
    Scene.everything.filter(removed__lt=before).delete()
    going = list(Frame.everything.filter(Q(removed__lt=before) | Q(outing__removed__lt=before)))
    Scene.everything.filter(frame__in=going).delete()
    needed = _needed({frame.outing_id for frame in going})
    for frame in going:
        if frame.sha256 not in needed[frame.outing_id]:
            frame.delete()
    Outing.everything.filter(removed__lt=before).delete()
    for gone in frames - _known_frames():
        _remove(Path(settings.FRAME_FOLDER) / gone[:2] / gone)
        from . import thumbnails  # it brings the whole core, which who watches over the studio has no use for

        thumbnails.forget(gone)
    for key in jobs.keys() - _known_jobs().keys():
        _remove(Path(settings.EXPORT_FOLDER) / key)


def _known_frames() -> set[str]:
    """Content hashes."""
    return set(Frame.everything.values_list("sha256", flat=True))


def _known_jobs() -> dict[str, str]:
    """Their states."""
    return dict(Job.everything.values_list("pk", "state"))


def _needed(outings: set[str]) -> dict[str, set[str]]:
    """For each outing the content hashes that any revision of its scenes names, removed ones among them."""
    found: dict[str, set[str]] = {outing: set() for outing in outings}
    named = Revision.objects.filter(scene__frame__outing__in=outings)
    for outing, sources in named.values_list("scene__frame__outing", "document__sources").iterator():
        found[outing].update(source["sha256"] for source in sources or [])
    return found


def _set_aside_what_nobody_knows() -> None:
    """Originals and exports without a row: an older database may have been put in place, or a new one. They are moved to a
    dated folder, and that is said; known again, they come back. What is of an export that was not finished is removed."""
    frames, states = _known_frames(), _known_jobs()
    for path in (settings.DATA / ASIDE).glob("*/frames/??/*"):
        home = Path(settings.FRAME_FOLDER) / path.parent.name / path.name
        if path.name in frames and not home.exists():
            home.parent.mkdir(parents=True, exist_ok=True)
            path.rename(home)
    unknown = [path for path in Path(settings.FRAME_FOLDER).glob("??/*") if path.name not in frames]
    for path in Path(settings.EXPORT_FOLDER).glob("*"):
        if path.name not in states:
            unknown.append(path)
        elif states[path.name] != Job.DONE:
            _remove(path)
    if not unknown:
        return
    aside = settings.DATA / ASIDE / f"{timezone.now():%Y-%m-%d-%H%M%S}"
    for path in unknown:
        kind = "exports" if path.parent == Path(settings.EXPORT_FOLDER) else f"frames/{path.parent.name}"
        to = aside / kind / path.name
        to.parent.mkdir(parents=True, exist_ok=True)
        path.rename(to)
    log.warning(
        "%d files in %s belong to nothing that the database knows; they were moved to %s. Nothing was deleted.",
        len(unknown), settings.DATA, aside,
    )  # fmt: skip


def _remove(path: Path) -> None:
    with suppress(OSError):
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink()
