"""This frame here: what was painted of a join, over its small size."""

from collections.abc import Iterator, Mapping

import numpy as np
from numpy.typing import NDArray

from ..latch import laid
from ..ledger import Bracket, Sweep


def painted_on(
    base: Sweep | Bracket, numbers: Mapping[str, int], per: float, shape: tuple[int, int]
) -> Iterator[tuple[int, NDArray[np.bool_]]]:
    """The number of the frame and where it is wanted (h, w), stroke by stroke. numbers: of the frames that are in, by source;
    per: px to one long edge."""
    for painted in base.painted:
        if painted.source not in numbers:
            continue
        stroke = painted.stroke
        points = np.array(stroke.points[: len(stroke.points) // 3 * 3]).reshape(-1, 3)
        path = np.ascontiguousarray(points * [per, per, 1], np.float32)
        found = laid(path, stroke.radius * per, stroke.soft, shape)
        if found is not None:
            cover, left, top = found
            out = np.zeros(shape, bool)
            out[top : top + cover.shape[0], left : left + cover.shape[1]] = cover > 0.5
            yield numbers[painted.source], out
