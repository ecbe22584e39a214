"""The one coordinate map, from the as-captured frame to the developed picture.

Source coordinates: px positions of the as-captured active area (the centre of pixel i lies at
i + 0.5), both axes divided by its long edge. Developed coordinates: the same of the developed
picture, divided by the same length. Today the map turns the frame upright; lens, plumb, trim and
reshape will be composed into it here, and nowhere else.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]

# Exif orientation → (a, b, c, d) of developed = [[a, b], [c, d]] · source, before shifting
_TURNS = {
    1: (1, 0, 0, 1), 2: (-1, 0, 0, 1), 3: (-1, 0, 0, -1), 4: (1, 0, 0, -1),
    5: (0, 1, 1, 0), 6: (0, -1, 1, 0), 7: (0, -1, -1, 0), 8: (0, 1, -1, 0),
}  # fmt: skip


@dataclass(frozen=True)
class View:
    """What is asked for: a region of the developed picture as fractions (x0, y0, x1, y1) of its
    width and height, and the size (width, height) in px it is wanted in."""

    region: tuple[float, float, float, float]
    size: tuple[int, int]

    def place(self) -> tuple[float, float, float, float]:
        """u0, v0, du, dv: fraction of the first pixel's centre, and the step per pixel."""
        x0, y0, x1, y1 = self.region
        du, dv = (x1 - x0) / self.size[0], (y1 - y0) / self.size[1]
        return x0 + du / 2, y0 + dv / 2, du, dv

    def rows(self, first: int, last: int) -> "View":
        """The same view cut down to some of its rows."""
        x0, y0, x1, y1 = self.region
        dv = (y1 - y0) / self.size[1]
        return View((x0, y0 + first * dv, x1, y0 + last * dv), (self.size[0], last - first))


@dataclass(frozen=True)
class Geometry:
    """The map of one scene. width, height: as captured, px; orientation: Exif code."""

    width: int
    height: int
    orientation: int = 1

    @property
    def long_edge(self) -> int:
        """The length that source coordinates are divided by, px."""
        return max(self.width, self.height)

    @property
    def developed_size(self) -> tuple[int, int]:
        """(width, height) of the developed picture, px."""
        return (self.height, self.width) if self.orientation >= 5 else (self.width, self.height)

    @property
    def matrix(self) -> F64:
        """2×3 affine from source to developed coordinates."""
        a, b, c, d = _TURNS[self.orientation]
        w, h = self.width / self.long_edge, self.height / self.long_edge
        shift_x = (w if a < 0 else 0) + (h if b < 0 else 0)
        shift_y = (w if c < 0 else 0) + (h if d < 0 else 0)
        return np.array([[a, b, shift_x], [c, d, shift_y]], float)

    def to_developed(self, points: F64) -> F64:
        """Source (..., 2) to developed coordinates (..., 2)."""
        m = self.matrix
        return np.asarray(points @ m[:, :2].T + m[:, 2])

    def to_source(self, points: F64) -> F64:
        """Developed (..., 2) to source coordinates (..., 2)."""
        m = self.matrix
        return np.asarray((points - m[:, 2]) @ np.linalg.inv(m[:, :2]).T)

    def key(self) -> str:
        """Names this map for the render cache."""
        return f"{self.width}x{self.height}o{self.orientation}"

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

    def source_rectangle(self, view: View) -> tuple[float, float, float, float]:
        """The view's region in as-captured px (x0, y0, x1, y1), x0 < x1."""
        w, h = self.developed_size
        x0, y0, x1, y1 = view.region
        corners = np.array([[x0 * w, y0 * h], [x1 * w, y1 * h]]) / self.long_edge
        source = self.to_source(corners) * self.long_edge
        low, high = source.min(0), source.max(0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def turn(self, planes: NDArray[np.float32]) -> NDArray[np.float32]:
        """Turn planes (3, h, w) sampled in as-captured order upright."""
        a, b, _, d = _TURNS[self.orientation]
        if b != 0:
            planes = planes.transpose(0, 2, 1)
            a, d = _TURNS[self.orientation][1], _TURNS[self.orientation][2]
        if a < 0:
            planes = planes[:, :, ::-1]
        if d < 0:
            planes = planes[:, ::-1]
        return np.ascontiguousarray(planes)
