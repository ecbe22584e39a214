"""How different two colours look: CIEDE2000 (CIE 142-2001; Sharma, Wu & Dalal 2005)."""

import numpy as np
from numpy.typing import NDArray

from .spaces import D65, rgb_to_xyz, xy_to_xyz

F64 = NDArray[np.float64]


def delta_e(a: F64, b: F64) -> F64:
    """CIEDE2000 between two arrays (..., 3) of linear sRGB display light (Sharma et al. 2005)."""
    return ciede2000(_lab(a), _lab(b))


def lab_of_working(rgb: F64) -> F64:
    """Linear working light (..., 3) as CIE Lab, against its white."""
    return _lab(rgb, "rec2020")


def _lab(rgb: F64, space: str = "srgb") -> F64:
    xyz = rgb @ rgb_to_xyz(space).T / xy_to_xyz(D65)
    f = np.where(xyz > 216 / 24389, np.cbrt(np.maximum(xyz, 1e-9)), (24389 / 27 * xyz + 16) / 116)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], -1)


def ciede2000(one: F64, two: F64) -> F64:
    """The colour difference formula of CIE 142-2001."""
    l1, a1, b1 = np.moveaxis(one, -1, 0)
    l2, a2, b2 = np.moveaxis(two, -1, 0)
    c = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(c**7 / (c**7 + 25.0**7)))
    a1, a2 = a1 * (1 + g), a2 * (1 + g)
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    dl, dc = l2 - l1, c2 - c1
    dh = (h2 - h1 + 180) % 360 - 180
    dh = np.where(c1 * c2 == 0, 0, dh)
    dbig = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh) / 2)
    lm, cm = (l1 + l2) / 2, (c1 + c2) / 2
    hm = np.where(np.abs(h1 - h2) > 180, (h1 + h2 + 360) / 2 % 360, (h1 + h2) / 2)
    hm = np.where(c1 * c2 == 0, h1 + h2, hm)
    t = (
        1
        - 0.17 * np.cos(np.radians(hm - 30))
        + 0.24 * np.cos(np.radians(2 * hm))
        + 0.32 * np.cos(np.radians(3 * hm + 6))
        - 0.20 * np.cos(np.radians(4 * hm - 63))
    )
    sl = 1 + 0.015 * (lm - 50) ** 2 / np.sqrt(20 + (lm - 50) ** 2)
    sc, sh = 1 + 0.045 * cm, 1 + 0.015 * cm * t
    turn = -2 * np.sqrt(cm**7 / (cm**7 + 25.0**7))
    turn = turn * np.sin(np.radians(60 * np.exp(-(((hm - 275) / 25) ** 2))))
    return np.asarray(
        np.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dbig / sh) ** 2 + turn * (dc / sc) * (dbig / sh))
    )
