"""What one ray into the coast brings back: rock, sea, far islands, sky, and the air between."""

import math

import numpy as np
from numba import njit

from .noise import fractal2, fractal3, value2
from .rock import LEDGE, distance, march, material, normal
from .sky import sky_radiance

SKY, SEA, ISLAND, ROCK, SHELF = 0, 1, 2, 3, 4


@njit(nogil=True, cache=True, fastmath=True)
def _haze(out, away, dx, dy, dz, sun, table, strength):  # type: ignore[no-untyped-def]
    """Lay the air between eye and thing over out (3,)."""
    share = 1.0 - math.exp(-away / 24000.0 * strength)
    flat = math.sqrt(max(dx * dx + dz * dz, 1e-9))
    sf = math.sqrt(max(sun[0] * sun[0] + sun[2] * sun[2], 1e-9))
    c = min(max((dx * sun[0] + dz * sun[2]) / (flat * sf), -1.0), 1.0)
    column = math.acos(c) / math.pi * (table.shape[1] - 1)
    i = min(int(column), table.shape[1] - 2)
    f = column - i
    for k in range(3):
        air = (table[14, i, k] * (1 - f) + table[14, i + 1, k] * f) * 0.8
        out[k] = out[k] * (1 - share) + air * share


@njit(nogil=True, cache=True, fastmath=True)
def _island(dx, dy, dz, layer):  # type: ignore[no-untyped-def]
    """Height over the horizon (as a slope) of a far island's outline in this direction."""
    azimuth = math.atan2(dx, dz)
    f = np.float32
    s = np.int32(900 + layer * 13)
    if layer == 0:
        centre, width, tall = -0.46, 0.20, 0.030
    elif layer == 1:
        centre, width, tall = 0.62, 0.26, 0.021
    else:
        centre, width, tall = -0.12, 0.5, 0.010
    u = (azimuth - centre) / width
    hump = max(0.0, 1.0 - u * u)
    n = fractal2(f(azimuth * 9.0 + layer * 5), f(layer), np.int32(6), s)
    return hump * (tall + n * tall * 0.8) - 0.0004


@njit(nogil=True, cache=True, fastmath=True)
def _rock_colour(x, y, z, t, sun, sun_colour, table, grid, n, out):  # type: ignore[no-untyped-def]
    f = np.float32
    normal(x, y, z, max(0.004, t * 0.0006), grid, n)
    kind = material(x, y, z)
    bed = y * 0.42 + x * 0.03
    fine = 9.0 if kind == LEDGE else 2.1
    grain = fractal3(f(x * fine), f(y * fine * 1.5), f(z * fine), np.int32(4), np.int32(55))
    broad = fractal3(f(x * 0.13), f(y * 0.3), f(z * 0.13), np.int32(3), np.int32(57))
    tone = 0.118 + 0.05 * grain + 0.04 * broad + 0.016 * math.sin(bed * 4.0)
    if kind == LEDGE:
        tone *= 0.72
    red, green, blue = tone * 1.10, tone * 0.98, tone * 0.86
    # ochre lichen above the spray, green turf where it is flat and high
    lichen = min(max((broad + grain * 0.8 + 0.05) * 2.2, 0.0), 1.0) * min(max((y - 6) / 8, 0.0), 1.0)
    red += lichen * 0.09
    green += lichen * 0.058
    blue -= lichen * 0.02
    if n[1] > 0.45 and y > 19.0 and kind != LEDGE:
        turf = min((n[1] - 0.45) * 3.0, 1.0)
        red = red * (1 - turf) + turf * (0.085 + grain * 0.03)
        green = green * (1 - turf) + turf * (0.105 + grain * 0.035)
        blue = blue * (1 - turf) + turf * 0.035
    # weed and spray: dark, and shiny
    level = 1.6 + broad * 1.2 if kind != LEDGE else 1.0 + broad * 1.5
    wet = min(max((level - y) / 0.9, 0.0), 1.0)
    red, green, blue = (
        red * (1 - 0.62 * wet),
        green * (1 - 0.58 * wet),
        blue * (1 - 0.60 * wet),
    )
    facing = n[0] * sun[0] + n[1] * sun[1] + n[2] * sun[2]
    lit = max(facing, 0.0)
    if lit > 0.0:
        # one short look toward the sun: is another rock in the way?
        from_x, from_y, from_z = x + n[0] * 0.1, y + n[1] * 0.1, z + n[2] * 0.1
        if march(from_x, from_y, from_z, sun[0], sun[1], sun[2], 0.35, 26.0, 0.004, grid) > 0.0:
            lit = 0.0
    # open sky overhead, a darker one from behind us, light from the water below
    hollow = 0.55 + 0.45 * min(max(0.5 + grain * 0.5 + broad * 0.4, 0.0), 1.0)
    up = 0.5 + 0.5 * n[1]
    toward = 0.5 + 0.5 * (n[0] * sun[0] + n[2] * sun[2])
    for k in range(3):
        front, behind, top = table[22, 30, k], table[22, 118, k], table[70, 64, k]
        ambient = up * (0.45 * top + 0.55 * (front * toward + behind * (1 - toward)))
        ambient += (1 - up) * 0.10 * front
        colour = red if k == 0 else (green if k == 1 else blue)
        out[k] = colour * (lit * sun_colour[k] + ambient * 0.24 * hollow)
    return wet


