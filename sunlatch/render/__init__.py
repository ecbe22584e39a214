"""From a scene and its frame to pixels: plan, cache, kernels over bands, export."""

from .areas import area_of, to_source
from .cache import ByteCache
from .develop import Development
from .engine import Engine
from .ground import map_of
from .output import SCREEN, Output, Proof
from .picture import EXPORT_BAND, Progress, bands_of, picture_8
from .sharpening import Sharpness
from .skies import WATER

__all__ = [
    "EXPORT_BAND", "SCREEN", "WATER", "ByteCache", "Development", "Engine", "Output", "Progress", "Proof", "Sharpness", "area_of", "bands_of", "map_of",
    "picture_8", "to_source",
]  # fmt: skip
