"""What the ground and the rock look like: material, light, shadow; radiance of one point."""

import math

from numba import njit

from .rock import stack_normal, stack_shadow
from .terrain import BOULDERS, PATH, POOL, SHORE, height, path_x, smooth, sunlit
from .textures import GRAIN, ROLLING, ROUGH, sample

# light[...] as packed by world.py
COVER, SEED, HAZE, SEASON, SHADE, LENGTH = range(6)


@njit(nogil=True, cache=True, fastmath=True)
def haze(out, away, dx, dy, dz, sun, table, strength):  # type: ignore[no-untyped-def]
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
def _rock_albedo(x, y, z, up, foot, tex, wet, out):  # type: ignore[no-untyped-def]
    """Grey-brown rock, ochre lichen above the spray, weed and dark wet stone below it."""
    broad = sample(tex, ROLLING, (x + 0.3 * y) / 53.0, (z + y) / 47.0)
    grain = sample(tex, ROUGH, (x + 0.4 * z) / 29.3, (z + y * 1.7 - 0.3 * x) / 23.1) * 0.8
    if foot < 0.04:
        grain += sample(tex, ROUGH, x / 3.3, (z + y * 1.7) / 3.1) * 0.6
    fine = sample(tex, GRAIN, x / 0.8, (z + y) / 0.8) if foot < 0.012 else 0.0
    tone = 0.128 + 0.020 * grain + 0.018 * broad + 0.012 * fine
    red, green, blue = tone * 1.10, tone * 0.98, tone * 0.86
    lichen = smooth((grain * 0.5 + broad * 0.5 - 0.15) * 1.4) * smooth((y - 1.3) / 1.6)
    red += lichen * 0.085
    green += lichen * 0.056
    blue -= lichen * 0.018
    weed = smooth((0.75 + 0.3 * grain - y) / 0.5) * smooth((grain + 0.3) * 1.5)
    red += weed * (0.050 - red) * 0.75
    green += weed * (0.046 - green) * 0.75
    blue += weed * (0.018 - blue) * 0.75
    out[0] = max(red, 0.01) * (1 - 0.60 * wet)
    out[1] = max(green, 0.01) * (1 - 0.57 * wet)
    out[2] = max(blue, 0.01) * (1 - 0.56 * wet)


@njit(nogil=True, cache=True, fastmath=True)
def _heath_albedo(x, z, slope, foot, season, tex, out):  # type: ignore[no-untyped-def]
    """Heather, bleached grass, moss and bare peat in patches."""
    patch = sample(tex, ROUGH, (x + 0.2 * z) / 410.0 + 0.11, z / 370.0)
    near = min(max(2.0 - foot / 0.35, 0.0), 1.0)
    if near > 0.0:
        patch = patch * 0.7 + near * 0.6 * sample(tex, ROUGH, x / 47.0 + 0.11, (z - 0.3 * x) / 43.0)
    patch2 = near * sample(tex, ROUGH, x / 13.0, z / 13.0 + 0.2)
    fine = sample(tex, GRAIN, x / 2.9, z / 2.9) if foot < 0.03 else 0.0
    mid = sample(tex, GRAIN, x / 17.0, z / 17.0) if foot < 0.2 else 0.0
    heather = smooth((patch + 0.55 * patch2 + 0.1 * mid) * 0.9 + 0.45)
    straw = smooth((patch2 - 0.5 * patch + 0.2 * mid) * 0.8 + 0.25)
    dry = season
    g0, g1, g2 = 0.085 + 0.055 * dry, 0.098 + 0.012 * dry, 0.036
    h0, h1, h2 = 0.082 + 0.02 * dry, 0.052, 0.046 - 0.012 * dry
    s0, s1, s2 = 0.205, 0.165, 0.082
    light = 1.0 + 0.20 * fine + 0.13 * mid
    out[0] = (g0 + (h0 - g0) * heather + (s0 - (g0 + (h0 - g0) * heather)) * straw * 0.7) * light
    out[1] = (g1 + (h1 - g1) * heather + (s1 - (g1 + (h1 - g1) * heather)) * straw * 0.7) * light
    out[2] = (g2 + (h2 - g2) * heather + (s2 - (g2 + (h2 - g2) * heather)) * straw * 0.7) * light
    for k in range(3):
        out[k] = min(max(out[k], 0.012), 0.5)


