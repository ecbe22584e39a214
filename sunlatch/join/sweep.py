"""A sweep's px, from its frames and its solution: band by band, at any size, onto the master."""

from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blocks import Block
from ..compiled import kernel
from ..fastmath import exp2
from ..ledger import Sweep
from ..patience import go_on
from ..render.ground import master_of
from ..render.workshop import Workshop
from .blend import Small, blended, cut, soft, stops_of
from .cast import Cast
from .taken import Taken

F32 = NDArray[np.float32]
F16 = NDArray[np.float16]
I32 = NDArray[np.int32]
Progress = Callable[[str, float], None]

SMALL: Final = 1150
"""Long side of the master at the small size, at most, px: seams and blending are decided there, and cutting a graph of many
px takes more than its share."""
BAND: Final = 256
FEATHER: Final = 0.16
"""How wide a seam is at full size, in px of the small size to each side."""


def small_scale(size: Sequence[int]) -> int:
    """How many times the master is reduced for the small size: a power of two."""
    scale = 1
    while max(size) / scale > SMALL and scale < 64:
        scale *= 2
    return scale


def casts_of(base: Sweep, frames: dict[str, Taken], shop: Workshop) -> list[Cast]:
    """The frames of a sweep that are in, ready to be laid on its master."""
    master = master_of(base)
    return [Cast.of(frames[m.source], m, base, master, shop) for m in base.taken]


def small_of(cast: Cast, scale: int, size: Sequence[int], pool: Executor | None = None) -> list[Small]:
    """A frame at the small size: one part, or two where the master goes round."""
    whole = Block(0, size[1], 0, size[0])
    parts = []
    for block in cast.blocks(whole, scale):
        planes, edge = cast.draw(block, scale, pool)
        parts.append(Small(block.left, block.top, stops_of(planes), edge))
    return parts


@dataclass(frozen=True)
class Joining:
    """What is decided at the small size. owners: index of the cast of each part; shown: how much each part is shown
    (parts, h, w); stops: what each is to be lightened by there (parts, rows, columns, 3), in its own rectangle; around: all
    of it as one, in stops, drawn on where there is nothing (h, w, 3); names: which part is shown (h, w)."""

    scale: int
    size: tuple[int, int]
    parts: list[Small]
    owners: list[int]
    shown: F32
    stops: list[F32]
    around: F32
    names: I32


def decide(casts: list[Cast], size: Sequence[int], pool: Executor | None = None) -> Joining:
    """Seams, and the blending beneath them."""
    scale = small_scale(size)
    small = (-(-size[0] // scale), -(-size[1] // scale))
    parts: list[Small] = []
    owners: list[int] = []
    for n, cast in enumerate(casts):
        go_on()
        for part in small_of(cast, scale, small, pool):
            parts.append(part)
            owners.append(n)
    names = cut(parts, small)
    around = blended(parts, names)
    stops = [around[p.area] - np.moveaxis(p.stops, 0, -1) for p in parts]
    for p, s in zip(parts, stops, strict=True):
        s[~p.there] = 0
    return Joining(scale, small, parts, owners, soft(names, len(parts)), stops, around, names)


@kernel(
    "void(float32[:, :, :], float32[:, :, ::1], float32[:, ::1], float32[:, ::1], float32[:, :, ::1],"
    " float32[:, :], float32)"
)
def _laid(into, planes, edge, shown, stops, total, feather):  # type: ignore[no-untyped-def]
    """Add a frame's light to a band (3, h, w), lightened by stops, as much as it is shown."""
    low, high = np.float32(0.5) - feather, np.float32(0.5) + feather
    for r in range(edge.shape[0]):
        for c in range(edge.shape[1]):
            if edge[r, c] <= 0:
                continue
            t = min(max(np.float32(0), (shown[r, c] - low) / (high - low)), np.float32(1))
            # a little of whoever is there: where all others end, it is all there is
            weight = t * t * (np.float32(3) - np.float32(2) * t) + np.float32(1e-5)
            for k in range(3):
                into[k, r, c] += weight * planes[k, r, c] * exp2(stops[r, c, k])
            total[r, c] += weight


def _over(small: F32, block: Block, scale: int, left: int, top: int) -> F32:
    """A small picture (rows, columns[, n]) that lies at (left, top), over a block of a finer one, smoothly."""
    rows = (np.arange(block.top, block.bottom) + 0.5) / scale - 0.5 - top
    columns = (np.arange(block.left, block.right) + 0.5) / scale - 0.5 - left
    maps = np.broadcast_arrays(columns[None, :].astype(np.float32), rows[:, None].astype(np.float32))
    x, y = (np.ascontiguousarray(m) for m in maps)
    return np.asarray(cv2.remap(small, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE), np.float32)


def bands(
    casts: list[Cast], joining: Joining, size: Sequence[int], level: int, pool: Executor | None = None
) -> Iterator[F16]:
    """The master at a level, top to bottom: (rows, w, 3), all frames as one."""
    scale = 2**level
    w, h = (-(-v // scale) for v in size)
    ratio = joining.scale // scale
    for top in range(0, h, BAND):
        go_on()
        band = Block(top, min(top + BAND, h), 0, w)
        rows = band.bottom - band.top
        into = np.zeros((3, rows, w), np.float32)
        total = np.zeros((rows, w), np.float32)
        for n, part in enumerate(joining.parts):
            cast = casts[joining.owners[n]]
            for block in _needed(joining, n, band, ratio, cast, scale):
                planes, edge = cast.draw(block, scale, pool)
                shown = _over(joining.shown[n], block, ratio, 0, 0)
                stops = _over(joining.stops[n], block, ratio, part.left, part.top)
                a, b = block.top - top, block.bottom - top
                columns = slice(block.left, block.right)
                _laid(
                    into[:, a:b, columns],
                    planes,
                    edge,
                    shown,
                    stops,
                    total[a:b, columns],
                    np.float32(FEATHER),
                )
        out = np.moveaxis(into, 0, -1) / np.maximum(total, 1e-9)[..., None]
        bare = total <= 0
        if bare.any():
            out[bare] = np.exp2(_over(joining.around, band, ratio, 0, 0))[bare]
        yield out.astype(np.float16)


def _needed(joining: Joining, n: int, band: Block, ratio: int, cast: Cast, scale: int) -> list[Block]:
    """Of a band, the part over which a frame is shown at all."""
    part = joining.parts[n]
    rows = slice(max(0, band.top // ratio - 1), band.bottom // ratio + 2)
    seen = np.flatnonzero((joining.shown[n][rows] > 1e-3).any(0))
    if not len(seen):
        return []
    left = max(part.left * ratio, (int(seen[0]) - 1) * ratio)
    right = min((part.left + part.edge.shape[1]) * ratio, (int(seen[-1]) + 2) * ratio)
    found = []
    for block in cast.blocks(band, scale):
        a, b = max(block.left, left), min(block.right, right)
        if a < b:
            found.append(Block(block.top, block.bottom, a, b))
    return found
