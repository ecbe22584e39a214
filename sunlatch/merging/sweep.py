"""A sweep's px, from its frames and its solution: band by band, at any size, onto the master."""

import math
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..binding.maps import master_of
from ..blocks import Block
from ..compiled import kernel
from ..fastmath import exp2, half_bits
from ..ledger import Sweep
from ..lookup import looked_up
from ..registration.inputs import InputFrame
from ..running.context import RenderContext
from ..running.patience import go_on
from .ahead import ahead
from .blend import Small, blended, cut, soft, stops_of
from .painted import painted_on
from .projected import Projected

F32 = NDArray[np.float32]
F16 = NDArray[np.float16]
I32 = NDArray[np.int32]

SMALL: Final = 1150
"""Long side of the master at the small size, at most, px: seams and blending are decided there, and cutting a graph of many
px takes more than its share."""
BAND: Final = 256
ROOM: Final = 160
"""Px of the small size beyond either side of the cut of a full turn over which blending sees what lies there."""
FEATHER: Final = 0.16
"""How wide a seam is at full size, in px of the small size to each side."""


def small_scale(size: Sequence[int], most: int = SMALL) -> int:
    """How many times the master is reduced for the small size: a power of two."""
    scale = 1
    while max(size) / scale > most and scale < 64:
        scale *= 2
    return scale


def project_all(base: Sweep, frames: dict[str, InputFrame], context: RenderContext) -> list[Projected]:
    """The frames of a sweep that are in, ready to be laid on its master."""
    master = master_of(base)
    return [Projected.of(frames[m.source], m, base, master, context) for m in base.enabled]


def small_of(projected: Projected, scale: int, whole: Block, pool: Executor | None = None) -> list[Small]:
    """A frame over a block of the small size: one part, or several where the master goes round. Places count from the block's
    left top."""
    parts = []
    for block in projected.blocks(whole, scale):
        planes, edge = projected.draw(block, scale, pool)
        parts.append(Small(block.left - whole.left, block.top - whole.top, stops_of(planes), edge))
    return parts


@dataclass(frozen=True)
class Joining:
    """What is decided at the small size. owners: index of the projected frame of each part; shown: how much each part is shown
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


def decide(
    all_projected: list[Projected], base: Sweep, pool: Executor | None = None, most: int = SMALL
) -> Joining:
    """Seams, as they were painted where they were, and the blending beneath them. most: long side at which they are decided,
    px."""
    size = base.size
    scale = small_scale(size, most)
    w, h = -(-size[0] // scale), -(-size[1] // scale)

    def drawn(block: Block) -> tuple[list[Small], list[int]]:
        some: list[Small] = []
        owners: list[int] = []
        for n, found in enumerate(
            (map if pool is None else pool.map)(lambda c: small_of(c, scale, block), all_projected)
        ):
            some += found
            owners += [n] * len(found)
        return some, owners

    closes = base.revision > 2 and master_of(base).wraps
    parts, owners = drawn(Block(0, h, 0, w))
    shown = _shown_round(parts, owners, drawn, (w, h)) if closes else _frames(cut(parts, (w, h)), owners)
    numbers = {m.source: n for n, m in enumerate(base.enabled)}
    for number, cover in painted_on(base, numbers, base.unit / scale, (h, w)):
        for p, owner in zip(parts, owners, strict=True):
            if owner == number:
                shown[p.area][cover[p.area] & p.there] = number
    names = _parts(shown, parts, owners)
    if closes:
        # what lies beside the cut lies on its other side
        room = min(ROOM, w // 2)
        wide, whose = drawn(Block(0, h, -room, w + room))
        around = blended(wide, _parts(np.pad(shown, ((0, 0), (room, room)), mode="wrap"), wide, whose))
        around = np.ascontiguousarray(around[:, room : room + w])
    else:
        around = blended(parts, names)
    stops = [np.ascontiguousarray(around[p.area] - np.moveaxis(p.stops, 0, -1)) for p in parts]
    for p, s in zip(parts, stops, strict=True):
        s[~p.there] = 0
    return Joining(scale, (w, h), parts, owners, soft(names, len(parts)), stops, around, names)


def _frames(names: I32, owners: list[int]) -> I32:
    """Which frame is shown (h, w) where it is known which part is; −1 where none is."""
    return np.asarray(np.array([*owners, -1], np.int32)[names], np.int32)


def _parts(shown: I32, parts: list[Small], owners: list[int]) -> I32:
    """Which part is shown (h, w) where it is known which frame is."""
    names = np.full(shown.shape, -1, np.int32)
    for n, (p, owner) in enumerate(zip(parts, owners, strict=True)):
        names[p.area][(shown[p.area] == owner) & p.there] = n
    return names


def _shown_round(
    parts: list[Small],
    owners: list[int],
    drawn: Callable[[Block], tuple[list[Small], list[int]]],
    size: tuple[int, int],
) -> I32:
    """Which frame is shown (h, w) all the way round: cut open where one frame is looked at most squarely, so that both ends are
    its own, and turned back."""
    w, h = size
    deep = np.zeros((h, w), np.float32)
    for p in parts:
        np.maximum(deep[p.area], p.edge, out=deep[p.area])
    at = int(np.argmax(deep.mean(0)))
    turned, whose = drawn(Block(0, h, at, at + w))
    return np.roll(_frames(cut(turned, size), whose), at, axis=1)


@kernel(
    "void(float32[:, :, :], float32[:, :, ::1], float32[:, ::1], float32[:, ::1], float32[:, :, ::1],"
    " float32[:, :], float32, int64[::1])"
)
def _laid(into, planes, edge, shown, stops, total, feather, at):  # type: ignore[no-untyped-def]
    """Add a frame's light to a band (3, h, w), lightened by stops, as much as it is shown. shown (rows, columns) and stops
    (rows, columns, 3) are of the small size, and drawn between their px; at: the block's left and top, times reduced, the
    left and top of the frame's part of the small size."""
    low, high = np.float32(0.5) - feather, np.float32(0.5) + feather
    one, half = np.float32(1), np.float32(0.5)
    scale = one / np.float32(at[2])
    for r in range(edge.shape[0]):
        y = (np.float32(r + at[1]) + half) * scale - half
        y0 = min(max(0, math.floor(y)), shown.shape[0] - 2)
        v = min(max(np.float32(0), y - np.float32(y0)), one)
        p0 = min(max(0, y0 - at[4]), stops.shape[0] - 2)
        pv = min(max(np.float32(0), y - np.float32(p0 + at[4])), one)
        for c in range(edge.shape[1]):
            if edge[r, c] <= 0:
                continue
            x = (np.float32(c + at[0]) + half) * scale - half
            x0 = min(max(0, math.floor(x)), shown.shape[1] - 2)
            u = min(max(np.float32(0), x - np.float32(x0)), one)
            above = shown[y0, x0] * (one - u) + shown[y0, x0 + 1] * u
            below = shown[y0 + 1, x0] * (one - u) + shown[y0 + 1, x0 + 1] * u
            t = min(max(np.float32(0), (above * (one - v) + below * v - low) / (high - low)), one)
            # a little of whoever is there: where all others end, it is all there is
            weight = t * t * (np.float32(3) - np.float32(2) * t) + np.float32(1e-5)
            q0 = min(max(0, x0 - at[3]), stops.shape[1] - 2)
            qu = min(max(np.float32(0), x - np.float32(q0 + at[3])), one)
            for k in range(3):
                above = stops[p0, q0, k] * (one - qu) + stops[p0, q0 + 1, k] * qu
                below = stops[p0 + 1, q0, k] * (one - qu) + stops[p0 + 1, q0 + 1, k] * qu
                into[k, r, c] += weight * planes[k, r, c] * exp2(above * (one - pv) + below * pv)
            total[r, c] += weight


