"""Which frames look at the same thing, and where: features matched (Lowe 2004, ratio test), and what agrees on one
turn of the camera (RANSAC, Fischler & Bolles 1981)."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import combinations
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..running.patience import go_on
from .inputs import Features

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

RATIO: Final = 0.8
QUICK: Final = 500
"""So many features of each say whether two frames have anything to do with one another, where there are many."""
MANY: Final = 9
"""From so many frames on, pairs are looked at quickly first."""
LIKELY: Final = 14
FEWEST: Final = 14
"""Features that must agree."""
SHARE: Final = 0.12
"""Of the matches, so many must agree; of what moved (waves, leaves) many do not."""
WITHIN: Final = 0.0022
"""Agree means: within this of a long edge."""


@dataclass(frozen=True)
class Pair:
    """Two frames, by their index, that see the same. a, b (n, 2): where, on their upright planes, in long edges from the
    middle; matches: how many looked alike."""

    i: int
    j: int
    a: F64
    b: F64
    matches: int


def matched(a: F32, b: F32) -> NDArray[np.intp]:
    """Index pairs (n, 2) of descriptors that are each other's nearest, and much nearer than the next."""
    if len(a) < 2 or len(b) < 2:
        return np.zeros((0, 2), np.intp)
    likeness = a @ b.T  # of unit length: nearest is likest
    n = np.arange(len(a))
    best = likeness.argmax(1)
    top = likeness[n, best]
    likeness[n, best] = -1
    second = likeness.max(1)
    back = np.full(len(b), -1)
    order = np.argsort(top)
    back[best[order]] = n[order]  # of several that point at one, the likest stays
    near, next_ = (np.sqrt(np.maximum(2 - 2 * v, 0)) for v in (top, second))
    keep = (back[best] == n) & (near < RATIO * next_)
    return np.stack([n[keep], best[keep]], 1)


def pair_of(i: int, j: int, one: Features, other: Features, planes: list[F64]) -> Pair | None:
    """What two frames have in common; None where that is nothing. planes: where each frame's features lie on its upright
    plane."""
    found = matched(one.descriptors, other.descriptors)
    if len(found) < FEWEST:
        return None
    a, b = planes[i][found[:, 0]], planes[j][found[:, 1]]
    # a homography holds for any focal length: that is not known well yet
    _, agrees = cv2.findHomography(
        (a * 1000).astype(np.float32), (b * 1000).astype(np.float32), cv2.USAC_MAGSAC, WITHIN * 1000, None, 3000, 0.999
    )  # fmt: skip
    if agrees is None:
        return None
    keep = agrees.ravel() > 0
    if keep.sum() < max(FEWEST, SHARE * len(found)):
        return None
    return Pair(i, j, a[keep], b[keep], len(found))


def find_pairs(
    features: list[Features], planes: list[F64], each: Callable[..., Iterable[Pair | None]] = map
) -> list[Pair]:
    """All pairs of frames that see the same. each: a map over pairs, on threads or not."""
    n = len(features)
    asked = list(combinations(range(n), 2))
    if n >= MANY:
        near = [(i, j) for i, j in asked if j - i <= 2]
        likely = {p for p in asked if len(_quick(features, *p)) >= LIKELY}
        asked = sorted(likely | set(near))

    def one(pair: tuple[int, int]) -> Pair | None:
        go_on()
        i, j = pair
        return pair_of(i, j, features[i], features[j], planes)

    return [p for p in each(one, asked) if p is not None]


def _quick(features: list[Features], i: int, j: int) -> NDArray[np.intp]:
    go_on()
    return matched(features[i].descriptors[:QUICK], features[j].descriptors[:QUICK])
