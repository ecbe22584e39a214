"""Long work, run by the worker."""

import logging
import os
import shutil
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import DatabaseError, transaction
from django.db.models import F
from django.utils import timezone
from huey.contrib.djhuey import HUEY, close_db, db_task

from sunlatch.errors import CancelledError, FrameError, SunLatchError
from sunlatch.ledger import parse_scene
from sunlatch.merging import input_frames, solved
from sunlatch.render import Engine
from sunlatch.running.patience import Patience

from . import services
from .exporting import export, pressed
from .field_camera import FieldCamera, landing_folder
from .grouping import regroup
from .logs import bound
from .models import Job
from .sentences import of_database, of_disk

log = logging.getLogger(__name__)
FIRST_PAUSE, LONGEST_PAUSE = 0.5, 30.0
"""Seconds between tries to write how a job ended."""

arrivals = type(HUEY)("arrivals", results=False, **HUEY.storage_kwargs)
"""What a person waits for has a queue of its own: a camera is not released behind exports."""


def _arriving(work: Callable[[str], None]) -> Any:
    """A task of that queue."""
    task = arrivals.task()(close_db(work))
    task.call_local = work
    return task


def export_path(job: Job) -> Path:
    """Where an export's file lies when it is done."""
    return Path(settings.EXPORT_FOLDER) / job.id / job.file_name


def start_job(job: Job) -> None:
    """Queue a job once its row is safely stored."""
    transaction.on_commit(lambda: queue(job))


def queue(job: Job) -> None:
    """Hand a job to the worker."""
    {"export": run_export, "shoot": run_shoot, "folder": run_folder, "join": run_join, "press": run_press}[
        job.kind
    ](job.id)


TRIES = 2
"""A job that was at work so many times when its worker crashed is not begun again."""
stopping = threading.Event()
"""Set when the worker is told to stop: what is under way is put back, and goes on when it is started again."""


_under_way: set[str] = set()
"""Jobs that this process is at."""


def put_back() -> None:
    """Queue what is under way in a worker that ends in order: that is no crash of the job's. A release is not: its camera
    is gone."""
    mine = Job.objects.filter(pk__in=list(_under_way), state=Job.RUNNING).exclude(kind="shoot")
    mine.update(state=Job.QUEUED, step="waiting", done=0, tries=F("tries") - 1)


def take_up_again() -> int:
    """Queue anew what a stopped worker left; returns how many. A release that was under way is not
    taken twice: its camera is gone, and what had arrived is in the outing. Nor is a job that stopped its worker
    again and again."""
    shutil.rmtree(landing_folder(""), ignore_errors=True)
    deadly = "Stopped after two crashes. Nothing else was lost."
    Job.objects.filter(state=Job.RUNNING, tries__gte=TRIES).update(state=Job.FAILED, step="", message=deadly)
    gone = "The field camera was disconnected when the studio stopped. What had arrived is kept."
    Job.objects.filter(state=Job.RUNNING, kind="shoot").update(state=Job.FAILED, step="", message=gone)
    left = Job.objects.filter(state__in=[Job.QUEUED, Job.RUNNING])
    for job in left:
        Job.objects.filter(pk=job.pk).update(state=Job.QUEUED, step="waiting", done=0)
        queue(job)
    return len(left)


class Work:
    """A job in hand: says how far it is, and stops when asked to."""

    def __init__(self, job_id: str) -> None:
        self.job = Job.objects.select_related("scene__frame", "outing").get(pk=job_id)
        self._looked, self._cancelled = 0.0, False

    def gone(self) -> bool:
        """Whether somebody asked to stop, or the worker ends; looked up twice a second at most."""
        if not self._cancelled and time.monotonic() > self._looked + 0.5:
            self._looked = time.monotonic()
            self._cancelled = (
                Job.everything.filter(pk=self.job.pk).exclude(cancel=False, removed=None).exists()
            )
        return self._cancelled or stopping.is_set()

    def at(self, share: float, step: str) -> None:
        """Note the share done (0–1) and the step. Raises CancelledError if somebody asked to stop."""
        with suppress(DatabaseError):  # how far it is need not be written; what it comes to must
            Job.objects.filter(pk=self.job.pk).update(done=share, step=step)
        if stopping.is_set() or Job.objects.filter(pk=self.job.pk, cancel=True).exists():
            raise CancelledError("cancelled")


