"""Hand: painted. Strokes lie on the frame, so that lens, plumb and trim leave them on what was painted.

A stroke counts once however often it crosses itself; strokes add up, and the eraser takes away. With
`seek`, a stroke holds only what looks like what its middle went over.
"""

import hashlib

import cv2
import numpy as np

from ..parameters import Params, drawn, number
from .base import F32, IngredientKind, Reading, sampled
from .sheets import Sheet
from .strokes import Stroke, covered, path_of

SIZES = (1280, 2560, 5120, 10240)
"""Long edges, px, at which strokes are drawn; the first that is not coarser than the view."""
LIKE = 0.05
"""Distance in OKLab at which an edge-seeking stroke lets go."""


class HandParams(Params):
    """What was painted, and the brush that paints next."""

    strokes: list[Stroke | Sheet] = drawn("Strokes", 20_000)
    size: float = number(
        "Size", default=0.03, low=0.001, high=0.4, step=0.001, unit="%", decimals=1, shown_times=100.0,
        hint="Radius of the brush in % of the long edge",
    )  # fmt: skip
    soft: float = number(
        "Soft", default=0.7, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0
    )
    flow: float = number(
        "Flow", default=1.0, low=0.05, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How much one stroke lays down; strokes add up",
    )  # fmt: skip


def _drawn(mask: F32, stroke: Stroke, reading: Reading) -> None:
    """Lay a stroke down on a mask (h, w) of the whole upright frame, in place."""
    h, w = mask.shape
    laid = covered(stroke, reading.look, mask.shape)
    if laid is None:
        return
    cover, left, top = laid
    right, bottom = left + cover.shape[1], top + cover.shape[0]
    if stroke.seek:
        lab = reading.look.lab((left / w, top / h, right / w, bottom / h), max(cover.shape))
        size = (cover.shape[1], cover.shape[0])  # a small frame is not enlarged for the look
        lab = np.stack([cv2.resize(p, size, interpolation=cv2.INTER_LINEAR) for p in lab])
        path = path_of(stroke, reading.look, mask.shape)
        cover = np.asarray(cover * _alike(lab, path - np.array([left, top, 0], np.float32)), np.float32)
    here = mask[top:bottom, left:right]
    cover *= np.float32(stroke.flow)
    if stroke.erase:
        here *= 1 - cover
    else:
        here += (1 - here) * cover


def _alike(lab: F32, path: F32) -> F32:
    """How like what the stroke's middle went over each px is (h, w); lab (3, h, w) of its window."""
    h, w = lab.shape[1:]
    lab = np.stack([cv2.GaussianBlur(p, (0, 0), 1.5) for p in lab])  # texture is not an edge
    some = path[np.linspace(0, len(path) - 1, min(len(path), 12)).astype(int)]
    columns, rows = np.clip(some[:, 0], 0, w - 1).astype(int), np.clip(some[:, 1], 0, h - 1).astype(int)
    best = np.full((h, w), np.inf, np.float32)
    for r, c in zip(rows, columns, strict=True):
        middle = lab[:, max(r - 1, 0) : r + 2, max(c - 1, 0) : c + 2].mean((1, 2))
        best = np.minimum(best, np.square(lab - middle[:, None, None]).sum(0))
    return np.asarray(1 / (1 + (best / LIKE**2) ** 2), np.float32)


def evaluate(params: HandParams, reading: Reading) -> F32:
    """Mask (h, w). Strokes are drawn once at a size, each upon those before it."""
    aspect, span = reading.look.aspect, next((s for s in SIZES if s >= reading.span), SIZES[-1])
    shape = (max(1, round(aspect[1] * span)), max(1, round(aspect[0] * span)))
    strokes: list[Stroke] = []
    for item in params.strokes:
        strokes += reading.look.sheet(item) if isinstance(item, Sheet) else [item]
    names, digest = [], hashlib.blake2b(f"{shape} {reading.look.name}".encode(), digest_size=16)
    for stroke in strokes:
        digest.update(stroke.said)
        names.append(digest.hexdigest())
    done, mask = 0, np.zeros(shape, np.float32)
    for n in range(len(names), 0, -1):
        held = reading.kept(names[n - 1])
        if held is not None:
            done, mask = n, held
            break
    if done < len(names):
        mask = mask.copy()
        for stroke in strokes[done:]:
            _drawn(mask, stroke, reading)
        reading.keep(names[-1], mask)
    return sampled(mask, reading.frame())


INGREDIENT = IngredientKind(
    kind="hand",
    revision=1,
    label="Hand",
    group="By hand",
    sentence="Hand, strokes: {strokes}",
    params=HandParams,
    evaluate=evaluate,
    place=80,
)