@njit(nogil=True, cache=True, fastmath=True)
def _lit(albedo, n, x, y, z, hollow, sun_share, wet, dx, dy, dz, sun, sun_colour, table, light, out):  # type: ignore[no-untyped-def]
    """Radiance of a surface of this albedo and normal toward the eye: sun, sky, wet gloss."""
    facing = max(n[0] * sun[0] + n[1] * sun[1] + n[2] * sun[2], 0.0) * sun_share
    up = 0.5 + 0.5 * n[1]
    toward = 0.5 + 0.5 * (n[0] * sun[0] + n[2] * sun[2])
    c = dx * n[0] + dy * n[1] + dz * n[2]
    gloss = 0.0
    row = 0
    if wet > 0.02 and c < 0:
        ry = dy - 2 * c * n[1]
        if ry > 0.01:
            gloss = wet * (0.022 + 0.978 * (1.0 - min(-c, 1.0)) ** 5) * 0.8 * hollow
            row = min(int(math.sqrt(math.asin(min(ry, 1.0)) / (math.pi / 2)) * 95), 95)
    for k in range(3):
        front, behind, top = table[22, 30, k], table[22, 118, k], table[70, 64, k]
        ambient = up * (0.45 * top + 0.55 * (front * toward + behind * (1 - toward)))
        ambient += (1 - up) * 0.12 * front
        # under cloud the light of the sun is spread over the whole sky
        veil = light[SHADE] * (0.30 + 0.70 * up) * table[70, 64, k] * 1.1
        out[k] = albedo[k] * (
            facing * sun_colour[k] * (1 - light[SHADE])
            + ambient * 0.34 * (1 - light[SHADE]) * hollow
            + veil * hollow
        )
        out[k] += gloss * (table[row, 30, k] * (1 - light[SHADE] * 0.5) + veil)


@njit(nogil=True, cache=True, fastmath=True)
def ground_shelter(x, y, z, foot, place, sun, tex, overcast, out):  # type: ignore[no-untyped-def]
    """How open a place lies to the sky, and how much of the sun reaches it, into out (2,)."""
    wide = max(0.35, foot * 3.0)
    mean = 0.5 * (
        height(x + wide, z - wide * 0.6, place, wide * 0.4, tex)
        + height(x - wide, z + wide * 0.6, place, wide * 0.4, tex)
    )
    out[0] = min(max(0.80 + (y - mean) / wide * 1.9, 0.22), 1.12)
    out[1] = 0.0
    if sun[1] > 0.0 and overcast < 0.9:
        out[1] = sunlit(x, y + 0.03 + 0.6 * foot, z, sun[0], sun[1], sun[2], place, tex)


@njit(nogil=True, cache=True, fastmath=True)
def ground_point(
    x,
    y,
    z,
    gx,
    gz,
    hollow,
    share,
    away,
    dx,
    dy,
    dz,
    place,
    foot,
    sun,
    sun_colour,
    table,
    light,
    tex,
    work,
    out,
):  # type: ignore[no-untyped-def]
    """Radiance of the ground at (x, y, z) of slopes gx, gz, seen along (dx, dy, dz), into out (3,)."""
    n, albedo = work[0], work[1]
    m = 1.0 / math.sqrt(gx * gx + gz * gz + 1.0)
    n[0], n[1], n[2] = -gx * m, m, -gz * m
    slope = 1.0 - m
    wet = 0.0
    if place in (SHORE, POOL):
        tide = 0.85 if place == SHORE else 0.30
        wet = smooth((tide + 0.25 * sample(tex, ROUGH, x / 3.0, z / 3.0) - y) / 0.55)
        _rock_albedo(x, y, z, m, foot, tex, wet, albedo)
        high = smooth((y - 9.0) / 8.0) * smooth((m - 0.62) / 0.2)
        if high > 0.0:
            r, g, b = albedo[0], albedo[1], albedo[2]
            _heath_albedo(x, z, slope, foot, light[SEASON], tex, albedo)
            albedo[0] = r + (albedo[0] - r) * high
            albedo[1] = g + (albedo[1] - g) * high
            albedo[2] = b + (albedo[2] - b) * high
    elif place == BOULDERS:
        stone = smooth((slope - 0.035) / 0.06)
        wet = smooth((0.22 + 0.1 * sample(tex, ROUGH, x / 5.0, z / 5.0) - y) / 0.3)
        _rock_albedo(x, y + 0.6, z, m, foot, tex, wet * 0.7, albedo)
        grain = 1.0 + (0.16 * sample(tex, GRAIN, x / 0.9, z / 0.9) if foot < 0.02 else 0.0)
        ripple = 1.0 + 0.06 * sample(tex, ROUGH, x / 6.0, z / 3.0)
        high = smooth((y - 5.0) / 4.0)
        sand = (1.0 - stone) * (1.0 - high)
        tone = 0.34 * (1 - 0.52 * wet) * grain * ripple
        albedo[0] += sand * (tone * 1.08 - albedo[0])
        albedo[1] += sand * (tone * 0.94 - albedo[1])
        albedo[2] += sand * (tone * 0.74 - albedo[2])
        if high > 0.0:
            r, g, b = albedo[0], albedo[1], albedo[2]
            _heath_albedo(x, z, slope, foot, light[SEASON], tex, albedo)
            albedo[0] = r + (albedo[0] - r) * high
            albedo[1] = g + (albedo[1] - g) * high
            albedo[2] = b + (albedo[2] - b) * high
    else:
        _heath_albedo(x, z, slope, foot, light[SEASON], tex, albedo)
        bare = smooth((slope - 0.24) / 0.12) * smooth((sample(tex, ROUGH, x / 37.0, z / 37.0) - 0.5) * 1.2)
        if place == PATH:
            on = smooth((1.05 - abs(x - path_x(z))) / 0.4)
            tone = 0.235 + (0.03 * sample(tex, GRAIN, x / 1.3, z / 1.3) if foot < 0.03 else 0.0)
            tone += 0.02 * sample(tex, ROUGH, x / 2.7, z / 2.7)
            albedo[0] += on * (tone * 1.10 - albedo[0])
            albedo[1] += on * (tone * 0.93 - albedo[1])
            albedo[2] += on * (tone * 0.70 - albedo[2])
        tone = 0.13 + 0.02 * sample(tex, ROUGH, x / 1.9, z / 1.9)
        for k in range(3):
            albedo[k] += bare * (tone - albedo[k]) * 0.8
    _lit(albedo, n, x, y, z, hollow, share, wet, dx, dy, dz, sun, sun_colour, table, light, out)
    haze(out, away, dx, dy, dz, sun, table, light[HAZE])


