"""Output sharpness: what ink and paper will blur, and the eye from where it looks, is made up for at the size of the print."""

from dataclasses import dataclass, replace
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA

F32 = NDArray[np.float32]
SPREAD_MM: Final = {"matte": 0.085, "lustre": 0.060, "gloss": 0.050, "metallic": 0.045}
"""How far ink and light spread on a surface (one sigma)."""
AMOUNT: Final = {"matte": 1.0, "lustre": 0.75, "gloss": 0.65, "metallic": 0.6}
ARC_MINUTE: Final = 0.000291
"""What an eye can tell apart, in lengths of the distance."""
SOFT_LIMIT: Final = 0.10
"""Detail stronger than this, in lightness 0–1, is sharpened less and less, so that no edge rings."""
FLOOR: Final = 0.003
"""Detail weaker than this is taken for noise."""
COARSER: Final = (1.6, 3.2)
"""How much wider, in sigmas, detail is that says whether a place is smooth: grain is not there any more, texture is."""
BUSY: Final = (0.0025, 0.008)
"""Where that is weaker than the first a place is smooth, sky or mist, and spared; from the second on it is not."""


@dataclass(frozen=True)
class Sharpness:
    """ppi: of the print; surface: of SPREAD_MM; distance: it is seen from, m; much: 1 for what is right; spare: smooth places."""

    ppi: float
    surface: str = "lustre"
    distance: float = 0.6
    much: float = 1.0
    spare: bool = True

    def by(self, much: float) -> "Sharpness":
        """The same, so much of it."""
        return replace(self, much=much)

    @property
    def sigma(self) -> float:
        """How wide the blur is that is made up for, px (one sigma)."""
        eye = 0.5 * ARC_MINUTE * self.distance * 1000
        return float(np.clip(np.hypot(SPREAD_MM[self.surface], eye) * self.ppi / 25.4 * 0.5, 0.4, 6.0))

    @property
    def apron(self) -> int:
        """How many px around it a px depends on."""
        return int(np.ceil((4 * COARSER[1] + 8) * self.sigma)) + 4

    def sharpened(self, light: F32) -> F32:
        """Display light (3, h, w) of the working space, sharpened in lightness; colours keep their hue."""
        y = np.maximum(np.tensordot(LUMA.astype(np.float32), light, 1), 1e-6)
        tone = np.cbrt(y)
        detail = tone - cv2.GaussianBlur(tone, (0, 0), self.sigma)
        size = np.abs(detail)
        held = detail * np.maximum(size - FLOOR, 0) / np.maximum(size, 1e-6) / (1 + size / SOFT_LIMIT)
        more = self.much * AMOUNT[self.surface] * held
        if self.spare:
            fine, coarse = (cv2.GaussianBlur(tone, (0, 0), wide * self.sigma) for wide in COARSER)
            around = cv2.GaussianBlur(np.abs(fine - coarse), (0, 0), 2 * self.sigma)
            t = np.clip((around - BUSY[0]) / (BUSY[1] - BUSY[0]), 0, 1)
            more *= t * t * (3 - 2 * t)
        times = (np.maximum(tone + more, 0) / tone) ** 3
        return np.asarray(np.minimum(light * times, 1), np.float32)
