"""Matches made finer: around each, a patch of one frame is laid over the other by what is solved so far, and shifted until
it fits (Lucas & Kanade 1981). Features are found to a px or so; this tells a tenth of one."""

from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..patience import go_on
from .pairs import Pair
from .solve import Solved, rays
from .taken import Taken

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

HALF: Final = 15
"""A patch reaches so many px each way."""
MOST_SHIFT: Final = 5.0
"""Px; what fits only farther off is another thing."""
ALIKE: Final = 0.85
"""How well patches must correlate."""
ROUNDS: Final = 4
MOST: Final = 260
FEWEST: Final = 24


@dataclass(frozen=True)
class Lit:
    """Stops of a frame's light (h, w), as captured, and its px per long edge."""

    stops: F32
    unit: float


def lit(frame: Taken, long_edge: int) -> Lit:
    """A frame to be looked at so finely."""
    light = np.tensordot(np.array([0.25, 0.5, 0.25], np.float32), frame.small(long_edge), 1)
    return Lit(np.log2(np.maximum(light, 1e-3)).astype(np.float32), float(max(light.shape)))


def finer(pair: Pair, frames: list[Taken], lights: list[Lit], solved: Solved) -> Pair:
    """The same pair with places told more finely; itself where too few patches fit."""
    go_on()
    one, other = frames[pair.i], frames[pair.j]
    step = max(1, len(pair.b) // MOST)
    b = other.geometry.turned_to_source(pair.b[::step])
    grid = np.arange(-HALF, HALF + 1) / lights[pair.j].unit
    at = b[:, None, None] + np.stack(np.meshgrid(grid, grid), -1)  # (n, rows, columns, 2), source of j
    on_j = other.geometry.to_turned(at)
    world = rays(on_j, solved.focal, solved.bend, other.geometry.half_diagonal) @ solved.turns[pair.j]
    seen = world @ solved.turns[pair.i].T
    flat = seen[..., :2] / np.maximum(seen[..., 2:], 1e-3) * solved.focal
    r2 = (flat * flat).sum(-1, keepdims=True) / one.geometry.half_diagonal**2
    on_i = flat * (1 + solved.bend * r2)
    from_i = _read(lights[pair.i], one.geometry.turned_to_source(on_i))
    wanted = _flattened(from_i)
    shift = np.zeros((len(b), 2))
    for _ in range(ROUNDS):
        here = _flattened(_read(lights[pair.j], at + (shift / lights[pair.j].unit)[:, None, None]))
        gy, gx = np.gradient(here, axis=(1, 2))
        off = wanted - here
        xx, yy, xy = (gx * gx).sum((1, 2)), (gy * gy).sum((1, 2)), (gx * gy).sum((1, 2))
        px, py = (gx * off).sum((1, 2)), (gy * off).sum((1, 2))
        det = np.maximum(xx * yy - xy * xy, 1e-9)
        shift += np.clip(np.stack([yy * px - xy * py, xx * py - xy * px], -1) / det[:, None], -2, 2)
    norm = np.sqrt((here**2).sum((1, 2)) * (wanted**2).sum((1, 2)))
    alike = (here * wanted).sum((1, 2)) / np.maximum(norm, 1e-9)
    fits = (alike > ALIKE) & (np.abs(shift).max(1) < MOST_SHIFT) & (det > 1e-3 * (xx + yy) ** 2)
    if fits.sum() < FEWEST:
        return pair
    middle = HALF
    return Pair(
        pair.i, pair.j, on_i[fits, middle, middle],
        other.geometry.to_turned(b[fits] + shift[fits] / lights[pair.j].unit), pair.matches,
    )  # fmt: skip


def _read(light: Lit, at: F64) -> F32:
    """A frame's stops at places (n, rows, columns, 2) of it."""
    n, rows, columns, _ = at.shape
    px = (at * light.unit - 0.5).astype(np.float32).reshape(n * rows, columns, 2)
    found = np.empty((n * rows, columns), np.float32)
    for first in range(0, n * rows, 32000):
        part = px[first : first + 32000]
        found[first : first + 32000] = cv2.remap(
            light.stops, part[..., 0], part[..., 1], cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE
        )
    return found.reshape(n, rows, columns)


def _flattened(patches: F32) -> F32:
    """Without their own mean: an exposure that drifted is none of its shape."""
    return np.asarray(patches - patches.mean((1, 2), keepdims=True))
