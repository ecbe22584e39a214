"""A new sky behind what stands before the old one: the old sky's light is taken out of every px as far as the matte says, the
new one's put in; what is left is relit toward it, and haze of its colour hangs before what lies far away.

Seen light is a mixture, I = αS + (1 − α)F. With the sky that was there known, S, what stands before it is I − αS, and no
fringe of the old is left on twigs.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..binding.maps import lens_as_it_is, lens_of
from ..colour import LUMA, camera_to_working
from ..errors import DocumentError
from ..frame import Raster
from ..geometry import Geometry, Placed, View
from ..ledger import Latch, NewSky, Scene, Source, new_ingredient
from ..lookup import looked_up
from ..masking.masks import Latches
from ..masking.reader import Reader
from ..running.arrays import evenly
from ..running.cache import key_of
from ..sensor.ground import Ground
from ..sensor.kernels import to_working
from ..sensor.noise import LIGHT_SHARE, WEIGHTS
from .loans import OpenSource, SecondaryFrame, onto
from .own_sky import LEARNED_PX, OwnSky, all_round, light_of_all, share_of_sky
from .sky_bands import (
    DARKEST_LIGHT,
    SkyBands,
    along_the_horizon,
    grain_of,
    in_water,
    land_light,
    mirrored,
    old_sky,
)

F32 = NDArray[np.float32]
FAR: Final = 0.05
"""How far from the horizon haze falls to a third, in heights of the frame."""
WATER: Final = "Water"
"""The latch that says what mirrors a sky, where a scene has one."""
FADES: Final = 24.0
"""Px past its own edge over which a placed sky ends."""


@dataclass(frozen=True)
class SkyIn:
    """A new sky in force."""

    line: NewSky
    scene_ground: Ground
    latches: Latches
    reader: Reader
    latch: Latch
    frame: SecondaryFrame
    scene_matrix: F32
    key: str
    own_key: str
    """Names what `key` does but the scene's light and exposure."""
    plane: Geometry | None = None
    """The map it is looked at through, where that is not the scene's."""

    def over(self, plane: Geometry) -> "SkyIn":
        """The same over another map of the scene's frame."""
        return replace(self, frame=onto(self.frame, plane, self.frame.matrix), plane=plane)

    def matrix(self, base_exposure: float) -> F32:
        """From its frame's camera RGB to working light, in a scene of that exposure."""
        own = self.frame.ground
        stops = self.line.level + self.line.params.stops + base_exposure + own.base_exposure
        matrix = camera_to_working(own.raster.info.colour, own.light())
        return np.ravel(matrix * 2.0**stops).astype(np.float32)

    @property
    def own(self) -> OwnSky:
        """What of its frame is sky."""
        return OwnSky(self.frame, self.line.revision > 1)

    def light(self, view: View) -> F32:
        """The new sky's working light (3, h, w) over a view."""
        if not self.scene_ground.raster.wraps:
            return self.own.light(view)
        return light_of_all([OwnSky(frame, self.own.parted) for frame in self._all()], view, FADES)

    def inside(self, view: View) -> F32:
        """How much of it there is at all over a view (h, w): it ends a little past its own edge."""
        if not self.scene_ground.raster.wraps:
            return self.frame.inside(view, FADES)
        return np.asarray(np.minimum(sum(f.inside(view, FADES) for f in self._all()), 1), np.float32)

    def _all(self) -> list[SecondaryFrame]:
        once = self.scene_ground.geometry
        return all_round(self.frame, once.width / once.long_edge)

    def matte(self, view: View) -> F32:
        """How much of the sky that was there gives way (h, w)."""
        mask = self.latches.mask(self.latch, view, self.plane)
        if self.line.params.edge:
            mask = mask ** np.float32(2.0**-self.line.params.edge)
        return np.ascontiguousarray(mask * self.inside(view))

    def old(self) -> F32:
        """The sky that was there, gone on behind what stands before it: working light (h, w, 3) of the frame upright, small."""
        return self._of_scene("old sky", lambda: old_sky(*self._learned()))

    def _learned(self) -> tuple[F32, F32]:
        """The scene's working light (3, h, w) over its frame upright, small, and how much of it is the sky that was there (h, w)."""
        base = self.scene_ground.geometry.base
        view = base.look(LEARNED_PX)
        planes = self.scene_ground.reading_camera(view, base)
        light = np.empty_like(planes)
        to_working(planes, self.scene_matrix, light)
        return light, self.latches.mask(self.latch, view, base)

    def _of_scene(self, name: str, make: Callable[[], F32]) -> F32:
        """Something of the scene alone: however the new sky is carried, this stays."""
        ground = self.scene_ground
        matrix = [float(v) for v in self.scene_matrix]
        key = key_of(name, ground.raster.identity, matrix, self.latches.latch_key(self.latch))
        return ground.context.models.remember(key, make)

    def _most(self) -> F32 | None:
        """The most light that what stands before the sky sends (h, w, 3), small; None where that is not asked: before revision 3
        what was left of an edge was left whole."""
        if self.line.revision < 3:
            return None
        return self._of_scene("before the sky", lambda: land_light(*self._learned(), self.old()))

    def far(self) -> F32:
        """The new sky's light at the horizon over every column of the canvas (3, w), small and smooth: what haze is lit by."""
        ground = self.scene_ground
        view = ground.geometry.whole(LEARNED_PX)

        def make() -> F32:
            v = self.reader.frame_places(view, ground.geometry)[1]
            weight = self.matte(view) * np.exp(-(((v - self.line.horizon) / (2 * FAR)) ** 2)) + DARKEST_LIGHT
            return along_the_horizon(self.light(view), weight)

        return ground.context.models.remember(key_of("haze", self.key, ground.geometry.canvas_key()), make)

    def lay(self, view: View) -> "SkyBands":
        """All that a view needs, ready to be laid band by band."""
        geometry = self.plane or self.scene_ground.geometry
        places = np.asarray(self.reader.looked_up(view, geometry), np.float32)
        shape = (3, *places.shape[1:])
        matte = self.matte(view)
        old, most, new = evenly(0, shape), evenly(1e9, shape), evenly(0, shape)
        if matte.any():  # where none of it shows, neither it nor what was there is looked at
            new, small, near = self.light(view), self.old(), self._most()
            h, w = small.shape[:2]
            at_x = np.ascontiguousarray(places[0] * w - np.float32(0.5))
            at_y = np.ascontiguousarray(places[1] * h - np.float32(0.5))
            old = looked_up(small, at_x, at_y).transpose(2, 0, 1)
            if near is not None:
                most = looked_up(near, at_x, at_y).transpose(2, 0, 1)
        p = self.line.params
        shed = np.array(self.line.shed) + p.stops
        gain = (2.0 ** (p.relight * shed)).astype(np.float32)
        far, haze = np.zeros((3, view.size[0]), np.float32), np.float32(0)
        if geometry == self.scene_ground.geometry:  # where latches are fitted, haze is left out
            strip, haze = self.far(), np.float32(p.haze)
            u0, _, du, _ = geometry.place(view)
            at = (u0 + du * np.arange(view.size[0])) * strip.shape[1] - 0.5
            columns = np.arange(strip.shape[1])
            far = np.stack([np.interp(at, columns, row) for row in strip]).astype(np.float32)
        away = np.ascontiguousarray((places[1] - np.float32(self.line.horizon)) / np.float32(FAR))
        return SkyBands(
            new, matte, old, away, gain, far, haze,
            self._mirrored(view, geometry, places), self._grained(view, geometry, places, new, matte), most,
        )  # fmt: skip

    def _mirrored(self, view: View, geometry: Geometry, places: F32) -> F32:
        """How many times as light water is by mirroring this sky instead of that one (3, h, w); 1 elsewhere."""
        amount = self.line.params.water
        if amount == 0:
            return evenly(1, (3, *places.shape[1:]))
        horizon = np.float32(self.line.horizon)
        return mirrored(self._in_water(), places, horizon, self.water(view, geometry), amount)

    def water(self, view: View, geometry: Geometry) -> F32:
        """How much of a view of a map is water (h, w): as the scene's latch Water says, else as it is found."""
        latch = self.latches.scene.latch(WATER)
        if latch is not None:
            return self.latches.mask(latch, view, geometry)
        # whether it is some was asked for, where that was not sure, when it was to mirror
        line = new_ingredient("water", params={"answer": "yes"})
        return self.latches.reader.found_over(line, view, geometry)

    def sure_of_water(self) -> bool:
        """Whether what would mirror it is surely water: found so, or said by a latch."""
        if self.latches.scene.latch(WATER) is not None:
            return True
        return self.latches.reader.finding(new_ingredient("water")).verdict == "found"

    def _in_water(self) -> F32:
        """Stops by which this sky is lighter than the one that was there, as ripples show them: (h, w, 3) of the frame upright,
        small, blurred up and down."""
        base = self.scene_ground.geometry.base
        view = base.look(LEARNED_PX)

        def make() -> F32:
            laid = self.over(base)
            return in_water(laid.light(view), laid.inside(view), self.old())

        return self.scene_ground.context.models.remember(key_of("in water", self.key), make)

    def _grained(self, view: View, geometry: Geometry, places: F32, new: F32, matte: F32) -> F32:
        """How many times as light the new sky is by the grain it takes (h, w): the same at every look, as it lies on the px of
        the frame."""
        amount = self.line.params.grain
        if amount == 0 or not matte.any():
            return evenly(1, places.shape[1:])
        ours, theirs = self.grains(view, geometry)
        light = np.maximum(np.tensordot(np.asarray(LUMA, np.float32), new, 1), DARKEST_LIGHT)
        lacks = np.sqrt(np.maximum(ours * ours - theirs * theirs, 0))
        level = self.scene_ground.sensor.level(geometry, view)
        height, width = self.scene_ground.raster.shape(level)
        if self.scene_ground.geometry.orientation >= 5:
            height, width = width, height
        out = np.empty(places.shape[1:], np.float32)
        of = np.array([width, height, lacks * amount, self._middle()], np.float32)
        grain_of(places, light, of, out)
        return out

    def grains(self, view: View, geometry: Geometry) -> tuple[float, float]:
        """Grain of the sky that was there, and of the new one where it lies now: standard deviations over light, at the light
        of the new sky's middle, as a view shows them."""
        share = []
        for ground, plane, own in (
            (self.scene_ground, geometry, self.scene_matrix),
            (self.frame.ground, self.frame.geometry, self.frame.matrix),
        ):
            level = ground.sensor.level(plane, view)
            model = ground.sensor.model(level)
            scale, offset = model.mixed(WEIGHTS)
            to_one = float(np.tensordot(np.asarray(LUMA), own.reshape(3, 3), 1).sum())
            camera = self._middle() / max(to_one, 1e-6)
            left = ground.sensor.noise_left if ground.plan.smooths else 1.0
            spread = (
                LIGHT_SHARE[level] * left * np.sqrt(max(scale * camera + offset, 0.0)) / max(camera, 1e-6)
            )
            share.append(float(spread))
        return share[0], share[1]

    def _middle(self) -> float:
        """The new sky's light in its middle, working."""
        base = self.scene_ground.geometry.base

        def make() -> F32:
            light = np.tensordot(np.asarray(LUMA, np.float32), self.over(base).light(base.look(256)), 1)
            matte = self.latches.mask(self.latch, base.look(256), base)
            there = light[matte > 0.9]
            return np.array([np.median(there) if there.size else 0.18], np.float32)

        return float(self.scene_ground.context.models.remember(key_of("sky's middle", self.key), make)[0])


