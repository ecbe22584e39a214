"""Hue steer: colours pointed at in the picture, each turned, deepened, lightened or given contrast."""

import numpy as np
from numba import njit
from pydantic import Field

from ..fastmath import exp2, log2
from ..parameters import Params, drawn, number
from .anchors import WIDTH, Anchor, is_grey, likeness, packed
from .base import F32, KERNEL_SIGNATURE, MoveKind
from .rows import row_from_lab, row_to_lab

_EACH = WIDTH + 4


class SteeredHue(Anchor):
    """turn: degrees; deepen: of chroma; lighten: stops; contrast: of its light, about the anchor's own."""

    turn: float = Field(default=0.0, ge=-90, le=90)
    deepen: float = Field(default=0.0, ge=-1, le=1.5)
    lighten: float = Field(default=0.0, ge=-3, le=3)
    contrast: float = Field(default=0.0, ge=-0.8, le=1)


class HueSteerParams(Params):
    """Where two anchors overlap they share what lies between them."""

    anchors: list[SteeredHue] = drawn("Hues", 12)
    amount: float = number(
        "Together", default=1.0, low=0.0, high=2.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="All of them, weaker or stronger",
    )  # fmt: skip


_FLOOR, _GREY_LOG = np.float32(0.18 * 2.0**-14), np.float32(np.log2(0.18))
_ONE, _THIRD = np.float32(1), np.float32(1 / 3)


@njit(KERNEL_SIGNATURE, nogil=True, cache=True, fastmath=True, error_model="numpy")
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Each px by its likeness to each anchor; likenesses that sum to more than one are scaled to one."""
    lab = np.empty((3, rgb.shape[2]), np.float32)
    count = coef.size // _EACH
    for r in range(rgb.shape[1]):
        row_to_lab(rgb[0, r], rgb[1, r], rgb[2, r], lab)
        for c in range(rgb.shape[2]):
            luma = (
                np.float32(0.2627) * rgb[0, r, c]
                + np.float32(0.6780) * rgb[1, r, c]
                + np.float32(0.0593) * rgb[2, r, c]
            )
            stops = log2(max(luma, _FLOOR)) - _GREY_LOG
            light = max(lab[0, c], np.float32(1e-4))
            u, v = lab[1, c] / light, lab[2, c] / light
            total, turn, deepen, more = np.float32(0), np.float32(0), np.float32(0), np.float32(0)
            for n in range(count):
                at = n * _EACH
                w = likeness(u, v, stops, coef, at)
                total += w
                turn += w * coef[at + WIDTH]
                deepen += w * coef[at + WIDTH + 1]
                more += w * (coef[at + WIDTH + 2] + coef[at + WIDTH + 3] * (stops - coef[at + 8]))
            share = mask[r, c] / max(total, _ONE)
            gain = exp2(share * more * _THIRD)
            pure = gain * max(_ONE + share * deepen, np.float32(0))
            cos, sin = np.cos(share * turn), np.sin(share * turn)
            a, b = lab[1, c] * pure, lab[2, c] * pure
            lab[0, c] *= gain
            lab[1, c] = a * cos - b * sin
            lab[2, c] = a * sin + b * cos
        row_from_lab(lab, mask[r], rgb[0, r], rgb[1, r], rgb[2, r])


def coefficients(params: HueSteerParams, strength: float) -> F32:
    """For each anchor its numbers, then turn (radians), deepen, lighten, contrast."""
    k = params.amount * strength
    done = [[np.radians(a.turn) * k, a.deepen * k, a.lighten * k, a.contrast * k] for a in params.anchors]
    both = np.concatenate([packed(params.anchors), np.array(done, np.float32).reshape(-1, 4)], 1)
    return np.ascontiguousarray(both, np.float32).ravel()


def remark(params: HueSteerParams) -> str:
    """What to say of anchors without a hue."""
    if any(is_grey(a) and (a.turn or a.deepen) for a in params.anchors):
        return "One of these is nearly grey: it has no hue to turn; it can be lightened or given contrast"
    return "" if params.anchors else "Point at a colour to steer it"


MOVE = MoveKind(
    kind="hue_steer",
    revision=1,
    band="light",
    label="Hue steer",
    question="What colour is it?",
    sentence="Hue steer, {anchors} hues, together {amount}",
    params=HueSteerParams,
    verbs=("steer",),
    first="amount",
    place=62,
    kernel=kernel,
    coefficients=coefficients,
    remark=remark,
)
