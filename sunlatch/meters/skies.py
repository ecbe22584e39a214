"""How well skies of other frames would fit a scene, at a glance: for the order in which they are offered. What is said of one
that was brought stands in `belongs`."""

from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA
from ..latch.base import DOUBT, SURE
from ..latch.found import sure_of_sky
from ..render import Development
from .belongs import COLOUR, SLOPE, slope

F32 = NDArray[np.float32]
GLANCE_PX: Final = 192
"""Long edge, px, of a glance."""
STEP: Final = 0.15
"""Stops between neighbours at which a sky ends."""
DARKEST_LIGHT: Final = 1e-5
BARE: Final = 0.12
"""The share of a frame under which it has no sky to speak of."""
LARGE: Final = 1.3
"""From how many times its size on it is said that a sky must be enlarged."""
STANDS: Final = 0.12
"""The share of a sky, down to where it ends, from which on it is said that things stand before it."""
NONE: Final = 100.0
UNSURE: Final = 10.0
"""How much farther from fitting what may be no sky is."""


@dataclass(frozen=True)
class Glance:
    """What a frame shows of its sky: its share of the frame, and of its height at the side where it reaches down the farthest;
    stops by which sky and land become lighter from left to right; red over blue of the sky, in stops; width over height."""

    share: float
    tall: float
    sky_slope: float
    land_slope: float
    warm: float
    wide: float
    sure: float = 1.0
    """How sure it is that it is a sky."""


@dataclass(frozen=True)
class Fit:
    """How far a sky is from fitting, 0 the best, and what is to be said of it."""

    apart: float
    reasons: list[str]


def glance(development: Development) -> Glance:
    """Look at a frame's sky: what is even, and joined to the upper edge."""
    view = development.geometry.look(GLANCE_PX)
    planes = np.maximum(development.light_planes(view, 0), DARKEST_LIGHT)
    stops = np.log2(np.maximum(np.tensordot(np.asarray(LUMA, np.float32), planes, 1), DARKEST_LIGHT))
    sky = _open(stops)
    h, w = sky.shape
    share = float(sky.mean())
    if share < BARE:
        return Glance(share, 0.0, 0.0, slope(stops, ~sky), 0.0, w / h)
    rows = np.nonzero(sky)[0]
    red, blue = (np.log2(planes[k][sky]).mean() for k in (0, 2))
    reader = development.bare.reader
    lab = reader.lab(view, reader.finders_light(), development.geometry)
    return Glance(
        share,
        float(np.percentile(rows, 98) + 1) / h,
        slope(stops, sky),
        slope(stops, ~sky),
        float(red - blue),
        w / h,
        sure_of_sky(lab, _down_to(sky).astype(np.float32)),
    )


def _down_to(sky: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """All that lies over the lowest of it, column by column: clouds in it are not joined to the upper edge without a step."""
    return np.asarray(np.logical_or.accumulate(sky[::-1], axis=0)[::-1])


def _open(stops: F32) -> NDArray[np.bool_]:
    """What is joined to the upper edge without a step (h, w)."""
    even = cv2.GaussianBlur(stops, (0, 0), 1.0)
    across = np.abs(cv2.Sobel(even, cv2.CV_32F, 1, 0, ksize=3)) / 8
    down = np.abs(cv2.Sobel(even, cv2.CV_32F, 0, 1, ksize=3)) / 8
    calm = (np.hypot(across, down) < STEP).astype(np.uint8)
    _, labels = cv2.connectedComponents(calm, connectivity=4)
    top = np.unique(labels[0][calm[0] > 0])
    return np.asarray(np.isin(labels, top) & (calm > 0))


def fit(scene: Glance, other: Glance) -> Fit:
    """How far another frame's sky is from fitting a scene."""
    if other.share < BARE or other.sure < DOUBT:
        return Fit(NONE, ["no sky to speak of"])
    reasons: list[str] = []
    apart = 0.0
    if other.sure < SURE:
        apart += UNSURE
        reasons.append("it may be no sky")
    if scene.land_slope * other.sky_slope < 0 and min(abs(scene.land_slope), abs(other.sky_slope)) > SLOPE:
        apart += 1.0
        reasons.append("lit from the other side")
    times = max(scene.tall, 0.2) / max(other.tall, 0.05) * max(other.wide / scene.wide, 1.0)
    if times > LARGE:
        reasons.append(f"enlarged {times:.1f} times")
    apart += max(np.log2(times), 0.0) + 0.1 * np.log2(times)
    before = 1 - other.share / other.tall
    apart += 1.5 * max(before, 0.0)
    if before > STANDS:
        reasons.append("partly hidden by foreground")
    if scene.share >= BARE:
        warmer = other.warm - scene.warm
        apart += 0.5 * abs(warmer)
        if abs(warmer) > COLOUR:
            reasons.append(f"{abs(warmer):.1f} stops {'warmer' if warmer > 0 else 'cooler'}")
    return Fit(float(apart), reasons)
