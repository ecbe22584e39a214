"""Kin: what resembles the places pointed at in tone, colour and texture, and lies within reach of them."""

import cv2
import numpy as np

from ..blocks import px_of
from ..parameters import Params, Point, drawn, number
from .base import F32, IngredientKind, Reading, sampled
from .found.novelty import roughness

PATCH = 0.004
"""Half a side of what is looked at around a place, in long edges."""


class KinParams(Params):
    """Reaches are differences at which half of the likeness is lost."""

    places: list[Point] = drawn("Places", 24)
    tone: float = number(
        "Tone", default=0.08, low=0.0, high=0.5, step=0.005, unit="%", decimals=1, shown_times=100.0,
        hint="How different the lightness may be",
    )  # fmt: skip
    colour: float = number(
        "Colour", default=0.04, low=0.0, high=0.3, step=0.005, unit="%", decimals=1, shown_times=100.0,
        hint="How different the colour may be",
    )  # fmt: skip
    texture: float = number(
        "Texture", default=1.5, low=0.1, high=8.0, step=0.1, unit="×", decimals=1,
        hint="Texture tolerance",
    )  # fmt: skip
    within: float = number(
        "Within", default=0.3, low=0.01, high=2.0, step=0.01, unit="%", decimals=0, shown_times=100.0,
        hint="How far away it may lie, in % of the long edge",
    )  # fmt: skip


def remark(params: KinParams) -> str:
    """What to say of settings that hold less than one might think."""
    if not params.places:
        return "Point at what it is to resemble"
    if min(params.tone, params.colour) == 0:
        return "With no reach it holds only what is exactly alike; the least there is to see is used"
    return ""


def evaluate(params: KinParams, reading: Reading) -> F32:
    """Mask (h, w): the likest place counts. Tone and colour are read px by px, texture from the whole."""
    shape = reading.stops.shape
    out = np.zeros(shape, np.float32)
    if not params.places:
        return out
    sight = reading.sight
    whole = sight.lab()
    h, w = whole.shape[1:]
    name = f"roughness {sight.name} {w} {h}"
    rough = reading.kept(name)
    if rough is None:
        across = max(5, round(0.012 * max(h, w)))
        pad = 2 * across * sight.wraps
        ring = np.stack([cv2.copyMakeBorder(p, 0, 0, pad, pad, cv2.BORDER_WRAP) for p in whole])
        rough = np.ascontiguousarray(roughness(ring, 5, across)[:, pad : pad + w])
        reading.keep(name, rough)
    lab, frame = reading.lab(), reading.frame()
    here = sampled(rough, frame, sight.wraps)
    aspect = np.array(sight.aspect, np.float32)
    tone, colour = max(params.tone, 0.002), max(params.colour, 0.002)
    half = max(1, round(PATCH * max(h, w)))
    for at in sight.to_frame(np.array([[p.x, p.y] for p in params.places])) / sight.aspect:
        r, c = int(px_of(at[1] * h, h, False)), int(px_of(at[0] * w, w, sight.wraps))
        around = np.arange(c - half, c + half + 1)
        columns = px_of(around, w, True) if sight.wraps else around[(around >= 0) & (around < w)]
        rows = np.arange(max(r - half, 0), min(r + half + 1, h))[:, None]
        middle = np.median(whole[:, rows, columns].reshape(3, -1), axis=1).astype(np.float32)
        off = np.square((lab[0] - middle[0]) / np.float32(tone))
        off += (np.square(lab[1] - middle[1]) + np.square(lab[2] - middle[2])) / np.float32(colour**2)
        off += np.square((here - np.float32(np.median(rough[rows, columns]))) / np.float32(params.texture))
        across = frame[0] - np.float32(at[0])
        if sight.wraps:
            across -= np.round(across)
        away = np.square(across * aspect[0])
        away += np.square((frame[1] - np.float32(at[1])) * aspect[1])
        off += away / np.float32(params.within**2)
        np.maximum(out, np.exp2(-off), out=out)
    return np.asarray(cv2.min(out, 1.0), np.float32)


INGREDIENT = IngredientKind(
    kind="kin",
    revision=1,
    label="Kin",
    says="like the place pointed at",
    group="What it is",
    sentence="Kin of what was pointed at",
    params=KinParams,
    evaluate=evaluate,
    remark=remark,
    place=66,
    reads=True,
)
