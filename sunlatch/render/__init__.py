"""Developing: a scene and its raster to px. Plan, kernels over bands, pictures, files."""

from .areas import area_of, to_source
from .develop import Development
from .engine import Engine
from .output import SCREEN, Output, Proof
from .picture import EXPORT_BAND, Progress, bands_of, picture_8
from .sharpening import Sharpness

__all__ = [
    "EXPORT_BAND", "SCREEN", "Development", "Engine", "Output", "Progress", "Proof", "Sharpness", "area_of", "bands_of",
    "picture_8", "to_source",
]  # fmt: skip
