"""Where pixels are: source coordinates, the developed plane, and the one resampling."""

from .map import Geometry, View
from .resample import resample, taps

__all__ = ["Geometry", "View", "resample", "taps"]
