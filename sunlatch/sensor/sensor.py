"""Camera RGB over a view: what happens on the sensor's raster (stages.py), then the one resampling."""

import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, px_of
from ..frame import level_for
from ..geometry import Drawn, Geometry, View, resample, separable, warp
from ..running.patience import go_on
from . import crispness, rescue
from .kernels import mix
from .plan import Stage
from .stages import SensorStages

F32 = NDArray[np.float32]


class Sensor(SensorStages):
    """One frame's raster under one plan, over views."""

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
        rows, columns = self.tiles_of(
            px_of(px[..., 1], height, False), px_of(px[..., 0], width, self.raster.wraps)
        )

        def make(place: tuple[int, int]) -> None:
            go_on()
            self._tile(level, stage, *place)

        list(
            self._pool.map(
                make, sorted(set(zip(rows.ravel().tolist(), columns.ravel().tolist(), strict=True)))
            )
        )
