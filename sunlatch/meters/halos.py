"""Halos: rims along strong edges that were not in the frame, measured."""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..render import Development
from ..sensor.kernels import read_stops

F32 = NDArray[np.float32]
LONG_EDGE: Final = 1280
EDGE: Final = 0.22
"""Stops per px, over a blur of a px and a half, from which an edge is strong."""
DISTANCES: Final = (4.0, 7.0, 10.0, 14.0, 18.0, 24.0, 28.0, 32.0)
NEAR, BETWEEN, FAR = slice(0, 3), slice(3, 5), slice(5, 8)
STEPS: Final = (28 - 7) / (28 - 16)
"""How often the way from between to far goes into that from near to far."""
"""Distances from an edge, px; which of them lie in a rim, and which further in."""
ALIKE: Final = 0.7
"""Stops by which all of these may differ in the frame to be one thing."""
CELL: Final = 40
SEEN: Final = 0.12
"""Stops from which a rim is a rim."""
FEW: Final = 12
"""So many px of an edge must say the same."""


class Rim(BaseModel):
    """A place along an edge (fractions of the picture), and by how many stops its rim is too light (or, less
    than nothing, too dark) against its own side."""

    x: float
    y: float
    stops: float


def _light(development: Development, upto: int | None) -> F32:
    rgb = development.light_planes(development.geometry.fit(LONG_EDGE), upto)
    out = np.empty(rgb.shape[1:], np.float32)
    read_stops(rgb, np.array([0.2627, 0.6780, 0.0593], np.float32), out)
    return np.maximum(out, np.float32(-10))


def read_halos(development: Development) -> list[Rim]:
    """The rims that Light has made, the strongest first: along every strong edge of the frame each side is
    asked whether it was changed otherwise near the edge than further in."""
    if not development.steps:
        return []
    start = _light(development, 0)
    change = cv2.GaussianBlur(_light(development, None) - start, (0, 0), 1.0)
    smooth = cv2.GaussianBlur(start, (0, 0), 1.5)
    gx, gy = (cv2.Sobel(smooth, cv2.CV_32F, *way, scale=0.125) for way in ((1, 0), (0, 1)))
    slope = cv2.magnitude(gx, gy)
    crest = slope >= cv2.dilate(slope, np.ones((3, 3))) * np.float32(0.98)
    rows, columns = np.nonzero((slope > EDGE) & crest)
    if not len(rows):
        return []
    nx, ny = gx[rows, columns] / slope[rows, columns], gy[rows, columns] / slope[rows, columns]

    def along(plane: F32, side: int) -> F32:
        at = [
            cv2.remap(
                plane, (columns + side * d * nx).astype(np.float32)[None],
                (rows + side * d * ny).astype(np.float32)[None], cv2.INTER_LINEAR,
                borderMode=cv2.BORDER_REPLICATE,
            )[0]
            for d in DISTANCES
        ]  # fmt: skip
        return np.asarray(at, np.float32)

    h, w = start.shape
    rims: list[Rim] = []
    for side in (-1, 1):
        light, changed = along(smooth, side), along(change, side)
        one_thing = light.max(0) - light.min(0) < ALIKE
        far = changed[FAR].mean(0)
        # what falls off evenly across the picture (poured light, a ramp) is no rim
        even = (far - changed[BETWEEN].mean(0)) * np.float32(STEPS)
        rim = changed[NEAR].mean(0) - (far - even)
        cell = (rows // CELL) * (w // CELL + 1) + columns // CELL
        for key in np.unique(cell[one_thing]):
            here = one_thing & (cell == key)
            if here.sum() < FEW:
                continue
            much = float(np.median(rim[here]))
            if abs(much) > SEEN:
                rims.append(
                    Rim(x=float(columns[here].mean() / w), y=float(rows[here].mean() / h), stops=much)
                )
    return sorted(rims, key=lambda r: -abs(r.stops))
