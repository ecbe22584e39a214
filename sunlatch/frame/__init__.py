"""Open any frame: decode in a child process, keep a pyramid on disk, say what the camera knew."""

from .decoder import Decoder, Decoders
from .metadata import FrameInfo
from .pyramid import Pyramid, write_pyramid
from .raster import Raster, level_for, per_of, span_of, whole
from .store import GONE, FrameStore, Used, hash_file, keep_quota

__all__ = [
    "GONE",
    "Decoder",
    "Decoders",
    "FrameInfo",
    "FrameStore",
    "Pyramid",
    "Raster",
    "Used",
    "hash_file",
    "keep_quota",
    "level_for",
    "per_of",
    "span_of",
    "whole",
    "write_pyramid",
]
