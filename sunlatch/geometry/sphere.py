"""What a map goes through when a picture was joined on a sphere: a plane that is looked at, directions, a turn, and the
plane that holds the light.

Two of the kind are needed. A sweep is looked at through any projection, and its light lies on a raster where rows and
columns are angles (equirectangular: the master). A frame of the sweep is laid onto that raster, and its light lies on
the plane of its lens.
"""

import hashlib
import math
from dataclasses import dataclass, field
from functools import cached_property, lru_cache
from typing import Final, Protocol

import numpy as np
from numpy.typing import NDArray

from .lens import REACH, LensShape
from .projection import PROJECTIONS, along, towards

F64 = NDArray[np.float64]
B2 = NDArray[np.bool_]

OUTLINE_PLACES: Final = 181
"""Places each way at which a picture's outline is looked for."""
MASK_LONG: Final = 720
"""Cells along the long side of the map of what frames cover."""


@dataclass(frozen=True)
class Member:
    """How a frame of a join looks out. rotation: 3×3, world to camera, row by row; focal: in px; width, height: upright,
    px; lens: what it did to the frame."""

    rotation: tuple[float, ...]
    focal: float
    width: int
    height: int
    lens: LensShape = field(default_factory=LensShape)

    @property
    def half_diagonal(self) -> float:
        """Half its diagonal, px."""
        return math.hypot(self.width, self.height) / 2

    def world(self, shares: F64) -> F64:
        """Directions (..., 3), not of unit length, of places in the frame (..., 2), in widths and heights from its middle."""
        seen = shares * np.array([self.width, self.height])
        r = np.linalg.norm(seen, axis=-1, keepdims=True) / self.half_diagonal
        true = seen * (self.lens.undo(r) / np.maximum(r, 1e-9)) if any(self.lens.distortion) else seen
        ahead = np.full((*true.shape[:-1], 1), self.focal)
        return np.asarray(np.concatenate([true, ahead], -1) @ np.array(self.rotation).reshape(3, 3))

    def depth(self, directions: F64) -> F64:
        """How far inside its edges directions (..., 3) of the world lie, px; less than nothing outside."""
        d = directions @ np.array(self.rotation).reshape(3, 3).T
        z = np.maximum(d[..., 2], 1e-3)
        x, y = (np.abs(d[..., n] / z) * self.focal for n in (0, 1))
        if any(self.lens.distortion):
            bent = self.lens.factor(np.minimum((x * x + y * y) / self.half_diagonal**2, REACH**2))
            x, y = x * bent, y * bent
        return np.where(d[..., 2] > 1e-3, np.minimum(self.width / 2 - x, self.height / 2 - y), -1e6)

    def sees(self, directions: F64, room: float = 0.0) -> B2:
        """Whether it holds directions (..., 3) of the world; room: px that it must lie inside its edge."""
        return np.asarray(self.depth(directions) >= room)


class Outline:
    """What the frames of a join cover together, by directions. Equal where the frames are."""

    def __init__(self, members: tuple[Member, ...]) -> None:
        self.members = members
        self.digest = hashlib.sha256(repr(members).encode()).hexdigest()[:24]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Outline) and other.digest == self.digest

    def __hash__(self) -> int:
        return hash(self.digest)

    def __repr__(self) -> str:
        return f"Outline({self.digest})"

    def depth(self, directions: F64) -> F64:
        """How far inside a frame directions (..., 3) lie, px: of those that hold them, the one that does so most deeply."""
        found = np.full(directions.shape[:-1], -1e6)
        for member in self.members:
            np.maximum(found, member.depth(directions), out=found)
        return found

    def covered(self, directions: F64, room: float = 0.0) -> B2:
        """Whether any frame holds directions (..., 3)."""
        return np.asarray(self.depth(directions) >= room)


