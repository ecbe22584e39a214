"""What a picture shows, found by looking at it: no models to download, only the picture itself."""

from .horizon import SteppedLine, find_line
from .sky import find_sky, matted_sky

__all__ = ["SteppedLine", "find_line", "find_sky", "matted_sky"]
