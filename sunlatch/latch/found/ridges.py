"""Ridges in haze: land that stands on the sky's lowest edge, hardly darker than the sky behind it.

A px of such an edge is lost in noise; along a whole ridge it is not. So the path across the picture that
gathers the most evidence of a crisp step to darker is looked for (dynamic programming), and what lies between
it and the sky's lowest edge is land if it is darker all the way down: a flat cloud has sky below it.
"""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ...compiled import kernel

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
TALL: Final = 0.16
"""How high a ridge may stand, in long edges."""
STEP_LEAST: Final = 0.004
"""Step of lightness that counts at all, however little noise there is."""
STEP_DOUBTED, STEP_SURE = 1.0, 3.0
"""Evidence a px must have to be worth passing, and what counts at most, in units of noise."""
STEEP, LEAP = 3, 9.0
"""Rows a ridge may climb from one column to the next, and what it costs to begin or end behind something or at the frame."""
CUT: Final = 0.033
"""How high above its foot a ridge may be cut off by what stands before it or by the frame, in long edges."""
SURE: Final = 0.7
"""Evidence a whole ridge must have, on average."""
HIDDEN: Final = 8
"""Rows by which the sky's edge steps from one column to the next where something stands before it."""
WIDE: Final = 0.03
"""Width of the narrowest ridge, in long edges."""
NEVER, NOWHERE = -50, 1e6
"""Evidence of a px that no path may pass, and the cost of where no path has come."""
CLOSED: Final = 1e4
"""What it costs to begin or end where a ridge cannot."""
CLIMBS: Final = 0.15
"""What a row of climbing from one column to the next costs."""
AT_FOOT: Final = 5
"""Rows above its foot from which a ridge begins and ends for nothing."""
EVEN: Final = 5
"""Px along the row over which lightness is evened."""
LONGEST: Final = 20
"""Rows up and down, at most, that a step is judged by."""
OVER, UNDER, HIGHER, LOWER = (-3, -1), (1, 3), (-9, -6), (6, 9)
"""Rows above a step, under it, and farther, from and to."""
DRIFT: Final = 1.5
"""So many times what light drifts beside a step anyway is no step."""
SKY_ROWS, LAND_ROWS, LOW, TOP_ROOM = (7, 2), 2, 4, 8
"""Rows above a ridge that are its sky, from and to; how far under its top its land begins, how many rows it is asked over at its
foot; and how many rows must be above it."""
MOST: Final = 0.8
"""The share of columns in which it must be darker."""
MARGIN: Final = 1.5
"""How far off a rim a smaller copy may put land, in its px."""


def under_ridges(lightness: F32, sky: B2, noise: float) -> B2:
    """Where (h, w) there is land in haze under the sky's lowest edge as found so far. lightness: OKLab L;
    noise: its standard deviation."""
    h, w = sky.shape
    size = max(h, w)
    has = sky.any(0)
    foot = np.where(has, h - 1 - sky[::-1].argmax(0), -1)
    evidence = _steps(lightness, max(noise, STEP_LEAST))
    rows = np.arange(h)[:, None]
    evidence[(rows > foot - 2) | (rows < foot - TALL * size) | ~sky] = NEVER
    top = _path(evidence, foot)
    out = np.zeros((h, w), bool)
    for first, last in _stretches(top >= 0):
        seen = float(evidence[top[first:last], np.arange(first, last)].mean())
        if (
            last - first >= WIDE * size
            and seen > SURE
            and _darker_all_the_way(lightness, top, foot, first, last, noise)
        ):
            columns = slice(first, last)
            out[:, columns] = (rows > top[columns]) & (rows <= foot[columns])
    return out


DARKER: Final = 0.02
"""By how much land seen through haze or out of focus is darker than the sky right above it, in OKLab."""
TOLD, BROAD = 0.6, 0.16
"""Share of the columns around that must say so, and along how much of the width without a break: what is less
broad may as well be a cloud."""


def standing(lightness: F32, sky: B2, softer: F32, per: float) -> B2:
    """Where (h, w) what was taken for sky stands on land, or on the frame, and is darker than what is above it
    from its top to its foot. lightness: OKLab L; softer: sky as a copy tells it that is `per` times smaller;
    what is land there is asked."""
    h, w = sky.shape
    soft = cv2.resize(softer, (w, h), interpolation=cv2.INTER_LINEAR) > 0.5
    rows = np.arange(h)[:, None]
    foot = np.where(sky.any(0), h - 1 - sky[::-1].argmax(0), -1)
    above = np.where(soft & (rows <= foot), rows, -1).max(0)
    margin, thick = round(MARGIN * per), max(3, round(2 * per))
    sums = np.vstack([np.zeros(w), np.cumsum(lightness, 0, dtype=np.float64)])
    columns = np.arange(w)

    def mean(first: NDArray[np.intp]) -> NDArray[np.float64]:
        lo = np.clip(first, 0, h - thick)
        return np.asarray((sums[lo + thick, columns] - sums[lo, columns]) / thick)

    over = mean(above - margin - thick + 1)
    dark = np.minimum(over - mean(above + 1 + margin), over - mean(foot - thick))
    inside = (rows > above) & (rows <= foot)
    high = (foot - above > 2 * margin) & (above >= margin + thick)
    inside &= rows > above + margin
    brightest = np.where(inside, cv2.blur(lightness, (3, 2 * thick + 1)), 0).max(0)
    dark = np.where(foot < h - 1, np.minimum(dark, over - brightest), dark)
    evidence = (high & (dark > DARKER)).astype(np.float32)
    held = cv2.blur(evidence[None], (max(3, round(WIDE * max(h, w))) | 1, 1))[0] > TOLD
    for first, last in _stretches(held & high):
        if last - first < BROAD * w:
            held[first:last] = False
    return np.asarray((rows > above) & (rows <= foot) & held & high)


