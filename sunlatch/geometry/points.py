"""The one coordinate map, from the as-captured frame to the developed picture.

Source coordinates: px positions of the as-captured active area (the centre of pixel i lies at
i + 0.5), both axes divided by its long edge. Lengths everywhere are in that unit. On the way lie
two planes, both with their origin in the frame's middle:

    ideal    what a lens without faults would have seen (lens.py)
    turned   upright, the camera turned straight (plumb.py), levelled

On the turned plane lie the fields of what was reshaped and nudged (field.py), if any: a place of it is looked for where
they have it from.

Where a picture was joined of several, a sphere stands between the two (sphere.py): a sweep's turned plane is a
projection of it, and its "lens" drew it on rows and columns of angles.

The canvas is the part of the turned plane that holds the frame; the developed picture is the part
that Trim leaves of it. What a step learns of the whole picture it learns of the canvas, so that a
crop changes no pixel.
"""

import math
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Self

import numpy as np
from numpy.typing import NDArray

from ..blocks import px_of
from .field import Field
from .lattice import FAR
from .lens import REACH, LensShape
from .sphere import Across, Lent, LentToSweep, Onto, Placed, Sphere
from .trim import SLACK
from .view import Trimmed

F64 = NDArray[np.float64]

# Exif orientation → (a, b, c, d) of upright = [[a, b], [c, d]] · captured, about the middle
TURNS = {
    1: (1, 0, 0, 1), 2: (-1, 0, 0, 1), 3: (-1, 0, 0, -1), 4: (1, 0, 0, -1),
    5: (0, 1, 1, 0), 6: (0, -1, 1, 0), 7: (0, -1, -1, 0), 8: (0, 1, -1, 0),
}  # fmt: skip

_STRAIGHT = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0)


