"""The ground of the coast as a height over the sea, place by place, and what a ray meets of it.

Each place has its own origin where the photographer stands, x to the right and z ahead in its map,
metres. `foot` is the size in metres of what a pixel sees: relief finer than that is left out, which
keeps far ground from glittering.
"""

import math
from typing import Final

import numpy as np
from numba import njit

from .textures import CRACKS, GRAIN, RIDGED, ROLLING, ROUGH, STONES, sample

SHORE, HEATH, POOL, PATH, KNOLL, BOULDERS = range(6)
PLACES: Final = {"shore": SHORE, "heath": HEATH, "pool": POOL, "path": PATH, "knoll": KNOLL,
                 "boulders": BOULDERS}  # fmt: skip
NEAREST, FARTHEST = 0.35, 9000.0
RINGS: Final = 1100
"""Distances, evenly spaced in their logarithm, at which the ground is surveyed along a heading."""
POOL_AT: Final = (0.6, 5.2)
POOL_REACH: Final = (3.6, 3.0)


@njit("float64(float64)", inline="always", nogil=True, cache=True)
def smooth(t):  # type: ignore[no-untyped-def]
    """Smoothstep, flat outside 0–1."""
    t = min(max(t, 0.0), 1.0)
    return t * t * (3.0 - 2.0 * t)


@njit("float64(float64, float64)", inline="always", nogil=True, cache=True)
def _seen(foot, size):  # type: ignore[no-untyped-def]
    """How much of relief of a size is left at a footprint, 0–1."""
    return min(max(2.0 - 3.0 * foot / size, 0.0), 1.0)


@njit(nogil=True, cache=True, fastmath=True)
def _rock(x, z, foot, tex):  # type: ignore[no-untyped-def]
    """Relief of bare rock around its mean: crests, dipping beds, joints, grain."""
    h = (sample(tex, RIDGED, x / 43.0, z / 31.0) - 0.5) * 1.7
    h += sample(tex, ROUGH, x / 31.0 + 0.3, z / 26.0) * 0.13
    tilt = x * 0.10 + z * 0.16 + h * 2.2
    step = tilt - math.floor(tilt)
    h += _seen(foot, 1.5) * (min(step * 3.2, 1.0) - step) * 0.21
    s = _seen(foot, 0.35)
    if s > 0.0:
        joint = sample(tex, CRACKS, x / 16.0 + h * 0.02, z / 21.0)
        h -= s * max(0.0, 0.10 - joint) * 2.6
        h += s * (sample(tex, RIDGED, x / 8.3 + 0.5, z / 6.1) - 0.5) * 0.20
    s = _seen(foot, 0.05)
    if s > 0.0:
        h += s * (sample(tex, RIDGED, x / 2.1, z / 1.8) - 0.5) * 0.042
        h += s * sample(tex, ROUGH, x / 2.9, z / 3.1) * 0.010
    s = _seen(foot, 0.010)
    if s > 0.0:
        h += s * sample(tex, GRAIN, x / 1.3, z / 1.3) * 0.0022
    return h


@njit(nogil=True, cache=True, fastmath=True)
def _turf(x, z, foot, tex):  # type: ignore[no-untyped-def]
    """Relief of heath around its mean: hummocks, tussocks, heather."""
    h = sample(tex, ROLLING, x / 170.0, z / 170.0) * 0.5
    s = _seen(foot, 1.2)
    if s > 0.0:
        h += s * sample(tex, ROUGH, x / 60.0, z / 60.0) * 0.26
    s = _seen(foot, 0.6)
    if s > 0.0:
        h += s * (sample(tex, RIDGED, x / 19.0 + 0.2, z / 17.0) - 0.5) * 0.60
    s = _seen(foot, 0.15)
    if s > 0.0:
        tuft = sample(tex, STONES, x / 8.3 + 0.03 * sample(tex, ROUGH, x / 3.0, z / 3.0), z / 8.3 + 0.4)
        h += s * smooth((0.62 - tuft) / 0.6) * 0.12
        h += s * sample(tex, ROUGH, x / 5.1, z / 5.1) * 0.024
    s = _seen(foot, 0.03)
    if s > 0.0:
        h += s * sample(tex, GRAIN, x / 5.3, z / 5.3) * 0.006
    return h


@njit(nogil=True, cache=True, fastmath=True)
def _stones(x, z, foot, tex, tile, size, share):  # type: ignore[no-untyped-def]
    """Rounded boulders lying on the ground: their height above it."""
    if _seen(foot, size) <= 0.0:
        return 0.0
    d = sample(tex, STONES, x / tile, z / tile)
    if d > share * 1.25:
        return 0.0
    d += sample(tex, ROUGH, x / (tile * 0.22), z / (tile * 0.22)) * 0.018
    grow = sample(tex, ROLLING, x / (tile * 2.3) + 0.37, z / (tile * 2.3))
    radius = share * (0.72 + 0.38 * min(max(grow, -1.2), 1.2))
    inside = radius * radius - d * d
    if inside <= 0.0:
        return 0.0
    return math.sqrt(inside) * tile / 20.0 * 0.82


