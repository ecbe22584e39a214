"""How directions are laid on a plane: six projections, each with its inverse.

A direction is (x right, y down, z ahead); a plane's unit is the length that one radian has in its middle, y down. Whatever
lies behind what a projection can show is NaN.

Sources: Snyder, Map Projections: A Working Manual (USGS 1395, 1987) for all but Panini's; Sharpless, Postle & German,
Pannini: A New Projection for Rendering Wide Angle Perspective Images (2010).
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Final, Literal

import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]

Name = Literal["rectilinear", "panini", "cylindrical", "mercator", "equirectangular", "stereographic"]


def along(directions: F64) -> F64:
    """How far to the right (radians, −π to π) and how far down (−π/2 to π/2) directions (..., 3) point: (..., 2)."""
    x, y, z = directions[..., 0], directions[..., 1], directions[..., 2]
    return np.stack([np.arctan2(x, z), np.arctan2(y, np.hypot(x, z))], -1)


def towards(right: F64, down: F64) -> F64:
    """Unit directions (..., 3) that point so far to the right and down, radians."""
    c = np.cos(down)
    return np.stack([np.sin(right) * c, np.sin(down), np.cos(right) * c], -1)


def _rectilinear(d: F64, squeeze: float) -> F64:
    z = np.where(d[..., 2] > 1e-3, d[..., 2], np.nan)[..., None]
    return np.asarray(d[..., :2] / z)


def _from_rectilinear(p: F64, squeeze: float) -> F64:
    d = np.concatenate([p, np.ones_like(p[..., :1])], -1)
    return np.asarray(d / np.linalg.norm(d, axis=-1, keepdims=True))


def _panini(d: F64, squeeze: float) -> F64:
    at = along(d)
    right = np.where(np.cos(at[..., 0]) > -squeeze + 1e-3, at[..., 0], np.nan)
    s = (squeeze + 1) / (squeeze + np.cos(right))
    return np.stack([s * np.sin(right), s * np.tan(at[..., 1])], -1)


def _from_panini(p: F64, squeeze: float) -> F64:
    k = (p[..., 0] / (squeeze + 1)) ** 2
    root = (k * squeeze) ** 2 - (k + 1) * (k * squeeze**2 - 1)
    cosine = (np.sqrt(np.maximum(root, 0)) - k * squeeze) / (k + 1)
    s = (squeeze + 1) / (squeeze + cosine)
    return towards(np.arctan2(p[..., 0], s * cosine), np.arctan(p[..., 1] / s))


def _cylindrical(d: F64, squeeze: float) -> F64:
    at = along(d)
    return np.stack([at[..., 0], np.tan(at[..., 1])], -1)


def _from_cylindrical(p: F64, squeeze: float) -> F64:
    return towards(p[..., 0], np.arctan(p[..., 1]))


def _mercator(d: F64, squeeze: float) -> F64:
    at = along(d)
    return np.stack([at[..., 0], np.arcsinh(np.tan(at[..., 1]))], -1)


def _from_mercator(p: F64, squeeze: float) -> F64:
    return towards(p[..., 0], np.arctan(np.sinh(np.clip(p[..., 1], -12, 12))))


def _equirectangular(d: F64, squeeze: float) -> F64:
    return along(d)


def _from_equirectangular(p: F64, squeeze: float) -> F64:
    down = np.where(np.abs(p[..., 1]) <= math.pi / 2, p[..., 1], np.nan)
    return towards(p[..., 0], down)


def _stereographic(d: F64, squeeze: float) -> F64:
    z = np.where(d[..., 2] > -0.999, d[..., 2], np.nan)[..., None]
    return np.asarray(2 * d[..., :2] / (1 + z))


def _from_stereographic(p: F64, squeeze: float) -> F64:
    r2 = (p * p).sum(-1, keepdims=True) / 4
    z = (1 - r2) / (1 + r2)
    return np.asarray(np.concatenate([p * (1 + z) / 2, z], -1))


@dataclass(frozen=True)
class Projection:
    """A projection. onto: directions (..., 3) and its squeeze to the plane (..., 2); back: its inverse. right, down: as
    far as it is shown, radians from its middle; round: whether its width goes all the way round."""

    onto: Callable[[F64, float], F64]
    back: Callable[[F64, float], F64]
    right: float
    down: float
    round: bool = False


PROJECTIONS: Final[dict[str, Projection]] = {
    "rectilinear": Projection(_rectilinear, _from_rectilinear, math.radians(68), math.radians(68)),
    "panini": Projection(_panini, _from_panini, math.radians(105), math.radians(70)),
    "cylindrical": Projection(_cylindrical, _from_cylindrical, math.pi, math.radians(72), True),
    "mercator": Projection(_mercator, _from_mercator, math.pi, math.radians(84), True),
    "equirectangular": Projection(_equirectangular, _from_equirectangular, math.pi, math.pi / 2, True),
    "stereographic": Projection(_stereographic, _from_stereographic, math.pi, math.radians(80)),
}
