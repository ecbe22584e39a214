"""What a photographer asks of latches: a colour to sample, and why a place is in."""

from django.http import HttpRequest
from ninja import Router, Schema

from sunlatch.errors import DocumentError
from sunlatch.ledger import Latch
from sunlatch.meters import ColourAt, colour_at, why, why_empty
from sunlatch.render import Development

from .. import darkroom
from .light import Place, owned, read_document

router = Router(tags=["latches"])


class PlaceOfLatch(Place):
    """A place, and the latch it is asked of."""

    latch: str


class WhyOut(Schema):
    """What each ingredient says of a place, by id, and the latch as a whole; 0–1."""

    ingredients: dict[str, float]
    result: float


def _asked_of(request: HttpRequest, scene_id: str, place: PlaceOfLatch) -> tuple[Development, Latch]:
    found = owned(request, scene_id)
    document = read_document(found, place.document)
    latch = document.latch(place.latch)
    if latch is None:
        raise DocumentError(f"there is no latch {place.latch!r}", "latch")
    return darkroom.development(found.frame, document), latch


@router.post("/scenes/{scene_id}/sample", response=ColourAt)
def sample(request: HttpRequest, scene_id: str, place: PlaceOfLatch) -> ColourAt:
    """The colour of the reading picture at a place, as a latch reads it."""
    development, latch = _asked_of(request, scene_id, place)
    return colour_at(development, latch, place.x, place.y)


@router.post("/scenes/{scene_id}/why", response=WhyOut)
def why_in(request: HttpRequest, scene_id: str, place: PlaceOfLatch) -> WhyOut:
    """Why a place is in a latch, or is not."""
    development, latch = _asked_of(request, scene_id, place)
    said, result = why(darkroom.found(development), latch, place.x, place.y)
    return WhyOut(ingredients=said, result=result)