@njit(nogil=True, cache=True, fastmath=True)
def _near_rock(x, z, reach, grid):  # type: ignore[no-untyped-def]
    """How close the waterline is, 1 at rock and 0 beyond `reach` metres times three."""
    d = distance(x, 0.05, z, np.int32(0), grid)
    return math.exp(-max(d, 0.0) / reach)


@njit(nogil=True, cache=True, fastmath=True)
def _swell(x, z, t, n):  # type: ignore[no-untyped-def]
    """Unit normal of the sea at a place: swell, chop and ripples, fading with distance."""
    f = np.float32
    sx, sz = 0.0, 0.0
    amount, scale = 0.070, 0.16
    for octave in range(6):
        wave = 1.0 / scale
        fade = wave / (wave + t * 0.0035 * (1.0 + t * 0.004))
        s = np.int32(1200 + octave * 7)
        ca, sa = math.cos(0.35 + octave * 0.9), math.sin(0.35 + octave * 0.9)
        u, v = (x * ca - z * sa) * scale * 0.55, (x * sa + z * ca) * scale
        e = 0.07
        h0 = value2(f(u), f(v), s)
        hu = (value2(f(u + e), f(v), s) - h0) / e
        hv = (value2(f(u), f(v + e), s) - h0) / e
        sx += (hu * ca * 0.55 + hv * sa) * amount * fade
        sz += (-hu * sa * 0.55 + hv * ca) * amount * fade
        scale *= 2.1
        amount *= 0.80
    m = 1.0 / math.sqrt(sx * sx + sz * sz + 1.0)
    n[0], n[1], n[2] = -sx * m, m, -sz * m


