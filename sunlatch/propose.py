"""Start for me: a proposal for Ground, each part with its reason in one sentence."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

import numpy as np

from .binding.lens_profile import known_lens
from .errors import GeometryError
from .geometry import solve
from .ledger import Scene
from .meters.fringe import estimate_fringe
from .meters.graininess import explained_by_noise
from .meters.lights import estimate_lights
from .meters.limits import find_ends
from .meters.lines import SURE, find_horizon, find_lines, plumb_lines
from .moves import GROUND_KINDS
from .render import Development
from .sensor.kernels import read_stops
from .sensor.noise import LIGHT_SHARE, WEIGHTS

AIM: Final = -0.9
"""Stops: where the middle of a picture's light is brought toward."""
LEAST_SMOOTHED: Final = 0.1
SMOOTHED_PER_SHARE: Final = 0.55
MOST_SMOOTHED: Final = 0.5
"""How much of the light's noise is taken: a little where it is seen at all, more where noise is most of what is fine."""
HIGH: Final = 1.3
"""Stops: a tenth of the picture may lie above this after it was lifted."""


@dataclass(frozen=True)
class Proposal:
    """One thing that was set: a Ground move's kind, and why, in a sentence."""

    kind: str
    why: str


Changed = tuple[dict[str, Any], str] | None


Tell = Callable[[str], None]


def propose(development: Development, tell: Tell = lambda looks: None) -> tuple[Scene, list[Proposal]]:
    """A copy of the scene with Ground proposed, and what was set. What the photographer has set already
    is left as it is. tell: hears what is looked at now."""
    scene = development.scene.model_copy(deep=True)
    proposals: list[Proposal] = []
    for kind, (looks, find) in STEPS.items():
        line = getattr(scene.ground, kind)
        if kind in SEEN_TO.get(scene.base.kind, ()):
            continue
        if not line.on or line.params != GROUND_KINDS[kind].params():
            continue
        tell(looks)
        now = development.again(scene)
        changed = find(now)
        if changed is None:
            continue
        values, why = changed
        line.params = type(line.params)(**(line.params.model_dump() | values))
        line.why = why
        proposals.append(Proposal(kind, why))
    return scene, proposals


def _lens(d: Development) -> Changed:
    info = d.raster.info
    trial = d.scene.model_copy(deep=True)
    for known, why in (
        ("frame", "The frame carries its lens's own corrections; they are applied."),
        ("database", f"The lens database knows this lens ({known_lens(info)}): bending, dark corners and colour "
         "fringe are undone."),
    ):  # fmt: skip
        if (known == "frame" and not info.lens_tags) or (known == "database" and not known_lens(info)):
            continue
        trial.ground.lens.params.known = known
        try:
            found = d.again(trial).geometry.lens
        except GeometryError:
            continue
        if found.bends or any(found.falloff):
            return {"known": known}, why
    fringe = estimate_fringe(d)
    if fringe is None or max(abs(v) for v in fringe) < 1e-4:
        return None
    red, blue = (round(v * 1000, 2) for v in fringe)
    return (
        {"known": "hand", "red": red, "blue": blue},
        f"Nobody knows this lens, but its edges show red {red:+.2f} ‰ and blue {blue:+.2f} ‰ too large; that is undone.",
    )


def _plumb(d: Development) -> Changed:
    lines = find_lines(d)
    if len(lines) < 2:
        return None
    try:
        lean, swing, roll = solve(plumb_lines(d, lines), d.raster.info.focal)
    except GeometryError:
        return None
    if max(abs(lean), abs(swing), abs(roll)) < 0.3 or abs(lean) > 25:
        return None
    return (
        {"lines": lines, "lean": round(lean, 3), "swing": round(swing, 3), "roll": round(roll, 3)},
        f"{len(lines)} edges lean together: verticals corrected.",
    )


def _trim(d: Development) -> Changed:
    horizon = find_horizon(d)
    if horizon is None or horizon.share < SURE or not 0.1 <= abs(horizon.off) <= 6:
        return None
    return (
        {"level": round(horizon.level, 2)},
        f"A horizon, seen along {horizon.share * 100:.0f} % of the width, was {abs(horizon.off):.1f}° off; it is level.",
    )


def _light(d: Development) -> Changed:
    if not any("what the light was" in note for note in d.raster.info.notes):
        return None
    for estimate in estimate_lights(d):
        if estimate.method == "edges" and estimate.kelvin is not None and estimate.tint is not None:
            return (
                {"kelvin": min(max(estimate.kelvin, 1667), 25000), "tint": min(max(estimate.tint, -50), 50)},
                f"The file does not say what the light was; it was estimated, as if {estimate.assumes}.",
            )
    return None


