"""The stack off the shore, its arch and its needle, as a signed distance (metres)."""

import math
from typing import Final

import numpy as np
from numba import njit

from .noise import fractal3, ridged3

BOX: Final = ((-44.0, -3.0, 66.0), (62.0, 41.0, 134.0))
"""Everything of the stack lies inside, low and high corner."""


@njit("float64(float64, float64, float64)", inline="always", nogil=True, cache=True, fastmath=True)
def _smooth_min(a, b, k):  # type: ignore[no-untyped-def]
    h = max(k - abs(a - b), 0.0) / k
    return min(a, b) - h * h * k * 0.25


@njit("float64(float64, float64, float64, int32)", nogil=True, cache=True, fastmath=True)
def stack_distance(x, y, z, detail):  # type: ignore[no-untyped-def]
    """Distance to stack and needle; `detail` 0 (march) to 3 (normals) adds finer erosion."""
    # far outside: a cheap bound
    bx, by, bz = abs(x - 9.0) - 56.0, y - 46.0, abs(z - 100.0) - 34.0
    bound = max(bx, max(by, bz))
    if bound > 6.0:
        return bound
    f = np.float32
    s = np.int32(401)
    warp = fractal3(f(x * 0.05), f(y * 0.05), f(z * 0.05), np.int32(2), s)
    px, pz = x - 9.0 + warp * 5.0, z - 96.0 + warp * 3.0
    taper = 1.0 - 0.0085 * y
    # hard and soft beds stand out and fall back
    bed = y * 0.42 + warp * 1.6 + x * 0.03
    ledge = math.sin(bed * 2.1) * 0.35 + math.sin(bed * 5.3 + 1.0) * 0.22
    qx, qz = abs(px) - (19.0 * taper + ledge), abs(pz) - (8.0 * taper + ledge)
    outside = math.sqrt(max(qx, 0.0) ** 2 + max(qz, 0.0) ** 2) + min(max(qx, qz), 0.0)
    crest = 31.0 + 3.5 * math.sin(px * 0.14 + 1.2) - 0.012 * (px + 6.0) ** 2 + warp * 7.0
    if px > 10.0:
        crest -= (px - 10.0) * 0.9
    body = -_smooth_min(-(outside - 2.0), -(y - crest) * 0.7, 4.0)
    # the arch, seaward and open to the light behind
    ax, ay = (px + 11.5 - pz * 0.12) / 5.2, (y + 1.0) / 12.5
    hole = (math.sqrt(ax * ax + ay * ay) - 1.0) * 5.2
    body = -_smooth_min(-body, hole + warp * 1.5, 2.0)
    nx, nz = x + 27.0 + warp * 3.0, z - 118.0
    radius = 5.4 * (1.0 - y / 27.0) ** 0.6 if y < 26.9 else 0.05
    needle = (math.sqrt(nx * nx * 1.15 + nz * nz) - radius - ledge * 0.6) * 0.8
    needle = max(needle, (y - 23.0) * 0.8)
    skerry = math.sqrt((x - 40.0) ** 2 * 0.25 + (y + 6.0) ** 2 * 1.3 + (z - 112.0) ** 2) - 9.0
    d = min(min(body, needle), skerry * 0.6)
    if d > 3.0:  # cracks and blocks stand out by 2.3 m at most
        return (d - 2.3) * 0.9
    # cracks and blocks, finer with detail
    crack = ridged3(f(x * 0.16), f(y * 0.11), f(z * 0.16), np.int32(3), s + np.int32(3))
    d -= (crack - 0.45) * 2.6
    if d < 1.5:
        few = np.int32(3 + detail)
        d -= fractal3(f(x * 0.55), f(y * 0.8), f(z * 0.55), few, s + np.int32(40)) * 0.85
    return d * 0.72


@njit(
    "float64(float64, float64, float64, float64, float64, float64, float64, float64)",
    nogil=True,
    cache=True,
    fastmath=True,
)
def stack_meet(ox, oy, oz, dx, dy, dz, cone, start):  # type: ignore[no-untyped-def]
    """Distance along a unit ray to the stack from `start` on, or -1; `cone` is the pixel's half-angle
    in radians. A miss that passed within ten cones returns -2: a place to look at more closely."""
    near, far = 0.0, 1e9
    for k in range(3):
        o = ox if k == 0 else (oy if k == 1 else oz)
        d = dx if k == 0 else (dy if k == 1 else dz)
        if abs(d) < 1e-9:
            if o < BOX[0][k] or o > BOX[1][k]:
                return -1.0
            continue
        a, b = (BOX[0][k] - o) / d, (BOX[1][k] - o) / d
        near, far = max(near, min(a, b)), min(far, max(a, b))
    t = max(near, start)
    close = 1e9
    for _ in range(130):
        if t > far:
            break
        d = stack_distance(ox + dx * t, oy + dy * t, oz + dz * t, np.int32(0))
        if d < cone * t:
            return t
        close = min(close, d / max(t, 0.1))
        t += max(d, 0.012)
    return -2.0 if close < cone * 10.0 else -1.0


@njit("float64(float64, float64, float64, float64, float64, float64)", nogil=True, cache=True, fastmath=True)
def stack_shadow(x, y, z, sx, sy, sz):  # type: ignore[no-untyped-def]
    """1 where the sun reaches a point of the stack, 0 where its own rock stands in the way."""
    t = 0.3
    for _ in range(18):
        d = stack_distance(x + sx * t, y + sy * t, z + sz * t, np.int32(0))
        if d < 0.02:
            return 0.0
        t += max(d, 0.15)
        if t > 26.0:
            break
    return 1.0


@njit(nogil=True, cache=True, fastmath=True)
def stack_normal(x, y, z, eps, out):  # type: ignore[no-untyped-def]
    """Unit surface normal by tetrahedral differences of size eps, into out (3,)."""
    few = np.int32(2)
    a = stack_distance(x + eps, y - eps, z - eps, few)
    b = stack_distance(x - eps, y - eps, z + eps, few)
    c = stack_distance(x - eps, y + eps, z - eps, few)
    d = stack_distance(x + eps, y + eps, z + eps, few)
    nx, ny, nz = a - b - c + d, -a - b + c + d, -a + b - c + d
    n = math.sqrt(nx * nx + ny * ny + nz * nz) + 1e-12
    out[0], out[1], out[2] = nx / n, ny / n, nz / n
