"""Exports as jobs: start, follow, cancel, fetch."""

from collections.abc import AsyncIterator
from datetime import datetime
from pathlib import Path

from asgiref.sync import sync_to_async
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from django.utils.http import content_disposition_header
from ninja import Router, Schema
from pydantic import Field

from sunlatch.ledger import Scene as Document
from sunlatch.ledger import parse_scene
from sunlatch.proof import Setting, file_name

from ..exporting import PREVIEW, NewExport, ToPress, plan
from ..models import Job, Scene
from ..tasks import export_path, start_job
from .people import Problem
from .scenes import owned

router = Router(tags=["jobs"])
TRAY = 20


class Exports(Schema):
    """Several files of several scenes: each file of each scene."""

    scenes: list[str] = Field(min_length=1, max_length=400)
    files: list[NewExport] = Field(min_length=1, max_length=40)


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
    """Its scene; of a join that is under way, how many frames are being joined."""
    bytes: int | None = None
    """Of its finished file."""
    preview: bool = False
    """Whether there is a small picture of it."""
    made: datetime


def job_out(job: Job) -> JobOut:
    """A job for the face."""
    name = job.scene.name if job.scene else ""
    if job.kind == "join" and not job.scene:
        name = f"Join of {len(job.settings['frames'])} frames"
    size, preview = None, False
    if job.file_name and job.state == Job.DONE:
        path = export_path(job)
        size = path.stat().st_size if path.exists() else None
        preview = path.with_name(PREVIEW).exists()
    return JobOut(
        name=name,
        id=job.id, scene=job.scene_id, outing=job.outing_id, kind=job.kind, state=job.state, step=job.step, done=job.done,
        message=job.message, file_name=job.file_name, bytes=size, preview=preview, made=job.created,
    )  # fmt: skip


@router.post("/scenes/{scene_id}/exports", response={200: JobOut, 422: Problem})
def export(request: HttpRequest, scene_id: str, given: NewExport):  # type: ignore[no-untyped-def]
    """Start an export of the scene as saved."""
    return begun([owned(request, scene_id)], [given])[0]


@router.post("/exports", response={200: list[JobOut], 422: Problem})
def exports(request: HttpRequest, given: Exports):  # type: ignore[no-untyped-def]
    """Start exports of several scenes as saved, each in several files; all of them or none."""
    return begun([owned(request, key) for key in given.scenes], given.files)


def begun(scenes: list[Scene], files: list[NewExport]) -> list[JobOut]:
    """Exports, once it is known of each that it can be made. Raises ExportError, ProfileError, DocumentError."""
    planned = []
    taken: set[str] = set()
    for scene in scenes:
        document = scene.revisions.get(number=scene.head).document
        read = parse_scene(document)
        for given in files:
            mine = given
            if given.paper is not None and len(scenes) > 1:
                mine = given.model_copy(update={"paper": _same_paper(read, given.paper)})
            name = plan(scene, read, mine, len(planned) + 1, taken)
            if len(scenes) * len(files) > 1:
                taken.add(name)
            planned.append((scene, document, mine, name))
    with transaction.atomic():
        made = [
            Job.objects.create(
                user=scene.frame.outing.user,
                scene=scene,
                settings=given.model_dump(),
                document=document,
                file_name=name,
            )
            for scene, document, given, name in planned
        ]
        for job in made:
            start_job(job)
    return [job_out(Job.objects.get(pk=job.pk)) for job in made]


def _same_paper(document: Document, key: str) -> str | None:
    """The paper of a document that is meant by one of another: of the same id or name, or the one it is proofed on."""
    return next((p.id for p in document.papers if key in (p.id, p.name)), document.paper)


@router.post("/scenes/{scene_id}/press", response={200: JobOut, 422: Problem})
def to_press(request: HttpRequest, scene_id: str, given: ToPress):  # type: ignore[no-untyped-def]
    """Have the proof press print the scene as saved, or a strip of it."""
    scene = owned(request, scene_id)
    document = scene.revisions.get(number=scene.head).document
    paper = parse_scene(document).on_paper
    if paper is None:
        return 422, Problem(detail="The scene is on no paper; choose one first.", where="paper")
    for one in given.strip:
        Setting(one.of, tuple(one.steps))
    what = "strip" if given.strip else "print"
    name = file_name("{scene} {paper}", {"scene": scene.name, "paper": f"{paper.name} {what}"}, ".png")
    with transaction.atomic():
        job = Job.objects.create(
            user=scene.frame.outing.user, scene=scene, kind="press", settings=given.model_dump(), document=document,
            file_name=name,
        )  # fmt: skip
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


@router.get("/jobs/{job_id}/preview")
def small_picture(request: HttpRequest, job_id: str) -> HttpResponse:
    """A small picture of the finished file."""
    path = export_path(_job(request, job_id)).with_name(PREVIEW)
    if not path.exists():
        raise Http404
    response = HttpResponse(path.read_bytes(), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


async def _blocks(path: Path) -> AsyncIterator[bytes]:
    """A file in megabytes; under ASGI a plain file would be read whole into memory first."""
    with path.open("rb") as file:
        while block := await sync_to_async(file.read)(1 << 20):
            yield block
