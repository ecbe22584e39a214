"""Anchors: colours picked in the picture, and how much of each a px is.

A px's colour is taken as u = a/L and v = b/L of OKLab, which its light does not change. A coloured anchor holds
what lies within its reach of hue, less of what is much weaker than itself, for grey has no hue. A near-grey one
holds what is as grey, and of about its light, so that whites, greys and darks can be told apart.
"""

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel, ConfigDict

from ..compiled import kernel, part
from ..fastmath import exp2
from ..parameters import Picked, number
from .base import F32
from .grid import row_stops
from .rows import row_to_lab

GREY, COLOURED = 0.02, 0.06
"""Purity √(u² + v²) at which an anchor counts as grey, and from which as coloured."""
GREY_REACH, LIGHT_REACH = 0.035, 2.0
"""Reach of a grey anchor, in purity and in stops, at a reach of 30°."""
WEAKER, AS_STRONG = 0.15, 0.6
"""Shares of a coloured anchor's purity below which nothing is like it, and from which purity counts no more."""
WIDTH = 10
"""Numbers of an anchor in a kernel's coefficients, before what is done to it."""


class Anchor(BaseModel):
    """A picked colour, and how far it reaches, in degrees of hue."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    picked: Picked
    reach: float = number("reach", default=30.0, low=4.0, high=120.0, step=1.0, unit="°", decimals=0)


def is_grey(anchor: Anchor) -> bool:
    """Whether turning it does nothing, as it has next to no hue."""
    return float(np.hypot(anchor.picked.u, anchor.picked.v)) < (GREY + COLOURED) / 2


def packed(anchors: Sequence[Anchor]) -> F32:
    """(n, WIDTH): how coloured it is, the direction of its hue, one over the square of its reach (radians), one
    over its purity; u, v, one over its reach in them, its stops, one over its reach in stops."""
    rows = []
    for anchor in anchors:
        p = anchor.picked
        pure = max(float(np.hypot(p.u, p.v)), 1e-5)
        colour = float(np.clip((pure - GREY) / (COLOURED - GREY), 0, 1))
        times = anchor.reach / 30
        rows.append(
            [colour, p.u / pure, p.v / pure, np.radians(anchor.reach) ** -2, 1 / pure,
             p.u, p.v, 1 / (GREY_REACH * times), p.stops, 1 / (LIGHT_REACH * times)]
        )  # fmt: skip
    return np.array(rows, np.float32).reshape(-1, WIDTH)


_ZERO, _ONE, _TWO = np.float32(0), np.float32(1), np.float32(2)
_PER = np.float32(1 / (AS_STRONG - WEAKER))


@part
def row_likeness(read, coef, at, out):  # type: ignore[no-untyped-def]
    """How like the anchor whose numbers begin at coef[at] each px of a row is, 0–1: out (w,). read: of `row_read`."""
    colour, x, y, narrow, per = coef[at], coef[at + 1], coef[at + 2], coef[at + 3], coef[at + 4]
    u0, v0, per_grey, s0, per_light = coef[at + 5], coef[at + 6], coef[at + 7], coef[at + 8], coef[at + 9]
    along, across, pure, stops = read[0], read[1], read[2], read[3]
    # an anchor is nearly always one or the other; each loop alone runs in vector registers
    if colour > _ZERO:
        for c in range(out.size):
            cos = along[c] * x + across[c] * y
            t = min(max(_ZERO, (pure[c] * per - np.float32(WEAKER)) * _PER), _ONE)
            # 2 − 2 cos is the square of the angle where it is small, and grows on where it is not
            out[c] = colour * t * t * (np.float32(3) - t - t) * exp2((cos + cos - _TWO) * narrow)
    else:
        for c in range(out.size):
            out[c] = _ZERO
    if colour < _ONE:
        for c in range(out.size):
            du, dv = (along[c] * pure[c] - u0) * per_grey, (across[c] * pure[c] - v0) * per_grey
            light = (stops[c] - s0) * per_light
            out[c] += (_ONE - colour) * exp2(-(du * du + dv * dv + light * light))


@part
def row_read(a, b, d, lab, read):  # type: ignore[no-untyped-def]
    """What anchors are compared with: read (4, w) becomes a row's hue (a direction, two numbers), chroma to
    lightness, and stops; lab (3, w) its OKLab."""
    row_to_lab(a, b, d, lab)
    row_stops(a, b, d, read[3])
    for c in range(a.size):
        chroma = np.sqrt(lab[1, c] * lab[1, c] + lab[2, c] * lab[2, c])
        per = _ONE / max(chroma, np.float32(1e-9))
        read[0, c] = lab[1, c] * per
        read[1, c] = lab[2, c] * per
        read[2, c] = chroma / max(lab[0, c], np.float32(1e-4))


@kernel("void(float32[:, :, ::1], float32[::1], int64, float32[:, ::1], float32[:, ::1])")
def _shares(rgb, coef, chosen, out, sums):  # type: ignore[no-untyped-def]
    width = rgb.shape[2]
    lab, read, like = (
        np.empty((3, width), np.float32),
        np.empty((4, width), np.float32),
        np.empty(width, np.float32),
    )
    for r in range(rgb.shape[1]):
        row_read(rgb[0, r], rgb[1, r], rgb[2, r], lab, read)
        for n in range(coef.size // WIDTH):
            row_likeness(read, coef, n * WIDTH, like)
            for c in range(width):
                sums[r, c] += like[c]
                if n == chosen:
                    out[r, c] = like[c]
        for c in range(width):
            out[r, c] /= max(sums[r, c], _ONE)


def share(anchors: Sequence[Anchor], rgb: F32, n: int) -> F32:
    """How much of each px (h, w) of working RGB (3, h, w) the n-th anchor has; where several reach they share."""
    out, sums = (np.zeros(rgb.shape[1:], np.float32) for _ in range(2))
    _shares(np.ascontiguousarray(rgb, np.float32), packed(anchors).ravel(), n, out, sums)
    return out
