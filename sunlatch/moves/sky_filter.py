"""Sky filter: what a polariser would have done to a blue sky: it grows darker, and loses its white veil."""

import math

import numpy as np

from ..fastmath import exp2
from ..parameters import Params, number
from .base import F32, MoveKind, move_kernel
from .rows import row_from_lab, row_to_lab

BLUE = math.radians(255.0)
"""Hue of a clear sky in OKLab."""


class SkyFilterParams(Params):
    """Only what is blue takes part: polarised light is, and clouds' is not."""

    depth: float = number(
        "Depth", default=0.0, low=0.0, high=3.0, step=0.05, unit="stops", decimals=2,
        hint="How much darker the deepest blue becomes",
    )  # fmt: skip
    veil: float = number(
        "Reduce haze in blue", default=0.3, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="How much of the white before the blue goes with it",
    )  # fmt: skip
    spread: float = number(
        "Hues", default=55.0, low=15.0, high=110.0, step=1.0, unit="°", decimals=0,
        hint="How far from blue a hue may lie",
    )  # fmt: skip


@move_kernel
def kernel(rgb, mask, coef, aux, place):  # type: ignore[no-untyped-def]
    """How blue a px is, 0–1, by hue and by chroma to lightness: that share of depth and veil is applied."""
    stops, veil, across, along, edge = coef[0], coef[1], coef[2], coef[3], coef[4]
    lab = np.empty((3, rgb.shape[2]), np.float32)
    zero, one, three = np.float32(0), np.float32(1), np.float32(3)
    for r in range(rgb.shape[1]):
        row_to_lab(rgb[0, r], rgb[1, r], rgb[2, r], lab)
        for c in range(rgb.shape[2]):
            light = max(lab[0, c], np.float32(1e-4))
            chroma = np.sqrt(lab[1, c] * lab[1, c] + lab[2, c] * lab[2, c])
            towards = (lab[1, c] * across + lab[2, c] * along) / max(chroma, np.float32(1e-6))
            hue = min(max(zero, (towards - edge) / max(one - edge, np.float32(1e-3))), one)
            strong = min(max(zero, (chroma / light - np.float32(0.015)) / np.float32(0.09)), one)
            blue = mask[r, c] * hue * hue * (three - hue - hue) * strong * strong * (three - strong - strong)
            lab[0, c] *= exp2(-blue * stops / three)
            gain = exp2(-blue * stops / three) * (one + blue * veil)
            lab[1, c] *= gain
            lab[2, c] *= gain
        row_from_lab(lab, mask[r], rgb[0, r], rgb[1, r], rgb[2, r])


def coefficients(params: SkyFilterParams, strength: float) -> F32:
    """[stops, veil, the blue's direction, cosine of how far a hue may lie]. The veil goes as depth comes."""
    depth = params.depth * strength
    return np.array(
        [depth, params.veil * min(depth, 1), math.cos(BLUE), math.sin(BLUE),
         math.cos(math.radians(params.spread))],
        np.float32,
    )  # fmt: skip


MOVE = MoveKind(
    kind="sky_filter",
    revision=1,
    band="light",
    label="Sky filter",
    says="deepens a sky as a polariser would",
    question="What colour is it?",
    sentence="Sky filter {depth} deep",
    params=SkyFilterParams,
    verbs=("filter",),
    first="depth",
    place=84,
    kernel=kernel,
    coefficients=coefficients,
)
