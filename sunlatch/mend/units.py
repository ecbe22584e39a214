"""What a scene's repairs come to on a raster: units, each with the block it changes and those it looks at."""

import hashlib
from collections.abc import Sequence
from functools import lru_cache
from typing import Final, Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blobs import Blobs
from ..blocks import Block, Fetch
from ..errors import DocumentError
from ..ledger import (
    AnyRepair,
    Area,
    CloneRepair,
    HealRepair,
    RegrowRepair,
    Speck,
    SpecksRepair,
    Take,
    WireRepair,
)
from ..running.patience import doing_of, go_on
from . import wire
from .area import bounds_of, shade_in
from .heal import APRON, FLOOR, bounds, healed, logarithm, taken
from .membrane import membrane
from .patches import SourceMap
from .trace import every_px

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
SOFT: Final = 0.75
"""The share of a speck's radius inside which it is mended wholly."""
TILE, CELL = 256, 8
"""Px across of a tile of a long thin area, and of the cells by which it is seen where such an area runs."""
SPARSE: Final = 0.7
"""The share of its block that tiles may cost at most: more of it is mended as one."""
WIDER: Final = 1.5
"""Cells by which strokes are seen wider, so that none is missed."""
FELT: Final = 3.0
"""How many times its half width a stroke goes on beyond a tile, so that where it was cut is not felt (a membrane's edge fades
by exp(−π/2) with every half width)."""
KNOT: Final = 6
"""Px around where wires cross that are looked at, too."""
DEEP: Final = 25
"""Px into what was regrown over which what only a part of its edge asks for fades: farther in, its texture is its own."""


class Unit(Protocol):
    """One thing that is mended, on one raster."""

    identity: str
    """Names all that it does, but what it finds there."""
    window: Block

    @property
    def reads(self) -> Sequence[Block]:
        """The blocks it looks at."""

    def make(self, read: Fetch) -> F32:
        """What is to be added to the window (3, h, w); read: the raster as what was done before it leaves it."""


def widened(block: Block, room: int) -> Block:
    """A block with room around."""
    return Block(block.top - room, block.bottom + room, block.left - room, block.right + room)


def _pasted(
    read: Fetch, window: Block, much: F32, take: Take, per: float, heals: bool, stops: float = 0.0,
    middle: tuple[float, float] | None = None,
) -> F32:  # fmt: skip
    """What is to be added to a window where light is taken from elsewhere. middle: about which that is turned, x, y px."""
    go_on()
    middle = middle or ((window.left + window.right) / 2, (window.top + window.bottom) / 2)
    if not heals:
        source = taken(read, window, take, per, middle) * np.float32(2.0**stops)
        return np.asarray(much * (source - read(*window)), np.float32)
    wide = widened(window, APRON)
    there, source = read(*wide), taken(read, wide, take, per, middle)
    hole = np.zeros(there.shape[1:], bool)
    hole[APRON:-APRON, APRON:-APRON] = much > 0
    inner = (slice(None), slice(APRON, -APRON), slice(APRON, -APRON))
    return np.asarray(much * (healed(there, source, hole)[inner] - there[inner]), np.float32)


class _Paste:
    """Heal and Clone: all of one, or a tile of it. whole: the block all of it lies in; room: px around the tile that tell
    what meets its edge, where the stroke goes on beyond it."""

    def __init__(
        self,
        repair: HealRepair | CloneRepair,
        per: float,
        span: Block,
        whole: Block,
        blobs: Blobs | None,
        tile: Block | None = None,
        room: int = 0,
    ) -> None:
        self.repair, self.per, self.span, self.blobs = repair, per, span, blobs
        self.window, self.room = tile or whole, room if tile else 0
        self.identity = repair.model_dump_json(exclude={"id", "name", "note", "on"}) + (
            f" {tile} {room}" if tile else ""
        )
        self.middle = ((whole.left + whole.right) / 2, (whole.top + whole.bottom) / 2)
        wide = widened(self.window, self.room + APRON)
        self.reads: Sequence[Block] = (wide, bounds(repair.take, wide, per, whole))

    def make(self, read: Fetch) -> F32:
        go_on()
        repair, room = self.repair, self.room
        wide = widened(self.window, room)
        much = shade_in(wide, repair.area, self.per, self.span, self.blobs)
        much *= np.float32(repair.params.strength)
        stops = repair.params.stops if repair.kind == "clone" else 0.0
        made = _pasted(
            read, wide, much, repair.take, self.per, repair.kind == "heal", stops, middle=self.middle
        )
        inner = slice(room, -room or None)
        return np.ascontiguousarray(made[:, inner, inner])


