"""Specks, so that they are seen: local contrast raised until spots show, also those that Light has made visible."""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..colour.spaces import DISPLAY_LUMA
from ..geometry import View
from ..render import SCREEN, Development

F32 = NDArray[np.float32]
SURROUNDINGS: Final = 0.02
"""What is around a place, in long edges of the picture."""
RAISED: Final = 7.0
"""How many times as plain differences are shown."""
SMALLEST: Final = 1e-4
"""Light, at least, of which a logarithm is taken."""
GRAIN: Final = 0.0012
"""How far grain is evened, in long edges of the picture."""
MIDDLE, STOPS = 128, 4
"""The grey of what differs in nothing, of 255; and how many natural logarithms they would span, not RAISED."""


def specks_picture(development: Development, view: View) -> NDArray[np.uint8]:
    """A view in greys (h, w, 3), 8 bit: how much lighter or darker every place is than what is around it, as it will be shown."""
    light = np.empty((view.size[1], view.size[0]), np.float32)

    def take(band: F32, r: int, e: int) -> None:
        light[r:e] = np.tensordot(DISPLAY_LUMA, band, 1)

    development.display(view, SCREEN, take, keep=False)
    stops = cv2.log(np.maximum(light, SMALLEST))
    across = max(view.size) / max(view.region[2] - view.region[0], view.region[3] - view.region[1])
    apart = cv2.GaussianBlur(stops, (0, 0), GRAIN * across) - cv2.GaussianBlur(
        stops, (0, 0), SURROUNDINGS / 2 * across
    )
    grey = np.clip(MIDDLE + 255 * RAISED / STOPS * apart, 0, 255).astype(np.uint8)
    return np.repeat(grey[..., None], 3, axis=2)