@njit(nogil=True, cache=True, fastmath=True)
def stack_point(x, y, z, away, dx, dy, dz, sun, sun_colour, table, light, tex, work, out):  # type: ignore[no-untyped-def]
    """Radiance of the stack's rock at a point, into out (3,)."""
    n, albedo = work[0], work[1]
    stack_normal(x, y, z, max(0.02, away * 0.0006), n)
    bed = y * 0.42 + x * 0.03
    broad = sample(tex, ROLLING, (x + z) / 26.0, y / 17.0)
    wet = smooth((1.7 + broad - y) / 1.1)
    _rock_albedo(x, y, z, n[1], away * 0.0004, tex, wet, albedo)
    shade = 1.0 + 0.06 * math.sin(bed * 4.0 + broad * 2.0)
    turf = smooth((n[1] - 0.42) / 0.25) * smooth((y - 18.0) / 3.0)
    for k in range(3):
        green = 0.090 if k == 0 else (0.104 if k == 1 else 0.036)
        albedo[k] = albedo[k] * shade * (1 - turf) + green * turf
    share = 0.0
    if n[0] * sun[0] + n[1] * sun[1] + n[2] * sun[2] > 0.0 and light[SHADE] < 0.9:
        share = stack_shadow(x + n[0] * 0.15, y + n[1] * 0.15, z + n[2] * 0.15, sun[0], sun[1], sun[2])
    hollow = min(max(0.72 + 0.12 * sample(tex, ROUGH, (x + 0.6 * z) / 21.0, y / 17.0), 0.35), 1.0)
    _lit(albedo, n, x, y, z, hollow, share, wet, dx, dy, dz, sun, sun_colour, table, light, out)
    haze(out, away, dx, dy, dz, sun, table, light[HAZE])


@njit(nogil=True, cache=True, fastmath=True)
def island(dx, dz, layer, tex):  # type: ignore[no-untyped-def]
    """Height over the horizon (as a slope) of a far island's outline in this direction."""
    azimuth = math.atan2(dx, dz)
    if layer == 0:
        centre, width, tall = -0.46, 0.20, 0.030
    elif layer == 1:
        centre, width, tall = 0.62, 0.26, 0.021
    elif layer == 2:
        centre, width, tall = -0.12, 0.5, 0.010
    else:
        centre, width, tall = -1.35, 0.42, 0.036
    u = (azimuth - centre) / width
    hump = max(0.0, 1.0 - u * u)
    n = sample(tex, ROUGH, azimuth / 1.4 + layer * 0.17, layer * 0.23)
    n += 0.35 * sample(tex, ROUGH, azimuth / 0.31 + layer * 0.37, layer * 0.11 + 0.5)
    return hump * tall * (1.0 + 0.30 * n) - 0.0004
