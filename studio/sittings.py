"""What was done when a scene was last worked on: its revisions fall into sittings, with hours or days between them."""

from datetime import timedelta
from typing import Final

from django.utils import timezone

from sunlatch.ledger import changes, parse_scene

from .models import Revision, Scene

APART: Final = timedelta(minutes=30)
"""What is saved so long after the revision before it belongs to another sitting."""


def last_sitting(scene: Scene) -> tuple[Revision, Revision] | None:
    """The state before the last sitting and the one it ended with; None while it still goes on, or where nothing was done."""
    chain = dict(scene.revisions.values_list("number", "parent"))
    when = dict(scene.revisions.values_list("number", "created"))
    if timezone.now() - max(when.values()) < APART:
        return None
    at = scene.head
    while (before := chain[at]) is not None and when[at] - when[before] < APART:
        at = before
    first = at if before is None else before
    if first == scene.head:
        return None
    return scene.revisions.get(number=first), scene.revisions.get(number=scene.head)


def changes_between(before: Revision, after: Revision) -> list[str]:
    """What differs between them, a sentence to a line of the ledger."""
    return changes(parse_scene(before.document), parse_scene(after.document))
