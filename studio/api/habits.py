"""Habits: latches kept, and found anew on another frame."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from sunlatch.ledger import Latch, ReadAt, habit_of, latch_of

from ..models import Habit
from .latches import OfLatch, asked_of

router = Router(tags=["habits"])


class HabitOut(Schema):
    """A habit by name."""

    id: str
    name: str


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
    held = habit_of(latch)
    return Habit.objects.update_or_create(user=request.user, name=latch.name, defaults={"held": held})[0]


@router.post("/habits/{habit_id}/latch", response=Latch)
def use_habit(request: HttpRequest, habit_id: str, used: Used) -> Latch:
    """A fresh latch from a habit."""
    kept = get_object_or_404(Habit, pk=habit_id, user=request.user)
    return latch_of(kept.held, used.read_at, set(used.taken))


@router.delete("/habits/{habit_id}", response={204: None})
def forget_habit(request: HttpRequest, habit_id: str) -> HttpResponse:
    """Forget a habit; latches made from it stay."""
    get_object_or_404(Habit, pk=habit_id, user=request.user).delete()
    return HttpResponse(status=204)
