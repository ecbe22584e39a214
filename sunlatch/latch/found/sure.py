"""How sure it is that what was found is there at all: a sky, water. Each is judged by what such a thing looks like in any
picture, whatever found it; reasons are log odds, and they add up.

A sky reaches down from the upper edge over most of the width, column by column; it is smooth, seldom green and never as
colourful as a petal, and lighter than the land unless it is blue. Water lies level under something, mirrors it, and is as
colourless as that or less.
"""

import math
from typing import Final, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from .measures import level_streaks

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
JUDGED_PX: Final = 320
"""Long edge, px, at which it is judged: grain is gone there."""
HELD, NOT_HELD = 0.6, 0.2
"""From how much on a px of a mask is of the thing, and up to how much it is of the rest."""
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
DARKEST: Final = 0.05
"""Lightness that colour is taken over, at least: in the dark all hues are noise."""
LIMIT: Final = 30.0
"""Log odds that are as good as certain."""


class Reason(NamedTuple):
    """What speaks against: log odds a unit, and from where on."""

    odds: float
    start: float

    def beyond(self, value: float) -> float:
        """Log odds that are lost where a value is more than it may be."""
        return self.odds * max(value - self.start, 0.0)

    def short(self, value: float) -> float:
        """Log odds that are lost where a value is less than it must be."""
        return self.odds * max(self.start - value, 0.0)


LEAVES, PETALS = Reason(10, 0.1), Reason(10, 0.1)
"""The share of px that have the hue of leaves, of petals."""
FROM_ABOVE: Final = Reason(8, 0.8)
"""The share that hangs together with the upper edge, column by column."""
WIDE: Final = Reason(4, 0.9)
"""The share of the width that is sky along the upper edge, TOP of the height tall."""
TOP: Final = 1 / 40
UNEVEN: Final = Reason(6, 0.2)
"""How much, in heights, columns differ in how far down they reach (standard deviation)."""
ROUGH: Final = Reason(400, 0.010)
"""Its texture, in OKLab: what lies within two px of a px at JUDGED_PX differs from it by so much (median)."""
GRAIN: Final = 2.0
"""Px, standard deviation, around a px that its texture is taken against."""
LIGHTENS, LIGHTENING, WALL = 0.08, 1.2, 2.2
"""Where nothing but sky is there: its lowest quarter is lighter than its highest by so much, and log odds lost where it is, and
where it is not: a wall is as smooth."""
DEEP_BLUE: Final = 0.12
"""Colour over lightness from which on what is blue and fills the frame is sky all the same."""
LIGHTER, NOT_LIGHTER, NOT_LIGHTER_WARM = 0.05, 1.0, 4.0
"""It is lighter than the rest by so much; log odds lost where it is not, and beside that where it is warm."""
CLEAR, CLEAR_SMOOTH, CLEAR_SHARE, CLEAR_WIDE, CLEAR_ODDS = 0.05, 0.015, 0.1, 0.5, -0.6
"""Clear blue: colour over lightness at least, texture at most; from such a share of it, over such a share of the width, some of
it is sky whatever else was taken for it: no less than these log odds."""

MIRRORING, UNLIKE, LIKE, UNDECIDED = 3.0, -2.5, 1.0, 0.55
"""Log odds for water a unit of correlation (see `_mirrors`), at least and at most; and the correlation that says nothing."""
UNSURE_SKY: Final = Reason(4, 1.0)
"""How sure the sky above is, by SURE_ABOVE."""
WATER_LEAVES, WATER_PETALS, PETALS_IN_WATER = Reason(8, 0.1), Reason(4, 0.3), 0.15
"""Shares as of a sky; a sunset in water is more colourful than one above."""
OTHER_COLOUR: Final = Reason(25, 0.03)
"""How far its colour lies from the sky's, in OKLab: it mirrors it."""
SLANTED: Final = Reason(12, 0.1)
"""How much, in heights, its shore differs from column to column (standard deviation)."""
SMALL: Final = Reason(30, 0.05)
"""The share of the frame that it takes up."""
NO_STREAKS: Final = Reason(3, 1.5)
"""How level its streaks are (see `level_streaks`), median."""


def _reduced(lab: F32, mask: F32) -> tuple[F32, F32]:
    h, w = mask.shape
    k = min(1.0, JUDGED_PX / max(h, w))
    size = (max(1, round(w * k)), max(1, round(h * k)))
    planes = [cv2.resize(p, size, interpolation=cv2.INTER_AREA) for p in (*lab, mask)]
    return np.stack(planes[:3]), np.asarray(planes[3], np.float32)


def _share(hue: F32, chroma: F32, of: tuple[float, float, float]) -> float:
    low, high, least = of
    return float(((hue > low) & (hue < high) & (chroma > least)).mean())


def _texture(lab: F32) -> F32:
    squares = sum(np.square(p - cv2.GaussianBlur(p, (0, 0), GRAIN)) for p in lab)
    return np.asarray(np.sqrt(squares), np.float32)


