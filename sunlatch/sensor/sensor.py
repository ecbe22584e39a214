"""Camera RGB over a view: what happens on the sensor's raster, then the one resampling.

Stages, each on top of the last: "rescued" (as latches read it: always with Rescue's own defaults),
"light" (with the scene's Rescue), "smooth" (Noise), "refocused" (Refocus), "crisp" (Crispness). What reaches beyond its px
is computed on a fixed grid of tiles with an apron, so that views, tiles and files agree.
"""

from dataclasses import dataclass
from typing import Any, Final, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, Fetch, going_round, inside, repeat_edges
from ..frame import Raster, level_for, whole
from ..geometry import Drawn, Geometry, View, resample, separable, warp
from ..moves.crispness import CrispnessParams
from ..moves.noise import NoiseParams
from ..moves.refocus import RefocusParams
from ..moves.rescue import MOVE as RESCUE
from ..moves.rescue import RescueParams
from ..running.cache import key_of
from ..running.context import RenderContext
from ..running.patience import go_on
from . import crispness, noise, refocus, rescue
from .kernels import mix, pack, unpack

F32 = NDArray[np.float32]
Stage = Literal["rescued", "light", "smooth", "refocused", "crisp"]
STAGES: Final[tuple[Stage, ...]] = ("rescued", "light", "smooth", "refocused", "crisp")
TILE: Final = 512


@dataclass(frozen=True)
class SensorPlan:
    """What Ground does on the sensor's raster. rescued: Rescue's revision and settings."""

    rescue_revision: int
    rescue: RescueParams
    noise: NoiseParams
    refocus: RefocusParams
    crispness: CrispnessParams

    def key(self, stage: Stage) -> str:
        """Names what a stage depends on."""
        if stage == "rescued":
            return "rescued"
        parts: list[Any] = [self.rescue_revision, self.rescue.model_dump()]
        if stage in ("smooth", "refocused", "crisp"):
            parts.append(self.noise.model_dump())
        if stage in ("refocused", "crisp") and self.refocuses:
            parts.append(self.refocus.model_dump())
        if stage == "crisp":
            parts.append(self.crispness.model_dump())
        return key_of(stage, *parts)

    @property
    def smooths(self) -> bool:
        """True when Noise does anything."""
        return self.noise.light > 0 or self.noise.colour > 0

    @property
    def refocuses(self) -> bool:
        """True when Refocus does anything."""
        return self.refocus.amount > 0

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
            stage = "refocused"
        if stage == "refocused" and not self.refocuses:
            stage = "smooth"
        if stage == "smooth" and not self.smooths:
            stage = "light"
        if stage == "light" and not self.rescues:
            stage = "rescued"
        return stage


