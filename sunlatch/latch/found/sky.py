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
SURROUNDINGS_LIMIT: Final = -0.4
"""What lies around speaks no more against a px than so much where it is just like the sky beside it."""
SURELY: Final = 24
"""Land's looks are learned from what is very far only: in between lies much sky behind streaks of clouds."""
BROAD, DECIDED = 9, 14
"""What is in doubt over an area as broad as so many px is decided, half px by px and half as a whole, and how
steeply: a move that is latched to it would show as a smear. Edges, leaves and twigs are narrower, and stay."""
NO_LAND: Final = 0.03
"""With less land than this the frame is all sky."""
SOME, ALL_BUT = 0.1, 0.9
"""Between these a px of the finished mask is in doubt."""
SMOOTHEST, LEAST_NOISE = 4, 0.001
"""The picture's noise is the texture of the smoothest px (percent of them), in OKLab, but no less than this."""
STILL, STILLEST, STEEP = 3.5, 0.008, 2.9
"""Texture up to which a px is smooth, in noises, and at least, in OKLab; and the power by which it stops being so."""
EVERYWHERE: Final = 0.0002
"""What a way costs a px where there is no edge (see `across_edges`)."""
STARTS: Final = 0.4
"""How smooth the picture must be at its top edge for sky to begin there."""
MAY_BE, LIKELY, SURE, CLEAR = 0.02, 0.3, 0.5, 0.7
"""Shares of sky from which on a px is not surely land, is taken for sky at first, is sky, and is an example of it."""
SMOOTH_LAND, BEYOND_LAND, LAND = 0.7, 0.05, 0.6
"""By how much land is less likely where it is smooth; how likely it is at all where the sky goes on; and from where on it is."""
NO_TEXTURE, PER_OCTAVE, MIDDLE = 1e-5, 1.5, 3
"""Texture as the fourth axis of a table: the least, cells an octave, and the cell of what is just still."""
AROUND, ALONE = 0.05, 0.03
"""How far around, in long edges, px speak for one another; and the share taken to be there of both, so that none is ruled out."""
A_GAP: Final = 0.75
"""So like the sky beside it (see `_as_beside`), what lies around says less: a gap between rocks."""
WORTH, WAY, LOST, FOUND = 0.9, 1.5, -7, 1
"""What looks and surroundings weigh; what a place without any way counts, by REACHED; and what that says at least and at most."""
BELOW: Final = 8
"""Log odds against what is known to lie under the sky."""
RELIABILITY, EDGE, EDGES = 0.02, 4, 0.012
"""For `walk`: what a px's own opinion counts, and from how many noises on, and so much in OKLab, differences are edges."""
BESIDE, EVEN = (0.1, 0.025), 0.015
"""How far beside and above sky is compared with, in long edges; its colour's standard deviation counts for no more than this."""
THREE: Final = 3
"""Squared standard deviations (over three axes) that count as one unit against."""
ENOUGH: Final = 0.02
"""The share of a picture, or of what lies around, that must be clear sky to say how it goes on."""
EXAMPLES, REFITS = 8000, 8
"""Px that the surface of a sky is fitted to, and how often, less and less by those that do not fit."""
TOO_ALIKE: Final = 1e-6
"""What differs by a smaller share of the largest, squared, says nothing of how a sky changes that way."""
DEVIATION, NARROW, FAR_OFF = 1.48, (0.004, 0.015), 3
"""From a median deviation to a standard one (a normal distribution's); its limits, in OKLab; how many of it are no longer sky."""
OWN_NOISE: Final = 0.012
"""Standard deviation, in OKLab, that is added to the fit's own."""
LIGHTEST, DARK = 99.5, 0.1
"""Percent of px up to which lightness is spread over 255 steps to look for lines; and how light that is at least."""
LEANS, LINES = 4.0, 12
"""Degrees a sea may lean, and lines that are asked."""
NEAR_STEP, OFF_STEP, HIGHER, HIGHEST = (2, 6), (-5, -1), (-14, -10), (-28, -18)
"""Rows under a line, above it, a little higher and far higher, from and to before, that its step is judged by."""
ROOM: Final = 16
"""Rows that must be left under a line."""
LEAST_SEEN: Final = 1 / 8
"""The share of the width along which a line must have sky above it."""
OUTDOES, STEP, HIGH = 2, 0.002, 3
"""A sea's step is so many times what changes above it, and so much more in OKLab; and is seen against what is far higher too, at
least a so many-th of it."""


