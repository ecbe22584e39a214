"""What a photographer asks of latches: a colour to sample, and why a place is in."""

from typing import Literal

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from sunlatch.errors import DocumentError
from sunlatch.latch import INGREDIENT_KINDS
from sunlatch.ledger import Latch
from sunlatch.meters import ColourAt, colour_at, fan_rungs, in_doubt, why, why_empty
from sunlatch.render import Development

from .. import services
from .light import Patch
from .scenes import Asked, owned, read_document

router = Router(tags=["latches"])


class PlaceOfLatch(Patch):
    """A place, and the latch it is asked of."""

    latch: str


class WhyOut(Schema):
    """What each ingredient says of a place, by id, and the latch as a whole; 0–1."""

    ingredients: dict[str, float]
    result: float


class OfLatch(Asked):
    """A document, and the latch it is asked of."""

    latch: str


class OfFan(OfLatch):
    """Masks of the Fan, read as a latch reads."""

    leaning: Literal["lights", "darks", "midtones"]
    narrow: list[float] = Field(max_length=24)


class HoldsOut(Schema):
    """Why a latch holds nothing, if it does; what is to be said of its ingredients, by id, and what is to be asked."""

    empty: str
    remarks: dict[str, str]
    asks: dict[str, str]


def asked_of(request: HttpRequest, scene_id: str, asked: OfLatch | PlaceOfLatch) -> tuple[Development, Latch]:
    """The scene developed as the document says, and its latch. Raises DocumentError where there is none."""
    found = owned(request, scene_id)
    document = read_document(found, asked.document)
    latch = document.latch(asked.latch)
    if latch is None:
        raise DocumentError(f"there is no latch {asked.latch!r}", "latch")
    return services.development(document), latch


@router.post("/scenes/{scene_id}/sample", response=ColourAt)
def sample(request: HttpRequest, scene_id: str, place: PlaceOfLatch) -> ColourAt:
    """The colour of the reading picture at a place, as a latch reads it, or (for no latch) as it would now."""
    if not place.latch:
        found = owned(request, scene_id)
        now = services.development(read_document(found, place.document))
        return colour_at(now, now.ground.read_at(), place.x, place.y, place.wide)
    development, latch = asked_of(request, scene_id, place)
    return colour_at(development, latch.read_at, place.x, place.y, place.wide)


@router.post("/scenes/{scene_id}/why", response=WhyOut)
def why_in(request: HttpRequest, scene_id: str, place: PlaceOfLatch) -> WhyOut:
    """Why a place is in a latch, or is not."""
    development, latch = asked_of(request, scene_id, place)
    amounts, result = why(services.found(development, [latch]), latch, place.x, place.y)
    return WhyOut(ingredients=amounts, result=result)


@router.post("/scenes/{scene_id}/holds", response=HoldsOut)
def holds(request: HttpRequest, scene_id: str, asked: OfLatch) -> HoldsOut:
    """Whether a latch holds anything, and what its settings do that one may not expect."""
    development, latch = asked_of(request, scene_id, asked)
    remarks = {}
    for line in latch.ingredients:
        remark = INGREDIENT_KINDS[line.kind].remark
        if line.on and remark is not None and remark(line.params):
            remarks[line.id] = remark(line.params)
    found = services.found(development, [latch])
    return HoldsOut(empty=why_empty(found, latch), remarks=remarks, asks=in_doubt(found, latch))


@router.post("/scenes/{scene_id}/fan", response=list[float])
def fan(request: HttpRequest, scene_id: str, asked: OfFan) -> list[float]:
    """The rung, in stops, at which each mask of the Fan takes half."""
    development, latch = asked_of(request, scene_id, asked)
    return fan_rungs(development, latch.read_at, asked.leaning, [max(n, 1.0) for n in asked.narrow])
