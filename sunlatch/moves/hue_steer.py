"""Hue steer: colours pointed at in the picture, each turned, deepened, lightened or given contrast."""

import numpy as np

from ..fastmath import cos_sin, exp2
from ..parameters import Params, drawn, number
from .anchors import WIDTH, Anchor, is_grey, packed, row_likeness, row_read, share
from .base import F32, MoveKind, move_kernel
from .rows import row_from_lab

_EACH = WIDTH + 4


class SteeredHue(Anchor):
    """turn: degrees; deepen: of chroma; lighten: stops; contrast: of its light, about the anchor's own."""

    turn: float = number(
        "turn", default=0.0, low=-90.0, high=90.0, step=1.0, unit="°", signed=True, decimals=0
    )
    deepen: float = number(
        "deepen", default=0.0, low=-1.0, high=1.5, step=0.02, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip
    lighten: float = number(
        "lighten", default=0.0, low=-3.0, high=3.0, step=0.05, unit="stops", signed=True, decimals=2
    )
    contrast: float = number(
        "contrast", default=0.0, low=-0.8, high=1.0, step=0.02, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip


class HueSteerParams(Params):
    """Where two anchors overlap they share what lies between them."""

    anchors: list[SteeredHue] = drawn("Hues", 12)
    amount: float = number(
        "Amount", default=1.0, low=0.0, high=2.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="All of them, weaker or stronger",
    )  # fmt: skip


_ZERO, _ONE, _THIRD = np.float32(0), np.float32(1), np.float32(1 / 3)


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """Each px by its likeness to each anchor; likenesses that sum to more than one are scaled to one."""
    width = rgb.shape[2]
    lab, read = np.empty((3, width), np.float32), np.empty((4, width), np.float32)
    like, sums = np.empty(width, np.float32), np.empty((4, width), np.float32)
    for r in range(rgb.shape[1]):
        row_read(rgb[0, r], rgb[1, r], rgb[2, r], lab, read)
        sums[:] = _ZERO
        for n in range(coef.size // _EACH):
            at = n * _EACH
            row_likeness(read, coef, at, like)
            turn, deepen = coef[at + WIDTH], coef[at + WIDTH + 1]
            lighten, contrast, own = coef[at + WIDTH + 2], coef[at + WIDTH + 3], coef[at + 8]
            for c in range(width):
                sums[0, c] += like[c]
                sums[1, c] += like[c] * turn
                sums[2, c] += like[c] * deepen
                sums[3, c] += like[c] * (lighten + contrast * (read[3, c] - own))
        for c in range(width):
            share = mask[r, c] / max(sums[0, c], _ONE)
            gain = exp2(share * sums[3, c] * _THIRD)
            pure = gain * max(_ONE + share * sums[2, c], _ZERO)
            cos, sin = cos_sin(share * sums[1, c])
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


def zone(params: HueSteerParams, rgb: F32, n: int) -> F32:
    """What the n-th anchor has."""
    return share(params.anchors, rgb, n)


MOVE = MoveKind(
    kind="hue_steer",
    revision=1,
    band="light",
    label="Hue steer",
    says="turns or deepens a hue you point at",
    question="What colour is it?",
    sentence="Hue steer, {anchors} colours, amount {amount}",
    params=HueSteerParams,
    verbs=("steer",),
    first="amount",
    place=62,
    kernel=kernel,
    coefficients=coefficients,
    zone=zone,
    remark=remark,
)
