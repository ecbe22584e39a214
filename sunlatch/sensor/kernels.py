"""The renderer's own kernels: serial, without the GIL, over bands of planar float32."""

import math
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..colour import ROOTS_TO_LAB
from ..colour.spaces import encode
from ..compiled import kernel
from ..fastmath import exp2, half_bits, half_value, log2

F32 = NDArray[np.float32]
ENCODE_SIZE = 16384
LOG_GREY = np.float32(math.log2(0.18))
_FLOOR = np.float32(0.18 * 2.0**-14)
_ZERO, _HALF, _ONE = np.float32(0), np.float32(0.5), np.float32(1)


@kernel("void(float32[:, :, :], float32[::1], float32[:, :, ::1])")
def to_working(camera, m, out):  # type: ignore[no-untyped-def]
    """Camera RGB (3, rows, w) times a 3×3 matrix (row by row) into working RGB."""
    for r in range(camera.shape[1]):
        for c in range(camera.shape[2]):
            a, b, d = camera[0, r, c], camera[1, r, c], camera[2, r, c]
            out[0, r, c] = m[0] * a + m[1] * b + m[2] * d
            out[1, r, c] = m[3] * a + m[4] * b + m[5] * d
            out[2, r, c] = m[6] * a + m[7] * b + m[8] * d


LIGHT_LIMIT: Final = 2.0**40
"""The most light a px may hold between two steps, of either sign: stacked moves go on from there and stay finite."""
_LIGHT_LIMIT = np.float32(LIGHT_LIMIT)


@kernel("void(float32[:, :, ::1])")
def bound(rgb):  # type: ignore[no-untyped-def]
    """Hold light (3, rows, w) within ±LIGHT_LIMIT, in place; what is no number becomes the least."""
    for k in range(3):
        for r in range(rgb.shape[1]):
            row = rgb[k, r]
            for c in range(row.size):
                row[c] = min(max(-_LIGHT_LIMIT, row[c]), _LIGHT_LIMIT)


@kernel("void(float32[:, :, :], float32[::1], float32[:, :])")
def read_stops(rgb, weights, out):  # type: ignore[no-untyped-def]
    """Stops of luminance: log2(max(weights · rgb, floor) / 0.18)."""
    for r in range(rgb.shape[1]):
        for c in range(rgb.shape[2]):
            y = weights[0] * rgb[0, r, c] + weights[1] * rgb[1, r, c] + weights[2] * rgb[2, r, c]
            out[r, c] = log2(max(y, _FLOOR)) - LOG_GREY


LAB_LOW, LAB_PER, LAB_SIZE = -16.0, 16, 513
"""The lightness of the reading picture is sampled every 1/16 stop from −16 to +16."""
_LOW, _PER, _LAST = np.float32(LAB_LOW), np.float32(LAB_PER), np.float32(LAB_SIZE - 1.001)
_THIRD = np.float32(1 / 3)
_M = ROOTS_TO_LAB.astype(np.float32)


@kernel("void(float32[:, :, :], float32[::1], float32[::1], float32[::1], float32[:, :, :])")
def read_lab(rgb, lms, weights, lightness, out):  # type: ignore[no-untyped-def]
    """OKLab of a picture (3, rows, w) as a curve over light shows it. lms: 3×3 to cone light, row by row;
    weights: to luminance; lightness: cube root of the display light at LAB_LOW … stops. OKLab grows with
    the cube root of light, so the curve scales it as a whole."""
    tiny = np.float32(1e-9)
    for r in range(rgb.shape[1]):
        for c in range(rgb.shape[2]):
            a, b, d = rgb[0, r, c], rgb[1, r, c], rgb[2, r, c]
            y = log2(max(weights[0] * a + weights[1] * b + weights[2] * d, _FLOOR))
            f = min(max(_ZERO, (y - LOG_GREY - _LOW) * _PER), _LAST)
            i = np.uint32(f)
            t = f - np.float32(i)
            shown = lightness[i] + (lightness[i + np.uint32(1)] - lightness[i]) * t
            k = log2(max(shown, tiny)) - y * _THIRD
            p = exp2(log2(max(lms[0] * a + lms[1] * b + lms[2] * d, tiny)) * _THIRD + k)
            q = exp2(log2(max(lms[3] * a + lms[4] * b + lms[5] * d, tiny)) * _THIRD + k)
            s = exp2(log2(max(lms[6] * a + lms[7] * b + lms[8] * d, tiny)) * _THIRD + k)
            out[0, r, c] = _M[0, 0] * p + _M[0, 1] * q + _M[0, 2] * s
            out[1, r, c] = _M[1, 0] * p + _M[1, 1] * q + _M[1, 2] * s
            out[2, r, c] = _M[2, 0] * p + _M[2, 1] * q + _M[2, 2] * s


