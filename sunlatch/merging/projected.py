"""A projected (warped) frame of a sweep, on the master: rescued, freed of its lens's faults, as light as the anchor."""

import math
from collections.abc import Sequence
from concurrent.futures import Executor
from dataclasses import dataclass
from functools import cached_property
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..binding.maps import rotation_matrix
from ..blocks import Block
from ..compiled import kernel
from ..fastmath import exp2
from ..geometry import Geometry, LensShape, Master, Member, Onto, View, spread, warp
from ..ledger import Sweep, SweepMember
from ..registration.inputs import InputFrame
from ..running.context import RenderContext
from ..sensor.plan import SensorPlan
from ..sensor.sensor import Sensor

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

BORDER: Final = 2.0
"""Px of a frame's edge that are not used."""
_LOOK: Final = 33


@kernel("void(float32[:, :, ::1], float32[:, ::1], float32, float32, float32[::1])")
def _brought(planes, r2, gain, vignetting, lens):  # type: ignore[no-untyped-def]
    """Planes freed of what the lens's corners lost (1 + a·r² + b·r⁴ + c·r⁶) and times 2^(gain + vignetting·r²), in place."""
    one, least = np.float32(1), np.float32(0.05)
    for r in range(planes.shape[1]):
        for c in range(planes.shape[2]):
            s = r2[r, c]
            kept = max(one + s * (lens[0] + s * (lens[1] + s * lens[2])), least)
            factor = exp2(gain + vignetting * s) / kept
            for k in range(3):
                planes[k, r, c] *= factor


