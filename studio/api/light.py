"""A scene at work: its pictures, masks and meters, saved or not yet saved."""

import json
from typing import Any, Literal

import numpy as np
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from sunlatch.errors import DocumentError
from sunlatch.geometry import View, described
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import doubts_shown, parse_scene
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
from sunlatch.parameters import Point
from sunlatch.proof import laid_out, on_screen, printing_of, sharpness_of
from sunlatch.render import Development, Output, picture_8

from .. import services
from ..encoding import encode_jpeg, encode_png
from ..models import Revision, Scene
from ..slots import Rank
from .scenes import Asked, owned, read_document

router = Router(tags=["light"])


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
    preview_edit: str = Field(default="", max_length=64)
    """A repair that is being carried: what is learned of the whole picture stays what it was without it."""


class PictureLook(Look):
    """The rendered picture. push: colour this many times as vivid, to see casts. show: "limits", what
    prints at nothing or at full; "squint", through nearly closed eyes, with and
    without colour; "specks", with local contrast raised until they show; "grey", lightness alone."""

    push: float = Field(default=1.0, ge=0, le=12)
    show: Literal["picture", "limits", "squint", "squint_grey", "specks", "grey"] = "picture"
    proof: Literal["", "plain", "look", "gamut"] = ""
    """On its paper: as it is without the paper's profile, as it will look, or with what the paper cannot hold marked; "" for the
    scene alone. paper_white: paper and ink as light as they are, not as the screen's white and black."""
    paper_white: bool = True


class MaskLook(Look):
    """A latch to show over the same region, or one of its ingredients alone."""

    latch: str
    ingredient: str = ""


class ZoneLook(Look):
    """Where the n-th thing drawn for a move acts, over the same region."""

    move: str
    n: int = Field(ge=0)


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


class Watched(Asked):
    """Places in the developed picture, fractions of its width and height; outside of it there is nothing to read."""

    places: list[Point] = Field(max_length=12)


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


def looked_at(scene: Scene, look: Look) -> Document:
    """The document a look asks for."""
    if look.document is not None:
        return read_document(scene, look.document)
    number = look.revision if look.revision is not None else scene.head
    if number == 0:
        return services.bare(parse_scene(scene.revisions.get(number=scene.head).document))
    return parse_scene(get_object_or_404(Revision, scene=scene, number=number).document)


def view_of(look: Look) -> View:
    """The view a look asks for. Raises DocumentError when it lies outside the picture."""
    x0, y0, x1, y1 = look.region
    if not (0 <= x0 < x1 <= 1.000001 and 0 <= y0 < y1 <= 1.000001):
        raise DocumentError("the region does not lie inside the picture", "region")
    return View((x0, y0, x1, y1), (look.width, look.height))


def on_paper(development: Development, document: Document, look: PictureLook) -> Output:
    """What the screen shows of a print, at the size it is asked for: sharpness is seen from the print's own px on."""
    paper = document.on_paper
    printing = printing_of(paper, services.blobs()) if look.proof != "plain" else None
    size = development.geometry.developed_size
    dense = look.width / ((look.region[2] - look.region[0]) * size[0])
    sharpness = sharpness_of(laid_out(paper.params, size)) if paper and look.full and dense > 0.99 else None
    return on_screen(
        printing, sharpness, white=look.paper_white, black=look.paper_white, missed=look.proof == "gamut"
    )


@router.post("/scenes/{scene_id}/picture")
def picture(request: HttpRequest, scene_id: str, look: PictureLook) -> HttpResponse:
    """The rendered picture: while dragging JPEG, at rest lossless PNG, so that the screen shows what
    the file will hold. X-Map holds the map it was drawn with (MapOut). 204 when a newer request for
    the same view overtook it."""
    found = owned(request, scene_id)
    view, document = view_of(look), looked_at(found, look)
    if look.proof:
        document = document.for_paper(document.on_paper)

    def work(development: Development) -> tuple[bytes, bool, str]:
        development.push = look.push
        if look.show == "limits":
            shown = limits_picture(development, view)
        elif look.show == "specks":
            shown = specks_picture(development, view)
        elif look.show in ("squint", "squint_grey"):
            shown = squinted(development, view, look.show == "squint_grey")
        elif look.show == "grey":
            shown = np.repeat(picture_8(development, view, look.full, Output("grey", 8)), 3, axis=2)
        elif look.proof:
            shown = picture_8(development, view, look.full, on_paper(development, document, look))
        else:
            shown = picture_8(development, view, look.full)
        encoded = encode_png(shown) if look.full else encode_jpeg(shown, 88)
        kept = development.ground.trimmed.box
        mapped = described(development.geometry) | {"kept": [kept.x0, kept.y0, kept.x1, kept.y1]}
        return encoded, development.raster.complete, json.dumps(mapped, separators=(",", ":"))

    rank = Rank.LOOK if look.full else Rank.DRAG
    with services.lane().asked(f"{found.id}/{look.view}", look.number, rank):
        development = services.development(document, look.untrimmed, look.preview_edit)
        services.found(development, document.in_use())
        data, whole, mapped = services.lane().run(lambda: work(development))
    response = HttpResponse(data, content_type="image/png" if look.full else "image/jpeg")
    response["X-Frame"] = "whole" if whole else "first"
    response["X-Map"] = mapped
    return response


