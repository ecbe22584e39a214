"""What is brought into a scene from second frames: each with its own map, its own light, and where it is let in."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..binding.maps import lens_as_it_is, lens_of, master_of, rotation_matrix
from ..colour import LightColour, camera_to_working
from ..errors import DocumentError
from ..frame import FrameInfo, Raster
from ..geometry import SECONDARY, Geometry, LensShape, Lent, LentToSweep, View, spread
from ..ledger import LoanLine, Scene, Source, Sweep
from ..masking.masks import Latches
from ..running.arrays import evenly
from ..running.cache import key_of
from ..running.patience import doing_of
from ..sensor.ground import Ground
from ..sensor.kernels import to_working

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
PAST = 40.0
"""Px past its own edge over which a lent frame fades: until there its edge is drawn on, as held by hand it is never the same."""
SURELY = 16.0
"""Px inside its edge from which on nothing of a map comes out between two nodes that lie so far in."""
LENDS_TO = (0.9, 0.98)
"""Shares of what a photosite holds at which a frame begins to lend no more, and at which it lends nothing."""
_NONE = np.zeros(9, np.float32)
OpenSource = Callable[[Source], Raster]


@dataclass(frozen=True)
class SecondaryFrame:
    """A second frame over the views of a scene. matrix: from its camera RGB to working light that fits the scene's; freed:
    stops that its lens loses at a corner beyond what is known of it, where its own falloff is undone here. None where nothing
    is. later: the scene's ground, where that undoes its own lens's falloff once this was let in: by so much this is held
    back, wherever it lies."""

    ground: Ground
    geometry: Geometry
    matrix: F32
    freed: float | None = None
    later: Ground | None = None

    def light(self, view: View) -> F32:
        """Working light (3, h, w) of a view of the scene."""
        return self.shown(self.ground.staged(view, "crisp", self.geometry), view)

    def shown(self, planes: F32, view: View) -> F32:
        """Its camera's light (3, h, w) over a view as working light that fits the scene's."""
        out = np.empty_like(planes)
        to_working(planes, self.matrix, out)
        if self.freed is not None:
            out *= self.gain(view, self.freed)
        if self.later is not None:
            assert isinstance(self.geometry.sphere, SECONDARY)
            plane = self.geometry.sphere.shown
            assert isinstance(plane, Geometry)
            if any(plane.lens.falloff):
                out /= np.maximum(self.later.source_map(view, plane)[2], np.float32(0.05))
        return out

    def gain(self, view: View, vignetting: float) -> F32:
        """What undoes its lens's falloff over a view (h, w)."""
        g = self.geometry
        if vignetting == 0 and not any(g.lens.falloff):
            return evenly(1, (view.size[1], view.size[0]))

        def lost(points: F64) -> F64:
            r2 = np.clip(g.radius2(points), 0, 4)
            return (vignetting * r2 - np.log2(np.maximum(g.lens.transmitted(r2), 0.05)))[..., None]

        stops = np.empty((1, view.size[1], view.size[0]), np.float32)
        spread(g.lattice(view, lost), np.ones(1), np.zeros(1), 0, stops)
        return np.asarray(np.exp2(stops[0], out=stops[0]))

    def held(self, view: View) -> F32:
        """Where it holds light over a view (h, w): not where two of its channels clipped, with a soft end."""
        planes = self.ground.staged(view, "crisp", self.geometry)
        second = planes.sum(0) - planes.max(0) - planes.min(0)
        return np.asarray(np.clip((LENDS_TO[1] - second) / (LENDS_TO[1] - LENDS_TO[0]), 0, 1), np.float32)

    def inside(self, view: View, fades: float) -> F32:
        """Where it reaches over a view (h, w), ending over so many of its px past its own edge."""
        g, shape = self.geometry, (view.size[1], view.size[0])
        nodes, unit = g.lattice(view, g.turned_to_source), float(g.long_edge)
        (left, top), (right, bottom) = nodes.values.min((1, 2)) * unit, nodes.values.max((1, 2)) * unit
        if min(left, top, g.width - right, g.height - bottom) > SURELY:
            return evenly(1, shape)
        at = np.empty((2, *shape), np.float32)
        spread(nodes, np.full(2, unit), np.zeros(2), 0, at)
        edge = np.minimum(np.minimum(at[0], g.width - at[0]), np.minimum(at[1], g.height - at[1]))
        return np.asarray(np.clip(1 + edge / fades, 0, 1), np.float32)


