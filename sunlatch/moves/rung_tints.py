"""Rung tints: a colour laid on a zone of light, whites and blacks included."""

from typing import Final

import numpy as np

from ..colour import oklab
from ..fastmath import log2
from ..parameters import Params, choice, number, typed_colour
from .base import F32, MoveKind, move_kernel
from .rows import of_one_light, row_from_lab, row_to_lab

ZONES: Final = {"around": "around it", "lighter": "it and all lighter", "darker": "it and all darker"}
FOOT: Final = 0.1
"""OKLab lightness added when a colour is laid, so that black takes some of it."""


class RungTintsParams(Params):
    """Lightness stays; the colour is added in OKLab."""

    amount: float = number(
        "Tint", default=0.0, low=-1.0, high=1.0, step=0.01, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip
    colour: str = typed_colour("Colour", "#ffb060")
    at: float = number(
        "at", default=-3.0, low=-12.0, high=6.0, step=0.1, unit="stops", signed=True, decimals=1
    )
    reach: float = number("Reach", default=2.0, low=0.3, high=8.0, step=0.1, unit="stops", decimals=1)
    zone: str = choice("Zone", "around", ZONES)


_GREY_LOG, _FLOOR = np.float32(np.log2(0.18)), np.float32(0.18 * 2.0**-14)
_ZERO, _ONE, _THREE = np.float32(0), np.float32(1), np.float32(3)


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """a and b grow by m·w·(colour's a, b)·(L + FOOT), w a smooth hump or step over stops."""
    lab = np.empty((3, rgb.shape[2]), np.float32)
    zone = coef[4]
    for r in range(rgb.shape[1]):
        row_to_lab(rgb[0, r], rgb[1, r], rgb[2, r], lab)
        for c in range(rgb.shape[2]):
            luma = (
                np.float32(0.2627) * rgb[0, r, c]
                + np.float32(0.6780) * rgb[1, r, c]
                + np.float32(0.0593) * rgb[2, r, c]
            )
            away = (log2(max(luma, _FLOOR)) - _GREY_LOG - coef[2]) * coef[3]
            if zone > _ZERO:
                away = min(away, _ZERO)
            elif zone < _ZERO:
                away = max(away, _ZERO)
            t = max(_ONE - abs(away), _ZERO)
            much = mask[r, c] * t * t * (_THREE - t - t) * (max(lab[0, c], _ZERO) + np.float32(FOOT))
            lab[1, c] += much * coef[0]
            lab[2, c] += much * coef[1]
        row_from_lab(lab, mask[r], rgb[0, r], rgb[1, r], rgb[2, r])


def coefficients(params: RungTintsParams, strength: float) -> F32:
    """[a and b over L of the colour times the amount, at, one over the reach, zone: 0, 1 lighter, −1 darker]"""
    lab = oklab(of_one_light(params.colour).astype(float))
    tint = lab[1:] / lab[0] * params.amount * strength
    zone = {"around": 0.0, "lighter": 1.0, "darker": -1.0}[params.zone]
    return np.array([*tint, params.at, 1 / params.reach, zone], np.float32)


MOVE = MoveKind(
    kind="rung_tints",
    revision=1,
    band="light",
    label="Rung tints",
    says="lays a colour on lights or darks",
    question="What colour is it?",
    sentence="Rung tint {amount} at {at}, {zone}",
    params=RungTintsParams,
    verbs=("tint",),
    first="amount",
    place=70,
    kernel=kernel,
    coefficients=coefficients,
)
