"""Rows of px in OKLab and back, for moves of colour; and colours as they are typed.

Light is not bounded here: OKLab grows with the cube root of light, so a brighter px of the same colour has
the same a/L and b/L, which is what moves of colour ask after.
"""

from functools import lru_cache

import numpy as np

from ..colour import LAB_TO_ROOTS, LMS_TO_WORKING, LUMA, ROOTS_TO_LAB, WORKING_TO_LMS, working_of_srgb
from ..compiled import part
from ..fastmath import cbrt, exp2
from .base import F32

_IN, _ROOTS = WORKING_TO_LMS.astype(np.float32), ROOTS_TO_LAB.astype(np.float32)
_BACK, _OUT = LAB_TO_ROOTS.astype(np.float32), LMS_TO_WORKING.astype(np.float32)
_ZERO = np.float32(0)


@part
def row_to_lab(a, b, d, lab):  # type: ignore[no-untyped-def]
    """Working RGB rows (w,) to OKLab (3, w)."""
    for c in range(a.size):
        p = cbrt(_IN[0, 0] * a[c] + _IN[0, 1] * b[c] + _IN[0, 2] * d[c])
        q = cbrt(_IN[1, 0] * a[c] + _IN[1, 1] * b[c] + _IN[1, 2] * d[c])
        s = cbrt(_IN[2, 0] * a[c] + _IN[2, 1] * b[c] + _IN[2, 2] * d[c])
        lab[0, c] = _ROOTS[0, 0] * p + _ROOTS[0, 1] * q + _ROOTS[0, 2] * s
        lab[1, c] = _ROOTS[1, 0] * p + _ROOTS[1, 1] * q + _ROOTS[1, 2] * s
        lab[2, c] = _ROOTS[2, 0] * p + _ROOTS[2, 1] * q + _ROOTS[2, 2] * s


@part
def row_from_lab(lab, mask, a, b, d):  # type: ignore[no-untyped-def]
    """OKLab (3, w) to working RGB rows (w,), where a mask is more than nothing."""
    for c in range(a.size):
        p = _BACK[0, 0] * lab[0, c] + _BACK[0, 1] * lab[1, c] + _BACK[0, 2] * lab[2, c]
        q = _BACK[1, 0] * lab[0, c] + _BACK[1, 1] * lab[1, c] + _BACK[1, 2] * lab[2, c]
        s = _BACK[2, 0] * lab[0, c] + _BACK[2, 1] * lab[1, c] + _BACK[2, 2] * lab[2, c]
        p, q, s = p * p * p, q * q * q, s * s * s
        x = _OUT[0, 0] * p + _OUT[0, 1] * q + _OUT[0, 2] * s
        y = _OUT[1, 0] * p + _OUT[1, 1] * q + _OUT[1, 2] * s
        z = _OUT[2, 0] * p + _OUT[2, 1] * q + _OUT[2, 2] * s
        a[c] = x if mask[c] > _ZERO else a[c]
        b[c] = y if mask[c] > _ZERO else b[c]
        d[c] = z if mask[c] > _ZERO else d[c]


@part
def row_by_stops(stops, mask, a, b, d):  # type: ignore[no-untyped-def]
    """Working RGB rows (w,) times 2^(mask·stops); `stops` becomes the gain. In four loops: where one loop writes
    several arrays the compiler has too many pairs to tell apart, and does not use vector registers."""
    for c in range(stops.size):
        stops[c] = exp2(mask[c] * stops[c])
    for c in range(stops.size):
        a[c] *= stops[c]
    for c in range(stops.size):
        b[c] *= stops[c]
    for c in range(stops.size):
        d[c] *= stops[c]


@part
def row_blended(mask, before, after):  # type: ignore[no-untyped-def]
    """`after` (3, w) becomes the way from `before` to it that a mask goes."""
    for k in range(3):
        for c in range(mask.size):
            after[k, c] = before[k, c] + mask[c] * (after[k, c] - before[k, c])


@part
def row_mixed(m, mask, a, b, d, before, after, made):  # type: ignore[no-untyped-def]
    """Working RGB rows times a 3×3 (9,), blended in OKLab by a mask. before, after, made: (3, w) to work in."""
    row_to_lab(a, b, d, before)
    for c in range(a.size):
        x = m[0] * a[c] + m[1] * b[c] + m[2] * d[c]
        y = m[3] * a[c] + m[4] * b[c] + m[5] * d[c]
        z = m[6] * a[c] + m[7] * b[c] + m[8] * d[c]
        made[0, c], made[1, c], made[2, c] = x, y, z
    row_to_lab(made[0], made[1], made[2], after)
    row_blended(mask, before, after)
    row_from_lab(after, mask, a, b, d)


@lru_cache(64)
def of_one_light(colour: str) -> F32:
    """Working RGB (3,) of a typed colour, at a luminance of 1. Black has no colour and counts as white."""
    typed = np.array([int(colour[n : n + 2], 16) for n in (1, 3, 5)]) / 255
    rgb = working_of_srgb(typed)
    luma = float(LUMA @ rgb)
    return (rgb / luma).astype(np.float32) if luma > 1e-5 else np.ones(3, np.float32)
