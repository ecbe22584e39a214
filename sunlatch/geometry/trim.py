"""Rectangles on the plane of the turned picture: the largest one without empty corners, and a
chosen one made to keep clear of them.

Whether a place is covered by the frame is asked of a function `covered(points (..., 2)) → bool`.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]
Covered = Callable[[F64], NDArray[np.bool_]]

MIDDLE_WEIGHT: Final = 0.35
"""Half side a box must gain for every length it moves away from the middle."""
_EDGE: Final = np.linspace(-1, 1, 17)
_RING: Final = np.concatenate(
    [
        np.stack([_EDGE, np.full_like(_EDGE, -1)], -1),
        np.stack([_EDGE, np.full_like(_EDGE, 1)], -1),
        np.stack([np.full_like(_EDGE, -1), _EDGE], -1),
        np.stack([np.full_like(_EDGE, 1), _EDGE], -1),
    ]
)
"""The outline of a square of half side 1."""


@dataclass(frozen=True)
class Box:
    """A rectangle: left, top, right, bottom, in long edges of the source."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def width(self) -> float:
        """x1 − x0."""
        return self.x1 - self.x0

    @property
    def height(self) -> float:
        """y1 − y0."""
        return self.y1 - self.y0

    @property
    def centre(self) -> tuple[float, float]:
        """Its middle."""
        return (self.x0 + self.x1) / 2, (self.y0 + self.y1) / 2

    @staticmethod
    def about(centre: tuple[float, float], width: float, height: float) -> "Box":
        """A box of a size around a place."""
        x, y = centre
        return Box(x - width / 2, y - height / 2, x + width / 2, y + height / 2)


def _reach(centres: F64, half: F64, most: float, covered: Covered, halvings: int = 18) -> F64:
    """For each centre (n, 2): the largest factor ≤ most by which half (2,) may grow uncut."""
    low, high = np.zeros(len(centres)), np.full(len(centres), most)
    for _ in range(halvings):
        middle = (low + high) / 2
        ring = centres[:, None] + _RING[None] * (half * middle[:, None])[:, None]
        fits = covered(ring).all(1)
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    return low


def largest(bounds: Box, aspect: float, covered: Covered) -> Box:
    """A large box of an aspect (width / height) inside `covered`: the largest, but for what it costs to
    leave the middle of the frame, where the photographer put what matters."""
    half = np.array([aspect, 1.0]) / max(aspect, 1.0)
    most = max(bounds.width / half[0], bounds.height / half[1]) / 2
    centre, span = np.zeros(2), np.array([bounds.width, bounds.height]) / 2
    best = 0.0
    for halvings in (8, 8, 10, 12, 14, 16, 18):  # each round holds the last one's centre
        steps = np.linspace(-1, 1, 7)
        grid = np.stack(np.meshgrid(steps, steps), -1).reshape(-1, 2) * span + centre
        found = _reach(grid, half, most, covered, halvings)
        n = int((found - MIDDLE_WEIGHT * np.hypot(grid[:, 0], grid[:, 1])).argmax())
        best, centre = float(found[n]), grid[n]
        span = span / 3
    width, height = 2 * best * half
    return Box.about((float(centre[0]), float(centre[1])), float(width), float(height))


def kept_inside(box: Box, covered: Covered, home: tuple[float, float]) -> Box:
    """The box, shrunk about its middle until it has no empty corner. If its middle itself lies in the
    open, it is first drawn toward `home`, a covered place."""
    if bool(covered(np.asarray(_RING * [box.width / 2, box.height / 2] + box.centre)).all()):
        return box
    half = np.array([box.width, box.height]) / 2
    toward = np.linspace(0, 1, 41)[:, None]
    path = np.array(box.centre) * (1 - toward) + np.array(home) * toward
    found = _reach(path, half, 1.0, covered)
    # stay near where it was wanted: a little way toward home is worth it when it gains much
    n = int((found - 0.6 * toward[:, 0] * min(1.0, float(found.max()))).argmax())
    return Box.about(
        (float(path[n, 0]), float(path[n, 1])), *(float(v) for v in 2 * half * max(found[n], 1e-4))
    )
