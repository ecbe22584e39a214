"""Displacements painted by a brush: it carries, swells, draws in, settles what is stretched, puts back what it moved.

A stroke is a row of dabs. Each changes the backward field as if the picture were soft under it; what a dab may do is
bounded by its radius, so that a field that does not fold stays one.
"""

from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel
from ..running.patience import go_on
from .field import AREA_LEAST, Field, determinants
from .lattice import Lattice
from .trim import Box

F64 = NDArray[np.float64]

Verb = Literal["carry", "swell", "draw_in", "settle", "put_back"]
VERBS: Final[dict[str, int]] = {"carry": 0, "swell": 1, "draw_in": 2, "settle": 3, "put_back": 4}
CELLS: Final = 512
"""Steps of the field along the plane's long side."""
SPACING: Final = 0.2
"""From dab to dab, in radii."""
FIRM: Final = 0.12
"""What one dab does at full strength: swelling, settling, putting back."""


@dataclass(frozen=True)
class Stroke:
    """points (n, 3): x, y on the plane without any field, and pressure 0–1; radius in long edges; strength 0–1."""

    verb: str
    points: F64
    radius: float
    strength: float


@kernel(
    "void(float64[:, :, ::1], float64[:, :, ::1], float64[::1], int64, float64, float64, float64, float64, float64)"
)
def _dab(field, before, plane, verb, x, y, dx, dy, firm):  # type: ignore[no-untyped-def]
    """One dab at (x, y), in place. before: room for a copy of the field; plane: x and y of its first node, the step, the radius."""
    step, radius = plane[2], plane[3]
    rows, columns = field.shape[1], field.shape[2]
    left, right = int(np.ceil((x - radius - plane[0]) / step)), int((x + radius - plane[0]) / step)
    top, bottom = int(np.ceil((y - radius - plane[1]) / step)), int((y + radius - plane[1]) / step)
    left, top = max(left, 1), max(top, 1)
    right, bottom = min(right, columns - 2), min(bottom, rows - 2)
    room = int(0.4 * radius / step) + 2  # farther than a dab carries
    for k in range(2):
        for j in range(max(top - room, 0), min(bottom + room + 1, rows)):
            for i in range(max(left - room, 0), min(right + room + 1, columns)):
                before[k, j, i] = field[k, j, i]
    for j in range(top, bottom + 1):
        for i in range(left, right + 1):
            u, v = plane[0] + i * step - x, plane[1] + j * step - y
            r2 = (u * u + v * v) / (radius * radius)
            if r2 >= 1.0:
                continue
            w = (1.0 - r2) * (1.0 - r2)
            if verb == 3:
                for k in range(2):
                    p = before[k]
                    around = 0.25 * (p[j - 1, i] + p[j + 1, i] + p[j, i - 1] + p[j, i + 1])
                    field[k, j, i] = p[j, i] + min(1.0, 6.0 * firm) * w * (around - p[j, i])
                continue
            if verb == 4:
                for k in range(2):
                    field[k, j, i] = before[k, j, i] * (1.0 - firm * w)
                continue
            if verb == 0:
                mx, my = -w * dx, -w * dy
            else:
                by = -firm * w if verb == 1 else firm * w
                mx, my = by * u, by * v
            # what is shown here now was shown at (i, j) + m a moment ago
            s = min(max(0.0, i + mx / step), columns - 1.0001)
            t = min(max(0.0, j + my / step), rows - 1.0001)
            a, b = int(s), int(t)
            f, g = s - a, t - b
            for k in range(2):
                p = before[k]
                here = (1 - g) * ((1 - f) * p[b, a] + f * p[b, a + 1]) + g * (
                    (1 - f) * p[b + 1, a] + f * p[b + 1, a + 1]
                )
                field[k, j, i] = here + (mx if k == 0 else my)


def unmoved(box: Box) -> Lattice:
    """The field over a plane before any stroke."""
    step = max(box.width, box.height) / CELLS
    rows, columns = (int(np.ceil(v / step)) + 3 for v in (box.height, box.width))
    return Lattice(np.zeros((2, rows, columns)), (box.x0, box.y0), (step, step))


def nudged(field: Lattice, stroke: Stroke) -> tuple[Lattice, float]:
    """A field as a stroke leaves it; and how much of what it asks is done, 1 but where more would fold the picture."""
    go_on()
    values = field.values.copy()
    rows, columns = _stroke(values, field, stroke)
    # what it did not touch folds no more than before
    part = np.s_[:, rows, columns]
    f = _as_far(field.values[part], values[part], field.step)
    if f < 1:
        values[part] = field.values[part] + f * (values[part] - field.values[part])
    return Lattice(values, field.start, field.step), f


def _stroke(values: F64, before: Lattice, stroke: Stroke) -> tuple[slice, slice]:
    """What a stroke does to values, in place; which rows and columns it may have touched, and one more around them."""
    # what was touched lies where the strokes before have put it
    shown = Field("", before).over(stroke.points[:, :2]) if before.values.any() else stroke.points[:, :2]
    step = before.step[0]
    plane = np.array([before.start[0] - step, before.start[1] - step, step, stroke.radius])
    dabs = _dabs(np.column_stack([shown, stroke.points[:, 2]]), stroke.radius * SPACING)
    verb = VERBS[stroke.verb]
    room = np.empty_like(values)
    for n, (x, y, pressure) in enumerate(dabs):
        strength = stroke.strength * pressure
        dx, dy = (dabs[n, :2] - dabs[n - 1, :2]) * strength if n else (0.0, 0.0)
        if verb == 0 and n == 0:
            continue
        at = dabs[n - 1, :2] if verb == 0 else (x, y)
        _dab(values, room, plane, verb, float(at[0]), float(at[1]), float(dx), float(dy), FIRM * strength)
    low = np.floor((dabs[:, :2].min(0) - stroke.radius - plane[:2]) / step).astype(int) - 1
    high = np.ceil((dabs[:, :2].max(0) + stroke.radius - plane[:2]) / step).astype(int) + 2
    (left, top), (right, bottom) = np.maximum(low, 0), np.maximum(high, 0)
    return slice(int(top), int(bottom)), slice(int(left), int(right))


def _dabs(points: F64, spacing: float) -> F64:
    """x, y, pressure (n, 3) evenly along a stroke, its first and last place among them."""
    way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points[:, :2], axis=0), axis=1))])
    if way[-1] < 1e-9:
        return points[:1]
    t = np.linspace(0, way[-1], int(np.ceil(way[-1] / spacing)) + 1)
    return np.stack([np.interp(t, way, points[:, k]) for k in range(3)], -1)


def _as_far(before: F64, after: F64, step: tuple[float, float]) -> float:
    """How much of a change of values may be done, 0 to 1."""
    if min(after.shape[1:]) < 3:
        return 1.0

    def fine(f: float) -> bool:
        tried = Lattice(before + f * (after - before), (0.0, 0.0), step)
        return float(determinants(tried).min()) >= AREA_LEAST

    if fine(1.0):
        return 1.0
    low, high = 0.0, 1.0
    for _ in range(10):
        middle = (low + high) / 2
        low, high = (middle, high) if fine(middle) else (low, middle)
    return low
