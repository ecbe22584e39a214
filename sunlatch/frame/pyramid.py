"""A frame on disk as a pyramid of half sizes: camera RGB, float16, memory-mapped.

Level k is the frame reduced 2^k times by area. "first" pyramids begin at level 1 (a quick half-size
decode, to be looked at while the whole one is made); "whole" ones at level 0. Beside the levels
lies the share of clipped photosites per channel at half size.
"""

import json
import os
import shutil
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, Fetch, reader
from .binning import halve
from .metadata import FrameInfo

F16 = NDArray[np.float16]
SMALLEST = 400
"""The pyramid stops at the first level whose long edge is at most this, in px."""


def write_pyramid(
    folder: Path, info: FrameInfo, pixels: F16, clipped: NDArray[np.uint8] | None, first_level: int
) -> None:
    """Write a pyramid folder whole or not at all. `pixels` is level `first_level`."""
    part = folder.with_name(f"{folder.name}.part{os.getpid()}")
    shutil.rmtree(part, ignore_errors=True)
    part.mkdir(parents=True)
    try:
        level, picture = first_level, pixels
        while True:
            np.save(part / f"L{level}.npy", picture)
            if max(picture.shape[:2]) <= SMALLEST:
                break
            picture, level = halve(picture), level + 1
        if clipped is not None:
            np.save(part / "clipped.npy", clipped)
        meta = {"first_level": first_level, "last_level": level, "info": info.model_dump(mode="json")}
        (part / "meta.json").write_text(json.dumps(meta))
        shutil.rmtree(folder, ignore_errors=True)
        part.rename(folder)
    finally:
        shutil.rmtree(part, ignore_errors=True)


@dataclass(frozen=True)
class Pyramid:
    """An opened pyramid, a raster. `levels[k]` is camera RGB (h, w, 3) float16, memory-mapped."""

    key: str
    info: FrameInfo
    levels: dict[int, F16]
    clipped: NDArray[np.uint8] | None
    folder: Path | None = None

    @staticmethod
    def open(folder: Path, key: str) -> "Pyramid":
        """Open a pyramid folder; `key` names its contents for the render cache."""
        meta = json.loads((folder / "meta.json").read_text())
        levels = {
            k: np.load(folder / f"L{k}.npy", mmap_mode="r")
            for k in range(meta["first_level"], meta["last_level"] + 1)
        }
        clipped_path = folder / "clipped.npy"
        clipped = np.load(clipped_path, mmap_mode="r") if clipped_path.exists() else None
        return Pyramid(key, FrameInfo.model_validate(meta["info"]), levels, clipped, folder)

    @property
    def complete(self) -> bool:
        """False for a quick one."""
        return min(self.levels) == 0

    @property
    def identity(self) -> str:
        """Its key: a frame never changes."""
        return self.key

    def identity_of(self, level: int, block: Block) -> str:
        """The same for every block."""
        return self.key

    def shape(self, level: int) -> tuple[int, int]:
        """(height, width) of a level."""
        height, width = self.levels[level].shape[:2]
        return int(height), int(width)

    def fetch(self, level: int) -> Fetch:
        """Reads blocks of a level."""
        return reader(self.levels[level])

    @property
    def noise(self) -> tuple[float, float] | None:
        """As the file states it."""
        return self.info.noise_profile

    @property
    def home(self) -> Path | None:
        """Where all that is known of the frame lies."""
        return self.folder and self.folder.parent
