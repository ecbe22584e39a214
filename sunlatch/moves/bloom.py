"""Bloom: the soft glow of what is bright, scattered in linear light; as much is taken as is given."""

import cv2
import numpy as np

from ..fastmath import exp2
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
        "Of light above", default=-2.0, low=-12.0, high=5.0, step=0.1, unit="stops", signed=True, decimals=1
    )
    warmth: float = number(
        "Warmth", default=0.0, low=-1.0, high=1.0, step=0.02, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip
    vividness: float = number(
        "Vividness", default=0.0, low=-1.0, high=1.0, step=0.02, unit="%", signed=True, decimals=0,
        shown_times=100.0,
    )  # fmt: skip


def _share(stops: F32, above: float) -> F32:
    t = np.clip((stops - above + 1) / 2, 0, 1)
    return np.asarray(t * t * (3 - 2 * t), np.float32)


def survey(rgb: F32, params: BloomParams) -> F32:
    """(3, h, w, 1): what is bright, blurred narrowly and three times as wide."""
    _, h, w = rgb.shape
    stops = stops_of(rgb)
    share = _share(stops, params.above)
    sigma = params.radius * max(h, w)

    def blurred(p: F32, s: float) -> F32:
        k = max(1, int(s / 4))  # a wide one is made on a small copy
        small = cv2.resize(p, (max(2, w // k), max(2, h // k)), interpolation=cv2.INTER_AREA)
        small = cv2.GaussianBlur(small, (0, 0), s / k, borderType=cv2.BORDER_REFLECT)
        return np.asarray(cv2.resize(small, (w, h), interpolation=cv2.INTER_CUBIC), np.float32)

    return np.stack([0.6 * blurred(p * share, sigma) + 0.4 * blurred(p * share, 3 * sigma) for p in rgb])[
        ..., None
    ]


_ZERO, _ONE, _TWO = np.float32(0), np.float32(1), np.float32(2)


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """light + m·k·(its glow, made warmer and more vivid − what of it is bright)."""
    w = rgb.shape[2]
    stops = np.empty(w, np.float32)
    glow = np.empty((3, w), np.float32)
    line = np.empty(aux.shape[2], np.float32)
    at, between = np.empty(w, np.uint32), np.empty(w, np.float32)
    columns(place, aux.shape[2], at, between)
    warm = exp2(np.float32(0.6) * coef[2])
    cool = exp2(np.float32(-0.6) * coef[2])
    # warmer at the same luminance
    even = _ONE / (np.float32(0.2627) * warm + np.float32(0.6780) + np.float32(0.0593) * cool)
    for r in range(rgb.shape[1]):
        row_stops(rgb[0, r], rgb[1, r], rgb[2, r], stops)
        for k in range(3):
            row_sampled(aux[k, :, :, 0], place, r, at, between, line, glow[k])
        for c in range(w):
            t = min(max((stops[c] - coef[1] + _ONE) / _TWO, _ZERO), _ONE)
            share = t * t * (np.float32(3) - t - t)
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
