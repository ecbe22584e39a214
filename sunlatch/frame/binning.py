"""Two by two to one: a mosaic to its first look, a pyramid level to the next; in half floats."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel
from ..fastmath import half_bits, half_value

F16 = NDArray[np.float16]
BAND = 128


@kernel(
    "void(uint16[:, :], int64[:, ::1], float32[::1], float32, int64, int64, int64, uint16[:, :, ::1],"
    " int64[:, ::1])"
)
def _bin_rows(mosaic, colours, black, scale, limit, first, last, out, full):  # type: ignore[no-untyped-def]
    total = np.empty(3, np.float32)
    share = np.zeros(3, np.float32)
    for i in range(2):
        for j in range(2):
            share[colours[i, j]] += np.float32(1)
    gain = scale / share
    a, b = colours[0, 0], colours[0, 1]
    c, d = colours[1, 0], colours[1, 1]
    for r in range(first, last):
        for x in range(out.shape[1]):
            total[0] = total[1] = total[2] = np.float32(0)
            total[a] += np.float32(mosaic[2 * r, 2 * x]) - black[a]
            total[b] += np.float32(mosaic[2 * r, 2 * x + 1]) - black[b]
            total[c] += np.float32(mosaic[2 * r + 1, 2 * x]) - black[c]
            total[d] += np.float32(mosaic[2 * r + 1, 2 * x + 1]) - black[d]
            full[r, a] += np.int64(mosaic[2 * r, 2 * x] >= limit)
            full[r, b] += np.int64(mosaic[2 * r, 2 * x + 1] >= limit)
            full[r, c] += np.int64(mosaic[2 * r + 1, 2 * x] >= limit)
            full[r, d] += np.int64(mosaic[2 * r + 1, 2 * x + 1] >= limit)
            out[r, x, 0] = half_bits(total[0] * gain[0])
            out[r, x, 1] = half_bits(total[1] * gain[1])
            out[r, x, 2] = half_bits(total[2] * gain[2])


@kernel("void(uint16[:, :, ::1], int64, int64, uint16[:, :, ::1])")
def _halve_rows(picture, first, last, out):  # type: ignore[no-untyped-def]
    bottom, right = picture.shape[0] - 1, picture.shape[1] - 1
    quarter = np.float32(0.25)
    for r in range(first, last):
        above, below = picture[2 * r], picture[min(2 * r + 1, bottom)]
        for x in range(out.shape[1]):
            x0, x1 = 2 * x, min(2 * x + 1, right)
            for k in range(3):
                total = half_value(above[x0, k]) + half_value(above[x1, k])
                total += half_value(below[x0, k]) + half_value(below[x1, k])
                out[r, x, k] = half_bits(total * quarter)


def _in_bands(rows: int, work: Callable[[int, int], None]) -> None:
    with ThreadPoolExecutor(2) as pool:
        list(pool.map(lambda r: work(r, min(r + BAND, rows)), range(0, rows, BAND)))


def halve(picture: F16) -> F16:
    """Reduce (h, w, 3) float16 to half by area; an odd last row or column is repeated."""
    h, w = -(-picture.shape[0] // 2), -(-picture.shape[1] // 2)
    out = np.empty((h, w, 3), np.float16)
    bits = np.ascontiguousarray(picture).view(np.uint16)
    _in_bands(h, lambda a, b: _halve_rows(bits, a, b, out.view(np.uint16)))
    return out


def bin_mosaic(
    mosaic: NDArray[np.uint16], colours: NDArray[np.int64], black: NDArray[np.float32], white: float
) -> tuple[F16, tuple[float, float, float]]:
    """Camera RGB (h/2, w/2, 3), 1 = clip level, from a mosaic (h, w); and the share of photosites that
    clipped, per channel.

    colours: (2, 2), which of 0, 1, 2 (red, green, blue) each photosite of the corner block sees, all
    three present. black: level per colour (3,); white: the level at which the mosaic clips.
    """
    h, w = mosaic.shape[0] // 2, mosaic.shape[1] // 2
    out, full = np.empty((h, w, 3), np.float16), np.zeros((h, 3), np.int64)
    scale, limit = np.float32(1.0 / (white - float(black.mean()))), int(white) - 2
    bits = out.view(np.uint16)
    _in_bands(h, lambda a, b: _bin_rows(mosaic, colours, black, scale, limit, a, b, bits, full))
    per = [int((colours == k).sum()) * h * w for k in range(3)]
    red, green, blue = (float(n) / p for n, p in zip(full.sum(0), per, strict=True))
    return out, (red, green, blue)
