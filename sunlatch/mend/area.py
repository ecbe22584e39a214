"""Areas over a raster: strokes, outlines and masks as how much of every px is meant."""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blobs import Blobs
from ..blocks import Block
from ..errors import DocumentError, MendError
from ..latch import laid
from ..ledger import Area, AreaMask
from ..lookup import looked_up

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
_ROOM: Final = 4
"""Px around a block in which an outline is drawn."""
_SUB: Final = 4
"""Bits of a px to which an outline is drawn."""


Part = tuple[Block, F32, bool]
"""Where something is laid, how much (h, w), and whether that is taken away."""


def shade(area: Area, per: float, span: Block, blobs: Blobs | None) -> tuple[Block, F32]:
    """How much of every px (h, w) an area covers, 0–1, and the block of a raster it lies in. per: px to one long edge; span:
    where places of the raster may lie. Raises MendError where nothing of it lies there."""
    parts = _parts(area, per, span, blobs)
    laid_on = [block for block, _, erase in parts if not erase]
    if not laid_on:
        raise MendError("This place lies outside the picture; nothing was mended.")
    around = Block(
        min(b.top for b in laid_on), max(b.bottom for b in laid_on),
        min(b.left for b in laid_on), max(b.right for b in laid_on),
    )  # fmt: skip
    return around, _together(parts, around)


def shade_in(window: Block, area: Area, per: float, span: Block, blobs: Blobs | None) -> F32:
    """How much of every px of a window (h, w) an area covers: nothing where none of it lies there, or outside the picture;
    the rest as `shade`."""
    seen = Block(
        max(window.top, span.top),
        min(window.bottom, span.bottom),
        max(window.left, span.left),
        min(window.right, span.right),
    )
    if seen.bottom <= seen.top or seen.right <= seen.left:
        return _together([], window)
    return _together(_parts(area, per, seen, blobs), window)


