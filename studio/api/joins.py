"""Frames made one picture: what they would give, and the work of it."""

import base64
from functools import partial
from pathlib import Path
from typing import Any, Literal

import numpy as np
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from sunlatch.errors import DocumentError, JoinError
from sunlatch.layers import lend, lender, where_wanted
from sunlatch.ledger import Latch, LoanLine, Source
from sunlatch.ledger.joined import EXPOSURES, MEMBERS
from sunlatch.merging import Joined, description_of, input_frames, seams_over, solved
from sunlatch.render import picture_8

from .. import services
from ..encoding import encode_jpeg, encode_png
from ..grouping import trait
from ..models import Frame, Job, Outing
from ..slots import Rank
from ..tasks import start_job
from .gather import FrameLine, frame_line, sources_of
from .jobs import JobOut, job_out
from .light import Look, looked_at, view_of
from .people import Problem
from .scenes import Asked, frame_and_source, owned, read_document, revision_out

router = Router(tags=["joins"])
PREVIEW = 900
"""Long edge of a first picture of a join, px."""


class Joining(Schema):
    """Frames to be joined."""

    frames: list[str] = Field(min_length=1, max_length=MEMBERS * EXPOSURES)
    kind: Literal["sweep", "bracket"] = "sweep"


class LeftOutOut(Schema):
    """A frame that found no place, and why."""

    name: str
    why: str


class PreviewOut(Schema):
    """What frames would give: a JPEG as a data address; names in the order they lie, of a sweep from left to right, of a
    bracket from dark to bright; what it is, in a sentence; what is left out."""

    picture: str
    order: list[str]
    description: str
    left_out: list[LeftOutOut]


def _frames(request: HttpRequest, outing_id: str, ids: list[str]) -> tuple[Outing, list[Frame]]:
    outing = get_object_or_404(Outing.objects.of(request.user), pk=outing_id)
    held = {f.id: f for f in outing.frames.filter(pk__in=ids)}
    if len(held) < len(set(ids)):
        raise DocumentError("one of these frames is not in the outing any more", "frames")
    frames = sorted(held.values(), key=lambda f: (f.taken, f.name))
    if len(frames) < 2:
        raise JoinError("A join takes two frames at least: choose another one too.")
    return outing, frames


@router.post("/outings/{outing_id}/joins/preview", response={200: PreviewOut, 422: Problem})
def preview(request: HttpRequest, outing_id: str, given: Joining) -> PreviewOut:
    """What frames would give, small and soon. 422 with a sentence that names them where they do not fit."""
    _, frames = _frames(request, outing_id, given.frames)
    sources = sources_of(frames)

    def work() -> PreviewOut:
        taken = input_frames(sources, services.quick_source)
        merge = partial(
            services.joins().first_look, open_frame=services.quick_source, context=services.engine()
        )
        document = solved(given.kind, taken, sources, services.engine(), quick=True, merge=merge)
        raster = services.joins().first_look(document, services.quick_source, services.engine())
        shown = services.engine().develop(document, raster, untrimmed=True)
        data = encode_jpeg(picture_8(shown, shown.geometry.fit(PREVIEW), full=False), 88)
        names = {s.id: s.path for s in sources}
        order, description = description_of(document)
        return PreviewOut(
            picture="data:image/jpeg;base64," + base64.b64encode(data).decode(),
            order=[names[key] for key in order], description=description,
            left_out=[LeftOutOut(name=left.name, why=left.why) for left in document.base.left_out],
        )  # fmt: skip

    with services.lane().wanted(Rank.MEASURE):
        return work()


@router.post("/outings/{outing_id}/joins", response={200: JobOut, 422: Problem})
def join(request: HttpRequest, outing_id: str, given: Joining) -> JobOut:
    """Begin to join frames; the job names the scene once there is one."""
    outing, frames = _frames(request, outing_id, given.frames)
    with transaction.atomic():
        job = Job.objects.create(
            user=outing.user,
            outing=outing,
            kind="join",
            settings={"frames": [f.id for f in frames], "kind": given.kind},
        )
        start_job(job)
    return job_out(Job.objects.get(pk=job.pk))


@router.post("/scenes/{scene_id}/seams", response={200: None, 404: Problem})
def seams(request: HttpRequest, scene_id: str, look: Look) -> Any:
    """Which frame is shown where, over a view: 8-bit grey PNG, the number of the member in the document and one more; 0 where
    there is none."""
    found = owned(request, scene_id)
    view, document = view_of(look), looked_at(found, look)
    base = document.base
    if not base.members:
        return 404, Problem(detail="This scene is one frame: it has no seams.")

    def work() -> bytes:
        development = services.development(document, look.untrimmed)
        assert isinstance(development.under, Joined)
        shown = seams_over(development.ground, development.under, view)
        number = {m.source: n + 1 for n, m in enumerate(base.members)}
        return encode_png(np.array([*(number[key] for key in development.under.shown), 0], np.uint8)[shown])

    with services.lane().asked(f"{found.id}/{look.view}", look.number, Rank.LOOK):
        return HttpResponse(services.lane().run(work), content_type="image/png")


class Lending(Asked):
    """A frame that is to lend part of itself to a scene as it stands."""

    frame: str


class LentOut(Schema):
    """What goes into the document: the frame as a source, the line of the loan, and the latch by which it is let in."""

    source: Source
    loan: LoanLine
    latch: Latch


class LenderOut(Schema):
    """A frame that is offered to lend; said: how it fits, or why it cannot lend."""

    frame: FrameLine
    description: str
    lends: bool


@router.get("/scenes/{scene_id}/lenders", response=list[LenderOut])
def lenders(request: HttpRequest, scene_id: str) -> list[LenderOut]:
    """The outing's other frames as they fit to lend: those that show the same first, those that cannot last."""
    found = owned(request, scene_id)
    document = revision_out(found).document
    made_of = {document.source(key).sha256 for key in document.made_from}
    frames = [f for f in found.frame.outing.frames.all() if f.sha256 not in made_of]
    anchor = found.frame.outing.frames.filter(sha256=document.anchor.sha256).first() or found.frame
    own = trait(anchor)
    fits = [(lender(own, trait(frame)), frame) for frame in frames]
    fits.sort(key=lambda one: one[0].apart)
    return [
        LenderOut(frame=frame_line(frame), description=fit.description, lends=fit.lends)
        for fit, frame in fits
    ]


@router.post("/scenes/{scene_id}/loans", response={200: LentOut, 422: Problem})
def loan(request: HttpRequest, scene_id: str, given: Lending) -> LentOut:
    """Align a frame of the same outing to a scene. 422 with a sentence that names it where it does not fit."""
    found = owned(request, scene_id)
    document = read_document(found, given.document)
    _, source = frame_and_source(request, found, document, given.frame)
    with services.lane().wanted(Rank.MEASURE):
        *taken, other = input_frames([*document.views, source], services.quick_source)
        shown = services.development(document.model_copy(update={"loans": [], "sky": None}))
        line = lend(document, taken, shown.under, other, services.engine())
        latch = where_wanted(shown.ground, shown.reader, line.ev, Path(source.path).stem)
        line.latch = latch.id
    return LentOut(source=source, loan=line, latch=latch)
