"""Daylight: a single-scattering atmosphere tabled once, and a lit cloud layer.

Radiance is linear, in units where a white card facing a high sun reads about 1, primaries
ITU-R BT.709 (the camera converts). Scattering after Nishita et al. 1993 with usual sea-level
coefficients; clouds are a thin layer with Henyey-Greenstein forward scattering.
"""

import math
from dataclasses import dataclass

import numpy as np
from numba import njit
from numpy.typing import NDArray

from .noise import fractal2

F32 = NDArray[np.float32]
RAYLEIGH = np.array([5.8e-6, 13.5e-6, 33.1e-6])
OZONE = np.array([0.65e-6, 1.88e-6, 0.085e-6])
EARTH, TOP = 6_360e3, 6_420e3


@dataclass(frozen=True)
class Daylight:
    """Where the sun stands (degrees; azimuth 0 = straight ahead of the viewpoint, right positive)."""

    sun_elevation: float = 12.0
    sun_azimuth: float = 13.2
    haze: float = 1.0
    cloud_cover: float = 0.55
    seed: int = 11
    season: float = 0.6
    """0 summer green, 1 autumn."""
    shade: float = 0.0
    """How far clouds spread the sun's light over the whole sky, 0–1."""
    wind: float = 6.5
    """Wind over the sea, m/s."""

    def sun(self) -> F32:
        e, a = math.radians(self.sun_elevation), math.radians(self.sun_azimuth)
        return np.array([math.cos(e) * math.sin(a), math.sin(e), math.cos(e) * math.cos(a)], np.float32)


def _exit(height: NDArray[np.float64], mu: NDArray[np.float64]) -> NDArray[np.float64]:
    """Distance to the top of the atmosphere from `height` (m) along zenith cosine `mu`."""
    r = EARTH + height
    return -r * mu + np.sqrt(np.maximum(r * r * (mu * mu - 1) + TOP * TOP, 0))


def _depth(height: NDArray[np.float64], mu: NDArray[np.float64], haze: float) -> NDArray[np.float64]:
    """Optical depth (..., 3) from `height` along `mu` to space."""
    length = _exit(height, mu)
    total = np.zeros((*height.shape, 3))
    for i in range(8):
        s = length * (i + 0.5) / 8
        h = np.sqrt((EARTH + height) ** 2 + s * s + 2 * (EARTH + height) * s * mu) - EARTH
        h = np.maximum(h, 0)
        per = (RAYLEIGH + OZONE) * np.exp(-h / 8000)[..., None]
        per = per + (2.2e-5 * haze * np.exp(-h / 1200))[..., None]
        total += per * (length / 8)[..., None]
    return total


def _dimmed(light: Daylight) -> float:
    """Light left after sunset: about a factor of ten for every 4.5 degrees the sun sinks (after
    Rozenberg 1966)."""
    return 0.02 * float(10 ** (light.sun_elevation / 4.5))


def _twilight(light: Daylight, el: NDArray[np.float64], az: NDArray[np.float64]) -> F32:
    """The clear sky after sunset: deep blue above, a warm band where the sun went down, the earth's
    shadow opposite. Shaped by hand; single scattering leaves this hour out."""
    up = np.sin(el)[..., None]
    toward = (0.5 + 0.5 * np.cos(az))[..., None]
    above = np.array([0.045, 0.100, 0.215])
    low = np.array([0.085, 0.125, 0.190]) * (1 - toward) + np.array([0.46, 0.34, 0.26]) * toward
    band = np.exp(-up / (0.06 + 0.10 * toward))
    rose = np.exp(-(((up - 0.14) / 0.12) ** 2)) * toward**2 * np.array([0.09, 0.06, 0.07])
    sky = above * (0.6 + 0.4 * toward) + (low - above * 0.5) * band + rose
    return (np.maximum(sky, 0.004) * _dimmed(light) * 2.0).astype(np.float32)


