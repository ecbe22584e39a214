"""The map for whoever draws over a picture: a mesh of source places over the canvas and a little around it."""

import base64
import math
from functools import lru_cache
from typing import Any, Final

import numpy as np

from .lattice import Lattice
from .map import Geometry

TRIED: Final = 12
"""Steps along the long side of the mesh, if they are enough to be true within…"""
TRUE: Final = 5e-5
"""…this, in long edges: half a px of a large frame, a tenth of one as it is mostly seen. Else as many as it takes…"""
STEPS_MOST: Final = 48
"""…but not more than these…"""
BENT: Final = 80
"""…or these, where it was reshaped or nudged."""
ROOM: Final = 0.08
"""As far around the canvas as handles may lie."""


@lru_cache(32)
def mesh_of(geometry: Geometry) -> Lattice:
    """Source places at nodes over the canvas, as many as it takes."""
    canvas = geometry.canvas
    start = canvas.x0 - ROOM, canvas.y0 - ROOM
    width, height = canvas.width + 2 * ROOM, canvas.height + 2 * ROOM

    def with_steps(steps: int) -> Lattice:
        step = max(width, height) / steps
        count = math.ceil(width / step), math.ceil(height / step)
        return Lattice.over(start, (step, step), count, geometry.turned_to_source, geometry.far)

    if geometry.straight:
        return with_steps(2)
    # what a brush did may lie between the places that are tried
    tried = with_steps(TRIED if not geometry.fields else STEPS_MOST)
    rows, columns = (n - 3 for n in tried.values.shape[1:])
    grid = np.stack(np.meshgrid(np.arange(columns) + 0.5, np.arange(rows) + 0.5), -1)
    between = start + grid * tried.step
    true = geometry.turned_to_source(between)
    near = np.all(np.abs(true - geometry.middle) < geometry.middle + ROOM, axis=-1)
    off = float(np.abs(tried.at(between) - true).max(-1)[near].max(initial=0.0))
    if off <= TRUE:
        return tried
    if geometry.fields:
        return with_steps(BENT)
    # cubics miss by the fourth power of the step
    return with_steps(min(math.ceil(TRIED * (off / TRUE) ** 0.25), STEPS_MOST))


def described(geometry: Geometry) -> dict[str, Any]:
    """What web/src/model/plane.ts reads. The places of the mesh are little-endian float32 in base64: x, y, row by row."""
    b, c, mesh = geometry.box, geometry.canvas, mesh_of(geometry)
    return {
        "box": [b.x0, b.y0, b.x1, b.y1], "canvas": [c.x0, c.y0, c.x1, c.y1],
        "long_edge": geometry.long_edge, "size": list(geometry.developed_size),
        "mesh": {
            "start": list(mesh.start), "step": mesh.step[0], "columns": mesh.values.shape[2],
            "source": base64.b64encode(np.moveaxis(mesh.values, 0, -1).astype("<f4").tobytes()).decode(),
        },
        "held_back": {bent.line: round(bent.share, 3) for bent in geometry.fields if bent.share < 1},
    }  # fmt: skip
