"""What was grown beyond a frame's edges: places of a view that come from there are taken from where the repair's map says, at
every stage, after the one resampling."""

from collections.abc import Sequence
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blobs import Blobs
from ..errors import DocumentError
from ..frame import Raster, per_of
from ..geometry import Geometry, View
from ..ledger import AnyRepair, RegrowRepair
from ..lookup import looked_up
from ..mend import SourceMap, room_for
from ..running.cache import key_of
from .plan import Stage
from .sensor import Sensor

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
_WIDE: Final = 1024


class Outgrown:
    """See the module. Empty where nothing was grown there. Raises DocumentError where a map is missing."""

    def __init__(self, repairs: Sequence[AnyRepair], raster: Raster, blobs: Blobs | None) -> None:
        grown = [r for r in repairs if isinstance(r, RegrowRepair) and r.on and room_for(raster, r.area)]
        if grown and blobs is None:
            raise DocumentError(f"what this scene keeps is not with it ({grown[0].map[:8]})")
        self.maps = [SourceMap.read(r.map, blobs) for r in grown if blobs is not None]
        self.key = key_of("outgrown", [r.map for r in grown]) if grown else ""

    def __bool__(self) -> bool:
        return bool(self.maps)

    def fill(
        self, planes: F32, outside: B2, sensor: Sensor, geometry: Geometry, view: View, stage: Stage
    ) -> None:
        """Put what was grown into planes (3, h, w) of a view, where it lies `outside` the frame (h, w)."""
        if not outside.any():
            return
        level = sensor.level(geometry, view)
        fetch, per = sensor.fetch(level, stage), per_of(sensor.raster, level)
        at = geometry.turned_to_source(geometry.points(view)[outside])
        out = planes[:, outside]
        for one in self.maps:
            places, weights = one.taken(at * one.per)
            total = weights.sum(0)
            if not total.any():
                continue
            k = np.float32(per / one.per)
            some = total > 0
            xs, ys = places[:, some, 0] * k, places[:, some, 1] * k
            left, top = int(xs.min()) - 3, int(ys.min()) - 3
            block = fetch(top, int(ys.max()) + 4, left, int(xs.max()) + 4)
            made = np.zeros((3, int(some.sum())), np.float32)
            for x, y, much in zip(xs, ys, weights[:, some], strict=True):
                made += much * _looked_up(block, x - (left + 0.5), y - (top + 0.5))
            out[:, some] = made / total[some]
        planes[:, outside] = out

    def covers(self, outside: B2, geometry: Geometry, view: View) -> B2:
        """Where something was grown `outside` the frame, over a view (h, w)."""
        out = np.zeros_like(outside)
        if outside.any():
            at = geometry.turned_to_source(geometry.points(view)[outside])
            out[outside] = np.any([one.taken(at * one.per)[1].any(0) for one in self.maps], axis=0)
        return out


def _looked_up(planes: F32, x: F32, y: F32) -> F32:
    """Planes (3, h, w) at places (n), px centres at whole numbers: (3, n)."""
    count = -(-x.size // _WIDE) * _WIDE
    at_x, at_y = (np.resize(v, count).reshape(-1, _WIDE) for v in (x, y))
    return np.stack([looked_up(p, at_x, at_y, border=cv2.BORDER_CONSTANT).ravel()[: x.size] for p in planes])
