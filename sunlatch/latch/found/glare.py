"""Glare: where the sun has burnt sky and sea to one white, no edge parts them. But a burnt sea is strewn with specks,
the backs of its waves, from its horizon down, and the sky is not; and somewhere beside the glare its line is seen."""

import math
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
B2 = NDArray[np.bool_]
Indices = NDArray[np.intp]
LEANS: Final = np.arange(-3.0, 3.01, 0.2)
"""Degrees the sea may lean."""
WHITE: Final = 0.012
"""What is as light as the lightest within so much, in OKLab, is burnt out; a speck is darker by so much."""
LOST, BURNT = 0.004, 0.55
"""How much of the picture sky must have gained under the line to bother, and how much of that is burnt out."""
STREWN: Final = 10
"""How much likelier (a log) specks are strewn otherwise under the line than over it, at least."""
DENSE: Final = 400
"""And how many more of them there are under it than a picture as white all over would have; streaks of cloud in glare
are fewer."""
FAR, FURTHER = 0.03, 0.5
"""So far under the line, in heights, specks may begin, being too small farther off; and what a row of it costs."""
SEEN, UPRIGHT, ENOUGH = 60, 4, 18
"""What it is worth to see a line along all of the width, and what a degree of leaning costs, next to that log; and
what all together has to come to."""
OFF: Final = 2
"""How far off the line what is found so far may end, px."""
TALL, BROAD = 0.006, 0.04
"""Height and width, in long edges, up to which something is a speck."""
STEP, CALM, LIT = 0.006, 3, 0.7
"""The sea's line is a step of so much in lightness, so many times more than just above it, between two things so
light, as a share of the lightest: an island's foot is one, a shore before the sea is none."""

LIGHTEST: Final = 99.9
"""Percent of px that are no lighter than what is called the lightest."""
LEVEL, PX = 1.5, 3
"""How many times as wide as tall a speck is at least, and how many px."""
CLOSED: Final = 9
"""Px, a side, of gaps in the sky that are none: its specks were not taken for it."""
EVENED, ALONG = 0.8, 5
"""Px, standard deviation, and px across, over which light is evened before its steps are looked for."""
HALF, BEYOND, NEAR, UNDER = 2, 6, 3, 5
"""Rows over and under a step that it is taken between; that what lies above it reaches; and of the two things it parts."""
STEPS: Final = 0.2
"""The share of a small px that is a step from which on it is one."""


def under_the_glare(lab: F32, sky: B2, fine: F32) -> B2:
    """What lies under the line of a sea that glare has swallowed in part (h, w); nowhere where there is no such
    thing. lab: (3, h, w), OKLab; sky: (h, w), as found so far; fine: the same larger, in which specks are seen."""
    h, w = sky.shape
    nowhere = np.zeros((h, w), bool)
    burnt = burnt_out(lab[0]) & sky
    if float(burnt.mean()) < LOST:
        return nowhere
    planes = (sky, burnt, _specks(fine[0], sky), _steps(fine[0], sky), _ends(sky))
    points = [np.nonzero(p) for p in planes]
    columns = np.arange(w)
    best, found = float(ENOUGH), nowhere
    for lean in LEANS:
        slope = math.tan(math.radians(float(lean))) * (columns - w / 2)
        *areas, steps, ends = (_leaned(y, x, slope, h) for y, x in points)
        of_sky, of_burnt, of_specks = (_under(rows) for rows in areas)
        along = np.maximum(steps, ends) / w
        strewn = _strewn(of_specks, of_burnt)
        begins = np.max(
            [np.append(strewn[n:], np.zeros(n)) - FURTHER * n for n in range(round(FAR * h) + 1)], 0
        )
        worth = begins + SEEN * along - UPRIGHT * abs(float(lean))
        at = int(np.where(begins > STREWN, worth, 0).argmax())
        if begins[at] > STREWN and worth[at] > best:
            best = float(worth[at])
            lost = of_sky[at] > LOST * h * w and of_burnt[at] > BURNT * of_sky[at]
            lost &= of_specks[at] > DENSE * of_burnt[at] / (h * w)
            found = np.arange(h)[:, None] > at + slope[None] + 1 if lost else nowhere
    return np.asarray(found)


def burnt_out(light: F32) -> B2:
    """What is as light as the lightest of a plane of lightness (h, w)."""
    return np.asarray(light > _white(light))


