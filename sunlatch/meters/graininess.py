"""How much of a picture's finest contrast is noise, and how much its own texture."""

from typing import Final

import numpy as np

from ..geometry import View
from ..render import Development
from ..sensor.noise import LIGHT_SHARE, WEIGHTS, finest

PLACES: Final = ((0.1, 0.4, 0.65, 0.9), (0.08, 0.3, 0.5, 0.7, 0.9))
"""Where it is looked at, across and down, in fractions of the frame."""
SIDE, BLOCK = 160, 20
"""Px on a side of the windows that are looked at, at full size, and of the blocks they are read in."""


def explained_by_noise(development: Development, quantile: float = 0.4) -> float:
    """The share of the finest contrast (variance, 0–1) that the sensor's noise explains, block by block over the
    whole frame; the quantile of the blocks. Grass in the sun has hundredths, the sky nearly all."""
    base = development.geometry.base
    w, h = base.developed_size
    across, down = min(SIDE, w) // BLOCK, min(SIDE, h) // BLOCK
    if across < 1 or down < 1:
        return 0.0
    scale, offset = development.ground.sensor.model().mixed(WEIGHTS)
    neutral = np.array(development.ground.sensor.model().neutral, np.float32)[:, None, None]
    shares = []
    for v in PLACES[1]:
        for u in PLACES[0]:
            size = (across * BLOCK, down * BLOCK)
            left, top = (round(f * (full - one)) for f, full, one in zip((u, v), (w, h), size, strict=True))
            region = (left / w, top / h, (left + size[0]) / w, (top + size[1]) / h)
            camera = development.ground.reading_camera(View(region, size), base)
            low, detail = finest(np.tensordot(WEIGHTS, camera / neutral, 1))
            seen, light = (p.reshape(down, BLOCK, across, BLOCK).mean((1, 3)) for p in (detail * detail, low))
            noise = (scale * np.maximum(light, 0) + offset) * LIGHT_SHARE[0] ** 2
            shares.append((noise / np.maximum(seen, 1e-20)).ravel())
    return float(np.clip(np.quantile(np.concatenate(shares), quantile), 0, 1))
