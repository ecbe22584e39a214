"""Scenes of the demo outing that come already worked, line by line and with their reasons: a frame teaches light, a sweep how
it is joined and mended."""

from pathlib import Path
from typing import Any, Final

import numpy as np
from django.db import transaction

from sunlatch.ledger import Latch, ReadAt, Scene, new_ingredient, new_move, parse_scene, spared_by
from sunlatch.mend import wire_of
from sunlatch.merging import input_frames, solved
from sunlatch.moves import LIGHT_KINDS

from . import services
from .api.gather import make_scene, sources_of
from .models import Frame, Outing, Revision
from .models import Scene as Kept

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
"""Frames that come already worked: latches with their ingredients, and moves in order: kind, latch, settings, and why."""


SWEEP: Final = tuple(f"sweep-{n}.dng" for n in range(1, 6))
GROUND_WHY: Final = {
    "projection": "Five frames of 27 degrees each. A cylinder keeps the horizon level and uprights upright; a flat picture "
    "would have pulled both ends to twice their width."
}
WIRES: Final = (
    ((0.0625, 0.4906), (0.9710, 0.4449)),
    ((1.0243, 0.4441), (1.0804, 0.4435)),
    ((1.5130, 0.4487), (1.7093, 0.4572)),
)
"""The cable over the bay, from rock to rock: the ends of what is seen of it, in source coordinates."""
WIRE_WHY: Final = (
    "A cable hangs over the whole bay. Two clicks, one at either end: the line between them is followed as it sags, and what "
    "lies above it and below it meets in its place.",
    "The same cable between the two stacks. Each part ends at its rock, so no rock is touched.",
    "And its last part, down to the cliff.",
)
SWEPT: Final[Worked] = (
    {
        "Stacks": [
            (
                "pool",
                "add",
                {
                    "centre": {"x": 1.22, "y": 0.38},
                    "edge": {"x": 1.6, "y": 0.38},
                    "across": 0.75,
                    "softness": 0.35,
                },
            ),
            ("fan", "keep_only", {"leaning": "darks", "narrowness": 2.0}),
        ],
        "Sun side": [
            ("fan", "add", {"leaning": "lights", "narrowness": 1.2}),
            ("ramp", "keep_only", {"full": {"x": 0.2, "y": 0.3}, "none": {"x": 1.1, "y": 0.3}}),
        ],
        "Foreground": [
            ("ramp", "add", {"full": {"x": 1.2, "y": 0.74}, "none": {"x": 1.2, "y": 0.56}}),
        ],
    },
    [
        (
            "exposure",
            "Stacks",
            {"ev": 1.0},
            "The stacks turn their shaded side to us. They are what one came for, so they come up first; everything else is "
            "judged against them.",
        ),
        (
            "contrast",
            "Stacks",
            {"amount": 0.25, "pivot": -3.0},
            "Lifted shade is flat. Contrast about a dark tone parts the ledges from the clefts again.",
        ),
        (
            "relief",
            "Stacks",
            {"coarse": 0.35, "middle": 0.35},
            "Relief models the rock; it stays on the stacks, or the sea would look like hammered tin.",
        ),
        (
            "exposure",
            "Sun side",
            {"ev": -0.8},
            "A sweep this wide holds the sun at one end and plain sky at the other. A ramp across takes the sun's end down, so "
            "that the clouds there have a shape.",
        ),
        (
            "exposure",
            "Foreground",
            {"ev": 0.6},
            "Wet rock swallows light on paper. Half a stop keeps it readable without drawing the eye down.",
        ),
        (
            "rung_tints",
            None,
            {"amount": 0.08, "at": 0.0, "reach": 2.0, "zone": "lighter", "colour": "#ffb868"},
            "The cliff and the clouds share one light: it is made a little warmer where it is bright, and nowhere else.",
        ),
        (
            "vividness",
            None,
            {"amount": 0.12},
            "Weak colours first: moss and weed wake up, the blue of the sky stays what it was.",
        ),
        (
            "edge_fall",
            None,
            {"depth": -0.5, "lift": 0.05},
            "Both ends go down a little. The eye walks along a wide picture; this turns it back to the arch.",
        ),
    ],
)
"""How the sweep is lit."""


def work_sweep(outing: Outing) -> None:
    """Join the sweep of an outing, take its cable out and light it, once all its frames are there."""
    held = {f.name: f for f in Frame.objects.filter(outing=outing, name__in=SWEEP)}
    if len(held) < len(SWEEP) or Kept.everything.filter(frame__in=held.values()).exists():
        return
    sources = sources_of([held[name] for name in SWEEP])
    document = solved("sweep", input_frames(sources, services.whole_source), sources, services.engine())
    for kind, why in GROUND_WHY.items():
        getattr(document.ground, kind).why = why
    raster = services.joins().whole(document, services.whole_source, services.engine())
    anchor = next(f for f in held.values() if f.sha256 == document.anchor.sha256)
    scene = make_scene(anchor, f"Sweep of {len(SWEEP)}", joined=document)
    document = parse_scene(scene.revisions.get(number=1).document)
    steps = []
    for ends, why in zip(WIRES, WIRE_WHY, strict=True):
        wire = wire_of(raster, np.array(ends))
        wire.name, wire.note = "cable", why
        document.repairs.append(wire)
        steps.append(("Mend wire", document.model_dump(mode="json")))
    at = services.engine().develop(document, raster).ground.read_at()
    _kept(scene, steps + _lit(document, at, *SWEPT))


def work_frame(frame: Frame) -> None:
    """A worked scene of a frame, where there is one."""
    scene = make_scene(frame)
    document = parse_scene(scene.revisions.get(number=1).document)
    at = services.first_development(document).ground.read_at()
    _kept(scene, _lit(document, at, *WORKED[Path(frame.name).stem]))


def _lit(
    document: Scene, at: ReadAt, latches: dict[str, Ingredients], moves: list[tuple[Any, ...]]
) -> list[tuple[str, Any]]:
    """Work a document, one step after the other, as it would have been done by hand: what each was, and the state after it."""
    steps = []
    for name, terms in latches.items():
        lines = [new_ingredient(kind, join=join, params=params) for kind, join, params in terms]
        document.latches.append(Latch(name=name, read_at=at, ingredients=lines))
        steps.append((f"New latch {name}", document.model_dump(mode="json")))
    for kind, latch, params, *why in moves:
        held = document.latch(latch) if latch else None
        spare = [s.model_dump() for s in spared_by(kind, at)]
        document.moves.append(new_move(kind, params=params, latch=held.id if held else None, spare=spare))
        document.moves[-1].note = why[0] if why else ""
        words = f"{LIGHT_KINDS[kind].label}{f' on {latch}' if latch else ''}"
        steps.append((words, document.model_dump(mode="json")))
    return steps


def _kept(scene: Kept, steps: list[tuple[str, Any]]) -> None:
    """One revision a step."""
    with transaction.atomic():
        for number, (words, data) in enumerate(steps, 2):
            Revision.objects.create(scene=scene, number=number, parent=number - 1, words=words, document=data)
        scene.head = len(steps) + 1
        scene.save(update_fields=["head"])