def _run(job_id: str, first_step: str, kept: str, work: Callable[[Work], str]) -> None:
    """Run a claimed job to its end; `kept` says what is left when it does not reach it. `work` returns
    the sentence the job ends with."""
    waiting = Job.objects.filter(pk=job_id, state=Job.QUEUED)
    if not waiting.update(state=Job.RUNNING, step=first_step, tries=F("tries") + 1, began=timezone.now()):
        return

    with bound(job=job_id):
        _carried_out(job_id, kept, work)


def _carried_out(job_id: str, kept: str, work: Callable[[Work], str]) -> None:
    _under_way.add(job_id)

    def finish(state: str, message: str, **more: Any) -> None:
        if stopping.is_set() and state != Job.DONE:
            return  # however it ended: it was put back, and is begun again
        _written(lambda: Job.objects.filter(pk=job_id).update(state=state, message=message, step="", **more))

    try:
        at = Work(job_id)
        with Patience(at.gone):
            message = work(at)
    except CancelledError:
        finish(Job.CANCELLED, f"Cancelled. {kept}")
    except SunLatchError as error:
        finish(Job.FAILED, str(error))
    except MemoryError:
        finish(Job.FAILED, f"There was not enough memory. {kept}")
    except OSError as error:
        finish(Job.FAILED, f"{of_disk(error).removesuffix('Nothing was stored.').strip()} {kept}")
    except DatabaseError as error:
        finish(Job.FAILED, f"{of_database(error)} {kept}")
    except Exception as error:
        finish(Job.FAILED, f"Something unexpected went wrong ({type(error).__name__}). {kept}")
        raise
    else:
        finish(Job.DONE, message, done=1.0)
    finally:
        _under_way.discard(job_id)


def _written(write: Callable[[], object]) -> None:
    """Write how a job ended. Where the disk is full it is tried again until there is room, or the worker ends."""
    pause = FIRST_PAUSE
    while True:
        try:
            write()
            return
        except DatabaseError:
            log.exception("how a job ended could not be written; it is tried again")
            if stopping.wait(pause):
                return
            pause = min(2 * pause, LONGEST_PAUSE)


@db_task()
def run_export(job_id: str) -> None:
    """Render a scene to a file. Ends as done, failed or cancelled; leaves its whole file or none."""

    def work(at: Work) -> str:
        job = at.job
        at.at(0.0, "opening the frame")
        export(
            job.scene.frame,
            parse_scene(job.document),
            job.settings,
            export_path(job),
            lambda share: at.at(share, "rendering"),
        )
        return ""

    _run(job_id, "opening the frame", "No file was made.", work)


@db_task()
def run_press(job_id: str) -> None:
    """Have the proof press print a scene, or a strip of it. Leaves what was measured, or nothing."""

    def work(at: Work) -> str:
        job = at.job
        at.at(0.0, "opening the frame")
        pressed(job.scene.frame, parse_scene(job.document), job.settings, export_path(job), at.at)
        return ""

    _run(job_id, "opening the frame", "Nothing was printed.", work)


@_arriving
def run_shoot(job_id: str) -> None:
    """Release the field camera; each frame is taken in as it is read out, and stays."""

    def work(at: Work) -> str:
        camera, folder = FieldCamera(), landing_folder(job_id)
        folder.mkdir(parents=True, exist_ok=True)
        arrived = 0
        try:
            for message in camera.ask(do="release", settings=at.job.settings, folder=str(folder)):
                if "frame" not in message:
                    break
                path = Path(message["frame"])
                _take_in(at.job, path)
                arrived = message["number"]
                at.at(arrived / message["of"], f"frame {arrived} of {message['of']} has arrived")
        finally:
            camera.close()
            shutil.rmtree(folder, ignore_errors=True)
        regroup(at.job.outing)
        return f"{arrived} {'frame has' if arrived == 1 else 'frames have'} arrived."

    _run(job_id, "the field camera exposes and reads out", "What had arrived is kept.", work)