def matted_sky(lab: F32) -> F32:
    """Sky (h, w) in [0, 1] of a picture's OKLab (3, h, w): twigs and cables before it are not sky."""
    h, w = lab.shape[1:]
    rough = np.asarray(cv2.resize(find_sky(lab), (w, h), interpolation=cv2.INTER_LINEAR), np.float32)
    matted = refined(lab, rough, BAND)
    doubt = ((matted > SOME) & (matted < ALL_BUT)).astype(np.uint8)
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
    noise = min(max(float(np.percentile(rough, SMOOTHEST)), LEAST_NOISE), GRAIN)
    still = max(STILL * noise, STILLEST)
    smooth = np.asarray(1 / (1 + (rough / still) ** STEEP), np.float32)
    cost = across_edges(lab, (w, h)) + np.float32(EVERYWHERE)
    pieces = parted(cost)
    start = np.zeros((h, w), bool)
    start[:TOP] = ((smooth > STARTS) & (pieces > 0) & ~land_at_the_top(small))[:TOP]
    far = distance(cost, start)
    near = np.exp(-far / NEAR)
    sky = near * smooth
    below = against_the_sky(small, near, pieces)
    below |= under_the_shore(small[0], near > MAY_BE)  # all that is not surely land: a shore is crisp
    for other, per in softer:
        below |= standing(small[0], (near > LIKELY) & ~below, other, per)
    beyond = as_it_goes_on(small, sky**2) > 0
    land = (1 - near) ** SURELY * (1 - SMOOTH_LAND * smooth) * np.where(beyond, BEYOND_LAND, 1)
    land = np.where(below, 1, land).astype(np.float32)
    if float((land > LAND).mean()) < NO_LAND:
        return np.full((h, w), 1.0 if float((near > LIKELY).mean()) > SURE else 0.0, np.float32)
    if float(sky.max()) < LIKELY:
        return np.zeros((h, w), np.float32)
    roughness = np.asarray(np.log2(np.maximum(rough, NO_TEXTURE) / still) * PER_OCTAVE + MIDDLE, np.float32)
    where, cells = table_of(small, roughness)
    white = burnt_out(small[0])
    glare = over = np.zeros((h, w), bool)
    for n in range(ROUNDS):
        looks = likeness(where, cells, sky**2, land**2)
        around = np.log((blurred(sky, AROUND * size) + ALONE) / (blurred(land, AROUND * size) + ALONE))
        beside = np.maximum(_as_beside(small, sky * near), as_it_goes_on(small, sky * near))
        around = np.where(beside > A_GAP, np.maximum(around, SURROUNDINGS_LIMIT), around)
        reached = np.clip(np.maximum(WAY - far / REACHED, beside), LOST, FOUND)
        opinion = WORTH * (looks + around) + reached - BELOW * below
        sky = walk(
            small, np.asarray(1 / (1 + np.exp(-opinion)), np.float32), RELIABILITY, max(EDGE * noise, EDGES)
        )
        land = 1 - sky
        if 0 < n < ROUNDS - 1:
            below |= _under_the_sea_line(small, (sky > SURE) & ~below, looks)
            if softer and not glare.any():
                glare = under_the_glare(small, (sky > SURE) & ~below, lab)
                below |= glare
                over = glare.any() & white & (sky > SURE) & ~below
            below |= under_ridges(small[0], (sky > SURE) & ~below, noise)
            for other, per in softer:
                below |= standing(small[0], (sky > SURE) & ~below, other, per)
    sky = np.where(glare & white, 0, np.where(over & ~below, 1, sky))  # a walk finds no edge in white
    return np.asarray(sky, np.float32)


