"""Rectangles on the plane of the turned picture: the largest one without empty corners, and a
chosen one made to keep clear of them.

Where the frame lies is told by `Cover`, the numbers of the map from the turned plane back to it.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..compiled import inlined, kernel, part

F64 = NDArray[np.float64]
Cover = F64
"""3×3 from the turned to the ideal plane, row by row; the lens's distortion (4); the frame's middle (2); half its
diagonal, squared; the squared radius up to which the lens is asked."""
SLACK: Final = 1e-7
"""A place this far outside the frame still counts as on it, in long edges."""

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


@inlined
def _lies_on(x, y, m):  # type: ignore[no-untyped-def]
    """Whether a place of the turned plane shows something of the frame."""
    depth = m[6] * x + m[7] * y + m[8]
    if not depth > 1e-3:
        return False
    px, py = (m[0] * x + m[1] * y + m[2]) / depth, (m[3] * x + m[4] * y + m[5]) / depth
    r2 = min((px * px + py * py) / m[15], m[16])
    seen = 1.0 + m[9] + r2 * (m[10] + r2 * (m[11] + r2 * m[12]))
    u, v = px * seen + m[13], py * seen + m[14]
    return -SLACK <= u <= 2 * m[13] + SLACK and -SLACK <= v <= 2 * m[14] + SLACK


@part
def _fits(x, y, ring, half, factor, cover):  # type: ignore[no-untyped-def]
    """Whether a box grown by a factor about a place lies on the frame."""
    for k in range(ring.shape[0]):
        if not _lies_on(x + ring[k, 0] * half[0] * factor, y + ring[k, 1] * half[1] * factor, cover):
            return False
    return True


@kernel(
    "void(float64[:, ::1], float64[::1], float64[:, ::1], float64[::1], float64, float64[::1], int64, float64[::1])"
)
def _grow(centres, cost, ring, half, most, cover, halvings, out):  # type: ignore[no-untyped-def]
    best = -1e9
    for n in range(centres.shape[0]):
        x, y = centres[n, 0], centres[n, 1]
        needed = best + cost[n]  # what it must reach to be worth more than the best so far
        out[n] = 0.0
        if needed > 0.0 and (needed > most or not _fits(x, y, ring, half, needed, cover)):
            continue
        low, high = 0.0, most
        for _ in range(halvings):
            middle = (low + high) / 2
            if _fits(x, y, ring, half, middle, cover):
                low = middle
            else:
                high = middle
        out[n] = low
        best = max(best, low - cost[n])


def _reach(
    centres: F64, half: F64, most: float, cover: Cover, halvings: int = 18, cost: F64 | None = None
) -> F64:
    """For each centre (n, 2): the largest factor ≤ most by which half (2,) may grow uncut. cost: what is taken from
    each before they are compared; of those that cannot be the best it is then not asked (0)."""
    out = np.empty(len(centres))
    asked = np.full(len(centres), -np.inf) if cost is None else cost
    _grow(np.ascontiguousarray(centres, float), asked, _RING, half, float(most), cover, halvings, out)
    return out


def largest(bounds: Box, aspect: float, cover: Cover) -> Box:
    """A large box of an aspect (width / height) inside the frame: the largest, but for what it costs to
    leave the middle of the frame, where the photographer put what matters."""
    half = np.array([aspect, 1.0]) / max(aspect, 1.0)
    most = max(bounds.width / half[0], bounds.height / half[1]) / 2
    centre, span = np.zeros(2), np.array([bounds.width, bounds.height]) / 2
    best = 0.0
    for halvings in (8, 8, 10, 12, 14, 16, 18):  # each round holds the last one's centre
        steps = np.linspace(-1, 1, 7)
        grid = np.stack(np.meshgrid(steps, steps), -1).reshape(-1, 2) * span + centre
        cost = MIDDLE_WEIGHT * np.hypot(grid[:, 0], grid[:, 1])
        found = _reach(grid, half, most, cover, halvings, cost)
        n = int((found - cost).argmax())
        best, centre = float(found[n]), grid[n]
        span = span / 3
    width, height = 2 * best * half
    return Box.about((float(centre[0]), float(centre[1])), float(width), float(height))


def kept_inside(box: Box, cover: Cover, home: tuple[float, float]) -> Box:
    """The box, shrunk about its middle until it has no empty corner. If its middle itself lies in the
    open, it is first drawn toward `home`, a covered place."""
    half = np.array([box.width, box.height]) / 2
    if _reach(np.array([box.centre]), half, 2.0, cover, 1)[0] > 0:
        return box
    toward = np.linspace(0, 1, 41)[:, None]
    path = np.array(box.centre) * (1 - toward) + np.array(home) * toward
    found = _reach(path, half, 1.0, cover)
    # stay near where it was wanted: a little way toward home is worth it when it gains much
    n = int((found - 0.6 * toward[:, 0] * min(1.0, float(found.max()))).argmax())
    return Box.about(
        (float(path[n, 0]), float(path[n, 1])), *(float(v) for v in 2 * half * max(found[n], 1e-4))
    )
