"""OKLab (Ottosson 2020): lightness and two opponent axes in which distances look about equal."""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from .spaces import rgb_to_xyz

F64 = NDArray[np.float64]

XYZ_TO_LMS: Final = np.array(
    [
        [0.8189330101, 0.3618667424, -0.1288597137],
        [0.0329845436, 0.9293118715, 0.0361456387],
        [0.0482003018, 0.2643662691, 0.6338517070],
    ]
)
ROOTS_TO_LAB: Final = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
WORKING_TO_LMS: Final = XYZ_TO_LMS @ rgb_to_xyz("rec2020")
LAB_TO_ROOTS: Final = np.linalg.inv(ROOTS_TO_LAB)
LMS_TO_WORKING: Final = np.linalg.inv(WORKING_TO_LMS)


def from_oklab(lab: F64) -> F64:
    """OKLab (..., 3) to working RGB (..., 3), linear."""
    return np.asarray((np.asarray(lab) @ LAB_TO_ROOTS.T) ** 3 @ LMS_TO_WORKING.T)


def oklab(rgb: F64) -> F64:
    """Working RGB (..., 3), linear, to OKLab (..., 3); white is (1, 0, 0)."""
    return np.asarray(np.cbrt(np.asarray(rgb) @ WORKING_TO_LMS.T) @ ROOTS_TO_LAB.T)