@kernel(
    "void(float32[:, :, ::1], int32[:, ::1], float32[:, ::1], int32[:, ::1], float32[:, ::1],"
    " float32[:, :, :])"
)
def reduce_light(display, xi, xw, yi, yw, out):  # type: ignore[no-untyped-def]
    """Display light (3, H, W) reduced by area into (3, rows, w), with the taps of both axes."""
    w = display.shape[2]
    line = np.empty(w, np.float32)
    for k in range(3):
        for r in range(out.shape[1]):
            for x in range(w):
                line[x] = np.float32(0)
            for j in range(yi.shape[1]):
                weight = yw[r, j]
                if weight != np.float32(0):
                    row = display[k, yi[r, j]]
                    for x in range(w):
                        line[x] += weight * row[x]
            for c in range(out.shape[2]):
                total = np.float32(0)
                for j in range(xi.shape[1]):
                    total += xw[c, j] * line[xi[c, j]]
                out[k, r, c] = total


@kernel("void(float32[:, :, ::1], uint8[::1], uint8[:, :, ::1])")
def encode_8(display, table, out):  # type: ignore[no-untyped-def]
    """Display light (3, rows, w) through bytes_table into (rows, w, 3) uint8."""
    top = np.float32(ENCODE_SIZE - 1)
    for r in range(display.shape[1]):
        a, b, d = display[0, r], display[1, r], display[2, r]
        for c in range(display.shape[2]):
            out[r, c, 0] = table[np.uint32(min(max(_ZERO, a[c]), _ONE) * top + _HALF)]
            out[r, c, 1] = table[np.uint32(min(max(_ZERO, b[c]), _ONE) * top + _HALF)]
            out[r, c, 2] = table[np.uint32(min(max(_ZERO, d[c]), _ONE) * top + _HALF)]


@kernel("void(float32[:, :, ::1], float32[::1], uint16[:, :, ::1])")
def encode_16(display, table, out):  # type: ignore[no-untyped-def]
    """Display light (3, rows, w) through an encoding table into (rows, w, 3) uint16."""
    top = np.float32(ENCODE_SIZE - 1)
    for r in range(display.shape[1]):
        for c in range(display.shape[2]):
            for k in range(3):
                f = min(max(np.float32(0), display[k, r, c]), np.float32(1)) * top
                i = min(int(f), ENCODE_SIZE - 2)
                t = f - np.float32(i)
                v = table[i] + (table[i + 1] - table[i]) * t
                out[r, c, k] = np.uint16(v * np.float32(65535) + np.float32(0.5))


@kernel("void(float32[:, :, ::1], float32[::1], float32[::1], int64, float32[:, :, ::1])")
def through_table(display, curve, table, n, out):  # type: ignore[no-untyped-def]
    """Display light (3, rows, w) through a table (n · n · n · 4, flat) over light coded by a curve (an encoding table) into
    (rows, w, 4): within each of six tetrahedra between the nodes, linear (Kasson, Nin, Plouffe and Hafner 1995)."""
    top, last = np.float32(ENCODE_SIZE - 1), n - 1
    side = np.float32(last)
    across, down, along = 4, 4 * n, 4 * n * n
    for r in range(display.shape[1]):
        for c in range(display.shape[2]):
            f = min(max(_ZERO, display[0, r, c]), _ONE) * top
            i = min(int(f), ENCODE_SIZE - 2)
            v = (curve[i] + (curve[i + 1] - curve[i]) * (f - np.float32(i))) * side
            a = min(int(v), last - 1)
            x = v - np.float32(a)
            f = min(max(_ZERO, display[1, r, c]), _ONE) * top
            i = min(int(f), ENCODE_SIZE - 2)
            v = (curve[i] + (curve[i + 1] - curve[i]) * (f - np.float32(i))) * side
            b = min(int(v), last - 1)
            y = v - np.float32(b)
            f = min(max(_ZERO, display[2, r, c]), _ONE) * top
            i = min(int(f), ENCODE_SIZE - 2)
            v = (curve[i] + (curve[i + 1] - curve[i]) * (f - np.float32(i))) * side
            d = min(int(v), last - 1)
            z = v - np.float32(d)
            # from the near to the far corner along the largest part first, along the least one last
            near = a * along + b * down + d * across
            if x >= y:
                if y >= z:
                    one, two, p, q, s = along, along + down, x, y, z
                elif x >= z:
                    one, two, p, q, s = along, along + across, x, z, y
                else:
                    one, two, p, q, s = across, along + across, z, x, y
            elif z >= y:
                one, two, p, q, s = across, across + down, z, y, x
            elif z >= x:
                one, two, p, q, s = down, down + across, y, z, x
            else:
                one, two, p, q, s = down, along + down, y, x, z
            far = near + along + down + across
            wa, wb, wc = _ONE - p, p - q, q - s
            for k in range(4):
                out[r, c, k] = (
                    wa * table[near + k]
                    + wb * table[near + one + k]
                    + wc * table[near + two + k]
                    + s * table[far + k]
                )