@router.post("/scenes/{scene_id}/mask")
def mask(request: HttpRequest, scene_id: str, look: MaskLook) -> HttpResponse:
    """A latch as an 8-bit grey PNG; what is in doubt is shown as it would be held."""
    found = owned(request, scene_id)
    view, document = view_of(look), doubts_shown(looked_at(found, look))
    latch = document.latch(look.latch)
    if latch is None:
        raise DocumentError(f"there is no latch {look.latch!r}", "latch")

    def work(development: Development) -> bytes:
        if look.ingredient:
            held = development.latches.term(latch, look.ingredient, view)
        else:
            held = development.latches.mask(latch, view)
        return encode_png(np.rint(held * 255).astype(np.uint8))

    with services.lane().asked(f"{found.id}/{look.view}", look.number, Rank.LOOK):
        development = services.found(services.development(document, look.untrimmed), [latch])
        data = services.lane().run(lambda: work(development))
    return HttpResponse(data, content_type="image/png")


@router.post("/scenes/{scene_id}/zone")
def where_drawn_acts(request: HttpRequest, scene_id: str, look: ZoneLook) -> HttpResponse:
    """Where a rung, or a colour pointed at, acts, as an 8-bit grey PNG."""
    found = owned(request, scene_id)
    view, document = view_of(look), looked_at(found, look)

    def work(development: Development) -> bytes:
        held = zone_of(development, look.move, look.n, view)
        return encode_png(np.rint(held * 255).astype(np.uint8))

    with services.lane().asked(f"{found.id}/{look.view}", look.number, Rank.LOOK):
        development = services.development(document, look.untrimmed)
        services.found(development, document.in_use())
        data = services.lane().run(lambda: work(development))
    return HttpResponse(data, content_type="image/png")


@router.post("/scenes/{scene_id}/meters", response=Ladder)
def meters(request: HttpRequest, scene_id: str, given: Measure):  # type: ignore[no-untyped-def]
    """The ladder. 204 when overtaken."""
    found = owned(request, scene_id)
    document = read_document(found, given.document)
    wings = [w for w in (document.latch(key) for key in given.wings) if w is not None]

    with services.lane().asked(f"{found.id}/meters/{given.view}", given.number):
        development = services.found(services.development(document), wings + document.in_use())
        return services.lane().run(lambda: read_ladder(development, wings))


@router.post("/scenes/{scene_id}/spot", response=Spot)
def spot(request: HttpRequest, scene_id: str, place: Place) -> Spot:
    """The value at a place."""
    found = owned(request, scene_id)
    document = read_document(found, place.document)
    return read_spot(services.development(document), place.x, place.y)


@router.post("/scenes/{scene_id}/watched", response=list[Spot | None])
def watched(request: HttpRequest, scene_id: str, given: Watched) -> list[Spot | None]:
    """The values at places that are watched; null where one lies outside the picture."""
    found = owned(request, scene_id)
    development = services.development(read_document(found, given.document))
    inside = [0 <= p.x <= 1 and 0 <= p.y <= 1 for p in given.places]
    return [
        read_spot(development, p.x, p.y) if i else None for p, i in zip(given.places, inside, strict=True)
    ]


@router.post("/scenes/{scene_id}/neutral", response=LightOut)
def neutral(request: HttpRequest, scene_id: str, place: Place) -> LightOut:
    """The light that makes a place neutral."""
    found = owned(request, scene_id)
    document = read_document(found, place.document)
    light = light_at(services.development(document), place.x, place.y)
    return LightOut(kelvin=light.kelvin, tint=light.duv * 1000)