@njit(nogil=True, cache=True, fastmath=True)
def path_x(z):  # type: ignore[no-untyped-def]
    """Where the path across the heath lies at a distance ahead, metres to the right."""
    return -0.9 + 2.6 * math.sin(z * 0.075 + 0.4) + 0.0011 * z * z - 0.0000035 * z * z * z


@njit(nogil=True, cache=True, fastmath=True)
def _hills(x, z, tex):  # type: ignore[no-untyped-def]
    """Far high ground inland."""
    away = math.sqrt(x * x + z * z)
    if away < 500.0:
        return 0.0
    rise = smooth((away - 500.0) / 2600.0)
    n = sample(tex, ROLLING, x / 5200.0 + 0.13, z / 5200.0 + 0.41)
    r = sample(tex, RIDGED, x / 2600.0, z / 2600.0)
    return rise * (60.0 + 130.0 * max(n + 0.35, 0.0) + 60.0 * r)


@njit("float64(float64, float64, int64, float64, float32[:, :, ::1])", nogil=True, cache=True, fastmath=True)
def height(x, z, place, foot, tex):  # type: ignore[no-untyped-def]
    """Height over the sea, metres."""
    if place == SHORE:
        shore = 15.0 - 0.22 * x + 5.0 * sample(tex, ROLLING, x / 150.0, 0.21)
        if x < -6.0:
            shore += (-6.0 - x) * 0.75
        h = min((shore - z) * 0.055, 0.35)
        if x > 60.0:
            rim = 72.0 + 12.0 * sample(tex, ROLLING, z / 420.0, 0.6)
            u = smooth((x - rim) / 34.0) * smooth((620.0 - z) / 260.0)
            h += u * (31.0 + 5.0 * sample(tex, ROLLING, x / 310.0, z / 310.0))
            h += (1.0 - abs(2.0 * u - 1.0)) * (sample(tex, RIDGED, x / 88.0, z / 71.0) - 0.5) * 15.0
            return h + _rock(x, z, foot, tex) * (1.0 - 0.6 * u)
        if h < -6.0:
            return h
        return h + _rock(x, z, foot, tex)
    if place == POOL:
        h = 0.16 + 0.045 * min(max(z - 9.0, -4.0), 0.0) * -1.0
        bar = smooth((z - 7.6) / 2.2) * smooth((17.0 - z) / 5.0)
        h += bar * 0.28 - smooth((z - 14.0) / 9.0) * 1.6
        px, pz = (x - POOL_AT[0]) / POOL_REACH[0], (z - POOL_AT[1]) / POOL_REACH[1]
        edge = sample(tex, ROUGH, x / 7.0, z / 7.0) * 0.13
        h -= smooth(1.45 - math.sqrt(px * px + pz * pz) + edge) * 1.05
        # a second, narrow channel leads the eye out
        cx = x + 2.2 - 0.22 * z
        h -= smooth(1.0 - abs(cx) / 1.1 + edge) * smooth((z - 5.0) / 4.0) * 0.75
        # a rocky point closes the bay on the left, far out
        far = (
            smooth((-18.0 - x + (z - 70.0) * 0.18) / 30.0)
            * smooth((z - 45.0) / 30.0)
            * smooth((420.0 - z) / 120.0)
        )
        h += far * (15.0 + 5.0 * sample(tex, ROLLING, x / 130.0, z / 130.0))
        h += far * (sample(tex, RIDGED, x / 120.0, z / 97.0) - 0.5) * 12.0
        if h < -3.0:
            return h
        return h + _rock(x, z, foot, tex) * (0.62 - far * 0.35)
    if place == BOULDERS:
        shore = 34.0 + 0.25 * x + 6.0 * sample(tex, ROLLING, x / 120.0, 0.7)
        h = min((shore - z) * 0.045, 1.2) + _seen(foot, 1.0) * sample(tex, ROUGH, x / 26.0, z / 26.0) * 0.09
        if h > -1.0:
            s = _seen(foot, 0.08)
            big = _stones(x, z, foot, tex, 31.0, 0.6, 0.36)
            middle = _stones(x + 3.1, z - 1.7, foot, tex, 9.5, 0.2, 0.30) * 0.8
            small = _stones(x + 1.1, z + 0.9, foot, tex, 2.9, 0.06, 0.27) * 0.7
            stone = max(big, max(middle, small))
            h += stone
            h += s * sample(tex, GRAIN, x / 6.0, z / 6.0) * (0.0015 if stone > 0.0 else 0.0016)
            h += s * sample(tex, ROUGH, x / 3.7, z / 3.7) * (0.004 if stone > 0.0 else 0.003)
        land = smooth((x + 0.04 * z - 66.0) / 60.0) * smooth((560.0 - z) / 260.0)
        h += land * (22.0 + 8.0 * sample(tex, ROLLING, x / 300.0, z / 300.0))
        return h + land * land * (1.0 - land) * (sample(tex, RIDGED, x / 110.0, z / 90.0) - 0.5) * 30.0
    # inland
    h = 14.0 + sample(tex, ROLLING, x / 420.0 + 0.2, z / 420.0 + 0.2) * 1.8
    if place == KNOLL:
        d = math.sqrt((x - 1.5) ** 2 + (z - 20.0) ** 2)
        h = 14.0 + 5.0 * smooth(1.0 - d / 26.0)
        return h + _turf(x, z, foot, tex) * 0.8 + _stones(x, z, foot, tex, 24.0, 0.4, 0.24)
    if place == PATH:
        h += (
            7.0
            * smooth((z - 24.0) / 85.0)
            * smooth((210.0 - z) / 90.0)
            * math.exp(-(((x - 8.0) / 60.0) ** 2))
        )
        off = abs(x - path_x(z))
        on = smooth((1.15 - off) / 0.55)
        h += _turf(x, z, foot, tex) * (1.0 - 0.86 * on) - on * 0.11
        h += _stones(x, z, foot, tex, 26.0, 0.3, 0.2) * (1.0 - on)
    else:
        h += _turf(x, z, foot, tex) + _stones(x, z, foot, tex, 30.0, 0.4, 0.19)
    return h + _hills(x, z, tex)


