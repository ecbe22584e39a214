"""Glare: where the sun has burnt sky and sea to one white, nothing in the picture parts them. But the sea lies as
low there as beside it, where it is seen; so its straight line is carried on."""

import math
from typing import Final

import numpy as np
from numpy.typing import NDArray

from .look import level_streaks

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
LEANS: Final = np.arange(-3.0, 3.01, 0.2)
"""Degrees the sea may lean."""
WHITE: Final = 0.012
"""What is as light as the lightest within so much, in OKLab, is burnt out."""
ALONG, OFF = 0.12, 2
"""The share of the width along which the sky must end in the line, and how far off it may end, px."""
UPRIGHT: Final = 0.02
"""The share of the width that a degree of leaning must gain."""
SEA: Final = 3.5
"""How level the streaks under the line are at least: heath, walls and roofs end straight as well."""
LOST, BURNT = 0.004, 0.6
"""How much of the picture sky must have gained under the line to bother, and how much of that is burnt out."""


def under_the_glare(lab: F32, sky: B2, fine: F32) -> B2:
    """What lies under the line of a sea that glare has swallowed in part (h, w); nowhere where there is no such
    thing. lab: (3, h, w), OKLab; sky: (h, w), as found so far; fine: the same larger, in which streaks are seen."""
    h, w = sky.shape
    nowhere = np.zeros((h, w), bool)
    burnt = (lab[0] > float(np.percentile(lab[0], 99.9)) - WHITE) & sky
    if float(burnt.mean()) < LOST:
        return nowhere
    columns = np.arange(w)
    low = np.where(sky.any(0), h - 1 - sky[::-1].argmax(0), -h)
    streaks = level_streaks(fine, (w, h))
    deep = max(3, round(0.012 * max(h, w)))
    best, found = 0.0, nowhere
    for lean in LEANS:
        slope = math.tan(math.radians(float(lean))) * (columns - w / 2)
        ends = np.bincount(np.clip(np.rint(low - slope).astype(int), 0, h), minlength=h + 1)[1:-1]
        along = np.convolve(ends, np.ones(2 * OFF + 1), "same") / w
        for at in np.flatnonzero(along >= ALONG) + 1:
            line = at + slope
            under = np.arange(h)[:, None] > line[None] + 1
            lost = sky & under
            if lost.mean() < LOST or burnt[lost].mean() < BURNT:
                continue
            on = np.abs(low - line) < OFF + 1
            sea = streaks[np.clip(np.rint(line).astype(int) + deep, 0, h - 1), columns][on]
            worth = float(along[at - 1]) - UPRIGHT * abs(float(lean))
            if np.median(sea) > SEA and worth > best:
                best, found = worth, np.asarray(under)
    return found