@dataclass(frozen=True)
class Master:
    """The raster a sweep's light lies on: rows and columns are angles. right, down: of its left top corner, radians;
    size: (width, height) px; focal: px per radian."""

    right: float
    down: float
    size: tuple[int, int]
    focal: float

    @property
    def wraps(self) -> bool:
        """Whether it goes all the way round."""
        return self.size[0] >= round(2 * math.pi * self.focal) - 1

    def directions(self, px: F64) -> F64:
        """Unit directions (..., 3) of places in px (..., 2)."""
        return towards(self.right + px[..., 0] / self.focal, self.down + px[..., 1] / self.focal)

    def px(self, directions: F64, about: float | None = None) -> F64:
        """Places in px (..., 2) of directions (..., 3); the way round is counted from `about`, its own middle by
        default."""
        at = along(directions)
        middle = self.right + self.size[0] / self.focal / 2 if about is None else about
        right = middle + np.mod(at[..., 0] - middle + math.pi, 2 * math.pi) - math.pi
        return np.stack([(right - self.right) * self.focal, (at[..., 1] - self.down) * self.focal], -1)

    def grid(self, columns: int, rows: int) -> F64:
        """Places in px (rows, columns, 2) spread evenly, edges included."""
        x = np.linspace(0, self.size[0], columns)
        y = np.linspace(0, self.size[1], rows)
        return np.stack(np.broadcast_arrays(x[None, :], y[:, None]), -1)


@dataclass(frozen=True)
class Sphere:
    """A sweep as it is looked at. projection, squeeze: see projection.py; rotation: 3×3, from the world to what is looked
    at, row by row; unit: px of the master that coordinates are divided by."""

    master: Master
    outline: Outline
    unit: int
    projection: str = "cylindrical"
    squeeze: float = 1.0
    rotation: tuple[float, ...] = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0)

    @property
    def _scale(self) -> float:
        """Lengths on the plane, in units, per radian in its middle."""
        return self.master.focal / self.unit

    @property
    def _turn(self) -> F64:
        return np.array(self.rotation).reshape(3, 3)

    @cached_property
    def _about(self) -> float:
        """The direction in the master that the middle of what is looked at shows."""
        return float(along(self._turn.T @ np.array([0.0, 0.0, 1.0]))[0])

    def inverse(self, points: F64) -> F64:
        """Inverse projection: places looked at (..., 2), their origin in the middle, to the master (..., 2), in units from its middle; NaN
        where there is no direction."""
        laid = PROJECTIONS[self.projection]
        plane = np.asarray(points, float) / self._scale
        seen = laid.back(plane, self.squeeze)
        # going round is counted from where one looks, on and on: what lies beside a place lies beside it there too
        right = plane[..., 0] if laid.round else np.arctan2(seen[..., 0], seen[..., 2])
        world = seen @ self._turn
        at = along(world)
        about = self._about + right
        at[..., 0] = about + np.mod(at[..., 0] - about + math.pi, 2 * math.pi) - math.pi
        m = self.master
        middle = np.array([m.right + m.size[0] / m.focal / 2, m.down + m.size[1] / m.focal / 2])
        if not m.wraps:  # of all turns of it, the one the raster holds
            at[..., 0] = middle[0] + np.mod(at[..., 0] - middle[0] + math.pi, 2 * math.pi) - math.pi
        else:
            turns = np.round((self._about - middle[0]) / (2 * math.pi))
            at[..., 0] -= 2 * math.pi * turns
        return np.asarray((at - middle) * self._scale)

    def forward(self, points: F64) -> F64:
        """Forward projection: the master (..., 2), in units from its middle, to places looked at (..., 2); NaN where the
        projection does not reach."""
        m = self.master
        px = np.asarray(points, float) * self.unit + np.array(m.size) / 2
        return self._laid(m.directions(px) @ self._turn.T)

    def _laid(self, seen: F64) -> F64:
        return np.asarray(PROJECTIONS[self.projection].onto(seen, self.squeeze) * self._scale)

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """The rectangle (x0, y0, x1, y1) of all that is covered and that the projection is fit to show."""
        m, laid = self.master, PROJECTIONS[self.projection]
        directions = m.directions(m.grid(2 * OUTLINE_PLACES - 1, OUTLINE_PLACES))
        covered = self.outline.covered(directions)
        seen = directions @ self._turn.T
        if laid.round or self.projection == "panini":
            at = np.abs(along(seen))
            fit = (at[..., 0] <= laid.right) & (at[..., 1] <= laid.down)
        else:
            fit = seen[..., 2] >= math.cos(min(laid.right, math.radians(150)))
            if self.projection == "rectilinear":
                fit = seen[..., 2] >= math.cos(laid.right)
        places = self._laid(seen)[covered & fit]
        places = places[np.isfinite(places).all(-1)]
        if not len(places):
            half = self._scale / 2
            return -half, -half, half, half
        (x0, y0), (x1, y1) = places.min(0), places.max(0)
        step = self._scale * m.size[0] / m.focal / (2 * OUTLINE_PLACES - 2)
        if laid.round and x1 - x0 > 2 * math.pi * self._scale - 3 * step:
            x0, x1 = -math.pi * self._scale, math.pi * self._scale
        return float(x0), float(y0), float(x1), float(y1)

    @cached_property
    def mask(self) -> NDArray[np.uint8]:
        """Which cells of the master are covered to their corners."""
        return _mask(self.master, self.outline)


