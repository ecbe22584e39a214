"""Which frames may lend to a scene, in the order in which they fit, and where what is lent is let in at first."""

from dataclasses import dataclass
from typing import Final

import numpy as np

from ..frame.grouping import FEW, STILL, Trait, shift_between
from ..ledger import Latch, new_ingredient
from ..masking.reader import Reader
from ..parameters import within
from ..sensor.ground import Ground

JUDGED_PX: Final = 512
"""Long edge, px, at which it is looked for what a scene lacks."""
CLIPPED_FROM: Final = 0.97
"""Light, of what clips, that clips."""
SOME: Final = 2e-4
"""The share of a picture that must clip to be worth a loan."""
OTHER: Final = 0.3
"""Stops from which a frame counts as darker or lighter than the scene."""
SOFTLY, DIMLY = 1.5, 1.5
"""Over how many times the stops that it is darker a loan begins where light clips, so that nothing lighter comes out darker than
what is beside it; and over how many stops in the shadows."""
DARKEST: Final = 15.0
"""Per cent of a picture that a lighter frame lends its shadows to."""


@dataclass(frozen=True)
class Lender:
    """How a frame fits to lend: `apart` from nothing, the best, on; what is to be said of it; whether it can."""

    apart: float
    description: str
    lends: bool = True


def lender(own: Trait, other: Trait) -> Lender:
    """How a frame fits a scene's own: of the same size, and showing the same."""
    if set(own.size) != set(other.size):
        (w, h), (ours_w, ours_h) = other.size, own.size
        return Lender(9.0, f"it is {w} × {h} px, the scene {ours_w} × {ours_h}", False)
    dx, dy, agree = shift_between(own, other)
    far = max(abs(dx), abs(dy))
    if agree < FEW:
        return Lender(3.0, "hardly anything in it is seen in the scene")
    if far <= STILL:
        return Lender(far, "the same view")
    return Lender(1.0 + far, f"turned on by {100 * far:.0f} % of the picture")


def where_wanted(ground: Ground, reader: Reader, ev: float, name: str) -> Latch:
    """A latch for a loan, to be changed: where the scene clips, if the lender is darker; its deepest shadows, if it is lighter;
    else nothing, until something is painted. ev: stops more than the scene that the lender was exposed for."""
    at, view = ground.read_at(), ground.geometry.look(JUDGED_PX)
    full = ground.staged(view, "rescued").max(0) > CLIPPED_FROM * 2.0**ground.raster.info.headroom
    stops = reader.stops(view, at)
    latch = Latch(name=f"Lent by {name}"[:120], read_at=at)
    if ev < -OTHER and full.mean() > SOME:
        made = new_ingredient("light_range")
        made.params.low = within(type(made.params), "low", float(np.percentile(stops[full], 5)))
        made.params.soft_low = within(type(made.params), "soft_low", -SOFTLY * ev)
    elif ev > OTHER:
        made = new_ingredient("light_range", params={"low": -14.0, "high": -2.0})
        made.params.high = within(type(made.params), "high", float(np.percentile(stops, DARKEST)))
        made.params.soft_high = DIMLY
    else:
        made = new_ingredient("hand")
    latch.ingredients.append(made)
    return latch