@njit(
    "void(int64, int64, float64[::1], float64[::1], int64, float64, float64, float32[:, :, ::1],"
    " float32[:, ::1], float32[:, ::1])",
    nogil=True,
    cache=True,
    fastmath=True,
)
def survey(first, last, headings, rings, place, eye, pixel, tex, ground, rise):  # type: ignore[no-untyped-def]
    """Heights along headings (ground[i, k]), and the steepest slope seen up to each ring (rise[i, k]).

    A ray of slope s along heading i meets the ground at the first ring whose rise reaches s.
    """
    for i in range(first, last):
        sx, sz = math.sin(headings[i]), math.cos(headings[i])
        top = -1e9
        for k in range(rings.size):
            r = rings[k]
            h = height(sx * r, sz * r, place, max(r * pixel * 2.0, 0.012), tex)
            ground[i, k] = h
            top = max(top, (h - eye) / r)
            rise[i, k] = top


@njit(
    "float64(float64, int64, float64[::1], float64, float32[:, ::1], float32[:, ::1])",
    nogil=True,
    cache=True,
    fastmath=True,
)
def meet(slope, i, rings, eye, ground, rise):  # type: ignore[no-untyped-def]
    """Horizontal distance at which a ray of this slope meets the ground along heading i, or -1."""
    n = rings.size
    if rise[i, n - 1] < slope:
        return -1.0
    low, high = 0, n - 1
    while low < high:
        middle = (low + high) // 2
        if rise[i, middle] >= slope:
            high = middle
        else:
            low = middle + 1
    if low == 0:
        return rings[0]
    r0, r1 = rings[low - 1], rings[low]
    a = ground[i, low - 1] - (eye + slope * r0)
    b = ground[i, low] - (eye + slope * r1)
    t = a / (a - b) if b > a else 1.0
    return r0 + (r1 - r0) * min(max(t, 0.0), 1.0)


@njit(
    "float64(float64, float64, float64, float64, float64, float64, int64, float32[:, :, ::1])",
    nogil=True,
    cache=True,
    fastmath=True,
)
def sunlit(x, y, z, sx, sy, sz, place, tex):  # type: ignore[no-untyped-def]
    """How much of the sun reaches a point over the ground: 0 in shadow, soft at its edge, 1 in light."""
    lit = 1.0
    t = 0.12
    for _ in range(6):
        gap = y + sy * t - height(x + sx * t, z + sz * t, place, max(0.10 * t, 0.05), tex)
        lit = min(lit, 0.5 + gap / (0.06 * t + 0.01))
        if lit <= 0.0:
            return 0.0
        t *= 2.7
    return smooth(lit)


def rings() -> np.ndarray:
    """The surveyed distances, metres."""
    return np.exp(np.linspace(math.log(NEAREST), math.log(FARTHEST), RINGS))