class Sensor:
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

    def block_of(self, geometry: Geometry, view: View) -> tuple[int, Block]:
        """The level a view is drawn from, and the block of it that it shows."""
        level = self.level(geometry, view)
        height, width = self.raster.shape(level)
        x, y, dx, dy = geometry.corner(view)
        # what was nudged sticks out of a rim in many places
        along = 65 if geometry.fields else 9
        xs = x + dx * np.linspace(-1, view.size[0], along)
        ys = y + dy * np.linspace(-1, view.size[1], along)
        rim = [(a, b) for a in xs for b in ys[[0, -1]]] + [(a, b) for a in xs[[0, -1]] for b in ys]
        at = geometry.turned_to_source(np.array(rim)) * geometry.long_edge
        px = at * [width / geometry.width, height / geometry.height]
        # between the places looked at a bent rim swells a little, and the lens draws colours apart
        room = 4 + 0.02 * np.ptp(px, axis=0) * (not geometry.straight)
        low, high = np.floor(px.min(0) - room).astype(int), np.ceil(px.max(0) + room).astype(int)
        return level, Block(int(low[1]), int(high[1]), int(low[0]), int(high[0]))

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

    def edge_mask(self, geometry: Geometry, view: View) -> F32:
        """Where Crispness acts over a view (h, w). A fine radius acts on the frame's own px only: its mask is
        then made there and drawn together."""
        level = crispness.acts_at(self.plan.crispness.radius, self.level(geometry, view))
        level = max(level, min(self.raster.levels))
        size = self._size(level)
        c, left = self.plan.crispness, self.noise_left
        fetch = self.fetch(level, "refocused")

        def masks(top: int, bottom: int, x0: int, x1: int) -> F32:
            a, model = crispness.APRON, self.model(level, Block(top, bottom, x0, x1))
            wide = fetch(top - a, bottom + a, x0 - a, x1 + a)
            mask = crispness.edge_mask(wide, level, model, c.radius, c.edges, c.floor, left)
            return np.ascontiguousarray(np.broadcast_to(mask[a:-a, a:-a], (3, bottom - top, x1 - x0)))

        return np.ascontiguousarray(warp(masks, size, geometry, view, self._pool)[1])

    def level(self, geometry: Geometry, view: View) -> int:
        """The pyramid level that a view is drawn from."""
        return level_for(self.raster, geometry.scale(view))

    def _size(self, level: int) -> tuple[int, int]:
        """(width, height) of a level."""
        height, width = self.raster.shape(level)
        return width, height

    def coverage(self, geometry: Geometry, view: View) -> F32 | None:
        """How much there is at all at every px of a view (h, w); None where that is all."""
        level = self.level(geometry, view)
        read = self.raster.coverage(level)
        return None if read is None else warp(read, self._size(level), geometry, view, self._pool, 1)[0]

    def light(self, geometry: Geometry, view: View, weights: F32) -> F32:
        """One plane (1, h, w) of a bent view: a mixture of the "rescued" channels, drawn where green lies."""
        level = self.level(geometry, view)
        fetch = self.fetch(level, "rescued")

        def mixed(top: int, bottom: int, left: int, right: int) -> F32:
            planes = fetch(top, bottom, left, right)
            mix(planes, weights)
            return planes[:1]

        with self._clock.step("warp of the reading (wall)"):
            return warp(mixed, self._size(level), geometry, view, self._pool, 1)

    def planes(self, geometry: Geometry, view: View, stage: Stage, light: F32 | None = None) -> F32:
        """Camera RGB planes (3, h, w) of a view as a stage leaves it, resampled once, upright. light: the same view at
        stage "light", where that is there already: from this "rescued" differs only near what clips."""
        level = self.level(geometry, view)
        size = self._size(level)
        x0, y0, x1, y1 = geometry.source_rectangle(view)
        scale_x, scale_y = size[0] / geometry.width, size[1] / geometry.height
        rectangle = (x0 * scale_x, y0 * scale_y, x1 * scale_x, y1 * scale_y)
        if self.plan.best(stage) in ("smooth", "refocused", "crisp"):
            self._prepare(level, self.plan.best(stage), geometry, view)
        fetch = self.fetch(level, stage)
        turned = geometry.orientation >= 5
        out = (view.size[1], view.size[0]) if turned else view.size
        if not (geometry.straight and separable(rectangle, out)):
            with self._clock.step("warp (wall)"):
                return warp(fetch, size, geometry, view, self._pool, drawn=self._drawn(level, stage, light))
        with self._clock.step("resample (wall)"):
            return geometry.turn(resample(fetch, size, rectangle, out, self._pool))

    def _drawn(self, level: int, stage: Stage, light: F32 | None) -> Drawn | None:
        if light is None or self.plan.best(stage) != "rescued" or self.plan.rescue_revision == 1:
            return None
        read = self.raster.fetch(level)
        return Drawn(light, lambda *block: bool(read(*block).max() <= rescue.STARTS))

    def _prepare(self, level: int, stage: Stage, geometry: Geometry, view: View) -> None:
        """Make the tiles a view needs, on all threads: inside the resampling they would wait in line."""
        height, width = self.raster.shape(level)
        x, y, dx, dy = geometry.corner(view)
        xs = x + dx * np.linspace(0, view.size[0] - 1, 40)
        ys = y + dy * np.linspace(0, view.size[1] - 1, 40)
        points = geometry.turned_to_source(np.stack(np.meshgrid(xs, ys), -1)) * geometry.long_edge
        px = points * [width / geometry.width, height / geometry.height]
        across = px[..., 0] % width if self.raster.wraps else px[..., 0]
        columns = np.clip(across, 0, width - 1).astype(int) // TILE
        rows = np.clip(px[..., 1], 0, height - 1).astype(int) // TILE

        def make(place: tuple[int, int]) -> None:
            go_on()
            self._tile(level, stage, *place)

        list(
            self._pool.map(
                make, sorted(set(zip(rows.ravel().tolist(), columns.ravel().tolist(), strict=True)))
            )
        )
