"""A scene bound to its frame: everything that can be seen of it, in the order of the pixels.

Camera RGB is resampled once, turned into working RGB, taken through the Light moves, and rendered.
Steps over pixels run as kernels over bands of rows; what a step must know about the whole picture
it learns at a fixed small size. A result's key is the hash of all it depends on.
"""

from collections.abc import Callable, Iterator
from concurrent.futures import wait
from contextlib import contextmanager
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA, LightColour, camera_to_working
from ..colour.tones import (
    SETTINGS,
    lightness,
    render_coefficients,
    render_tones,
    tone_curve,
    tone_table,
)
from ..errors import CancelledError, RenderError
from ..frame import Pyramid
from ..geometry import Geometry, View, resample
from ..latch import INGREDIENT_KINDS, Reading, combine
from ..latch.base import by_light, smoothstep, stop_axis
from ..latch.refine import FIT_LONG_EDGE, apply, fit
from ..ledger import Latch, MoveLine, ReadAt, Scene, Spare
from ..moves import LIGHT_KINDS
from ..moves.base import NO_AUX
from .cache import ByteCache, key_of
from .ground import Grounded
from .kernels import read_stops, roll_off, to_working

if TYPE_CHECKING:
    from .engine import Engine

F32 = NDArray[np.float32]
Band = Callable[[F32, int, int], None]
"""Receives a finished band: planes (3, rows, w), first row, last row."""

BAND_ROWS = 16
PASSING_BYTES = 512 << 20
SURVEY_LONG_EDGE = 512
"""Long edge, px, of the picture that moves survey and statistics are taken from."""
NEUTRAL_CURVE = (SETTINGS["plain"], -10.0, 4.0)
"""The fixed curve of the reading picture: setting, black and white in stops."""


@dataclass(frozen=True)
class Step:
    """One Light move, ready to run. key: hash of everything up to and including it."""

    line: MoveLine
    coef: F32
    key: str


