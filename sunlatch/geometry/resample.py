"""Resampling where rows stay rows and columns stay columns: px as they are, or drawn together."""

from concurrent.futures import Executor

import numpy as np
from numpy.typing import NDArray

from ..blocks import Fetch
from ..compiled import kernel
from ..running.patience import go_on
from .filters import SHARP, taps, whole_px

F32 = NDArray[np.float32]
I32 = NDArray[np.int32]


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


def separable(rectangle: tuple[float, float, float, float], size: tuple[int, int]) -> bool:
    """Whether `resample` may draw a rectangle (x0, y0, x1, y1 in px) at a size: px as they are, or drawn together. What is
    between, or enlarged, is warp's."""
    x0, y0, x1, y1 = rectangle
    steps = ((x0, (x1 - x0) / size[0]), (y0, (y1 - y0) / size[1]))
    return all(step > SHARP or whole_px(start, step) for start, step in steps)


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
