"""What moved between the exposures of a bracket, seen at a small size, and which of them is believed there: the one that most
others bear out, and of several the longest that does not clip around there."""

import math
from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blocks import Block
from ..ledger import Bracket
from ..running.patience import go_on
from .exposures import BAND, CLIPPED_FROM, Exposed
from .painted import painted_on

F32 = NDArray[np.float32]

SMALL: Final = 4
"""How many times the picture is reduced to see what moved."""
MOVED: Final = 0.22
"""Stops by which exposures differ where something moved, beyond what noise and a px of misplacement would do."""
SIGMAS: Final = 3.0
LONGER: Final = 0.2
"""How many others a longer exposure outweighs, for its lesser noise."""
MOVED_MARGIN_PX: Final = 7
"""Px of the small size around what moved that are taken from one exposure too."""
HINTED: Final = 0.04
"""Stops by which exposures differ in the soft rim of what moved; from revision 2 on."""
RIM_PX: Final = 32
"""Px of the small size from what moved that its rim reaches at most."""


@dataclass(frozen=True)
class Merging:
    """What is decided at the small size. moved (h, w): 1 where one exposure is believed; chosen (exposures, h, w): which."""

    moved: F32
    chosen: F32


def decide(
    exposures: list[Exposed], base: Bracket, level: int, size: tuple[int, int], pool: Executor | None = None
) -> Merging:
    """What moved between exposures, and which is believed there; where one was painted, that one. size: (width, height) of the
    level."""
    w, h = size
    small = (max(1, w // SMALL), max(1, h // SMALL))
    stops, valid, spread = [], [], []
    for e in exposures:
        light, clipped = _small(e, level, size, small, pool)
        # a clipped px anywhere in the cell makes its mean too small
        clips = cv2.dilate(clipped.astype(np.uint8), np.ones((3, 3)))
        scale, offset = e.noise
        deviation = np.sqrt(np.maximum(scale * np.maximum(light, 0) + offset, 1e-12)) / (SMALL * 2**level)
        stops.append(np.log2(np.maximum(light, 1e-5) / e.time))
        valid.append((clips == 0) & (light > 3 * deviation) if not e.shortest else light > 3 * deviation)
        spread.append(1.44 * deviation / np.maximum(light, 1e-5))
    moved = np.zeros(stops[0].shape, bool)
    hinted = np.zeros_like(moved)
    agrees = np.zeros((len(exposures), *stops[0].shape), np.float32)
    for a in range(len(exposures)):
        for b in range(a + 1, len(exposures)):
            both = valid[a] & valid[b]
            slope = _slope(stops[b])
            off = np.abs(stops[a] - stops[b]) - SIGMAS * np.hypot(spread[a], spread[b]) - 0.35 * slope
            moved |= both & (off > MOVED)
            hinted |= both & (off > HINTED)
            alike = (both & (off <= MOVED)).astype(np.float32)
            agrees[a] += alike
            agrees[b] += alike
    moved = cv2.morphologyEx(moved.astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2)))
    margin = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * MOVED_MARGIN_PX + 1, 2 * MOVED_MARGIN_PX + 1))
    core = near = cv2.dilate(moved, margin)
    if base.revision > 1:
        near = cv2.dilate(_with_rim(moved, hinted), margin)
    soft = cv2.GaussianBlur(near.astype(np.float32), (0, 0), MOVED_MARGIN_PX / 3)
    # only what moved says whom to believe, and all around it is believed the same
    there = moved.astype(np.float32)
    weight = cv2.GaussianBlur(there, (0, 0), MOVED_MARGIN_PX) + 1e-6
    score = np.empty_like(agrees)
    for n, ok in enumerate(
        valid
    ):  # the one that most others bear out; of those, the longest that holds all around
        whole = (
            cv2.erode(ok.astype(np.uint8), np.ones((2 * MOVED_MARGIN_PX + 1, 2 * MOVED_MARGIN_PX + 1))) > 0
        )
        borne_out = cv2.GaussianBlur(agrees[n] * there, (0, 0), MOVED_MARGIN_PX) / weight + LONGER * n
        score[n] = np.where(whole, borne_out, -1.0 if n else -0.5)
    best = score.argmax(0)
    if base.revision > 1:
        best = _as_nearest(best, core)
    numbers = {m.source: n for n, m in enumerate(sorted(base.enabled, key=lambda m: m.ev))}
    for number, cover in painted_on(base, numbers, max(size) / SMALL, soft.shape):
        best[cover] = number
        soft = np.maximum(soft, cv2.GaussianBlur(cover.astype(np.float32), (0, 0), 1))
    chosen = np.stack(
        [
            cv2.GaussianBlur((best == n).astype(np.float32), (0, 0), MOVED_MARGIN_PX / 2)
            for n in range(len(exposures))
        ]
    )
    return Merging(soft, chosen)


def _small(
    e: Exposed, level: int, size: tuple[int, int], small: tuple[int, int], pool: Executor | None
) -> tuple[F32, NDArray[np.bool_]]:
    """An exposure's green reduced by area (h, w), and where anything of it clips; drawn in bands, never whole."""
    (w, h), (across, down) = size, small
    light, clips = np.empty((down, across), np.float32), np.empty((down, across), bool)
    each = max(1, BAND // SMALL)
    for first in range(0, down, each):
        go_on()
        ends = np.arange(first, min(first + each, down) + 1) * h / down
        block = Block(int(ends[0]), math.ceil(ends[-1]), 0, w)
        planes = e.draw(block, level, size, pool)
        rows = np.arange(block.top, block.bottom)
        # how much of each px row lies in each small one
        share = np.minimum(ends[1:, None], rows + 1) - np.maximum(ends[:-1, None], rows)
        share = (np.where(share > 1e-3, share, 0) * down / h).astype(np.float32)
        here = slice(first, first + len(share))
        for plane, to in ((planes[1], light), (planes.max(0) > CLIPPED_FROM, clips)):
            narrow = cv2.resize(plane.astype(np.float32), (across, len(rows)), interpolation=cv2.INTER_AREA)
            to[here] = share @ narrow
    return light, clips


def _with_rim(moved: NDArray[np.uint8], hinted: NDArray[np.bool_]) -> NDArray[np.uint8]:
    """What moved, and what differs a little all the way from there: the soft rim of it (hysteresis, Canny 1986)."""
    reach = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * RIM_PX + 1, 2 * RIM_PX + 1))
    rim = cv2.morphologyEx(hinted.astype(np.uint8), cv2.MORPH_OPEN, np.ones((2, 2)))
    both = moved | (rim & cv2.dilate(moved, reach))
    count, which = cv2.connectedComponents(both, connectivity=8)
    holds = np.bincount(which[moved > 0], minlength=count) > 0
    holds[0] = False
    return holds[which].astype(np.uint8)


def _as_nearest(values: NDArray[np.intp], where: NDArray[np.uint8]) -> NDArray[np.intp]:
    """Values (h, w) there, and elsewhere that of the nearest place there."""
    if not where.any():
        return values
    _, nearest = cv2.distanceTransformWithLabels(
        (where == 0).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    of_label = np.zeros(int(nearest.max()) + 1, values.dtype)
    of_label[nearest[where > 0]] = values[where > 0]
    return np.asarray(of_label[nearest])


def _slope(x: F32) -> F32:
    """How much neighbours differ: what a misplacement would do."""
    size = np.ones((3, 3), np.uint8)
    return np.asarray(cv2.dilate(x, size) - cv2.erode(x, size), np.float32)