@kernel("void(float32[:, :, ::1], float32[:, ::1], uint16[:, :, ::1])")
def shared(planes, total, out):  # type: ignore[no-untyped-def]
    """Planes (3, h, w) over what they add up to, as bits of half floats (h, w, 3)."""
    for r in range(total.shape[0]):
        for c in range(total.shape[1]):
            share = np.float32(1) / max(total[r, c], np.float32(1e-9))
            for k in range(3):
                out[r, c, k] = half_bits(planes[k, r, c] * share)


def _over(small: F32, block: Block, scale: int, left: int, top: int) -> F32:
    """A small picture (rows, columns[, n]) that lies at (left, top), over a block of a finer one, smoothly."""
    rows = (np.arange(block.top, block.bottom) + 0.5) / scale - 0.5 - top
    columns = (np.arange(block.left, block.right) + 0.5) / scale - 0.5 - left
    maps = np.broadcast_arrays(columns[None, :].astype(np.float32), rows[:, None].astype(np.float32))
    x, y = (np.ascontiguousarray(m) for m in maps)
    return np.asarray(looked_up(small, x, y), np.float32)


def bands(
    all_projected: list[Projected],
    joining: Joining,
    size: Sequence[int],
    level: int,
    pool: Executor | None = None,
) -> Iterator[F16]:
    """The master at a level, top to bottom: (rows, w, 3), all frames as one."""
    scale = 2**level
    w, h = (-(-v // scale) for v in size)
    ratio = joining.scale // scale

    def band(top: int) -> F16:
        return _band(all_projected, joining, Block(top, min(top + BAND, h), 0, w), scale, ratio)

    return ahead(band, range(0, h, BAND), pool)


def _band(all_projected: list[Projected], joining: Joining, band: Block, scale: int, ratio: int) -> F16:
    """A band of the master: (rows, w, 3)."""
    go_on()
    rows, w = band.bottom - band.top, band.right
    into = np.zeros((3, rows, w), np.float32)
    total = np.zeros((rows, w), np.float32)
    for n, part in enumerate(joining.parts):
        projected = all_projected[joining.owners[n]]
        for block in _needed(joining, n, band, ratio, projected, scale):
            planes, edge = projected.draw(block, scale)
            at = np.array([block.left, block.top, ratio, part.left, part.top])
            a, b = block.top - band.top, block.bottom - band.top
            columns = slice(block.left, block.right)
            _laid(
                into[:, a:b, columns], planes, edge, joining.shown[n], joining.stops[n], total[a:b, columns],
                np.float32(FEATHER), at,
            )  # fmt: skip
    bare = total <= 0
    out = np.empty((rows, w, 3), np.float16)
    shared(into, total, out.view(np.uint16))
    if bare.any():
        out[bare] = np.exp2(_over(joining.around, band, ratio, 0, 0))[bare]
    return out


def _needed(
    joining: Joining, n: int, band: Block, ratio: int, projected: Projected, scale: int
) -> list[Block]:
    """Of a band, the part over which a frame is shown at all."""
    part = joining.parts[n]
    rows = slice(max(0, band.top // ratio - 1), band.bottom // ratio + 2)
    seen = np.flatnonzero((joining.shown[n][rows] > 1e-3).any(0))
    if not len(seen):
        return []
    left = max(part.left * ratio, (int(seen[0]) - 1) * ratio)
    right = min((part.left + part.edge.shape[1]) * ratio, (int(seen[-1]) + 2) * ratio)
    found = []
    for block in projected.blocks(band, scale):
        a, b = max(block.left, left), min(block.right, right)
        if a < b:
            found.append(Block(block.top, block.bottom, a, b))
    return found
