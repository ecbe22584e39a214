"""Still water that mirrors the sky down to the lower edge of the picture: what lies on both sides of a thin dark
shore is alike, upside down. Nothing else tells such water from the sky over it."""

import math
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
LEANS: Final = np.arange(-2.5, 2.6, 0.5)
"""Degrees a shore may lean."""
SHORE, ALONG = 0.012, 0.8
"""How dark a shore is against what is above and under it, in OKLab, and along how much of the width it is seen."""
THICK, APART = 0.04, 0.012
"""How thick it may be, and how far its middle may lie off a straight line; in long edges."""
DEEP, ALIKE = 0.12, 0.8
"""How far up and down is compared, in long edges, and the least correlation of both sides: clouds come to .77."""

SEEN: Final = 0.4
"""The share of what is compared that must be sky on both sides."""


def under_the_shore(lightness: F32, sky: B2) -> B2:
    """The shore and what lies under it (h, w), if sky has been found down to the lower edge; nowhere where
    there is no such shore. lightness: OKLab L."""
    h, w = sky.shape
    if float(sky[-3:].mean()) < 0.5:
        return np.zeros((h, w), bool)
    size = max(h, w)
    tall = round(THICK * size) | 1
    smooth = cv2.GaussianBlur(lightness, (0, 0), 1.0)
    dark = cv2.morphologyEx(smooth, cv2.MORPH_CLOSE, np.ones((tall, 1), np.uint8)) - smooth > SHORE
    best, found = ALIKE, np.zeros((h, w), bool)
    for lean in LEANS:
        slope = math.tan(math.radians(float(lean)))
        turn = np.array([[1, 0, 0], [slope, 1, -slope * w / 2]])
        how = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        level, shore, known = (
            cv2.warpAffine(p.astype(np.float32), turn, (w, h), flags=how, borderMode=cv2.BORDER_REPLICATE)
            for p in (lightness, dark, sky)
        )
        row, alike = _mirror(level, shore, known, size)
        if alike > best:
            best = alike
            line = row + slope * (np.arange(w) - w / 2)
            found = np.arange(h)[:, None] > line[None]
    if found.any():
        near = cv2.dilate(found.astype(np.uint8), np.ones((tall, 1), np.uint8)) > 0
        found |= near & dark
    return np.asarray(found)


def _mirror(level: F32, shore: F32, known: F32, size: int) -> tuple[int, float]:
    """The row of a level picture under which it is most alike to what is above, and how much; 0 where no
    shore is seen along it."""
    h = len(level)
    off, deep = max(2, round(APART * size)), round(DEEP * size)
    share = (cv2.dilate(shore, np.ones((2 * off + 1, 1), np.uint8)) > 0.5).mean(1)
    best, at = 0.0, 0
    for row in range(deep, h - deep):
        if share[row] < ALONG:
            continue
        up, down = level[row - deep : row - 1][::-1], level[row + 2 : row + deep + 1]
        inside = (known[row - deep : row - 1][::-1] > 0.5) & (known[row + 2 : row + deep + 1] > 0.5)
        if inside.mean() < SEEN or min(up[inside].std(), down[inside].std()) < SHORE / 4:
            continue  # little to compare, or all one tone
        alike = float(np.corrcoef(up[inside], down[inside])[0, 1])
        if alike > best:
            best, at = alike, row
    return at, best
