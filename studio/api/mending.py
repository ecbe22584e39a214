"""What is taken out of a scene: what a repair needs to know is found here, and goes into the document from there."""

import base64
import uuid
from collections.abc import Callable
from contextlib import AbstractContextManager
from functools import partial
from typing import Literal, TypeVar

import cv2
import numpy as np
from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from sunlatch.errors import DocumentError, MendError
from sunlatch.frame import per_of
from sunlatch.geometry import View
from sunlatch.ledger import (
    REPAIRS_MOST,
    Area,
    CloneRepair,
    HealRepair,
    RegrowRepair,
    Speck,
    SpecksRepair,
    Take,
    WireRepair,
)
from sunlatch.ledger import Scene as Document
from sunlatch.mend import (
    checked,
    clone_of,
    find_specks,
    heal_of,
    reach_of,
    regrow_of,
    serves,
    specks_of,
    spot_of,
    wire_of,
)
from sunlatch.parameters import Point
from sunlatch.render import Development, area_of, picture_8
from sunlatch.running.progress import phase

from .. import services
from ..encoding import encode_jpeg
from ..models import Scene
from ..progress import known_as, share_of
from ..slots import Rank
from .people import Problem
from .scenes import Asked, owned, read_document

router = Router(tags=["mend"])
Result = TypeVar("Result")
CAMERA = ("maker", "model", "width", "height")
"""What must be alike for specks to lie at the same places."""
SMALL = 300
"""Long edge, px, of the picture of a proposal."""
MASK = 2400
"""Long edge, px, at which a latch is taken for an area."""


class Mending(Asked):
    """A document to mend. work: a name by which one can ask how far it is."""

    work: str | None = Field(default=None, max_length=64)


class Spotted(Mending):
    """A place pointed at, in source coordinates."""

    x: float
    y: float
    radius: float = Field(gt=0, le=0.1)


class Wired(Mending):
    """Places along a wire, in source coordinates."""

    points: list[Point] = Field(min_length=1, max_length=60)


class Stroked(Mending):
    """A place to be healed or cloned over. take: from where, if that was said; near: from where it was mended so far, kept as
    long as it serves."""

    kind: Literal["heal", "clone"] = "heal"
    area: Area
    take: Take | None = None
    near: Take | None = None


class Outlined(Mending):
    """A place to be regrown: an area, a latch, or (corners) all that shows nothing; source: what it may be grown from, and spared: what not, areas or latches;
    seeds: one for each proposal."""

    area: Area | None = None
    latch: str = ""
    corners: bool = False
    source: Area | None = None
    source_latch: str = ""
    spared: Area | None = None
    spared_latch: str = ""
    seeds: list[int] = Field(min_length=1, max_length=6)


class Regrown(Schema):
    """A repair, and a small picture of its place as it would be, as a data address."""

    repair: RegrowRepair
    picture: str


def patiently() -> AbstractContextManager[None]:
    """Inside, pictures go on, and there is as much time as a repair may take."""
    return services.lane().wanted(Rank.MEASURE, seconds=settings.MEND_SECONDS)


def on_light(
    request: HttpRequest, scene_id: str, given: Mending, work: Callable[[Document, Development], Result]
) -> Result:
    """Work on a scene as it stands, in its turn."""
    found: Scene = owned(request, scene_id)
    document = read_document(found, given.document)
    with patiently(), known_as(given.work):
        return services.lane().run(lambda: work(document, services.development(document)))


@router.post("/scenes/{scene_id}/mend/specks", response=SpecksRepair | None)
def specks(request: HttpRequest, scene_id: str, given: Mending) -> SpecksRepair | None:
    """Every speck on the frame that is not mended yet, as a line; null where there are none."""

    def work(_: Document, shown: Development) -> SpecksRepair | None:
        found = find_specks(shown.raster)
        return specks_of(shown.raster, found) if found else None

    return on_light(request, scene_id, given, work)


@router.post("/scenes/{scene_id}/mend/known", response=SpecksRepair | None)
def known(request: HttpRequest, scene_id: str, given: Mending) -> SpecksRepair | None:
    """Specks that other scenes of the outing have mended on frames of the same camera, and this one has not, as a line; null
    where there are none."""
    found = owned(request, scene_id)
    spots = [
        s for s in _of_this_camera(request, found)
        if not any(_same(s, own) for line in read_document(found, given.document).repairs if line.kind == "specks"
                   for own in line.spots)
    ]  # fmt: skip
    if not spots:
        return None

    def work(_: Document, shown: Development) -> SpecksRepair:
        per = shown.raster.info.long_edge
        made = [spot_of(shown.raster, s.x * per, s.y * per, s.radius * per) for s in spots]
        return SpecksRepair(id=str(uuid.uuid4()), name="known of this camera", spots=made)

    return on_light(request, scene_id, given, work)


def _same(one: Speck, other: Speck) -> bool:
    return float(np.hypot(one.x - other.x, one.y - other.y)) < max(one.radius, other.radius)


def _of_this_camera(request: HttpRequest, scene: Scene) -> list[Speck]:
    """Specks mended in other scenes of the outing whose frames are of the same camera; each once."""
    camera = [scene.frame.info.get(key) for key in CAMERA]
    out: list[Speck] = []
    others = (
        Scene.objects.of(request.user).filter(frame__outing=scene.frame.outing).exclude(frame=scene.frame)
    )
    for other in others.select_related("frame"):
        if [other.frame.info.get(key) for key in CAMERA] != camera:
            continue
        document = other.revisions.get(number=other.head).document
        if document.get("base", {}).get("kind", "frame") != "frame":
            continue
        for line in document.get("repairs", []):
            if line.get("kind") == "specks" and line.get("on", True):
                held = [Speck.model_validate(s) for s in line["spots"]]
                out += [s for s in held if s.on and not any(_same(s, o) for o in out)]
    return out[:REPAIRS_MOST]


