"""The difference between two states of a scene, in stops."""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..colour.spaces import DISPLAY_LUMA
from ..geometry import View
from ..render import SCREEN, Development

F32 = NDArray[np.float32]
SCALE: Final = 2.0
"""Stops at which its picture is white, or black."""
DARKEST: Final = 0.18 * 2.0**-9
"""Light under this is black either way: display light has no stops there."""


def difference(one: Development, other: Development, view: View) -> F32:
    """Stops (h, w) by which the other shows a place lighter, as both are shown."""
    seen = []
    for made in (one, other):
        out = np.empty((view.size[1], view.size[0]), np.float32)

        def take(band: F32, r: int, e: int, out: F32 = out) -> None:
            out[r:e] = np.tensordot(DISPLAY_LUMA, band, 1)

        made.display(view, SCREEN, take, keep=False)
        seen.append(np.log2(np.maximum(out, DARKEST)))
    return np.asarray(seen[1] - seen[0], np.float32)


def difference_picture(one: Development, other: Development, view: View) -> NDArray[np.uint8]:
    """The same as a picture (h, w, 3): mid grey where both are alike, white where the other is SCALE stops lighter, black where
    it is so much darker."""
    stops = difference(one, other, view)
    grey = np.clip(128 + stops / SCALE * 127, 0, 255).round().astype(np.uint8)
    return np.repeat(grey[..., None], 3, axis=2)
