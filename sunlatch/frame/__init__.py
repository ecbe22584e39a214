"""Open any frame: decode in a child process, keep a pyramid on disk, say what the camera knew."""

from .decoder import Decoder, Decoders
from .metadata import FrameInfo
from .pyramid import Pyramid, write_pyramid
from .raster import Raster, level_for, per_of, span_of, whole
from .store import FrameStore, hash_file

__all__ = [
    "Decoder",
    "Decoders",
    "FrameInfo",
    "FrameStore",
    "Pyramid",
    "Raster",
    "hash_file",
    "level_for",
    "per_of",
    "span_of",
    "whole",
    "write_pyramid",
]
