"""The line across a picture along which light steps the same way in the most places."""

import math
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ...compiled import kernel
from ...running.patience import go_on

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
F64 = NDArray[np.float64]
REACH: Final = 12.0
"""Degrees: a line that leans further is not looked for."""
WEAKEST: Final = 0.05
"""A line seen along less of the width is none."""
COARSE, FINE = 0.1, 0.01
"""Degrees between leans that are tried: all of them, and about the best."""
LEAST_COVERED: Final = 1 / 8
"""The share of the width that a row must cover to be asked."""
APART: Final = 5
"""Px between two lines that are two."""
EVENED: Final = 1.2
"""Px, standard deviation: how far grain is evened before steps are looked for."""
BESIDE, ALONG = 41, 9
"""Px up and down, and across, that a step is compared with."""
CLEARLY, AT_ALL = 2.5, 0.5
"""How many times as large as around a step must be, and how large at all (of 255 a px)."""
PEAK: Final = 5
"""Px up and down within which a step is the largest."""
RIM: Final = 9
"""Px, a side: what is nearer to what is not inside is not asked."""
TALL, WIDE, TO_ONE = 7, 1.0, 2.5
"""A mark's height and standard deviation, px, and what makes its middle 1 again."""


@dataclass(frozen=True)
class SteppedLine:
    """share: of the width along which the step is seen, 0–1 (or of what is covered); angle: degrees, turned clockwise; row: where it
    crosses the middle column, px."""

    share: float
    angle: float
    row: float

    def rows(self, width: int) -> F32:
        """Its row in every column (width,)."""
        slope = math.tan(math.radians(self.angle))
        return (self.row + slope * (np.arange(width) - width / 2)).astype(np.float32)


def find_line(picture: F32, inside: B2 | None = None) -> SteppedLine | None:
    """The strongest line of a picture (h, w) of lightness 0–255; None where there is none. inside: where to
    look."""
    marks = step_marks(picture, inside)
    leaned = _Leaned(marks)
    found = max(map(leaned.best, np.arange(-REACH, REACH + FINE, COARSE)), key=_share)
    if found.share < WEAKEST:
        return None
    return max(map(leaned.best, found.angle + np.arange(-COARSE, COARSE + FINE / 10, FINE)), key=_share)


@kernel("void(float32[:, ::1], int64, float64, float32[::1], float32[::1])")
def _leaned_sums(upright, room, slope, sums, covered):  # type: ignore[no-untyped-def]
    """Sums of a picture's rows (h,) once it is leaned, and how many px each is of. upright: its columns, (w, room +
    h + room)."""
    w, h = upright.shape[0], sums.size
    sums[:] = np.float32(0)
    covered[:] = np.float32(0)
    for x in range(w):
        at = slope * (x - w / 2)
        first = np.int64(math.floor(at))
        share = np.float32(at - first)
        rest = np.float32(1) - share
        column = upright[x, room + first : room + first + h + 1]
        for r in range(h):
            sums[r] += rest * column[r] + share * column[r + 1]
        # what begins to be covered here, and what ends to be; added up below
        for n, weight in ((first, rest), (first + 1, share)):
            low, high = max(0, -n), min(h, h - n)
            if low < high:
                covered[low] += weight
                if high < h:
                    covered[high] -= weight
    for r in range(1, h):
        covered[r] += covered[r - 1]


class _Leaned:
    """A picture (h, w) whose rows are summed as it is leaned. seen: the part of it that counts, or all of it."""

    def __init__(self, picture: F32, seen: F32 | None = None) -> None:
        self.shape = picture.shape
        # room above and below for the steepest lean
        self.room = math.ceil(math.tan(math.radians(REACH + 2 * COARSE)) * picture.shape[1] / 2) + 2
        self.upright, self.seen = self._upright(picture), None if seen is None else self._upright(seen)

    def _upright(self, picture: F32) -> F32:
        """Its columns, a row each (w, room + h + room)."""
        return np.ascontiguousarray(np.pad(picture.T, ((0, 0), (self.room, self.room))))

    def sums(self, angle: float) -> tuple[F32, F32]:
        """Sums of its rows (h,) leaned by an angle in degrees, and how many px that are seen each is of."""
        go_on()
        h, slope = self.shape[0], math.tan(math.radians(angle))
        sums, covered = np.empty(h, np.float32), np.empty(h, np.float32)
        _leaned_sums(self.upright, self.room, slope, sums, covered)
        if self.seen is not None:
            _leaned_sums(self.seen, self.room, slope, covered, np.empty(h, np.float32))
        return sums, covered

    def best(self, angle: float) -> SteppedLine:
        """The row with the largest mean step."""
        sums, covered = self.sums(float(angle))
        means = np.where(covered > self.shape[1] * LEAST_COVERED, np.abs(sums) / np.maximum(covered, 1), 0)
        row = int(means.argmax())
        return SteppedLine(float(means[row]), float(angle), float(row))


def find_lines(
    picture: F32, inside: B2 | None = None, of_covered: bool = False, reach: float = REACH
) -> list[SteppedLine]:
    """Such lines, the strongest first. Steps sharper than what lies above and below are marked, up or down,
    however strong, so that a ridge cannot outvote the sea; then the picture is leaned to every angle in
    turn and its rows of marks are averaged (a Radon transform). of_covered: the share is of the part of a
    row that is inside, where that is an eighth of the width or more."""
    marks = step_marks(picture, inside)
    seen = None
    if of_covered and inside is not None:
        seen = cv2.erode(inside.astype(np.uint8), np.ones((RIM, RIM), np.uint8)).astype(np.float32)
    turns = np.arange(-reach, reach + FINE, COARSE)
    lines = sorted(map(_Leaned(marks, seen).best, turns), key=_share, reverse=True)
    apart: list[SteppedLine] = []
    for line in lines:
        if line.share >= WEAKEST and all(abs(line.row - other.row) > APART for other in apart):
            apart.append(line)
    return apart


def step_marks(picture: F32, inside: B2 | None = None) -> F32:
    """Where light steps across rows (h, w), for its surroundings clearly: 1 where it grows downward, −1 where it falls,
    about a px wide. See `find_line`."""
    smooth = cv2.GaussianBlur(picture, (0, 0), EVENED)
    steps = np.zeros_like(smooth)
    steps[1:-1] = (smooth[2:] - smooth[:-2]) / 2
    size = np.abs(steps)
    around = cv2.blur(size, (ALONG, BESIDE))
    peak = size >= cv2.dilate(size, np.ones((PEAK, 1), np.uint8))
    marks = np.where(peak & (size > CLEARLY * around) & (size > AT_ALL), np.sign(steps), 0)
    if inside is not None:
        marks = marks * cv2.erode(inside.astype(np.uint8), np.ones((RIM, RIM), np.uint8))
    return np.asarray(cv2.GaussianBlur(marks.astype(np.float32), (1, TALL), WIDE) * TO_ONE, np.float32)


def _share(line: SteppedLine) -> float:
    return line.share


LOWEST: Final = 92
"""The sky's lowest edge is where this percentage of columns has left it."""


def lowest_edge(sky: F32) -> tuple[NDArray[np.intp], float]:
    """The lowest row of sky in every column (w,), 0 where there is none, and the row under which there is
    hardly any; px. sky: (h, w) in [0, 1]."""
    has = sky > 0.5
    rows = np.where(has.any(0), len(sky) - 1 - has[::-1].argmax(0), 0)
    return rows, float(np.percentile(rows, LOWEST))
