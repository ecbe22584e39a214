"""Water: what lies level and mirrors what stands over it.

Waves and reflections are level streaks, so the picture changes up and down rather than across or aslant; and
water is about as light as what it mirrors, darker towards the photographer and less warm. Both give a first
opinion, from which models of its colour are learned with a random walk. As the water is found so is its far
shore, and with it what it mirrors. Smooth level ground (a lawn, a road, sand) is taken for water, and ripples
seen from above are missed. Marks set it right.
"""

from typing import Final

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from .horizon import lowest_edge
from .matte import matte, unknown
from .measures import blurred, level_streaks, likeness, smaller, table_of, texture
from .walker import walk

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
LONG_EDGE, FINE = 640, 1280
LIGHT, RED, YELLOW, DEEP = 1.67, 36.0, 36.0, 12.0
"""What it speaks for water to be as light as what is mirrored, in log of luminance, and against it to be redder
and yellower, in OKLab; and how much darker it may be with every long edge under the shore, as a log."""
DEEPEST: Final = 0.3
"""Farther under the shore, in long edges, it need not be darker still."""
LEVEL: Final = 1.7
"""How level streaks must be to speak neither for nor against water that is as light as what it mirrors."""
SURE: Final = 3.5
"""No first opinion is stronger."""
ROUNDS: Final = 4
OWN, OVER = (0.006, 0.003), 0.02
"""How far a px and what it would mirror are evened, across and down, in long edges: as waves do."""
NEAR: Final = (0.04, 0.02)
"""How far around, across and down, in long edges, px speak for one another…"""
ALONE: Final = 0.03
"""…and the share that is taken to be there of both, so that none is ruled out."""
LOOKS, SEEN = 0.5, 0.6
"""What likeness to what is water by now weighs, and what streaks and the mirror do."""
NEVER, SOFT_LINE = 9.0, 0.004
"""Log odds against it in the sky and above the horizon; and how softly that begins, in long edges."""
RELIABILITY: Final = 0.015
"""What a px's own opinion counts against its neighbours' (see `walk`)."""
NOISE, SMOOTHEST = 4.0, 0.02
"""From so many times the texture of the smoothest px (SMOOTH percent of them) on, and so much in OKLab, differences are edges."""
SMOOTH: Final = 4
TURNED: Final = 0.067
"""Differences in OKLab to red and to yellow that say no more than this."""
LIGHTEST, DARKEST, POWER = 0.3, 0.02, 3.0
"""Lighter than what it mirrors, as a log, it need not be; lightness under which none is asked; from OKLab to luminance."""
ABOVE: Final = -0.02
"""Above the shore, in long edges, it may not be lighter still."""
RUN, WHOLE, FIRST, BELOW, EVEN = 0.015, 0.7, 0.01, 0.12, 0.03
"""A shore: water for so long downward, in long edges, and of so much of that; so far above the horizon at most and so far below it;
its columns are evened (median) over so many long edges."""
CERTAIN: Final = 20.0
"""Log odds that are as good as certain."""
BAND, DECIDED = 0.004, 20
"""How far a shore may lie off, in long edges; and how steeply what is in doubt is decided before, for glitter is
like neither the water nor the rocks beside it."""


def matted_water(lab: F32, sky: F32) -> F32:
    """Water (h, w) in [0, 1]. lab: (3, h, w); sky: (h, w), as found."""
    h, w = lab.shape[1:]
    rough = np.asarray(cv2.resize(find_water(lab, sky), (w, h), interpolation=cv2.INTER_LINEAR), np.float32)
    return np.asarray(true_to_shores(lab, rough) * (1 - sky), np.float32)


def true_to_shores(lab: F32, rough: F32, within: B2 | None = None) -> F32:
    """Rough water (h, w), decided and made true to its edges; glitter in the midst of it stays. lab: (3, h, w);
    within: where (h, w), or everywhere."""
    decided = _share(DECIDED * (rough - 0.5))
    open_ = unknown(decided, max(3, round(BAND * max(rough.shape))))
    return matte(lab, decided, open_ if within is None else open_ & within)


def find_water(lab: F32, sky: F32) -> F32:
    """Water (h, w) in [0, 1], the longer of h and w at most LONG_EDGE."""
    small = smaller(lab, LONG_EDGE)
    h, w = small.shape[1:]
    size = max(h, w)
    sky = np.asarray(cv2.resize(sky, (w, h), interpolation=cv2.INTER_AREA), np.float32)
    _, line = lowest_edge(sky)
    down = np.arange(h, dtype=np.float32)[:, None] - line
    not_water = NEVER * (np.clip(-down / (SOFT_LINE * size) - 0.5, 0, 1) + sky)
    streaks = level_streaks(smaller(lab, FINE), (w, h)) - LEVEL
    own = np.stack([blurred(p, OWN[0] * size, OWN[1] * size) for p in small])
    over = np.stack([blurred(p, OVER * size) for p in small])
    seen = np.clip(streaks + _as_mirrored(own, over, np.full(w, line)), -SURE, SURE)
    water = _share(seen - not_water)
    where, cells = table_of(small, np.full((h, w), 3, np.float32))
    noise = max(NOISE * float(np.percentile(texture(small), SMOOTH)), SMOOTHEST)
    for n in range(ROUNDS):
        if n:
            seen = np.clip(streaks + _as_mirrored(own, over, _shore(water, line)), -SURE, SURE)
        looks = likeness(where, cells, water**2, ((1 - water) * (1 - sky)) ** 2)
        wide, tall = NEAR[0] * size, NEAR[1] * size
        near = np.log((blurred(water, wide, tall) + ALONE) / (blurred(1 - water, wide, tall) + ALONE))
        water = walk(small, _share(LOOKS * looks + near + SEEN * seen - not_water), RELIABILITY, noise)
    return np.asarray(water, np.float32)


def _share(opinion: F32) -> F32:
    return (1 / (1 + np.exp(-np.clip(opinion, -CERTAIN, CERTAIN)))).astype(np.float32)


def _as_mirrored(own: F32, over: F32, shore: F32) -> F32:
    """How like what it would mirror each px is. own, over: the picture (3, h, w), blurred a little and more, as
    waves blur what they mirror; shore (w,): where what is mirrored stands in each column, px."""
    h, w = own.shape[1:]
    size = max(h, w)
    rows = np.arange(h, dtype=np.float32)[:, None]
    above = np.rint(np.clip(2 * shore[None] - rows, 0, h - 1)).astype(np.intp)
    mirrored = over[:, above, np.arange(w)[None]]
    lighter = POWER * np.log(np.maximum(own[0], DARKEST) / np.maximum(mirrored[0], DARKEST))
    redder, yellower = (np.clip(own[n] - mirrored[n], -TURNED, TURNED) for n in (1, 2))
    under = np.clip((rows - shore[None]) / size, ABOVE, DEEPEST)
    evidence = LIGHT * np.clip(lighter, -POWER, LIGHTEST) - RED * redder - YELLOW * yellower + DEEP * under
    return np.asarray(evidence, np.float32)


def _shore(water: F32, line: float) -> F32:
    """Where water begins in each column (w,), px: `line` where there is none, and not far under it."""
    size = max(water.shape)
    run = max(3, round(RUN * size))
    here = (water > 0.5) & (np.arange(len(water))[:, None] > line - FIRST * size)
    solid = cv2.blur(here.astype(np.float32), (1, run), anchor=(0, 0)) > WHOLE
    first = np.where(solid.any(0), np.minimum(solid.argmax(0), line + BELOW * size), line)
    return np.asarray(scipy.ndimage.median_filter(first, round(EVEN * size) | 1), np.float32)
