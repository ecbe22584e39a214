"""Strokes laid on the frame with a brush: by Hand, and to tell a finder what it is to keep."""

import math

import numpy as np
from numpy.typing import NDArray

from ..compiled import inlined, kernel, part
from ..running.patience import go_on
from .base import F32, F64, Region, Sight
from .stroke import Stroke

B2 = NDArray[np.bool_]
WHOLE: Region = (0.0, 0.0, 1.0, 1.0)


BLOCK, TILE, SPOT = 512, 64, 16
"""Px on a side within which the segments of a stroke that can matter are chosen, ever more closely."""
_ZERO, _ONE, _TWO, _THREE, _HALF = (np.float32(v) for v in (0, 1, 2, 3, 0.5))


@inlined
def _depth(reach, soft, away):  # type: ignore[no-untyped-def]
    """How much a brush covers so far from its middle, 0–1, before it is smoothed. Never harder than a px."""
    return min(max(_ZERO, (reach + _HALF * (_ONE - soft) - away) / max(_ONE, reach * soft)), _ONE)


@inlined
def _nearest(path, n, x, y):  # type: ignore[no-untyped-def]
    """How far (x, y) is from segment n of a path, and how far along that the nearest place is, 0–1."""
    last = min(n + 1, path.shape[0] - 1)
    ax, ay = path[n, 0], path[n, 1]
    dx, dy = path[last, 0] - ax, path[last, 1] - ay
    length2 = dx * dx + dy * dy
    t = min(max(_ZERO, ((x - ax) * dx + (y - ay) * dy) / length2), _ONE) if length2 > _ZERO else _ZERO
    ex, ey = x - ax - t * dx, y - ay - t * dy
    return np.sqrt(ex * ex + ey * ey), t


@part
def _that_matter(path, some, count, radius, soft, x, y, half, chosen):  # type: ignore[no-untyped-def]
    """Of the first `count` segments named in `some`, those that can decide a px of the square of half a side `half`
    around (x, y): `chosen`. Returns how many; −1 where the square lies wholly under the brush."""
    wide, least = half * np.float32(1.4143), _ZERO
    for k in range(count):
        n = some[k]
        away, _ = _nearest(path, n, x, y)
        thin = min(path[n, 2], path[min(n + 1, path.shape[0] - 1), 2])
        least = max(least, _depth(max(np.float32(0.35), radius * thin), soft, away + wide))
    if least >= _ONE:
        return -1
    kept = 0
    for k in range(count):
        n = some[k]
        away, _ = _nearest(path, n, x, y)
        thick = max(path[n, 2], path[min(n + 1, path.shape[0] - 1), 2])
        most = _depth(max(np.float32(0.35), radius * thick), soft, away - wide)
        if most > _ZERO and most >= least:
            chosen[kept] = n
            kept += 1
    return kept


@part
def _lay(path, some, count, radius, soft, left, top, out):  # type: ignore[no-untyped-def]
    """A square of the window at (left, top), px by px, by the segments that matter there."""
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            x, y = np.float32(c + left) + _HALF, np.float32(r + top) + _HALF
            best = _ZERO
            for k in range(count):
                n = some[k]
                away, t = _nearest(path, n, x, y)
                ap, bp = path[n, 2], path[min(n + 1, path.shape[0] - 1), 2]
                best = max(best, _depth(max(np.float32(0.35), radius * (ap + (bp - ap) * t)), soft, away))
            out[r, c] = best * best * (_THREE - _TWO * best)


@part
def _filled(path, some, count, radius, soft, left, top, side, out, chosen):  # type: ignore[no-untyped-def]
    """A square of a window at (left, top), `out`, filled where one answer does for all of it (returns 0), or which
    segments matter there: so many, `chosen`."""
    half = np.float32(side / 2)
    many = _that_matter(
        path, some, count, radius, soft, np.float32(left) + half, np.float32(top) + half, half, chosen
    )
    if many <= 0:
        out[:] = _ONE if many < 0 else _ZERO
    return max(many, 0)


@kernel("void(float32[:, ::1], float32[:, ::1], float32, float32, int64, int64)")
def _cover(path, out, radius, soft, left, top):  # type: ignore[no-untyped-def]
    """How much of a stroke covers each px of a window at (left, top): path (n, 3) of x, y px and pressure. What a
    square is covered by is asked before its px are, so that a long stroke costs what it touches."""
    every = np.arange(max(path.shape[0] - 1, 1))
    one, two, three = np.empty_like(every), np.empty_like(every), np.empty_like(every)
    for r in range(0, out.shape[0], BLOCK):
        for c in range(0, out.shape[1], BLOCK):
            block = out[r : r + BLOCK, c : c + BLOCK]
            x, y = left + c, top + r
            some = _filled(path, every, every.size, radius, soft, x, y, BLOCK, block, one)
            if some == 0:
                continue
            for r1 in range(0, block.shape[0], TILE):
                for c1 in range(0, block.shape[1], TILE):
                    tile = block[r1 : r1 + TILE, c1 : c1 + TILE]
                    x, y = left + c + c1, top + r + r1
                    few = _filled(path, one, some, radius, soft, x, y, TILE, tile, two)
                    if few == 0:
                        continue
                    for r2 in range(0, tile.shape[0], SPOT):
                        for c2 in range(0, tile.shape[1], SPOT):
                            spot = tile[r2 : r2 + SPOT, c2 : c2 + SPOT]
                            x, y = left + c + c1 + c2, top + r + r1 + r2
                            last = _filled(path, two, few, radius, soft, x, y, SPOT, spot, three)
                            if last:
                                _lay(path, three, last, radius, soft, x, y, spot)


