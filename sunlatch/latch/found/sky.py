"""Sky, from nothing but the picture: what can be reached from its top edge without crossing a crisp edge.

Clouds have soft edges and land has crisp ones, however close their tones; that gives a first opinion.
Then what both look like (lightness, colour, texture, place) is learned and every px is asked anew, a
few times over, with a random walk keeping to the edges in between. Land in haze or out of focus has soft edges
too: it is looked for in smaller copies, where they are crisp, and tells itself from clouds by standing on
the ground and being darker all the way down; still water, by mirroring what is above it. It fails where sky
is seen only through an arch, and where sea and sky meet in haze without a line.
"""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from .glare import burnt_out, under_the_glare
from .horizon import SteppedLine, find_lines, lowest_edge
from .matte import refined
from .measures import GRAIN, across_edges, blurred, likeness, smaller, table_of, texture, unlike
from .mirror import under_the_shore
from .pieces import TOP, against_the_sky, land_at_the_top, parted
from .ridges import standing, under_ridges
from .walker import distance, walk

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
LONG_EDGE: Final = 640
SOFTER: Final = (320, 160)
"""Long edges of the copies in which what is soft is sharp."""
ROUNDS: Final = 4
SOFT: Final = 0.00047
"""Blur, in long edges: the streaks of clouds low in a sharp frame are no edges."""
BAND: Final = 0.006
"""How far the rough sky may lie off an edge, in long edges."""
SEA_LINE: Final = 0.25
"""A straight step is where the sea begins: the share of the width of the sky found so far along which it is
seen, times the share of itself along which it outdoes what is above."""
ALL_SKY: Final = 3.5
"""What looks like sky rather than land by so much (a log) is not sea."""
NEAR, REACHED = 0.2, 0.11
"""Costs of the way from the top: of what is still taken to be near at first, and of what is in doubt later."""
AROUND: Final = -0.4
"""What lies around speaks no more against a px than so much where it is just like the sky beside it."""
SURELY: Final = 24
"""Land's looks are learned from what is very far only: in between lies much sky behind streaks of clouds."""
BROAD, DECIDED = 9, 14
"""What is in doubt over an area as broad as so many px is decided, half px by px and half as a whole, and how
steeply: a move that is latched to it would show as a smear. Edges, leaves and twigs are narrower, and stay."""
NO_LAND: Final = 0.03
"""With less land than this the frame is all sky."""


def matted_sky(lab: F32) -> F32:
    """Sky (h, w) in [0, 1] of a picture's OKLab (3, h, w): twigs and cables before it are not sky."""
    h, w = lab.shape[1:]
    rough = np.asarray(cv2.resize(find_sky(lab), (w, h), interpolation=cv2.INTER_LINEAR), np.float32)
    matted = refined(lab, rough, BAND)
    doubt = ((matted > 0.1) & (matted < 0.9)).astype(np.uint8)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (BROAD, BROAD))
    broad = cv2.dilate(cv2.morphologyEx(doubt, cv2.MORPH_OPEN, disc), np.ones((3, 3)))
    count, area = cv2.connectedComponents(broad)
    known = (rough + matted) / 2
    all_over = np.bincount(area.ravel(), known.ravel(), count) / np.maximum(np.bincount(area.ravel()), 1)
    known = (known + all_over[area]) / 2
    decided = 1 / (1 + np.exp(-DECIDED * (known - 0.5)))
    return np.where(broad > 0, decided, matted).astype(np.float32)


def find_sky(lab: F32) -> F32:
    """Sky (h, w) in [0, 1], soft within a few px of edges. lab: (3, H, W), the longer of h and w at most
    LONG_EDGE. Haze and a lens out of focus make land's edges soft too; what a softer look takes for land is
    asked for its darkness."""
    return _sky_of(lab, [(_sky_of(smaller(lab, n), []), LONG_EDGE / n) for n in SOFTER])


def _sky_of(lab: F32, softer: list[tuple[F32, float]]) -> F32:
    lab = np.stack([blurred(p, SOFT * max(lab.shape[1:])) for p in lab])
    small = smaller(lab, LONG_EDGE)
    h, w = small.shape[1:]
    size = max(h, w)
    rough = texture(small)
    noise = min(max(float(np.percentile(rough, 4)), 0.001), GRAIN)
    still = max(3.5 * noise, 0.008)
    smooth = np.asarray(1 / (1 + (rough / still) ** 2.9), np.float32)
    cost = across_edges(lab, (w, h)) + np.float32(0.0002)
    pieces = parted(cost)
    start = np.zeros((h, w), bool)
    start[:TOP] = ((smooth > 0.4) & (pieces > 0) & ~land_at_the_top(small))[:TOP]
    far = distance(cost, start)
    near = np.exp(-far / NEAR)
    sky = near * smooth
    below = against_the_sky(small, near, pieces)
    below |= under_the_shore(small[0], near > 0.02)  # all that is not surely land: a shore is crisp
    for other, per in softer:
        below |= standing(small[0], (near > 0.3) & ~below, other, per)
    beyond = as_it_goes_on(small, sky**2) > 0
    land = (1 - near) ** SURELY * (1 - 0.7 * smooth) * np.where(beyond, 0.05, 1)
    land = np.where(below, 1, land).astype(np.float32)
    if float((land > 0.6).mean()) < NO_LAND:
        return np.full((h, w), 1.0 if float((near > 0.3).mean()) > 0.5 else 0.0, np.float32)
    if float(sky.max()) < 0.3:
        return np.zeros((h, w), np.float32)
    roughness = np.asarray(np.log2(np.maximum(rough, 1e-5) / still) * 1.5 + 3, np.float32)
    where, cells = table_of(small, roughness)
    white = burnt_out(small[0])
    glare = over = np.zeros((h, w), bool)
    for n in range(ROUNDS):
        looks = likeness(where, cells, sky**2, land**2)
        around = np.log((blurred(sky, 0.05 * size) + 0.03) / (blurred(land, 0.05 * size) + 0.03))
        beside = np.maximum(_as_beside(small, sky * near), as_it_goes_on(small, sky * near))
        around = np.where(beside > 0.75, np.maximum(around, AROUND), around)  # a gap between rocks
        reached = np.clip(np.maximum(1.5 - far / REACHED, beside), -7, 1)
        opinion = 0.9 * (looks + around) + reached - 8 * below
        sky = walk(small, np.asarray(1 / (1 + np.exp(-opinion)), np.float32), 0.02, max(4 * noise, 0.012))
        land = 1 - sky
        if 0 < n < ROUNDS - 1:
            below |= _under_the_sea_line(small, (sky > 0.5) & ~below, looks)
            if softer and not glare.any():
                glare = under_the_glare(small, (sky > 0.5) & ~below, lab)
                below |= glare
                over = glare.any() & white & (sky > 0.5) & ~below
            below |= under_ridges(small[0], (sky > 0.5) & ~below, noise)
            for other, per in softer:
                below |= standing(small[0], (sky > 0.5) & ~below, other, per)
    sky = np.where(glare & white, 0, np.where(over & ~below, 1, sky))  # a walk finds no edge in white
    return np.asarray(sky, np.float32)


