"""A scene at work: its revisions, its pictures, masks and meters, saved or not yet saved."""

import json
from typing import Any, Literal

import cv2
import numpy as np
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from sunlatch.errors import DocumentError
from sunlatch.geometry import View, described
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import Source, parse_scene
from sunlatch.meters import (
    FINGERTIP,
    Ladder,
    Spot,
    light_at,
    limits_picture,
    read_ladder,
    read_spot,
    specks_picture,
    squinted,
    zone_of,
)
from sunlatch.render import map_of, picture_8

from .. import darkroom
from ..models import Frame, Keep, Revision, Scene
from ..turns import Rank
from .gather import encode_jpeg, of_this_outing

router = Router(tags=["light"])


class KeepOut(Schema):
    """A named state."""

    id: str
    name: str
    number: int


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


class NewKeep(Schema):
    """A name for the present state."""

    name: str = Field(min_length=1, max_length=120)


class Look(Schema):
    """What to show: a document not yet saved, or a revision (0 = the untouched frame)."""

    document: dict[str, Any] | None = None
    revision: int | None = None
    region: list[float] = Field(default=[0, 0, 1, 1], min_length=4, max_length=4)
    width: int = Field(ge=1, le=6000)
    height: int = Field(ge=1, le=6000)
    full: bool = True
    view: str = Field(default="", max_length=64)
    number: int = 0
    untrimmed: bool = False
    """With what Trim cuts away."""
    aside: str = Field(default="", max_length=64)
    """A repair that is being carried: what is learned of the whole picture stays what it was without it."""


class PictureLook(Look):
    """The rendered picture. push: colour this many times as vivid, to see casts. show: "limits", what
    prints at nothing or at full; "squint", through nearly closed eyes, with and
    without colour; "specks", with local contrast raised until they show."""

    push: float = Field(default=1.0, ge=0, le=12)
    show: Literal["picture", "limits", "squint", "squint_grey", "specks"] = "picture"


class MaskLook(Look):
    """A latch to show over the same region, or one of its ingredients alone."""

    latch: str
    ingredient: str = ""


class ZoneLook(Look):
    """Where the n-th thing drawn for a move acts, over the same region."""

    move: str
    n: int = Field(ge=0)


class Asked(Schema):
    """A document to find something out about."""

    document: dict[str, Any]


class Measure(Schema):
    """A document to measure, and which latches are the wings."""

    document: dict[str, Any]
    wings: list[str] = []
    view: str = Field(default="", max_length=64)
    number: int = 0


class Place(Asked):
    """A place in the developed picture, fractions of its width and height."""

    x: float
    y: float


class Patch(Place):
    """A round patch there, as wide as a fingertip on the screen. across: long edges of the picture."""

    across: float | None = Field(default=None, gt=0, le=0.2)

    @property
    def wide(self) -> float:
        """How wide it is, where nothing was said too."""
        return self.across or FINGERTIP


class LightOut(Schema):
    """A light: kelvin, and tint in Duv × 1000."""

    kelvin: float
    tint: float


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


def read_document(scene: Scene, data: dict[str, Any]) -> Document:
    """A document sent along with a request. Raises DocumentError for a bad one."""
    document = parse_scene(data)
    if document.base.kind != "frame" or document.brought:
        return of_this_outing(document, scene.frame)
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


def looked_at(scene: Scene, look: Look) -> Document:
    """The document a look asks for."""
    if look.document is not None:
        return read_document(scene, look.document)
    number = look.revision if look.revision is not None else scene.head
    if number == 0:
        return darkroom.bare(parse_scene(scene.revisions.get(number=scene.head).document))
    return parse_scene(get_object_or_404(Revision, scene=scene, number=number).document)


def view_of(look: Look) -> View:
    """The view a look asks for. Raises DocumentError when it lies outside the picture."""
    x0, y0, x1, y1 = look.region
    if not (0 <= x0 < x1 <= 1.000001 and 0 <= y0 < y1 <= 1.000001):
        raise DocumentError("the region does not lie inside the picture", "region")
    return View((x0, y0, x1, y1), (look.width, look.height))


def encode_png(picture: Any) -> bytes:
    """Grey (h, w) or BGR (h, w, 3) uint8 to PNG, quickly rather than small."""
    return bytes(cv2.imencode(".png", picture, [cv2.IMWRITE_PNG_COMPRESSION, 1])[1])


def _sources(scene: Scene, document: Document) -> list[SourceOut]:
    asked = [source.sha256 for source in document.sources]
    frames = {f.sha256: f for f in Frame.everything.filter(outing=scene.frame.outing, sha256__in=asked)}
    return [
        SourceOut(id=s.id, name=s.path or s.sha256[:8], frame=f.id if (f := frames.get(s.sha256)) else None)
        for s in document.sources
    ]


@router.get("/scenes/{scene_id}", response=SceneOut)
def scene(request: HttpRequest, scene_id: str) -> SceneOut:
    """Open a scene."""
    found = owned(request, scene_id)
    revision = revision_out(found)
    development = darkroom.development(found.frame, revision.document)
    darkroom.find_sky_later(revision.document, development.raster)
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
        keeps=[KeepOut(id=k.id, name=k.name, number=k.number) for k in found.keeps.order_by("created")],
    )


@router.post("/scenes/{scene_id}/revisions", response={200: RevisionOut, 409: RevisionOut})
def save(request: HttpRequest, scene_id: str, given: Save):  # type: ignore[no-untyped-def]
    """Save a new state. If somebody saved since `base`, 409 with the revision in force. One sent again under the
    same `key`, because the answer was lost, is saved once."""
    found = owned(request, scene_id)
    read = read_document(found, given.document)
    _ = map_of(read, found.frame.facts).box  # a lens or turn that cannot be is refused here
    # nothing slow while others wait for the database: all that is left is to compare and to write
    document = darkroom.put_away(found.frame, read).model_dump(mode="json")
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


