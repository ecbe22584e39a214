"""Specks, so that they are seen: local contrast raised until spots show, also those that Light has made visible."""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..geometry import View
from ..render import SCREEN, Development

F32 = NDArray[np.float32]
AROUND: Final = 0.02
"""What is around a place, in long edges of the picture."""
RAISED: Final = 7.0
"""How many times as plain differences are shown."""
SMALLEST: Final = 1e-4


def specks_picture(development: Development, view: View) -> NDArray[np.uint8]:
    """A view in greys (h, w, 3), 8 bit: how much lighter or darker every place is than what is around it, as it will be shown."""
    light = np.empty((view.size[1], view.size[0]), np.float32)

    def take(band: F32, r: int, e: int) -> None:
        light[r:e] = np.tensordot(np.array([0.2126, 0.7152, 0.0722], np.float32), band, 1)

    development.display(view, SCREEN, take, keep=False)
    stops = cv2.log(np.maximum(light, SMALLEST))
    across = max(view.size) / max(view.region[2] - view.region[0], view.region[3] - view.region[1])
    apart = cv2.GaussianBlur(stops, (0, 0), 0.0012 * across) - cv2.GaussianBlur(
        stops, (0, 0), AROUND / 2 * across
    )
    grey = np.clip(128 + 255 * RAISED / 4 * apart, 0, 255).astype(np.uint8)
    return np.repeat(grey[..., None], 3, axis=2)
