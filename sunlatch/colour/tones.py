"""The rendering: scene light in stops to display light, as one smooth monotone curve.

Every curve passes exactly through (black stop, 0), (0 stops, Y 0.1842 = L* 50), (white stop, 1).
On either side of the middle it is g(x) = a x / (1 + (aⁿ − 1) xⁿ)^(1/n), which runs from (0, 0) with
slope a to (1, 1), always rising; n says how long it stays straight before it bends: the toe and the
shoulder. x is stops and g lightness for most settings; for Straight both are linear light.
"""

from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel, part
from ..fastmath import octave_place
from .spaces import working_to_output

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

MIDDLE_DISPLAY: Final = 0.18418651851244416
"""Display Y of L* 50."""
TABLE_LOW, TABLE_HIGH, TABLE_PER_OCTAVE = -19, 14, 64
"""The curve is tabulated from 2^−19 to 2^14 of light, each octave in so many equal steps."""


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
    """tone_curve (2113,) over the light at `octave_place` 0, 1, 2 …"""
    at = np.arange((TABLE_HIGH - TABLE_LOW) * TABLE_PER_OCTAVE + 1)
    octave, step = np.divmod(at, TABLE_PER_OCTAVE)
    light = 2.0 ** (TABLE_LOW + octave) * (1 + step / TABLE_PER_OCTAVE)
    return tone_curve(np.log2(light / 0.18), tone, black, white).astype(np.float32)


def render_coefficients(tone: Tone, space: str) -> F32:
    """[hue keeping, output matrix row by row (9), luminance weights of the output space (3)]"""
    m = working_to_output(space)
    to_y = np.array([0.2627, 0.6780, 0.0593]) @ np.linalg.inv(m)
    return np.concatenate([[tone.hue_keeping], m.ravel(), to_y]).astype(np.float32)


_LOW, _PER = np.int32(TABLE_LOW), np.float32(TABLE_PER_OCTAVE)
_LAST = np.float32((TABLE_HIGH - TABLE_LOW) * TABLE_PER_OCTAVE - 0.01)
_Y0, _Y1, _Y2 = np.float32(0.2627), np.float32(0.6780), np.float32(0.0593)
_ZERO, _ONE, _TINY = np.float32(0), np.float32(1), np.float32(1e-7)
_KNEE, _ROOM = np.float32(0.9), np.float32(0.1)


@part
def _into_gamut(rgb, r, row):  # type: ignore[no-untyped-def]
    """Row r of a band (3, rows, w) drawn into the working gamut: row (3, w)."""
    for c in range(row.shape[1]):
        a, b, d = rgb[0, r, c], rgb[1, r, c], rgb[2, r, c]
        y = max(_Y0 * a + _Y1 * b + _Y2 * d, _TINY)
        q = max((y - min(a, min(b, d))) / y, _ZERO)
        x = max(q - _KNEE, _ZERO) / _ROOM
        k = min((_KNEE + _ROOM * x / (_ONE + x)) / max(q, _KNEE), _ONE)
        row[0, c] = y + (a - y) * k
        row[1, c] = y + (b - y) * k
        row[2, c] = y + (d - y) * k


@part
def _places(light, place):  # type: ignore[no-untyped-def]
    """Where linear light lies in the tone table, fractional."""
    for c in range(light.size):
        place[c] = min(max(_ZERO, octave_place(light[c], _LOW) * _PER), _LAST)


@part
def _look_up(place, table):  # type: ignore[no-untyped-def]
    """Table values at fractional places, in place. Unsigned indices spare the wrap-around test."""
    for k in range(3):
        for c in range(place.shape[1]):
            f = place[k, c]
            i = np.uint32(f)
            t = f - np.float32(i)
            place[k, c] = table[i] + (table[i + np.uint32(1)] - table[i]) * t


@part
def _to_output(row, tone, coef, out, r):  # type: ignore[no-untyped-def]
    """Keep hue, turn to the output space, draw into its gamut; into row r of a band."""
    keep = coef[0]
    for c in range(row.shape[1]):
        a, b, d = row[0, c], row[1, c], row[2, c]
        ta, tb, td = tone[0, c], tone[1, c], tone[2, c]
        low, high = min(a, min(b, d)), max(a, max(b, d))
        t_low, t_high = min(ta, min(tb, td)), max(ta, max(tb, td))
        spread = high - low
        some = keep if spread > np.float32(1e-6) * high else _ZERO
        ratio = (t_high - t_low) / max(spread, np.float32(1e-12))
        rest = _ONE - some
        ta = ta * rest + (t_low + (a - low) * ratio) * some
        tb = tb * rest + (t_low + (b - low) * ratio) * some
        td = td * rest + (t_low + (d - low) * ratio) * some
        oa = coef[1] * ta + coef[2] * tb + coef[3] * td
        ob = coef[4] * ta + coef[5] * tb + coef[6] * td
        od = coef[7] * ta + coef[8] * tb + coef[9] * td
        y = coef[10] * oa + coef[11] * ob + coef[12] * od
        low, high = min(oa, min(ob, od)), max(oa, max(ob, od))
        k_low = y / max(y - low, np.float32(1e-12)) if low < _ZERO else _ONE
        k_high = (_ONE - y) / max(high - y, np.float32(1e-12)) if high > _ONE else _ONE
        k = max(min(k_low, k_high), _ZERO)
        out[0, r, c] = min(max(_ZERO, y + (oa - y) * k), _ONE)
        out[1, r, c] = min(max(_ZERO, y + (ob - y) * k), _ONE)
        out[2, r, c] = min(max(_ZERO, y + (od - y) * k), _ONE)


@kernel("void(float32[:, :, ::1], float32[::1], float32[::1], float32[:, :, ::1])")
def render_tones(rgb, table, coef, out):  # type: ignore[no-untyped-def]
    """Working RGB (3, rows, w) to linear display RGB of the output space (3, rows, w), 0–1.

    Colour outside the working gamut is drawn toward its own luminance before any logarithm, so
    hue is kept; after the curve the middle channel is put back between the others by
    `hue keeping`; what the output space cannot hold is drawn toward grey of the same luminance.
    Row by row in three passes, so that all but the table look-up run in vector registers.
    """
    w = rgb.shape[2]
    row = np.empty((3, w), np.float32)
    tone = np.empty((3, w), np.float32)
    for r in range(rgb.shape[1]):
        _into_gamut(rgb, r, row)
        for k in range(3):
            _places(row[k], tone[k])
        _look_up(tone, table)
        _to_output(row, tone, coef, out, r)