def _steps(lightness: F32, unit: float) -> F32:
    """How much darker it becomes downwards at a px, within few rows; in units of noise, less STEP_DOUBTED."""

    def mean(first: int, last: int) -> F32:
        kernel = np.zeros((2 * LONGEST + 1, 1), np.float32)
        kernel[LONGEST + first : LONGEST + 1 + last] = 1 / (last - first + 1)
        return np.asarray(cv2.filter2D(smooth, -1, kernel, borderType=cv2.BORDER_REPLICATE), np.float32)

    smooth = cv2.blur(lightness, (EVEN, 1))
    step = mean(*OVER) - mean(*UNDER)
    drift = np.maximum(np.abs(mean(*HIGHER) - mean(*OVER)), np.abs(mean(*UNDER) - mean(*LOWER)))
    return np.asarray(np.minimum((step - DRIFT * drift) / unit, STEP_SURE) - STEP_DOUBTED, np.float32)


@kernel("void(float32[:, ::1], float64[:, ::1], int32[:, ::1], int32[::1], int64[::1])")
def _follow(evidence, fees, came, came_rest, top):  # type: ignore[no-untyped-def]
    """The best path (see `_path`), by columns (w, h): what it costs to begin or end at each px, and where each came from."""
    w, h = evidence.shape
    value, best, rest = np.full(h, -NOWHERE), np.empty(h), 0.0
    for c in range(w):
        land, most = 0, value[0] - fees[c, 0]
        for r in range(1, h):
            if value[r] - fees[c, r] > most:
                land, most = r, value[r] - fees[c, r]
        for r in range(h):
            best[r], source = rest - fees[c, r], -1
            for d in range(-STEEP, STEEP + 1):
                if 0 <= r + d < h and value[r + d] - CLIMBS * abs(d) > best[r]:
                    best[r], source = value[r + d] - CLIMBS * abs(d), r + d
            came[c, r] = source
        came_rest[c] = -1
        if most > rest:
            came_rest[c], rest = land, most
        for r in range(h):
            value[r] = best[r] + evidence[c, r]
    at, most = -1, rest
    for r in range(h):
        if value[r] - fees[w - 1, r] > most:
            at, most = r, value[r] - fees[w - 1, r]
    for c in range(w - 1, -1, -1):
        top[c] = at
        at = came[c, at] if at >= 0 else came_rest[c]


def _path(evidence: F32, foot: NDArray[np.intp]) -> NDArray[np.intp]:
    """The row of the best path in every column (w,), -1 where it rests at the foot."""
    h, w = evidence.shape
    beside = np.abs(np.diff(foot, prepend=-100)) > HIDDEN  # something stands before a ridge that ends there
    beside[w - 1] = True
    near = np.array([beside[max(0, c - 2) : c + 3].any() for c in range(w)])
    reach = np.full(w, CUT)
    reach[[0, -1]] = TALL
    over = (foot[:, None] - np.arange(h)).astype(float)
    cut = np.where(near, LEAP, CLOSED)[:, None]
    fees = np.where(over <= AT_FOOT, 0.0, np.where(over <= (reach * max(h, w))[:, None], cut, CLOSED))
    top = np.empty(w, np.int64)
    _follow(np.ascontiguousarray(evidence.T), fees, np.empty((w, h), np.int32), np.empty(w, np.int32), top)
    return top


def _stretches(inside: NDArray[np.bool_]) -> list[tuple[int, int]]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], inside, [False]]).astype(int)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _darker_all_the_way(
    lightness: F32, top: NDArray[np.intp], foot: NDArray[np.intp], first: int, last: int, noise: float
) -> bool:
    """Whether what lies under a stretch of the path is darker than what lies above it, down to the foot."""
    above, low = [], []
    for c in range(first, last):
        t, f = int(top[c]), int(foot[c])
        if f - t < LOW or t < TOP_ROOM:
            continue
        above.append(lightness[t - SKY_ROWS[0] : t - SKY_ROWS[1], c].mean())
        low.append(lightness[max(t + LAND_ROWS, f - LOW) : f - 1, c].mean())
    if len(above) < (last - first) / 2:
        return False
    darker = np.array(above) - np.array(low)
    return bool(np.mean(darker > max(noise, STEP_LEAST)) > MOST)
