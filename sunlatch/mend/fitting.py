"""Of places that look alike around, the one that brings nothing strange: each is tried, small, and what would show is compared
with what there is around. Where ground is mixed, the edge alone tells little of that."""

from collections.abc import Sequence
from typing import Final

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from ..blocks import Block, Fetch
from ..running.patience import go_on
from .heal import compared, healed

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
EVEN: Final = 2.0
"""Px over which texture is evened out: it is colours of patches that are compared, not of grains."""
STRANGE: Final = 90.0
"""Of all px, by how strange each is, the percentile that counts."""
ROUGH: Final = 0.5
"""How much it counts that fine contrast is another: the power of their ratio."""
EVERY: Final = 3
"""Of how many px one is asked."""


def least_foreign(
    read: Fetch, own: Block, hole: B2, around: B2, places: Sequence[tuple[int, int, float]], heals: bool
) -> tuple[int, int]:
    """dx, dy px of the place that fits best. own: the block that is mended; hole, around (h, w): what of it goes, and what tells
    how it may look; places: dx, dy and what speaks against each; heals: what is taken is led to the light around."""
    if len(places) == 1 or not (around.any() and hole.any()):
        return places[0][:2]
    there = read(*own)
    shown = compared(there)
    known = _even(shown, around)[:, around].T
    near, grain = scipy.spatial.cKDTree(known), _fine(shown[0], around)
    best, cost = places[0], np.inf
    for place in places:
        go_on()
        dx, dy, against = place
        made = read(own.top + dy, own.bottom + dy, own.left + dx, own.right + dx)
        if heals:
            made = healed(there, made, hole)
        mixed = np.where(hole, compared(made), shown)
        seen = np.stack([cv2.GaussianBlur(plane, (0, 0), EVEN) for plane in mixed])[:, hole].T[::EVERY]
        strange = np.percentile(near.query(seen, k=2)[0].mean(1), STRANGE)
        fine = _fine(mixed[0], hole) / grain
        # a cube root: what comes to be seen counts for more than what the edge promises
        total = (float(strange) + 1e-4) * max(fine, 1 / fine) ** ROUGH * max(against, 1e-9) ** (1 / 3)
        if total < cost:
            best, cost = place, total
    return best[:2]


def _fine(light: F32, where: B2) -> float:
    """How much fine contrast there is where it is asked."""
    return float(np.abs(light - cv2.GaussianBlur(light, (0, 0), EVEN))[where].mean()) + 1e-4


def _even(planes: F32, where: B2) -> F32:
    """Planes (k, h, w) evened out, of what lies in some of their px only (h, w)."""
    there = where.astype(np.float32)
    weight = np.maximum(cv2.GaussianBlur(there, (0, 0), EVEN), np.float32(1e-4))
    return np.stack([cv2.GaussianBlur(plane * there, (0, 0), EVEN) / weight for plane in planes])
