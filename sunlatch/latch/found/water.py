"""Water: what lies under the sky's lowest edge and is drawn in level streaks, or is still.

Waves and reflections change more from row to row than along a row, and are quieter along it than rock or
heath. That gives a first opinion, from which models of its colour are learned with a random walk. It is the
least sure of the finders: smooth stones near by and level bands of distant heath are taken for water, and
ripples seen from above are missed. Marks set it right.
"""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from .horizon import lowest_edge
from .look import blurred, likeness, smaller, table_of, texture
from .matte import refined
from .walker import walk

F32 = NDArray[np.float32]
LONG_EDGE, FINE = 640, 1280
STREAK: Final = 0.6
"""Log of how much stronger the change is down than across where it may as well be water as not."""
QUIET: Final = 7.3
"""The same for minus the log of the change across, squared, in log of lightness."""
ROUNDS: Final = 4
BAND: Final = 0.005


def matted_water(lab: F32, sky: F32) -> F32:
    """Water (h, w) in [0, 1]. lab: (3, h, w); sky: (h, w), as found."""
    h, w = lab.shape[1:]
    rough = np.asarray(cv2.resize(find_water(lab, sky), (w, h), interpolation=cv2.INTER_LINEAR), np.float32)
    return np.asarray(refined(lab, rough, BAND) * (1 - sky), np.float32)


def find_water(lab: F32, sky: F32) -> F32:
    """Water (h, w) in [0, 1], the longer of h and w at most LONG_EDGE."""
    small = smaller(lab, LONG_EDGE)
    h, w = small.shape[1:]
    size = max(h, w)
    streak, quiet = _level(smaller(lab, FINE), (w, h))
    sky = np.asarray(cv2.resize(sky, (w, h), interpolation=cv2.INTER_AREA), np.float32)
    lowest, line = lowest_edge(sky)
    down = np.arange(h, dtype=np.float32)[:, None] - line
    not_water = 9 * (np.clip(-down / (0.004 * size) - 0.5, 0, 1) + sky)
    touching = (np.abs(lowest - line) < 0.006 * size).astype(np.float32)
    beside = np.exp(-np.maximum(down, 0) / (0.012 * size)) * gaussian_filter1d(touching, 4)
    seen = np.clip(2.5 * (streak - STREAK) + quiet - QUIET, -3.5, 3.5) + 1.5 * beside
    water = (1 / (1 + np.exp(-np.clip(seen - not_water, -20, 20)))).astype(np.float32)
    where, cells = table_of(small, np.clip((streak + 0.5) * 2.2, 0, 7.9).astype(np.float32))
    noise = max(4 * float(np.percentile(texture(small), 4)), 0.02)
    for _ in range(ROUNDS):
        looks = likeness(where, cells, water**2, ((1 - water) * (1 - sky)) ** 2)
        wide, tall = 0.04 * size, 0.02 * size
        near = np.log((blurred(water, wide, tall) + 0.03) / (blurred(1 - water, wide, tall) + 0.03))
        opinion = np.clip(0.8 * looks + near + 0.6 * seen - not_water, -20, 20)
        water = walk(small, (1 / (1 + np.exp(-opinion))).astype(np.float32), 0.03, noise)
    return np.asarray(water, np.float32)


def _level(fine: F32, size: tuple[int, int]) -> tuple[F32, F32]:
    """How level (log of change down over change across) and how quiet along rows a picture is around each
    px, at a size (w, h)."""
    log = blurred(np.log(np.maximum(fine[0], np.float32(0.03))), 1)
    span = max(fine.shape[1:])
    wide, tall = 0.02 * span, 0.008 * span
    across = blurred(np.square(cv2.Sobel(log, cv2.CV_32F, 1, 0, scale=0.125)), wide, tall) + np.float32(1e-6)
    down = blurred(np.square(cv2.Sobel(log, cv2.CV_32F, 0, 1, scale=0.125)), wide, tall) + np.float32(1e-6)
    streak = cv2.resize(np.log(down / across), size, interpolation=cv2.INTER_AREA)
    quiet = cv2.resize(-np.log(across), size, interpolation=cv2.INTER_AREA)
    return np.asarray(streak, np.float32), np.asarray(quiet, np.float32)
