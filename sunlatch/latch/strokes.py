"""Strokes laid on the frame with a brush: by Hand, and to tell a finder what it is to keep."""

from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from ..compiled import kernel
from .base import F32, F64, Look, Region

B2 = NDArray[np.bool_]
WHOLE: Region = (0.0, 0.0, 1.0, 1.0)


class Stroke(BaseModel):
    """points: x, y and pressure (0–1) in turn; x, y in source coordinates. radius: of the brush at full
    pressure, in long edges. soft: the share of the radius over which it ends. flow: how much it lays down."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    points: list[float] = Field(min_length=3, max_length=9000)
    radius: float = Field(gt=0, le=1)
    soft: float = Field(ge=0, le=1)
    flow: float = Field(gt=0, le=1)
    erase: bool = False
    seek: bool = False

    @cached_property
    def said(self) -> bytes:
        """What it says, to be known by."""
        return self.model_dump_json().encode()


@kernel("void(float32[:, ::1], float32[:, ::1], float32, float32, int64, int64)")
def _cover(path, out, radius, soft, left, top):  # type: ignore[no-untyped-def]
    """How much of a stroke covers each px of a window at (left, top): path (n, 3) of x, y px and pressure."""
    zero, one, two, three = np.float32(0), np.float32(1), np.float32(2), np.float32(3)
    for n in range(max(path.shape[0] - 1, 1)):
        ax, ay, ap = path[n]
        bx, by, bp = path[min(n + 1, path.shape[0] - 1)]
        wide = radius * max(ap, bp) + one
        x0, x1 = int(min(ax, bx) - wide) - left, int(max(ax, bx) + wide) + 2 - left
        y0, y1 = int(min(ay, by) - wide) - top, int(max(ay, by) + wide) + 2 - top
        dx, dy = bx - ax, by - ay
        length2 = dx * dx + dy * dy
        for r in range(max(y0, 0), min(y1, out.shape[0])):
            for c in range(max(x0, 0), min(x1, out.shape[1])):
                px, py = (
                    np.float32(c + left) + np.float32(0.5) - ax,
                    np.float32(r + top) + np.float32(0.5) - ay,
                )
                t = min(max(zero, (px * dx + py * dy) / length2), one) if length2 > zero else zero
                ex, ey = px - t * dx, py - t * dy
                reach = max(radius * (ap + (bp - ap) * t), np.float32(0.35))
                edge = max(reach * soft, one)  # never harder than a px
                k = min(
                    max((reach + np.float32(0.5) * (one - soft) - np.sqrt(ex * ex + ey * ey)) / edge, zero),
                    one,
                )
                out[r, c] = max(out[r, c], k * k * (three - two * k))


def _spread(look: Look, region: Region, shape: tuple[int, int]) -> F64:
    """Px of a raster (h, w) of a region to one long edge, across and down."""
    extent = np.array([region[2] - region[0], region[3] - region[1]]) * look.aspect
    return np.array([shape[1], shape[0]]) / extent


def path_of(stroke: Stroke, look: Look, shape: tuple[int, int], region: Region = WHOLE) -> F32:
    """Where a stroke runs over a raster (h, w) of a region of the upright frame: (n, 3) of x, y in px and
    pressure."""
    points = np.array(stroke.points[: len(stroke.points) // 3 * 3]).reshape(-1, 3)
    corner = np.array([region[0], region[1]]) * look.aspect
    at = (look.to_frame(points[:, :2]) - corner) * _spread(look, region, shape)
    return np.column_stack([at, points[:, 2]]).astype(np.float32)


def covered(
    stroke: Stroke, look: Look, shape: tuple[int, int], region: Region = WHOLE
) -> tuple[F32, int, int] | None:
    """How much of a raster (h, w) of a region a stroke covers, and that window's left and top; None where it
    touches nothing of it."""
    path = path_of(stroke, look, shape, region)
    radius = stroke.radius * float(_spread(look, region, shape).max())
    low = np.floor(path[:, :2].min(0) - radius - 2).astype(int)
    high = np.ceil(path[:, :2].max(0) + radius + 3).astype(int)
    left, top = max(int(low[0]), 0), max(int(low[1]), 0)
    right, bottom = min(int(high[0]), shape[1]), min(int(high[1]), shape[0])
    if right <= left or bottom <= top:
        return None
    cover = np.zeros((bottom - top, right - left), np.float32)
    _cover(np.ascontiguousarray(path), cover, np.float32(radius), np.float32(stroke.soft), left, top)
    return cover, left, top


def marked(
    strokes: list[Stroke], look: Look, shape: tuple[int, int], region: Region = WHOLE
) -> tuple[B2, B2]:
    """What strokes say belongs to a thing and what does not, over a raster (h, w) of a region; the last one
    counts."""
    belongs, not_ = np.zeros(shape, bool), np.zeros(shape, bool)
    for stroke in strokes:
        laid = covered(stroke, look, shape, region)
        if laid is None:
            continue
        cover, left, top = laid
        window = (slice(top, top + cover.shape[0]), slice(left, left + cover.shape[1]))
        sure = cover > 0.5
        belongs[window] = (belongs[window] | sure) if not stroke.erase else (belongs[window] & ~sure)
        not_[window] = (not_[window] & ~sure) if not stroke.erase else (not_[window] | sure)
    return belongs, not_
