"""Camera RGB on the sensor's own raster, stage by stage (see plan.py). What reaches beyond its px is computed on a fixed grid of
tiles with an apron, so that views, tiles and files agree."""

from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, Fetch, going_round, inside, repeat_edges
from ..frame import Raster, whole
from ..moves.rescue import MOVE as RESCUE
from ..moves.rescue import RescueParams
from ..running.cache import key_of
from ..running.context import RenderContext
from . import crispness, noise, refocus, rescue
from .kernels import pack, unpack
from .plan import SensorPlan, Stage

F32 = NDArray[np.float32]
TILE: Final = 512
"""Px of a side."""


class SensorStages:
    """One frame's raster under one plan. Cheap to make."""

    def __init__(self, raster: Raster, plan: SensorPlan, context: RenderContext) -> None:
        self.raster = raster
        self._clock = context.clock
        self.plan = plan
        self._tiles, self._models = context.tiles, context.models
        self._pool = context.pool
        neutral = np.array(raster.info.neutral, np.float32)
        self.neutral = neutral / neutral.max()

    def model(self, level: int | None = None, block: Block | None = None) -> noise.NoiseModel:
        """The noise of a block of a level, of the whole where none is named: as the raster states it, else as measured."""
        neutral = (float(self.neutral[0]), float(self.neutral[1]), float(self.neutral[2]))
        level = min(self.raster.levels) if level is None else level
        height, width = self.raster.shape(level)
        stated = self.raster.noise(level, block or Block(0, height, 0, width))
        if stated is not None:
            return noise.NoiseModel(stated[0], stated[1], neutral)

        def make() -> F32:
            finest = min(self.raster.levels)
            height, width = self.raster.shape(finest)
            read = self.raster.fetch(finest)
            # bands spread over the frame: the whole of a large one is not needed
            rows = np.unique(np.linspace(0, max(height - 65, 0), 8).astype(int))
            some = [read(int(r), min(int(r) + 64, height), 0, width) for r in rows]
            found = noise.measured(np.concatenate(some, axis=1), neutral)
            return np.array([found.scale, found.offset], np.float32)

        scale, offset = self._models.remember(key_of("noise", self.raster.identity), make)
        return noise.NoiseModel(float(scale), float(offset), neutral)

    def _around(self, revision: int) -> F32:
        """The hue around clipped places, as a revision of Rescue learns it."""

        def make() -> F32:
            small = whole(self.raster, max(self.raster.levels))
            clipped = None
            if self.raster.clipped is not None and revision > 2:
                size = (small.shape[2], small.shape[1])
                shares = cv2.resize(np.asarray(self.raster.clipped), size, interpolation=cv2.INTER_AREA)
                clipped = shares.max(2).astype(np.float32) / 255
            return rescue.hue_around(small, self.neutral, clipped)

        return self._models.remember(key_of("hue", self.raster.identity, revision), make)

    def fetch(self, level: int, stage: Stage) -> Fetch:
        """Reads a pyramid level as a stage leaves it."""
        stage = self.plan.best(stage)
        height, width = self.raster.shape(level)
        read = self.raster.fetch(level)
        if stage in ("rescued", "light"):
            if self.raster.info.colour.rendered or self.raster.info.rescued:
                return read
            return self._round(
                lambda top, bottom, left, right: self._rescued(
                    read(top, bottom, left, right), (height, width), top, left, stage
                ),
                width,
            )

        def fetch(top: int, bottom: int, left: int, right: int) -> F32:
            out = np.empty((3, bottom - top, right - left), np.float32)
            y0, y1, first, last = inside(top, bottom, height)
            x0, x1, start, stop = inside(left, right, width)
            for ty in range(y0 // TILE, (y1 - 1) // TILE + 1):
                for tx in range(x0 // TILE, (x1 - 1) // TILE + 1):
                    tile = self._tile(level, stage, ty, tx)
                    a, b = max(ty * TILE, y0), min(ty * TILE + tile.shape[1], y1)
                    c, d = max(tx * TILE, x0), min(tx * TILE + tile.shape[2], x1)
                    rows, columns = (
                        slice(first + a - y0, first + b - y0),
                        slice(start + c - x0, start + d - x0),
                    )
                    part = tile[:, a - ty * TILE : b - ty * TILE, c - tx * TILE : d - tx * TILE]
                    unpack(part, out[:, rows, columns])
            repeat_edges(out, first, last, start, stop)
            return out

        return self._round(fetch, width)

    def _round(self, read: Fetch, width: int) -> Fetch:
        return going_round(read, width) if self.raster.wraps else read

    def _rescued(self, planes: F32, shape: tuple[int, int], top: int, left: int, stage: Stage) -> F32:
        """Clipped channels rebuilt, in place, in a block at (top, left) of a level of this shape."""
        if float(planes.max()) <= rescue.STARTS and (stage == "rescued" or self.plan.rescue_revision > 1):
            return planes
        height, width = shape
        place = np.array([(left + 0.5) / width, (top + 0.5) / height, 1 / width, 1 / height])
        if stage == "light" and self.plan.rescue_revision == 1:
            rescue.roll_off(planes, self.neutral)
            return planes
        held = self.plan.rescue if stage == "light" else RescueParams()
        if held.amount > 0:
            revision = RESCUE.revision if stage == "rescued" else self.plan.rescue_revision
            how = [np.float32(x) for x in (held.amount, held.hue)]
            rescue.rescue(planes, self.neutral, self._around(revision), place, *how)
        return planes

    def tiles_of(self, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> tuple[Any, Any]:
        """The tiles that px lie on, by row and column."""
        return rows // TILE, columns // TILE

    def _tile(self, level: int, stage: Stage, ty: int, tx: int) -> NDArray[np.uint16]:
        """A tile (3, h, w) of a stage that looks around itself, as the bits of half floats."""

        def make() -> NDArray[Any]:
            return self._work(level, stage, ty, tx)

        height, width = self.raster.shape(level)
        bottom, right = min((ty + 1) * TILE, height), min((tx + 1) * TILE, width)
        seen = Block(ty * TILE, bottom, tx * TILE, right)
        key = key_of("tile", self.name_of(level, seen), self.plan.key(stage), level, ty, tx)
        return self._tiles.remember(key, make)

    def name_of(self, level: int, block: Block) -> str:
        """Names all that camera RGB of a block of a level depends on, at any stage, but the plan: what lies there and
        as far around as stages look, and what is learned of the whole to rebuild what clipped."""
        room = noise.APRON + refocus.APRON + crispness.APRON
        top, bottom, left, right = block
        around = Block(top - room, bottom + room, left - room, right + room)
        clips = self.raster.info.clipped
        learned = "" if clips is not None and not any(clips) else self.raster.identity
        if self.raster.noise(level, block) is None:
            learned = self.raster.identity
        return key_of(self.raster.identity_of(level, around), learned)

    def _padded(self, level: int, ty: int, tx: int, apron: int) -> F32:
        height, width = self.raster.shape(level)
        bottom, right = min((ty + 1) * TILE, height), min((tx + 1) * TILE, width)
        return self.fetch(level, "light")(ty * TILE - apron, bottom + apron, tx * TILE - apron, right + apron)

    def _work(self, level: int, stage: Stage, ty: int, tx: int) -> NDArray[np.uint16]:
        sharpens = self.plan.refocuses and stage in ("refocused", "crisp")
        apron = (noise.APRON if self.plan.smooths else 0) + (crispness.APRON if stage == "crisp" else 0)
        apron += refocus.APRON if sharpens else 0
        planes = self._padded(level, ty, tx, apron)
        model = self.model(level, Block(ty * TILE, (ty + 1) * TILE, tx * TILE, (tx + 1) * TILE))
        self._smooth(planes, level, model)
        if sharpens:
            f = self.plan.refocus
            with self._clock.step("refocus"):
                refocus.refocus(planes, level, model, f.amount, f.radius, f.ring, f.floor, self.noise_left)
        if stage == "crisp":
            c = self.plan.crispness
            with self._clock.step("crispness"):
                crispness.crisp(planes, level, model, c.amount, c.radius, c.edges, c.floor, self.noise_left)
        inner = planes[:, apron : planes.shape[1] - apron, apron : planes.shape[2] - apron]
        bits = np.empty(inner.shape, np.uint16)
        pack(inner, bits)
        return bits

    def _smooth(self, planes: F32, level: int, model: noise.NoiseModel) -> None:
        n = self.plan.noise
        if self.plan.smooths:
            with self._clock.step("noise"):
                noise.smooth(planes, level, model, n.light, n.colour, n.grain)

    @property
    def noise_left(self) -> float:
        """The share of the noise that Noise leaves for Crispness to keep clear of."""
        n = self.plan.noise
        return max(1 - min(n.light, 1.0) * (1 - n.grain), 0.15)

    def _size(self, level: int) -> tuple[int, int]:
        """(width, height) of a level."""
        height, width = self.raster.shape(level)
        return width, height
