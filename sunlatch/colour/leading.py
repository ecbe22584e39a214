"""The colour a patch is seen as: of leaves before a sky the leaves' green, not the grey between."""

from typing import Final

import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]

GREY: Final = 0.012
"""Mean chroma (OKLab) under which a patch has no hue, only its mean."""
BINS: Final = 72
SPREAD: Final = 10.0
"""How far a px lends its weight to neighbouring hues, standard deviation in degrees."""
NEAR: Final = 25.0
"""Px whose hue is this near to the leading one, in degrees, make the colour."""


def leading_colour(lab: F64) -> F64:
    """OKLab px (n, 3) → the mean (3,) of those of the leading hue, each weighted by its chroma. Where there is hardly
    any colour, or all of it is as much of one hue as of another, the plain mean is close to it."""
    lab = np.asarray(lab, np.float64)
    chroma = np.hypot(lab[:, 1], lab[:, 2])
    if chroma.mean() < GREY:
        return np.asarray(lab.mean(0))
    hue = np.degrees(np.arctan2(lab[:, 2], lab[:, 1])) % 360
    axis = np.arange(BINS) * 360 / BINS
    held = np.bincount((hue * BINS / 360).round().astype(int) % BINS, chroma, BINS)
    apart = (axis[:, None] - axis[None, :] + 180) % 360 - 180
    best = axis[int(np.argmax(np.exp(-0.5 * (apart / SPREAD) ** 2) @ held))]
    near = np.abs((hue - best + 180) % 360 - 180) <= NEAR
    return np.asarray(np.average(lab[near], axis=0, weights=chroma[near]))