def _white(light: F32) -> float:
    return float(np.percentile(light, LIGHTEST)) - WHITE


def _leaned(y: Indices, x: Indices, slope: F64, h: int) -> F64:
    """How many of some px lie on each of h rows, the rows leaning by a slope (w,)."""
    rows = np.rint(y - slope[x]).astype(int)
    return np.bincount(np.clip(rows, 0, h - 1), minlength=h).astype(np.float64)


def _under(rows: F64) -> F64:
    """What lies under each row and the next."""
    summed = np.cumsum(rows[::-1])[::-1]
    return np.concatenate([summed[2:], [0, 0]])


def _strewn(specks: F64, burnt: F64) -> F64:
    """How much likelier (a log) two densities of specks over the burnt-out are than one: under each row and over
    it. 0 where they are the denser over it. specks, burnt: how many lie under each row."""
    everywhere, white = max(specks[0], 1.0), burnt[0]
    of_all = everywhere / max(white, 1.0)
    evidence, dense = np.zeros(len(specks)), []
    for count, area in ((specks, burnt), (everywhere - specks, white - burnt)):
        dense.append(count / np.maximum(area, 1))
        evidence += count * np.log(np.maximum(count, 0.5) / np.maximum(area, 1) / of_all)
    return np.where(dense[0] > dense[1], evidence, 0)


def _specks(light: F32, sky: B2) -> B2:
    """Where, at the size of the sky found so far, the middles of specks lie: small, level, dark things in what is
    burnt out."""
    (h, w), (tall, wide) = sky.shape, light.shape
    size = max(tall, wide)
    white = _white(light)
    shut = np.minimum(light, white)
    dark = cv2.morphologyEx(shut, cv2.MORPH_CLOSE, np.ones((max(3, round(TALL * size)) | 1, 1), np.uint8))
    apart = ((dark >= white) & (dark - shut > WHITE)).astype(np.uint8)
    count, which, boxes, middles = cv2.connectedComponentsWithStats(apart, connectivity=8)
    inside = cv2.morphologyEx(
        _as_large(sky, (wide, tall)), cv2.MORPH_CLOSE, np.ones((CLOSED, CLOSED), np.uint8)
    )
    at_edge = np.zeros(count, bool)
    at_edge[np.unique(which[cv2.erode(inside, np.ones((3, 3), np.uint8)) == 0])] = True
    across, down, area = boxes[:, 2], boxes[:, 3], boxes[:, 4]
    is_speck = ~at_edge & (area >= PX) & (across < BROAD * size) & (across >= LEVEL * down)
    is_speck[0] = False
    x, y = (middles[is_speck] * (w / wide, h / tall)).astype(int).T
    found = np.zeros((h, w), bool)
    found[y, x] = True
    return found


def _steps(light: F32, sky: B2) -> B2:
    """Where, in the sky found so far, lightness steps as it does at the line of a sea (h, w)."""
    (h, w), (tall, wide) = sky.shape, light.shape
    soft = cv2.blur(cv2.GaussianBlur(light, (0, 0), EVENED), (ALONG, 1))

    def rows(by: int) -> F32:
        return np.roll(soft, -by, 0)

    step, above = np.abs(rows(HALF) - rows(-HALF)), np.abs(rows(-HALF) - rows(-BEYOND))
    lit = np.minimum(np.minimum(rows(-NEAR), rows(NEAR)), rows(UNDER)) > LIT * soft.max()
    inside = _as_large(sky, (wide, tall)) > 0
    stepped = ((step > STEP) & (step > CALM * above) & lit & inside).astype(np.float32)
    small = cv2.resize(stepped, (w, h), interpolation=cv2.INTER_AREA) > STEPS
    return np.asarray(cv2.dilate(small.astype(np.uint8), np.ones((3, 1), np.uint8)) > 0)


def _ends(sky: B2) -> B2:
    """Where the sky found so far ends downwards, and OFF px around (h, w)."""
    h = len(sky)
    low = np.where(sky.any(0), h - 1 - sky[::-1].argmax(0), -h)
    return np.asarray((np.abs(np.arange(h)[:, None] - low[None]) <= OFF) & (low < h - 1))


def _as_large(sky: B2, size: tuple[int, int]) -> NDArray[np.uint8]:
    return np.asarray(cv2.resize(sky.astype(np.uint8), size, interpolation=cv2.INTER_NEAREST), np.uint8)
