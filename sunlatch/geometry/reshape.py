"""Displacements from a few handles: places that are carried, lines that are made straight, a foreground pulled larger.

Between handles the smoothest field is taken that decays beyond `reach`: kernels (1 + (reach/π)²·λ)⁻³ over the cosines and
sines of a rectangle, λ the eigenvalues of its Laplacian. With sines across the way to an edge, the edge slides along
itself and stays. (Matérn covariances; Rasmussen & Williams, Gaussian Processes for Machine Learning, 2006, 4.2.)
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

from .field import held_back, over_plane
from .lattice import Lattice
from .trim import Box

F64 = NDArray[np.float64]

CELLS: Final = 96
FINE: Final = 192
"""Steps of the field along the plane's long side: so many, and at most."""
NUGGET: Final = 1e-7
"""Handles closer together than the field can tell apart are met on average."""
RAGGED: Final = 400
"""Cells along the plane's long side when its outline is looked for."""
BESIDE: Final = 0.02
"""The field goes on beyond its plane by so much of its long side."""


@dataclass(frozen=True)
class Pulls:
    """Handles. at (n, 2): where things are shown; by (n, 2): where they lie without, from there."""

    at: F64
    by: F64


class _Smooth:
    """The fields of one rectangle and reach. edges: they slide along themselves."""

    def __init__(self, box: Box, reach: float, edges: bool) -> None:
        self.box = box
        size = np.array([box.width, box.height])
        # waves so fine that handles beside one another can be told apart
        self.counts = np.clip(np.ceil(8 * size / reach), 8, 128).astype(int)
        self.edges = edges
        self.length = reach / np.pi

    def modes(self, points: F64, axis: int, sines: bool) -> F64:
        """Values (n, k) along an axis at places (n)."""
        low, size = ((self.box.x0, self.box.width), (self.box.y0, self.box.height))[axis]
        t = (points - low) / size * np.pi
        k = np.arange(self.counts[axis]) + (1 if sines else 0)
        waves = np.sin(t[:, None] * k) if sines else np.cos(t[:, None] * k)
        return np.asarray(waves * np.where(k == 0, 1.0, np.sqrt(2)))

    def gains(self, part: int) -> F64:
        """How much of each wave there is (rows, columns) in a part (0: across, 1: down) of the field."""
        along = []
        for axis, size in enumerate((self.box.width, self.box.height)):
            k = np.arange(self.counts[axis]) + (1 if self.sines(part, axis) else 0)
            along.append((k * np.pi / size) ** 2)
        both = along[1][:, None] + along[0][None, :]
        return np.asarray((1 + self.length**2 * both) ** -3.0)

    def sines(self, part: int, axis: int) -> bool:
        return self.edges and part == axis

    def through(self, handles: Pulls) -> Lattice:
        """The field that goes through handles."""
        found = [self._weights(handles, part) for part in (0, 1)]

        def ask(points: F64) -> F64:
            xs, ys = points[0, :, 0], points[:, 0, 1]  # a grid, always
            out = np.empty(points.shape)
            for part, weights in enumerate(found):
                across = self.modes(xs, 0, self.sines(part, 0))
                down = self.modes(ys, 1, self.sines(part, 1))
                out[..., part] = down @ weights @ across.T
            return out

        box, room = self.box, BESIDE * max(self.box.width, self.box.height)
        cells = min(max(CELLS, int(self.counts.max())), FINE)
        return over_plane(box.x0 - room, box.y0 - room, box.x1 + room, box.y1 + room, cells, ask)

    def _weights(self, handles: Pulls, part: int) -> F64:
        across = self.modes(handles.at[:, 0], 0, self.sines(part, 0))
        down = self.modes(handles.at[:, 1], 1, self.sines(part, 1))
        gains = self.gains(part)
        waves = (down[:, :, None] * across[:, None, :]).reshape(len(across), -1)
        kernel = (waves * gains.ravel()) @ waves.T
        kernel += np.eye(len(kernel)) * (NUGGET * max(float(kernel.diagonal().max()), 1e-12))
        solved = np.linalg.solve(kernel, handles.by[:, part])
        return np.asarray((solved @ waves).reshape(gains.shape) * gains)


