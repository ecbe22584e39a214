"""The rock of the coast as a signed distance: stack with arch, needle, foreground ledges (metres)."""

import math

import numpy as np
from numba import njit

from .noise import fractal2, fractal3, ridged3

NOTHING, STACK, LEDGE = 0, 1, 2


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
    if d > 5.0:
        return d
    # cracks and blocks, finer with detail
    crack = ridged3(f(x * 0.16), f(y * 0.11), f(z * 0.16), np.int32(3), s + np.int32(3))
    d -= (crack - 0.45) * 2.6
    if d < 1.5:
        few = np.int32(3 + detail)
        d -= fractal3(f(x * 0.55), f(y * 0.8), f(z * 0.55), few, s + np.int32(40)) * 0.85
    return d * 0.72


@njit("float64(float64, float64, int32)", nogil=True, cache=True, fastmath=True)
def ledge_height(x, z, detail):  # type: ignore[no-untyped-def]
    """Height of the foreground rock shelf over the sea, metres."""
    f = np.float32
    s = np.int32(733)
    shore = 15.0 - 0.22 * x + 5.0 * fractal2(f(x * 0.08), f(z * 0.08), np.int32(2), s)
    if x < -6.0:
        shore += (-6.0 - x) * 0.75
    fall = (shore - z) * 0.055
    fall = min(fall, 0.35)
    rough = ridged3(f(x * 0.17), f(0.5), f(z * 0.22), np.int32(3), s + np.int32(3)) - 0.55
    h = fall + rough * 1.1
    # beds that dip landward break into steps; joints cut them into blocks
    tilt = x * 0.10 + z * 0.16
    steps = (h * 2.4 + tilt) - math.floor(h * 2.4 + tilt)
    h += (min(steps * 3.0, 1.0) - steps) * 0.24
    joint = abs(fractal2(f(x * 0.42 + z * 0.12), f(z * 0.33), np.int32(3), s + np.int32(21)))
    h -= max(0.0, 0.055 - joint) * 6.5
    blocks = fractal2(f(x * 0.9), f(z * 0.9), np.int32(3 + detail), s + np.int32(9))
    fine = ridged3(f(x * 3.1), f(h * 2.0), f(z * 3.1), np.int32(1 + detail), s + np.int32(12))
    return h + blocks * 0.22 + (fine - 0.5) * 0.13


GRID_X0, GRID_Z0, GRID_STEP = -60.0, -2.0, 0.05
GRID_COLUMNS, GRID_ROWS = 2400, 1000


@njit(nogil=True, cache=True, fastmath=True)
def survey_rows(r0, r1, grid):  # type: ignore[no-untyped-def]
    """Fill rows of the shelf's height grid, so that marching need not evaluate noise."""
    for r in range(r0, r1):
        for c in range(grid.shape[1]):
            grid[r, c] = ledge_height(GRID_X0 + c * GRID_STEP, GRID_Z0 + r * GRID_STEP, np.int32(2))


@njit(nogil=True, cache=True, fastmath=True)
def _grid_height(x, z, grid):  # type: ignore[no-untyped-def]
    gx = min(max((x - GRID_X0) / GRID_STEP, 0.0), grid.shape[1] - 1.001)
    gz = min(max((z - GRID_Z0) / GRID_STEP, 0.0), grid.shape[0] - 1.001)
    ix, iz = int(gx), int(gz)
    fx, fz = gx - ix, gz - iz
    a = grid[iz, ix] * (1 - fx) + grid[iz, ix + 1] * fx
    b = grid[iz + 1, ix] * (1 - fx) + grid[iz + 1, ix + 1] * fx
    return a * (1 - fz) + b * fz


@njit(nogil=True, cache=True, fastmath=True)
def distance(x, y, z, detail, grid):  # type: ignore[no-untyped-def]
    """Distance (a safe step) to the nearest rock; detail 3 evaluates the shelf's fine relief."""
    d = stack_distance(x, y, z, detail)
    if z < 48.0 and y < 4.0:
        low = (y - _grid_height(x, z, grid)) * 0.55 if detail < 3 else (y - ledge_height(x, z, detail)) * 0.55
        d = min(d, low)
    elif z < 48.0:
        d = min(d, (y - 2.6) * 0.9)
    else:
        d = min(d, max((z - 46.0) * 0.6 + 1.0, 1.0) if z < 52.0 else d)
    return d


@njit("int64(float64, float64, float64)", nogil=True, cache=True, fastmath=True)
def material(x, y, z):  # type: ignore[no-untyped-def]
    """Which rock a surface point belongs to."""
    return LEDGE if z < 48.0 else STACK


@njit(nogil=True, cache=True, fastmath=True)
def march(ox, oy, oz, dx, dy, dz, start, stop, cone, grid):  # type: ignore[no-untyped-def]
    """Distance along a ray to rock, or -1; `cone` is the pixel's half-angle in radians.

    A miss that passed within eight cones returns -2: a place to look at more closely.
    """
    t = start
    close = 1e9
    for _ in range(160):
        d = distance(ox + dx * t, oy + dy * t, oz + dz * t, np.int32(0), grid)
        if d < cone * t:
            return t
        close = min(close, d / max(t, 0.1))
        t += max(d, 0.01)
        if t > stop:
            break
    if close < cone * 10.0:
        return -2.0
    return -1.0


@njit(nogil=True, cache=True, fastmath=True)
def normal(x, y, z, eps, grid, out):  # type: ignore[no-untyped-def]
    """Unit surface normal by tetrahedral differences of size eps."""
    a = distance(x + eps, y - eps, z - eps, np.int32(3), grid)
    b = distance(x - eps, y - eps, z + eps, np.int32(3), grid)
    c = distance(x - eps, y + eps, z - eps, np.int32(3), grid)
    d = distance(x + eps, y + eps, z + eps, np.int32(3), grid)
    nx, ny, nz = a - b - c + d, -a - b + c + d, -a + b - c + d
    n = math.sqrt(nx * nx + ny * ny + nz * nz) + 1e-12
    out[0], out[1], out[2] = nx / n, ny / n, nz / n
