"""Finds where a place is best mended from: what lies around it there must look like what lies around it here, and what comes
of it must be found around it, too."""

from typing import Final, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blocks import Block
from ..errors import MendError
from ..frame import Raster, span_of
from ..running.patience import go_on
from .fitting import least_foreign
from .heal import logarithm

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
SEARCH_PX: Final = 48
"""Px across, at most, of a place at the size at which it is looked for."""
FAR: Final = 5.0
"""How many times its own size away a place is looked for."""
LARGE: Final = 600
"""Px across of the largest place that is compared px by px to come to rest."""
TRIED: Final = 10
"""How many of the likeliest places are tried, small."""


def _features(planes: F32, size: float) -> F32:
    """What is compared (h, w, 4): detail, light, and two ratios of colours, in natural logarithms."""
    red, green, blue = logarithm(planes)
    light = 0.3 * red + 0.5 * green + 0.2 * blue
    detail = light - cv2.GaussianBlur(light, (0, 0), max(size / 5, 1.0))
    return np.dstack([detail, 0.4 * light, 0.6 * (red - green), 0.6 * (blue - green)]).astype(np.float32)


def _at_level(block: Block, down: int, room: int, span: Block) -> Block:
    """A block of a finer level on one `down` levels coarser, with room around, inside the picture."""
    k = 1 << down
    return Block(
        max(block.top // k - room, span.top), min(-(-block.bottom // k) + room, span.bottom),
        max(block.left // k - room, span.left), min(-(-block.right // k) + room, span.right),
    )  # fmt: skip


def _smaller(cover: F32, block: Block, down: int, at: Block) -> NDArray[np.bool_]:
    """What of a block `at` of a coarser level a cover of a finer one touches (h, w)."""
    k = 1 << down
    out = np.zeros((at.bottom - at.top, at.right - at.left), bool)
    rows, columns = np.nonzero(cover > 0)
    r, c = (rows + block.top) // k - at.top, (columns + block.left) // k - at.left
    fits = (r >= 0) & (r < out.shape[0]) & (c >= 0) & (c < out.shape[1])
    out[r[fits], c[fits]] = True
    return out


class _Likely(NamedTuple):
    """How unlikely places are: cost (h, w), and how many px its rows and columns lie away; and what it was found by: the place
    itself with room around, what of that goes (h, w), and what around it tells (h, w)."""

    cost: F32
    ys: NDArray[np.int64]
    xs: NDArray[np.int64]
    own: Block
    hole: B2
    around: B2

    def best(self) -> tuple[int, int]:
        """dx, dy px of the likeliest."""
        r, c = np.unravel_index(int(np.argmin(self.cost)), self.cost.shape)
        return int(self.xs[c]), int(self.ys[r])

    def some(self, count: int, apart: int) -> list[tuple[int, int, float]]:
        """dx, dy px and cost of so many of the likeliest that lie so many px apart."""
        left = self.cost.copy()
        out: list[tuple[int, int, float]] = []
        while len(out) < count:
            r, c = np.unravel_index(int(np.argmin(left)), left.shape)
            if not np.isfinite(left[r, c]):
                break
            out.append((int(self.xs[c]), int(self.ys[r]), float(left[r, c])))
            left[max(r - apart, 0) : r + apart + 1, max(c - apart, 0) : c + apart + 1] = np.inf
        return out


def find_take(raster: Raster, block: Block, cover: F32, heals: bool) -> tuple[int, int]:
    """How far from a block of the raster's finest level (h, w: how much of it is meant) light is best taken from: dx, dy px of
    that level. heals: it is led to the light around; else it stays as it is. Raises MendError where nothing is left to take
    from."""
    base = min(raster.levels)
    across = max(block.bottom - block.top, block.right - block.left)
    down = 0
    while across >> down > SEARCH_PX and base + down < max(raster.levels):
        down += 1
    likely = _likely(raster, base + down, block, cover, down, None)
    if likely is None:
        raise MendError("There is nothing left around this place to mend it from; take a smaller one.")
    places = likely.some(TRIED, max((across >> down) // 4, 3))
    dx, dy = least_foreign(raster.fetch(base + down), likely.own, likely.hole, likely.around, places, heals)
    for step in range(down - 1, -1, -1):
        go_on()
        if across >> step > LARGE:
            return dx << step + 1, dy << step + 1
        dx, dy = 2 * dx, 2 * dy
        nearer = _likely(raster, base + step, block, cover, step, (dx, dy))
        if nearer is not None:
            dx, dy = nearer.best()
    return dx, dy


def _likely(
    raster: Raster, level: int, block: Block, cover: F32, down: int, near: tuple[int, int] | None
) -> _Likely | None:
    """Places all around, or near one; None where there is none."""
    span, read = span_of(raster, level), raster.fetch(level)
    size = max(block.bottom - block.top, block.right - block.left) / (1 << down)
    ring = max(4, min(round(size / 4), 24))
    own = _at_level(block, down, ring + 1, span)
    hole = _smaller(cover, block, down, own)
    round_ = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * ring + 1, 2 * ring + 1))
    around = (cv2.dilate(hole.astype(np.uint8), round_) > 0) & ~hole
    there = raster.coverage(level)
    if there is not None:
        around &= there(*own)[0] > 0.5
    if near is None:
        reach = max(round(FAR * size), 40)
        field = _at_level(block, down, reach + ring, span)
    else:
        step = 3
        field = Block(
            max(own.top + near[1] - step, span.top), min(own.bottom + near[1] + step, span.bottom),
            max(own.left + near[0] - step, span.left), min(own.right + near[0] + step, span.right),
        )  # fmt: skip
    h, w = hole.shape
    if field.bottom - field.top < h or field.right - field.left < w:
        return None
    features = _features(read(*field), size)
    template = _features(read(*own), size)
    mask = np.repeat(around.astype(np.float32)[..., None], 4, axis=2)
    cost = cv2.matchTemplate(features, template, cv2.TM_SQDIFF, mask=mask) / max(int(around.sum()), 1)
    cost = np.maximum(cost, 0)
    inner = hole.astype(np.float32)
    many = max(float(inner.sum()), 1.0)
    # what the ring cannot tell: something stands in the middle of it, or it is another light altogether
    energy = np.ascontiguousarray(features[..., 0] ** 2)
    stirred = cv2.matchTemplate(energy, inner, cv2.TM_CCORR) / many
    calm = float((template[..., 0] ** 2)[around].mean()) if around.any() else 0.0
    cost += np.maximum(stirred - 1.3 * calm, 0)
    light = cv2.matchTemplate(np.ascontiguousarray(features[..., 1]), inner, cv2.TM_CCORR) / many
    here = float(template[..., 1][around].mean()) if around.any() else 0.0
    cost += 0.5 * (light - here) ** 2
    ys = np.arange(cost.shape[0]) + field.top - own.top
    xs = np.arange(cost.shape[1]) + field.left - own.left
    if near is None:
        cost = (cost + 1e-5) * (1 + 0.15 * np.hypot(ys[:, None], xs) / max(size, 8.0))
    cost[_taken_away(raster, level, block, cover, down, field, inner)] = np.inf
    return _Likely(cost, ys, xs, own, hole, around) if np.isfinite(cost).any() else None


def _taken_away(
    raster: Raster, level: int, block: Block, cover: F32, down: int, field: Block, inner: F32
) -> NDArray[np.bool_]:
    """Where a place would be mended from itself, or from where there is nothing."""
    not_ = _smaller(cover, block, down, field).astype(np.float32)
    there = raster.coverage(level)
    if there is not None:
        not_ = np.maximum(not_, 1 - np.asarray(there(*field)[0] > 0.5, np.float32))
    return np.asarray(cv2.matchTemplate(not_, inner, cv2.TM_CCORR) > 0.5)
