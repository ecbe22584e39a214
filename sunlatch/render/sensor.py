"""Camera RGB over a view: what happens on the sensor's raster, then the one resampling.

Stages, each on top of the last: "rescued" (as latches read it: always with Rescue's own defaults),
"light" (with the scene's Rescue), "smooth" (Noise), "crisp" (Crispness). What reaches beyond its px
is computed on a fixed grid of tiles with an apron, so that views, tiles and files agree.
"""

from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Any, Final, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from ..frame import Pyramid
from ..geometry import Fetch, Geometry, View, inside, raster, repeat_edges, resample, warp
from ..moves.crispness import CrispnessParams
from ..moves.noise import NoiseParams
from ..moves.rescue import MOVE as RESCUE
from ..moves.rescue import RescueParams
from ..patience import go_on
from . import crispness, noise, rescue
from .cache import ByteCache, key_of
from .clock import Clock
from .kernels import mix, pack, unpack

F32 = NDArray[np.float32]
Stage = Literal["rescued", "light", "smooth", "crisp"]
STAGES: Final[tuple[Stage, ...]] = ("rescued", "light", "smooth", "crisp")
TILE: Final = 512


@dataclass(frozen=True)
class SensorPlan:
    """What Ground does on the sensor's raster. rescued: Rescue's revision and settings."""

    rescue_revision: int
    rescue: RescueParams
    noise: NoiseParams
    crispness: CrispnessParams

    def key(self, stage: Stage) -> str:
        """Names what a stage depends on."""
        if stage == "rescued":
            return "rescued"
        parts: list[Any] = [self.rescue_revision, self.rescue.model_dump()]
        if stage in ("smooth", "crisp"):
            parts.append(self.noise.model_dump())
        if stage == "crisp":
            parts.append(self.crispness.model_dump())
        return key_of(stage, *parts)

    @property
    def smooths(self) -> bool:
        """True when Noise does anything."""
        return self.noise.light > 0 or self.noise.colour > 0

    @property
    def crisps(self) -> bool:
        """True when Crispness does anything."""
        return self.crispness.amount > 0

    @property
    def rescues(self) -> bool:
        """True when the scene's Rescue differs from what latches read."""
        return self.rescue_revision != RESCUE.revision or self.rescue != RescueParams()

    def best(self, stage: Stage) -> Stage:
        """The lowest stage with the same result."""
        if stage == "crisp" and not self.crisps:
            stage = "smooth"
        if stage == "smooth" and not self.smooths:
            stage = "light"
        if stage == "light" and not self.rescues:
            stage = "rescued"
        return stage


