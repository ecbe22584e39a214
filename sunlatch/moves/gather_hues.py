"""Gather hues: the hues of the picture drawn toward one or two, greys and skin left alone."""

import math

import numpy as np

from ..colour import oklab
from ..compiled import inlined
from ..fastmath import angle, cos_sin
from ..parameters import Params, number, switch, typed_colour
from .base import F32, MoveKind, move_kernel
from .rows import of_one_light, row_from_lab, row_to_lab

SKIN, SKIN_REACH = math.radians(58.0), math.radians(22.0)
"""Where skin of every lightness lies in OKLab's hue, and how far about."""


class GatherHuesParams(Params):
    """Each hue goes part of the way to the nearer of the chosen ones."""

    amount: float = number(
        "Gather", default=0.0, low=-1.0, high=1.0, step=0.01, unit="%", signed=True, decimals=0,
        shown_times=100.0, hint="Negative values drive hues apart",
    )  # fmt: skip
    one: str = typed_colour("Toward", "#e08a3c")
    two: str = typed_colour("And", "#3c78b4")
    both: bool = switch("Toward two", True)
    reach: float = number(
        "From within", default=120.0, low=10.0, high=180.0, step=1.0, unit="°", decimals=0,
        hint="Hues further away than this stay",
    )  # fmt: skip
    spare_skin: bool = switch("Spare skin", False)


_PI, _TURN, _ZERO, _ONE = np.float32(math.pi), np.float32(2 * math.pi), np.float32(0), np.float32(1)
_THREE = np.float32(3)


@inlined
def _apart(h, g):  # type: ignore[no-untyped-def]
    d = g - h
    d = d - _TURN if d > _PI else d
    return d + _TURN if d < -_PI else d


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Turned by m·amount·(way to the nearer hue)·w; w falls to nothing at the reach and for greys."""
    amount, one, two, reach, skin = coef[0], coef[1], coef[2], coef[3], coef[4]
    lab = np.empty((3, rgb.shape[2]), np.float32)
    for r in range(rgb.shape[1]):
        row_to_lab(rgb[0, r], rgb[1, r], rgb[2, r], lab)
        for c in range(rgb.shape[2]):
            a, b = lab[1, c], lab[2, c]
            light = max(lab[0, c], np.float32(1e-4))
            pure = np.sqrt(a * a + b * b) / light
            hue = angle(b, a)
            way, other = _apart(hue, one), _apart(hue, two)
            # between two hues the pull goes over from one to the other, so that no hue is torn apart
            near = abs(other) / max(abs(way) + abs(other), np.float32(1e-6))
            near = min(max(_ZERO, (near - np.float32(0.4)) * np.float32(5)), _ONE)
            far = min(abs(way), abs(other)) / reach
            way = (
                other + (way - other) * near
                if way * other < _ZERO
                else (way if abs(way) < abs(other) else other)
            )
            t = min(max(_ZERO, (_ONE - far) * np.float32(2.5)), _ONE)
            colour = min(max(_ZERO, (pure - np.float32(0.01)) / np.float32(0.05)), _ONE)
            if skin > _ZERO:
                close = abs(_apart(hue, np.float32(SKIN))) / np.float32(SKIN_REACH)
                weak = min(max(_ZERO, (np.float32(0.3) - pure) * np.float32(10)), _ONE)
                t *= _ONE - weak * min(max(_ZERO, np.float32(1.5) - close), _ONE)
            turn = mask[r, c] * amount * way * t * colour
            cos, sin = cos_sin(turn)
            lab[1, c], lab[2, c] = a * cos - b * sin, a * sin + b * cos
        row_from_lab(lab, mask[r], rgb[0, r], rgb[1, r], rgb[2, r])


def _hue(typed: str) -> float:
    lab = oklab(of_one_light(typed).astype(float))
    return math.atan2(float(lab[2]), float(lab[1]))


def coefficients(params: GatherHuesParams, strength: float) -> F32:
    """[amount, both hues in radians, reach, whether skin is spared]"""
    one = _hue(params.one)
    two = _hue(params.two) if params.both else one
    amount = float(np.clip(params.amount * strength, -1, 1))
    return np.array([amount, one, two, math.radians(params.reach), params.spare_skin], np.float32)


MOVE = MoveKind(
    kind="gather_hues",
    revision=1,
    band="light",
    label="Gather hues",
    says="draws all hues toward one or two",
    question="What colour is it?",
    sentence="Gather hues {amount}",
    params=GatherHuesParams,
    verbs=("gather",),
    first="amount",
    place=64,
    kernel=kernel,
    coefficients=coefficients,
)
