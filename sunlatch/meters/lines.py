"""Straight things in a picture: lines that should be upright, and the horizon."""

import math
from dataclasses import dataclass
from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..binding.maps import master_of
from ..geometry import Geometry, PlumbLine, View, lies_on, residual, rotation, solve, solve_on_sphere
from ..latch.found import find_line
from ..ledger import Sweep
from ..moves.plumb import DrawnLine
from ..parameters import Point
from ..render.develop import Development

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

LINES_LONG_EDGE: Final = 1200
AGREE: Final = 0.4
"""The share of what is nearly upright that must meet in one point for it to be built…"""
SEVERAL: Final = 6
"""…by so many edges, or by long ones."""
WEAKEST: Final = 0.2
"""A line along which light steps over less of the width is no horizon."""
SURE: Final = 0.36
"""From this share of the picture's width a found horizon is believed."""


@dataclass(frozen=True)
class Horizon:
    """A found horizon. level: what Trim's level would have to be, in degrees; off: how far the picture
    as it stands is off it; share: of the width along which it was seen, 0–1."""

    level: float
    off: float
    share: float


@dataclass(frozen=True)
class Uprights:
    """Lines that look built and should be upright. share: of all that stands nearly upright there, by length, what meets in
    the point they do, 0–1."""

    lines: list[DrawnLine]
    share: float


def _lightness(development: Development, view: View, geometry: Geometry) -> NDArray[np.uint8]:
    """The reading of a view in 8 bits, its range of light spread."""
    camera = development.ground.reading_camera(view, geometry)
    y = np.maximum(np.tensordot(np.array([0.25, 0.5, 0.25], np.float32), camera, 1), 1e-4)
    stops = np.log2(y)
    low, high = np.percentile(stops, (0.5, 99.5))
    return np.asarray(np.clip((stops - low) / max(high - low, 0.5), 0, 1) * 255).astype(np.uint8)


def _segments(picture: NDArray[np.uint8]) -> F64:
    """Line segments (n, 4) x0, y0, x1, y1 in px, px centres at i + 0.5 (von Gioi et al. 2010)."""
    detector: Any = cv2.createLineSegmentDetector(cv2.LSD_REFINE_ADV)
    found = detector.detect(picture)[0]
    if found is None:
        return np.zeros((0, 4))
    return np.asarray(found, float).reshape(-1, 4) + 0.5


def find_horizon(development: Development) -> Horizon | None:
    """The horizon, where there is a line that light steps along; None where there is none."""
    level = development.geometry.level
    development = development.again(untrimmed=True)
    view = development.geometry.whole(LINES_LONG_EDGE)
    picture = _lightness(development, view, development.geometry).astype(np.float32)
    untaken = development.ground.untaken(view)
    line = find_line(picture, np.ones(picture.shape, bool) if untaken is None else ~untaken)
    if line is None or line.share < WEAKEST:
        return None
    return Horizon(round(level - line.angle, 2), round(line.angle, 2), round(line.share, 3))


def find_lines(development: Development, most: int = 6) -> list[DrawnLine]:
    """Lines that should be upright, found by themselves. Empty where nothing built stands in the picture."""
    return find_uprights(development, most).lines


