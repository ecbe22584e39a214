"""Removing outings, frames, scenes, exports and habits, and taking them back for a while."""

from datetime import datetime, timedelta
from typing import Any, Literal

from django.conf import settings
from django.db.models import F
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Schema

from ..models import Frame, Habit, Job, Keep, Outing, Revision, Scene

router = Router(tags=["removal"])
What = Literal["outing", "frame", "scene", "job", "habit", "keep"]
KINDS: dict[str, Any] = {
    "outing": Outing,
    "frame": Frame,
    "scene": Scene,
    "job": Job,
    "habit": Habit,
    "keep": Keep,
}


class Removal(Schema):
    """What to remove."""

    what: What
    id: str


class Removed(Removal):
    """What was removed and can be taken back: until when. used_by: scenes made of it beside its own; they go on, and it is
    kept for them."""

    name: str
    until: datetime
    used_by: list[str] = []


def _name(thing: Any) -> str:
    return str(getattr(thing, "name", "") or getattr(thing, "file_name", ""))


def _removed(what: What, thing: Any) -> Removed:
    until = thing.removed + timedelta(days=settings.REMOVED_DAYS)
    return Removed(what=what, id=thing.pk, name=_name(thing), until=until)


@router.post("/removed", response=Removed)
def remove(request: HttpRequest, given: Removal) -> Removed:
    """Remove something; with it goes from sight what lies in it. Its files stay until it is gone for good."""
    thing = KINDS[given.what].objects.of(request.user).filter(pk=given.id).first()
    if thing is None:
        raise Http404
    thing.removed = timezone.now()
    thing.save(update_fields=["removed"])
    out = _removed(given.what, thing)
    if isinstance(thing, Frame):
        out.used_by = _users(thing)
    return out


def _users(frame: Frame) -> list[str]:
    """The scenes of other frames that a frame is part of, as they stand."""
    heads = Revision.objects.filter(
        number=F("scene__head"),
        scene__frame__outing=frame.outing_id,
        scene__removed=None,
        scene__frame__removed=None,
    )
    named = heads.exclude(scene__frame=frame).values_list("scene__name", "document__sources")
    return sorted(name for name, sources in named if any(s["sha256"] == frame.sha256 for s in sources or []))


@router.get("/removed", response=list[Removed])
def removed(request: HttpRequest) -> list[Removed]:
    """What can be taken back, removed last first."""
    found = [
        _removed(what, thing)
        for what, kind in KINDS.items()
        for thing in kind.everything.filter(**{kind.OWNER: request.user}).exclude(removed=None)
    ]
    return sorted(found, key=lambda r: r.until, reverse=True)


@router.delete("/removed/{what}/{key}", response={204: None})
def take_back(request: HttpRequest, what: What, key: str) -> HttpResponse:
    """Take back what was removed."""
    kind = KINDS[what]
    if not kind.everything.filter(pk=key, **{kind.OWNER: request.user}).update(removed=None):
        raise Http404
    return HttpResponse(status=204)