def _as_beside(lab: F32, sure: F32) -> F32:
    """1 and less: how like the sky beside it, at about the same height, a px is. So gaps in a rock and
    between twigs are found, and a white wall is not."""
    size = max(sure.shape)
    off, weight = unlike(lab, sure, BESIDE[0] * size, BESIDE[1] * size, widest=EVEN)
    return np.where(weight > ENOUGH, 1 - off / THREE, np.float32(LOST))


def as_it_goes_on(lab: F32, sure: F32) -> F32:
    """1 and less: how like the sky a px is as it would go on there, getting lighter or darker to a side or
    downwards as it does where it is sure. So it is found behind a bridge."""
    h, w = sure.shape
    clear = sure > CLEAR
    if float(clear.mean()) < ENOUGH:
        return np.full((h, w), LOST, np.float32)
    y, x = np.mgrid[-1 : 1 : h * 1j, -1 : 1 : w * 1j].astype(np.float32)
    terms = np.stack([np.ones_like(x), x, y, x * x, y * y, x * y], -1)
    at = np.flatnonzero(clear)[:: max(1, int(clear.sum()) // EXAMPLES)]
    known, values = terms.reshape(-1, 6)[at].astype(float), lab.reshape(3, -1).T[at]
    weight = np.ones(len(at), np.float32)
    for _ in range(REFITS):
        weighed = known.T * weight
        fit = np.linalg.lstsq(weighed @ known, weighed @ values, rcond=TOO_ALIKE)[0]
        off = values - known @ fit
        spread = np.clip(DEVIATION * np.median(np.abs(off), 0), *NARROW)
        weight = 1 / (1 + np.square(off / (FAR_OFF * spread)).sum(1))
    wide = np.sqrt(spread**2 + OWN_NOISE**2).astype(np.float32)
    far = np.square((lab - (terms @ fit.astype(np.float32)).transpose(2, 0, 1)) / wide[:, None, None]).sum(0)
    evidence = np.where(np.arange(h)[:, None] <= lowest_edge(sure)[1], 1 - far / THREE, LOST)
    return np.asarray(evidence, np.float32)


def _under_the_sea_line(lab: F32, sky: B2, looks: F32) -> B2:
    """What lies under the line where sea begins, if the sky found so far has swallowed some; what looks like
    nothing but sky is a cloud. looks: how much more like sky than like land a px looks."""
    h, w = sky.shape
    light = lab[0] - float(lab[0].min())
    tone = np.clip(light / max(float(np.percentile(light, LIGHTEST)), DARK), 0, 1) * np.float32(255)
    for line in find_lines(tone, sky, of_covered=True, reach=LEANS)[:LINES]:
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
    columns = np.nonzero((row > -HIGHEST[0]) & (row < h - ROOM))[0]
    columns = columns[sky[row[columns] + OFF_STEP[0], columns]]
    if len(columns) < w * LEAST_SEEN:
        return 0.0

    def band(first: int, last: int) -> F32:
        rows = [lab[:, row[columns] + k, columns] for k in range(first, last)]
        return np.asarray(np.mean(rows, 0), np.float32)

    step, above = band(*NEAR_STEP) - band(*OFF_STEP), band(*OFF_STEP) - band(*HIGHER)
    axis = int(np.abs(np.median(step, 1)).argmax())
    way = np.sign(np.median(step[axis]))
    if float(np.median(step[0])) > 0:  # a gap under clouds: no sea is lighter than the sky it mirrors
        return 0.0
    high = (band(*NEAR_STEP) - band(*HIGHEST))[axis] * way
    differs = step[axis] * way > OUTDOES * np.abs(above[axis]) + STEP
    return float(np.mean(differs & (high > step[axis] * way / HIGH)))
