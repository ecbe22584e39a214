"""Gather: the field camera on its cable, and folders read where they lie."""

import base64
import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from sunlatch.frame import hash_file
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import Source
from sunlatch.meters import Ladder, read_ladder
from sunlatch.render import picture_8

from .. import services
from ..encoding import encode_jpeg
from ..field_camera import viewfinder, viewfinder_lane
from ..models import Job, Outing
from ..tasks import frames_in, start_job
from .jobs import JobOut, job_out
from .people import Problem

router = Router(tags=["camera"])


class Limit(Schema):
    """How far a setting goes, in its unit."""

    low: float
    high: float
    unit: str


class Offer(Schema):
    """What can be set at the camera, and how far it goes."""

    model: str
    viewpoints: dict[str, str]
    focal: dict[str, float]
    times: dict[str, str]
    modes: dict[str, str]
    frames: dict[str, int]
    limits: dict[str, Limit]


class CameraSettings(Schema):
    """What is set: lengths in mm, times in s, angles in degrees. What cannot be is refused by the camera."""

    viewpoint: str
    time: str
    mode: str = "single"
    focal_mm: float
    seconds: float
    f_number: float
    iso: int
    frames: int = 1
    step: float = 2.0
    turn: float = 0.0
    tilt: float = 0.0


class LookThrough(CameraSettings):
    """Settings to look through the viewfinder with."""

    view: str = Field(default="", max_length=64)
    number: int = 0


class Viewfinder(Schema):
    """What the viewfinder shows: a JPEG in base64, and the light in it."""

    picture: str
    ladder: Ladder


class FolderToRead(Schema):
    """A folder on the machine that serves."""

    folder: str = Field(min_length=1, max_length=4096)


@router.get("/camera", response=Offer)
def offer(request: HttpRequest) -> Any:
    """Connect the field camera: what it offers."""
    return viewfinder().answer(do="offer")["offer"]


@router.post("/camera/look", response={200: Viewfinder, 422: Problem})
def look(request: HttpRequest, given: LookThrough):  # type: ignore[no-untyped-def]
    """A low-resolution look through the viewfinder, developed like any frame. 204 when overtaken."""

    def work() -> Viewfinder:
        with tempfile.TemporaryDirectory(dir=settings.DATA) as folder:
            path = Path(folder) / "look.dng"
            viewfinder().answer(do="look", settings=given.dict(exclude={"view", "number"}), file=str(path))
            sha256 = hash_file(path)
            pyramid = services.store().whole(sha256, path)
            try:
                development = services.engine().develop(Document(sources=[Source(sha256=sha256)]), pyramid)
                shown = picture_8(development, development.geometry.fit(420), full=False)
                return Viewfinder(
                    picture=base64.b64encode(encode_jpeg(shown, 85)).decode(),
                    ladder=read_ladder(development, []),
                )
            finally:
                services.store().forget(sha256)

    with viewfinder_lane().asked(f"{request.user.pk}/{given.view}", given.number):
        return viewfinder_lane().run(work)


def _begin(outing: Outing, kind: str, wanted: dict[str, Any]) -> JobOut:
    with transaction.atomic():
        job = Job.objects.create(user=outing.user, outing=outing, kind=kind, settings=wanted)
        start_job(job)
    return job_out(Job.objects.get(pk=job.pk))


@router.post("/outings/{outing_id}/shoot", response={200: JobOut, 422: Problem})
def shoot(request: HttpRequest, outing_id: str, given: CameraSettings):  # type: ignore[no-untyped-def]
    """Release: the frames arrive in the outing as the camera reads them out."""
    return _begin(get_object_or_404(Outing.objects.of(request.user), pk=outing_id), "shoot", given.dict())


@router.post("/outings/{outing_id}/folder", response={200: JobOut, 422: Problem})
def folder(request: HttpRequest, outing_id: str, given: FolderToRead):  # type: ignore[no-untyped-def]
    """Read a folder where it lies."""
    outing = get_object_or_404(Outing.objects.of(request.user), pk=outing_id)
    frames_in(Path(given.folder))
    return _begin(outing, "folder", {"folder": given.folder})


@router.get("/outings/{outing_id}/jobs", response=list[JobOut])
def arrivals(request: HttpRequest, outing_id: str) -> list[JobOut]:
    """An outing's latest jobs."""
    outing = get_object_or_404(Outing.objects.of(request.user), pk=outing_id)
    return [job_out(j) for j in outing.jobs.order_by("-created")[:10]]