@_arriving
def run_folder(job_id: str) -> None:
    """Read a folder where it lies: its frames are copied in by content, its files left alone."""

    def work(at: Work) -> str:
        files = frames_in(Path(at.job.settings["folder"]))
        refused = []
        for n, path in enumerate(files):
            at.at(n / len(files), f"{path.name}, {n + 1} of {len(files)}")
            try:
                _take_in(at.job, path)
            except FrameError as error:
                refused.append(str(error))
            except CancelledError:
                raise
            except Exception as error:  # whatever is wrong with one, the others are taken in
                refused.append(f"{path.name} was not taken in ({type(error).__name__}).")
        at.at(1.0, "finding out what belongs together")
        regroup(at.job.outing)
        description = f"{len(files) - len(refused)} of {len(files)} files have arrived."
        return " ".join([description, *refused[:5]])

    _run(job_id, "looking through the folder", "What had arrived is kept.", work)


@_arriving
def run_join(job_id: str) -> None:
    """Join frames: solve how they lie, then make all px. Ends with a scene or with nothing; begun again after a
    kill it goes on from the scene, if there was one by then."""

    from .api.gather import make_scene, sources_of

    def work(at: Work) -> str:
        job = at.job
        if job.scene is None:
            ids = job.settings["frames"]
            frames = {f.id: f for f in job.outing.frames.filter(pk__in=ids)}
            held = [frames[i] for i in ids if i in frames]
            sources = sources_of(held)
            context = Engine(cache_bytes=256 << 20, blobs=services.blobs())
            for n, source in enumerate(sources):
                at.at(0.3 * n / len(sources), f"decoding {source.path}")
                services.whole_source(source)
            taken = input_frames(sources, services.whole_source)
            document = solved(
                job.settings.get("kind", "sweep"), taken, sources, context,
                progress=lambda step, share: at.at(0.3 + 0.3 * share, step),
                merge=lambda bracket: services.joins().whole(bracket, services.whole_source, context),
            )  # fmt: skip
        else:
            document = parse_scene(job.scene.revisions.get(number=1).document)
        context = Engine(cache_bytes=256 << 20, blobs=services.blobs())
        services.joins().whole(
            document, services.whole_source, context, lambda step, share: at.at(0.6 + 0.4 * share, step)
        )
        if job.scene is None:
            anchor = next(f for f in held if f.sha256 == document.anchor.sha256)
            name = f"{document.base.kind.capitalize()} of {len(document.base.members)}"
            if document.base.brackets:
                name += " brackets"
            made = make_scene(anchor, name, joined=document)
            Job.objects.filter(pk=job.pk).update(scene=made)
        description = [f"{left.name} was left out: {left.why}." for left in document.base.left_out]
        return " ".join(description)

    _run(job_id, "opening the frames", "No scene was made.", work)


ENDINGS = {
    ".dng",
    ".tif",
    ".tiff",
    ".png",
    ".jpg",
    ".jpeg",
    ".arw",
    ".cr2",
    ".cr3",
    ".nef",
    ".orf",
    ".pef",
    ".raf",
    ".rw2",
}


def frames_in(folder: Path) -> list[Path]:
    """The files of a folder that may be frames, by name. Raises FrameError when it cannot be read."""
    allowed = [root.resolve() for root in settings.READABLE_FOLDERS]

    def inside(path: Path) -> bool:
        return any(path.resolve().is_relative_to(root) for root in allowed)

    try:
        place = folder.expanduser().resolve()
        if not inside(place):
            raise FrameError(
                f"{folder} may not be read from here. SUNLATCH_FOLDERS says which folders may be."
            )
        if not place.is_dir():
            raise FrameError(f"There is no folder {folder}.")
        # a link to a file elsewhere is as good as that file
        found = sorted(
            p for p in place.iterdir() if p.suffix.lower() in ENDINGS and p.is_file() and inside(p)
        )
    except (
        OSError,
        ValueError,
        RuntimeError,
    ) as error:  # no such person, a NUL, a name too long, no permission
        raise FrameError(f"{str(folder)[:200]!r} cannot be read as a folder.") from error
    if not found:
        raise FrameError(f"There are no frames in {folder}.")
    return found


def _take_in(job: Job, path: Path) -> None:
    from .api.gather import receive

    with path.open("rb") as source:
        receive(job.outing, path.name, source)


def be_nice() -> None:
    """Let the interactive process have the cores first."""
    os.nice(10)
