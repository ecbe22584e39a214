"""A scene: opened, saved, undone; its kept states."""

from datetime import datetime
from typing import Any

import numpy as np
from django.db import transaction
from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from sunlatch.binding import map_of
from sunlatch.errors import DocumentError
from sunlatch.geometry import described
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import Source, parse_scene
from sunlatch.parameters import Point

from .. import services
from ..models import Frame, Keep, Revision, Scene
from ..sittings import changes_between, last_sitting
from .gather import of_this_outing

router = Router(tags=["scenes"])


class KeepOut(Schema):
    """A named state."""

    id: str
    name: str
    number: int
    made: datetime


class RevisionOut(Schema):
    """A scene at one revision, with what undo and redo would do."""

    number: int
    key: str
    """Names the attempt that saved it."""
    document: Document
    undo: str | None
    redo: str | None


class MeshOut(Schema):
    """Places of the frame (x, y, x, y …, row by row: float32, base64) at nodes of the turned plane, `columns` to a row, one before
    `start` and then every `step` long edges; between them lie cubics (sunlatch/geometry/nodes.py)."""

    start: list[float]
    step: float
    columns: int
    source: str


class MapOut(Schema):
    """The coordinate map (sunlatch/geometry/map.py), for what is drawn over the picture. box: the
    developed picture on the turned plane, canvas: all that the map shows; left, top, right, bottom in
    long edges. mesh: where it comes from. size: developed px. kept: what Trim keeps, where
    the picture is shown untrimmed."""

    mesh: MeshOut
    box: list[float]
    canvas: list[float]
    long_edge: int
    size: list[int]
    held_back: dict[str, float] = {}
    """Lines of Reshape and Nudge of which only so much is done: more would fold the picture."""
    kept: list[float] = []


class SourceOut(Schema):
    """A frame that a scene is made of. id: in the document."""

    id: str
    name: str
    frame: str | None


class LastTimeOut(Schema):
    """When a scene was last worked on, what that changed, and the revision it began with."""

    ended: datetime
    before: int
    changes: list[str]


class SceneOut(Schema):
    """A scene opened."""

    id: str
    name: str
    outing: str
    outing_name: str
    frame: dict[str, Any]
    frame_name: str
    sources: list[SourceOut]
    """The frames it is made of, in the order they were taken."""
    map: MapOut
    read_at: dict[str, float]
    """What a latch made now remembers."""
    as_shot: dict[str, float]
    revision: RevisionOut
    keeps: list[KeepOut]
    last_time: LastTimeOut | None
    stopped: Point | None
    """What made one stop, in source coordinates, where the scene is made of one frame."""


class Save(Schema):
    """A new state made from revision `base`; `words` say what was done."""

    base: int
    document: dict[str, Any]
    words: str = Field(min_length=1, max_length=200)
    key: str = Field(default="", max_length=64)
    """Names the attempt, so that one sent again is known."""


class Base(Schema):
    """The revision the face believes to be in force."""

    base: int


class Asked(Schema):
    """A document to find something out about."""

    document: dict[str, Any]


def owned(request: HttpRequest, scene_id: str) -> Scene:
    """A scene of the signed-in photographer's, or 404."""
    scenes = Scene.objects.of(request.user).select_related("frame__outing")
    found: Scene = get_object_or_404(scenes, pk=scene_id)
    return found


def revision_out(scene: Scene) -> RevisionOut:
    """The revision in force."""
    head = scene.revisions.get(number=scene.head)
    after = scene.revisions.filter(parent=scene.head).order_by("-number").first()
    return RevisionOut(
        number=head.number,
        key=head.key,
        document=parse_scene(head.document),
        undo=head.words if head.parent is not None else None,
        redo=after.words if after is not None else None,
    )


def keep_out(keep: Keep) -> KeepOut:
    """A kept state for the face."""
    return KeepOut(id=keep.id, name=keep.name, number=keep.number, made=keep.created)


def keeps_of(scene: Scene) -> list[KeepOut]:
    """The kept states of a scene, the oldest first."""
    return [keep_out(k) for k in Keep.objects.filter(scene=scene).order_by("created")]


def read_document(scene: Scene, data: dict[str, Any]) -> Document:
    """A document sent along with a request. Raises DocumentError for a bad one."""
    document = parse_scene(data)
    if document.base.members or document.layer_sources:
        return of_this_outing(document, scene.frame, scene)
    if document.sources[0].sha256 != scene.frame.sha256:
        raise DocumentError("this frame is not the scene's", "sources[0].sha256")
    return document


def frame_and_source(
    request: HttpRequest, scene: Scene, document: Document, frame_id: str
) -> tuple[Frame, Source]:
    """A frame of the scene's outing that something is brought from, and it as a source of the document, its own where it is
    one already."""
    frame = get_object_or_404(Frame.objects.of(request.user), pk=frame_id, outing=scene.frame.outing)
    known = {s.sha256: s for s in document.sources}
    return frame, known.get(frame.sha256) or Source(sha256=frame.sha256, path=frame.name)