def sky_table(light: Daylight, rows: int = 96, columns: int = 128) -> tuple[F32, F32]:
    """Clear-sky radiance (rows, columns, 3) by sqrt(elevation/90°) and by azimuth from the sun
    (0–180°), and the sun's own colour (3,) at sea level."""
    elevation = (np.linspace(0, 1, rows) ** 2) * math.pi / 2
    azimuth = np.linspace(0, math.pi, columns)
    el, az = np.meshgrid(elevation, azimuth, indexing="ij")
    # the air along a way depends on how high it looks only: one column of ways
    mu = np.sin(np.maximum(elevation, 0.004))[:, None]
    sun_el = math.radians(light.sun_elevation)
    nu = np.cos(el) * math.cos(sun_el) * np.cos(az) + np.sin(el) * math.sin(sun_el)
    length = _exit(np.zeros_like(mu), mu)
    g = 0.78
    mie_phase = (1 - g * g) / (4 * math.pi * (1 + g * g - 2 * g * nu) ** 1.5)
    ray_phase = 3 / (16 * math.pi) * (1 + nu * nu)
    total = np.zeros((rows, columns, 3))
    seen = np.zeros((rows, 1, 3))
    steps = 24
    for i in range(steps):
        # denser samples near the ground, where the air is
        a, b = (i / steps) ** 2, ((i + 1) / steps) ** 2
        s, ds = length * (a + b) / 2, length * (b - a)
        h = np.maximum(np.sqrt(EARTH**2 + s * s + 2 * EARTH * s * mu) - EARTH, 0)
        ray = (RAYLEIGH * np.exp(-h / 8000)[..., None]) * ds[..., None]
        mie = (2.2e-5 * light.haze * np.exp(-h / 1200) * ds)[..., None]
        here = np.exp(-(seen + (ray + mie) / 2))
        sun_mu = np.full_like(h, math.sin(sun_el))
        lit = np.exp(-_depth(h, sun_mu, light.haze))
        # 0.045: light scattered more than once, which a single bounce leaves out
        total += here * (
            ray * (ray_phase[..., None] * lit + 0.045 * lit.mean(-1, keepdims=True))
            + mie * (mie_phase[..., None] * lit + 0.03 * lit)
        )
        seen += ray * 1.05 + mie * 1.1
    if light.sun_elevation < 0:
        return _twilight(light, el, az), (np.array([0.040, 0.026, 0.030]) * _dimmed(light)).astype(np.float32)
    colour = np.exp(-_depth(np.zeros(1), np.array([math.sin(sun_el)]), light.haze))[0]
    return (total * 9.0).astype(np.float32), (colour * 3.0).astype(np.float32)


@njit(
    "void(float32, float32, float32, float32[::1], float32[:, :, ::1], float32[::1])",
    nogil=True,
    cache=True,
    fastmath=True,
)
def clear_sky(dx, dy, dz, sun, table, out):  # type: ignore[no-untyped-def]
    """Radiance of the cloudless sky along a unit direction, by bilinear look-up, into out (3,)."""
    rows, columns = table.shape[0], table.shape[1]
    el = math.asin(min(max(dy, 0.0), 1.0)) / (math.pi / 2)
    y = math.sqrt(el) * (rows - 1)
    flat = math.sqrt(max(dx * dx + dz * dz, 1e-9)) * math.sqrt(max(sun[0] * sun[0] + sun[2] * sun[2], 1e-9))
    c = (dx * sun[0] + dz * sun[2]) / flat
    x = math.acos(min(max(c, -1.0), 1.0)) / math.pi * (columns - 1)
    iy, ix = min(int(y), rows - 2), min(int(x), columns - 2)
    fy, fx = y - iy, x - ix
    for k in range(3):
        a = table[iy, ix, k] * (1 - fx) + table[iy, ix + 1, k] * fx
        b = table[iy + 1, ix, k] * (1 - fx) + table[iy + 1, ix + 1, k] * fx
        out[k] = a * (1 - fy) + b * fy


@njit("float32(float32, float32, float32, int32, int32)", nogil=True, cache=True, fastmath=True)
def cloud_density(x, z, cover, octaves, seed):  # type: ignore[no-untyped-def]
    """Thickness of the cloud layer at plane coordinates in km, 0 to about 1."""
    s = np.int32(seed)
    wx = fractal2(np.float32(x * 0.5), np.float32(z * 0.5), np.int32(3), s + np.int32(5))
    wz = fractal2(np.float32(x * 0.5), np.float32(z * 0.5), np.int32(3), s + np.int32(9))
    n = fractal2(np.float32(x * 0.62 + wx * 0.45), np.float32(z * 0.46 + wz * 0.45), np.int32(octaves), s)
    big = fractal2(np.float32(x * 0.11), np.float32(z * 0.09), np.int32(2), s + np.int32(77))
    d = (n * 1.15 + big * 0.55 + cover - 0.5) * 1.9
    d = min(max(d, 0.0), 1.0)
    return np.float32(d * d * (3 - 2 * d))


