"""Which way is up in a sweep: by the horizon that its frames see, else by how the camera was held."""

from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..latch.found import step_marks
from ..running.patience import go_on
from .inputs import InputFrame, lightness
from .solve import Solved

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

LOOKED_AT: Final = 900
"""Long edge at which a horizon is looked for, px."""
EVERY: Final = 4
"""Of so many columns, one is asked."""
LEANS: Final = 3.0
"""Degrees from how the camera was held on the whole up to which a horizon is looked for."""
USUAL: Final = 0.8
"""Degrees it is usually off that."""
CHANCE: Final = 0.06
"""Of a frame's columns, so many step along any line by chance."""
SURE: Final = 0.05
"""Of all columns, so many more must step the same way along it than do by chance."""
ARC: Final = 25.0
"""Degrees the camera must have turned for the way it was held to say anything."""
DIPS: Final = np.radians([0.0, 0.05, 0.1, 0.2, 0.35])
"""How far below level a sea's line lies, seen from beside it (2 m: 0.04°) and from a hill…"""
USUAL_DIP: Final = np.array([1.0, 1.0, 0.9, 0.75, 0.65])
"""…and how much of what is seen along each counts: one line alone cannot tell a dip from a lean."""


def held_up(solved: Solved, anchor: int) -> F64:
    """Up (3,) in the world of the solution, as the camera was held on the whole: what lies across none of the frames'
    own right hands (Brown & Lowe 2007)."""
    rights = np.stack([rotation[0] for rotation in solved.turns.values()])
    downs = np.stack([rotation[1] for rotation in solved.turns.values()]).mean(0)
    ahead = np.stack([rotation[2] for rotation in solved.turns.values()])
    if np.degrees(np.arccos(np.clip((ahead @ ahead.T).min(), -1, 1))) < ARC:
        return np.asarray(-solved.turns[anchor][1])
    up = np.linalg.svd(rights)[2][-1]
    return np.asarray(up if up @ downs < 0 else -up)


@dataclass(frozen=True)
class _Stepped:
    """A frame's steps of light (h, w) on its upright plane without the lens's faults; unit: px per long edge."""

    marks: F32
    unit: float
    rotation: F64


def _stepped(frame: InputFrame, rotation: F64) -> _Stepped:
    planes = frame.geometry.base.turn(frame.small(LOOKED_AT))
    h, w = planes.shape[1:]
    unit = max(h, w)
    grid = np.stack(np.meshgrid(np.arange(w) + 0.5 - w / 2, np.arange(h) + 0.5 - h / 2), -1) / unit
    source = frame.geometry.turned_to_source(grid)
    at = (frame.geometry.base.to_developed(source) * unit - 0.5).astype(np.float32)
    picture = lightness(planes).astype(np.float32)
    picture = cv2.remap(picture, at[..., 0], at[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    go_on()
    return _Stepped(step_marks(picture), float(unit), rotation)


def _along(steps: list[_Stepped], ups: F64, focal: float, dip: float) -> F64:
    """For each up (n, 3): the share of all columns that step along its horizon, the same way, beyond chance (n,). On a
    frame's plane a horizon is a straight line."""
    total = np.zeros(len(ups))
    for s in steps:
        h, w = s.marks.shape
        columns = np.arange(EVERY // 2, w, EVERY)
        seen = ups @ s.rotation.T  # up, as the camera saw it
        x = (columns + 0.5 - w / 2) / s.unit
        # up · (x, y, f) = −sin(dip)·|…|
        low = np.sin(dip) * np.sqrt(x * x + focal * focal)
        y = -(seen[:, :1] * x + seen[:, 2:] * focal + low) / seen[:, 1:2]
        row = y * s.unit + h / 2 - 0.5
        inside = (row > 2) & (row < h - 3)
        low_row = np.clip(row, 0, h - 2)
        whole = low_row.astype(int)
        share = low_row - whole
        value = s.marks[whole, columns] * (1 - share) + s.marks[whole + 1, columns] * share
        seen_along = np.abs(np.where(inside, value, 0).mean(1))
        total += np.maximum(seen_along - CHANCE, 0)
    return np.asarray(total / max(len(steps), 1))


def find_up(frames: list[InputFrame], solved: Solved, anchor: int, pool: Executor) -> tuple[F64, float]:
    """Up (3,) in the world of the solution, and how much of the width its horizon was seen along; 0 where none was, and it
    is as the camera was held."""
    held = held_up(solved, anchor)
    steps = list(pool.map(lambda one: _stepped(frames[one[0]], one[1]), solved.turns.items()))
    ahead = solved.turns[anchor][2]
    one = np.cross(held, ahead)
    one /= np.linalg.norm(one)
    other = np.cross(held, one)

    def best(about: F64, reach: float, step: float, dips: F64) -> tuple[F64, float]:
        go_on()
        t = np.radians(np.arange(-reach, reach + step / 2, step))
        a, b = (v.ravel() for v in np.meshgrid(t + about[0], t + about[1]))
        ups = held + np.tan(a)[:, None] * one + np.tan(b)[:, None] * other
        ups /= np.linalg.norm(ups, axis=1, keepdims=True)
        usual = np.exp(-0.5 * (a * a + b * b) / np.radians(USUAL) ** 2)
        found = [
            _along(steps, ups, solved.focal, float(dip)) * usual_dip
            for dip, usual_dip in zip(dips, USUAL_DIP, strict=False)
        ]
        n = int(np.argmax(np.max(found, axis=0) * (0.15 + 0.85 * usual)))
        return np.array([a[n], b[n]]), float(np.max(found, axis=0)[n])

    at, _ = best(np.zeros(2), LEANS, 0.12, DIPS[:1])
    at, _ = best(at, 0.15, 0.03, DIPS)
    at, share = best(at, 0.04, 0.01, DIPS)
    if share < SURE:
        return held, 0.0
    up = held + np.tan(at[0]) * one + np.tan(at[1]) * other
    return np.asarray(up / np.linalg.norm(up)), share