def _stops(d: Development) -> np.ndarray:  # type: ignore[type-arg]
    rgb = d.light_planes(d.geometry.fit(640), 0)
    stops = np.empty(rgb.shape[1:], np.float32)
    read_stops(rgb, np.array([0.2627, 0.6780, 0.0593], np.float32), stops)
    return stops


def _base_exposure(d: Development) -> Changed:
    stops = _stops(d)
    middle, high = (float(v) for v in np.quantile(stops, (0.5, 0.9)))
    # the lights have the last word: a sky worth keeping is not lifted away
    ev = round(min(0.7 * (AIM - middle), HIGH - high, 2.5), 1)
    if ev >= 0.3:
        return (
            {"ev": ev},
            f"Half of the picture lay below {middle:+.1f} stops; it is brightened without clipping.",
        )
    if middle > 1.2:
        return (
            {"ev": -round(min(0.7 * (middle - 0.5), 1.5), 1)},
            f"Half of the picture lay above {middle:+.1f} stops; it is lowered. What clipped still prints white.",
        )
    return None


def _rescue(d: Development) -> Changed:
    clipped = d.raster.info.clipped
    if clipped is None or max(clipped) < 1e-4:
        return None
    name = ("red", "green", "blue")[int(np.argmax(clipped))]
    return (
        {"amount": 1.0},
        f"{max(clipped) * 100:.1f} % of {name} clipped in the frame; it is rebuilt from the other channels.",
    )


def _ends(d: Development) -> Changed:
    share = float(d.ground.settings("ends").share)
    black, white = find_ends(d, share)
    usual = d.ground.ends()
    found: dict[str, Any] = {}
    parts = []
    if white < usual[1] - 0.2:
        found["white"] = white
        parts.append(f"nothing lies above {white:+.1f} stops: that prints white")
    if black > usual[0] + 0.3:
        found["black"] = black
        parts.append(f"nothing lies below {black:+.1f}: that prints black")
    if not found:
        return None
    text = "; ".join(parts)
    return found, f"But for {share * 100:.2g} % of the picture, {text}."


def _noise(d: Development) -> Changed:
    """Noise in the darker quarter of the picture, as it will print. Of the light's no more is taken than leaves its
    fine contrast nearest to what it would be without noise (`python -m bench.noise_nearest`), and at most half: rock
    smoothed further turns to wax. Blotches of colour have no texture to lose."""
    spread = _spread(d)
    if spread < 0.05:
        return None
    share = explained_by_noise(d)
    light = float(np.clip(round((LEAST_SMOOTHED + SMOOTHED_PER_SHARE * share) * 20) / 20, 0, MOST_SMOOTHED))
    return (
        {"light": light, "colour": 1.0},
        f"Noise in the shadows is {spread:.2f} stops, and {share * 100:.0f} % of the finest contrast; {light * 100:.0f} % of "
        "it is taken from light, so that texture stays, and all of it from colour.",
    )


def _spread(d: Development) -> float:
    model = d.ground.sensor.model()
    stops = _stops(d)
    y = float(0.18 * 2.0 ** (np.quantile(stops, 0.2) - d.ground.base_exposure))
    scale, offset = model.mixed(WEIGHTS)
    return float(LIGHT_SHARE[0] * np.sqrt(scale * y + offset) / (y * np.log(2)))


def _crispness(d: Development) -> Changed:
    amount = 0.7 if _spread(d) < 0.15 else 0.4
    return (
        {"amount": amount},
        f"Every raw frame is a little soft; {amount * 100:.0f} % crispness on edges, none on what the noise explains.",
    )


STEPS: Final[dict[str, tuple[str, Callable[[Development], Changed]]]] = {
    "lens": ("the lens", _lens),
    "plumb": ("built edges that lean", _plumb),
    "trim": ("the horizon", _trim),
    "colour_of_light": ("the colour of the light", _light),
    "base_exposure": ("how light it is", _base_exposure),
    "rescue": ("what clipped", _rescue),
    "ends": ("its two ends", _ends),
    "noise": ("its noise", _noise),
    "crispness": ("its fine edges", _crispness),
}
"""What is looked at, in the order in which each may rely on the one before."""
SEEN_TO: Final = {"sweep": ("lens", "plumb", "trim", "rescue"), "bracket": ("rescue",)}
"""What of it was seen to when frames were joined."""
