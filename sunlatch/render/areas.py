"""From places on the developed picture to areas on the source, where repairs lie."""

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blobs import Blobs
from ..errors import MendError
from ..geometry import Geometry
from ..ledger import Area
from ..lookup import looked_up
from ..mend import put_mask
from .develop import Development

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
EVERY = 8
"""Px of the source between places whose way to the picture is asked."""
LARGEST = 2048
"""Px across, at most, of a mask that is kept."""


def to_source(geometry: Geometry, points: F64) -> F64:
    """Source coordinates of points (n, 2) in fractions of the developed picture. Raises MendError outside it."""
    points = np.asarray(points, float).reshape(-1, 2)
    if not ((points >= -0.001) & (points <= 1.001)).all():
        raise MendError("A place is given in fractions of the picture, from 0 to 1; this one lies outside.")
    return geometry.to_source(points * [geometry.box.width, geometry.box.height])


def area_of(development: Development, mask: F32, blobs: Blobs) -> Area:
    """The area that a mask (h, w) in 0–1 over the whole developed picture means. Raises MendError where it is empty."""
    rows, columns = np.flatnonzero((mask > 0.01).any(1)), np.flatnonzero((mask > 0.01).any(0))
    if not len(rows):
        raise MendError("The mask is empty; nothing is outlined.")
    h, w = mask.shape
    geometry = development.geometry
    x = np.linspace(columns[0] / w, (columns[-1] + 1) / w, 24)
    y = np.linspace(rows[0] / h, (rows[-1] + 1) / h, 24)
    corners = to_source(geometry, np.stack(np.meshgrid(x, y), -1)).reshape(-1, 2)
    low, high = corners.min(0), corners.max(0)
    room = 4 / geometry.long_edge + 0.02 * (high - low) * (not geometry.straight)
    low, high = low - room, high + room
    scale = min(1.0, LARGEST / (float((high - low).max()) * geometry.long_edge)) * geometry.long_edge
    size = np.maximum(np.ceil((high - low) * scale).astype(int), 2)
    posts = np.maximum(size // EVERY, 2) + 1
    grid = np.stack(np.meshgrid(*(np.linspace(low[k], high[k], posts[k]) for k in (0, 1))), -1)
    at = geometry.to_developed(grid) * [w / geometry.box.width, h / geometry.box.height] - 0.5
    xs = ((np.arange(size[0]) + 0.5) / size[0] * (posts[0] - 1)).astype(np.float32)
    ys = ((np.arange(size[1]) + 0.5) / size[1] * (posts[1] - 1)).astype(np.float32)
    across, down = np.meshgrid(xs, ys)
    at_x, at_y = (
        looked_up(np.ascontiguousarray(at[..., k], np.float32), across, down, border=cv2.BORDER_CONSTANT)
        for k in (0, 1)
    )
    found = looked_up(np.ascontiguousarray(mask, np.float32), at_x, at_y, border=cv2.BORDER_CONSTANT)
    box = (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
    return Area(mask=put_mask(found, box, blobs))
