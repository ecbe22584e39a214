"""Where pixels are: source coordinates, the developed plane, and the one resampling."""

from .filters import phase_table, taps
from .lens import LensShape, fit_even
from .map import Geometry, Trimmed, View
from .plumb import ANGLE_LIMIT, PlumbLine, homography, lies_on, residual, solve
from .resample import resample, separable
from .trim import Box
from .warp import Drawn, origins, warp

__all__ = [
    "ANGLE_LIMIT",
    "Box",
    "Drawn",
    "Geometry",
    "LensShape",
    "PlumbLine",
    "Trimmed",
    "View",
    "fit_even",
    "homography",
    "lies_on",
    "origins",
    "phase_table",
    "resample",
    "residual",
    "separable",
    "solve",
    "taps",
    "warp",
]
