"""What of the turned plane is shown: the canvas, which holds the frame, and the box that Trim leaves of it."""

import math
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np

from .lattice import Lattice
from .points import F64, TURNS, PointMap
from .sphere import SECONDARY, Across, Onto, Sphere
from .trim import EVERYWHERE, Box, Cover, kept_inside, largest, widest

CANVAS_LIMIT = 1.6
"""Half the canvas may reach this many long edges from the middle."""
COVER_STEPS = 72
"""Steps along the canvas's long side between places whose source is known when a box is looked for."""
WIDEST_STEPS = 200
"""Cells along the canvas's long side when the largest rectangle of a ragged outline is looked for."""


@dataclass(frozen=True)
class FramedMap(PointMap):
    """A map of points that knows the canvas and the developed picture."""

    @cached_property
    def cover(self) -> Cover:
        """The same, for what asks it ten thousand times."""
        canvas, w, h = self.canvas, *(2 * self.middle)
        step = max(canvas.width, canvas.height) / COVER_STEPS
        count = math.ceil(canvas.width / step), math.ceil(canvas.height / step)
        nodes = Lattice.over((canvas.x0, canvas.y0), (step, step), count, self.turned_to_source, self.far)
        mask = self.sphere.mask if isinstance(self.sphere, Sphere) else EVERYWHERE
        return Cover(nodes.values, np.array([canvas.x0, canvas.y0, 1 / step, w, h, float(self.wraps)]), mask)

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
            assert isinstance(self.sphere.shown, FramedMap)
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


@lru_cache(128)
def _box(geometry: FramedMap) -> Box:
    """Where the developed picture lies: what is asked for, kept clear of empty corners."""
    trim, canvas = geometry.trim, geometry.canvas
    aspect = trim.aspect
    if isinstance(geometry.sphere, Onto | Across):
        return canvas
    if isinstance(geometry.sphere, SECONDARY):
        assert isinstance(geometry.sphere.shown, FramedMap)
        return geometry.sphere.shown.box
    if trim.centre is None and trim.width is None and trim.height is None:
        if isinstance(geometry.sphere, Sphere) and aspect is None and trim.shift == (0.0, 0.0):
            return canvas if trim.empty else _on_whole_px(_widest(geometry), geometry)
        whole = geometry.straight or trim.empty or _held_at_its_edges(geometry)
        if aspect is None and trim.shift == (0.0, 0.0) and whole:
            return canvas
        upright = np.abs(np.array(TURNS[geometry.orientation]).reshape(2, 2)) @ geometry.middle
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


def _held_at_its_edges(geometry: FramedMap) -> bool:
    """Whether a straight picture was reshaped within its edges: it shows something everywhere then."""
    if not geometry.unbent.straight or not geometry.fields:
        return False
    canvas, inset = geometry.canvas, 0.5 / geometry.long_edge
    t = np.linspace(inset, 1 - inset, 257)
    xs, ys = canvas.x0 + t * canvas.width, canvas.y0 + t * canvas.height
    rim = [np.stack([xs, xs * 0 + y], -1) for y in (canvas.y0 + inset, canvas.y1 - inset)]
    rim += [np.stack([ys * 0 + x, ys], -1) for x in (canvas.x0 + inset, canvas.x1 - inset)]
    return bool(geometry.covered(np.concatenate(rim)).all())


def _widest(geometry: FramedMap) -> Box:
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


def _on_whole_px(box: Box, geometry: FramedMap) -> Box:
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
