"""The rendering: scene light in stops to display light, as one smooth monotone curve.

Every curve passes exactly through (black stop, 0), (0 stops, Y 0.1842 = L* 50), (white stop, 1).
On either side of the middle it is g(x) = a x / (1 + (aⁿ − 1) xⁿ)^(1/n), which runs from (0, 0) with
slope a to (1, 1), always rising; n says how long it stays straight before it bends: the toe and the
shoulder. x is stops and g lightness for most settings; for Straight both are linear light.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..fastmath import log2
from .spaces import working_to_output

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

MIDDLE_DISPLAY: Final = 0.18418651851244416
"""Display Y of L* 50."""
TABLE_LOW, TABLE_PER_STOP, TABLE_SIZE = -16.0, 64, 2049


@dataclass(frozen=True)
class Tone:
    """A curve's shape. slope: lightness (L*/100) per stop at the middle; toe, shoulder: n above;
    hue_keeping: share of the hue that is kept; straight: work in linear light."""

    slope: float
    toe: float
    shoulder: float
    hue_keeping: float
    straight: bool = False


SETTINGS: Final = {
    "plain": Tone(0.135, 1.2, 1.2, 0.6),
    "clear": Tone(0.165, 1.5, 1.4, 0.6),
    "mist": Tone(0.110, 1.0, 1.0, 0.75),
    "dusk": Tone(0.150, 2.6, 1.1, 0.7),
    "straight": Tone(0.0, 6.0, 6.0, 1.0, straight=True),
}


def lightness(y: F64) -> F64:
    """CIE L*/100 of luminance Y, 0..1 and beyond."""
    y = np.asarray(y, float)
    return np.where(y > 216 / 24389, 1.16 * np.cbrt(y) - 0.16, y * 24389 / 2700)


def luminance(p: F64) -> F64:
    """Inverse of lightness."""
    p = np.asarray(p, float)
    return np.where(p > 0.08, ((p + 0.16) / 1.16) ** 3, p * 2700 / 24389)


def _run(x: F64, a: float, n: float) -> F64:
    x = np.clip(x, 0, 1)
    return np.asarray(a * x / (1 + (a**n - 1) * x**n) ** (1 / n))


def tone_curve(stops: F64, tone: Tone, black: float, white: float) -> F64:
    """Display light (0–1) for scene light in stops. Needs black < 0 < white."""
    if not black < 0 < white:
        raise ValueError("the black end must lie below middle grey and the white end above it")
    s = np.asarray(stops, float)
    if tone.straight:
        y = MIDDLE_DISPLAY * 2.0**s
        top, bottom = MIDDLE_DISPLAY * 2.0**white, MIDDLE_DISPLAY * 2.0**black
        up = (y - MIDDLE_DISPLAY) / (top - MIDDLE_DISPLAY)
        down = (MIDDLE_DISPLAY - y) / (MIDDLE_DISPLAY - bottom)
        a_up = (top - MIDDLE_DISPLAY) / (1 - MIDDLE_DISPLAY)
        a_down = (MIDDLE_DISPLAY - bottom) / MIDDLE_DISPLAY
        high = MIDDLE_DISPLAY + (1 - MIDDLE_DISPLAY) * _run(up, a_up, tone.shoulder)
        low = MIDDLE_DISPLAY * (1 - _run(down, a_down, tone.toe))
        return np.where(s >= 0, high, low)
    high = 0.5 + 0.5 * _run(s / white, 2 * tone.slope * white, tone.shoulder)
    low = 0.5 - 0.5 * _run(s / black, 2 * tone.slope * -black, tone.toe)
    return luminance(np.where(s >= 0, high, low))


def tone_table(tone: Tone, black: float, white: float) -> F32:
    """tone_curve sampled every 1/64 stop from −16 to +16 stops; index 1024 is 0 stops."""
    stops = TABLE_LOW + np.arange(TABLE_SIZE) / TABLE_PER_STOP
    return tone_curve(stops, tone, black, white).astype(np.float32)


def render_coefficients(tone: Tone, space: str) -> F32:
    """[hue keeping, output matrix row by row (9), luminance weights of the output space (3)]"""
    m = working_to_output(space)
    to_y = np.array([0.2627, 0.6780, 0.0593]) @ np.linalg.inv(m)
    return np.concatenate([[tone.hue_keeping], m.ravel(), to_y]).astype(np.float32)


@njit("float32(float32, float32[::1])", inline="always", nogil=True, cache=True, fastmath=True)
def _look_up(light, table):  # type: ignore[no-untyped-def]
    """Display light for linear scene light, by the table."""
    f = (log2(light) + np.float32(2.473931188332412 - TABLE_LOW)) * np.float32(TABLE_PER_STOP)
    f = min(max(f, np.float32(0)), np.float32(TABLE_SIZE - 1.001))
    i = int(f)
    t = f - np.float32(i)
    return table[i] + (table[i + 1] - table[i]) * t


@njit(
    "void(float32[:, :, ::1], float32[::1], float32[::1], float32[:, :, ::1])",
    nogil=True,
    cache=True,
    fastmath=True,
)
def render_tones(rgb, table, coef, out):  # type: ignore[no-untyped-def]
    """Working RGB (3, rows, w) to linear display RGB of the output space (3, rows, w), 0–1.

    Colour outside the working gamut is drawn toward its own luminance before any logarithm, so
    hue is kept; after the curve the middle channel is put back between the others by
    `hue keeping`; what the output space cannot hold is drawn toward grey of the same luminance.
    """
    keep = coef[0]
    zero, one = np.float32(0), np.float32(1)
    knee = np.float32(0.9)
    room = np.float32(0.1)
    for r in range(rgb.shape[1]):
        for c in range(rgb.shape[2]):
            a, b, d = rgb[0, r, c], rgb[1, r, c], rgb[2, r, c]
            y = np.float32(0.2627) * a + np.float32(0.6780) * b + np.float32(0.0593) * d
            if y <= np.float32(1e-7):
                out[0, r, c] = zero
                out[1, r, c] = zero
                out[2, r, c] = zero
                continue
            low = min(a, min(b, d))
            q = (y - low) / y
            if q > knee:
                x = (q - knee) / room
                k = (knee + room * x / (one + x)) / q
                a, b, d = y + (a - y) * k, y + (b - y) * k, y + (d - y) * k
            low, high = min(a, min(b, d)), max(a, max(b, d))
            ta, tb, td = _look_up(a, table), _look_up(b, table), _look_up(d, table)
            if high - low > np.float32(1e-6) * high:
                t_low, t_high = min(ta, min(tb, td)), max(ta, max(tb, td))
                ratio = (t_high - t_low) / (high - low) * keep
                ta = ta * (one - keep) + t_low * keep + (a - low) * ratio
                tb = tb * (one - keep) + t_low * keep + (b - low) * ratio
                td = td * (one - keep) + t_low * keep + (d - low) * ratio
            oa = coef[1] * ta + coef[2] * tb + coef[3] * td
            ob = coef[4] * ta + coef[5] * tb + coef[6] * td
            od = coef[7] * ta + coef[8] * tb + coef[9] * td
            y = coef[10] * oa + coef[11] * ob + coef[12] * od
            low, high = min(oa, min(ob, od)), max(oa, max(ob, od))
            k = one
            if low < zero:
                k = y / (y - low)
            if high > one:
                k = min(k, (one - y) / (high - y)) if y < one else zero
            out[0, r, c] = min(max(y + (oa - y) * k, zero), one)
            out[1, r, c] = min(max(y + (ob - y) * k, zero), one)
            out[2, r, c] = min(max(y + (od - y) * k, zero), one)
