"""Still water that mirrors the sky down to the lower edge of the picture: what lies on both sides of a thin dark
shore is alike, upside down. Nothing else tells such water from the sky over it."""

import math
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ...compiled import kernel

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


@kernel("void(float32[:, ::1], boolean[:, ::1], boolean[::1], int64, float64[::1])")
def _correlate(level, known, asked, deep, alike):  # type: ignore[no-untyped-def]
    """How much what lies under each row that is asked correlates with what is above it (h,): 0 where little is known on both
    sides, or all is one tone."""
    h, w = level.shape
    for row in range(deep, h - deep):
        if not asked[row]:
            continue
        n, u, d, uu, dd, ud = 0, 0.0, 0.0, 0.0, 0.0, 0.0
        for k in range(2, deep + 1):
            for c in range(w):
                if known[row - k, c] and known[row + k, c]:
                    up, down = np.float64(level[row - k, c]), np.float64(level[row + k, c])
                    n += 1
                    u += up
                    d += down
                    uu += up * up
                    dd += down * down
                    ud += up * down
        if n < SEEN * (deep - 1) * w or n == 0:
            continue
        spread = (uu / n - (u / n) ** 2) * (dd / n - (d / n) ** 2)
        if min(uu / n - (u / n) ** 2, dd / n - (d / n) ** 2) >= (SHORE / 4) ** 2:
            alike[row] = (ud / n - u / n * (d / n)) / math.sqrt(spread)


def _mirror(level: F32, shore: F32, known: F32, size: int) -> tuple[int, float]:
    """The row of a level picture under which it is most alike to what is above, and how much; 0 where no
    shore is seen along it."""
    off, deep = max(2, round(APART * size)), round(DEEP * size)
    share = (cv2.dilate(shore, np.ones((2 * off + 1, 1), np.uint8)) > 0.5).mean(1)
    alike = np.zeros(len(level))
    _correlate(np.ascontiguousarray(level), known > 0.5, share >= ALONG, deep, alike)
    at = int(alike.argmax())
    return at, float(alike[at])
