"""The one coordinate map, from the as-captured frame to the developed picture: points.py maps them, framing.py says which are
shown, and here lie the views of them that are rendered."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from .framing import FramedMap
from .lattice import INTERVAL, Lattice, spread
from .points import F64, TURNS
from .view import View, widened


@dataclass(frozen=True)
class Geometry(FramedMap):
    """The map of one scene, with the views of its developed picture."""

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
        a, b, c, d = TURNS[self.orientation]
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
