"""The rays of a picture: what each meets, and how land, sky, water and edges are painted.

Compiled kernels over rows, called by world.py on several threads.
"""

import math
from typing import Final

import numpy as np
from numba import njit

from .land import SHADE, ground_point, ground_shelter, haze, island, stack_point
from .rock import stack_meet
from .terrain import height, meet
from .water import water_point

SKY, WATER, ISLAND, GROUND, STACK = range(5)
BLOCK: Final = 8
"""Side, in rays, of the blocks in which the stack is first looked for."""

# many arguments, all of them arrays or numbers that a kernel needs: kept on few lines
# fmt: off


@njit(nogil=True, cache=True, fastmath=True)
def _find(dx, dy, dz, heading0, per, n, ring, eye, place, start, inland, cone, ground, rise, tex, out):  # type: ignore[no-untyped-def]
    """What a ray meets first: kind, and into out (1,) the distance along it. `start`: where to begin to
    look for the stack; negative where it is not."""
    flat = math.sqrt(dx * dx + dz * dz)
    slope = dy / max(flat, 1e-9)
    i = min(max(int((math.atan2(dx, dz) - heading0) * per + 0.5), 0), n - 1)
    kind, t = SKY, 1e6
    r = meet(slope, i, ring, eye, ground, rise)
    if r > 0.0 and (inland or eye + slope * r > 0.0):
        kind, t = GROUND, r / flat
    elif dy < -1e-5 and not inland:
        sea = -eye / dy
        if sea < 9000.0:
            kind, t = WATER, sea
    if start >= 0.0:
        s = stack_meet(0.0, eye, 0.0, dx, dy, dz, cone, start)
        if s > 0.0 and s < t:
            kind, t = STACK, s
    if kind == SKY and not inland:
        for layer in range(4):
            if slope < island(dx, dz, layer, tex):
                kind, t = ISLAND, 2600.0 + 2600.0 * layer
                break
    out[0] = t
    return kind


@njit(nogil=True, cache=True, fastmath=True)
def near_rows(r0, r1, rays, eye, pixel, out):  # type: ignore[no-untyped-def]
    """Where looking for the stack may start, block by block: a distance, -2 near a miss, -1 far off."""
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            dx, dy, dz = float(rays[r, c, 0]), float(rays[r, c, 1]), float(rays[r, c, 2])
            out[r, c] = stack_meet(0.0, eye, 0.0, dx, dy, dz, pixel * BLOCK, 0.0)


