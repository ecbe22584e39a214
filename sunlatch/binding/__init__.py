"""A document bound to a frame's numbers: coordinate maps, the lens."""

from .maps import map_of

__all__ = ["map_of"]
