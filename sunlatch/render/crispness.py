"""Crispness: fine contrast of log light given back, where there are edges and above the noise."""

import cv2
import numpy as np
from numpy.typing import NDArray

from .noise import LIGHT_SHARE, WEIGHTS, NoiseModel

F32 = NDArray[np.float32]

APRON = 20
"""Px around a tile that the largest radius and the edge mask reach into."""
_LIMIT = 0.6
"""Stops a px may be changed at most, softly."""


def _parts(camera: F32, level: int, model: NoiseModel, radius: float, floor: float, left: float):  # type: ignore[no-untyped-def]
    """Detail above the noise in stops, and how much of an edge there is, 0–1; both (h, w)."""
    w = np.array(model.neutral, np.float32)
    y = np.tensordot(WEIGHTS / w, camera, 1).astype(np.float32)
    scale, offset = model.mixed(WEIGHTS)
    dark = np.float32(2 * np.sqrt(offset) + 1e-5)
    held = np.maximum(y, dark)
    stops = np.log2(held)
    sigma = max(radius / 2**level, 0.01)
    size = 2 * int(np.ceil(3 * sigma)) + 1
    base = cv2.GaussianBlur(stops, (size, size), sigma)
    detail = stops - base
    spread = LIGHT_SHARE[level] * left * np.sqrt(scale * held + offset) / (held * np.float32(np.log(2)))
    above = np.maximum(np.abs(detail) - floor * spread, 0)
    detail = np.sign(detail) * above
    # how strong contrast is around, against noise: an edge lifts it over a few px
    around = cv2.boxFilter(above, cv2.CV_32F, (5, 5), borderType=cv2.BORDER_REPLICATE)
    edge = np.clip((around / (spread + 0.02) - 0.15) / 1.2, 0, 1)
    return detail, edge * edge * (3 - 2 * edge)


def crisp(
    camera: F32, level: int, model: NoiseModel, amount: float, radius: float, edges: float, floor: float,
    left: float = 1.0,
) -> None:  # fmt: skip
    """Sharpen camera RGB (3, h, w) of a pyramid level, in place. radius: px of the frame; edges: 0
    everywhere, 1 on edges only; floor: in standard deviations of the noise; left: the share of the
    noise that is still there."""
    detail, edge = _parts(camera, level, model, radius, floor, left)
    change = amount * detail * (1 - edges + edges * edge)
    change = change / (1 + np.abs(change) / _LIMIT)
    camera *= np.exp2(change)[None]


def edge_mask(
    camera: F32, level: int, model: NoiseModel, radius: float, edges: float, floor: float, left: float = 1.0
) -> F32:
    """Where Crispness acts: (h, w) in [0, 1]."""
    detail, edge = _parts(camera, level, model, radius, floor, left)
    seen = np.clip(np.abs(detail) / 0.08, 0, 1)
    return np.asarray(seen * (1 - edges + edges * edge), np.float32)
