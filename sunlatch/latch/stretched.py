"""Stretched: where lens, plumb, projection, Reshape or Nudge have drawn the picture out."""

import numpy as np

from ..parameters import Params, number
from .base import F32, IngredientKind, Reading, smoothstep


class StretchedParams(Params):
    """From which stretch on, and how softly."""

    least: float = number(
        "From", default=1.05, low=1.0, high=3.0, step=0.01, unit="×", decimals=2,
        hint="How many times as long things are as on the frame, where it begins",
    )  # fmt: skip
    soft: float = number("Softly over", default=0.2, low=0.02, high=2.0, step=0.01, unit="×", decimals=2)


def stretch(reading: Reading) -> F32:
    """Length on the developed picture per length on the frame (h, w), the larger way; 1 where nothing is drawn out."""
    frame = reading.frame() * np.array(reading.sight.aspect, np.float32)[:, None, None]
    (fxy, fxx), (fyy, fyx) = (np.gradient(plane) for plane in frame)
    (cxy, cxx), (cyy, cyx) = (np.gradient(plane) for plane in reading.canvas_places())
    det = cxx * cyy - cxy * cyx
    det = np.where(np.abs(det) < 1e-12, np.float32(1e-12), det)
    # the frame's places by the canvas's
    a, b = (fxx * cyy - fxy * cyx) / det, (fxy * cxx - fxx * cxy) / det
    c, d = (fyx * cyy - fyy * cyx) / det, (fyy * cxx - fyx * cxy) / det
    total, area = a * a + b * b + c * c + d * d, a * d - b * c
    least = (total - np.sqrt(np.maximum(total * total - 4 * area * area, 0))) / 2
    return np.asarray(1 / np.sqrt(np.maximum(least, 1e-6)), np.float32)


def evaluate(params: StretchedParams, reading: Reading) -> F32:
    """Mask (h, w)."""
    over = (stretch(reading).astype(np.float64) - params.least) / params.soft
    return np.asarray(smoothstep(over), np.float32)


INGREDIENT = IngredientKind(
    kind="stretched",
    revision=1,
    label="Stretched",
    says="where reshaping made it softer",
    group="Where it lies",
    sentence="Stretched from {least} on",
    params=StretchedParams,
    evaluate=evaluate,
    place=48,
    placed=True,
)
