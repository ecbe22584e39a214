"""Where pixels are: source coordinates, the developed plane, and the one resampling."""

from .lens import LensShape, fit_even
from .map import Geometry, Trimmed, View
from .plumb import ANGLE_LIMIT, PlumbLine, homography, lies_on, residual, solve
from .resample import Fetch, inside, raster, repeat_edges, resample, taps
from .trim import Box
from .warp import sources, warp

__all__ = [
    "ANGLE_LIMIT",
    "Box",
    "Fetch",
    "Geometry",
    "LensShape",
    "PlumbLine",
    "Trimmed",
    "View",
    "fit_even",
    "homography",
    "inside",
    "lies_on",
    "raster",
    "repeat_edges",
    "resample",
    "residual",
    "solve",
    "sources",
    "taps",
    "warp",
]
