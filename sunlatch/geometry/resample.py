"""Separable resampling of a picture at any position and scale: area downwards, cubic upwards."""

import math
from concurrent.futures import Executor

import numpy as np
from numpy.typing import NDArray

from ..blocks import Fetch
from ..compiled import kernel
from ..patience import go_on

F32 = NDArray[np.float32]
I32 = NDArray[np.int32]


def taps(start: float, step: float, count: int, limit: int) -> tuple[I32, F32]:
    """First index and weights (count, n) that sample a row of `limit` px from `start`, `step` px
    apart, in continuous px (pixel i covers i to i + 1). Ends are repeated."""
    centres = start + (np.arange(count) + 0.5) * step
    if step > 1 + 1e-9:
        low, high = centres - step / 2, centres + step / 2
        n = math.ceil(step) + 1
        first = np.floor(low + 1e-9).astype(np.int64)
        i = first[:, None] + np.arange(n)
        weights = np.clip(np.minimum(i + 1, high[:, None]) - np.maximum(i, low[:, None]), 0, 1)
    elif abs(step - 1) < 1e-9 and np.allclose(centres - 0.5, np.rint(centres - 0.5), atol=1e-6):
        i = np.rint(centres - 0.5).astype(np.int64)[:, None]
        weights = np.ones((count, 1))
    else:  # Catmull-Rom (Keys 1981, a = -1/2)
        i = np.floor(centres - 0.5).astype(np.int64)[:, None] - 1 + np.arange(4)
        d = np.abs(centres[:, None] - 0.5 - i)
        near = 1.5 * d**3 - 2.5 * d**2 + 1
        far = -0.5 * d**3 + 2.5 * d**2 - 4 * d + 2
        weights = np.where(d < 1, near, np.where(d < 2, far, 0))
    weights = weights / weights.sum(1, keepdims=True)
    return np.clip(i, 0, limit - 1).astype(np.int32), np.ascontiguousarray(weights, np.float32)


@kernel(
    "void(float32[:, :, ::1], int32[:, ::1], float32[:, ::1], int32[:, ::1], float32[:, ::1],"
    " int64, int64, float32[:, :, ::1])"
)
def _rows(source, xi, xw, yi, yw, first, last, out):  # type: ignore[no-untyped-def]
    """Output rows first..last of (3, oh, ow) from source planes (3, h, w)."""
    w = source.shape[2]
    ow, nx, ny = xi.shape[0], xi.shape[1], yi.shape[1]
    line = np.empty(w, np.float32)
    for r in range(first, last):
        for k in range(3):
            for x in range(w):
                line[x] = np.float32(0)
            for j in range(ny):
                weight = yw[r, j]
                if weight != np.float32(0):
                    row = source[k, yi[r, j]]
                    for x in range(w):
                        line[x] += weight * row[x]
            if nx == 1:
                for c in range(ow):
                    out[k, r, c] = line[np.uint32(xi[c, 0])]
            else:
                for c in range(ow):
                    total = np.float32(0)
                    for j in range(nx):
                        total += xw[c, j] * line[np.uint32(xi[c, j])]
                    out[k, r, c] = total


def resample(
    fetch: Fetch,
    source_size: tuple[int, int],
    rectangle: tuple[float, float, float, float],
    size: tuple[int, int],
    pool: Executor | None = None,
) -> F32:
    """Planes (3, height, width) float32 of `rectangle` (x0, y0, x1, y1 in px) of a raster of
    `source_size` (width, height).

    Only the rows and columns needed are read.
    """
    x0, y0, x1, y1 = rectangle
    width, height = size
    xi, xw = taps(x0, (x1 - x0) / width, width, source_size[0])
    yi, yw = taps(y0, (y1 - y0) / height, height, source_size[1])
    left, right = int(xi.min()), int(xi.max()) + 1
    xi = xi - np.int32(left)
    out = np.empty((3, height, width), np.float32)
    step = max(8, min(128, int(100 * height / max(y1 - y0, 1))))

    def band(r: int) -> None:
        go_on()
        last = min(r + step, height)
        low, high = int(yi[r:last].min()), int(yi[r:last].max()) + 1
        rows = fetch(low, high, left, right)
        _rows(rows, xi, xw, np.ascontiguousarray(yi - np.int32(low)), yw, r, last, out)

    if pool is None:
        for r in range(0, height, step):
            band(r)
    else:
        list(pool.map(band, range(0, height, step)))
    return out
