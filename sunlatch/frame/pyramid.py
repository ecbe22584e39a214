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
    """An opened pyramid. `levels[k]` is camera RGB (h, w, 3) float16, memory-mapped."""

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
    def first_level(self) -> int:
        """0 for a whole pyramid, 1 for a quick one."""
        return min(self.levels)

    def level_for(self, scale: float) -> int:
        """The level to sample for an output at `scale` output px per full px: nearest not coarser."""
        level = 0
        while level + 1 in self.levels and scale * 2 ** (level + 1) <= 1.0 + 1e-9:
            level += 1
        return max(level, self.first_level)