class Development(Grounded):
    """See the module. Cheap to make: one per request."""

    def __init__(self, engine: "Engine", scene: Scene, pyramid: Pyramid) -> None:
        super().__init__(scene, pyramid)
        self._engine = engine
        info = pyramid.info
        self.geometry = Geometry(info.width, info.height, info.orientation)
        self._frame_key = key_of(pyramid.key, self.geometry.key())
        matrix = camera_to_working(info.colour, self.light())
        self._matrix = (matrix * 2.0**self.base_exposure).astype(np.float32).ravel()
        self._latch_keys: dict[str, str] = {}
        self._views = engine.cache
        self.stale: Callable[[], bool] = lambda: False
        """Asked between bands; when it says yes, the work stops with CancelledError."""
        self.steps = self._plan()

    @contextmanager
    def passing(self) -> Iterator[None]:
        """Inside, what is made of views is held for the moment only: strips of a large picture must
        not push out what the next answer to a drag needs."""
        kept, self._views = self._views, ByteCache(PASSING_BYTES)
        try:
            yield
        finally:
            self._views = kept

    # the plan

    def _plan(self) -> list[Step]:
        key = key_of(self._frame_key, [float(v) for v in self._matrix])
        steps = []
        for line in self.scene.moves:
            if not line.on or line.strength == 0:
                continue
            declared = LIGHT_KINDS[line.kind]
            assert declared.coefficients is not None
            coef = declared.coefficients(line.params, line.strength)
            key = key_of(key, line.kind, line.revision, [float(v) for v in coef], self._mask_key(line))
            steps.append(Step(line, coef, key))
        return steps

    def _start_key(self) -> str:
        return key_of(self._frame_key, [float(v) for v in self._matrix])

    def _mask_key(self, line: MoveLine) -> str:
        latch = self.scene.latch(line.latch) if line.latch else None
        parts = [self._latch_key(latch) if latch else ""]
        parts += [spare.model_dump_json() for spare in line.spare]
        return "" if parts == [""] else key_of(*parts)

    def _latch_key(self, latch: Latch) -> str:
        known = self._latch_keys.get(latch.id)
        if known is None:
            held = latch.model_dump(mode="json", exclude={"id": True, "name": True})
            for ingredient in held["ingredients"]:
                ingredient.pop("id")
            known = self._latch_keys[latch.id] = key_of(self._frame_key, held)
        return known

    # camera RGB over a view, resampled once

    def camera(self, view: View) -> F32:
        """Camera RGB planes (3, h, w) of a view, upright."""

        def make() -> F32:
            level = self.pyramid.level_for(self.geometry.scale(view))
            source = self.pyramid.levels[level]
            scale_x = source.shape[1] / self.geometry.width
            scale_y = source.shape[0] / self.geometry.height
            x0, y0, x1, y1 = self.geometry.source_rectangle(view)
            turned = self.geometry.orientation >= 5
            size = (view.size[1], view.size[0]) if turned else view.size
            rectangle = (x0 * scale_x, y0 * scale_y, x1 * scale_x, y1 * scale_y)
            camera = self.geometry.turn(resample(source, rectangle, size, self._engine.pool))
            if not self.pyramid.info.colour.rendered:
                self._roll_off(camera)
            return camera

        return self._views.remember(self._view_key("camera", view, self._frame_key), make)

    def each(self, rows: int, work: Callable[[int, int], None]) -> None:
        """Run work(first, last) over so many rows, 64 at a time, on the engine's threads."""
        list(self._engine.pool.map(lambda r: work(r, min(r + 64, rows)), range(0, rows, 64)))

    def _roll_off(self, planes: F32) -> None:
        """Keep clipped camera RGB (3, h, w) from turning magenta, in place."""
        neutral = np.array(self.pyramid.info.neutral, np.float32)

        def band(first: int, last: int) -> None:
            rows = np.ascontiguousarray(planes[:, first:last])
            roll_off(rows, neutral / neutral.max())
            planes[:, first:last] = rows

        self.each(planes.shape[1], band)

    def _view_key(self, what: str, view: View, *parts: str) -> str:
        return key_of(what, list(view.region), list(view.size), *parts)

    # the reading picture and masks

    def stops(self, view: View, at: ReadAt) -> F32:
        """The reading picture's light (h, w) in stops, at a latch's own light and exposure."""

        def make() -> F32:
            matrix = camera_to_working(self.pyramid.info.colour, LightColour(at.kelvin, at.duv))
            weights = (LUMA @ matrix * 2.0**at.base_exposure).astype(np.float32)
            camera = self.camera(view)
            out = np.empty((view.size[1], view.size[0]), np.float32)

            self.each(out.shape[0], lambda a, b: read_stops(camera[:, a:b], weights, out[a:b]))
            return out

        key = self._view_key("stops", view, self._frame_key, at.model_dump_json())
        return self._views.remember(key, make)

    def reading(self, view: View, at: ReadAt) -> Reading:
        """What ingredients may look at."""
        tone, black, white = NEUTRAL_CURVE

        def make() -> NDArray[Any]:
            whole = self.stops(self.geometry.fit(SURVEY_LONG_EDGE), at)
            seen = lightness(tone_curve(whole.astype(float), tone, black, white))
            low, high = (float(v) for v in np.percentile(seen, (0.1, 99.9)))
            axis = lightness(tone_curve(stop_axis(), tone, black, white))
            return np.asarray(np.clip((axis - low) / max(high - low, 1e-6), 0, 1))

        key = key_of("lightness", self._frame_key, at.model_dump_json())
        w, h = self.geometry.developed_size
        long = self.geometry.long_edge
        return Reading(
            stops=self.stops(view, at),
            lightness=self._engine.cache.remember(key, make),
            place=view.place(),
            aspect=(w / long, h / long),
            to_developed=self.geometry.to_developed,
        )

    def _joined(self, latch: Latch, reading: Reading) -> F32:
        """The ingredients' masks, joined downward."""
        mask: F32 | None = None
        for line in latch.ingredients:
            if not line.on:
                continue
            term = INGREDIENT_KINDS[line.kind].evaluate(line.params, reading)
            if line.invert:
                term = 1 - term
            if mask is None:
                mask = 1 - term if line.join == "take_away" else term
            else:
                mask = combine(mask, term, line.join)
        return np.zeros(reading.stops.shape, np.float32) if mask is None else mask

    def mask(self, latch: Latch, view: View) -> F32:
        """A latch over a view: (h, w) in [0, 1]."""

        def make() -> F32:
            reading = self.reading(view, latch.read_at)
            edge = latch.edge_true
            if edge.on and any(i.on for i in latch.ingredients):
                small = self.geometry.fit(FIT_LONG_EDGE)
                there = self.reading(small, latch.read_at)
                model = self._engine.cache.remember(
                    key_of("edge", self._latch_key(latch)),
                    lambda: fit(self._joined(latch, there), there.stops, edge.reach, edge.texture),
                )
                mask = apply(reading.stops, model, view.place())
            else:
                mask = self._joined(latch, reading)
            if latch.invert:
                mask = 1 - mask
            if latch.strength != 1:
                mask = mask * np.float32(latch.strength)
            return np.ascontiguousarray(mask, np.float32)

        return self._views.remember(self._view_key("latch", view, self._latch_key(latch)), make)

    def move_mask(self, line: MoveLine, view: View) -> F32 | None:
        """Where a move applies, latch and spare clauses together; None for everywhere."""
        latch = self.scene.latch(line.latch) if line.latch else None
        if latch is None and not line.spare:
            return None
        if latch is not None and not line.spare:
            return self.mask(latch, view)

        def make() -> F32:
            mask = self.mask(latch, view) if latch is not None else None
            for spare in line.spare:
                kept = by_light(self.stops(view, spare.read_at), spared(spare))
                mask = kept if mask is None else mask * kept
            assert mask is not None
            return mask

        return self._views.remember(self._view_key("move", view, self._frame_key, self._mask_key(line)), make)

    # running the steps

    def _aux(self, index: int) -> F32:
        """What step `index` must know about the whole picture as it enters that step."""
        survey = LIGHT_KINDS[self.steps[index].line.kind].survey
        if survey is None:
            return NO_AUX
        before = self.steps[index - 1].key if index else self._start_key()

        def make() -> F32:
            return survey(self.light_planes(self.geometry.fit(SURVEY_LONG_EDGE), index))

        kind = self.steps[index].line.kind
        return self._engine.cache.remember(key_of("survey", before, kind, LIGHT_KINDS[kind].revision), make)

    def light_planes(self, view: View, upto: int | None = None) -> F32:
        """Scene light (3, h, w), working RGB, after the first `upto` steps (all by default): what
        enters Rendering."""
        steps = self.steps if upto is None else self.steps[:upto]
        last = steps[-1].key if steps else self._start_key()
        key = self._view_key("light", view, last)
        found = self._engine.cache.get(key)
        if found is not None:
            return found
        out = np.empty((3, view.size[1], view.size[0]), np.float32)

        def take(band: F32, r: int, e: int) -> None:
            out[:, r:e] = band

        self._run(view, steps, take, keep=False)
        self._engine.cache.put(key, out)
        return out

    def _run(self, view: View, steps: list[Step], take: Band, keep: bool, band_rows: int = BAND_ROWS) -> None:
        """Take working RGB through `steps`, band by band, and hand each band on."""
        w, h = view.size
        chain = [self._start_key(), *(s.key for s in steps)]
        begin, source = 0, None
        for i in range(len(steps), 0, -1):
            source = self._engine.cache.get(self._view_key("light", view, chain[i]))
            if source is not None:
                begin = i
                break
        saved_at, saved = -1, None
        if keep:
            view_key = self._view_key("view", view, self._frame_key)
            same = self._engine.changed_at(view_key, chain) - 1
            if begin < same < len(steps) or (begin < same == len(steps) and same > 0):
                saved_at, saved = same, np.empty((3, h, w), np.float32)
        camera = self.camera(view) if begin == 0 else None
        masks = [self.move_mask(s.line, view) for s in steps[begin:]]
        auxes = [self._aux(i) for i in range(begin, len(steps))]
        ones = np.ones((band_rows, w), np.float32)
        kernels = [LIGHT_KINDS[s.line.kind].kernel for s in steps[begin:]]
        u0, v0, du, dv = view.place()

        def band(r: int) -> None:
            if self.stale():
                raise CancelledError("overtaken")
            e = min(r + band_rows, h)
            rgb = np.empty((3, e - r, w), np.float32)
            if camera is not None:
                to_working(camera[:, r:e], self._matrix, rgb)
            else:
                assert source is not None
                rgb[:] = source[:, r:e]
            place = np.array([u0, v0 + r * dv, du, dv], np.float32)
            for n, step in enumerate(steps[begin:]):
                if saved is not None and begin + n == saved_at:
                    saved[:, r:e] = rgb
                kernel, mask = kernels[n], masks[n]
                assert kernel is not None
                kernel(rgb, ones[: e - r] if mask is None else mask[r:e], step.coef, auxes[n], place)
            if saved is not None and saved_at == len(steps):
                saved[:, r:e] = rgb
            take(rgb, r, e)

        jobs = [self._engine.pool.submit(band, r) for r in range(0, h, band_rows)]
        wait(jobs)
        for job in jobs:
            job.result()
        if saved is not None:
            self._engine.cache.put(self._view_key("light", view, chain[saved_at]), saved)

    def display(
        self, view: View, space: str, take: Band, keep: bool = True, band_rows: int = BAND_ROWS
    ) -> None:
        """Rendered display light of a view in an output space, handed on band by band: planes
        (3, rows, w), linear, 0–1. `keep` holds what the next answer to a drag will need."""
        if space == "linear":
            self._run(view, self.steps, take, keep, band_rows)
            return
        black, white = self.ends()
        try:
            table = tone_table(self.tone(), black, white)
        except ValueError as error:
            raise RenderError(str(error)) from error
        coef = render_coefficients(self.tone(), space)

        def render(rgb: F32, r: int, e: int) -> None:
            out = np.empty_like(rgb)
            render_tones(rgb, table, coef, out)
            take(out, r, e)

        self._run(view, self.steps, render, keep, band_rows)


def spared(spare: Spare) -> NDArray[np.float64]:
    """What a spare clause leaves to the move, as a curve over light."""
    axis = stop_axis()
    if spare.what == "shadows":
        return smoothstep((axis - (spare.edge - spare.soft)) / spare.soft)
    return smoothstep(((spare.edge + spare.soft) - axis) / spare.soft)
