"""What Ground says of a scene on its frame, and camera RGB as Ground leaves it."""

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..binding.maps import map_of, settings_of
from ..colour import LightColour
from ..colour.tones import SETTINGS, Tone, tone_curve
from ..frame import Raster
from ..geometry import (
    Geometry,
    View,
    source_map,
)  # fmt: skip
from ..ledger import AnyRepair, ReadAt, Scene, Source
from ..ledger import Ground as GroundLines
from ..moves import GROUND_KINDS
from ..running.cache import ByteCache, key_of
from ..running.context import RenderContext
from ..running.patience import go_on
from .outgrown import Outgrown
from .plan import SensorPlan, Stage
from .repairs import mended
from .sensor import Sensor

F32 = NDArray[np.float32]
PASSING_BYTES = 288 << 20
EDGES = 600
"""Px of a long edge at which it is seen whether corners are empty."""


class Ground:
    """The Ground band in force, read from a scene and the raster it is bound to."""

    def __init__(self, context: RenderContext, scene: Scene, raster: Raster, untrimmed: bool = False) -> None:
        self.scene = scene
        self.raster = raster
        self.context = context
        self.kept = context.models
        """Holds what is true of the whole picture."""
        self.views = context.views
        """Holds what is made of views."""
        self._seen: dict[tuple[View, Geometry], str] = {}
        self.trimmed = map_of(scene, raster.info)
        """The map as Trim leaves it."""
        self.geometry = self.trimmed.untrimmed if untrimmed else self.trimmed
        rescue = scene.ground.rescue
        self.plan = SensorPlan(
            rescue.revision if rescue.on else GROUND_KINDS["rescue"].revision, self.settings("rescue", off={"amount": 0.0}),
            self.settings("noise"), self.settings("refocus"), self.settings("crispness"),
        )  # fmt: skip
        self.sensor = Sensor(raster, self.plan, context)
        self.outgrown = Outgrown(scene.repairs, raster, context.blobs)
        """What was grown beyond the frame's edges."""

    @classmethod
    def of_frame(
        cls, context: RenderContext, source: Source, raster: Raster, lines: GroundLines | None = None,
        repairs: Sequence[AnyRepair] = (),
    ) -> "Ground":  # fmt: skip
        """That of a frame by itself, as a layer is brought from it: with lines and repairs of its own, else untouched."""
        alone = Scene(sources=[source], ground=lines or GroundLines(), repairs=list(repairs))
        return cls(context, alone, mended(context, alone, raster))

    def settings(self, kind: str, off: dict[str, Any] | None = None) -> Any:
        """The settings of a Ground line in force: its defaults (with `off`) when it is switched off."""
        return settings_of(self.scene, kind, off)

    # light and tone

    @property
    def base_exposure(self) -> float:
        """Stops."""
        return float(self.settings("base_exposure").ev)

    def light(self) -> LightColour:
        """The colour of light in force."""
        chosen = self.settings("colour_of_light")
        shot = self.raster.info.colour.as_shot()
        return LightColour(
            shot.kelvin if chosen.kelvin is None else chosen.kelvin,
            shot.duv if chosen.tint is None else chosen.tint / 1000,
        )

    def read_at(self) -> ReadAt:
        """What a latch made now should remember of Ground."""
        light = self.light()
        return ReadAt(kelvin=light.kelvin, duv=light.duv, base_exposure=self.base_exposure)

    def tone(self) -> Tone:
        """The rendering curve's shape in force."""
        chosen = self.settings("rendering")
        base = SETTINGS[chosen.setting]
        return Tone(
            base.slope,
            base.toe if chosen.toe is None else chosen.toe,
            base.shoulder if chosen.shoulder is None else chosen.shoulder,
            base.hue_keeping if chosen.hue_keeping is None else chosen.hue_keeping,
            base.straight,
        )

    def ends(self) -> tuple[float, float]:
        """(black, white) in stops; white by default where the frame clips."""
        chosen = self.settings("ends")
        clip = float(np.log2(1 / 0.18)) + self.base_exposure + self.raster.info.headroom
        white = chosen.white if chosen.white is not None else max(clip, 0.5)
        return float(chosen.black), float(white)

    def stop_of(self, printed: float) -> float:
        """The stop at which light prints as so much (display light, 0–1): between the ends."""
        black, white = self.ends()
        stops = np.linspace(black, white, 2049)
        return float(np.interp(printed, tone_curve(stops, self.tone(), black, white), stops))

    # camera RGB

    @contextmanager
    def passing(self) -> Iterator[None]:
        """Inside, what is made of views is held for the moment only: strips of a large picture must
        not push out what the next answer to a drag needs."""
        kept, self.views = self.views, ByteCache(PASSING_BYTES)
        try:
            yield
        finally:
            self.views = kept

    def each(self, rows: int, work: Callable[[int, int], None]) -> None:
        """Run work(first, last) over so many rows, 64 at a time, on the engine's threads."""

        def band(first: int) -> None:
            go_on()
            work(first, min(first + 64, rows))

        list(self.context.pool.map(band, range(0, rows, 64)))

    def view_key(self, what: str, view: View, plane: Geometry, *parts: str) -> str:
        """Names something made of the light that a view of a map shows."""
        known = self._seen.get((view, plane))
        if known is None:
            shown = self.sensor.name_of(*self.sensor.block_of(plane, view))
            known = key_of(shown, plane.key(), self.outgrown.key)
            self._seen[view, plane] = known
        return key_of(what, known, list(view.region), list(view.size), *parts)

    def staged(self, view: View, stage: Stage, geometry: Geometry | None = None) -> F32:
        """Camera RGB planes (3, h, w) of a view as a stage leaves it."""
        plane = geometry or self.geometry
        best = self.plan.best(stage)

        def key(stage: Stage) -> str:
            return self.view_key("camera", view, plane, self.plan.key(stage))

        def make() -> F32:
            light = self.views.get(key("light")) if best == "rescued" else None
            planes = self.sensor.planes(plane, view, best, light)
            if self.outgrown:
                self.outgrown.fill(planes, self._outside(view, plane), self.sensor, plane, view, best)
            return planes

        return self.views.remember(key(best), make)

    def reading_camera(self, view: View, geometry: Geometry | None = None) -> F32:
        """Camera RGB as latches read it."""
        return self.staged(view, "rescued", geometry)

    def source_map(self, view: View, geometry: Geometry | None = None) -> F32:
        """For every px of a view of a map (3, h, w): u and v on the upright frame, in fractions of it, and the gain
        that undoes the lens's falloff."""

        plane = geometry or self.geometry

        def make() -> F32:
            out = np.empty((3, view.size[1], view.size[0]), np.float32)
            with self.context.clock.step("where px come from (wall)"):
                self.each(view.size[1], lambda a, b: source_map(plane, view, (a, b), out[:, a:b]))
            return out

        return self.views.remember(
            key_of("source map", list(view.region), list(view.size), plane.key()), make
        )

    def fall_gain(self, view: View) -> F32 | None:
        """What undoes the lens's falloff, (h, w); None where nothing does."""
        return self.source_map(view)[2] if any(self.geometry.lens.falloff) else None

    def untaken(self, view: View) -> NDArray[np.bool_] | None:
        """Where a view shows nothing that was photographed, (h, w); None when all of it was."""
        kept_clear = self.geometry.sphere is not None and not self.geometry.trim.empty
        coverage = None if kept_clear else self.sensor.coverage(self.geometry, view)
        untaken = None if coverage is None else coverage < 0.5
        if self.geometry.trim.empty and not self.geometry.straight:
            outside = self._outside(view, self.geometry)
            untaken = outside if untaken is None else untaken | outside
        return untaken

    def beyond(self, view: View) -> NDArray[np.bool_] | None:
        """Where a view shows nothing, (h, w); None when it shows something everywhere."""
        beyond = self.untaken(view)
        if beyond is not None and self.outgrown and self.geometry.trim.empty and not self.geometry.straight:
            beyond &= ~self.outgrown.covers(self._outside(view, self.geometry), self.geometry, view)
        return beyond

    def shows_edges(self) -> bool:
        """Whether the picture shows where the frame ends: corners that are empty, or would be if nothing were grown there."""
        if not self.geometry.trim.empty or self.geometry.straight:
            return False
        return bool(self._outside(self.geometry.fit(EDGES), self.geometry).any())

    def _outside(self, view: View, plane: Geometry) -> NDArray[np.bool_]:
        """Where a view of a map shows what lies outside the frame (h, w)."""
        u, v, _ = self.source_map(view, plane)
        return np.asarray((u < 0) | (v < 0) | (u > 1) | (v > 1))
