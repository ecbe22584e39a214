"""Where pixels are: source coordinates, the developed plane, and the one resampling."""

from .map import Geometry, View
from .resample import resample

__all__ = ["Geometry", "View", "resample"]