@router.post("/scenes/{scene_id}/keeps", response=KeepOut)
def keep(request: HttpRequest, scene_id: str, given: NewKeep) -> KeepOut:
    """Name the present state."""
    found = owned(request, scene_id)
    made = Keep.objects.create(scene=found, number=found.head, name=given.name)
    return KeepOut(id=made.id, name=made.name, number=made.number)


@router.post("/scenes/{scene_id}/picture")
def picture(request: HttpRequest, scene_id: str, look: PictureLook) -> HttpResponse:
    """The rendered picture: while dragging JPEG, at rest lossless PNG, so that the screen shows what
    the file will hold. X-Map holds the map it was drawn with (MapOut). 204 when a newer request for
    the same view overtook it."""
    found = owned(request, scene_id)
    view, document = view_of(look), looked_at(found, look)

    def work() -> tuple[bytes, bool, str]:
        development = darkroom.development(found.frame, document, aside=look.aside)
        kept = development.geometry.box
        if look.untrimmed:
            development = darkroom.development(found.frame, document, untrimmed=True, aside=look.aside)
        development.push = look.push
        if look.show == "limits":
            shown = limits_picture(development, view)
        elif look.show == "specks":
            shown = specks_picture(development, view)
        elif look.show in ("squint", "squint_grey"):
            shown = squinted(development, view, look.show == "squint_grey")
        else:
            shown = picture_8(development, view, look.full)
        encoded = encode_png(shown[..., ::-1]) if look.full else encode_jpeg(shown, 88)
        mapped = described(development.geometry) | {"kept": [kept.x0, kept.y0, kept.x1, kept.y1]}
        return encoded, development.raster.complete, json.dumps(mapped, separators=(",", ":"))

    rank = Rank.LOOK if look.full else Rank.DRAG
    with darkroom.lane().asked(f"{found.id}/{look.view}", look.number, rank):
        darkroom.found(darkroom.development(found.frame, document, aside=look.aside), document.in_use())
        data, whole, mapped = darkroom.lane().run(work)
    response = HttpResponse(data, content_type="image/png" if look.full else "image/jpeg")
    response["X-Frame"] = "whole" if whole else "first"
    response["X-Map"] = mapped
    return response


@router.post("/scenes/{scene_id}/mask")
def mask(request: HttpRequest, scene_id: str, look: MaskLook) -> HttpResponse:
    """A latch as an 8-bit grey PNG."""
    found = owned(request, scene_id)
    view, document = view_of(look), looked_at(found, look)
    latch = document.latch(look.latch)
    if latch is None:
        raise DocumentError(f"there is no latch {look.latch!r}", "latch")

    def work() -> bytes:
        development = darkroom.development(found.frame, document, look.untrimmed)
        if look.ingredient:
            held = development.latches.term(latch, look.ingredient, view)
        else:
            held = development.latches.mask(latch, view)
        return encode_png(np.rint(held * 255).astype(np.uint8))

    with darkroom.lane().asked(f"{found.id}/{look.view}", look.number, Rank.LOOK):
        darkroom.found(darkroom.development(found.frame, document), [latch])
        data = darkroom.lane().run(work)
    return HttpResponse(data, content_type="image/png")


@router.post("/scenes/{scene_id}/zone")
def where_drawn_acts(request: HttpRequest, scene_id: str, look: ZoneLook) -> HttpResponse:
    """Where a rung, or a colour pointed at, acts, as an 8-bit grey PNG."""
    found = owned(request, scene_id)
    view, document = view_of(look), looked_at(found, look)

    def work() -> bytes:
        development = darkroom.development(found.frame, document, look.untrimmed)
        held = zone_of(development, look.move, look.n, view)
        return encode_png(np.rint(held * 255).astype(np.uint8))

    with darkroom.lane().asked(f"{found.id}/{look.view}", look.number, Rank.LOOK):
        darkroom.found(darkroom.development(found.frame, document), document.in_use())
        data = darkroom.lane().run(work)
    return HttpResponse(data, content_type="image/png")


@router.post("/scenes/{scene_id}/meters", response=Ladder)
def meters(request: HttpRequest, scene_id: str, given: Measure):  # type: ignore[no-untyped-def]
    """The ladder. 204 when overtaken."""
    found = owned(request, scene_id)
    document = read_document(found, given.document)
    wings = [w for w in (document.latch(key) for key in given.wings) if w is not None]

    def work() -> Ladder:
        development = darkroom.development(found.frame, document)
        return read_ladder(development, wings)

    with darkroom.lane().asked(f"{found.id}/meters/{given.view}", given.number):
        darkroom.found(darkroom.development(found.frame, document), wings + document.in_use())
        return darkroom.lane().run(work)


@router.post("/scenes/{scene_id}/spot", response=Spot)
def spot(request: HttpRequest, scene_id: str, place: Place) -> Spot:
    """The value at a place."""
    found = owned(request, scene_id)
    document = read_document(found, place.document)
    return read_spot(darkroom.development(found.frame, document), place.x, place.y)


@router.post("/scenes/{scene_id}/neutral", response=LightOut)
def neutral(request: HttpRequest, scene_id: str, place: Place) -> LightOut:
    """The light that makes a place neutral."""
    found = owned(request, scene_id)
    document = read_document(found, place.document)
    light = light_at(darkroom.development(found.frame, document), place.x, place.y)
    return LightOut(kelvin=light.kelvin, tint=light.duv * 1000)