def _parts(area: Area, per: float, window: Block, blobs: Blobs | None) -> list[Part]:
    """What of an area lies in a window, in the order in which it is laid."""
    origin = np.array([window.left, window.top])
    size = (window.bottom - window.top, window.right - window.left)
    drawn: list[tuple[Block, F32, bool]] = []
    for stroke in area.strokes:
        points = np.array(stroke.points[: len(stroke.points) // 3 * 3]).reshape(-1, 3)
        path = np.ascontiguousarray(points * [per, per, 1] - [*origin, 0], np.float32)
        found = laid(path, stroke.radius * per, stroke.soft, size)
        if found is not None:
            cover, left, top = found
            block = Block(top, top + cover.shape[0], left, left + cover.shape[1])
            drawn.append((block, cover * np.float32(stroke.flow), stroke.erase))
    if len(area.outline) >= 6:
        points = np.array(area.outline[: len(area.outline) // 2 * 2]).reshape(-1, 2) * per - origin
        outlined = _outlined(points, size)
        if outlined is not None:
            drawn.append((*outlined, False))
    if area.mask is not None:
        masked = _masked(area.mask, per, origin, size, blobs)
        if masked is not None:
            drawn.append((*masked, False))
    dy, dx = window.top, window.left
    return [
        (Block(b.top + dy, b.bottom + dy, b.left + dx, b.right + dx), cover, erase)
        for b, cover, erase in drawn
    ]


def _together(parts: list[Part], around: Block) -> F32:
    """Parts as they lie on one another, over a block (h, w)."""
    out = np.zeros((around.bottom - around.top, around.right - around.left), np.float32)
    for block, cover, erase in parts:
        rows = slice(max(block.top, around.top), min(block.bottom, around.bottom))
        columns = slice(max(block.left, around.left), min(block.right, around.right))
        if rows.stop <= rows.start or columns.stop <= columns.start:
            continue
        part = cover[
            rows.start - block.top : rows.stop - block.top,
            columns.start - block.left : columns.stop - block.left,
        ]
        here = out[
            rows.start - around.top : rows.stop - around.top,
            columns.start - around.left : columns.stop - around.left,
        ]
        here[:] = here * (1 - part) if erase else np.maximum(here, part)
    return out


def _inside(low: F64, high: F64, span: Block) -> Block | None:
    top, left = max(int(np.floor(low[1])), span.top), max(int(np.floor(low[0])), span.left)
    bottom, right = min(int(np.ceil(high[1])), span.bottom), min(int(np.ceil(high[0])), span.right)
    return Block(top, bottom, left, right) if bottom > top and right > left else None


def _outlined(points: F64, shape: tuple[int, int]) -> tuple[Block, F32] | None:
    block = _inside(points.min(0) - 2, points.max(0) + 2, Block(0, shape[0], 0, shape[1]))
    if block is None:
        return None
    # wider all around: what lies beside the block softens its edge, too
    grey = np.zeros((block.bottom - block.top + 2 * _ROOM, block.right - block.left + 2 * _ROOM), np.uint8)
    at = np.rint((points - 0.5 + _ROOM - [block.left, block.top]) * 2**_SUB).astype(np.int32)
    cv2.fillPoly(grey, [at], 255, cv2.LINE_AA, _SUB)
    inner = slice(_ROOM, -_ROOM)
    return block, cv2.blur(grey, (3, 3))[inner, inner].astype(np.float32) / 255


def _masked(
    area: AreaMask, per: float, origin: NDArray[np.int64], shape: tuple[int, int], blobs: Blobs | None
) -> tuple[Block, F32] | None:
    if blobs is None:
        raise DocumentError(f"what this scene keeps is not with it ({area.mask[:8]})")
    grey = cv2.imdecode(np.frombuffer(blobs.get(area.mask), np.uint8), cv2.IMREAD_GRAYSCALE)
    if grey is None:
        raise DocumentError(f"a part of the scene is damaged ({area.mask[:8]})")
    x0, y0, x1, y1 = (v * per - origin[n % 2] for n, v in enumerate(area.box))
    block = _inside(np.array([x0, y0]), np.array([x1, y1]), Block(0, shape[0], 0, shape[1]))
    if block is None or x1 - x0 < 1e-6 or y1 - y0 < 1e-6:
        return None
    sx, sy = grey.shape[1] / (x1 - x0), grey.shape[0] / (y1 - y0)
    across = (np.arange(block.left, block.right) + 0.5 - x0) * sx - 0.5
    down = (np.arange(block.top, block.bottom) + 0.5 - y0) * sy - 0.5
    at_x, at_y = np.meshgrid(across.astype(np.float32), down.astype(np.float32))
    out = looked_up(grey, at_x, at_y, border=cv2.BORDER_CONSTANT)
    return block, np.asarray(out, np.float32) / np.float32(255)


def put_mask(mask: F32, box: tuple[float, float, float, float], blobs: Blobs) -> AreaMask:
    """Keep a mask (h, w) in 0–1 of a box in source coordinates among a scene's blobs. Raises DocumentError."""
    grey = np.rint(np.clip(mask, 0, 1) * 255).astype(np.uint8)
    data = cv2.imencode(".png", grey, [cv2.IMWRITE_PNG_COMPRESSION, 6])[1].tobytes()
    return AreaMask(mask=blobs.put(data), box=list(box))


def moved(area: Area, by: float) -> Area:
    """The same, so far to the right and down, in long edges."""

    def along(flat: list[float], step: int) -> list[float]:
        return [v + by if n % step < 2 else v for n, v in enumerate(flat)]

    mask = area.mask and area.mask.model_copy(update={"box": [v + by for v in area.mask.box]})
    strokes = [s.model_copy(update={"points": along(s.points, 3)}) for s in area.strokes]
    return area.model_copy(update={"strokes": strokes, "outline": along(area.outline, 2), "mask": mask})


def reach_of(area: Area, per: float) -> tuple[F64, F64]:
    """The left top and the right lower corner (x, y) px of what an area lies in, and not much more, on a raster or beyond it;
    infinite where it is empty."""
    low, high = np.full(2, np.inf), np.full(2, -np.inf)
    for stroke in area.strokes:
        if not stroke.erase:
            at = np.array(stroke.points[: len(stroke.points) // 3 * 3]).reshape(-1, 3)[:, :2] * per
            reach = stroke.radius * per + 4
            low, high = np.minimum(low, at.min(0) - reach), np.maximum(high, at.max(0) + reach)
    if len(area.outline) >= 6:
        at = np.array(area.outline[: len(area.outline) // 2 * 2]).reshape(-1, 2) * per
        low, high = np.minimum(low, at.min(0) - 3), np.maximum(high, at.max(0) + 3)
    if area.mask is not None:
        box = np.array(area.mask.box) * per
        low, high = np.minimum(low, box[:2] - 1), np.maximum(high, box[2:] + 1)
    return low, high


def bounds_of(area: Area, per: float, span: Block) -> Block | None:
    """The block of a raster an area lies in, and not much more; None where it lies outside its span."""
    low, high = reach_of(area, per)
    return _inside(low, high, span) if np.isfinite(low).all() else None