@njit(
    "void(float32, float32, float32, float32[::1], float32[::1], float32[:, :, ::1], float32,"
    " int32, int32, float32[::1])",
    nogil=True,
    cache=True,
    fastmath=True,
)
def sky_radiance(dx, dy, dz, sun, sun_colour, table, cover, seed, octaves, out):  # type: ignore[no-untyped-def]
    """Sky with clouds, without the sun's disc, along a unit direction, into out (3,)."""
    clear_sky(dx, dy, dz, sun, table, out)
    nu = dx * sun[0] + dy * sun[1] + dz * sun[2]
    up = max(dy, 0.0) + 0.012
    distance = 1.9 / up  # km to the layer
    x, z = dx * distance, dz * distance
    d = cloud_density(np.float32(x), np.float32(z), cover, octaves, seed)
    far = math.exp(-distance / 38.0)
    tau = d * 3.6
    # what stands between this place in the layer and the sun
    toward = np.float32(0)
    if d > 0.003:
        few = min(octaves, 5)
        for i in range(3):
            s = 0.10 + 0.22 * i
            toward += cloud_density(np.float32(x + sun[0] * s), np.float32(z + sun[2] * s), cover, few, seed)
    tau_sun = (d * 0.35 + toward * 0.33) * 4.2
    g = 0.86
    forward = (1 - g * g) / (1 + g * g - 2 * g * nu) ** 1.5 / (4 * math.pi)
    side = 1.0 / (4 * math.pi)
    single = (1 - math.exp(-2.0 * tau)) * (
        0.55 * forward * math.exp(-tau * 0.8) + 1.9 * side * math.exp(-0.75 * tau_sun)
    )
    through = math.exp(-tau)
    for k in range(3):
        ambient = table[60, 64, k] * 0.80 + table[24, 64, k] * 0.42
        cloud = single * sun_colour[k] * 1.5 + (1 - through) * ambient * (0.95 - 0.45 * d)
        seen = out[k] * through + cloud
        out[k] = out[k] * (1 - far) + seen * far


DISC_DEGREES, DISC_RADIANCE = 0.277, 4000.0
"""The sun's angular radius, and its radiance in units of its colour at sea level."""


def sun_disc(rays: F32, light: Daylight, px: float) -> NDArray[np.float32]:
    """Radiance of the sun's disc for rays (h, w, 3), in units of sun_colour; `px`: angle of a pixel,
    over which its rim is softened. Clouds before it dim it."""
    sun = light.sun()
    if sun[1] <= 0:
        return np.zeros(rays.shape[:2], np.float32)
    up = float(sun[1]) + 0.012
    d = cloud_density(
        sun[0] * 1.9 / up, sun[2] * 1.9 / up, np.float32(light.cloud_cover), np.int32(9), np.int32(light.seed)
    )
    through = math.exp(-d * 3.6 * math.exp(-1.9 / up / 38.0)) * (1 - light.shade)
    toward = rays @ sun
    out = np.zeros(rays.shape[:2], np.float32)
    near = toward > math.cos(math.radians(DISC_DEGREES) + px)
    away = np.arccos(np.clip(toward[near], -1, 1))
    cover = np.clip(0.5 - (away - math.radians(DISC_DEGREES)) / px, 0, 1)
    out[near] = cover * DISC_RADIANCE * through
    return out


@njit(nogil=True, cache=True, fastmath=True)
def sky_rows(r0, r1, rays, sun, sun_colour, table, cover, seed, octaves, out):  # type: ignore[no-untyped-def]
    """Sky for rows of rays (h, w, 3) into out (h, w, 3); below the horizon the horizon's own."""
    pixel = np.empty(3, np.float32)
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            up = max(rays[r, c, 1], np.float32(0))
            sky_radiance(
                rays[r, c, 0],
                up,
                rays[r, c, 2],
                sun,
                sun_colour,
                table,
                np.float32(cover),
                np.int32(seed),
                np.int32(octaves),
                pixel,
            )
            for k in range(3):
                out[r, c, k] = pixel[k]
