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
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from .field import Field
from .lattice import FAR, INTERVAL, Lattice, spread
from .lens import REACH, LensShape
from .sphere import SECONDARY, Across, Lent, LentToSweep, Onto, Placed, Sphere
from .trim import EVERYWHERE, SLACK, Box, Cover, kept_inside, largest, widest
from .view import Trimmed, View, widened

F64 = NDArray[np.float64]

# Exif orientation → (a, b, c, d) of upright = [[a, b], [c, d]] · captured, about the middle
_TURNS = {
    1: (1, 0, 0, 1), 2: (-1, 0, 0, 1), 3: (-1, 0, 0, -1), 4: (1, 0, 0, -1),
    5: (0, 1, 1, 0), 6: (0, -1, 1, 0), 7: (0, -1, -1, 0), 8: (0, 1, -1, 0),
}  # fmt: skip
CANVAS_LIMIT = 1.6
"""Half the canvas may reach this many long edges from the middle."""
COVER_STEPS = 72
"""Steps along the canvas's long side between places whose source is known when a box is looked for."""
WIDEST_STEPS = 200
"""Cells along the canvas's long side when the largest rectangle of a ragged outline is looked for."""


_STRAIGHT = (1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0)


@dataclass(frozen=True)
class Geometry:
    """The map of one scene. width, height: as captured, px; orientation: Exif code. plumb: 3×3 of the
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
    def base(self) -> "Geometry":
        """The same frame, upright and otherwise untouched."""
        return Geometry(self.width, self.height, self.orientation, unit=self.unit)

    @cached_property
    def untrimmed(self) -> "Geometry":
        """The same map with all that it shows, corners empty."""
        return replace(self, trim=Trimmed(empty=True))

    @cached_property
    def unbent(self) -> "Geometry":
        """The same map before anything was reshaped or nudged."""
        return replace(self, fields=()) if self.fields else self

    @cached_property
    def forward(self) -> F64:
        """3×3 from the ideal to the turned plane."""
        a, b, c, d = _TURNS[self.orientation]
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
            column = np.floor(cells[..., 0]).astype(int) % mask.shape[1]
            row = np.clip(np.floor(cells[..., 1]).astype(int), 0, mask.shape[0] - 1)
            there = there & (mask[row, column] > 0)
        return there

    @cached_property
    def cover(self) -> Cover:
        """The same, for what asks it ten thousand times."""
        canvas, w, h = self.canvas, *(2 * self.middle)
        step = max(canvas.width, canvas.height) / COVER_STEPS
        count = math.ceil(canvas.width / step), math.ceil(canvas.height / step)
        nodes = self._nodes((canvas.x0, canvas.y0), (step, step), count, self.turned_to_source)
        mask = self.sphere.mask if isinstance(self.sphere, Sphere) else EVERYWHERE
        return Cover(nodes.values, np.array([canvas.x0, canvas.y0, 1 / step, w, h, float(self.wraps)]), mask)

    def _nodes(
        self, start: tuple[float, float], step: tuple[float, float], count: tuple[int, int],
        ask: Callable[[F64], F64],
    ) -> Lattice:  # fmt: skip
        return Lattice.over(start, step, count, ask, self.far)

    # the canvas and the box

    @cached_property
    def canvas(self) -> Box:
        """All of the turned plane that shows something, within reason; on whole px. What is reshaped moves within it."""
        if self.fields:
            return self.unbent.canvas
        if self.straight:
            half = np.abs(self.forward[:2, :2]) @ self.middle
            return Box(-half[0], -half[1], half[0], half[1])
        unit = self.long_edge
        if isinstance(self.sphere, SECONDARY):
            assert isinstance(self.sphere.shown, Geometry)
            return self.sphere.shown.canvas
        if self.sphere is not None:
            x0, y0, x1, y1 = self.sphere.bounds
            left, top = math.floor(x0 * unit + 1e-6) / unit, math.floor(y0 * unit + 1e-6) / unit
            return Box(left, top, math.ceil(x1 * unit - 1e-6) / unit, math.ceil(y1 * unit - 1e-6) / unit)
        t = np.linspace(0, 1, 65)
        w, h = 2 * self.middle
        edge = np.concatenate(
            [np.stack([t * w, t * 0 + y], -1) for y in (0.0, h)]
            + [np.stack([t * 0 + x, t * h], -1) for x in (0.0, w)]
        )
        g = np.clip(self.to_turned(edge), -CANVAS_LIMIT, CANVAS_LIMIT)
        low = np.floor(g.min(0) * unit) / unit
        high = np.ceil(g.max(0) * unit) / unit
        return Box(float(low[0]), float(low[1]), float(high[0]), float(high[1]))

    @cached_property
    def box(self) -> Box:
        """The developed picture on the turned plane, on whole px."""
        return _box(self)

    @property
    def developed_size(self) -> tuple[int, int]:
        """(width, height) of the developed picture, px."""
        b = self.box
        return max(1, round(b.width * self.long_edge)), max(1, round(b.height * self.long_edge))

    def to_developed(self, points: F64) -> F64:
        """Source (..., 2) to the developed picture (..., 2): its left top corner is the origin."""
        return np.asarray(self.to_turned(points) - [self.box.x0, self.box.y0])

    def to_source(self, points: F64) -> F64:
        """Developed (..., 2) to source coordinates (..., 2)."""
        return self.turned_to_source(np.asarray(points) + np.array([self.box.x0, self.box.y0]))

    def to_canvas(self, points: F64) -> F64:
        """Source (..., 2) to the canvas (..., 2): its left top corner is the origin."""
        return np.asarray(self.to_turned(points) - [self.canvas.x0, self.canvas.y0])

    def canvas_places(self, view: "View", plane: "Geometry") -> NDArray[np.float32]:
        """Where every px of a view of another map of the same frame lies on the canvas: (2, h, w)."""
        out = np.empty((2, view.size[1], view.size[0]), np.float32)
        nodes = plane.lattice(view, lambda points: self.to_canvas(plane.turned_to_source(points)))
        spread(nodes, np.ones(2), np.zeros(2), 0, out)
        return out

    def lattice(self, view: "View", ask: Callable[[F64], F64]) -> Lattice:
        """What is asked of the turned plane, every few px of a view. ask: places (..., 2) to values (..., planes)."""
        x, y, dx, dy = self.corner(view)
        interval = self.interval(view)
        count = math.ceil(view.size[0] / interval), math.ceil(view.size[1] / interval)
        return Lattice.over((x, y), (dx * interval, dy * interval), count, ask, self.far, interval)

    def interval(self, view: "View") -> int:
        """Px of a view between nodes: close enough for what was nudged."""
        _, _, dx, dy = self.corner(view)
        interval = min((bent.interval for bent in self.fields), default=math.inf) / max(dx, dy)
        return INTERVAL if interval >= INTERVAL else 8 if interval >= 8 else 4

    # views

    def key(self) -> str:
        """Names this map for the render cache."""
        return repr(self)

    def canvas_key(self) -> str:
        """Names the map but for its crop."""
        return repr(
            (
                self.width,
                self.height,
                self.orientation,
                self.lens,
                self.plumb,
                self.level,
                self.sphere,
                self.fields,
            )
        )

    def shape_key(self) -> str:
        """Names what gives shapes drawn on the developed plane their form on the frame: a turn and a crop
        leave it."""
        return repr(
            (self.width, self.height, self.orientation, self.lens, self.plumb, self.sphere, self.fields)
        )

    def scale(self, view: View) -> float:
        """Output px per full-size px of a view (the larger of both axes)."""
        w, h = self.developed_size
        x0, y0, x1, y1 = view.region
        return max(view.size[0] / ((x1 - x0) * w), view.size[1] / ((y1 - y0) * h))

    def fit(self, long_edge: int) -> View:
        """The whole developed picture at a long edge of so many px (never enlarged)."""
        w, h = self.developed_size
        scale = min(long_edge / max(w, h), 1.0)
        return View((0.0, 0.0, 1.0, 1.0), (max(1, round(w * scale)), max(1, round(h * scale))))

    def look(self, long_edge: int) -> View:
        """The whole developed picture at about as many px as a frame has at a long edge of so many: a wide one is not looked
        at through a slit."""
        return self.fit(round(long_edge * widened(*self.developed_size)))

    def whole(self, long_edge: int) -> View:
        """The canvas, what Trim cut away included, at about as many px as a frame has at a long edge of so many (never
        enlarged)."""
        b, c, unit = self.box, self.canvas, self.long_edge
        long_edge = round(long_edge * widened(c.width, c.height))
        region = (
            (c.x0 - b.x0) / b.width, (c.y0 - b.y0) / b.height, (c.x1 - b.x0) / b.width, (c.y1 - b.y0) / b.height
        )  # fmt: skip
        scale = min(long_edge / (max(c.width, c.height) * unit), 1.0)
        return View(region, (max(1, round(c.width * unit * scale)), max(1, round(c.height * unit * scale))))

    def corner(self, view: View) -> tuple[float, float, float, float]:
        """x0, y0, dx, dy: the turned plane at the centre of a view's first px, and the step per px."""
        x0, y0, x1, y1 = view.region
        b = self.box
        dx, dy = (x1 - x0) * b.width / view.size[0], (y1 - y0) * b.height / view.size[1]
        return b.x0 + x0 * b.width + dx / 2, b.y0 + y0 * b.height + dy / 2, dx, dy

    def place(self, view: View) -> tuple[float, float, float, float]:
        """u0, v0, du, dv: a view's first px centre and its steps, in fractions of the canvas."""
        x, y, dx, dy = self.corner(view)
        c = self.canvas
        return (x - c.x0) / c.width, (y - c.y0) / c.height, dx / c.width, dy / c.height

    def points(self, view: View) -> F64:
        """The turned plane at every px centre of a view: (h, w, 2)."""
        x, y, dx, dy = self.corner(view)
        xs, ys = x + dx * np.arange(view.size[0]), y + dy * np.arange(view.size[1])
        return np.stack(np.broadcast_arrays(xs[None, :], ys[:, None]), -1)

    def source_rectangle(self, view: View) -> tuple[float, float, float, float]:
        """A view's region in as-captured px (x0, y0, x1, y1), x0 < x1; exact where `straight`."""
        x, y, dx, dy = self.corner(view)
        x, y = x - dx / 2, y - dy / 2
        corners = np.array([[x, y], [x + dx * view.size[0], y + dy * view.size[1]]])
        source = self.turned_to_source(corners) * self.long_edge
        low, high = source.min(0), source.max(0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def turn(self, planes: NDArray[np.float32]) -> NDArray[np.float32]:
        """Turn planes (3, h, w) sampled in as-captured order upright."""
        a, b, c, d = _TURNS[self.orientation]
        if b != 0:
            planes = planes.transpose(0, 2, 1)
            a, d = b, c
        if a < 0:
            planes = planes[:, :, ::-1]
        if d < 0:
            planes = planes[:, ::-1]
        return np.ascontiguousarray(planes)

    def stretched(self, columns: int = 9, rows: int = 6) -> F64:
        """Length on the developed picture per length on the frame, (rows, columns), at places spread
        over the developed picture: the larger of the two directions."""
        b = self.box
        xs = b.x0 + b.width * (np.arange(columns) + 0.5) / columns
        ys = b.y0 + b.height * (np.arange(rows) + 0.5) / rows
        at = np.stack(np.broadcast_arrays(xs[None, :], ys[:, None]), -1)
        step = 1e-4
        right, down = np.array([step, 0.0]), np.array([0.0, step])
        along_x = self.turned_to_source(at + right) - self.turned_to_source(at - right)
        along_y = self.turned_to_source(at + down) - self.turned_to_source(at - down)
        jacobian = np.stack([along_x, along_y], -1) / (2 * step)
        return np.asarray(1 / np.linalg.svd(jacobian, compute_uv=False)[..., 1])


@lru_cache(128)
def _box(geometry: Geometry) -> Box:
    """Where the developed picture lies: what is asked for, kept clear of empty corners."""
    trim, canvas = geometry.trim, geometry.canvas
    aspect = trim.aspect
    if isinstance(geometry.sphere, Onto | Across):
        return canvas
    if isinstance(geometry.sphere, SECONDARY):
        assert isinstance(geometry.sphere.shown, Geometry)
        return geometry.sphere.shown.box
    if trim.centre is None and trim.width is None and trim.height is None:
        if isinstance(geometry.sphere, Sphere) and aspect is None and trim.shift == (0.0, 0.0):
            return canvas if trim.empty else _on_whole_px(_widest(geometry), geometry)
        whole = geometry.straight or trim.empty or _held_at_its_edges(geometry)
        if aspect is None and trim.shift == (0.0, 0.0) and whole:
            return canvas
        upright = np.abs(np.array(_TURNS[geometry.orientation]).reshape(2, 2)) @ geometry.middle
        if trim.empty:
            own = aspect or canvas.width / canvas.height
            width = min(canvas.width, canvas.height * own)
            box = Box.about(canvas.centre, width, width / own)
        else:
            box = largest(canvas, aspect or float(upright[0] / upright[1]), geometry.cover)
        if trim.shift != (0.0, 0.0):
            x, y = box.centre
            box = Box.about((x - trim.shift[0], y - trim.shift[1]), box.width, box.height)
    else:
        if trim.centre is None:
            centre = canvas.centre
        else:
            x, y = geometry.to_turned(np.array(trim.centre))
            centre = (float(x), float(y))
        width = trim.width if trim.width is not None else canvas.width
        if aspect is not None:
            height = width / aspect
        else:
            height = trim.height if trim.height is not None else canvas.height
        box = Box.about(centre, width, height)
    if not trim.empty:
        box = kept_inside(box, geometry.cover, (0.0, 0.0))
    return _on_whole_px(box, geometry)


def _held_at_its_edges(geometry: Geometry) -> bool:
    """Whether a straight picture was reshaped within its edges: it shows something everywhere then."""
    if not geometry.unbent.straight or not geometry.fields:
        return False
    canvas, inset = geometry.canvas, 0.5 / geometry.long_edge
    t = np.linspace(inset, 1 - inset, 257)
    xs, ys = canvas.x0 + t * canvas.width, canvas.y0 + t * canvas.height
    rim = [np.stack([xs, xs * 0 + y], -1) for y in (canvas.y0 + inset, canvas.y1 - inset)]
    rim += [np.stack([ys * 0 + x, ys], -1) for x in (canvas.x0 + inset, canvas.x1 - inset)]
    return bool(geometry.covered(np.concatenate(rim)).all())


def _widest(geometry: Geometry) -> Box:
    """The largest upright rectangle of a sweep that has no empty corner, whatever its shape."""
    canvas = geometry.canvas
    step = max(canvas.width, canvas.height) / WIDEST_STEPS
    columns, rows = max(2, round(canvas.width / step)), max(2, round(canvas.height / step))
    xs = canvas.x0 + canvas.width * np.arange(columns + 1) / columns
    ys = canvas.y0 + canvas.height * np.arange(rows + 1) / rows
    inset = step * 1e-3  # the outermost places lie on the outline itself
    xs[[0, -1]] += [inset, -inset]
    ys[[0, -1]] += [inset, -inset]
    there = geometry.covered(np.stack(np.meshgrid(xs, ys), -1))
    cells = there[:-1, :-1] & there[1:, :-1] & there[:-1, 1:] & there[1:, 1:]
    found = widest(cells)
    if found is None:
        return Box.about(canvas.centre, canvas.width / 4, canvas.height / 4)
    top, bottom, left, right = found
    return Box(
        canvas.x0 + canvas.width * left / columns, canvas.y0 + canvas.height * top / rows,
        canvas.x0 + canvas.width * right / columns, canvas.y0 + canvas.height * bottom / rows,
    )  # fmt: skip


def _on_whole_px(box: Box, geometry: Geometry) -> Box:
    """A box whose size, and on a straight map whose place, is a whole number of px, not growing."""
    unit, canvas = geometry.long_edge, geometry.canvas
    w = max(1, math.floor(box.width * unit + 1e-3))
    h = max(1, math.floor(box.height * unit + 1e-3))
    x, y = box.x0, box.y0
    if geometry.straight:
        w = min(w, round(canvas.width * unit))
        h = min(h, round(canvas.height * unit))
        # counted from the canvas: an odd frame's middle lies between px
        x = canvas.x0 + min(max(round((x - canvas.x0) * unit), 0), round(canvas.width * unit) - w) / unit
        y = canvas.y0 + min(max(round((y - canvas.y0) * unit), 0), round(canvas.height * unit) - h) / unit
    return Box(x, y, x + w / unit, y + h / unit)
