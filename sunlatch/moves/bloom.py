"""Bloom: the soft glow of what is bright, scattered in linear light; as much is taken as is given."""

from typing import Any

import cv2
import numpy as np

from .. import compiled
from ..fastmath import exp2, smooth
from ..parameters import Params, number
from .base import F32, MoveKind, move_kernel
from .grid import row_stops, stops_of
from .sampling import columns, row_sampled


class BloomParams(Params):
    """(1 − k)·light + k·its blur, of what is brighter than `above`."""

    amount: float = number(
        "Bloom", default=0.0, low=0.0, high=1.0, step=0.01, unit="%", decimals=0, shown_times=100.0
    )
    radius: float = number(
        "Radius", default=0.02, low=0.004, high=0.15, step=0.001, unit="%", decimals=1, shown_times=100.0,
        hint="In % of the long edge",
    )  # fmt: skip
    above: float = number(
        "From light above", default=-2.0, low=-12.0, high=5.0, step=0.1, unit="stops", signed=True, decimals=1
    )
    warmth: float = number(
        "Warmth", default=0.0, low=-1.0, high=1.0, step=0.02, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip
    vividness: float = number(
        "Vividness", default=0.0, low=-1.0, high=1.0, step=0.02, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip


_ZERO, _ONE, _TWO = np.float32(0), np.float32(1), np.float32(2)


@compiled.inlined
def _share(stops, above):  # type: ignore[no-untyped-def]
    """How much of a px is bright."""
    return smooth((stops - above + _ONE) / _TWO)


@compiled.kernel("void(float32[:, :, :], float32[:, ::1], float32, float32[:, :, ::1])")
def _bright(rgb, stops, above, out):  # type: ignore[no-untyped-def]
    """What is bright of (3, h, w), as (h, w, 3)."""
    for r in range(stops.shape[0]):
        for c in range(stops.shape[1]):
            share = _share(stops[r, c], above)
            for k in range(3):
                out[r, c, k] = rgb[k, r, c] * share


def survey(rgb: F32, params: BloomParams) -> F32:
    """(3, h, w, 1): what is bright, blurred narrowly and three times as wide."""
    _, h, w = rgb.shape
    bright = np.empty((h, w, 3), np.float32)
    _bright(rgb, stops_of(rgb), params.above, bright)
    sigma = params.radius * max(h, w)

    def blurred(s: float) -> Any:
        k = max(1, int(s / 4))  # a wide one is made on a small copy
        small = cv2.resize(bright, (max(2, w // k), max(2, h // k)), interpolation=cv2.INTER_AREA)
        small = cv2.GaussianBlur(small, (0, 0), s / k, borderType=cv2.BORDER_REFLECT)
        return cv2.resize(small, (w, h), interpolation=cv2.INTER_CUBIC)

    glow = cv2.addWeighted(blurred(sigma), 0.6, blurred(3 * sigma), 0.4, 0.0)
    return np.ascontiguousarray(glow.transpose(2, 0, 1), np.float32)[..., None]


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """light + m·k·(its glow, made warmer and more vivid − what of it is bright)."""
    w = rgb.shape[2]
    stops = np.empty(w, np.float32)
    glow = np.empty((3, w), np.float32)
    pairs, held = np.empty((3, 2, w), np.float32), np.full((3, 2), -1)
    at, between = np.empty(w, np.uint32), np.empty(w, np.float32)
    columns(place, aux.shape[2], at, between)
    warm = exp2(np.float32(0.6) * coef[2])
    cool = exp2(np.float32(-0.6) * coef[2])
    # warmer at the same luminance
    even = _ONE / (np.float32(0.2627) * warm + np.float32(0.6780) + np.float32(0.0593) * cool)
    for r in range(rgb.shape[1]):
        row_stops(rgb[0, r], rgb[1, r], rgb[2, r], stops)
        for k in range(3):
            row_sampled(aux[k, :, :, 0], place, r, at, between, pairs[k], held[k], glow[k])
        for c in range(w):
            share = _share(stops[c], coef[1])
            a, b, d = glow[0, c] * warm * even, glow[1, c] * even, glow[2, c] * cool * even
            y = np.float32(0.2627) * a + np.float32(0.6780) * b + np.float32(0.0593) * d
            much, vivid = mask[r, c] * coef[0], _ONE + coef[3]
            rgb[0, r, c] += much * (max(y + vivid * (a - y), _ZERO) - share * rgb[0, r, c])
            rgb[1, r, c] += much * (max(y + vivid * (b - y), _ZERO) - share * rgb[1, r, c])
            rgb[2, r, c] += much * (max(y + vivid * (d - y), _ZERO) - share * rgb[2, r, c])


def coefficients(params: BloomParams, strength: float) -> F32:
    """[k, above, warmth, vividness]; more than everything cannot be scattered."""
    k = min(params.amount * strength, 1.0)
    return np.array([k, params.above, params.warmth, params.vividness], np.float32)


MOVE = MoveKind(
    kind="bloom",
    revision=1,
    band="light",
    label="Bloom",
    says="a soft glow around light",
    question="What hangs in the air?",
    sentence="Bloom {amount}, of light above {above}",
    params=BloomParams,
    verbs=("bloom", "glow"),
    first="amount",
    place=44,
    kernel=kernel,
    coefficients=coefficients,
    survey=survey,
    surveyed=("radius", "above"),
)
