"""Turning the camera after the fact, and finding the turn from lines drawn on the picture.

The plane is that of the upright picture, its origin in the middle, y down, in units of the
source's long edge. lean: the camera tipped up (+) or down; swing: turned to the right (+); roll:
turned clockwise (+). All three are undone together: a point's ray is turned back and projected.
"""

import math
from dataclasses import dataclass
from itertools import combinations
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

from ..errors import GeometryError

F64 = NDArray[np.float64]

ANGLE_LIMIT: Final = 40.0
"""Degrees of lean and swing; beyond it corners are stretched past all use."""
What = Literal["upright", "level"]


@dataclass(frozen=True)
class PlumbLine:
    """A line drawn on the picture: its ends in the ideal plane above, and what it should be."""

    a: tuple[float, float]
    b: tuple[float, float]
    what: What


def rotation(lean: float, swing: float, roll: float) -> F64:
    """3×3 that turns a camera ray (x right, y down, z ahead) upright; angles in degrees."""
    a, b, c = (math.radians(v) for v in (lean, swing, roll))
    # a camera tipped up sees the horizon low: its rays are tipped back up
    lean_m = np.array([[1, 0, 0], [0, math.cos(a), -math.sin(a)], [0, math.sin(a), math.cos(a)]])
    swing_m = np.array([[math.cos(b), 0, math.sin(b)], [0, 1, 0], [-math.sin(b), 0, math.cos(b)]])
    roll_m = np.array([[math.cos(c), -math.sin(c), 0], [math.sin(c), math.cos(c), 0], [0, 0, 1]])
    return np.asarray(lean_m @ swing_m @ roll_m)


def homography(lean: float, swing: float, roll: float, stretch: float, focal: float) -> F64:
    """3×3 of the plane onto itself. focal: in long edges. stretch: log2 of height over width.
    The middle stays where it is and keeps its area."""
    k = np.diag([focal, focal, 1.0])
    h = k @ rotation(lean, swing, roll) @ np.linalg.inv(k)
    middle = h[:2, 2] / h[2, 2]
    h = np.array([[1, 0, -middle[0]], [0, 1, -middle[1]], [0, 0, 1]]) @ h
    jacobian = h[:2, :2] / h[2, 2]
    size = 1 / math.sqrt(abs(float(np.linalg.det(jacobian))))
    taller = 2.0 ** (stretch / 2)
    h = np.diag([size / taller, size * taller, 1.0]) @ h
    return np.asarray(h / h[2, 2])


def _residuals(turn: F64, lines: list[PlumbLine], focal: float) -> F64:
    """Each line's angle from upright or level after the turn, in radians."""
    r = rotation(*turn)
    out = []
    for line in lines:
        ends = np.array([[*line.a, focal], [*line.b, focal]]) @ r.T
        if ends[:, 2].min() < 0.05 * focal:
            return np.full(len(lines), 1.5)
        a, b = ends[:, :2] / ends[:, 2:]
        dx, dy = b - a
        along, across = (dy, dx) if line.what == "upright" else (dx, dy)
        out.append(math.atan2(across, along) if along >= 0 else math.atan2(-across, -along))
    return np.array(out)


def residual(
    lines: list[PlumbLine], lean: float, swing: float, roll: float, focal: float
) -> tuple[float, ...]:
    """Each line's angle from upright or level, in degrees."""
    return tuple(float(v) for v in np.degrees(_residuals(np.array([lean, swing, roll]), lines, focal)))


def _check(lines: list[PlumbLine]) -> None:
    if not lines:
        raise GeometryError("draw a line along something that should be upright or level")
    for line in lines:
        if math.dist(line.a, line.b) < 0.02:
            raise GeometryError("a line is too short to tell its direction; draw it longer")
        dx, dy = abs(line.b[0] - line.a[0]), abs(line.b[1] - line.a[1])
        steep = math.degrees(math.atan2(dy, dx))
        if (line.what == "upright" and steep < 30) or (line.what == "level" and steep > 60):
            word = "upright" if line.what == "upright" else "level"
            raise GeometryError(f"a line that should be {word} lies across that; draw it along an edge")
    for one, other in combinations(lines, 2):
        if one.what != other.what:
            continue
        if _cross(one, other):
            raise GeometryError(
                f"two lines that should both be {one.what} cross in the picture; draw one anew"
            )
        if lies_on(one, other):
            raise GeometryError("two lines lie on one another; draw the second along another edge")


