"""A raster looked up at places between its px (`cv2.remap`), of any size: OpenCV's own ends at 32 766 px."""

from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray

LIMIT: Final = 32_000
"""Px along a side that OpenCV looks up in, and fills, at a time."""
ROOM: Final = 4
"""Px around a place that an interpolation may look at."""


def looked_up(
    source: NDArray[Any], x: NDArray[np.float32], y: NDArray[np.float32], how: int = cv2.INTER_LINEAR,
    border: int = cv2.BORDER_REPLICATE,
) -> NDArray[Any]:  # fmt: skip
    """source (H, W) or (H, W, planes) at places x, y (h, w), px centres at whole numbers; how, border: OpenCV's."""
    if max(*x.shape, *source.shape[:2]) < LIMIT:
        return np.asarray(cv2.remap(source, x, y, how, borderMode=border))
    rows, columns = x.shape
    if max(rows, columns) >= LIMIT or not _fits(source, x, y):
        if max(rows, columns) == 1:
            raise ValueError("a place is not a number")
        axis = 1 if columns >= rows else 0
        half = x.shape[axis] // 2
        parts = [np.s_[:, :half], np.s_[:, half:]] if axis else [np.s_[:half], np.s_[half:]]
        return np.concatenate([looked_up(source, x[p], y[p], how, border) for p in parts], axis=axis)
    (left, right), (top, bottom) = _span(x, source.shape[1]), _span(y, source.shape[0])
    part = np.ascontiguousarray(source[top:bottom, left:right])
    at = np.ascontiguousarray(x - np.float32(left)), np.ascontiguousarray(y - np.float32(top))
    return np.asarray(cv2.remap(part, *at, how, borderMode=border))


def _span(places: NDArray[np.float32], size: int) -> tuple[int, int]:
    """What of an axis is looked at, from first to before last; at least a px of it."""
    low = min(max(int(np.floor(places.min())) - ROOM, 0), size - 1)
    return low, max(min(int(np.ceil(places.max())) + ROOM + 1, size), low + 1)


def _fits(source: NDArray[Any], x: NDArray[np.float32], y: NDArray[np.float32]) -> bool:
    spans = _span(x, source.shape[1]), _span(y, source.shape[0])
    return all(last - first < LIMIT for first, last in spans)