def find_uprights(development: Development, most: int = 6) -> Uprights:
    """Lines that should be upright: the longest that meet in one point below or above; none where nothing built stands in the
    picture."""
    nothing = Uprights([], 0.0)
    base = development.geometry.base
    view = base.fit(LINES_LONG_EDGE)
    geometry = Geometry(base.width, base.height, base.orientation, development.geometry.lens)
    picture = _lightness(development, view, base)
    segments = _segments(picture)
    if not len(segments):
        return nothing
    ends = segments.reshape(-1, 2, 2)
    direction = ends[:, 1] - ends[:, 0]
    length = np.hypot(direction[:, 0], direction[:, 1])
    lean = np.degrees(np.arctan2(np.abs(direction[:, 0]), np.abs(direction[:, 1])))
    keep = (lean < 30) & (length > 0.035 * LINES_LONG_EDGE)
    ends, length = ends[keep], length[keep]
    if len(ends) < 2:
        return nothing
    order = np.argsort(-length)[:60]
    ends, length = ends[order], length[order]
    # on the ideal upright plane, as rays
    size = np.array(view.size)
    unit = np.array([base.canvas.width, base.canvas.height])
    source = base.to_source(ends / size * unit)
    ideal = geometry.to_turned(source)
    focal = development.raster.info.focal
    rays = np.concatenate([ideal, np.full((*ideal.shape[:2], 1), focal)], -1)
    normal = np.cross(rays[:, 0], rays[:, 1])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    best, inside = 0.0, np.zeros(len(ends), bool)
    for i in range(len(ends)):
        for j in range(i):
            meet = np.cross(normal[i], normal[j])
            size_of = np.linalg.norm(meet)
            if size_of < 1e-4:
                continue
            meet = meet / size_of
            if abs(meet[1]) < math.cos(math.radians(42)):
                continue
            near = np.abs(normal @ meet) < math.radians(0.35)
            score = float(length[near].sum())
            if score > best:
                best, inside = score, near
    # grass and branches lean every way, and some of them happen to meet; edges that are built agree
    if inside.sum() < 3 or best < 0.25 * LINES_LONG_EDGE or best < AGREE * float(length.sum()):
        return nothing
    if inside.sum() < SEVERAL and best < 0.4 * LINES_LONG_EDGE:
        return nothing
    lines: list[DrawnLine] = []
    drawn: list[PlumbLine] = []
    for n in np.flatnonzero(inside):
        (ax, ay), (bx, by) = ideal[n]
        line = PlumbLine((float(ax), float(ay)), (float(bx), float(by)), "upright")
        if any(lies_on(line, other) or lies_on(other, line) for other in drawn):
            continue  # both sides of one edge
        drawn.append(line)
        lines.append(_line(source[n]))
        if len(lines) == most:
            break
    return Uprights(lines, best / float(length.sum())) if len(lines) >= 2 else nothing


def _line(source: F64) -> DrawnLine:
    (ax, ay), (bx, by) = source
    return DrawnLine(a=Point(x=ax, y=ay), b=Point(x=bx, y=by), what="upright")


def plumb_lines(development: Development, lines: list[DrawnLine]) -> list[PlumbLine]:
    """Drawn lines on the ideal upright plane, as `solve` wants them."""
    base = development.geometry.base
    ideal = Geometry(base.width, base.height, base.orientation, development.geometry.lens)
    out = []
    for line in lines:
        (ax, ay), (bx, by) = ideal.to_turned(np.array([[line.a.x, line.a.y], [line.b.x, line.b.y]]))
        out.append(PlumbLine((float(ax), float(ay)), (float(bx), float(by)), line.what))
    return out


def plumbed(development: Development) -> tuple[float, float, float]:
    """(lean, swing, roll) in degrees that bring the drawn lines upright and level. Raises GeometryError."""
    lines = development.scene.ground.plumb.params.lines
    base = development.scene.base
    if not isinstance(base, Sweep):
        return solve(plumb_lines(development, lines), development.raster.info.focal)
    facing = rotation(0.0, -development.ground.settings("projection").facing, 0.0)
    master = master_of(base)

    def direction(p: Point) -> F64:
        return np.asarray(facing @ master.directions(np.array([p.x, p.y]) * base.unit))

    return solve_on_sphere([(direction(line.a), direction(line.b), line.what) for line in lines])


def plumb_residual(development: Development) -> float | None:
    """The largest angle, in degrees, by which a drawn line is still off; None without lines."""
    p = development.ground.settings("plumb")
    if not p.lines:
        return None
    if not development.scene.base.as_taken:
        lean, _, roll = plumbed(development)
        return float(max(abs(lean - p.lean), abs(roll - p.roll)))
    lines = plumb_lines(development, p.lines)
    off = residual(lines, p.lean, p.swing, p.roll, development.raster.info.focal)
    return max(abs(v) for v in off)


def level_by(development: Development, a: Point, b: Point) -> float:
    """The level, in degrees, that brings a line drawn along the horizon level. Raises ValueError."""
    geometry = development.geometry
    (ax, ay), (bx, by) = geometry.to_turned(np.array([[a.x, a.y], [b.x, b.y]]))
    if math.hypot(bx - ax, by - ay) < 0.02:
        raise ValueError("that line is too short to tell a direction; nothing was changed")
    off = math.degrees(math.atan2(by - ay, bx - ax))
    off = (off + 90) % 180 - 90  # whichever way it was drawn
    if abs(off) > 60:  # drawn along something upright
        off -= math.copysign(90, off)
    level = geometry.level - off
    if abs(level) > 45:
        raise ValueError(
            f"that line lies {abs(off):.0f}° off; up to 45° can be levelled. Nothing was changed"
        )
    return round(level, 3)