@kernel("void(float32[:, :, ::1], float32[::1], float32[::1], int64, uint8[:, :, ::1])")
def proof_8(display, places, table, n, out):  # type: ignore[no-untyped-def]
    """The same for drags, straight to bytes (rows, w, 3): places (ENCODE_SIZE) is where among the nodes light lies, its nearest
    of so many; table as above, 0–255, of which the first three of four are read."""
    top, last = np.float32(ENCODE_SIZE - 1), n - 1
    across, down, along = 4, 4 * n, 4 * n * n
    most = np.float32(255)
    for r in range(display.shape[1]):
        red, green, blue = display[0, r], display[1, r], display[2, r]
        for c in range(display.shape[2]):
            x = places[np.uint32(min(max(_ZERO, red[c]), _ONE) * top + _HALF)]
            y = places[np.uint32(min(max(_ZERO, green[c]), _ONE) * top + _HALF)]
            z = places[np.uint32(min(max(_ZERO, blue[c]), _ONE) * top + _HALF)]
            a, b, d = min(int(x), last - 1), min(int(y), last - 1), min(int(z), last - 1)
            x, y, z = x - np.float32(a), y - np.float32(b), z - np.float32(d)
            near = a * along + b * down + d * across
            far = near + along + down + across
            # the largest and the least part say which corners lie between
            p, q = max(x, y, z), min(x, y, z)
            one = near + (along if x == p else (down if y == p else across))
            two = far - (across if z == q else (down if y == q else along))
            middle = x + y + z - p - q
            wa, wb, wc = _ONE - p, p - middle, middle - q
            for k in range(3):
                v = wa * table[near + k] + wb * table[one + k] + wc * table[two + k] + q * table[far + k]
                out[r, c, k] = np.uint8(min(max(_ZERO, v), most) + _HALF)


def encode_table(space: str) -> F32:
    """The encoding of an output space sampled on [0, 1], for encode_16."""
    return np.ascontiguousarray(encode(np.linspace(0, 1, ENCODE_SIZE), space), np.float32)


def bytes_table(space: str) -> NDArray[np.uint8]:
    """The same, rounded to bytes, for encode_8: its steps are a fifth of a byte at most."""
    return np.rint(encode_table(space) * 255).astype(np.uint8)


@kernel("void(float32[:, :, :], float32[:, :, :], float32[:, :])")
def blend(planes, other, mask):  # type: ignore[no-untyped-def]
    """planes += mask · (other − planes), in place; (3, rows, w) and (rows, w)."""
    for k in range(3):
        for r in range(planes.shape[1]):
            for c in range(planes.shape[2]):
                planes[k, r, c] += mask[r, c] * (other[k, r, c] - planes[k, r, c])


@kernel("void(float32[:, :, ::1], float32[:, :])")
def times(planes, gain):  # type: ignore[no-untyped-def]
    """planes · gain, in place; (3, rows, w) and (rows, w)."""
    for k in range(3):
        for r in range(planes.shape[1]):
            for c in range(planes.shape[2]):
                planes[k, r, c] *= gain[r, c]


@kernel("void(float32[:, :, ::1], float32)")
def push_colour(rgb, much):  # type: ignore[no-untyped-def]
    """Working RGB (3, rows, w) drawn away from its own luminance, in place."""
    for r in range(rgb.shape[1]):
        for c in range(rgb.shape[2]):
            a, b, d = rgb[0, r, c], rgb[1, r, c], rgb[2, r, c]
            y = np.float32(0.2627) * a + np.float32(0.6780) * b + np.float32(0.0593) * d
            rgb[0, r, c] = max(y + much * (a - y), _ZERO)
            rgb[1, r, c] = max(y + much * (b - y), _ZERO)
            rgb[2, r, c] = max(y + much * (d - y), _ZERO)


@kernel("void(float32[:, :, ::1], float32[::1])")
def mix(planes, weights):  # type: ignore[no-untyped-def]
    """The first of three planes (3, rows, w) becomes their mixture, in place."""
    for r in range(planes.shape[1]):
        a, b, d = planes[0, r], planes[1, r], planes[2, r]
        for c in range(planes.shape[2]):
            a[c] = weights[0] * a[c] + weights[1] * b[c] + weights[2] * d[c]


@kernel("void(float32[:, :], float32[:, :])")
def read_light(light, out):  # type: ignore[no-untyped-def]
    """Stops of luminance (rows, w)."""
    for r in range(light.shape[0]):
        for c in range(light.shape[1]):
            out[r, c] = log2(max(light[r, c], _FLOOR)) - LOG_GREY


@kernel("void(float32[:, :, :], uint16[:, :, ::1])", fastmath=False)
def pack(planes, out):  # type: ignore[no-untyped-def]
    """Planes (3, rows, w) to the bits of half floats; several times as fast as NumPy's."""
    for k in range(3):
        for r in range(planes.shape[1]):
            for c in range(planes.shape[2]):
                out[k, r, c] = half_bits(planes[k, r, c])


@kernel("void(uint16[:, :, :], float32[:, :, :])", fastmath=False)
def unpack(bits, out):  # type: ignore[no-untyped-def]
    """Back again."""
    for k in range(3):
        for r in range(bits.shape[1]):
            for c in range(bits.shape[2]):
                out[k, r, c] = half_value(bits[k, r, c])
