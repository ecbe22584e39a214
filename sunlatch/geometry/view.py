"""What is asked for of a picture: a part of it at a size, and what of it is kept."""

import math
from dataclasses import dataclass
from typing import Final

USUAL_ASPECT: Final = 1.8
"""No frame is longer than this; pictures of many frames are."""


@dataclass(frozen=True)
class View:
    """What is asked for: a region of the developed picture as fractions (x0, y0, x1, y1) of its
    width and height (beyond 0 and 1 lies what Trim cut away), and the size (width, height) in px
    it is wanted in."""

    region: tuple[float, float, float, float]
    size: tuple[int, int]

    def rows(self, first: int, last: int) -> "View":
        """The same view cut down to some of its rows."""
        x0, y0, x1, y1 = self.region
        dv = (y1 - y0) / self.size[1]
        return View((x0, y0 + first * dv, x1, y0 + last * dv), (self.size[0], last - first))


@dataclass(frozen=True)
class Trimmed:
    """What is kept. centre: in source coordinates, None for the best place; width, height: None for
    the largest; aspect: width / height; None for free, or where nothing else is set for the frame's own; shift: of an unplaced box, in long edges;
    empty: True where empty corners were asked for."""

    centre: tuple[float, float] | None = None
    width: float | None = None
    height: float | None = None
    aspect: float | None = None
    shift: tuple[float, float] = (0.0, 0.0)
    empty: bool = False


def widened(width: float, height: float) -> float:
    """How many times longer than a frame's the long edge of a picture must be, to be as many px."""
    return max(1.0, math.sqrt(max(width, height) / min(width, height) / USUAL_ASPECT))