class _Spot:
    """One speck."""

    def __init__(self, spot: Speck, reach: float, per: float, span: Block) -> None:
        self.radius = max(spot.radius * reach * per, 1.5)
        self.at, self.per = (spot.x * per, spot.y * per), per
        self.take = Take(dx=spot.dx, dy=spot.dy)
        self.identity = f"speck {spot.model_dump_json(exclude={'on'})} {reach}"
        x, y = self.at
        r = self.radius + 1
        self.window = Block(
            max(int(y - r), span.top),
            min(int(y + r) + 1, span.bottom),
            max(int(x - r), span.left),
            min(int(x + r) + 1, span.right),
        )
        wide = widened(self.window, APRON)
        self.reads: Sequence[Block] = (wide, bounds(self.take, wide, per))

    def make(self, read: Fetch) -> F32:
        w = self.window
        y, x = np.mgrid[w.top : w.bottom, w.left : w.right] + 0.5
        away = np.hypot(x - self.at[0], y - self.at[1]) / self.radius
        much = np.clip((1 - away) / (1 - SOFT), 0, 1)
        much = (much * much * (3 - 2 * much)).astype(np.float32)
        return _pasted(read, w, much, self.take, self.per, True)


class _Piece:
    """A piece of a wire."""

    def __init__(self, path: F64, first: int, last: int, width: float, window: Block, led: bool) -> None:
        self.path, self.first, self.last, self.width, self.window = path, first, last, width, window
        self.led = led
        begin, end = max(first - wire.BESIDE, 0), min(last + wire.BESIDE, len(path))
        held = np.round(path[begin:end], 3).tobytes()
        self.identity = (
            f"wire {hashlib.blake2b(held, digest_size=12).hexdigest()} {first} {last} {width} {led}"
        )
        low, high = path[begin:end].min(0).astype(int), path[begin:end].max(0).astype(int)
        room = int(wire.reach_of(width)) + 2 * wire.ROWS + 6
        self.reads: Sequence[Block] = (Block(low[1] - room, high[1] + room, low[0] - room, high[0] + room),)

    def make(self, read: Fetch) -> F32:
        go_on()
        made, much = wire.mended(read, self.path, self.first, self.last, self.width, self.window, self.led)
        return np.asarray(much * (made - read(*self.window)), np.float32)


