"""The exposures of a bracket, each on the anchor's px."""

from concurrent.futures import Executor
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..binding.maps import rotation_matrix
from ..blocks import Block
from ..geometry import Across, Geometry, View, warp
from ..ledger import Bracket
from ..registration.inputs import InputFrame
from ..running.context import RenderContext
from ..sensor.plan import SensorPlan
from ..sensor.sensor import Sensor

F32 = NDArray[np.float32]

CLIPPED_FROM: Final = 0.94
"""Light of an exposure, of what clips, from which on it is not believed at all."""
BAND: Final = 256
NOISE: Final = (2e-5, 4e-8)
"""Scale and offset of the noise where a file does not state it: a common camera at its lowest ISO."""


@dataclass(frozen=True)
class Exposed:
    """One exposure on the anchor's px. time: how many times the anchor's light it let in; shortest: of it alone clipped light
    is rebuilt."""

    frame: InputFrame
    geometry: Geometry | None
    sensor: Sensor
    time: float
    noise: tuple[float, float]
    shortest: bool

    def draw(self, block: Block, level: int, size: tuple[int, int], pool: Executor | None) -> F32:
        """Camera RGB (3, h, w) in its own numbers, of a block of the anchor's px at a level."""
        fetch = self.sensor.fetch(level, "rescued") if self.shortest else self.frame.raster.fetch(level)
        if self.geometry is None:
            return np.ascontiguousarray(fetch(*block))
        w, h = size
        view = View(
            (block.left / w, block.top / h, block.right / w, block.bottom / h),
            (block.right - block.left, block.bottom - block.top),
        )
        return warp(fetch, (w, h), self.geometry, view, pool)


def exposures_of(base: Bracket, frames: dict[str, InputFrame], context: RenderContext) -> list[Exposed]:
    """The exposures that are in, the shortest first."""
    chief = frames[base.anchor]
    unit = max(chief.info.width, chief.info.height)
    taken = sorted(base.enabled, key=lambda m: m.ev)
    out = []
    for m in taken:
        frame = frames[m.source]
        geometry = None
        if m.source != base.anchor:
            rotation = tuple(float(v) for v in rotation_matrix(m.rotation).ravel())
            across = Across(chief.geometry, rotation, base.focal / unit)
            info = frame.info
            geometry = Geometry(info.width, info.height, info.orientation, frame.lens, sphere=across)
        noise = frame.info.noise_profile or NOISE
        out.append(
            Exposed(
                frame,
                geometry,
                Sensor(frame.raster, SensorPlan.untouched(), context),
                2.0**m.ev,
                noise,
                m is taken[0],
            )
        )
    return out