@njit(nogil=True, cache=True, fastmath=True)
def find_rows(r0, r1, rays, heading0, per, n, ring, eye, place, near, inland, pixel, ground, rise, tex, kind, depth, level):  # type: ignore[no-untyped-def]
    """What every ray meets, how far away, and the fine height of the ground there."""
    found = np.empty(1)
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            dx, dy, dz = float(rays[r, c, 0]), float(rays[r, c, 1]), float(rays[r, c, 2])
            k = _find(dx, dy, dz, heading0, per, n, ring, eye, place, near[r // BLOCK, c // BLOCK], inland, pixel * 0.5, ground, rise, tex, found)
            t = found[0]
            kind[r, c], depth[r, c] = k, t
            if k == GROUND:
                level[r, c] = height(dx * t, dz * t, place, t * pixel, tex)


@njit(nogil=True, cache=True, fastmath=True)
def shelter_rows(r0, r1, rays, place, pixel, sun, light, tex, kind, depth, level, shelter):  # type: ignore[no-untyped-def]
    """Openness to the sky and sunlight of the ground, at half the resolution."""
    out = np.empty(2)
    for r in range(r0, r1):
        for c in range(shelter.shape[1]):
            y, x = 2 * r, 2 * c
            shelter[r, c, 0], shelter[r, c, 1] = 1.0, 1.0
            if kind[y, x] == GROUND:
                t = depth[y, x]
                ground_shelter(rays[y, x, 0] * t, level[y, x], rays[y, x, 2] * t, t * pixel, place, sun, tex, light[SHADE], out)
                shelter[r, c, 0], shelter[r, c, 1] = out[0], out[1]


@njit(nogil=True, cache=True, fastmath=True)
def _slopes(r, c, rays, kind, depth, level, out):  # type: ignore[no-untyped-def]
    """Slopes of the ground at a pixel from its neighbours', into out (2,)."""
    h, w = kind.shape
    t = depth[r, c]
    x, z, y = rays[r, c, 0] * t, rays[r, c, 2] * t, level[r, c]
    out[0], out[1] = 0.0, 0.0
    v = np.empty((2, 3))
    for axis in range(2):
        done = False
        for step in (1, -1):
            i, j = r + (step if axis else 0), c + (0 if axis else step)
            if (
                not done
                and 0 <= i < h
                and 0 <= j < w
                and kind[i, j] == GROUND
                and abs(depth[i, j] - t) < 0.25 * t
            ):
                u = depth[i, j]
                v[axis, 0], v[axis, 1] = rays[i, j, 0] * u - x, rays[i, j, 2] * u - z
                v[axis, 2] = level[i, j] - y
                done = True
        if not done:
            return
    det = v[0, 0] * v[1, 1] - v[0, 1] * v[1, 0]
    if abs(det) < 1e-12:
        return
    gx = (v[0, 2] * v[1, 1] - v[0, 1] * v[1, 2]) / det
    gz = (v[0, 0] * v[1, 2] - v[0, 2] * v[1, 0]) / det
    out[0], out[1] = min(max(gx, -4.0), 4.0), min(max(gz, -4.0), 4.0)


@njit(nogil=True, cache=True, fastmath=True)
def land_rows(
    r0, r1, rays, sky, eye, place, pixel, sun, sun_colour, table, light, tex, kind, depth, level, shelter, rgb
):  # type: ignore[no-untyped-def]
    """Paint land and sky."""
    work, slope, out = np.empty((5, 3)), np.empty(2), np.empty(3)
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            dx, dy, dz = float(rays[r, c, 0]), float(rays[r, c, 1]), float(rays[r, c, 2])
            k, t = kind[r, c], depth[r, c]
            if k == GROUND:
                _slopes(r, c, rays, kind, depth, level, slope)
                ground_point(dx * t, level[r, c], dz * t, slope[0], slope[1], shelter[r, c, 0], shelter[r, c, 1], t, dx, dy, dz, place, t * pixel, sun, sun_colour, table, light, tex, work, out)
            elif k == STACK:
                stack_point(dx * t, eye + dy * t, dz * t, t, dx, dy, dz, sun, sun_colour, table, light, tex, work, out)
            elif k == ISLAND:
                for i in range(3):
                    out[i] = 0.042 * (table[60, 64, i] + table[22, 118, i])
                haze(out, t, dx, dy, dz, sun, table, light[2] * 5.0)
            else:
                for i in range(3):
                    out[i] = sky[r, c, i]
            for i in range(3):
                rgb[r, c, i] = out[i]


@njit(nogil=True, cache=True, fastmath=True)
def water_rows(r0, r1, rays, eye, place, has_stack, pixel, when, sun, sun_colour, table, dome, light, tex, waves, lens, turn, land, kind, depth, rgb):  # type: ignore[no-untyped-def]
    """Paint the water, which mirrors `land` (the picture without it)."""
    work, out = np.empty((5, 3)), np.empty(3)
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            if kind[r, c] == WATER:
                dx, dy, dz = float(rays[r, c, 0]), float(rays[r, c, 1]), float(rays[r, c, 2])
                water_point(r, dx, dy, dz, eye, place, has_stack, pixel, when, sun, sun_colour, table, dome, light, tex, waves, lens, turn, land, depth, work, out)
                for i in range(3):
                    rgb[r, c, i] = out[i]


@njit(nogil=True, cache=True, fastmath=True)
def edge_rows(first, last, ys, xs, rays, heading0, per, n, ring, eye, place, near, inland, pixel, ground, rise, tex, kind, rgb, covers, out):  # type: ignore[no-untyped-def]
    """At the edges of things: nine rays say what share each has; its colour is its nearest neighbour's."""
    found, sums = np.empty(1), np.empty(5)
    for e in range(first, last):
        y, x = ys[e], xs[e]
        for k in range(5):
            sums[k] = 0.0
        for a in range(3):
            for b in range(3):
                fy, fx = (a - 1.0) / 3.0, (b - 1.0) / 3.0
                d = np.empty(3)
                for i in range(3):
                    d[i] = (
                        rays[y, x, i]
                        + fx * (rays[y, x + 1, i] - rays[y, x, i])
                        + fy * (rays[y + 1, x, i] - rays[y, x, i])
                    )
                m = 1.0 / math.sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2])
                k = _find(d[0] * m, d[1] * m, d[2] * m, heading0, per, n, ring, eye, place, near[y // BLOCK, x // BLOCK], inland, pixel * 0.12, ground, rise, tex, found)
                sums[k] += 1.0 / 9.0
        for i in range(3):
            out[e, i] = 0.0
        held = 0.0
        for k in range(5):
            covers[e, k] = sums[k]
            if sums[k] <= 0.0:
                continue
            best, by, bx = 99.0, -1, -1
            for dy in range(-2, 3):
                for dx in range(-2, 3):
                    v, u = y + dy, x + dx
                    if 0 <= v < kind.shape[0] and 0 <= u < kind.shape[1] and kind[v, u] == k:
                        away = dy * dy + dx * dx + 0.01
                        if away < best:
                            best, by, bx = away, v, u
            if by >= 0:
                held += sums[k]
                for i in range(3):
                    out[e, i] += sums[k] * rgb[by, bx, i]
        if held > 0.0:
            for i in range(3):
                out[e, i] /= held
        else:
            for i in range(3):
                out[e, i] = rgb[y, x, i]
