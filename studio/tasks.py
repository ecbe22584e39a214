"""Long work, run by the worker."""

import os
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from huey.contrib.djhuey import db_task

from sunlatch.errors import CancelledError, SunLatchError
from sunlatch.ledger import parse_scene
from sunlatch.proof import write_picture

from .darkroom import development_for_file
from .models import Job


def export_path(job: Job) -> Path:
    """Where an export's file lies when it is done."""
    return Path(settings.EXPORT_FOLDER) / job.id / job.file_name


def start_job(job: Job) -> None:
    """Queue a job once its row is safely stored."""
    transaction.on_commit(lambda: run_export(job.id))


def take_up_again() -> int:
    """Queue anew what a stopped worker left; returns how many."""
    left = Job.objects.filter(state__in=[Job.QUEUED, Job.RUNNING])
    for job in left:
        Job.objects.filter(pk=job.pk).update(state=Job.QUEUED, step="waiting", done=0)
        run_export(job.id)
    return len(left)


@db_task()
def run_export(job_id: str) -> None:
    """Render a scene to a file. Ends as done, failed or cancelled; leaves its whole file or none."""
    claimed = Job.objects.filter(pk=job_id, state=Job.QUEUED).update(
        state=Job.RUNNING, step="opening the frame"
    )
    if not claimed:
        return
    job = Job.objects.select_related("scene__frame").get(pk=job_id)

    def finish(state: str, message: str) -> None:
        Job.objects.filter(pk=job_id).update(state=state, message=message, step="")

    def progress(share: float) -> None:
        Job.objects.filter(pk=job_id).update(done=share, step="rendering")
        if Job.objects.filter(pk=job_id, cancel=True).exists():
            raise CancelledError("cancelled")

    try:
        progress(0.0)
        wanted: dict[str, Any] = job.settings
        made = development_for_file(job.scene.frame, parse_scene(job.document))
        long_edge = wanted.get("long_edge") or 10**6
        path = export_path(job)
        path.parent.mkdir(parents=True, exist_ok=True)
        write_picture(
            made,
            path,
            view=made.geometry.fit(long_edge),
            space=wanted["space"],
            bits=wanted["bits"],
            progress=progress,
        )
    except CancelledError:
        finish(Job.CANCELLED, "Cancelled. No file was made.")
    except SunLatchError as error:
        finish(Job.FAILED, str(error))
    except MemoryError:
        finish(Job.FAILED, "There was not enough memory. No file was made.")
    except OSError as error:
        finish(Job.FAILED, f"The file could not be written: {error.strerror}. No file is left.")
    except Exception as error:
        finish(Job.FAILED, f"Something unexpected went wrong ({type(error).__name__}). No file was made.")
        raise
    else:
        Job.objects.filter(pk=job_id).update(state=Job.DONE, done=1.0, step="", message="")


def be_nice() -> None:
    """Let the interactive process have the cores first."""
    os.nice(10)
