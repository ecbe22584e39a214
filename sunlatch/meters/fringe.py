"""Lateral colour read off a frame: how much larger the lens drew red and blue than green."""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..frame import whole as whole_level
from ..render.develop import Development

F32 = NDArray[np.float32]
SCALE_LIMIT: Final = 0.004
_PATCHES: Final = 400


def _edges(plane: F32) -> F32:
    """Gradients of log light, (2, h, w): what colours share whatever their level."""
    log = np.log2(np.maximum(plane, 2e-3))
    return np.stack([cv2.Sobel(log, cv2.CV_32F, 1, 0), cv2.Sobel(log, cv2.CV_32F, 0, 1)]).astype(np.float32)


def estimate_fringe(development: Development) -> tuple[float, float] | None:
    """(red, blue): scale against green, less 1, by matching strong edges far from the middle; None where
    there are too few of them.

    At each strong edge the shift along the radius that best carries a colour's gradient onto green's
    is found by one Gauss-Newton step of least squares, weighed by contrast (Lucas & Kanade 1981);
    the scale is their robust mean over the radius.
    """
    # at half size: between neighbouring px demosaicing has drawn the colours together
    level = max(min(development.raster.levels), 1)
    source = np.ascontiguousarray(whole_level(development.raster, level).transpose(1, 2, 0))
    h, w = source.shape[:2]
    planes = cv2.GaussianBlur(source, (0, 0), 1.2).transpose(2, 0, 1)
    green = _edges(np.ascontiguousarray(planes[1]))
    strength = np.abs(green).sum(0)
    y, x = np.mgrid[0:h, 0:w].astype(np.float32)
    x, y = x + 0.5 - w / 2, y + 0.5 - h / 2
    radius = np.hypot(x, y)
    radial = np.abs(green[0] * x + green[1] * y) / np.maximum(radius, 1)
    # clipped light has no gradient of its own
    whole = cv2.erode((planes.max(0) < 0.85).astype(np.uint8), np.ones((9, 9), np.uint8)).astype(bool)
    usable = (
        (radius > 0.45 * np.hypot(w, h) / 2) & whole & (radial > 0.6 * strength) & (planes.min(0) > 0.004)
    )
    usable[:12], usable[-12:], usable[:, :12], usable[:, -12:] = False, False, False, False
    scored = np.where(usable, radial, 0)
    size = 24
    rows, columns = h // size, w // size
    blocks = scored[: rows * size, : columns * size].reshape(rows, size, columns, size).transpose(0, 2, 1, 3)
    flat = blocks.reshape(rows * columns, -1)
    peak = flat.max(1)
    chosen = [n for n in np.argsort(-peak)[:_PATCHES] if peak[n] > 1.0]
    if len(chosen) < 24:
        return None
    found = []
    for k in (0, 2):
        other = _edges(np.ascontiguousarray(planes[k]))
        shifts = []
        for n in chosen:
            inside = int(flat[n].argmax())
            cy, cx = (n // columns) * size + inside // size, (n % columns) * size + inside % size
            box = (slice(cy - 6, cy + 7), slice(cx - 6, cx + 7))
            r = radius[cy, cx]
            ux, uy = x[cy, cx] / r, y[cy, cx] / r
            g = green[0][box] * ux + green[1][box] * uy
            o = other[0][box] * ux + other[1][box] * uy
            gain = float((g * o).sum() / max((g * g).sum(), 1e-9))
            slope = np.gradient(g, axis=1) * ux + np.gradient(g, axis=0) * uy
            weight = float((slope * slope).sum())
            if weight < 1e-3 or not 0.4 < gain < 2.5:
                continue
            shift = -float((slope * (o / gain - g)).sum()) / weight
            if abs(shift) < 3:
                shifts.append((shift / r, weight * r * r))
        if len(shifts) < 16:
            return None
        values, weights = np.array(shifts).T
        middle = float(np.median(values))
        spread = 1.5 * float(np.median(np.abs(values - middle))) + 1e-7
        near = np.abs(values - middle) < 2.5 * spread
        found.append(float(np.average(values[near], weights=np.sqrt(weights[near]))))
    if max(abs(v) for v in found) > SCALE_LIMIT:
        return None
    return found[0], found[1]