@lru_cache(16)
def _mask(master: Master, outline: Outline) -> NDArray[np.uint8]:
    width, height = master.size
    k = MASK_LONG / max(width, height)
    columns, rows = max(2, round(width * k)), max(2, round(height * k))
    corners = outline.covered(master.directions(master.grid(columns + 1, rows + 1)), 2.0)
    whole = corners[:-1, :-1] & corners[1:, :-1] & corners[:-1, 1:] & corners[1:, 1:]
    return np.ascontiguousarray(whole, np.uint8)


@dataclass(frozen=True)
class Onto:
    """A frame of a sweep as it is laid onto the master. unit: long edge of the frame, px; rotation: world to camera;
    focal: px."""

    master: Master
    rotation: tuple[float, ...]
    focal: float
    unit: int

    def inverse(self, points: F64) -> F64:
        """Places on the master (..., 2) to the plane of the lens (..., 2), upright, both in the frame's long edges;
        NaN behind the camera."""
        world = self.master.directions(np.asarray(points, float) * self.unit)
        d = world @ np.array(self.rotation).reshape(3, 3).T
        z = np.where(d[..., 2] > 0.02, d[..., 2], np.nan)
        return np.asarray(d[..., :2] / z[..., None] * self.focal / self.unit)

    def forward(self, points: F64) -> F64:
        """The inverse."""
        p = np.asarray(points, float) * self.unit / self.focal
        d = np.concatenate([p, np.ones_like(p[..., :1])], -1) @ np.array(self.rotation).reshape(3, 3)
        return self.master.px(d) / self.unit

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """The whole of the master, in the frame's long edges."""
        return 0.0, 0.0, self.master.size[0] / self.unit, self.master.size[1] / self.unit


class Upright(Protocol):
    """A map as far as `Across` needs it (map.py's Geometry)."""

    @property
    def width(self) -> int:
        """As captured, px."""

    @property
    def height(self) -> int:
        """As captured, px."""

    def to_turned(self, points: F64) -> F64:
        """Source (..., 2) to its upright plane, free of the lens's faults (..., 2)."""

    def turned_to_source(self, points: F64) -> F64:
        """The turned plane (..., 2) to source (..., 2)."""

    def __hash__(self) -> int: ...


def turned_by(p: F64, focal: float, rotation: tuple[float, ...]) -> F64:
    """Places on the upright plane of a lens (..., 2) where a camera of the same focal length, turned (3×3, row by row), sees
    them (..., 2); NaN behind it."""
    d = np.concatenate([p, np.full_like(p[..., :1], focal)], -1) @ np.array(rotation).reshape(3, 3).T
    z = np.where(d[..., 2] > 1e-3, d[..., 2], np.nan)
    return np.asarray(d[..., :2] / z[..., None] * focal)


