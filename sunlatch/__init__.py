"""Sun Latch, the core: frames, light, latches, moves, the scene document and its rendering."""

__version__ = "0.1.0"
