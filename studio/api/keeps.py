"""Kept states of a scene: named revisions, gone back to and compared with."""

from typing import Any

from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Schema
from pydantic import Field

from sunlatch.ledger import Scene as Document
from sunlatch.ledger import changes, parse_scene, shaped_like
from sunlatch.meters import difference_picture

from .. import services
from ..encoding import encode_png
from ..models import Keep, Revision, Scene
from ..slots import Rank
from .light import Look, view_of
from .naming import plain_name
from .scenes import KeepOut, RevisionOut, keep_out, keeps_of, owned, read_document, revision_out

router = Router(tags=["keeps"])


class NewKeep(Schema):
    """A name for the present state; without one it is numbered."""

    name: str = Field(default="", max_length=120)


class Back(Schema):
    """The revision the face believes to be in force."""

    base: int


class StateOut(Schema):
    """A state of a scene."""

    number: int
    document: Document


class Two(Schema):
    """Two states."""

    before: dict[str, Any]
    after: dict[str, Any]


class TwoLook(Look):
    """The difference between `other` and the document, over a region."""

    other: dict[str, Any]


@router.post("/scenes/{scene_id}/keeps", response=KeepOut)
def keep(request: HttpRequest, scene_id: str, given: NewKeep) -> KeepOut:
    """Keep the present state."""
    found = owned(request, scene_id)
    count = Keep.everything.filter(scene=found).count()
    name = plain_name(given.name, f"Keep {count + 1}")[:120]
    return keep_out(Keep.objects.create(scene=found, number=found.head, name=name))


@router.get("/scenes/{scene_id}/keeps", response=list[KeepOut])
def keeps(request: HttpRequest, scene_id: str) -> list[KeepOut]:
    """The kept states of a scene, the oldest first."""
    return keeps_of(owned(request, scene_id))


@router.get("/scenes/{scene_id}/revisions/{number}", response=StateOut)
def state(request: HttpRequest, scene_id: str, number: int) -> StateOut:
    """A state as it was."""
    revision = get_object_or_404(Revision, scene=owned(request, scene_id), number=number)
    return StateOut(number=number, document=parse_scene(revision.document))


@router.post("/scenes/{scene_id}/keeps/{keep_id}/back", response={200: RevisionOut, 409: RevisionOut})
def go_back(request: HttpRequest, scene_id: str, keep_id: str, given: Back):  # type: ignore[no-untyped-def]
    """Go back to a kept state: that is a new revision, and nothing is lost."""
    with transaction.atomic():
        found = owned(request, scene_id)
        kept = get_object_or_404(Keep.objects.of(request.user), pk=keep_id, scene=found)
        if found.head != given.base:
            return 409, revision_out(found)
        _renewed(found, kept)
        return 200, revision_out(found)


def _renewed(scene: Scene, kept: Keep) -> None:
    last = scene.revisions.order_by("-number").values_list("number", flat=True)[0]
    document = scene.revisions.get(number=kept.number).document
    Revision.objects.create(
        scene=scene, number=last + 1, parent=scene.head, words=f"Back to {kept.name}"[:200], document=document
    )
    scene.head = last + 1
    scene.save(update_fields=["head"])


@router.post("/scenes/{scene_id}/changes", response=list[str])
def what_changed(request: HttpRequest, scene_id: str, given: Two) -> list[str]:
    """What is different between two states, a sentence to a line of the ledger."""
    owned(request, scene_id)
    return changes(parse_scene(given.before), parse_scene(given.after))


@router.post("/scenes/{scene_id}/difference")
def where_different(request: HttpRequest, scene_id: str, look: TwoLook) -> HttpResponse:
    """By how many stops a document shows a place lighter or darker than another: mid grey where they are alike."""
    found = owned(request, scene_id)
    view, document = view_of(look), read_document(found, look.document or {})
    other = shaped_like(read_document(found, look.other), document)

    with services.lane().asked(f"{found.id}/{look.view}", look.number, Rank.LOOK):
        made, before = (
            services.found(services.development(each), each.in_use()) for each in (document, other)
        )
        shown = services.lane().run(lambda: difference_picture(before, made, view))
    data = encode_png(shown)
    response = HttpResponse(data, content_type="image/png")
    response["X-Frame"] = "whole"
    return response