@njit(nogil=True, cache=True, fastmath=True)
def shade(ox, oy, oz, dx, dy, dz, start, cone, light, sun, sun_colour, table, grid, work, scratch, out):  # type: ignore[no-untyped-def]
    """Radiance along one ray into out (3,), returns (kind, distance in m); sky is left to the caller."""
    cover, seed, haze = light[0], np.int32(light[1]), light[2]
    f = np.float32
    t_sea = -oy / dy if dy < -1e-5 else 1e9
    t = march(ox, oy, oz, dx, dy, dz, start, min(t_sea, 190.0), cone, grid)
    if t > 0.0 and t < t_sea:
        x, y, z = ox + dx * t, oy + dy * t, oz + dz * t
        wet = _rock_colour(x, y, z, t, sun, sun_colour, table, grid, work[0], out)
        if wet > 0.05:
            n = work[0]
            c = dx * n[0] + dy * n[1] + dz * n[2]
            ry = dy - 2 * c * n[1]
            if ry > 0.02 and c < 0:
                fresnel = 0.025 + 0.975 * (1.0 - min(-c, 1.0)) ** 5
                row = min(int(math.sqrt(math.asin(min(ry, 1.0)) / (math.pi / 2)) * 95), 95)
                for k in range(3):
                    out[k] += wet * fresnel * 0.8 * table[row, 30, k]
        _haze(out, t, dx, dy, dz, sun, table, haze)
        return (SHELF if material(x, y, z) == LEDGE else ROCK), t
    if t_sea < 6000.0:
        x, z = ox + dx * t_sea, oz + dz * t_sea
        n = work[0]
        _swell(x, z, t_sea, n)
        c = dx * n[0] + dy * n[1] + dz * n[2]
        c = min(c, -0.012)
        rx, ry, rz = dx - 2 * c * n[0], dy - 2 * c * n[1], dz - 2 * c * n[2]
        ry = max(ry, 0.004)
        fresnel = 0.02 + 0.98 * (1.0 + c) ** 5
        # slopes too fine to see flatten the far sea's mirror
        blur = min(t_sea / 900.0, 1.0)
        fresnel *= 1.0 - 0.45 * blur
        mirror = work[2]
        hit = -1.0
        if z < 180.0:
            hit = march(x, 0.03, z, rx, ry, rz, 0.1, 130.0, 0.006, grid)
        if hit > 0.0:
            hx, hy, hz = x + rx * hit, ry * hit, z + rz * hit
            _rock_colour(hx, hy, hz, hit + t_sea, sun, sun_colour, table, grid, work[1], mirror)
        else:
            length = 1.0 / math.sqrt(rx * rx + ry * ry + rz * rz)
            ry2 = ry + 0.05 * blur
            sky_radiance(
                f(rx * length),
                f(ry2 * length),
                f(rz * length),
                sun,
                sun_colour,
                table,
                f(cover),
                seed,
                np.int32(4),
                scratch,
            )
            for k in range(3):
                mirror[k] = min(scratch[k], 60.0 * sun_colour[k])
        # water over sand and weed near the shore, deep colour farther out
        shallow = math.exp(-t_sea / 60.0)
        deep_r, deep_g, deep_b = 0.010 + 0.016 * shallow, 0.022 + 0.026 * shallow, 0.026 + 0.018 * shallow
        sky_top = table[60, 64, 1]
        body = 1.0 - fresnel
        out[0] = mirror[0] * fresnel + body * deep_r * sky_top * 1.2
        out[1] = mirror[1] * fresnel + body * deep_g * sky_top * 1.2
        out[2] = mirror[2] * fresnel + body * deep_b * sky_top * 1.3
        # foam drawn out by the backwash, thick where the shelf breaks the surface
        if t_sea < 260.0:
            reach = 0.8 if z > 60.0 else 0.35
            near = _near_rock(x, z, reach, grid)
            lace = fractal2(f(x * 0.9), f(z * 0.55), np.int32(5), np.int32(88))
            broad = fractal2(f(x * 0.12), f(z * 0.07), np.int32(3), np.int32(91))
            foam = near * 1.0 + broad * 0.40 + lace * 0.85 - 0.66
            foam = min(max(foam * 1.7, 0.0), 0.92) * math.exp(-t_sea / 220.0)
            for k in range(3):
                white = 0.62 * (table[70, 64, k] * 0.45 + table[22, 30, k] * 0.5) + 0.10 * sun_colour[k]
                out[k] = out[k] * (1 - foam) + foam * white
        _haze(out, t_sea, dx, dy, dz, sun, table, haze)
        return SEA, t_sea
    flat = dy / math.sqrt(max(dx * dx + dz * dz, 1e-9))
    for layer in range(3):
        if flat < _island(dx, dy, dz, layer):
            away = 2600.0 + 2600.0 * layer
            tone = 0.03 + 0.02 * fractal2(f(dx * 90), f(dy * 200), np.int32(4), np.int32(61))
            for k in range(3):
                out[k] = tone * (table[60, 64, k] + table[22, 118, k])
            _haze(out, away, dx, dy, dz, sun, table, haze * 5.5)
            return ISLAND, away
    return SKY, 1e6
