"""A join's light as a raster: its pyramid, what of it is covered, what goes round, and how noisy it is."""

import hashlib
import json
from abc import ABC, abstractmethod
from collections.abc import Collection
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import Any, ClassVar, Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..binding.maps import master_of, outline_of
from ..blocks import Block, Fetch, going_round, px_of
from ..frame import FrameInfo, Pyramid
from ..geometry import View
from ..ledger import Bracket, FrameBase, Scene, Sweep
from ..lookup import looked_up
from ..running.arrays import load
from ..sensor.ground import Ground
from .projected import BORDER

F32 = NDArray[np.float32]
U8 = NDArray[np.uint8]

REVISION: Final = "j1"
"""Raised when joining makes other px of the same solution."""


EVERY: Final = 8
"""Px between places at which coverage is asked."""
HOLDS: Final = 0.8
"""An exposure holds light up to this share of what clips it."""
NOISES: Final = "noises.npy"
"""Beside the levels: scale and offset of the noise of each frame that is in; from revision 4 of a sweep on."""
SEAMS: Final = "seams.npy"
"""Beside the levels: which of the frames that are in is shown where, at the small size; −1 where none is."""


def key_of_join(scene: Scene) -> str:
    """Names the px of a scene's join: its solution and its frames, not what was told of how it was found."""
    base = scene.base
    assert not isinstance(base, FrameBase)
    solution = base.model_dump(mode="json", exclude={"pairs", "left_out", "members"})
    if not base.painted:
        del solution["painted"]
    members = [
        _of_old(m.model_dump(mode="json", exclude={"residual", "source", "on", "bracket"}))
        for m in base.enabled
    ]
    hashes = [scene.source(m.source).sha256 for m in base.enabled]
    hashes += [key_of_join(merged_first(scene, bracket)) for bracket in base.brackets]
    solution["anchor"] = scene.anchor.sha256
    text = json.dumps([REVISION, _of_old(solution), members, hashes], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def _of_old(names: dict[str, Any]) -> dict[str, Any]:
    """The same by the words of documents before version 9: joins that were made then are not made again."""
    words = {"rotation": "turn", "distortion": "bend", "vignetting": "fall"}
    return {words.get(word, word): value for word, value in names.items()}


def merged_first(scene: Scene, bracket: Bracket) -> Scene:
    """A bracket that is a member of a sweep, as a scene of its own."""
    own = set(bracket.sources)
    return Scene(sources=[s for s in scene.sources if s.id in own], base=bracket)


@dataclass(frozen=True)
class Joined(ABC):
    """The raster of a join."""

    pyramid: Pyramid
    wraps: ClassVar[bool] = False
    """Whether it goes all the way round."""

    @property
    def info(self) -> FrameInfo:
        """As the anchor's, but for its size."""
        return self.pyramid.info

    @property
    def levels(self) -> Collection[int]:
        """The levels there are."""
        return self.pyramid.levels

    @property
    def complete(self) -> bool:
        """False while the whole is still being joined."""
        return self.pyramid.complete

    @property
    def identity(self) -> str:
        """Its solution's name."""
        return self.pyramid.identity

    def identity_of(self, level: int, block: Block) -> str:
        """The same for every block."""
        return self.pyramid.identity

    def shape(self, level: int) -> tuple[int, int]:
        """(height, width) of a level."""
        return self.pyramid.shape(level)

    def fetch(self, level: int) -> Fetch:
        """Reads blocks of a level."""
        return self.pyramid.fetch(level)

    def coverage(self, level: int) -> Fetch | None:
        """Reads blocks of whether any frame holds each px: 1 or 0; None where all are."""
        return None

    @cached_property
    def seams(self) -> NDArray[np.int8]:
        """Which of `shown` is shown where (h, w), by index; −1 where none is."""
        assert self.pyramid.folder is not None
        return load(self.pyramid.folder / SEAMS)

    @property
    @abstractmethod
    def shown(self) -> list[str]:
        """The sources that are in, as its seams count them."""

    @property
    def clipped(self) -> U8 | None:
        """What clipped was rebuilt frame by frame."""
        return None

    def noise(self, level: int, block: Block) -> tuple[float, float] | None:
        """(scale, offset) of a block: as the anchor's file states it."""
        return self.info.noise_profile

    @property
    def home(self) -> Path | None:
        """Where all that is known of it lies."""
        return self.pyramid.home


@dataclass(frozen=True)
class JoinedBracket(Joined):
    """The raster of a bracket. Its seams say which exposure is believed alone, where something moved."""

    base: Bracket
    _light: dict[int, F32] = field(default_factory=dict, compare=False, repr=False)

    @staticmethod
    def facts(base: Bracket, chief: FrameInfo) -> FrameInfo:
        """What it says of itself: as its anchor, but that what clipped was rebuilt, and how much further its light reaches."""
        return chief.model_copy(update={"rescued": True, "clipped": None, "headroom": base.headroom})

    @property
    def shown(self) -> list[str]:
        """The sources that are in, as its seams count them."""
        return [m.source for m in sorted(self.base.enabled, key=lambda m: m.ev)]

    def noise(self, level: int, block: Block) -> tuple[float, float] | None:
        """What is left of what the anchor's file states, where its longer exposures hold."""
        stated = super().noise(level, block)
        if stated is None:
            return stated
        coarsest = max(self.levels)
        if coarsest not in self._light:
            h, w = self.shape(coarsest)
            self._light[coarsest] = self.pyramid.fetch(coarsest)(0, h, 0, w)[1]
        small = self._light[coarsest]
        height, width = self.shape(level)
        rows = slice(
            max(0, block.top * small.shape[0] // height), max(1, -(-block.bottom * small.shape[0] // height))
        )
        columns = slice(
            max(0, block.left * small.shape[1] // width), max(1, -(-block.right * small.shape[1] // width))
        )
        here = small[rows, columns]
        light = float(np.percentile(here, 75)) if here.size else 0.1
        times = [2.0**m.ev for m in self.base.enabled]
        held = [t for t in times if light * t < HOLDS] or [min(times)]
        return stated[0] / sum(held), stated[1] / sum(t * t for t in held)


@dataclass(frozen=True)
class JoinedSweep(Joined):
    """The raster of a sweep."""

    base: Sweep

    @staticmethod
    def facts(base: Sweep, chief: FrameInfo) -> FrameInfo:
        """What it says of itself: as its anchor, but for its size, that nothing is left of its frames' lenses, that what clipped
        was rebuilt, and how much further its light reaches."""
        return chief.model_copy(
            update={
                "width": base.size[0], "height": base.size[1], "orientation": 1, "unit": base.unit, "lens_tags": "",
                "rescued": True, "clipped": None, "headroom": base.headroom,
            }
        )  # fmt: skip

    @property
    def shown(self) -> list[str]:
        """The sources that are in, as its seams count them."""
        return [m.source for m in self.base.enabled]

    @cached_property
    def wraps(self) -> bool:  # type: ignore[override]
        """Whether it goes all the way round."""
        return master_of(self.base).wraps

    def fetch(self, level: int) -> Fetch:
        """Reads blocks of a level; past its right edge its left goes on, where it goes all the way round."""
        read = self.pyramid.fetch(level)
        return going_round(read, self.shape(level)[1]) if self.wraps else read

    def coverage(self, level: int) -> Fetch | None:
        """Reads blocks of whether any frame holds each px: 1 or 0."""
        master, outline = master_of(self.base), outline_of(self.base)
        width = self.shape(level)[1]
        scale = master.size[0] / width

        def read(top: int, bottom: int, left: int, right: int) -> F32:
            # how far inside is asked every few px, and is all but straight between
            rows, columns = -(-(bottom - top) // EVERY) + 1, -(-(right - left) // EVERY) + 1
            ys = (top + EVERY * np.arange(rows) + 0.5) * scale
            xs = (left + EVERY * np.arange(columns) + 0.5) * scale
            deep = outline.depth(master.directions(np.stack(np.meshgrid(xs, ys), -1))).astype(np.float32)
            at_x = np.broadcast_to(
                (np.arange(right - left, dtype=np.float32) / EVERY)[None], (bottom - top, right - left)
            )
            at_y = np.broadcast_to((np.arange(bottom - top, dtype=np.float32) / EVERY)[:, None], at_x.shape)
            inside = looked_up(
                deep, np.ascontiguousarray(at_x), np.ascontiguousarray(at_y), border=cv2.BORDER_CONSTANT
            )
            return np.asarray(inside > BORDER, np.float32)[None]

        return going_round(read, width) if self.wraps else read

    def noise(self, level: int, block: Block) -> tuple[float, float] | None:
        """That of the frames that are shown in the block, by how much of it they are: the variance of all that is shown is the
        mean of theirs. Before revision 4 as the anchor's file states it."""
        if self._noises is None:
            return super().noise(level, block)
        names, (height, width) = self.seams, self.shape(level)
        rows = np.arange(block.top * names.shape[0] // height, -(-block.bottom * names.shape[0] // height))
        columns = np.arange(block.left * names.shape[1] // width, -(-block.right * names.shape[1] // width))
        rows = px_of(rows, names.shape[0], False)
        shown = names[np.ix_(rows, px_of(columns, names.shape[1], self.wraps))]
        here = self._noises[shown[shown >= 0]]
        scale, offset = (here if len(here) else self._noises).mean(0)
        return float(scale), float(offset)

    @cached_property
    def _noises(self) -> NDArray[np.float64] | None:
        assert self.pyramid.folder is not None
        path = self.pyramid.folder / NOISES
        return load(path) if path.exists() else None


def opened(pyramid: Pyramid, base: Sweep | Bracket) -> JoinedSweep | JoinedBracket:
    """A join's raster as it lies on disk."""
    return JoinedSweep(pyramid, base) if isinstance(base, Sweep) else JoinedBracket(pyramid, base)


def seams_over(ground: Ground, raster: Joined, view: View) -> NDArray[np.int8]:
    """Which of the frames that are in is shown at each px of a view (h, w), by index; −1 where none is."""
    u, v, _ = ground.source_map(view)
    names = raster.seams
    # small px on the rim whose middles show nothing are of the frame beside them
    beside = cv2.dilate((names + 1).astype(np.uint8), np.ones((17, 17), np.uint8)).astype(np.int16) - 1
    names = np.where((names < 0) & isinstance(raster, JoinedSweep), beside, names)
    column = np.clip((u * names.shape[1]).astype(int), 0, names.shape[1] - 1)
    row = np.clip((v * names.shape[0]).astype(int), 0, names.shape[0] - 1)
    inside = (u >= 0) & (u <= 1) & (v >= 0) & (v <= 1)
    return np.where(inside, names[row, column], -1).astype(np.int8)
