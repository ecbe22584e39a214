"""The raster: the one way in which everything reads light.

A frame's pyramid is one; so is a picture joined of several, and a picture under repairs. Whoever reads through this
need not know which.
"""

from collections.abc import Collection
from pathlib import Path
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, Fetch
from .metadata import FrameInfo

F32 = NDArray[np.float32]
U8 = NDArray[np.uint8]


class Raster(Protocol):
    """Camera RGB in half sizes: level k is the picture reduced 2^k times by area, and all levels agree."""

    @property
    def info(self) -> FrameInfo:
        """The facts of the frame it is, or stands for: size at level 0, orientation, colour."""

    @property
    def levels(self) -> Collection[int]:
        """The levels there are."""

    @property
    def complete(self) -> bool:
        """False while finer levels are still to come: what is learned of it now may be a little different then."""

    @property
    def identity(self) -> str:
        """Names what it holds, the whole of it: of this hangs whatever is learned of the whole picture."""

    def identity_of(self, level: int, block: Block) -> str:
        """Names what a block of a level holds: of this hangs whatever is made of that block alone."""

    def shape(self, level: int) -> tuple[int, int]:
        """(height, width) of a level, px."""

    @property
    def wraps(self) -> bool:
        """Whether it goes all the way round: beyond its right edge its left goes on, and nothing of it ends there."""

    def fetch(self, level: int) -> Fetch:
        """Reads blocks of a level: planes (3, h, w); light clips at 1."""

    def coverage(self, level: int) -> Fetch | None:
        """Reads blocks of what is there at all: a plane (1, h, w), 1 where there is light; None where that is everywhere."""

    @property
    def clipped(self) -> U8 | None:
        """Share of clipped photosites (h, w, 3), 255 for all, at half size; None where that is not known."""

    def noise(self, level: int, block: Block) -> tuple[float, float] | None:
        """Scale and offset of the noise's variance over light in a block, where they are known; else they are measured."""

    @property
    def home(self) -> Path | None:
        """A folder for what recomputes the same; None where nothing is kept."""


def whole(raster: Raster, level: int) -> F32:
    """A whole level: planes (3, h, w)."""
    h, w = raster.shape(level)
    return raster.fetch(level)(0, h, 0, w)


def per_of(raster: Raster, level: int | None = None) -> float:
    """Px of a level, the finest there is where none is named, to one long edge."""
    width = raster.shape(min(raster.levels) if level is None else level)[1]
    return raster.info.long_edge * width / raster.info.width


def span_of(raster: Raster, level: int | None = None) -> Block:
    """Where places of a level, the finest where none is named, may lie: on the picture; on one that goes all the way round also a
    turn before and a turn after it, so that what lies across the cut is one place."""
    h, w = raster.shape(min(raster.levels) if level is None else level)
    return Block(0, h, -w, 2 * w) if raster.wraps else Block(0, h, 0, w)


def level_for(raster: Raster, scale: float) -> int:
    """The level to sample for an output at `scale` output px per full px: nearest not coarser."""
    level = 0
    while level + 1 in raster.levels and scale * 2 ** (level + 1) <= 1.0 + 1e-9:
        level += 1
    return max(level, min(raster.levels))
