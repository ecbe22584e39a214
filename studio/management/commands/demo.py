"""Set up the demo photographer, bring the frames of a folder into an outing, work two scenes."""

from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import BaseCommand
from django.db import transaction

from studio import darkroom
from studio.api.gather import make_scene, receive
from studio.grouping import regroup
from studio.models import Frame, Outing, Revision, Scene
from sunlatch.ledger import Latch, new_ingredient, new_move, parse_scene, spared_by
from sunlatch.moves import LIGHT_KINDS

NAME, PASSWORD = "demo", "ammerlin coast"
OUTING = "The Ammerlin coast"
SORTED = {"stack-backlit": "evening", "pool": "evening", "path": "evening", "beacon": "maybe", "twin-dark": "maybe",
          "sky-2": "leave"}  # fmt: skip

Ingredients = list[tuple[str, str, dict[str, Any]]]
Worked = tuple[dict[str, Ingredients], list[tuple[Any, ...]]]
WORKED: dict[str, Worked] = {
    "pool": (
        {
            "Sky": [
                ("fan", "add", {"leaning": "lights", "narrowness": 1.4}),
                ("ramp", "keep_only", {"full": {"x": 0.5, "y": 0.16}, "none": {"x": 0.5, "y": 0.30}}),
            ],
            "Mirror and rock": [
                ("ramp", "add", {"full": {"x": 0.5, "y": 0.36}, "none": {"x": 0.5, "y": 0.24}})
            ],
        },
        [
            (
                "exposure",
                "Mirror and rock",
                {"ev": 2.3},
                "The rock lay four stops under the sky. The eye sees it lighter, because it adapts; the print has to do that for it.",
            ),
            (
                "exposure",
                "Sky",
                {"ev": -0.7},
                "With the rock up, the sky had to come down a little: a mirror is never brighter than what it mirrors.",
            ),
            (
                "contrast",
                "Mirror and rock",
                {"amount": 0.22, "pivot": -2.5},
                "Lifted shadows are flat. Contrast about a dark tone gives the rock its weight back without touching the sky.",
            ),
            (
                "relief",
                "Mirror and rock",
                {"coarse": 0.4, "middle": 0.3},
                "Coarse relief models the boulders; fine relief was left alone, or the wet stone would look gritty.",
            ),
            (
                "rung_tints",
                None,
                {"amount": 0.09, "at": 0.5, "reach": 2.0, "zone": "lighter", "colour": "#ffb060"},
                "What is light is warm, as it was; nine per cent is felt and not seen.",
            ),
            (
                "bloom",
                None,
                {"amount": 0.16, "above": 1.0, "radius": 0.03},
                "A little glow, and only of light above one stop: the sun is felt, the horizon stays sharp.",
            ),
            (
                "vividness",
                None,
                {"amount": 0.15},
                "Muted colours first: the sunset was strong enough, the heather was not.",
            ),
            (
                "edge_fall",
                None,
                {"depth": -0.7, "lift": 0.1},
                "The corners are darker than the pool, so the eye stays at the water.",
            ),
        ],
    ),
    "path": (
        {"Heath": [("ramp", "add", {"full": {"x": 0.5, "y": 0.40}, "none": {"x": 0.5, "y": 0.24}})]},
        [
            ("rungs", "Heath", {"rungs": [{"at": -4.0, "by": 0.9, "reach": 2.5}]}),
            ("haze", "Heath", {"amount": -0.25}),
            ("sky_filter", None, {"depth": 0.6, "veil": 0.2}),
            (
                "poured_light",
                None,
                {
                    "light": 0.8,
                    "blend": "soaks",
                    "colour": "#ffdcaa",
                    "depth": 0.6,
                    "start": {"x": 0.54, "y": 0.46},
                    "end": {"x": 0.76, "y": 0.56},
                },
            ),
            ("relief", "Heath", {"coarse": 0.3, "middle": 0.4}),
            ("edge_fall", None, {"depth": -0.9, "lift": 0.1}),
            ("contrast", None, {"amount": 0.14, "pivot": -1.5}),
        ],
    ),
}
"""Scenes that come already worked: latches with their ingredients, and moves in order: kind, latch, settings, and why."""


class Command(BaseCommand):
    """`manage.py demo FOLDER`"""

    help = "Create the demo photographer and outing."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("folder", type=Path)
        parser.add_argument("--name", default=NAME, help="of the photographer")

    def handle(self, **options: Any) -> None:
        user, fresh = User.objects.get_or_create(username=options["name"])
        if fresh:
            user.set_password(PASSWORD)
            user.save()
        outing, _ = Outing.objects.get_or_create(user=user, name=OUTING)
        arrived = [self._bring(outing, path) for path in sorted(options["folder"].glob("*.dng"))]
        if any(arrived):
            regroup(outing)
            self.stdout.write(f"  {sum(arrived)} frames have arrived in {OUTING}")
        darkroom.store().decoder.close()

    def _bring(self, outing: Outing, path: Path) -> bool:
        """One frame and, the first time, what comes with it; whether it is new."""
        if Frame.objects.filter(outing=outing, name=path.name).exists():
            return False
        with path.open("rb") as source:
            frame = receive(outing, path.name, source)
        frame.sorting = SORTED.get(path.stem, "")
        frame.save(update_fields=["sorting"])
        if path.stem == "stack-backlit":
            make_scene(frame)
        elif path.stem in WORKED:
            _work(make_scene(frame), *WORKED[path.stem])
        return True


def _work(scene: Scene, latches: dict[str, Ingredients], moves: list[Any]) -> None:
    """Work a fresh scene, one revision a step, as it would have been done by hand."""
    document = parse_scene(scene.revisions.get(number=1).document)
    at = darkroom.first_development(scene.frame, document).ground.read_at()
    steps = []
    for name, terms in latches.items():
        lines = [new_ingredient(kind, join=join, params=params) for kind, join, params in terms]
        document.latches.append(Latch(name=name, read_at=at, ingredients=lines))
        steps.append((f"new latch {name}", document.model_dump(mode="json")))
    for kind, latch, params, *why in moves:
        held = document.latch(latch) if latch else None
        spare = [s.model_dump() for s in spared_by(kind, at)]
        document.moves.append(new_move(kind, params=params, latch=held.id if held else None, spare=spare))
        document.moves[-1].note = why[0] if why else ""
        words = f"{LIGHT_KINDS[kind].label}{f' on {latch}' if latch else ''}"
        steps.append((words, document.model_dump(mode="json")))
    with transaction.atomic():
        for number, (words, data) in enumerate(steps, 2):
            Revision.objects.create(scene=scene, number=number, parent=number - 1, words=words, document=data)
        scene.head = len(steps) + 1
        scene.save(update_fields=["head"])