def land_at(sky: SkyIn) -> float | None:
    """How far down the scene's frame upright, in heights of it, the new sky's own land begins; None where it has none."""
    share = share_of_sky(sky.frame.ground)
    if share >= 1:
        return None
    (w, h), (own_w, own_h) = (g.geometry.base.developed_size for g in (sky.scene_ground, sky.frame.ground))
    unit, p = max(w, h), sky.line.params
    return 0.5 + (p.down + (share - 0.5) * own_h / max(own_w, own_h) * p.size) * unit / h


def sky_in(
    scene: Scene, ground: Ground, latches: Latches, reader: Reader, matrix: F32, lent: OpenSource | None
) -> SkyIn | None:
    """The new sky of a scene, where one is on. Raises DocumentError where its frame cannot be opened."""
    line = scene.sky
    if line is None or not line.on:
        return None
    latch = scene.latch(line.latch)
    source = scene.source(line.source)
    if lent is None or latch is None:
        raise DocumentError(f"the frame that the sky is from, {source.path}, is not there", "sky")
    return bound_sky(line, latch, source, lent(source), ground, latches, reader, matrix)


def bound_sky(
    line: NewSky, latch: Latch, source: Source, raster: Raster, ground: Ground, latches: Latches, reader: Reader,
    matrix: F32,
) -> SkyIn:  # fmt: skip
    """A sky in force, its frame's light as the raster says."""
    info, chief, p = raster.info, ground.raster.info, line.params
    own = Ground.of_frame(ground.context, source, raster, line.ground, line.repairs)
    upright = Geometry(chief.width, chief.height, chief.orientation, unit=ground.geometry.unit)
    placed = Placed(ground.geometry, upright, (p.across, p.down), p.size, p.turn, p.mirror)
    own_lens = own.settings("lens")
    lens = lens_as_it_is(info) if own_lens == type(own_lens)() else lens_of(own.scene, info)
    geometry = Geometry(info.width, info.height, info.orientation, lens, sphere=placed)
    water = latches.scene.latch(WATER) if p.water else None
    names = [latches.latch_key(one) for one in (latch, water) if one is not None]
    own_key = key_of("sky", raster.identity, line.model_dump(mode="json", exclude={"id"}), names)
    key = key_of(own_key, geometry.key(), [float(v) for v in matrix])
    second = SecondaryFrame(own, geometry, matrix)
    if line.revision > 1:  # freed of its own lens's falloff, whatever the scene's does to its corners later
        second = replace(second, freed=0.0, later=ground)
    sky = SkyIn(line, ground, latches, reader, latch, second, matrix, key, own_key)
    own_matrix = sky.matrix(ground.base_exposure)
    return replace(sky, frame=replace(sky.frame, matrix=own_matrix))