def onto(second: SecondaryFrame, plane: Geometry, matrix: F32) -> SecondaryFrame:
    """A second frame over another map of the scene's frame, in another light."""
    sphere = second.geometry.sphere
    assert isinstance(sphere, SECONDARY)
    geometry = replace(second.geometry, sphere=replace(sphere, shown=plane))
    return replace(second, geometry=geometry, matrix=matrix)


@dataclass(frozen=True)
class Layer:
    """A loan in force. key: names all it depends on; said: the same but the scene's light and exposure."""

    line: LoanLine
    frame: SecondaryFrame
    key: str
    own_key: str

    def matrix(self, light: LightColour, base_exposure: float) -> F32:
        """From its camera RGB to working light that fits a scene of that light and exposure."""
        stops = base_exposure - self.line.ev + self.line.params.stops
        colour = self.frame.ground.raster.info.colour
        return np.ravel(camera_to_working(colour, light) * 2.0**stops).astype(np.float32)


def layer_alpha(
    line: LoanLine, second: SecondaryFrame, latches: Latches, view: View, plane: Geometry | None = None
) -> F32:
    """How much of a loan is let in at every px of a view (h, w) of the developed picture, or of another map: nothing where it
    holds no light itself."""
    with doing_of(line.id):
        mask = latches.where(line.latch, line.spare, view, plane)
    there = np.ones((view.size[1], view.size[0]), np.float32) if mask is None else mask
    there = there * second.inside(view, PAST) * second.held(view)
    return np.ascontiguousarray(there * np.float32(line.strength))


def lent_map(scene: Scene, chief: FrameInfo, shown: Geometry, line: LoanLine, info: FrameInfo) -> Geometry:
    """The map of a lent frame over a scene's. chief: of the scene's raster; shown: the scene's map."""
    rotation = tuple(float(v) for v in rotation_matrix(line.rotation).ravel())
    lens = lens_as_it_is(info)
    if line.revision > 1 and scene.base.as_taken:
        # of its own falloff as much is undone as of the scene's
        lens = replace(lens, falloff=lens_of(scene, info).falloff)
    between: Lent | LentToSweep
    base = scene.base
    if isinstance(base, Sweep):
        lens = lens.plus(LensShape(distortion=(0.0, base.distortion, 0.0, 0.0)))
        between = LentToSweep(shown, master_of(base), base.unit, rotation, line.focal / base.unit)
    else:
        unit = max(chief.width, chief.height)
        upright = Geometry(chief.width, chief.height, chief.orientation, lens_as_it_is(chief))
        between = Lent(shown, upright, rotation, line.focal / unit)
    return Geometry(info.width, info.height, info.orientation, lens, sphere=between)


def layers_of(scene: Scene, ground: Ground, latches: Latches, lent: OpenSource | None) -> list[Layer]:
    """The loans of a scene that are on. Raises DocumentError where one's frame cannot be opened."""
    out = []
    for line in scene.loans:
        if not line.on or line.strength == 0:
            continue
        source = scene.source(line.source)
        if lent is None:
            raise DocumentError(f"the frame that is lent, {source.path}, is not there", "loans")
        with doing_of(line.id):
            raster = lent(source)
        info = raster.info
        bare = Ground.of_frame(ground.context, source, raster)
        geometry = lent_map(scene, ground.raster.info, ground.geometry, line, info)
        own_key = key_of(
            "loan", raster.identity, line.model_dump(mode="json", exclude={"id", "latch", "spare"}),
            latches.where_key(line.latch, line.spare),
        )  # fmt: skip
        freed, later = scene.base.vignetting, None
        if line.revision > 1 and any(ground.geometry.lens.falloff):
            freed, later = 0.0, ground
        loan = Layer(line, SecondaryFrame(bare, geometry, _NONE, freed, later), "", own_key)
        matrix = loan.matrix(ground.light(), ground.base_exposure)
        key = key_of(own_key, geometry.key(), [float(v) for v in matrix])
        out.append(replace(loan, frame=replace(loan.frame, matrix=matrix), key=key))
    return out
