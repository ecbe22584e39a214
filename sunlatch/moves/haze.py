"""Haze: what hangs before distant things, taken away or added (dark channel prior: He, Sun & Tang 2009).

The light of the air is that of the haziest places; how much of a px's own light comes through is what its
surroundings' darkest channel leaves, refined by a guided filter. It errs on snow, white walls and wide skies,
which have no dark channel: latch it to the land.
"""

import math
from typing import Final

import cv2
import numpy as np

from .. import compiled
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
        shown_times=100.0, hint="Negative values take haze away",
    )  # fmt: skip


@compiled.kernel("void(float32[:, :, :], float32[::1], float32[:, ::1])")
def _darkest(light, per, out):  # type: ignore[no-untyped-def]
    """Each px's darkest channel, of (3, h, w), each channel first multiplied by `per`."""
    least = np.float32(1e-5)
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            a, b, d = max(light[0, r, c], least), max(light[1, r, c], least), max(light[2, r, c], least)
            out[r, c] = min(a * per[0], min(b * per[1], d * per[2]))


@compiled.kernel("void(float32[:, ::1], float32[:, ::1], float32[:, :, ::1])")
def _products(stops, veiled, out):  # type: ignore[no-untyped-def]
    """What the guided filter needs the means of: light, what comes through, their product, light squared."""
    for r in range(stops.shape[0]):
        for c in range(stops.shape[1]):
            s, through = stops[r, c], np.float32(1) - np.float32(0.95) * veiled[r, c]
            out[r, c, 0], out[r, c, 1], out[r, c, 2], out[r, c, 3] = s, through, s * through, s * s


def survey(rgb: F32, params: HazeParams) -> F32:
    """(3, h, w, 1): a and b of what comes through, a·stops + b; the air's light in the third's first row."""
    _, h, w = rgb.shape
    size = max(h, w)
    patch = np.ones((2 * max(1, round(PATCH * size)) + 1,) * 2, np.uint8)
    darkest = np.empty((h, w), np.float32)
    _darkest(rgb, np.ones(3, np.float32), darkest)
    dark = cv2.erode(darkest, patch)
    rank = math.ceil(0.995 * (dark.size - 1))
    haziest = dark >= np.partition(dark.ravel(), rank)[rank]
    air = np.array([max(np.median(p[haziest]), 1e-5) for p in rgb], np.float32)
    _darkest(rgb, 1 / air, darkest)
    stops = np.maximum(stops_of(rgb), np.float32(-10))
    asked, side = np.empty((h, w, 4), np.float32), (2 * max(2, round(0.025 * size)) + 1,) * 2
    _products(stops, cv2.erode(np.minimum(darkest, 1), patch), asked)
    means = cv2.blur(asked, side, borderType=cv2.BORDER_REFLECT)
    around, of, product, square = (means[..., n] for n in range(4))
    out = np.zeros((3, h, w, 1), np.float32)
    a = (product - around * of) / (square - around * around + np.float32(0.04))
    out[0, ..., 0] = cv2.blur(a, side, borderType=cv2.BORDER_REFLECT)
    out[1, ..., 0] = cv2.blur(of - a * around, side, borderType=cv2.BORDER_REFLECT)
    out[2, 0, :3, 0] = air
    return out


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """air + (light − air)·through^(m·amount): below an amount of 0 the inverse of haze, above it more of it."""
    w = rgb.shape[2]
    stops, a, b = np.empty(w, np.float32), np.empty(w, np.float32), np.empty(w, np.float32)
    pairs, held = np.empty((2, 2, w), np.float32), np.full((2, 2), -1)
    at, between = np.empty(w, np.uint32), np.empty(w, np.float32)
    columns(place, aux.shape[2], at, between)
    for r in range(rgb.shape[1]):
        row_stops(rgb[0, r], rgb[1, r], rgb[2, r], stops)
        row_sampled(aux[0, :, :, 0], place, r, at, between, pairs[0], held[0], a)
        row_sampled(aux[1, :, :, 0], place, r, at, between, pairs[1], held[1], b)
        for c in range(w):
            own = a[c] * max(stops[c], np.float32(-10)) + b[c]
            own = min(max(np.float32(THROUGH), own), np.float32(1))
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
    says="takes mist away, or adds it",
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