def _side(p: tuple[float, float], line: PlumbLine) -> float:
    (ax, ay), (bx, by) = line.a, line.b
    return (bx - ax) * (p[1] - ay) - (by - ay) * (p[0] - ax)


def _cross(one: PlumbLine, other: PlumbLine) -> bool:
    return _side(other.a, one) * _side(other.b, one) < 0 and _side(one.a, other) * _side(one.b, other) < 0


def lies_on(one: PlumbLine, other: PlumbLine) -> bool:
    """Whether the other line, drawn out, is the same."""
    length = math.dist(one.a, one.b)
    return max(abs(_side(other.a, one)), abs(_side(other.b, one))) / length < 0.004


def solve(lines: list[PlumbLine], focal: float) -> tuple[float, float, float]:
    """(lean, swing, roll) in degrees that bring the lines upright and level.

    Gauss-Newton with a least-norm step. What the lines do not say stays nothing: uprights say nothing of
    swing, levels nothing of lean. Raises GeometryError, with a sentence, when no turn fits.
    """
    _check(lines)
    turn = np.zeros(3)
    kinds = {line.what for line in lines}
    free = np.array([float("upright" in kinds), float("level" in kinds), 1.0])
    current = _residuals(turn, lines, focal)
    for _ in range(60):
        jacobian = (
            np.stack(
                [
                    (_residuals(turn + step, lines, focal) - _residuals(turn - step, lines, focal)) / 2e-3
                    for step in np.eye(3) * 1e-3
                ],
                1,
            )
            * free
        )
        change = -np.linalg.pinv(jacobian, rcond=2e-2) @ current
        for share in (1.0, 0.5, 0.25, 0.1, 0.03):
            trial = turn + np.clip(change * share, -12, 12)
            after = _residuals(trial, lines, focal)
            if (after**2).sum() < (current**2).sum():
                turn, current = trial, after
                break
        else:
            break
        if np.abs(change).max() < 1e-7:
            break
    if np.abs(turn[:2]).max() > ANGLE_LIMIT or abs(turn[2]) > 45:
        raise GeometryError(
            f"these lines would need the camera turned by {np.abs(turn).max():.0f}°; "
            f"up to {ANGLE_LIMIT:.0f}° can be undone"
        )
    if np.degrees(np.abs(current).max()) > 5:
        raise GeometryError(
            f"these lines contradict each other: one stays {np.degrees(np.abs(current).max()):.1f}° off"
        )
    return float(turn[0]), float(turn[1]), float(turn[2])


def solve_on_sphere(lines: list[tuple[F64, F64, What]]) -> tuple[float, float, float]:
    """(lean, 0, roll) in degrees that bring lines of a picture on a sphere upright and level: each as the directions (3,) of
    its ends, x right, y down, z ahead. A level line becomes part of the horizon, an upright one points at the zenith: both
    say where up is. Raises GeometryError where they do not say it, or it lies too far."""
    if not lines:
        raise GeometryError("draw a line along something that should be upright or level")
    total = np.eye(3) * 1e-6
    total[1, 1] = 0.0  # what lines do not say stays as it is
    for a, b, what in lines:
        normal = np.cross(a, b)
        size = float(np.linalg.norm(normal))
        if size < 0.01:
            raise GeometryError("a line is too short to tell its direction; draw it longer")
        n = normal / size
        total += np.outer(n, n) if what == "upright" else np.eye(3) - np.outer(n, n)
    vectors = np.linalg.eigh(total)[1]
    down = vectors[:, 0] * (1 if vectors[1, 0] > 0 else -1)
    roll = math.degrees(math.atan2(down[0], down[1]))
    lean = math.degrees(math.atan2(-down[2], math.hypot(down[0], down[1])))
    if max(abs(lean), abs(roll)) > ANGLE_LIMIT:
        raise GeometryError(
            f"these lines would turn the picture by {max(abs(lean), abs(roll)):.0f}°; up to {ANGLE_LIMIT:.0f}° can be"
        )
    return lean, 0.0, roll
