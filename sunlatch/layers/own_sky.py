"""What of a frame that brings a sky is sky, and that sky gone on behind its own land."""

from dataclasses import dataclass, replace
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..geometry import Placed, View
from ..latch.base import sampled
from ..ledger import new_ingredient
from ..lookup import looked_up
from ..masking.reader import Reader
from ..running.cache import key_of
from ..sensor.ground import Ground
from .loans import SecondaryFrame
from .sky_bands import old_sky

F32 = NDArray[np.float32]
LEARNED_PX: Final = 512
"""Long edge, px, at which a sky is learned."""


@dataclass(frozen=True)
class OwnSky:
    """See the module. parted: its land is told from its sky; before revision 2 all of it was brought."""

    frame: SecondaryFrame
    parted: bool

    def light(self, view: View) -> F32:
        """The new sky's working light (3, h, w) over a view: what its own matte calls sky; where its land stands, the sky
        goes on, as it does behind the scene's."""
        out, own = self.frame.light(view), self.parts()
        if own is None:
            return out
        alpha, gone_on = own
        places = Reader(self.frame.ground).frame_places(view, self.frame.geometry)
        there = sampled(alpha, places)
        if float(there.min()) > 0.999:
            return out
        h, w = gone_on.shape[:2]
        at_x, at_y = places[0] * w - np.float32(0.5), places[1] * h - np.float32(0.5)
        beyond = looked_up(gone_on, at_x, at_y)
        beyond = self.frame.shown(np.ascontiguousarray(beyond.transpose(2, 0, 1)), view)
        return np.asarray(beyond + there * (out - beyond), np.float32)

    def lands(self, view: View) -> F32:
        """Where over a view (h, w) the new sky's own land stands: 0 where its sky is seen."""
        own = self.parts()
        if own is None:
            return np.zeros((view.size[1], view.size[0]), np.float32)
        places = Reader(self.frame.ground).frame_places(view, self.frame.geometry)
        return np.asarray(1 - sampled(own[0], places), np.float32)

    def parts(self) -> tuple[F32, F32] | None:
        """What of the new sky's frame is sky (h, w), upright, well inside its edges, and that sky's camera light gone on behind
        the rest (h, w, 3), small. None where all of it is brought."""
        if not self.parted:
            return None
        ground = self.frame.ground
        found = Reader(ground).finding(new_ingredient("sky")).mask
        sky = cv2.erode((found > 0.9).astype(np.uint8), np.ones((5, 5), np.uint8), borderValue=1)
        if not sky.any() or sky.all():
            return None
        base = ground.geometry.base

        def make() -> F32:
            view = base.look(LEARNED_PX)
            planes = ground.staged(view, "crisp", base)
            matte = cv2.resize(sky.astype(np.float32), view.size, interpolation=cv2.INTER_AREA)
            return old_sky(planes, matte)

        key = key_of("its own sky", ground.raster.identity, ground.plan.key("crisp"), ground.geometry.key())
        return cv2.blur(sky.astype(np.float32), (3, 3)), ground.context.models.remember(key, make)


def all_round(frame: SecondaryFrame, once: float) -> list[SecondaryFrame]:
    """A placed frame as it lies on a scene that goes all the way round: there, and a turn farther to either side. once: a turn,
    in long edges of the scene."""
    placed = frame.geometry.sphere
    assert isinstance(placed, Placed)
    shifts = [(placed.shift[0] + n * once, placed.shift[1]) for n in (-1, 0, 1)]
    maps = [replace(frame.geometry, sphere=replace(placed, shift=shift)) for shift in shifts]
    return [replace(frame, geometry=geometry) for geometry in maps]


def light_of_all(skies: list[OwnSky], view: View, fades: float) -> F32:
    """Working light (3, h, w) of one sky that lies in several places: where they meet, they pass into one another."""
    total = np.zeros((3, view.size[1], view.size[0]), np.float32)
    weights = np.full(total.shape[1:], np.finfo(np.float32).tiny, np.float32)
    for sky in skies:
        there = sky.frame.inside(view, fades)
        if there.any():
            total += sky.light(view) * there
            weights += there
    return np.asarray(total / weights, np.float32)


def share_of_sky(ground: Ground) -> float:
    """The share of a frame's height, from above, that is sky all across; 1 where all of it is."""
    found = Reader(ground).finding(new_ingredient("sky")).mask
    clear = (found > 0.5).mean(1) > 0.9
    return float(np.argmin(clear)) / len(clear) if not clear.all() else 1.0