@dataclass(frozen=True)
class PointMap:
    """Maps points of one scene between source coordinates and the turned plane. width, height: as captured, px; orientation: Exif code. plumb: 3×3 of the
    upright plane, row by row; level: degrees the picture is turned clockwise."""

    width: int
    height: int
    orientation: int = 1
    lens: LensShape = field(default_factory=LensShape)
    plumb: tuple[float, ...] = _STRAIGHT
    level: float = 0.0
    trim: Trimmed = field(default_factory=Trimmed)
    sphere: Sphere | Onto | Across | Lent | LentToSweep | Placed | None = None
    fields: tuple[Field, ...] = ()
    """What was reshaped and nudged, the last on top."""
    unit: int = 0
    """The length that coordinates are divided by, px, where it is not the frame's long edge."""

    @property
    def long_edge(self) -> int:
        """The length that all coordinates are divided by, px."""
        return self.unit or max(self.width, self.height)

    @property
    def wraps(self) -> bool:
        """True where the raster's right edge goes on at its left."""
        return isinstance(self.sphere, Sphere) and self.sphere.master.wraps

    @property
    def far(self) -> float:
        """Farther from the frame than anything it shows, in long edges."""
        return FAR + 2 * max(self.width, self.height) / self.long_edge

    @property
    def middle(self) -> F64:
        """The frame's middle in source coordinates; its length is half the diagonal."""
        return np.array([self.width, self.height]) / (2 * self.long_edge)

    @property
    def half_diagonal(self) -> float:
        """Where the lens has r = 1."""
        return float(np.hypot(*self.middle))

    @cached_property
    def straight(self) -> bool:
        """True when rows and columns stay rows and columns, px for px: nothing but turns by a quarter,
        mirrors and a crop."""
        bent = self.lens.bends or bool(self.fields)
        return self.sphere is None and not bent and self.plumb == _STRAIGHT and self.level == 0

    @cached_property
    def base(self) -> Self:
        """The same frame, upright and otherwise untouched."""
        return type(self)(self.width, self.height, self.orientation, unit=self.unit)

    @cached_property
    def untrimmed(self) -> Self:
        """The same map with all that it shows, corners empty."""
        return replace(self, trim=Trimmed(empty=True))

    @cached_property
    def unbent(self) -> Self:
        """The same map before anything was reshaped or nudged."""
        return replace(self, fields=()) if self.fields else self

    @cached_property
    def forward(self) -> F64:
        """3×3 from the ideal to the turned plane."""
        a, b, c, d = TURNS[self.orientation]
        upright = np.array([[a, b, 0], [c, d, 0], [0, 0, 1]], float)
        t = math.radians(self.level)
        level = np.array([[math.cos(t), -math.sin(t), 0], [math.sin(t), math.cos(t), 0], [0, 0, 1]])
        return np.asarray(level @ np.array(self.plumb).reshape(3, 3) @ upright)

    @cached_property
    def backward(self) -> F64:
        """3×3 from the turned to the ideal plane; its third row is positive within the canvas."""
        inverse = np.linalg.inv(self.forward)
        return np.asarray(inverse / inverse[2, 2])

    # points

    def to_turned(self, points: F64) -> F64:
        """Source (..., 2) to turned (..., 2)."""
        p = np.asarray(points, float) - self.middle
        if any(self.lens.distortion):
            seen = np.linalg.norm(p, axis=-1, keepdims=True) / self.half_diagonal
            p = p * np.where(seen > 1e-9, self.lens.undo(seen) / np.maximum(seen, 1e-9), 1.0)
        m = self.forward
        depth = p @ m[2, :2] + m[2, 2]
        g = np.asarray((p @ m[:2, :2].T + m[:2, 2]) / np.maximum(depth, 1e-3)[..., None])
        if self.sphere is not None:
            g = np.nan_to_num(self.sphere.forward(g), nan=self.far)
        for bent in self.fields:
            g = bent.over(g)
        return g

    def turned_to_source(self, points: F64) -> F64:
        """Turned (..., 2) to source (..., 2), green's. What lies behind the camera goes far away."""
        return np.nan_to_num(self._seen(points) + self.middle, nan=self.far)

    def _seen(self, points: F64) -> F64:
        """Turned (..., 2) to where the lens put it, from the middle; NaN behind the camera."""
        m = self.backward
        g = np.asarray(points, float)
        for bent in reversed(self.fields):
            g = bent.under(g)
        if self.sphere is not None:
            g = self.sphere.inverse(g)
        depth = g @ m[2, :2] + m[2, 2]
        p = (g @ m[:2, :2].T + m[:2, 2]) / np.where(depth > 1e-3, depth, np.nan)[..., None]
        r2 = (p * p).sum(-1, keepdims=True) / self.half_diagonal**2
        # beyond its reach a lens is taken to go on as it ends, so that nothing folds back in
        return np.asarray(p * self.lens.factor(np.minimum(r2, REACH**2)))

    def apart_to_source(self, points: F64) -> F64:
        """Turned (..., 2) to source (..., 6): where red lies (x, y), green, and blue."""
        seen = self._seen(points)
        s2 = (seen * seen).sum(-1, keepdims=True) / self.half_diagonal**2
        red, blue = (seen * self.lens.apart(s2, q) + self.middle for q in (self.lens.red, self.lens.blue))
        return np.asarray(np.nan_to_num(np.concatenate([red, seen + self.middle, blue], -1), nan=self.far))

    def radius2(self, points: F64) -> F64:
        """How far from the lens's middle, squared (...), the light of places (..., 2) of the turned plane came in; 1 at
        the frame's corners."""
        r2 = (self._seen(points) ** 2).sum(-1) / self.half_diagonal**2
        return np.asarray(np.nan_to_num(r2, nan=self.far))

    def covered(self, points: F64) -> NDArray[np.bool_]:
        """Whether places of the turned plane (..., 2) show something of the frame."""
        s = self.turned_to_source(points)
        w, h = 2 * self.middle
        across = self.wraps | ((s[..., 0] >= -SLACK) & (s[..., 0] <= w + SLACK))
        there = np.asarray(across & (s[..., 1] >= -SLACK) & (s[..., 1] <= h + SLACK))
        if isinstance(self.sphere, Sphere):
            mask = self.sphere.mask
            cells = np.where(there[..., None], s, 0.0) / [w, h] * [mask.shape[1], mask.shape[0]]
            column, row = (
                px_of(cells[..., 0], mask.shape[1], True),
                px_of(cells[..., 1], mask.shape[0], False),
            )
            there = there & (mask[row, column] > 0)
        return there
