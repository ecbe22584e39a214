"""The sky that rays meet, and the dome of it that water mirrors."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from .sky import Daylight, sky_rows

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
COARSER, CLOUDS, MIRRORED_CLOUDS = 3, 9, 6
"""How many times as sparsely as other rays the sky's are cast, as clouds are soft; and octaves of clouds, seen and mirrored."""


@dataclass(frozen=True)
class PaintedSky:
    """The sky in a light. bands(rows, step, work): runs work(first, last) over rows, on all threads."""

    light: Daylight
    sun: F64
    sun_colour: F64
    table: F32
    bands: Callable[[int, int, Callable[[int, int], None]], None]

    def behind(self, world: F32) -> F32:
        """The sky behind every ray (h, w, 3) of a picture."""
        h, w = world.shape[:2]
        rays = cv2.resize(world, (-(-w // COARSER), -(-h // COARSER)), interpolation=cv2.INTER_AREA)
        rays /= np.linalg.norm(rays, axis=-1, keepdims=True)
        out = self._painted(rays, CLOUDS)
        return np.maximum(cv2.resize(out, (w, h), interpolation=cv2.INTER_CUBIC), 0).astype(np.float32)

    def dome(self) -> F32:
        """The whole sky, for what the water mirrors."""
        el = (np.linspace(0, 1, 160) ** 2) * math.pi / 2
        az = (np.arange(640) / 640 - 0.5) * 2 * math.pi
        rays = np.stack(
            [
                np.cos(el)[:, None] * np.sin(az),
                np.repeat(np.sin(el)[:, None], az.size, 1),
                np.cos(el)[:, None] * np.cos(az),
            ],
            -1,
        )
        return self._painted(np.ascontiguousarray(rays, np.float32), MIRRORED_CLOUDS)

    def _painted(self, rays: F32, octaves: int) -> F32:
        out = np.empty_like(rays)
        self.bands(
            rays.shape[0], 16,
            lambda a, b: sky_rows(a, b, rays, self.sun, self.sun_colour, self.table, self.light.cloud_cover,
                                  self.light.seed, octaves, out),
        )  # fmt: skip
        return out
