"""A raster with room around it, in which nothing is shown: where what is to be grown reaches beyond a frame's edges."""

from collections.abc import Collection

import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, Fetch
from ..errors import MendError
from ..frame import Raster, per_of, span_of
from ..ledger import Area
from .area import reach_of

F32 = NDArray[np.float32]
FARTHEST = 0.5
"""Long edges beyond the picture that may be grown."""
EDGE = 6.0
"""Px by which a place may miss the edge and still end at it."""


class Wider:
    """See the module. room: px of its finest level, on every side."""

    def __init__(self, under: Raster, room: int) -> None:
        self.under, self.room, self._base = under, room, min(under.levels)

    @property
    def levels(self) -> Collection[int]:
        """As beneath."""
        return self.under.levels

    def at(self, level: int) -> int:
        """Px of a level on every side."""
        return self.room >> (level - self._base)

    def shape(self, level: int) -> tuple[int, int]:
        """(height, width) of a level with its room."""
        height, width = self.under.shape(level)
        return height + 2 * self.at(level), width + 2 * self.at(level)

    def span(self, level: int) -> Block:
        """Where places of a level may lie."""
        (height, width), room = self.shape(level), self.at(level)
        beneath = span_of(self.under, level)
        if self.under.wraps:
            return Block(0, height, beneath.left + room, beneath.right + room)
        return Block(0, height, 0, width)

    def fetch(self, level: int) -> Fetch:
        """Reads a level; its edges are repeated around it."""
        read, room = self.under.fetch(level), self.at(level)
        return lambda top, bottom, left, right: read(top - room, bottom - room, left - room, right - room)

    def coverage(self, level: int) -> Fetch:
        """Where anything is shown."""
        under, room = self.under.coverage(level), self.at(level)
        height, width = self.under.shape(level)

        def fetch(top: int, bottom: int, left: int, right: int) -> F32:
            rows, columns = np.arange(top, bottom) - room, np.arange(left, right) - room
            along = (columns >= 0) & (columns < width) | self.under.wraps
            there = (((rows >= 0) & (rows < height))[:, None] & along[None]).astype(np.float32)
            if under is not None:
                there *= under(top - room, bottom - room, left - room, right - room)[0]
            return there[None]

        return fetch


def room_for(raster: Raster, area: Area) -> int:
    """Px of the raster's finest level that an area needs around it; 0 where it lies on it. Raises MendError where that is too
    far."""
    per, (height, width) = per_of(raster), raster.shape(min(raster.levels))
    low, high = reach_of(area, per)
    over = max(-low[1], high[1] - height)
    if not raster.wraps:
        over = max(over, -low[0], high[0] - width)
    if over <= EDGE:
        return 0
    if over > FARTHEST * per:
        raise MendError("This reaches too far beyond the picture; outline a place nearer to it.")
    step = 1 << (max(raster.levels) - min(raster.levels))
    return int(-(-(over + 16) // step)) * step
