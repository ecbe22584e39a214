"""Distance: how much haze lies in front of a place, and how high it lies toward the horizon.

Haze adds the sky's light to what is dark: what the darkest px of a neighbourhood still has in all channels shows
how much of it there is (after He, Sun & Tang 2011, here in cone responses). Pale rock looks like haze, so the lie of the land counts too: on open ground what
stands higher in the frame is farther. The sky is farthest.
"""

from typing import Final

import cv2
import numpy as np

from ..colour.oklab import ROOTS_TO_LAB
from ..parameters import Params, number
from .base import F32, Finding, IngredientKind, Sight, smoothstep
from .found import lowest_edge

WINDOW: Final = 0.015
"""Side of the neighbourhood whose darkest px counts, in long edges."""


class DistanceParams(Params):
    """From `near` to `far` the mask rises; 0 % is what lies at one's feet, 100 % is sky."""

    near: float = number(
        "From", default=0.3, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="What is nearer than this is not held; 0 % is the foreground",
    )  # fmt: skip
    far: float = number(
        "To", default=0.8, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="What is farther than this is held whole; 100 % is sky",
    )  # fmt: skip
    lie: float = number(
        "By the lie of the land", default=0.5, low=0.0, high=1.0, step=0.05, unit="%", decimals=0,
        shown_times=100.0, hint="How much height in the frame counts; the rest is haze",
    )  # fmt: skip


def find(params: DistanceParams, sight: Sight) -> Finding:
    """How far each place is, 0–1, in no unit."""
    lab, sky = sight.lab(), sight.found("sky")
    h, w = lab.shape[1:]
    sky = np.asarray(cv2.resize(sky, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)
    roots = np.einsum("ij,jhw->ihw", np.linalg.inv(ROOTS_TO_LAB).astype(np.float32), lab)
    side = max(3, round(WINDOW * max(h, w)) // 2 * 2 + 1)
    dark = cv2.erode(np.maximum(roots, 0).min(0), np.ones((side, side)))
    dark = cv2.GaussianBlur(dark, (0, 0), side / 2)
    land = sky < 0.1
    if not land.any():
        return Finding(np.ones((h, w), np.float32))
    low, high = (float(v) for v in np.percentile(dark[land], (2, 99)))
    haze = np.clip((dark - low) / max(high - low, 0.02), 0, 1)
    line = lowest_edge(sky)[1]
    height = np.clip((h - 1 - np.arange(h)[:, None]) / max(h - 1 - line, 1), 0, 1)
    far = (1 - params.lie) * haze + params.lie * height
    return Finding(np.asarray(sky + (1 - sky) * np.clip(far, 0, 1) * 0.95, np.float32))


def shape(params: DistanceParams, far: F32) -> F32:
    """How far (h, w) → mask (h, w)."""
    span = max(params.far - params.near, 0.01)  # the same twice is a step
    return np.asarray(smoothstep((far.astype(np.float64) - params.near) / span), np.float32)


INGREDIENT = IngredientKind(
    kind="distance",
    revision=1,
    label="Distance",
    says="by the haze before it",
    group="What it is",
    sentence="Distance from {near} to {far}",
    params=DistanceParams,
    find=find,
    looks_at=("sky",),
    shape=shape,
    shaped=("near", "far"),
    place=72,
)
