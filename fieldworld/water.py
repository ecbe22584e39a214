"""The sea and the pools: waves, mirror, depth, foam. Runs after land and sky are on the picture, whose
own pixels serve as what the water mirrors."""

import math

import numpy as np
from numba import njit

from .land import HAZE, haze
from .optics import project
from .rock import stack_distance
from .terrain import POOL, height, smooth
from .textures import RIDGED, ROUGH, TILE_M, sample

LAND_LIMIT = 0.5


@njit(nogil=True, cache=True, fastmath=True)
def sky_at(dx, dy, dz, dome, out):  # type: ignore[no-untyped-def]
    """Sky radiance from the dome map (rows by sqrt(elevation), columns by heading), into out (3,)."""
    rows, columns = dome.shape[0], dome.shape[1]
    y = math.sqrt(math.asin(min(max(dy, 0.0), 1.0)) / (math.pi / 2)) * (rows - 1)
    x = (math.atan2(dx, dz) / (2 * math.pi) + 0.5) * columns
    iy = min(int(y), rows - 2)
    ix = int(x) % columns
    jx = (ix + 1) % columns
    fy, fx = y - iy, x - math.floor(x)
    for k in range(3):
        a = dome[iy, ix, k] * (1 - fx) + dome[iy, jx, k] * fx
        b = dome[iy + 1, ix, k] * (1 - fx) + dome[iy + 1, jx, k] * fx
        out[k] = a * (1 - fy) + b * fy


@njit(nogil=True, cache=True, fastmath=True)
def slopes(x, z, away, foot, when, calm, waves, out):  # type: ignore[no-untyped-def]
    """Slopes of the surface at a place and a time (s), into out (2,); returns the roughness left out."""
    sx, sz, lost = 0.0, 0.0, 0.0
    for n in range(3):
        tile = TILE_M if n == 0 else (11.3 if n == 1 else 2.7)
        amount = (0.060 if n == 0 else (0.050 if n == 1 else 0.034)) * calm
        drift = when * (1.9 if n == 0 else (0.9 if n == 1 else 0.45))
        u, v = (x + drift * 0.3 + 3.1 * n) / tile, (z + drift) / tile
        seen = min(max(1.6 - foot / (tile * 0.035), 0.0), 1.0)
        lost += amount * (1.0 - seen)
        if seen > 0.0:
            sx += sample(waves, 0, u, v) * amount * seen
            sz += sample(waves, 1, u, v) * amount * seen
    out[0], out[1] = sx, sz
    return lost


@njit(nogil=True, cache=True, fastmath=True)
def water_point(
    row,
    dx,
    dy,
    dz,
    eye,
    place,
    has_stack,
    pixel,
    when,
    sun,
    sun_colour,
    table,
    dome,
    light,
    tex,
    waves,
    lens,
    turn,
    rgb,
    depth,
    work,
    out,
):  # type: ignore[no-untyped-def]
    """Radiance of the water met by a ray from eye height, into out (3,). Returns its distance (m)."""
    t = -eye / dy
    x, z = dx * t, dz * t
    foot = t * pixel
    floor = height(x, z, place, max(foot, 0.03), tex)
    deep = -floor
    calm = 1.0
    if place == POOL:
        calm = 0.10 + 0.9 * smooth((z - 13.0) / 10.0)
    elif z < 40.0:
        calm = 0.35 + 0.65 * smooth((z - 6.0) / 30.0)
    slope = work[2]
    # a steep view sees each wave shorter; a grazing one sees it drawn out and averaged
    lost = slopes(x, z, t, foot * 2.5, when, calm, waves, slope)
    m = 1.0 / math.sqrt(slope[0] * slope[0] + slope[1] * slope[1] + 1.0)
    nx, ny, nz = -slope[0] * m, m, -slope[1] * m
    c = min(dx * nx + dy * ny + dz * nz, -0.010)
    rx, ry, rz = dx - 2 * c * nx, dy - 2 * c * ny, dz - 2 * c * nz
    ry = max(ry, 0.003)
    q = 1.0 + c
    fresnel = 0.02 + 0.98 * q * q * q * q * q
    fresnel *= 1.0 - min(lost * 4.5, 0.42)
    mirror = work[3]
    found = False
    s = 0.15
    h, w = depth.shape
    for _ in range(30):
        qx, qy, qz = x + rx * s, ry * s, z + rz * s
        r = project(qx, qy - eye, qz, turn, lens, slope)
        if r and 0 <= slope[0] < w - 1 and 0 <= slope[1] < h - 1:
            i, j = int(slope[1]), int(slope[0])
            there = math.sqrt(qx * qx + (qy - eye) * (qy - eye) + qz * qz)
            d = depth[i, j]
            if d < 1e5 and d < there * 1.01 and d > there * 0.62 - 2.0 and i < row:
                for k in range(3):
                    mirror[k] = rgb[i, j, k]
                found = True
                break
        s *= 1.33
        if s > 7000.0:
            break
    if not found:
        sky_at(rx, min(ry + lost * 0.35, 1.0), rz, dome, mirror)
        for k in range(3):
            mirror[k] = min(mirror[k], 60.0 * sun_colour[k] + 2.0)
    # what comes up from below: the bottom through the water, and the water's own scatter
    clear = math.exp(-max(deep, 0.0) * 1.15)
    under = 0.085 + 0.05 * sample(tex, RIDGED, x / 3.1, z / 2.9)
    down = (table[70, 64, 0] + table[70, 64, 1] + table[70, 64, 2]) / 3 * 0.5 + max(sun[1], 0.0) * sun_colour[
        1
    ] * 0.5
    for k in range(3):
        tint = 0.55 if k == 0 else (0.92 if k == 1 else 0.88)
        bottom = under * (1.1 if k == 0 else (1.0 if k == 1 else 0.72))
        own = 0.007 if k == 0 else (0.016 if k == 1 else 0.020)
        fade = clear * math.exp(-max(deep, 0.0) * (1.0 - tint) * 2.2)
        out[k] = mirror[k] * fresnel + (1.0 - fresnel) * down * (bottom * fade + own * (1.0 - clear))
    # foam: where waves meet the shelf or the stack, and drawn out by the backwash
    if t < 320.0 and calm > 0.3:
        near = math.exp(-max(deep - 0.02, 0.0) * 3.2) * calm
        if has_stack and z > 55.0:
            near = max(near, math.exp(-max(stack_distance(x, 0.05, z, np.int32(0)), 0.0) / 0.9))
        lace = sample(tex, ROUGH, (x + when * 0.4) / 5.3, (z + when * 0.7) / 3.6)
        fine = sample(tex, RIDGED, (x + when * 0.3) / 1.9, z / 1.6) - 0.45 if foot < 0.15 else 0.0
        broad = sample(tex, ROUGH, x / 47.0, (z + when) / 31.0)
        foam = near * 1.25 + 0.17 * lace + 0.7 * fine + 0.12 * broad - 0.78
        foam = smooth(foam * 1.9) * 0.9 * math.exp(-t / 260.0)
        for k in range(3):
            white = 0.62 * (table[70, 64, k] * 0.45 + table[22, 30, k] * 0.42) + 0.14 * sun_colour[k]
            out[k] = out[k] * (1 - foam) + foam * white
    haze(out, t, dx, dy, dz, sun, table, light[HAZE])
    return t
