"""Habits: latches and moves kept, to be used on another frame."""

from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field, SerializeAsAny

from sunlatch.ledger import Latch, MoveLine, ReadAt, habit_of, habit_of_moves, latch_of, moves_of

from .. import services
from ..models import Habit
from .latches import OfLatch, asked_of
from .scenes import Asked, owned, read_document

router = Router(tags=["habits"])


class HabitOut(Schema):
    """A habit by name; of a "latch" or of "moves"."""

    id: str
    of: str
    name: str


class OfMoves(Asked):
    """Lines of a scene to be kept, under a name."""

    moves: list[str] = Field(max_length=200)
    name: str = Field(min_length=1, max_length=120)


class Moves(Schema):
    """Lines for a scene, and the latches that are to be made for them."""

    moves: list[SerializeAsAny[MoveLine]]
    latches: list[Latch]


class Used(Schema):
    """The light a habit is to be read at, and the names its scene has given already."""

    read_at: ReadAt
    taken: list[str] = Field(default_factory=list, max_length=200)


@router.get("/habits", response=list[HabitOut])
def habits(request: HttpRequest) -> Any:
    """This photographer's habits, the first kept first."""
    return Habit.objects.filter(user=request.user).order_by("created")


@router.post("/scenes/{scene_id}/habits", response=HabitOut)
def keep_habit(request: HttpRequest, scene_id: str, asked: OfLatch) -> Any:
    """Keep a latch as a habit of its name; one kept before under it is replaced."""
    _, latch = asked_of(request, scene_id, asked)
    return _keep(request, "latch", latch.name, habit_of(latch))


@router.post("/scenes/{scene_id}/habits/moves", response=HabitOut)
def keep_moves(request: HttpRequest, scene_id: str, asked: OfMoves) -> Any:
    """Keep lines of Light as a habit; one kept before under its name is replaced."""
    document = read_document(owned(request, scene_id), asked.document)
    return _keep(request, "moves", asked.name, habit_of_moves(document, asked.moves))


def _keep(request: HttpRequest, of: str, name: str, held: dict[str, Any]) -> Habit:
    kept, _ = Habit.everything.update_or_create(
        user=request.user, of=of, name=name, defaults={"held": held, "removed": None}
    )
    return kept


@router.post("/habits/{habit_id}/latch", response=Latch)
def use_habit(request: HttpRequest, habit_id: str, used: Used) -> Latch:
    """A fresh latch from a habit."""
    kept = get_object_or_404(Habit, pk=habit_id, user=request.user, of="latch")
    return latch_of(kept.held, used.read_at, set(used.taken))


@router.post("/scenes/{scene_id}/habits/{habit_id}/moves", response=Moves)
def use_moves(request: HttpRequest, scene_id: str, habit_id: str, asked: Asked) -> Any:
    """The lines of a habit for a scene, read at its light."""
    found = owned(request, scene_id)
    document = read_document(found, asked.document)
    kept = get_object_or_404(Habit, pk=habit_id, user=request.user, of="moves")
    read_at = services.development(document).ground.read_at()
    moves, latches = moves_of(kept.held, document, read_at)
    return {"moves": moves, "latches": latches}