@dataclass(frozen=True)
class Projected:
    """One member on the master. gain: stops added; vignetting: stops added at a corner."""

    frame: InputFrame
    geometry: Geometry
    sensor: Sensor
    gain: float
    vignetting: float

    @staticmethod
    def of(
        frame: InputFrame, member: SweepMember, base: Sweep, master: Master, context: RenderContext
    ) -> "Projected":
        """A member as a solution has it."""
        info = frame.info
        unit = max(info.width, info.height)
        lens = frame.lens.plus(LensShape(distortion=(0.0, base.distortion, 0.0, 0.0)))
        rotation = tuple(float(v) for v in rotation_matrix(member.rotation).ravel())
        onto = Onto(master, rotation, base.focal * unit / base.unit, unit)
        geometry = Geometry(info.width, info.height, info.orientation, lens, sphere=onto)
        return Projected(
            frame,
            geometry,
            Sensor(frame.raster, SensorPlan.untouched(), context),
            member.gain,
            base.vignetting,
        )

    @property
    def noise(self) -> tuple[float, float]:
        """Scale and offset of its own noise, in light as it is made here: as its file states it, else as measured."""
        model, times = self.sensor.model(), 2.0**self.gain
        return model.scale * times, model.offset * times**2

    @property
    def _onto(self) -> Onto:
        assert isinstance(self.geometry.sphere, Onto)
        return self.geometry.sphere

    @cached_property
    def reach(self) -> tuple[float, float, float, float]:
        """Left, top, right, bottom of what it covers on the master, px; the left is inside it, the right may lie past its
        end where the master goes all the way round."""
        w, h = self.geometry.base.developed_size
        t = np.linspace(-0.5, 0.5, _LOOK)
        looks = Member(self._onto.rotation, self._onto.focal, w, h, self.geometry.lens)
        world = looks.world(np.stack(np.meshgrid(t, t), -1))
        master = self._onto.master
        middle = world[_LOOK // 2, _LOOK // 2]
        about = math.atan2(middle[0], middle[2])
        px = master.px(world, about)
        low, high = px.min((0, 1)), px.max((0, 1))
        if high[0] - low[0] > 0.9 * 2 * math.pi * master.focal:  # it looks at a pole
            low[0], high[0] = 0.0, master.size[0]
        room = (high - low) / _LOOK
        low, high = low - room, high + room
        circle = 2 * math.pi * master.focal
        shift = math.floor(low[0] / circle) * circle if master.wraps else 0.0
        return float(low[0] - shift), float(low[1]), float(high[0] - shift), float(high[1])

    def blocks(self, block: Block, scale: int) -> list[Block]:
        """What of a block of the master, reduced so many times, it may cover: several parts where the master goes round; the block
        may lie a turn beyond it."""
        master = self._onto.master
        left, top, right, bottom = (v / scale for v in self.reach)
        rows = max(block.top, math.floor(top)), min(block.bottom, math.ceil(bottom))
        found = []
        round_ = master.size[0] / scale
        for beyond in (0.0, -round_, round_, -2 * round_) if master.wraps else (0.0,):
            columns = max(block.left, math.floor(left + beyond)), min(block.right, math.ceil(right + beyond))
            if rows[0] < rows[1] and columns[0] < columns[1]:
                found.append(Block(rows[0], rows[1], columns[0], columns[1]))
        return found

    def view(self, block: Block, scale: int) -> View:
        """A block of the master, reduced so many times, as a view of it."""
        w, h = (v / scale for v in self._onto.master.size)
        region = (block.left / w, block.top / h, block.right / w, block.bottom / h)
        return View(region, (block.right - block.left, block.bottom - block.top))

    def draw(self, block: Block, scale: int, pool: Executor | None = None) -> tuple[F32, F32]:
        """Camera RGB (3, h, w) of a block of the master, and how far inside the frame each px lies (h, w), in its full
        px; less than nothing outside."""
        view = self.view(block, scale)
        level = self.sensor.level(self.geometry, view)
        height, width = self.frame.raster.shape(level)
        planes = warp(self.sensor.fetch(level, "rescued"), (width, height), self.geometry, view, pool)
        facts = np.empty((2, *planes.shape[1:]), np.float32)
        spread(self.geometry.lattice(view, self._facts), np.ones(2), np.zeros(2), 0, facts)
        if self.gain or self.vignetting or any(self.geometry.lens.falloff):
            lens = np.array(self.geometry.lens.falloff, np.float32)
            _brought(planes, facts[1], np.float32(self.gain), np.float32(self.vignetting), lens)
        return planes, facts[0]

    def peak(self, block: Block, scale: int) -> F32:
        """The lightest channel (h, w) of a block of the master, of what clips: as the camera took it, so that no gain and
        no rescue hides what clipped; of a px and those beside it."""
        view = self.view(block, scale)
        level = self.sensor.level(self.geometry, view)
        height, width = self.frame.raster.shape(level)
        planes = warp(self.frame.raster.fetch(level), (width, height), self.geometry, view)
        most = cv2.dilate(planes.max(0), np.ones((3, 3), np.uint8))
        return np.asarray(most / np.float32(2.0**self.frame.info.headroom), np.float32)

    def radius2(self, block: Block, scale: int) -> F32:
        """Squared distance from the frame's middle (h, w) over a block, 1 at a corner."""
        view = self.view(block, scale)
        facts = np.empty((2, view.size[1], view.size[0]), np.float32)
        spread(self.geometry.lattice(view, self._facts), np.ones(2), np.zeros(2), 0, facts)
        return np.asarray(facts[1])

    def _facts(self, points: F64) -> F64:
        """How far inside, px, and the squared radius (1 at a corner), of places on the master."""
        source = self.geometry.turned_to_source(points)
        unit = self.geometry.long_edge
        w, h = self.geometry.width, self.geometry.height
        x, y = source[..., 0] * unit, source[..., 1] * unit
        edge = np.minimum(np.minimum(x, w - x), np.minimum(y, h - y)) - BORDER
        return np.stack([edge, np.minimum(self.geometry.radius2(points), 4.0)], -1)


def noises_of(projected: Sequence[Projected]) -> F64:
    """The noise of each (n, 2): scale and offset."""
    return np.array([p.noise for p in projected], float)
