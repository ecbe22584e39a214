"""How sure it is that what was found is there at all: a sky, water. Each is judged by what such a thing looks like in any
picture, whatever found it; reasons are log odds, and they add up.

A sky reaches down from the upper edge over most of the width, column by column; it is smooth, seldom green and never as
colourful as a petal, and lighter than the land unless it is blue. Water lies level under something, mirrors it, and is as
colourless as that or less.
"""

import math
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from .measures import level_streaks

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
LOOK: Final = 320
"""Long edge, px, at which it is judged: grain is gone there."""
HELD: Final = 0.6
FEW: Final = 50
"""Px of a thing that is too small to be judged, and is not one."""
PRIOR: Final = 3.0
"""Log odds of a sky that nothing speaks against."""
GREEN, HOT = (80.0, 200.0, 0.12), (-20.0, 80.0, 0.25)
"""Hues in degrees of OKLab, from and to, and colour over lightness from which on they are no sky's: leaves, petals."""
WARM: Final = (-20.0, 100.0, 0.08)
"""Hues of an evening sky; one of them is lighter than the land."""
BLUE: Final = (-140.0, -60.0)
WATER: Final = 2.0
"""Log odds of water that nothing speaks for or against."""
SURE_ABOVE: Final = 0.75
"""So sure the sky over it must be not to speak against water."""


def _reduced(lab: F32, mask: F32) -> tuple[F32, F32]:
    h, w = mask.shape
    k = min(1.0, LOOK / max(h, w))
    size = (max(1, round(w * k)), max(1, round(h * k)))
    planes = [cv2.resize(p, size, interpolation=cv2.INTER_AREA) for p in (*lab, mask)]
    return np.stack(planes[:3]), np.asarray(planes[3], np.float32)


def _share(hue: F32, chroma: F32, of: tuple[float, float, float]) -> float:
    low, high, least = of
    return float(((hue > low) & (hue < high) & (chroma > least)).mean())


def _over(value: float, least: float) -> float:
    return max(value - least, 0.0)


def _texture(lab: F32) -> F32:
    squares = sum(np.square(p - cv2.GaussianBlur(p, (0, 0), 2)) for p in lab)
    return np.asarray(np.sqrt(squares), np.float32)


def _chance(odds: float) -> float:
    return 1 / (1 + math.exp(-min(max(odds, -30.0), 30.0)))


def sure_of_sky(lab: F32, sky: F32) -> float:
    """How sure it is, 0–1, that a found sky (h, w) is one. lab: (3, h, w), OKLab of the picture."""
    lab, sky = _reduced(lab, sky)
    held = sky > HELD
    if held.sum() < FEW:
        return 0.0
    inside = cv2.erode(held.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    inside = inside if inside.sum() > FEW else held
    light, a, b = (p[inside] for p in lab)
    chroma, hue = np.hypot(a, b) / np.maximum(light, 0.05), np.degrees(np.arctan2(b, a))
    rest = sky < 0.2
    alone = rest.sum() < FEW
    lighter = 0.0 if alone else float(np.median(light) - np.median(lab[0][rest]))
    texture = _texture(lab)[inside]
    from_above = np.logical_and.accumulate(held, axis=0)
    ends = from_above.sum(0) / len(held)
    width = float(held[: max(2, len(held) // 40)].mean())
    colour, turned = float(np.median(chroma)), float(np.median(hue))
    blue = BLUE[0] < turned < BLUE[1]
    odds = PRIOR
    odds -= 10 * (_over(_share(hue, chroma, GREEN), 0.1) + _over(_share(hue, chroma, HOT), 0.1))
    odds -= 8 * _over(0.8, float(from_above.sum() / held.sum()))
    odds -= 4 * _over(0.9, width) + 6 * _over(float(ends.std()), 0.2)
    odds -= 400 * _over(float(np.median(texture)), 0.010)
    if alone:  # a wall, or something close by, may be as smooth; but few of them grow lighter downwards
        rows = np.nonzero(inside)[0]
        high, low = (float(np.median(light[of])) for of in (rows < len(held) / 4, rows >= len(held) * 3 / 4))
        odds -= 0.0 if blue and colour > 0.12 else 1.2 if low - high > 0.08 else 2.2
    elif lighter < 0.05:
        odds -= 1.0
        odds -= 4.0 if WARM[0] < turned < WARM[1] and colour > WARM[2] else 0.0
    clear = (hue > BLUE[0]) & (hue < BLUE[1]) & (chroma > 0.05) & (texture < 0.015)
    if width > 0.5 and clear.mean() > 0.1:  # some of it is, whatever else was taken for it
        odds = max(odds, -0.6)
    return _chance(odds)


def _mirrors(lab: F32, water: B2) -> float:
    """How far what lies to the left and right in water goes along with what stands over its shore: three correlations, of
    lightness and both colours, added up (−3 … 3)."""
    h = len(water)
    shore = float(np.median(water.argmax(0)[water.any(0)]))
    rows = np.arange(h)
    above = np.clip(np.rint(2 * shore - rows), 0, h - 1).astype(int)
    seen = water & (rows[:, None] < 2 * shore)
    if seen.sum() < FEW:
        return 0.0
    at = np.nonzero(seen)[0]
    count = np.maximum(np.bincount(at, minlength=h), 1)
    told = 0.0
    for plane in lab:
        even = cv2.GaussianBlur(plane, (0, 0), 4, None, 2)
        own, mirrored = even[seen], even[above][seen]
        # along the rows: up and down, all gets darker
        own = own - (np.bincount(at, own, h) / count)[at]
        mirrored = mirrored - (np.bincount(at, mirrored, h) / count)[at]
        size = math.sqrt(float(np.square(own).sum() * np.square(mirrored).sum()))
        told += float((own * mirrored).sum()) / size if size > 0 else 0.0
    return told


def sure_of_water(lab: F32, water: F32, sky: F32) -> float:
    """How sure it is, 0–1, that found water (h, w) is some, under a found sky (h, w). lab: (3, h, w), OKLab of the picture."""
    above = sure_of_sky(lab, sky)
    h, w = sky.shape
    k = min(1.0, LOOK / max(h, w))
    streaks = level_streaks(lab, (max(1, round(w * k)), max(1, round(h * k))))
    small, sky = _reduced(lab, sky)
    _, water = _reduced(lab, water)
    held, over = water > HELD, sky > HELD
    if held.sum() < FEW:
        return 0.0
    light, a, b = (p[held] for p in small)
    chroma, hue = np.hypot(a, b) / np.maximum(light, 0.05), np.degrees(np.arctan2(b, a))
    shore = held.argmax(0)[held.any(0)] / len(held)
    odds = WATER + min(max(3 * (_mirrors(small, held) - 0.55), -2.5), 1.0)
    odds -= 4 * _over(1.0, above / SURE_ABOVE)
    odds -= 8 * _over(_share(hue, chroma, GREEN), 0.1) + 4 * _over(_share(hue, chroma, (*HOT[:2], 0.15)), 0.3)
    if over.sum() > FEW:
        a_off, b_off = (float(np.median(p[held]) - np.median(p[over])) for p in small[1:])
        odds -= 25 * _over(math.hypot(a_off, b_off), 0.03)
    odds -= 12 * _over(float(shore.std()), 0.1) + 30 * _over(0.05, float(water.mean()))
    odds -= 3 * _over(1.5, float(np.median(streaks[held])))
    return _chance(odds)
