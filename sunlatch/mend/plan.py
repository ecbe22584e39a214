"""Makes repairs of what was pointed at: finds what they need to know once, so that they say it from then on."""

import uuid
from collections.abc import Sequence
from functools import partial
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blobs import Blobs
from ..blocks import Block
from ..errors import MendError
from ..frame import Raster, per_of, span_of
from ..latch import Stroke
from ..ledger import Area, CloneRepair, HealRepair, RegrowRepair, Speck, SpecksRepair, Take, WireRepair
from ..moves.wire import WireParams
from ..parameters import held
from .area import moved, shade, shade_in
from .dust import Dust, find_specks
from .heal import compared, logarithm
from .patches import SourceMap, complete
from .search import find_take
from .trace import trace
from .wider import Wider, room_for

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
B2 = NDArray[np.bool_]
SPECK_REACH: Final = 1.75
"""How much farther than its radius a speck's soft edge reaches."""
WORK: Final = 420
"""Px across, at most, of a hole at the size at which it is regrown; finer px follow from that."""
CORNER: Final = 0.2
"""The share of a place that shows nothing from which on only that is filled."""
MENDED_SHARE: Final = 0.4
"""The share of a picture that may be mended at a time."""


def specks_of(raster: Raster, found: Sequence[Dust] | None = None) -> SpecksRepair:
    """A line of specks, found on the raster where none are named. Raises MendError where there are none."""
    dusts = find_specks(raster) if found is None else list(found)
    if not dusts:
        raise MendError("No specks were found; point at one that you see.")
    return SpecksRepair(
        id=str(uuid.uuid4()), spots=[spot_of(raster, d.x, d.y, d.radius * SPECK_REACH) for d in dusts]
    )


def spot_of(raster: Raster, x: float, y: float, radius: float) -> Speck:
    """A speck at (x, y), px of level 0, to be mended within a radius: with a place near by that is as calm as any and as
    light."""
    levels = sorted(raster.levels)
    level = next((k for k in levels if radius / 2**k <= 9), levels[-1])
    scale = raster.shape(level)[1] / raster.info.width
    r = max(radius * scale, 1.5)
    cx, cy = x * scale, y * scale
    room = int(np.ceil(5.5 * r)) + 2
    left, top = int(cx) - room, int(cy) - room
    light = logarithm(raster.fetch(level)(top, top + 2 * room + 1, left, left + 2 * room + 1)).mean(0)
    rows, columns = np.mgrid[: light.shape[0], : light.shape[1]]
    ring = np.hypot(columns + 0.5 + left - cx, rows + 0.5 + top - cy)
    around = light[(ring > r) & (ring < 2 * r)]
    own, spread = float(around.mean()), float(around.std())
    span = span_of(raster, level)
    best = (np.inf, 2.5 * r, 0.0)
    reach = max(int(np.ceil(r)), 2)
    for far in (2.4, 3.2, 4.2):
        for angle in np.linspace(0, 2 * np.pi, 12, endpoint=False):
            dx, dy = far * r * np.cos(angle), far * r * np.sin(angle)
            across, down = cx + dx, cy + dy
            if not (span.left + reach < across < span.right - reach and reach < down < span.bottom - reach):
                continue
            c, q = int(cx + dx - left), int(cy + dy - top)
            there = light[max(q - reach, 0) : q + reach + 1, max(c - reach, 0) : c + reach + 1]
            cost = (
                abs(float(there.std()) - spread)
                + max(float(there.std()) - spread, 0)
                + 0.3 * abs(float(there.mean()) - own)
            )
            cost += 0.002 * far
            if cost < best[0]:
                best = (cost, float(dx), float(dy))
    per = raster.info.long_edge
    return Speck(
        x=x / per, y=y / per, radius=radius / per, dx=best[1] / scale / per, dy=best[2] / scale / per
    )


def heal_of(raster: Raster, area: Area, blobs: Blobs | None = None, take: Take | None = None) -> HealRepair:
    """Heal of an area, its source found where none is named. Raises MendError."""
    return HealRepair(id=str(uuid.uuid4()), area=area, take=take or _take_of(raster, area, blobs, True))


def clone_of(raster: Raster, area: Area, blobs: Blobs | None = None, take: Take | None = None) -> CloneRepair:
    """Clone of an area, its source found where none is named. Raises MendError."""
    return CloneRepair(id=str(uuid.uuid4()), area=area, take=take or _take_of(raster, area, blobs, False))


def _take_of(raster: Raster, area: Area, blobs: Blobs | None, heals: bool) -> Take:
    per, (h, w) = per_of(raster), raster.shape(min(raster.levels))
    block, cover = shade(area, per, span_of(raster), blobs)
    if (cover > 0).sum() > MENDED_SHARE * h * w:
        raise MendError("This is most of the picture; take a smaller place.")
    dx, dy = find_take(raster, block, cover, heals)
    return Take(dx=dx / per, dy=dy / per)


def checked(raster: Raster, area: Area, take: Take, blobs: Blobs | None = None) -> None:
    """Raise MendError where light would be taken from outside the picture."""
    per, span = per_of(raster), span_of(raster)
    block, _ = shade(area, per, span, blobs)
    middle = ((block.left + block.right) / 2 + take.dx * per, (block.top + block.bottom) / 2 + take.dy * per)
    if not (span.left <= middle[0] <= span.right and 0 <= middle[1] <= span.bottom):
        raise MendError("This would be taken from outside the picture; bring its other end back.")