def _chance(odds: float) -> float:
    return 1 / (1 + math.exp(-min(max(odds, -LIMIT), LIMIT)))


def sure_of_sky(lab: F32, sky: F32) -> float:
    """How sure it is, 0–1, that a found sky (h, w) is one. lab: (3, h, w), OKLab of the picture."""
    lab, sky = _reduced(lab, sky)
    held = sky > HELD
    if held.sum() < FEW:
        return 0.0
    inside = cv2.erode(held.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    inside = inside if inside.sum() > FEW else held
    light, a, b = (p[inside] for p in lab)
    chroma, hue = np.hypot(a, b) / np.maximum(light, DARKEST), np.degrees(np.arctan2(b, a))
    rest = sky < NOT_HELD
    alone = rest.sum() < FEW
    lighter = 0.0 if alone else float(np.median(light) - np.median(lab[0][rest]))
    texture = _texture(lab)[inside]
    from_above = np.logical_and.accumulate(held, axis=0)
    ends = from_above.sum(0) / len(held)
    width = float(held[: max(2, int(len(held) * TOP))].mean())
    colour, turned = float(np.median(chroma)), float(np.median(hue))
    blue = BLUE[0] < turned < BLUE[1]
    odds = PRIOR
    odds -= LEAVES.beyond(_share(hue, chroma, GREEN)) + PETALS.beyond(_share(hue, chroma, HOT))
    odds -= FROM_ABOVE.short(float(from_above.sum() / held.sum()))
    odds -= WIDE.short(width) + UNEVEN.beyond(float(ends.std()))
    odds -= ROUGH.beyond(float(np.median(texture)))
    if alone:  # a wall, or something close by, may be as smooth; but few of them grow lighter downwards
        rows = np.nonzero(inside)[0]
        high, low = (float(np.median(light[of])) for of in (rows < len(held) / 4, rows >= len(held) * 3 / 4))
        odds -= 0.0 if blue and colour > DEEP_BLUE else LIGHTENING if low - high > LIGHTENS else WALL
    elif lighter < LIGHTER:
        odds -= NOT_LIGHTER
        odds -= NOT_LIGHTER_WARM if WARM[0] < turned < WARM[1] and colour > WARM[2] else 0.0
    clear = (hue > BLUE[0]) & (hue < BLUE[1]) & (chroma > CLEAR) & (texture < CLEAR_SMOOTH)
    if width > CLEAR_WIDE and clear.mean() > CLEAR_SHARE:
        odds = max(odds, CLEAR_ODDS)
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
    alike = 0.0
    for plane in lab:
        even = cv2.GaussianBlur(plane, (0, 0), 4, None, 2)
        own, mirrored = even[seen], even[above][seen]
        # along the rows: up and down, all gets darker
        own = own - (np.bincount(at, own, h) / count)[at]
        mirrored = mirrored - (np.bincount(at, mirrored, h) / count)[at]
        size = math.sqrt(float(np.square(own).sum() * np.square(mirrored).sum()))
        alike += float((own * mirrored).sum()) / size if size > 0 else 0.0
    return alike


def sure_of_water(lab: F32, water: F32, sky: F32) -> float:
    """How sure it is, 0–1, that found water (h, w) is some, under a found sky (h, w). lab: (3, h, w), OKLab of the picture."""
    above = sure_of_sky(lab, sky)
    h, w = sky.shape
    k = min(1.0, JUDGED_PX / max(h, w))
    streaks = level_streaks(lab, (max(1, round(w * k)), max(1, round(h * k))))
    small, sky = _reduced(lab, sky)
    _, water = _reduced(lab, water)
    held, over = water > HELD, sky > HELD
    if held.sum() < FEW:
        return 0.0
    light, a, b = (p[held] for p in small)
    chroma, hue = np.hypot(a, b) / np.maximum(light, DARKEST), np.degrees(np.arctan2(b, a))
    shore = held.argmax(0)[held.any(0)] / len(held)
    odds = WATER + min(max(MIRRORING * (_mirrors(small, held) - UNDECIDED), UNLIKE), LIKE)
    odds -= UNSURE_SKY.short(above / SURE_ABOVE)
    odds -= WATER_LEAVES.beyond(_share(hue, chroma, GREEN))
    odds -= WATER_PETALS.beyond(_share(hue, chroma, (*HOT[:2], PETALS_IN_WATER)))
    if over.sum() > FEW:
        a_off, b_off = (float(np.median(p[held]) - np.median(p[over])) for p in small[1:])
        odds -= OTHER_COLOUR.beyond(math.hypot(a_off, b_off))
    odds -= SLANTED.beyond(float(shore.std())) + SMALL.short(float(water.mean()))
    odds -= NO_STREAKS.short(float(np.median(streaks[held])))
    return _chance(odds)