def _spread(sight: Sight, region: Region, shape: tuple[int, int]) -> F64:
    """Px of a raster (h, w) of a region to one long edge, across and down."""
    extent = np.array([region[2] - region[0], region[3] - region[1]]) * sight.aspect
    return np.array([shape[1], shape[0]]) / extent


def path_of(stroke: Stroke, sight: Sight, shape: tuple[int, int], region: Region = WHOLE) -> F32:
    """Where a stroke runs over a raster (h, w) of a region of the upright frame: (n, 3) of x, y in px and
    pressure."""
    points = np.array(stroke.points[: len(stroke.points) // 3 * 3]).reshape(-1, 3)
    corner = np.array([region[0], region[1]]) * sight.aspect
    at = (sight.to_frame(points[:, :2]) - corner) * _spread(sight, region, shape)
    return np.column_stack([at, points[:, 2]]).astype(np.float32)


def covered(
    stroke: Stroke, sight: Sight, shape: tuple[int, int], region: Region = WHOLE
) -> tuple[F32, int, int] | None:
    """How much of a raster (h, w) of a region a stroke covers, and that window's left and top; None where it
    touches nothing of it."""
    path, spread = path_of(stroke, sight, shape, region), _spread(sight, region, shape)
    radius = stroke.radius * float(spread.max())
    if not sight.wraps:
        return laid(path, radius, stroke.soft, shape)
    once = spread[0] * sight.aspect[0]
    low, high = float(path[:, 0].min()) - radius, float(path[:, 0].max()) + radius
    turns = range(math.ceil((low - shape[1]) / once), math.floor(high / once) + 1)
    shown = [laid(path - np.array([n * once, 0, 0], np.float32), radius, stroke.soft, shape) for n in turns]
    return _together([one for one in shown if one is not None])


def _together(parts: list[tuple[F32, int, int]]) -> tuple[F32, int, int] | None:
    """What windows at (left, top) are covered by, as one: a stroke that crosses itself counts once."""
    if len(parts) < 2:
        return parts[0] if parts else None
    left, top = min(p[1] for p in parts), min(p[2] for p in parts)
    right = max(x + cover.shape[1] for cover, x, _ in parts)
    bottom = max(y + cover.shape[0] for cover, _, y in parts)
    out = np.zeros((bottom - top, right - left), np.float32)
    for cover, x, y in parts:
        here = out[y - top : y - top + cover.shape[0], x - left : x - left + cover.shape[1]]
        np.maximum(here, cover, out=here)
    return out, left, top


def laid(path: F32, radius: float, soft: float, shape: tuple[int, int]) -> tuple[F32, int, int] | None:
    """How much of a raster (h, w) a stroke along a path (n, 3: x, y px and pressure) covers, and that window's left and
    top; None where it touches nothing of it. radius: px."""
    go_on()
    low = np.floor(path[:, :2].min(0) - radius - 2).astype(int)
    high = np.ceil(path[:, :2].max(0) + radius + 3).astype(int)
    left, top = max(int(low[0]), 0), max(int(low[1]), 0)
    right, bottom = min(int(high[0]), shape[1]), min(int(high[1]), shape[0])
    if right <= left or bottom <= top:
        return None
    cover = np.zeros((bottom - top, right - left), np.float32)
    _cover(np.ascontiguousarray(path), cover, np.float32(radius), np.float32(soft), left, top)
    return cover, left, top


def marked(
    strokes: list[Stroke], sight: Sight, shape: tuple[int, int], region: Region = WHOLE
) -> tuple[B2, B2]:
    """What strokes say belongs to a thing and what does not, over a raster (h, w) of a region; the last one
    counts."""
    belongs, not_ = np.zeros(shape, bool), np.zeros(shape, bool)
    for stroke in strokes:
        laid = covered(stroke, sight, shape, region)
        if laid is None:
            continue
        cover, left, top = laid
        window = (slice(top, top + cover.shape[0]), slice(left, left + cover.shape[1]))
        sure = cover > 0.5
        belongs[window] = (belongs[window] | sure) if not stroke.erase else (belongs[window] & ~sure)
        not_[window] = (not_[window] & ~sure) if not stroke.erase else (not_[window] | sure)
    return belongs, not_