def through(box: Box, handles: Pulls, reach: float, edges: bool) -> Lattice:
    """The smooth field over a plane that carries handles where they are wanted. reach: long edges, how far one is felt;
    edges: those of the plane stay where they are (what lies on them may slide along)."""
    return _Smooth(box, reach, edges).through(handles)


def straightened(points: F64, what: str, spacing: float) -> Pulls:
    """Handles that make a line through places (n, 2) of the plane straight: along its own middle line, or "level", or
    "upright", its middle staying."""
    at = _along(points, spacing)
    if len(at) < 2:  # no way, no line
        return Pulls(np.zeros((0, 2)), np.zeros((0, 2)))
    middle = at.mean(0)
    if what == "level":
        way = np.array([1.0, 0.0])
    elif what == "upright":
        way = np.array([0.0, 1.0])
    else:
        way = np.linalg.svd(at - middle, full_matrices=False)[2][0]
    shown = middle + np.outer((at - middle) @ way, way)
    return Pulls(shown, at - shown)


def _along(points: F64, spacing: float) -> F64:
    """Places (m, 2) evenly along the smooth line through places (n, 2)."""
    p = np.asarray(points, float)
    keep = np.concatenate([[True], np.linalg.norm(np.diff(p, axis=0), axis=1) > 1e-6])
    p = p[keep]
    if len(p) < 2:
        return np.asarray(p)
    way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
    count = int(np.clip(np.ceil(way[-1] / spacing), 2, 64)) + 1
    t = np.linspace(0, way[-1], count)
    if len(p) == 2:
        return np.asarray(p[0] + (p[1] - p[0]) * (t / way[-1])[:, None])
    # many places were traced or drawn by hand: those are not to be swung past
    line = (
        scipy.interpolate.CubicSpline(way, p) if len(p) < 12 else scipy.interpolate.PchipInterpolator(way, p)
    )
    return np.asarray(line(t))


def enlarged(box: Box, outline: F64, amount: float, soft: float) -> Lattice:
    """The field that pulls what lies in an outline (n, 2) larger toward its lower edge, as if one stood nearer: there it is
    `amount` times as wide, at its upper edge as it was. soft: long edges over which it ends, inward of the outline."""
    (x0, y0), (x1, y1) = outline.min(0), outline.max(0)
    y0, y1 = max(y0, box.y0), min(y1, box.y1)
    middle, half, high = (x0 + x1) / 2, (x1 - x0) / 2, max(y1 - y0, 1e-6)
    corners = np.array([[-half, 0], [half, 0], [half, high], [-half, high]])
    there = corners * np.array([[1, 1], [1, 1], [amount, 1], [amount, 1]])
    back = cv2.getPerspectiveTransform(there.astype(np.float32), corners.astype(np.float32)).astype(float)
    room = BESIDE * max(box.width, box.height)
    inside = _inside(box, outline, soft)

    def ask(points: F64) -> F64:
        p = points - [middle, y0]
        h = p @ back[:, :2].T + back[:, 2]
        below = h[..., :2] / np.maximum(h[..., 2:], 0.1)
        return np.asarray((below - p) * inside(points)[..., None])

    return over_plane(box.x0 - room, box.y0 - room, box.x1 + room, box.y1 + room, FINE, ask)


def _inside(box: Box, outline: F64, soft: float) -> Callable[[F64], F64]:
    """How far within an outline places (..., 2) lie, 0 at its edge to 1 so far inside; the plane's own edge is none."""
    size = 480
    k = size / max(box.width, box.height)
    w, h = max(2, round(box.width * k)), max(2, round(box.height * k))
    drawn = np.zeros((h, w), np.uint8)
    # what is drawn up to within a few px of the picture's edge is meant to go over it
    snapped = np.where(outline < [box.x0 + 0.01, box.y0 + 0.01], outline - 0.05, outline)
    snapped = np.where(snapped > [box.x1 - 0.01, box.y1 - 0.01], snapped + 0.05, snapped)
    cv2.fillPoly(drawn, [np.round((snapped - [box.x0, box.y0]) * k).astype(np.int32)], 1)
    pad = size
    wide = cv2.copyMakeBorder(drawn, pad, pad, pad, pad, cv2.BORDER_REPLICATE)
    far = cv2.distanceTransform(wide, cv2.DIST_L2, 5)[pad:-pad, pad:-pad] / k
    t = np.clip(far / max(soft, 1e-3), 0, 1)
    smooth = cv2.GaussianBlur(t * t * t * (t * (6 * t - 15) + 10), (0, 0), 1.5).astype(np.float32)

    def ask(points: F64) -> F64:
        at = ((points - [box.x0, box.y0]) * k - 0.5).astype(np.float32)
        return np.asarray(
            cv2.remap(smooth, at[..., 0], at[..., 1], cv2.INTER_LINEAR, None, cv2.BORDER_REPLICATE), float
        )

    return ask


