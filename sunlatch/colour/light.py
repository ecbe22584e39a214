"""The colour of light: correlated colour temperature and Duv, to and from chromaticity.

Planckian locus: the cubic fits of Kang et al. 2002 (Design of advanced colour temperature control
system), valid 1 667–25 000 K, which set our range. Duv is the signed distance from the locus in
CIE 1960 uv, positive above it (toward green); on screen it is shown times 1000, as tint.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]

KELVIN_LOW: Final = 1667.0
KELVIN_HIGH: Final = 25000.0
DUV_REACH: Final = 0.05
SEAMS: Final = (2222.0, 4000.0)
SEAM: Final = 0.05
"""Where one fit gives way to the next, and within which share of the temperature: they do not meet, and a locus that
jumps gives two lights for one."""


@dataclass(frozen=True)
class LightColour:
    """A light's colour: kelvin in [1 667, 25 000], Duv in [-0.05, 0.05]."""

    kelvin: float
    duv: float


def planckian_xy(kelvin: F64 | float) -> F64:
    """Chromaticity (..., 2) of a black body."""
    t = np.asarray(kelvin, float)
    low = -0.2661239e9 / t**3 - 0.2343589e6 / t**2 + 0.8776956e3 / t + 0.179910
    high = -3.0258469e9 / t**3 + 2.1070379e6 / t**2 + 0.2226347e3 / t + 0.240390
    cool, pale = (_beyond(t, at) for at in SEAMS)
    x = low + pale * (high - low)
    y1 = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    y2 = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    y3 = 3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483
    y = y1 + cool * (y2 - y1)
    return np.stack([x, y + pale * (y3 - y)], -1)


def _beyond(kelvin: F64, seam: float) -> F64:
    """How far a temperature is past a seam of the fits, 0–1."""
    u = np.clip((kelvin / seam - 1 + SEAM) / (2 * SEAM), 0, 1)
    return np.asarray(u * u * (3 - 2 * u))


def xy_to_uv(xy: F64) -> F64:
    """CIE 1931 xy to CIE 1960 uv, (..., 2)."""
    x, y = xy[..., 0], xy[..., 1]
    d = -2 * x + 12 * y + 3
    return np.stack([4 * x / d, 6 * y / d], -1)


def uv_to_xy(uv: F64) -> F64:
    """CIE 1960 uv to CIE 1931 xy, (..., 2)."""
    u, v = uv[..., 0], uv[..., 1]
    d = 2 * u - 8 * v + 4
    return np.stack([3 * u / d, 2 * v / d], -1)


def _across(kelvin: F64) -> F64:
    """Unit vector across the locus in uv, toward green (larger v)."""
    step = kelvin * 1e-3
    a, b = xy_to_uv(planckian_xy(kelvin - step)), xy_to_uv(planckian_xy(kelvin + step))
    along = b - a
    normal = np.stack([-along[..., 1], along[..., 0]], -1)
    normal = np.where(normal[..., 1:] < 0, -normal, normal)
    return np.asarray(normal / np.linalg.norm(normal, axis=-1, keepdims=True))


def kelvin_duv_to_xy(light: LightColour) -> F64:
    """Chromaticity (2,) of a light.

    Raises ValueError outside 1 667–25 000 K or |Duv| > 0.05.
    """
    if not KELVIN_LOW <= light.kelvin <= KELVIN_HIGH:
        raise ValueError(f"{light.kelvin:.0f} K is outside {KELVIN_LOW:.0f}–{KELVIN_HIGH:.0f} K")
    if abs(light.duv) > DUV_REACH:
        raise ValueError(f"a tint of {light.duv * 1000:.1f} is outside ±{DUV_REACH * 1000:.0f}")
    t = np.asarray(light.kelvin, float)
    return uv_to_xy(xy_to_uv(planckian_xy(t)) + light.duv * _across(t))


_TABLE_K: Final = 1e6 / np.linspace(1e6 / KELVIN_LOW, 1e6 / KELVIN_HIGH, 1400)
_TABLE_UV: Final = xy_to_uv(planckian_xy(_TABLE_K))


def xy_to_kelvin_duv(xy: F64) -> LightColour:
    """Nearest light on the locus and the signed distance from it; ends of the range are kept."""
    uv = xy_to_uv(np.asarray(xy, float))
    i = int(np.argmin(((_TABLE_UV - uv) ** 2).sum(-1)))
    low, high = max(i - 1, 0), min(i + 1, _TABLE_K.size - 1)
    mired = np.linspace(1e6 / _TABLE_K[low], 1e6 / _TABLE_K[high], 400)
    kelvin = np.clip(1e6 / mired, KELVIN_LOW, KELVIN_HIGH)
    near = xy_to_uv(planckian_xy(kelvin))
    j = int(np.argmin(((near - uv) ** 2).sum(-1)))
    t = np.asarray(kelvin[j])
    duv = float(((uv - near[j]) * _across(t)).sum())
    return LightColour(float(t), duv)


def daylight_xy(kelvin: float) -> F64:
    """Chromaticity (2,) of the CIE daylight phase of a temperature, 4 000–25 000 K (CIE 15)."""
    t = float(kelvin)
    if t <= 7000:
        x = -4.6070e9 / t**3 + 2.9678e6 / t**2 + 0.09911e3 / t + 0.244063
    else:
        x = -2.0064e9 / t**3 + 1.9018e6 / t**2 + 0.24748e3 / t + 0.237040
    return np.array([x, -3.0 * x * x + 2.870 * x - 0.275])


def _named() -> dict[str, LightColour]:
    phases = {"low sun": 4000.0, "late afternoon": 5003.0, "midday": 5503.0, "daylight": 6504.0,
              "overcast": 7504.0, "open shade": 9000.0, "blue hour": 14000.0}  # fmt: skip
    lights = {"tungsten": LightColour(2856.0, 0.0)}
    return lights | {name: xy_to_kelvin_duv(daylight_xy(k)) for name, k in phases.items()}


NAMED_LIGHTS: Final = _named()
"""Lights with a name: standard light A, and CIE daylight phases with their own Duv."""