def serves(raster: Raster, area: Area, take: Take, blobs: Blobs | None = None) -> bool:
    """Whether an area can be mended from there: all of what is taken lies on the picture, and none of it in the area. Raises
    MendError where nothing of the area lies on the picture."""
    per, span = per_of(raster), span_of(raster)
    block, cover = shade(area, per, span, blobs)
    dx, dy = round(take.dx * per), round(take.dy * per)
    down = block.top + dy >= 0 and block.bottom + dy <= span.bottom
    if not (down and block.left + dx >= span.left and block.right + dx <= span.right):
        return False
    rows, columns = (n - abs(d) for n, d in zip(cover.shape, (dy, dx), strict=True))
    if rows <= 0 or columns <= 0:
        return True
    here, there = ((max(-s * dy, 0), max(-s * dx, 0)) for s in (1, -1))
    own, other = (cover[r : r + rows, c : c + columns] > 0 for r, c in (here, there))
    return not bool((own & other).any())


def circle(x: float, y: float, radius: float, soft: float = 0.3) -> Area:
    """A round place, in source coordinates."""
    return Area(strokes=[Stroke(points=[x, y, 1.0], radius=radius, soft=soft, flow=1.0)])


def wire_of(raster: Raster, clicks: F64) -> WireRepair:
    """A wire through clicks (n, 2: source coordinates), traced. Raises MendError."""
    per = per_of(raster)
    path, width = trace(raster, np.asarray(clicks, float) * per)
    every = max(1, round(per / 500))
    kept = np.concatenate([path[:-1:every], path[-1:]])[:1990] / per
    repair = WireRepair(id=str(uuid.uuid4()), path=[round(float(v), 7) for v in kept.ravel()])
    repair.params.width = held(WireParams, "width", width / per)
    return repair


def regrow_of(
    under: Raster,
    area: Area,
    blobs: Blobs,
    source: Area | None = None,
    seed: int = 0,
    far: bool = False,
    beyond: bool = False,
    spared: Area | None = None,
) -> RegrowRepair:
    """An area regrown: from a source area, where one is named, and not from a spared one; a seed for each proposal; far: from
    anywhere as gladly as from near by; beyond: where it reaches beyond the picture's edges that is meant too. Raises
    MendError."""
    per = per_of(under)
    raster = Wider(under, room_for(under, area) if beyond else 0)
    repair = partial(RegrowRepair, id=str(uuid.uuid4()), area=area, source=source, spared=spared, seed=seed)
    if raster.room:
        area = moved(area, raster.room / per)
        source, spared = (a and moved(a, raster.room / per) for a in (source, spared))
    block, _ = shade(area, per, raster.span(min(raster.levels)), blobs)
    across = max(block.bottom - block.top, block.right - block.left)
    levels = sorted(raster.levels)
    level = next((k for k in levels if across / 2 ** (k - levels[0]) <= WORK), levels[-1])
    per, (h, w), span = per_of(under, level), raster.shape(level), raster.span(level)
    block, cover = shade(area, per, span, blobs)
    if (cover > 0.02).sum() > MENDED_SHARE * h * w:
        raise MendError("This is most of the picture; outline what should go more closely.")
    room = max(round((1.6 if far else 0.9) * max(cover.shape)), 48)
    free_box = block if source is None else shade(source, per, span, blobs)[0]
    seen = Block(
        max(min(block.top - room, free_box.top), span.top),
        min(max(block.bottom + room, free_box.bottom), span.bottom),
        max(min(block.left - room, free_box.left), span.left),
        min(max(block.right + room, free_box.right), span.right),
    )  # fmt: skip
    hole = np.zeros((seen.bottom - seen.top, seen.right - seen.left), bool)
    hole[block.top - seen.top : block.bottom - seen.top, block.left - seen.left : block.right - seen.left] = (
        cover > 0.02
    )
    empty = raster.coverage(level)(*seen)[0] < 0.5
    if empty[hole].mean() > CORNER:  # it is the corner that is meant, not what ends there
        cover = (
            cover
            * empty[
                block.top - seen.top : block.bottom - seen.top,
                block.left - seen.left : block.right - seen.left,
            ]
        )
        hole &= empty
    hole |= empty  # what shows nothing resembles nothing
    free = _free(raster, level, seen, source, spared, per, span, blobs)
    picture = np.ascontiguousarray(compared(raster.fetch(level)(*seen)).transpose(1, 2, 0))
    # the picture's own edge is no edge of patches: beyond it, it is its mirror
    pad = 8
    picture = cv2.copyMakeBorder(picture, pad, pad, pad, pad, cv2.BORDER_REFLECT)
    hole, free = np.pad(hole, pad, mode="symmetric"), np.pad(free, pad)
    try:
        away, _ = complete(picture, hole, free, seed, 0.0 if far else 0.3)
    except ValueError as error:
        raise MendError(
            "There is nothing left to grow this from; let it take from more of the picture."
        ) from error
    own = away[pad + block.top - seen.top :, pad + block.left - seen.left :][
        : cover.shape[0], : cover.shape[1]
    ]
    # beyond the edges there is no light of its own: the map says nothing but where it was asked
    own = own * (cv2.dilate(np.asarray(cover > 0.02, np.uint8), np.ones((5, 5), np.uint8)) > 0)[..., None]
    room = raster.at(level)
    found = SourceMap(own.astype(np.int16), per, block.top - room, block.left - room)
    return repair(map=found.put(blobs))


def _free(
    raster: Wider,
    level: int,
    seen: Block,
    source: Area | None,
    spared: Area | None,
    per: float,
    span: Block,
    blobs: Blobs,
) -> B2:
    """Where light may be taken from (h, w)."""
    free = np.asarray(raster.coverage(level)(*seen)[0] > 0.5)
    if source is not None:
        free &= shade_in(seen, source, per, span, blobs) > 0.5
    if spared is not None:
        free &= shade_in(seen, spared, per, span, blobs) < 0.02
    return free
