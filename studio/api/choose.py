"""Gather: looking at frames, sorting them, and saying which belong together."""

from typing import Literal

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from sunlatch.errors import DocumentError
from sunlatch.geometry import View
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import Source
from sunlatch.ledger.joined import EXPOSURES, MEMBERS
from sunlatch.meters import sharpness_at
from sunlatch.render import picture_8

from .. import services, thumbnails
from ..encoding import encode_jpeg
from ..grouping import keep_together, regroup
from ..models import Frame, Group, Outing
from .gather import FrameLine, OutingOut, Share, frame_line, outing_out
from .people import Problem

router = Router(tags=["choose"])


class Sorting(Schema):
    """Where a frame is put."""

    sorting: Literal["", "evening", "maybe", "leave"]


class Stopped(Schema):
    """What made one stop; nothing takes it back."""

    at: Share | None = None


class Together(Schema):
    """Frames that the photographer says belong together, or ("none") do not."""

    frames: list[str] = Field(min_length=1, max_length=MEMBERS * EXPOSURES)
    kind: Literal["sweep", "bracket", "twin", "none"]


class PlaceToCompare(Schema):
    """Frames to compare at one place, fractions of the developed picture."""

    frames: list[str] = Field(min_length=1, max_length=24)
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)


class Sharpness(Schema):
    """How sharp a frame is at the place: fine contrast over its noise; higher is sharper."""

    frame: str
    sharpness: float


def _frame(request: HttpRequest, frame_id: str) -> Frame:
    return get_object_or_404(Frame.objects.of(request.user), pk=frame_id)


def _outing(request: HttpRequest, outing_id: str) -> Outing:
    return get_object_or_404(Outing.objects.of(request.user), pk=outing_id)


def _untouched(frame: Frame) -> Document:
    return Document(sources=[Source(sha256=frame.sha256)])


def _jpeg(data: bytes) -> HttpResponse:
    response = HttpResponse(data, content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=3600"
    return response


@router.get("/frames/{frame_id}/thumbnail")
def thumbnail(request: HttpRequest, frame_id: str, long: int = thumbnails.TABLE) -> HttpResponse:
    """A picture of the frame as it came, JPEG, at most 2400 px long."""
    sha256 = _frame(request, frame_id).sha256
    return _jpeg(thumbnails.thumbnail(sha256, services.frame_path(sha256), min(max(long, 32), 2400)))


@router.get("/frames/{frame_id}/place")
def place(request: HttpRequest, frame_id: str, x: float, y: float, width: int, height: int) -> HttpResponse:
    """The frame at 100 % around a place (fractions of the picture), JPEG."""
    frame = _frame(request, frame_id)
    if not (0 <= x <= 1 and 0 <= y <= 1 and 16 <= width <= 4000 and 16 <= height <= 4000):
        raise DocumentError("that place lies outside the picture", "x")
    development = services.whole_development(_untouched(frame))
    w, h = development.geometry.developed_size
    width, height = min(width, w), min(height, h)
    left = min(max(round(x * w - width / 2), 0), w - width)
    top = min(max(round(y * h - height / 2), 0), h - height)
    view = View((left / w, top / h, (left + width) / w, (top + height) / h), (width, height))
    return _jpeg(encode_jpeg(picture_8(development, view, full=True), 92))


@router.patch("/frames/{frame_id}", response=FrameLine)
def sort(request: HttpRequest, frame_id: str, given: Sorting) -> FrameLine:
    """Sort a frame into Evening, Maybe or Leave, or back to unsorted."""
    frame = _frame(request, frame_id)
    frame.sorting = given.sorting
    frame.save(update_fields=["sorting"])
    return frame_line(frame)


@router.put("/frames/{frame_id}/stopped", response=FrameLine)
def stopped(request: HttpRequest, frame_id: str, given: Stopped) -> FrameLine:
    """Name the place that made one stop, or name none."""
    frame = _frame(request, frame_id)
    frame.stopped = given.at.model_dump() if given.at else None
    frame.save(update_fields=["stopped"])
    return frame_line(frame)


@router.post("/outings/{outing_id}/recognise", response=OutingOut)
def recognise(request: HttpRequest, outing_id: str) -> OutingOut:
    """Find out anew which frames belong together; what was said by hand stays."""
    outing = _outing(request, outing_id)
    regroup(outing)
    return outing_out(outing)


@router.post("/outings/{outing_id}/groups", response={200: OutingOut, 422: Problem})
def together(request: HttpRequest, outing_id: str, given: Together):  # type: ignore[no-untyped-def]
    """Say by hand which frames belong together, or that they do not."""
    outing = _outing(request, outing_id)
    frames = list(outing.frames.filter(pk__in=given.frames))
    if len(frames) != len(set(given.frames)):
        return 422, Problem(
            detail="One of these frames is not in this outing. Nothing was changed.", where="frames"
        )
    if given.kind != "none" and len(frames) < 2:
        return 422, Problem(detail="A group needs two frames at least. Nothing was changed.", where="frames")
    keep_together(outing, frames, given.kind)
    return 200, outing_out(outing)


@router.delete("/groups/{group_id}", response=OutingOut)
def apart(request: HttpRequest, group_id: str) -> OutingOut:
    """Take a group apart; its frames stay apart until said otherwise."""
    group = get_object_or_404(Group, pk=group_id, outing__user=request.user)
    with transaction.atomic():
        keep_together(group.outing, list(group.frames.all()), "none")
    return outing_out(group.outing)


@router.post("/outings/{outing_id}/sharpness", response=list[Sharpness])
def sharpness(request: HttpRequest, outing_id: str, given: PlaceToCompare) -> list[Sharpness]:
    """Frames ordered by how sharp they are at a place, the sharpest first."""
    outing = _outing(request, outing_id)
    frames = outing.frames.filter(pk__in=given.frames)
    measured = [
        Sharpness(
            frame=f.id,
            sharpness=sharpness_at(services.whole_development(_untouched(f)), given.x, given.y),
        )
        for f in frames
    ]
    return sorted(measured, key=lambda m: -m.sharpness)
