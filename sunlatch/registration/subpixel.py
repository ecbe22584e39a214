"""Sub-pixel refinement of matches: around each, a patch of one frame is laid over the other by what is solved so far, and shifted until
it fits (Lucas & Kanade 1981). Features are found to a px or so; this tells a tenth of one."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..running.patience import go_on
from .inputs import InputFrame
from .pairs import Pair
from .solve import Solved, groups, rays

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
Each = Callable[..., Iterable[Pair | None]]

HALF: Final = 15
"""A patch reaches so many px each way."""
MOST_SHIFT: Final = 5.0
"""Px; what fits only farther off is another thing."""
ALIKE: Final = 0.6
"""How well patches must correlate."""
DARK: Final = 2.0**-12
"""Light under this, of what clips, is noise."""
SLOW: Final = 4.0
"""Px over which light changes slowly."""
CLIPPED_FROM: Final = 0.85
"""An edge against light that clips, of what clips, lies elsewhere than it does."""
SEEN: Final = 0.35
"""Of a patch, so much must not clip in either frame."""
ROUNDS: Final = 4
MATCHES_MOST: Final = 400
MATCHES_FEWEST: Final = 12


@dataclass(frozen=True)
class Lit:
    """What of a frame's light in stops is fine (h, w), as captured, where it clips (h, w, 1 there), and its px per long edge."""

    stops: F32
    clips: F32
    unit: float


def lit(frame: InputFrame, long_edge: int) -> Lit:
    """A frame to be looked at so finely."""
    planes = frame.small(long_edge)
    light = np.tensordot(np.array([0.25, 0.5, 0.25], np.float32), planes, 1)
    clips = cv2.dilate((planes.max(0) > CLIPPED_FROM).astype(np.float32), np.ones((5, 5)))
    stops = np.log2(np.maximum(light, DARK)).astype(np.float32)
    clear = 1 - clips
    # slow changes of light say little of where a thing is, and much of what exposures and lenses did to it
    around = cv2.GaussianBlur(stops * clear, (0, 0), SLOW) / np.maximum(
        cv2.GaussianBlur(clear, (0, 0), SLOW), 1e-3
    )
    return Lit((stops - around).astype(np.float32), clips, float(max(light.shape)))


def refine_all(frames: list[InputFrame], lights: list[Lit], solved: Solved, each: Each = map) -> list[Pair]:
    """The pairs of a solution with places told more finely: where that says how all frames lie, of nothing else."""
    fine = [p for p in each(lambda pair: finer(pair, frames, lights, solved), solved.pairs) if p is not None]
    left = {p.i for p in solved.pairs} | {p.j for p in solved.pairs}
    if fine and set(groups(len(frames), fine)[0]) >= left:
        return fine
    refined = {(p.i, p.j) for p in fine}
    return fine + [p for p in solved.pairs if (p.i, p.j) not in refined]


def finer(pair: Pair, frames: list[InputFrame], lights: list[Lit], solved: Solved) -> Pair | None:
    """The same pair with places told more finely; None where too few patches fit."""
    go_on()
    one, other = frames[pair.i], frames[pair.j]
    step = max(1, len(pair.b) // MATCHES_MOST)
    b = other.geometry.turned_to_source(pair.b[::step])
    grid = np.arange(-HALF, HALF + 1) / lights[pair.j].unit
    at = b[:, None, None] + np.stack(np.meshgrid(grid, grid), -1)  # (n, rows, columns, 2), source of j
    on_j = other.geometry.to_turned(at)
    world = rays(on_j, solved.focal, solved.distortion, other.geometry.half_diagonal) @ solved.turns[pair.j]
    seen = world @ solved.turns[pair.i].T
    flat = seen[..., :2] / np.maximum(seen[..., 2:], 1e-3) * solved.focal
    r2 = (flat * flat).sum(-1, keepdims=True) / one.geometry.half_diagonal**2
    on_i = flat * (1 + solved.distortion * r2)
    places_i = one.geometry.turned_to_source(on_i)
    from_i = _read(lights[pair.i].stops, lights[pair.i].unit, places_i)
    clear = 1 - np.maximum(
        _read(lights[pair.i].clips, lights[pair.i].unit, places_i),
        _read(lights[pair.j].clips, lights[pair.j].unit, at),
    ).clip(0, 1)
    clear[:, [0, -1]] = clear[..., [0, -1]] = 0  # gradients are one-sided there
    wanted = _flattened(from_i, clear)
    shift = np.zeros((len(b), 2))
    for _ in range(ROUNDS):
        moved = at + (shift / lights[pair.j].unit)[:, None, None]
        here = _flattened(_read(lights[pair.j].stops, lights[pair.j].unit, moved), clear)
        gy, gx = np.gradient(here, axis=(1, 2))
        off = (wanted - here) * clear
        xx, yy, xy = ((p * q * clear).sum((1, 2)) for p, q in ((gx, gx), (gy, gy), (gx, gy)))
        px, py = (gx * off).sum((1, 2)), (gy * off).sum((1, 2))
        det = np.maximum(xx * yy - xy * xy, 1e-9)
        shift += np.clip(np.stack([yy * px - xy * py, xx * py - xy * px], -1) / det[:, None], -2, 2)
    norm = np.sqrt((here**2 * clear).sum((1, 2)) * (wanted**2 * clear).sum((1, 2)))
    alike = (here * wanted * clear).sum((1, 2)) / np.maximum(norm, 1e-9)
    fits = (alike > ALIKE) & (np.abs(shift).max(1) < MOST_SHIFT) & (det > 1e-3 * (xx + yy) ** 2)
    fits &= clear.mean((1, 2)) > SEEN
    if fits.sum() < MATCHES_FEWEST:
        return None
    middle = HALF
    return Pair(
        pair.i, pair.j, on_i[fits, middle, middle],
        other.geometry.to_turned(b[fits] + shift[fits] / lights[pair.j].unit), pair.matches,
    )  # fmt: skip


def _read(plane: F32, unit: float, at: F64) -> F32:
    """A plane of a frame at places (n, rows, columns, 2) of it."""
    n, rows, columns, _ = at.shape
    px = (at * unit - 0.5).astype(np.float32).reshape(n * rows, columns, 2)
    found = np.empty((n * rows, columns), np.float32)
    for first in range(0, n * rows, 32000):
        part = px[first : first + 32000]
        found[first : first + 32000] = cv2.remap(
            plane, part[..., 0], part[..., 1], cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE
        )
    return found.reshape(n, rows, columns)


def _flattened(patches: F32, clear: F32) -> F32:
    """Without their own mean: an exposure that drifted is none of its shape. clear: how much each px counts."""
    mean = (patches * clear).sum((1, 2)) / np.maximum(clear.sum((1, 2)), 1e-6)
    return np.asarray(patches - mean[:, None, None], np.float32)