class GrownUnit:
    """Regrow."""

    def __init__(
        self,
        repair: RegrowRepair,
        per: float,
        span: Block,
        window: Block,
        blobs: Blobs,
        there: Fetch | None,
    ) -> None:
        self.repair, self.per, self.span, self.blobs = repair, per, span, blobs
        self.there = there
        self.identity = repair.model_dump_json(exclude={"id", "name", "note", "on"})
        self.window = window
        sources = SourceMap.read(repair.map, blobs)
        self.says = sources.says(window, per)
        # a little beyond its edge too: there it shows by how much it misses what is there
        self.map = sources.continued(APRON + 2) if repair.revision > 1 else sources
        self.reads: Sequence[Block] = (widened(window, APRON), *self.map.reads(window, per))

    def make(self, read: Fetch) -> F32:
        go_on()
        cover = self.says * shade_in(self.window, self.repair.area, self.per, self.span, self.blobs)
        wide = widened(self.window, APRON)
        there = read(*wide)
        hole = np.zeros(there.shape[1:], bool)
        hole[APRON:-APRON, APRON:-APRON] = cover > 0
        # on a ragged edge there is no light around it that it could be fitted to
        ragged = self.there is not None and float(self.there(*wide).min()) < 0.5
        if ragged or self.repair.revision == 1:
            made = self.map.filled(read, wide, self.per, there, hole)
        else:
            around = cv2.dilate(hole.astype(np.uint8), np.ones((2 * APRON + 1,) * 2, np.uint8)) > 0
            source = self.map.filled(read, wide, self.per, there, around)
            made = healed(
                there, source, hole, self.repair.params.fit, ~self._known(wide, around & ~hole), DEEP
            )
        inner = (slice(None), slice(APRON, -APRON), slice(APRON, -APRON))
        return np.asarray(cover * (made[inner] - there[inner]), np.float32)

    def _known(self, wide: Block, around: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Where, around the hole, it shows how well its place is met: on the picture, and not by what goes itself."""

        def goes(top: int, bottom: int, left: int, right: int) -> F32:
            block = Block(top, bottom, left, right)
            return np.repeat(shade_in(block, self.repair.area, self.per, self.span, self.blobs)[None], 3, 0)

        at = self.span
        rows, columns = np.arange(wide.top, wide.bottom), np.arange(wide.left, wide.right)
        there = ((rows >= at.top) & (rows < at.bottom))[:, None]
        there = there & ((columns >= at.left) & (columns < at.right))[None]
        gone = self.map.filled(goes, wide, self.per, np.zeros((3, *around.shape), np.float32), around)
        return np.asarray(around & there & (gone[0] == 0))

    def covers(self, block: Block, per: float, span: Block) -> F32:
        """How much of a block of a level (h, w) it fills; per: px of the level to one long edge."""
        return shade_in(block, self.repair.area, per, span, self.blobs)


def units_of(
    repairs: Sequence[AnyRepair],
    per: float,
    span: Block,
    blobs: Blobs | None,
    there: Fetch | None = None,
) -> tuple[list[Unit], list[str]]:
    """The units of repairs that are on, in order, on a raster of so many px to one long edge, whose places lie in a span, and the id of the repair
    that each is of; there: what of the raster shows anything. What lies outside it does nothing. Raises DocumentError where a
    blob is missing."""
    units: list[Unit] = []
    of: list[str] = []
    for repair in repairs:
        if repair.on:
            with doing_of(repair.id):
                made = _units(repair, per, span, blobs, there)
                if isinstance(repair, WireRepair) and repair.revision > 1:
                    made += _knots(units, made, span)
            units += made
            of += [repair.id] * len(made)
    return units, of


class _Knot:
    """Where two wires cross: each was led across the other there, so both are filled from what lies around them."""

    def __init__(self, one: _Piece, other: _Piece, near: F64, span: Block) -> None:
        self.pieces = (one, other)
        self.identity = f"knot {one.identity} {other.identity}"
        room = max(wire.reach_of(p.width) for p in self.pieces) + KNOT
        low, high = np.floor(near.min(0) - room).astype(int), np.ceil(near.max(0) + room).astype(int)
        self.window = Block(
            max(int(low[1]), span.top),
            min(int(high[1]), span.bottom),
            max(int(low[0]), span.left),
            min(int(high[0]), span.right),
        )
        self.reads: Sequence[Block] = (widened(self.window, KNOT),)

    def make(self, read: Fetch) -> F32:
        wide = widened(self.window, KNOT)
        there = read(*wide)
        hole = np.zeros(there.shape[1:], bool)
        for p in self.pieces:
            lines = np.zeros(hole.shape, np.uint8)
            at = np.rint((p.path - [wide.left, wide.top]) * 16).astype(np.int32)
            across = 2 * round(wire.reach_of(p.width) + 1) + 1
            cv2.polylines(lines, [at], False, 1, across, cv2.LINE_8, 4)
            hole |= lines > 0
        inner = (slice(KNOT, -KNOT), slice(KNOT, -KNOT))
        kept = np.zeros_like(hole)
        kept[inner] = hole[inner]
        filled = cv2.exp(membrane(logarithm(there), hole)) - np.float32(FLOOR)
        return np.asarray(((filled - there) * kept)[:, KNOT:-KNOT, KNOT:-KNOT], np.float32)


def _knots(before: list[Unit], made: list[Unit], span: Block) -> list[_Knot]:
    """Where a wire that was just mended crosses those mended before it."""
    earlier, later = ([u for u in units if isinstance(u, _Piece) and u.led] for units in (before, made))
    out = []
    for one in earlier:
        for other in later:
            if not one.window.touches(other.window):
                continue
            a, b = one.path[one.first : one.last : 2], other.path[other.first : other.last : 2]
            apart = np.hypot(*(a[:, None, k] - b[None, :, k] for k in (0, 1)))
            near = a[apart.min(1) < wire.reach_of(one.width) + wire.reach_of(other.width) + KNOT]
            if len(near):
                knot = _Knot(one, other, near, span)
                if knot.window.bottom > knot.window.top and knot.window.right > knot.window.left:
                    out.append(knot)
    return out


def _units(
    repair: AnyRepair, per: float, span: Block, blobs: Blobs | None, there: Fetch | None
) -> list[Unit]:
    if isinstance(repair, SpecksRepair):
        spots: list[Unit] = [_Spot(s, repair.params.reach, per, span) for s in repair.spots if s.on]
        return [s for s in spots if s.window.bottom > s.window.top and s.window.right > s.window.left]
    if isinstance(repair, WireRepair):
        return _pieces(repair, per, span)
    window = bounds_of(repair.area, per, span)
    if window is None:
        return []
    if isinstance(repair, RegrowRepair):
        if blobs is None:
            raise DocumentError(f"what this scene keeps is not with it ({repair.map[:8]})")
        return [GrownUnit(repair, per, span, window, blobs, there)]
    tiles, room = _tiles(repair, per, span, window)
    if not tiles:
        return [_Paste(repair, per, span, window, blobs)]
    return [_Paste(repair, per, span, window, blobs, tile, room) for tile in tiles]


def _tiles(
    repair: HealRepair | CloneRepair, per: float, span: Block, window: Block
) -> tuple[tuple[Block, ...], int]:
    """The tiles of a block in which something of a long thin area lies, and the room that each needs around it; none where it
    is as well mended as one."""
    tall, wide = window.bottom - window.top, window.right - window.left
    if repair.area.mask is not None or tall * wide < SPARSE * (4 * TILE) ** 2:
        return (), 0
    return _cut(repair.area.model_dump_json(), per, span, window, repair.kind == "heal")


@lru_cache(maxsize=64)
def _cut(written: str, per: float, span: Block, window: Block, heals: bool) -> tuple[tuple[Block, ...], int]:
    """As `_tiles`, for an area as JSON."""
    area = Area.model_validate_json(written)
    strokes = [
        s.model_copy(update={"radius": s.radius + WIDER * CELL / per}) for s in area.strokes if not s.erase
    ]
    around = area.model_copy(update={"strokes": strokes})
    h, first, w = span.bottom // CELL + 1, span.left // CELL, span.right // CELL + 1
    cells = Block(0, h, first, w)
    held = (shade_in(cells, around, per / CELL, cells, None) > 0).astype(np.uint8)
    deep = max(float(cv2.distanceTransform(np.pad(held, 1), cv2.DIST_L2, 5).max()) - WIDER, 1.0) * CELL
    room = round(FELT * deep) if heals else 0
    step = TILE // CELL
    tiles = []
    for top in range(window.top // TILE * step, h, step):
        for left in range(max(window.left // TILE * step, first), w, step):
            rows, columns = np.nonzero(held[top : top + step, left - first : left - first + step])
            if not len(rows):
                continue
            tile = Block(
                max((top + int(rows.min())) * CELL, window.top), min((top + int(rows.max()) + 1) * CELL, window.bottom),
                max((left + int(columns.min())) * CELL, window.left),
                min((left + int(columns.max()) + 1) * CELL, window.right),
            )  # fmt: skip
            if tile.bottom > tile.top and tile.right > tile.left:
                tiles.append(tile)
    cost = sum((t.bottom - t.top + 2 * room) * (t.right - t.left + 2 * room) for t in tiles)
    whole = (window.bottom - window.top) * (window.right - window.left)
    return (tuple(tiles), room) if cost < SPARSE * whole else ((), 0)


def _pieces(repair: WireRepair, per: float, span: Block) -> list[Unit]:
    path = every_px(np.array(repair.path[: len(repair.path) // 2 * 2]).reshape(-1, 2) * per)
    width = repair.params.width * per
    out: list[Unit] = []
    for first in range(0, len(path), wire.PIECE):
        last = min(first + wire.PIECE, len(path))
        window = wire.window(path[max(first - 1, 0) : last + 1], width, span)
        if window is not None:
            out.append(_Piece(path, first, last, width, window, repair.revision > 1))
    return out
