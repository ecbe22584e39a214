"""Exports as jobs: start, follow, cancel, fetch."""

from collections.abc import AsyncIterator
from pathlib import Path
from typing import Literal

from asgiref.sync import sync_to_async
from django.db import transaction
from django.http import HttpRequest, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from ninja import Router, Schema
from pydantic import Field

from sunlatch.proof import FORMATS

from ..models import Job
from ..tasks import export_path, start_job
from .people import Problem
from .scenes import owned

router = Router(tags=["jobs"])
TRAY = 20


class NewExport(Schema):
    """A file to make."""

    kind: Literal["tif", "png", "jpg"] = "tif"
    space: Literal["srgb", "p3", "rec2020", "linear"] = "srgb"
    bits: Literal[8, 16, 32] = 16
    long_edge: int | None = Field(default=None, ge=16, le=60000)


class JobOut(Schema):
    """A job as it stands. done: 0–1."""

    id: str
    scene: str | None
    outing: str | None
    kind: str
    state: str
    step: str
    done: float
    message: str
    file_name: str
    name: str = ""
    """Of a join: its scene, or how many frames are being joined."""


def job_out(job: Job) -> JobOut:
    """A job for the face."""
    name = ""
    if job.kind == "join":
        name = job.scene.name if job.scene else f"Join of {len(job.settings['frames'])} frames"
    return JobOut(
        name=name,
        id=job.id, scene=job.scene_id, outing=job.outing_id, kind=job.kind, state=job.state, step=job.step, done=job.done,
        message=job.message, file_name=job.file_name,
    )  # fmt: skip


@router.post("/scenes/{scene_id}/exports", response={200: JobOut, 422: Problem})
def export(request: HttpRequest, scene_id: str, given: NewExport):  # type: ignore[no-untyped-def]
    """Start an export of the scene as saved."""
    scene = owned(request, scene_id)
    if given.bits not in FORMATS[f".{given.kind}"]:
        return 422, Problem(detail=f"A .{given.kind} file cannot hold {given.bits} bits.", where="bits")
    name = "".join(c if c.isalnum() or c in "-_ " else "-" for c in scene.name).strip()
    # a disk counts bytes, and takes 255 of them
    name = name.encode(errors="ignore")[:200].decode(errors="ignore").strip() or "scene"
    with transaction.atomic():
        document = scene.revisions.get(number=scene.head).document
        job = Job.objects.create(
            user=scene.frame.outing.user,
            scene=scene,
            settings=given.model_dump(),
            document=document,
            file_name=f"{name}.{given.kind}",
        )
        start_job(job)
    return 200, job_out(Job.objects.get(pk=job.pk))


@router.get("/scenes/{scene_id}/jobs", response=list[JobOut])
def jobs(request: HttpRequest, scene_id: str) -> list[JobOut]:
    """A scene's latest jobs."""
    return [job_out(j) for j in owned(request, scene_id).jobs.order_by("-created")[:10]]


def _job(request: HttpRequest, job_id: str) -> Job:
    return get_object_or_404(Job.objects.of(request.user), pk=job_id)


@router.get("/jobs", response=list[JobOut])
def tray(request: HttpRequest) -> list[JobOut]:
    """This photographer's latest long work, of whatever kind, the newest first."""
    return [
        job_out(j) for j in Job.objects.of(request.user).select_related("scene").order_by("-created")[:TRAY]
    ]


@router.get("/jobs/{job_id}", response=JobOut)
def job(request: HttpRequest, job_id: str) -> JobOut:
    """How a job stands."""
    return job_out(_job(request, job_id))


@router.post("/jobs/{job_id}/cancel", response=JobOut)
def cancel(request: HttpRequest, job_id: str) -> JobOut:
    """Ask a job to stop. An export leaves no file; of frames what has arrived stays."""
    found = _job(request, job_id)
    waiting = Job.objects.filter(pk=found.pk, state=Job.QUEUED)
    if not waiting.update(state=Job.CANCELLED, message="Cancelled before it began.", step=""):
        Job.objects.filter(pk=found.pk).update(cancel=True)
    return job_out(Job.objects.get(pk=found.pk))


@router.get("/jobs/{job_id}/file", response={404: Problem})
def file(request: HttpRequest, job_id: str):  # type: ignore[no-untyped-def]
    """The finished file."""
    found = _job(request, job_id)
    path = export_path(found)
    if found.state != Job.DONE or not path.exists():
        return 404, Problem(detail="There is no finished file.")
    response = StreamingHttpResponse(_blocks(path), content_type="application/octet-stream")
    response["Content-Length"] = str(path.stat().st_size)
    response["Content-Disposition"] = content_disposition_header(True, found.file_name) or "attachment"
    return response


async def _blocks(path: Path) -> AsyncIterator[bytes]:
    """A file in megabytes; under ASGI a plain file would be read whole into memory first."""
    with path.open("rb") as file:
        while block := await sync_to_async(file.read)(1 << 20):
            yield block
