"""Detail: where there is texture, or none."""

from typing import Literal

import cv2
import numpy as np

from ..parameters import Params, choice, number
from .base import F32, IngredientKind, Reading, sampled


class DetailParams(Params):
    """Contrast of fine things, as a root mean square within a window."""

    what: Literal["texture", "none"] = choice(
        "Where there is", "texture", {"texture": "texture", "none": "none"}
    )
    size: float = number(
        "How fine", default=0.003, low=0.001, high=0.02, step=0.0005, unit="%", decimals=2, shown_times=100.0,
        hint="Of what size the texture is, in % of the long edge",
    )  # fmt: skip
    above: float = number(
        "Begins at", default=0.15, low=0.01, high=1.5, step=0.01, unit="stops", decimals=2,
        hint="Contrast that counts as texture; half of it does not",
    )  # fmt: skip


def evaluate(params: DetailParams, reading: Reading) -> F32:
    """Mask (h, w): 0 below half of `above`, 1 from twice of it, smooth between."""
    stops = reading.sight.stops()
    sigma = max(params.size * max(stops.shape), 0.6)
    fine = stops - cv2.GaussianBlur(stops, (0, 0), sigma)
    window = 2 * round(3 * sigma) + 1
    # its running sums can fall below nothing
    contrast = np.sqrt(np.maximum(np.asarray(cv2.blur(fine * fine, (window, window)), np.float32), 0))
    t = np.clip((np.log2(np.maximum(contrast, 1e-6) / params.above) + 1) / 2, 0, 1)
    mask = np.asarray(t * t * (3 - 2 * t), np.float32)
    return sampled(mask if params.what == "texture" else 1 - mask, reading.frame(), reading.sight.wraps)


INGREDIENT = IngredientKind(
    kind="detail",
    revision=1,
    label="Detail",
    says="where there is texture",
    group="What it is",
    sentence="Detail, where there is {what}",
    params=DetailParams,
    evaluate=evaluate,
    place=70,
    reads=True,
)
