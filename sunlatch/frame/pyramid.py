"""A frame on disk as a pyramid of half sizes: camera RGB, float16, memory-mapped.

Level k is the frame reduced 2^k times by area. "first" pyramids begin at level 1 (a quick half-size
decode, to be looked at while the whole one is made); "whole" ones at level 0. Beside the levels
lies the share of clipped photosites per channel at half size.
"""

import json
import os
import shutil
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, Fetch, reader
from ..running.arrays import load
from .binning import halve
from .metadata import FrameInfo

F16 = NDArray[np.float16]
BAND = 256
SMALLEST = 400
"""The pyramid stops at the first level whose long edge is at most this, in px."""


def in_bands(pixels: F16) -> Iterator[F16]:
    """A picture that is there whole, band by band."""
    return (pixels[r : r + BAND] for r in range(0, len(pixels), BAND))


def write_pyramid(
    folder: Path,
    info: FrameInfo,
    size: tuple[int, int],
    bands: Iterable[F16],
    clipped: Callable[[], NDArray[np.uint8] | None] = lambda: None,
    first_level: int = 0,
    beside: Mapping[str, NDArray[Any]] | None = None,
) -> None:
    """Write a pyramid folder whole or not at all. bands: level `first_level` of (height, width) `size` from top to
    bottom, (rows, w, 3) each; no more than a band of any level is held. clipped: asked once they are all there;
    beside: what else belongs to it, by file name."""
    part = folder.with_name(f"{folder.name}.part{os.getpid()}")
    shutil.rmtree(part, ignore_errors=True)
    part.mkdir(parents=True)
    try:
        top = _Level(part, size, first_level)
        for band in bands:
            top.put(band)
        last = top.end()
        shares = clipped()
        if shares is not None:
            np.save(part / "clipped.npy", shares)
        for name, array in (beside or {}).items():
            np.save(part / name, array)
        meta = {"first_level": first_level, "last_level": last, "info": info.model_dump(mode="json")}
        (part / "meta.json").write_text(json.dumps(meta))
        shutil.rmtree(folder, ignore_errors=True)
        part.rename(folder)
    finally:
        shutil.rmtree(part, ignore_errors=True)


class _Level:
    """A level being written, and those below it."""

    def __init__(self, folder: Path, size: tuple[int, int], number: int) -> None:
        self.number = number
        self.size = size
        self._file = (folder / f"L{number}.npy").open("wb")
        shape = (*size, 3)
        header = {
            "descr": np.lib.format.dtype_to_descr(np.dtype(np.float16)),
            "fortran_order": False,
            "shape": shape,
        }
        np.lib.format.write_array_header_1_0(self._file, header)
        self._rows = 0
        self._odd: F16 | None = None
        half = (-(-size[0] // 2), -(-size[1] // 2))
        self.next = _Level(folder, half, number + 1) if max(size) > SMALLEST else None

    def put(self, rows: F16) -> None:
        """The next rows; what makes pairs goes on to the level below."""
        rows = np.ascontiguousarray(rows, np.float16)
        self._file.write(rows.data)
        self._rows += len(rows)
        if self.next is not None:
            if self._odd is not None:
                rows = np.concatenate([self._odd, rows])
            even = len(rows) // 2 * 2
            self._odd = rows[even:].copy() if even < len(rows) else None
            if even:
                self.next.put(halve(rows[:even]))

    def end(self) -> int:
        """No more rows come: an odd last one is its own neighbour. Gives the last level there is."""
        if self.next is not None and self._odd is not None:
            self.next.put(halve(self._odd))
        self._file.close()
        assert self._rows == self.size[0], "a pyramid was given fewer rows than it has"
        return self.next.end() if self.next else self.number


@dataclass(frozen=True)
class Pyramid:
    """An opened pyramid, a raster. `levels[k]` is camera RGB (h, w, 3) float16, memory-mapped."""

    key: str
    info: FrameInfo
    levels: dict[int, F16]
    clipped: NDArray[np.uint8] | None
    folder: Path | None = None

    @property
    def wraps(self) -> bool:
        """A frame ends at its edges."""
        return False

    @staticmethod
    def open(folder: Path, key: str) -> "Pyramid":
        """Open a pyramid folder; `key` names its contents for the render cache."""
        meta = json.loads((folder / "meta.json").read_text())
        levels = {
            k: load(folder / f"L{k}.npy", mapped=True)
            for k in range(meta["first_level"], meta["last_level"] + 1)
        }
        clipped_path = folder / "clipped.npy"
        clipped = load(clipped_path, mapped=True) if clipped_path.exists() else None
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

    def coverage(self, level: int) -> None:
        """Everywhere."""

    def noise(self, level: int, block: Block) -> tuple[float, float] | None:
        """As the file states it, the same everywhere."""
        return self.info.noise_profile

    @property
    def home(self) -> Path | None:
        """Where all that is known of the frame lies."""
        return self.folder and self.folder.parent