class Sensor:
    """One frame's raster under one plan. Cheap to make."""

    def __init__(
        self, pyramid: Pyramid, plan: SensorPlan, cache: ByteCache, pool: Executor, clock: Clock
    ) -> None:
        self.pyramid = pyramid
        self._clock = clock
        self.plan = plan
        self._cache = cache
        self._pool = pool
        neutral = np.array(pyramid.info.neutral, np.float32)
        self.neutral = neutral / neutral.max()

    def model(self) -> noise.NoiseModel:
        """The frame's noise: as its file states it, else as measured."""
        neutral = (float(self.neutral[0]), float(self.neutral[1]), float(self.neutral[2]))
        stated = self.pyramid.info.noise_profile
        if stated is not None:
            return noise.NoiseModel(stated[0], stated[1], neutral)

        def make() -> F32:
            level = self.pyramid.levels[self.pyramid.first_level]
            # bands spread over the frame: the whole of a large one is not needed
            rows = np.unique(np.linspace(0, max(level.shape[0] - 65, 0), 8).astype(int))
            some = np.concatenate([np.asarray(level[r : r + 64], np.float32) for r in rows])
            found = noise.measured(some.transpose(2, 0, 1), neutral)
            return np.array([found.scale, found.offset], np.float32)

        scale, offset = self._cache.remember(key_of("noise", self.pyramid.key), make)
        return noise.NoiseModel(float(scale), float(offset), neutral)

    def _around(self, revision: int) -> F32:
        """The hue around clipped places, as a revision of Rescue learns it."""

        def make() -> F32:
            small = np.asarray(self.pyramid.levels[max(self.pyramid.levels)], np.float32)
            clipped = None
            if self.pyramid.clipped is not None and revision > 2:
                size = (small.shape[1], small.shape[0])
                shares = cv2.resize(np.asarray(self.pyramid.clipped), size, interpolation=cv2.INTER_AREA)
                clipped = shares.max(2).astype(np.float32) / 255
            return rescue.hue_around(np.ascontiguousarray(small.transpose(2, 0, 1)), self.neutral, clipped)

        return self._cache.remember(key_of("hue", self.pyramid.key, revision), make)

    def fetch(self, level: int, stage: Stage) -> Fetch:
        """Reads a pyramid level as a stage leaves it."""
        stage = self.plan.best(stage)
        source = self.pyramid.levels[level]
        read = raster(source)
        if stage in ("rescued", "light"):
            if self.pyramid.info.colour.rendered:
                return read
            return lambda top, bottom, left, right: self._rescued(
                read(top, bottom, left, right), source.shape, top, left, stage
            )
        height, width = source.shape[:2]

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

        return fetch

    def _rescued(self, planes: F32, shape: tuple[int, ...], top: int, left: int, stage: Stage) -> F32:
        """Clipped channels rebuilt, in place, in a block at (top, left) of a level of this shape."""
        if float(planes.max()) <= rescue.STARTS and (stage == "rescued" or self.plan.rescue_revision > 1):
            return planes
        height, width = shape[:2]
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

    def _tile(self, level: int, stage: Stage, ty: int, tx: int) -> NDArray[np.uint16]:
        """A tile (3, h, w) of a stage that looks around itself, as the bits of half floats."""

        def make() -> NDArray[Any]:
            return self._work(level, stage, ty, tx)

        key = key_of("tile", self.pyramid.key, self.plan.key(stage), level, ty, tx)
        return self._cache.remember(key, make)

    def _padded(self, level: int, ty: int, tx: int, apron: int) -> F32:
        height, width = self.pyramid.levels[level].shape[:2]
        bottom, right = min((ty + 1) * TILE, height), min((tx + 1) * TILE, width)
        return self.fetch(level, "light")(ty * TILE - apron, bottom + apron, tx * TILE - apron, right + apron)

    def _work(self, level: int, stage: Stage, ty: int, tx: int) -> NDArray[np.uint16]:
        apron = (noise.APRON if self.plan.smooths else 0) + (crispness.APRON if stage == "crisp" else 0)
        planes = self._padded(level, ty, tx, apron)
        self._smooth(planes, level)
        if stage == "crisp":
            c = self.plan.crispness
            with self._clock.step("crispness"):
                crispness.crisp(
                    planes, level, self.model(), c.amount, c.radius, c.edges, c.floor, self._noise_left()
                )
        inner = planes[:, apron : planes.shape[1] - apron, apron : planes.shape[2] - apron]
        bits = np.empty(inner.shape, np.uint16)
        pack(inner, bits)
        return bits

    def _smooth(self, planes: F32, level: int) -> None:
        n = self.plan.noise
        if self.plan.smooths:
            with self._clock.step("noise"):
                noise.smooth(planes, level, self.model(), n.light, n.colour, n.grain)

    def _noise_left(self) -> float:
        """The share of the noise that Noise leaves for Crispness to keep clear of."""
        n = self.plan.noise
        return max(1 - min(n.light, 1.0) * (1 - n.grain), 0.15)

    def edge_mask(self, geometry: Geometry, view: View) -> F32:
        """Where Crispness acts over a view (h, w). A fine radius acts on the frame's own px only: its mask is
        then made there and drawn together."""
        level = crispness.acts_at(self.plan.crispness.radius, self.level(geometry, view))
        level = max(level, self.pyramid.first_level)
        source = self.pyramid.levels[level]
        size = (source.shape[1], source.shape[0])
        c, model, left = self.plan.crispness, self.model(), self._noise_left()
        fetch = self.fetch(level, "smooth")

        def masks(top: int, bottom: int, x0: int, x1: int) -> F32:
            a = crispness.APRON
            wide = fetch(top - a, bottom + a, x0 - a, x1 + a)
            mask = crispness.edge_mask(wide, level, model, c.radius, c.edges, c.floor, left)
            return np.ascontiguousarray(np.broadcast_to(mask[a:-a, a:-a], (3, bottom - top, x1 - x0)))

        return np.ascontiguousarray(warp(masks, size, geometry, view, self._pool)[1])

    def level(self, geometry: Geometry, view: View) -> int:
        """The pyramid level that a view is drawn from."""
        return self.pyramid.level_for(geometry.scale(view))

    def light(self, geometry: Geometry, view: View, weights: F32) -> F32:
        """One plane (1, h, w) of a bent view: a mixture of the "rescued" channels, drawn where green lies."""
        source = self.pyramid.levels[self.level(geometry, view)]
        fetch = self.fetch(self.level(geometry, view), "rescued")

        def mixed(top: int, bottom: int, left: int, right: int) -> F32:
            planes = fetch(top, bottom, left, right)
            mix(planes, weights)
            return planes[:1]

        with self._clock.step("warp of the reading (wall)"):
            return warp(mixed, (source.shape[1], source.shape[0]), geometry, view, self._pool, 1)

    def planes(self, geometry: Geometry, view: View, stage: Stage) -> F32:
        """Camera RGB planes (3, h, w) of a view as a stage leaves it, resampled once, upright."""
        level = self.level(geometry, view)
        source = self.pyramid.levels[level]
        size = (source.shape[1], source.shape[0])
        x0, y0, x1, y1 = geometry.source_rectangle(view)
        scale_x, scale_y = size[0] / geometry.width, size[1] / geometry.height
        rectangle = (x0 * scale_x, y0 * scale_y, x1 * scale_x, y1 * scale_y)
        if self.plan.best(stage) in ("smooth", "crisp"):
            self._prepare(level, self.plan.best(stage), geometry, view)
        fetch = self.fetch(level, stage)
        if not geometry.straight:
            with self._clock.step("warp (wall)"):
                return warp(fetch, size, geometry, view, self._pool)
        turned = geometry.orientation >= 5
        out = (view.size[1], view.size[0]) if turned else view.size
        with self._clock.step("resample (wall)"):
            return geometry.turn(resample(fetch, size, rectangle, out, self._pool))

    def _prepare(self, level: int, stage: Stage, geometry: Geometry, view: View) -> None:
        """Make the tiles a view needs, on all threads: inside the resampling they would wait in line."""
        source = self.pyramid.levels[level]
        x, y, dx, dy = geometry.corner(view)
        xs = x + dx * np.linspace(0, view.size[0] - 1, 40)
        ys = y + dy * np.linspace(0, view.size[1] - 1, 40)
        points = geometry.turned_to_source(np.stack(np.meshgrid(xs, ys), -1)) * geometry.long_edge
        px = points * [source.shape[1] / geometry.width, source.shape[0] / geometry.height]
        columns = np.clip(px[..., 0], 0, source.shape[1] - 1).astype(int) // TILE
        rows = np.clip(px[..., 1], 0, source.shape[0] - 1).astype(int) // TILE

        def make(place: tuple[int, int]) -> None:
            go_on()
            self._tile(level, stage, *place)

        list(
            self._pool.map(
                make, sorted(set(zip(rows.ravel().tolist(), columns.ravel().tolist(), strict=True)))
            )
        )