def _sources(scene: Scene, document: Document) -> list[SourceOut]:
    asked = [source.sha256 for source in document.sources]
    frames = {f.sha256: f for f in Frame.objects.filter(outing=scene.frame.outing, sha256__in=asked)}
    return [
        SourceOut(id=s.id, name=s.path or s.sha256[:8], frame=f.id if (f := frames.get(s.sha256)) else None)
        for s in document.sources
    ]


def _last_time(scene: Scene) -> LastTimeOut | None:
    sitting = last_sitting(scene)
    if sitting is None:
        return None
    before, after = sitting
    sentences = changes_between(before, after)
    return LastTimeOut(ended=after.created, before=before.number, changes=sentences) if sentences else None


def _stopped(frame: Frame, document: Document) -> Point | None:
    """What made one stop, as a place of the frame the scene is made of."""
    if frame.stopped is None or document.base.members:
        return None
    fresh = map_of(Document(sources=document.sources[:1]), frame.facts)
    w, h = fresh.developed_size
    at = np.array([frame.stopped["x"] * w, frame.stopped["y"] * h]) / fresh.long_edge
    x, y = fresh.to_source(at)
    return Point(x=float(x), y=float(y))


@router.get("/scenes/{scene_id}", response=SceneOut)
def scene(request: HttpRequest, scene_id: str) -> SceneOut:
    """Open a scene."""
    found = owned(request, scene_id)
    revision = revision_out(found)
    # how it lies and in what light depends on neither: what of these cannot be shown is said with the picture
    plain = revision.document.model_copy(update={"repairs": [], "loans": [], "sky": None})
    development = services.development(plain)
    services.find_sky_later(revision.document, development.raster)
    shot = development.raster.info.colour.as_shot()
    return SceneOut(
        id=found.id,
        name=found.name,
        outing=found.frame.outing.id,
        outing_name=found.frame.outing.name,
        frame=found.frame.info,
        frame_name=found.frame.name,
        sources=_sources(found, revision.document),
        map=MapOut(**described(development.geometry)),
        read_at=development.ground.read_at().model_dump(),
        as_shot={"kelvin": shot.kelvin, "tint": shot.duv * 1000},
        revision=revision,
        keeps=keeps_of(found),
        last_time=_last_time(found),
        stopped=_stopped(found.frame, revision.document),
    )


@router.post("/scenes/{scene_id}/revisions", response={200: RevisionOut, 409: RevisionOut})
def save(request: HttpRequest, scene_id: str, given: Save):  # type: ignore[no-untyped-def]
    """Save a new state. If somebody saved since `base`, 409 with the revision in force. One sent again under the
    same `key`, because the answer was lost, is saved once."""
    found = owned(request, scene_id)
    read = read_document(found, given.document)
    _ = map_of(read, found.frame.facts).box  # a lens or turn that cannot be is refused here
    # nothing slow while others wait for the database: all that is left is to compare and to write
    document = services.put_away(read).model_dump(mode="json")
    with transaction.atomic():
        found = owned(request, scene_id)
        held = found.revisions.filter(key=given.key).first() if given.key else None
        if held is not None and held.number == found.head:
            return 200, revision_out(found)
        if found.head != given.base:
            return 409, revision_out(found)
        last = found.revisions.order_by("-number").values_list("number", flat=True)[0]
        Revision.objects.create(
            scene=found,
            number=last + 1,
            parent=found.head,
            words=given.words,
            document=document,
            key=given.key,
        )
        found.head = last + 1
        found.save(update_fields=["head"])
        return 200, revision_out(found)


def _step(request: HttpRequest, scene_id: str, base: int, back: bool):  # type: ignore[no-untyped-def]
    with transaction.atomic():
        found = owned(request, scene_id)
        if found.head != base:
            return 409, revision_out(found)
        if back:
            target = found.revisions.get(number=found.head).parent
        else:
            after = found.revisions.filter(parent=found.head).order_by("-number").first()
            target = after.number if after is not None else None
        if target is not None:
            found.head = target
            found.save(update_fields=["head"])
        return 200, revision_out(found)


@router.post("/scenes/{scene_id}/undo", response={200: RevisionOut, 409: RevisionOut})
def undo(request: HttpRequest, scene_id: str, given: Base):  # type: ignore[no-untyped-def]
    """Go back to the state before."""
    return _step(request, scene_id, given.base, back=True)


@router.post("/scenes/{scene_id}/redo", response={200: RevisionOut, 409: RevisionOut})
def redo(request: HttpRequest, scene_id: str, given: Base):  # type: ignore[no-untyped-def]
    """Go forward again, along what was done last."""
    return _step(request, scene_id, given.base, back=False)
