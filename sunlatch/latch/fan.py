"""Fan: the series of luminosity masks, leaning to the lights, the darks or the midtones."""

from typing import Literal

import numpy as np

from ..parameters import Params, choice, number
from .base import F32, F64, IngredientKind, Reading, by_light


class FanParams(Params):
    """Narrowness n ≥ 1: lights Lⁿ, darks (1 − L)ⁿ, midtones (4 L (1 − L))ⁿ."""

    leaning: Literal["lights", "darks", "midtones"] = choice(
        "Leaning to", "lights", {"lights": "the lights", "darks": "the darks", "midtones": "the midtones"}
    )
    narrowness: float = number(
        "Narrowness", default=1.0, low=1.0, high=12.0, step=0.1, decimals=1, hint="Higher takes less"
    )


def curve(params: FanParams, lightness: F64) -> F64:
    """The mask over the lightness axis in [0, 1]."""
    light = np.clip(lightness, 0, 1)
    if params.leaning == "lights":
        base = light
    elif params.leaning == "darks":
        base = 1 - light
    else:
        base = 4 * light * (1 - light)
    return np.asarray(base**params.narrowness)


def half_at(leaning: str, narrowness: float) -> float:
    """The lightness, in [0, 1], at which a mask of the Fan passes one half: the upper of two for midtones."""
    root = 0.5 ** (1 / narrowness)
    if leaning == "lights":
        return float(root)
    return float(1 - root) if leaning == "darks" else float((1 + np.sqrt(1 - root)) / 2)


def evaluate(params: FanParams, reading: Reading) -> F32:
    """Mask (h, w)."""
    return by_light(reading.stops, curve(params, reading.lightness), reading.each)


INGREDIENT = IngredientKind(
    kind="fan",
    revision=1,
    label="Fan",
    says="lights, darks or midtones",
    group="Its light",
    sentence="Fan leaning to {leaning}, narrowness {narrowness}",
    params=FanParams,
    evaluate=evaluate,
    place=20,
    reads=True,
)
