"""A picture judged at its own px, in a few telling places: the smoothest and the busiest."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA
from ..geometry import View
from ..render import Development, Output
from ..running.patience import go_on

F32 = NDArray[np.float32]
CHOSEN_PX: Final = 960
"""Long edge, px, at which places are chosen."""
SIDE: Final = 160
"""Px on a side of a place."""
SMOOTH, BUSY = 10, 8
"""How many of each."""
EVEN: Final = 0.02
"""Cube root of light whose spread within a place is less is smooth."""


@dataclass(frozen=True)
class Tile:
    """A place at full size: its middle (fractions of the picture), and its display light (3, h, w) in the output's gamut."""

    x: float
    y: float
    light: F32

    @property
    def tone(self) -> F32:
        """Lightness, L*/100."""
        y = np.maximum(np.tensordot(LUMA.astype(np.float32), self.light, 1), 0)
        return np.asarray(1.16 * np.cbrt(y) - 0.16, np.float32)


def shown(development: Development, view: View, output: Output) -> F32:
    """Display light of a view (3, h, w)."""
    out = np.empty((3, view.size[1], view.size[0]), np.float32)

    def take(band: F32, r: int, e: int) -> None:
        out[:, r:e] = band

    development.display(view, output, take, keep=False)
    return out


def chosen(small: F32) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
    """Middles of the smoothest places and of the busiest in a small picture (3, h, w) that says where to look."""
    tone = np.cbrt(np.maximum(np.tensordot(LUMA.astype(np.float32), small, 1), 0))
    h, w = tone.shape
    cell = max(24, max(h, w) // 16)
    places = []
    for top in range(0, h - cell + 1, cell):
        for left in range(0, w - cell + 1, cell):
            part = tone[top : top + cell, left : left + cell]
            fine = float(np.abs(part - cv2.GaussianBlur(part, (0, 0), 2)).mean())
            level = float(part.mean())
            places.append((fine, level, (left + cell / 2) / w, (top + cell / 2) / h))
    tones = [p for p in places if 0.15 < p[1] < 0.99]
    smooth = [(x, y) for fine, _, x, y in sorted(tones)[:SMOOTH] if fine < EVEN]
    busy = [(x, y) for _, _, x, y in sorted(tones, reverse=True)[:BUSY]]
    return smooth, busy


def tiles(development: Development, places: list[tuple[float, float]], output: Output) -> Iterator[Tile]:
    """Those places at full size."""
    w, h = development.geometry.developed_size
    across, down = min(SIDE, w), min(SIDE, h)
    for x, y in places:
        go_on()
        left = min(max(round(x * w - across / 2), 0), w - across)
        top = min(max(round(y * h - down / 2), 0), h - down)
        view = View((left / w, top / h, (left + across) / w, (top + down) / h), (across, down))
        light = shown(development, view, output)
        if output.sharpness is not None:
            light = output.sharpness.sharpened(light)
        yield Tile((left + across / 2) / w, (top + down / 2) / h, light)


def noise_of(plane: F32) -> float:
    """The spread of a smooth plane's noise, whatever slope lies in it (Immerkær 1996)."""
    around = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
    seen = cv2.filter2D(plane, cv2.CV_32F, around)[1:-1, 1:-1]
    return float(np.median(np.abs(seen)) / 0.6745 / 6)


EDGE: Final = 0.05
"""Lightness per px from which an edge is strong."""
AWAY: Final = (1.5, 2.0, 2.5, 3.0, 5.0, 6.0, 7.0)
"""Px from its middle at which each side is looked at: the first four for a rim, the rest for what it belongs to."""


def overshoot(tone: F32) -> tuple[float, int]:
    """By how much of its step an edge rings on both sides, the median of a place's strong edges; and how many there are."""
    smooth = cv2.GaussianBlur(tone, (0, 0), 0.8)
    gx, gy = (cv2.Sobel(smooth, cv2.CV_32F, *way, scale=0.125) for way in ((1, 0), (0, 1)))
    slope = cv2.magnitude(gx, gy)
    crest = slope >= cv2.dilate(slope, np.ones((3, 3))) * np.float32(0.98)
    rows, columns = np.nonzero((slope > EDGE) & crest)
    if len(rows) < 20:
        return 0.0, 0
    nx, ny = gx[rows, columns] / slope[rows, columns], gy[rows, columns] / slope[rows, columns]
    sides = []
    for side in (-1, 1):
        sides.append(
            np.array(
                [
                    cv2.remap(
                        tone, (columns + side * d * nx).astype(np.float32)[None],
                        (rows + side * d * ny).astype(np.float32)[None], cv2.INTER_LINEAR,
                        borderMode=cv2.BORDER_REPLICATE,
                    )[0]
                    for d in AWAY
                ]
            )
        )  # fmt: skip
    dark, light = sides
    flat = (np.ptp(light[4:], axis=0) < 0.04) & (np.ptp(dark[4:], axis=0) < 0.04)
    step = light[4:].mean(0) - dark[4:].mean(0)
    good = flat & (step > 0.15)
    if good.sum() < 20:
        return 0.0, int(good.sum())
    above = (light[:4].max(0) - light[4:].mean(0)) / step
    below = (dark[4:].mean(0) - dark[:4].min(0)) / step
    return float(np.median(np.minimum(above, below)[good])), int(good.sum())