def _as_beside(lab: F32, sure: F32) -> F32:
    """1 and less: how like the sky beside it, at about the same height, a px is. So gaps in a rock and
    between twigs are found, and a white wall is not."""
    size = max(sure.shape)
    off, weight = unlike(lab, sure, 0.1 * size, 0.025 * size, widest=0.015)
    return np.where(weight > 0.02, 1 - off / 3, np.float32(-7))


def as_it_goes_on(lab: F32, sure: F32) -> F32:
    """1 and less: how like the sky a px is as it would go on there, getting lighter or darker to a side or
    downwards as it does where it is sure. So it is found behind a bridge."""
    h, w = sure.shape
    clear = sure > 0.7
    if float(clear.mean()) < 0.02:
        return np.full((h, w), -7, np.float32)
    y, x = np.mgrid[-1 : 1 : h * 1j, -1 : 1 : w * 1j].astype(np.float32)
    terms = np.stack([np.ones_like(x), x, y, x * x, y * y, x * y], -1)
    at = np.flatnonzero(clear)[:: max(1, int(clear.sum()) // 8000)]
    known, values = terms.reshape(-1, 6)[at], lab.reshape(3, -1).T[at]
    weight = np.ones(len(at), np.float32)
    for _ in range(8):
        root = np.sqrt(weight)[:, None]
        fit = np.linalg.lstsq(known * root, values * root, rcond=None)[0]
        off = values - known @ fit
        spread = np.clip(1.48 * np.median(np.abs(off), 0), 0.004, 0.015)
        weight = 1 / (1 + np.square(off / (3 * spread)).sum(1))
    far = np.square(
        (lab - (terms @ fit).transpose(2, 0, 1)) / np.sqrt(spread**2 + 0.012**2)[:, None, None]
    ).sum(0)
    said = np.where(np.arange(h)[:, None] <= lowest_edge(sure)[1], 1 - far / 3, -7)
    return np.asarray(said, np.float32)


def _under_the_sea_line(lab: F32, sky: B2, looks: F32) -> B2:
    """What lies under the line where sea begins, if the sky found so far has swallowed some; what looks like
    nothing but sky is a cloud. looks: how much more like sky than like land a px looks."""
    h, w = sky.shape
    light = lab[0] - float(lab[0].min())
    tone = np.clip(light / max(float(np.percentile(light, 99.5)), 0.1), 0, 1) * np.float32(255)
    for line in find_lines(tone, sky, of_covered=True, reach=4.0)[:12]:
        under = np.asarray(np.arange(h)[:, None] > line.rows(w)[None] + 0.5)
        lost = looks[under & sky]
        if line.share * _steps(lab, sky, line) > SEA_LINE and lost.size and np.median(lost) < ALL_SKY:
            return under
    return np.zeros((h, w), bool)


def _steps(lab: F32, sky: B2, line: SteppedLine) -> float:
    """Along how much of a line the picture differs on both sides, by far more than it changes above it; and
    not only from what lies close above it, which may be a cloud."""
    h, w = sky.shape
    row = np.rint(line.rows(w)).astype(int)
    columns = np.nonzero((row > 28) & (row < h - 16))[0]
    columns = columns[sky[row[columns] - 5, columns]]
    if len(columns) < w / 8:
        return 0.0

    def band(first: int, last: int) -> F32:
        rows = [lab[:, row[columns] + k, columns] for k in range(first, last)]
        return np.asarray(np.mean(rows, 0), np.float32)

    step, above = band(2, 6) - band(-5, -1), band(-5, -1) - band(-14, -10)
    axis = int(np.abs(np.median(step, 1)).argmax())
    way = np.sign(np.median(step[axis]))
    if float(np.median(step[0])) > 0:  # a gap under clouds: no sea is lighter than the sky it mirrors
        return 0.0
    high = (band(2, 6) - band(-28, -18))[axis] * way
    differs = step[axis] * way > 2 * np.abs(above[axis]) + 0.002
    return float(np.mean(differs & (high > step[axis] * way / 3)))