@router.post("/scenes/{scene_id}/mend/spot", response={200: Speck, 422: Problem})
def spot(request: HttpRequest, scene_id: str, given: Spotted) -> Speck:
    """A speck that was pointed at, with where it is mended from."""

    def work(_: Document, shown: Development) -> Speck:
        raster = shown.raster
        per = raster.info.long_edge
        return spot_of(raster, given.x * per, given.y * per, given.radius * per)

    return on_light(request, scene_id, given, work)


@router.post("/scenes/{scene_id}/mend/wire", response={200: WireRepair, 422: Problem})
def wire(request: HttpRequest, scene_id: str, given: Wired) -> WireRepair:
    """A thin line through places, traced."""
    points = np.array([[p.x, p.y] for p in given.points])
    return on_light(request, scene_id, given, lambda _, shown: wire_of(shown.raster, points))


@router.post("/scenes/{scene_id}/mend/stroke", response={200: HealRepair | CloneRepair, 422: Problem})
def stroke(request: HttpRequest, scene_id: str, given: Stroked) -> HealRepair | CloneRepair:
    """Heal or Clone of a place, its source found where none was named."""

    def work(_: Document, shown: Development) -> HealRepair | CloneRepair:
        raster, blobs = shown.raster, services.blobs()
        take = given.take
        if take is not None:
            checked(raster, given.area, take, blobs)
        elif given.near is not None and serves(raster, given.area, given.near, blobs):
            take = given.near
        return (heal_of if given.kind == "heal" else clone_of)(raster, given.area, blobs, take)

    return on_light(request, scene_id, given, work)


@router.post("/scenes/{scene_id}/mend/regrow", response={200: list[Regrown], 422: Problem})
def regrow(request: HttpRequest, scene_id: str, given: Outlined) -> list[Regrown]:
    """Proposals for a place, each with a small picture."""

    def work(document: Document, shown: Development) -> list[Regrown]:
        area, source, spared = (
            known or (_latched(document, shown, latch) if latch else None)
            for known, latch in (
                (given.area, given.latch),
                (given.source, given.source_latch),
                (given.spared, given.spared_latch),
            )
        )
        if area is None and given.corners:
            area = _empty(shown)
        if area is None:
            raise MendError("Say what should go: outline it, or choose a latch.")
        beyond = shown.ground.shows_edges()
        grow = partial(regrow_of, shown.raster, area, services.blobs(), source, beyond=beyond, spared=spared)
        out = []
        for n, seed in enumerate(given.seeds):
            with phase(n / len(given.seeds), (n + 1) / len(given.seeds)):
                made = grow(seed, far=n % 3 == 2)
            after = document.model_copy(update={"repairs": [*document.repairs, made]})
            picture = _pictured(shown.again(after), area)
            out.append(Regrown(repair=made, picture=picture))
        return out

    return on_light(request, scene_id, given, work)


@router.get("/work/{name}", response=float | None)
def work(request: HttpRequest, name: str) -> float | None:
    """How much of some work is done, 0–1; null where that is not known."""
    return share_of(name)


def _latched(document: Document, shown: Development, key: str) -> Area:
    latch = document.latch(key)
    if latch is None:
        raise DocumentError(f"there is no latch {key!r}", "latch")
    return area_of(shown, shown.latches.mask(latch, shown.geometry.fit(MASK)), services.blobs())


def _empty(shown: Development) -> Area:
    """Where a picture shows nothing, and a little of what ends there."""
    view = shown.geometry.fit(MASK)
    beyond = shown.ground.beyond(view)
    if beyond is None or not beyond.any():
        raise MendError("Nothing is empty: the picture reaches into all its corners.")
    wide = cv2.dilate(beyond.astype(np.uint8), np.ones((5, 5), np.uint8))
    return area_of(shown, wide.astype(np.float32), services.blobs())


def _pictured(shown: Development, area: Area) -> str:
    """The place of an area and what is around it, as a JPEG in a data address."""
    raster, geometry = shown.raster, shown.geometry
    per = per_of(raster)
    low, high = reach_of(area, per)
    corners = np.array([[x, y] for x in (low[0], high[0]) for y in (low[1], high[1])]) / per
    at = geometry.to_developed(corners) / [geometry.box.width, geometry.box.height]
    middle, half = (at.min(0) + at.max(0)) / 2, np.maximum((at.max(0) - at.min(0)) * 0.9, 0.02)
    half = np.maximum(half, half.max() * 0.5)
    low, high = np.clip(middle - half, 0, 0.98), np.clip(middle + half, 0.02, 1)
    w, h = geometry.developed_size
    across, down = (high[0] - low[0]) * w, (high[1] - low[1]) * h
    k = min(1.0, SMALL / max(across, down))
    view = View(
        (float(low[0]), float(low[1]), float(high[0]), float(high[1])),
        (max(1, round(across * k)), max(1, round(down * k))),
    )
    data = encode_jpeg(picture_8(shown, view, full=False), 85)
    return "data:image/jpeg;base64," + base64.b64encode(data).decode()
