"""What a photographer asks of moves: a colour to steer, what is to be said of settings, meetings, checks."""

from django.http import HttpRequest
from ninja import Router

from sunlatch.errors import DocumentError
from sunlatch.ledger import Latch
from sunlatch.ledger import Scene as Document
from sunlatch.meters import (
    Complaint,
    Meeting,
    PickedAt,
    Remedy,
    Rim,
    Shared,
    Squint,
    pick_at,
    read_halos,
    read_meeting,
    read_remedies,
    read_squint,
    shared,
)
from sunlatch.moves import LIGHT_KINDS
from sunlatch.render import Development

from .. import services
from .light import Patch, Place
from .scenes import Asked, owned, read_document

router = Router(tags=["moves"])


class PlaceOfMove(Patch):
    """A place, and the move whose colours are asked for; "" for the picture as it is."""

    move: str = ""


class AskedMeeting(Asked):
    """Which two latches meet, and for what distance a move is to be proposed."""

    wings: list[str]
    aim: float | None = None


class OfMove(Asked):
    """A line of the document."""

    move: str


class Complained(Place):
    """A place, and what is wrong with it."""

    wrong: Complaint


def _asked(request: HttpRequest, scene_id: str, asked: Asked) -> tuple[Development, Document]:
    """The scene developed as asked, with what its latches look for found."""
    found = owned(request, scene_id)
    document = read_document(found, asked.document)
    development = services.development(document)
    return services.found(development, document.in_use()), document


@router.post("/scenes/{scene_id}/pick", response=PickedAt)
def pick(request: HttpRequest, scene_id: str, place: PlaceOfMove) -> PickedAt:
    """The colour at a place as it enters a move, or as the picture has it."""
    development, _ = _asked(request, scene_id, place)
    ids = [step.line.id for step in development.steps]
    upto = ids.index(place.move) if place.move in ids else None
    return pick_at(development, place.x, place.y, upto, place.wide)


@router.post("/scenes/{scene_id}/remarks", response=dict[str, str])
def remarks(request: HttpRequest, scene_id: str, asked: Asked) -> dict[str, str]:
    """What the settings of moves do that one may not expect, by the move's id."""
    document = read_document(owned(request, scene_id), asked.document)
    remarks = {}
    for line in document.working():
        remark = LIGHT_KINDS[line.kind].remark
        if remark is not None and remark(line.params):
            remarks[line.id] = remark(line.params)
    return remarks


def _two(document: Document, keys: list[str]) -> tuple[Latch, Latch]:
    found = [latch for latch in (document.latch(key) for key in keys) if latch is not None]
    if len(found) != 2:
        raise DocumentError("two latches meet", "wings")
    return found[0], found[1]


@router.post("/scenes/{scene_id}/meeting", response=Meeting)
def meeting(request: HttpRequest, scene_id: str, asked: AskedMeeting) -> Meeting:
    """How two latches meet, what would be plausible, and one move that brings it there."""
    development, document = _asked(request, scene_id, asked)
    one, other = _two(document, asked.wings)
    services.found(development, [one, other])
    return read_meeting(development, one, other, asked.aim)


@router.post("/scenes/{scene_id}/halos", response=list[Rim])
def halos(request: HttpRequest, scene_id: str, asked: Asked) -> list[Rim]:
    """Rims along strong edges that Light has made."""
    return read_halos(_asked(request, scene_id, asked)[0])


@router.post("/scenes/{scene_id}/squint", response=Squint)
def squint(request: HttpRequest, scene_id: str, asked: Asked) -> Squint:
    """Where the eye goes first, now and before Light."""
    return read_squint(_asked(request, scene_id, asked)[0])


@router.post("/scenes/{scene_id}/remedies", response=list[Remedy])
def remedies(request: HttpRequest, scene_id: str, place: Complained) -> list[Remedy]:
    """What could be done about a place that is wrong, the likeliest first."""
    return read_remedies(_asked(request, scene_id, place)[0], place.x, place.y, place.wrong)


@router.post("/scenes/{scene_id}/shared", response=list[Shared])
def shared_by(request: HttpRequest, scene_id: str, asked: OfMove) -> list[Shared]:
    """For each thing drawn for a move, which other reaches most into where it acts."""
    return shared(_asked(request, scene_id, asked)[0], asked.move)
