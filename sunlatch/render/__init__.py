"""From a scene and its frame to pixels: plan, cache, kernels over bands, export."""

from .cache import ByteCache
from .develop import Development
from .engine import Engine
from .ground import map_of
from .output import SCREEN, Output
from .picture import Progress, bands_of, picture_8

__all__ = [
    "SCREEN", "ByteCache", "Development", "Engine", "Output", "Progress", "bands_of", "map_of", "picture_8",
]  # fmt: skip
