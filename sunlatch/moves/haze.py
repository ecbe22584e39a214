"""Haze: what hangs before distant things, taken away or added (dark channel prior: He, Sun & Tang 2009).

The light of the air is that of the haziest places; how much of a px's own light comes through is what its
surroundings' darkest channel leaves, refined by a guided filter. It errs on snow, white walls and wide skies,
which have no dark channel: latch it to the land.
"""

from typing import Any, Final

import cv2
import numpy as np

from ..fastmath import exp2, log2
from ..parameters import Params, number
from .base import F32, MoveKind, move_kernel
from .grid import row_stops, stops_of
from .sampling import columns, row_sampled

PATCH: Final = 0.012
"""Half a side of a px's surroundings, in long edges."""
THROUGH: Final = 0.12
"""At least so much of a px's own light comes through."""


class HazeParams(Params):
    """Taken away, things come nearer; added, they recede."""

    amount: float = number(
        "Haze", default=0.0, low=-1.0, high=1.0, step=0.01, unit="%", signed=True, decimals=0,
        shown_times=100.0, hint="Less than nothing takes haze away",
    )  # fmt: skip


def survey(rgb: F32, params: HazeParams) -> F32:
    """(3, h, w, 1): a and b of what comes through, a·stops + b; the air's light in the third's first row."""
    _, h, w = rgb.shape
    size = max(h, w)
    light = np.maximum(rgb, 1e-5)
    box = np.ones((2 * max(1, round(PATCH * size)) + 1,) * 2, np.uint8)
    dark = cv2.erode(light.min(0), box)
    haziest = dark >= np.percentile(dark, 99.5)
    air = np.array([np.median(p[haziest]) for p in light], np.float32)
    relative = cv2.erode(np.minimum((light / air[:, None, None]).min(0), 1).astype(np.float32), box)
    through = 1 - np.float32(0.95) * relative
    stops = stops_of(rgb)
    np.maximum(stops, -10, out=stops)
    n = 2 * max(2, round(0.025 * size)) + 1

    def mean(x: Any) -> F32:
        return np.asarray(cv2.blur(x, (n, n), borderType=cv2.BORDER_REFLECT), np.float32)

    around, of = mean(stops), mean(through)
    a = (mean(stops * through) - around * of) / (mean(stops * stops) - around * around + np.float32(0.04))
    b = of - a * around
    last = np.zeros((h, w), np.float32)
    last[0, :3] = air
    return np.stack([mean(a), mean(b), last])[..., None]


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """air + (light − air)·through^(m·amount): below an amount of 0 the inverse of haze, above it more of it."""
    w = rgb.shape[2]
    stops, a, b = np.empty(w, np.float32), np.empty(w, np.float32), np.empty(w, np.float32)
    line = np.empty(aux.shape[2], np.float32)
    at, between = np.empty(w, np.uint32), np.empty(w, np.float32)
    columns(place, aux.shape[2], at, between)
    for r in range(rgb.shape[1]):
        row_stops(rgb[0, r], rgb[1, r], rgb[2, r], stops)
        row_sampled(aux[0, :, :, 0], place, r, at, between, line, a)
        row_sampled(aux[1, :, :, 0], place, r, at, between, line, b)
        for c in range(w):
            own = a[c] * max(stops[c], np.float32(-10)) + b[c]
            own = min(max(own, np.float32(THROUGH)), np.float32(1))
            k = exp2(mask[r, c] * coef[0] * log2(own))
            for p in range(3):
                air, x = aux[2, 0, p, 0], rgb[p, r, c]
                # where nothing is asked nothing is rounded
                rgb[p, r, c] = max(x + (x - air) * (k - np.float32(1)), min(x, x * np.float32(0.1)))


def coefficients(params: HazeParams, strength: float) -> F32:
    """[amount]"""
    return np.array([params.amount * strength], np.float32)


MOVE = MoveKind(
    kind="haze",
    revision=1,
    band="light",
    label="Haze",
    question="What hangs in the air?",
    sentence="Haze {amount}",
    params=HazeParams,
    verbs=("haze", "clear"),
    signs={"clear": -1},
    first="amount",
    place=42,
    kernel=kernel,
    coefficients=coefficients,
    survey=survey,
)
