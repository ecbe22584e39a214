"""Refocus: a Gaussian softness taken out again, by the algorithm of Richardson and Lucy (Richardson 1972, Lucy 1974).

It works on light as a whole and gives all three channels the same gain, so no edge takes a colour. Where what is missing
is within the noise nothing is given back (damping after White 1994), and no px goes farther beyond the light around it
than it is allowed: that is what rings are.
"""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel
from .noise import LIGHT_SHARE, WEIGHTS, NoiseModel

F32 = NDArray[np.float32]

APRON: Final = 32
"""Px around a tile that are looked at."""
ROUNDS: Final = 12
SOFTNESS_SEEN_PX: Final = 0.35
"""A softness smaller than this, in px of a level, is not to be seen there."""
_ZERO, _ONE = np.float32(0), np.float32(1)


@kernel("void(float32[:, ::1], float32[:, ::1], float32, float32, float32, float32[:, ::1])")
def _missing(light, blurred, scale, offset, floor, out):  # type: ignore[no-untyped-def]
    """Light per light as it would be softened, 1 where they differ by no more than noise."""
    for r in range(light.shape[0]):
        for c in range(light.shape[1]):
            have, would = light[r, c], max(blurred[r, c], np.float32(1e-6))
            spread = floor * np.sqrt(scale * max(have, _ZERO) + offset) + np.float32(1e-7)
            t = min(abs(have - would) / spread, _ONE)
            out[r, c] = _ONE + t * t * (have / would - _ONE)


@kernel(
    "void(float32[:, :, ::1], float32[:, ::1], float32[:, ::1], float32[:, ::1], float32[:, ::1], float32, float32)"
)
def _given_back(camera, light, sharp, low, high, ring, amount):  # type: ignore[no-untyped-def]
    for r in range(light.shape[0]):
        for c in range(light.shape[1]):
            room = ring * (high[r, c] - low[r, c])
            to = min(max(low[r, c] - room, sharp[r, c]), high[r, c] + room)
            gain = _ONE + amount * (to / light[r, c] - _ONE)
            gain = max(gain, np.float32(0.05))
            camera[0, r, c] *= gain
            camera[1, r, c] *= gain
            camera[2, r, c] *= gain


def refocus(
    camera: F32, level: int, model: NoiseModel, amount: float, radius: float, ring: float, floor: float,
    left: float = 1.0,
) -> None:  # fmt: skip
    """Draw camera RGB (3, h, w) of a pyramid level together, in place. radius: standard deviation of the softness, px of the
    frame; ring: how far beyond the light around it a px may go, in shares of the contrast there; floor: in standard
    deviations of the noise; left: the share of the noise that is still there."""
    sigma = radius / 2**level
    if sigma < SOFTNESS_SEEN_PX or amount <= 0:
        return
    weights = (WEIGHTS / np.array(model.neutral)).astype(np.float32)
    light = np.maximum(np.tensordot(weights, camera, 1), np.float32(1e-5)).astype(np.float32)
    scale, offset = model.mixed(WEIGHTS)
    share = np.float32((LIGHT_SHARE[level] * left) ** 2)
    size = 2 * int(np.ceil(3 * sigma)) + 1
    sharp, ratio = light.copy(), np.empty_like(light)
    for _ in range(ROUNDS):
        blurred = cv2.GaussianBlur(sharp, (size, size), sigma, borderType=cv2.BORDER_REPLICATE)
        _missing(
            light, blurred, share * np.float32(scale), share * np.float32(offset), np.float32(floor), ratio
        )
        sharp *= cv2.GaussianBlur(ratio, (size, size), sigma, borderType=cv2.BORDER_REPLICATE)
    around = np.ones((2 * int(np.ceil(1.5 * sigma)) + 1,) * 2, np.uint8)
    low, high = cv2.erode(light, around), cv2.dilate(light, around)
    _given_back(camera, light, sharp, low, high, np.float32(ring), np.float32(amount))