@dataclass(frozen=True)
class Lent:
    """A second frame as a scene of another is looked at. shown: the scene's map; upright: its frame's, freed of the lens's
    faults; rotation: from its camera to the second's; focal: in long edges, both have the same."""

    shown: Upright
    upright: Upright
    rotation: tuple[float, ...]
    focal: float

    def inverse(self, points: F64) -> F64:
        """Places of the scene's turned plane (..., 2) to the upright plane of the second frame's lens (..., 2); NaN behind
        the camera."""
        p = self.upright.to_turned(self.shown.turned_to_source(points))
        return turned_by(p, self.focal, self.rotation)

    def forward(self, points: F64) -> F64:
        """Nobody asks where a place of the second frame lies on the scene."""
        raise NotImplementedError

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Nobody asks: it is the scene's."""
        raise NotImplementedError


@dataclass(frozen=True)
class LentToSweep:
    """A second frame as a scene of a sweep is looked at. shown: the scene's map; unit: px of the master that its coordinates
    are divided by; rotation: from the sweep's world to the second's camera; focal: in the second's long edges."""

    shown: Upright
    master: Master
    unit: int
    rotation: tuple[float, ...]
    focal: float

    def inverse(self, points: F64) -> F64:
        """Places of the scene's turned plane (..., 2) to the upright plane of the second frame's lens (..., 2); NaN behind
        the camera."""
        world = self.master.directions(self.shown.turned_to_source(points) * self.unit)
        d = world @ np.array(self.rotation).reshape(3, 3).T
        z = np.where(d[..., 2] > 0.02, d[..., 2], np.nan)
        return np.asarray(d[..., :2] / z[..., None] * self.focal)

    def forward(self, points: F64) -> F64:
        """Nobody asks where a place of the second frame lies on the scene."""
        raise NotImplementedError

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Nobody asks: it is the scene's."""
        raise NotImplementedError


@dataclass(frozen=True)
class Placed:
    """A second frame laid behind a scene by hand. shown: the scene's map; upright: its frame's, upright and otherwise untouched;
    shift: where the middle of the second lies from the middle of the first, in its long edges; size: of the second's long edge
    against the first's; turn: degrees clockwise; mirror: left to right."""

    shown: Upright
    upright: Upright
    shift: tuple[float, float]
    size: float
    turn: float
    mirror: bool

    def inverse(self, points: F64) -> F64:
        """Places of the scene's turned plane (..., 2) to the upright plane of the second frame's lens (..., 2)."""
        p = self.upright.to_turned(self.shown.turned_to_source(points)) - np.array(self.shift)
        turn = math.radians(self.turn)
        cos, sin = math.cos(turn) / self.size, math.sin(turn) / self.size
        x = cos * p[..., 0] + sin * p[..., 1]
        return np.stack([-x if self.mirror else x, cos * p[..., 1] - sin * p[..., 0]], -1)

    def forward(self, points: F64) -> F64:
        """Nobody asks where a place of the second frame lies on the scene."""
        raise NotImplementedError

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Nobody asks: it is the scene's."""
        raise NotImplementedError


SECONDARY: Final = (Lent, LentToSweep, Placed)
"""How a second frame may lie on a scene, whose canvas and box it takes."""


@dataclass(frozen=True)
class Across:
    """A frame of a bracket as it is laid onto the px of another one, its reference, lens faults and all. turn: from the
    reference's camera to the frame's; focal: in long edges, both have the same."""

    reference: Upright
    rotation: tuple[float, ...]
    focal: float

    def inverse(self, points: F64) -> F64:
        """Source coordinates of the reference (..., 2) to the upright plane of the frame's lens (..., 2); NaN behind the
        camera."""
        p = self.reference.to_turned(np.asarray(points, float))
        return turned_by(p, self.focal, self.rotation)

    def forward(self, points: F64) -> F64:
        """Nobody asks where a place of the frame lies on the reference."""
        raise NotImplementedError

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """The whole of the reference, in long edges."""
        unit = max(self.reference.width, self.reference.height)
        return 0.0, 0.0, self.reference.width / unit, self.reference.height / unit