def filled(box: Box, covered: Callable[[F64], NDArray[np.bool_]], amount: float) -> tuple[Lattice, float]:
    """The field that draws a ragged outline out to the edges of a plane, smoothly, and how much of that it does without a
    fold. covered: whether places (..., 2) show something; amount: 0 to 1, how far."""
    there = covered(_grid(box, RAGGED))
    k = np.array([box.width, box.height]) / (np.array(there.shape[::-1]) - 1)
    corners = _corners(there)
    at, by = [], []
    for n, horizontal in enumerate((True, False, True, False)):
        a, b = corners[n], corners[(n + 1) % 4]
        rim, edge = _side(there, a, b, horizontal, n in (0, 3))
        inner, outer = rim * k + [box.x0, box.y0], edge * k + [box.x0, box.y0]
        at.append(outer)
        by.append((inner - outer) * amount)
    reach = 0.6 * min(box.width, box.height)
    return held_back(through(box, Pulls(np.concatenate(at), np.concatenate(by)), reach, edges=False))


def _grid(box: Box, cells: int) -> F64:
    step = max(box.width, box.height) / cells
    xs = np.linspace(box.x0, box.x1, max(8, round(box.width / step)) + 1)
    ys = np.linspace(box.y0, box.y1, max(8, round(box.height / step)) + 1)
    inset = step * 1e-3  # the outermost places lie on the outline itself
    xs[[0, -1]] += [inset, -inset]
    ys[[0, -1]] += [inset, -inset]
    return np.stack(np.meshgrid(xs, ys), -1)


def _corners(there: NDArray[np.bool_]) -> F64:
    """The covered cells (column, row) farthest toward the corners, clockwise from the left top."""
    rows, columns = np.nonzero(there)
    w, h = there.shape[1], there.shape[0]
    x, y = columns / w, rows / h
    found = [int(np.argmin(v)) for v in (x + y, y - x, -x - y, x - y)]
    return np.array([[columns[n], rows[n]] for n in found], float)


def _side(there: NDArray[np.bool_], a: F64, b: F64, horizontal: bool, first: bool) -> tuple[F64, F64]:
    """A side of the outline from corner a to corner b in cells, within what is covered, and where it belongs on the edge:
    (n, 2) each. first: it is the top or the left one."""
    grid = there if horizontal else there.T
    low, high = sorted((a[0], b[0]) if horizontal else (a[1], b[1]))
    places = np.arange(int(low), int(high) + 1)
    lines = grid[:, places]
    depth = lines.argmax(0) if first else lines[::-1].argmax(0)
    wide = max(3, len(places) // 40)
    # smooth, and nowhere outside what is covered
    depth = scipy.ndimage.gaussian_filter1d(
        scipy.ndimage.maximum_filter1d(depth.astype(float), 2 * wide + 1), wide / 2
    )
    count = min(len(places), 48)
    pick = np.linspace(0, len(places) - 1, count)
    depth = np.interp(pick, np.arange(len(places)), depth)
    at = places[0] + pick
    size, across = grid.shape[1] - 1, grid.shape[0] - 1
    inner = np.stack([at, depth if first else across - depth], -1)
    outer = np.stack([pick / max(len(places) - 1, 1) * size, np.full(count, 0.0 if first else across)], -1)
    return (inner, outer) if horizontal else (inner[:, ::-1], outer[:, ::-1])
