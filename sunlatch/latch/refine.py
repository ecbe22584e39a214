"""Edge-true refinement: the mask follows the edges of the picture.

Guided filter (He, Sun & Tang 2013) with log luminance as guide, in its fast form (He & Sun 2015):
the local linear model mask ≈ a·stops + b is fitted on a fixed small size of the whole picture and
applied at the size asked for. So a mask is the same in every view, tile and file, and costs a
look-up. It softens masks that are already right; it cannot mend one that is several pixels off.
"""

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

F32 = NDArray[np.float32]

FIT_LONG_EDGE = 1280
"""Long edge of the picture the model is fitted on, px."""


def fit(mask: F32, stops: F32, reach: float, texture: float) -> F32:
    """Planes (h, w, 2) of a and b. mask, stops: (h, w). reach: radius as a fraction of the long
    edge. texture: differences in stops below this are not edges."""
    radius = max(1, round(reach * max(stops.shape)))
    size = (2 * radius + 1, 2 * radius + 1)

    def mean(x: F32) -> F32:
        return np.asarray(cv2.boxFilter(x, cv2.CV_32F, size, borderType=cv2.BORDER_REFLECT), np.float32)

    guide = np.clip(stops, -12, 12).astype(np.float32)
    mean_i, mean_p = mean(guide), mean(mask)
    variance = mean(guide * guide) - mean_i * mean_i
    covariance = mean(guide * mask) - mean_i * mean_p
    a = (covariance / (np.maximum(variance, 0) + np.float32(texture) ** 2)).astype(np.float32)
    b = mean_p - a * mean_i
    return np.ascontiguousarray(np.dstack((mean(a), mean(b))))


@njit(
    "void(float32[:, ::1], float32[:, :, ::1], float64, float64, float64, float64, float32[:, ::1])",
    nogil=True,
    cache=True,
    fastmath=True,
)
def _apply(stops, model, u0, v0, du, dv, out):  # type: ignore[no-untyped-def]
    rows, columns = model.shape[0], model.shape[1]
    zero, one = np.float32(0), np.float32(1)
    for r in range(stops.shape[0]):
        gy = min(max((v0 + r * dv) * rows - 0.5, 0.0), rows - 1.001)
        y = int(gy)
        fy = np.float32(gy - y)
        for c in range(stops.shape[1]):
            gx = np.float32(min(max((u0 + c * du) * columns - 0.5, 0.0), columns - 1.001))
            x = int(gx)
            fx = gx - np.float32(x)
            a = (model[y, x, 0] * (one - fx) + model[y, x + 1, 0] * fx) * (one - fy)
            a += (model[y + 1, x, 0] * (one - fx) + model[y + 1, x + 1, 0] * fx) * fy
            b = (model[y, x, 1] * (one - fx) + model[y, x + 1, 1] * fx) * (one - fy)
            b += (model[y + 1, x, 1] * (one - fx) + model[y + 1, x + 1, 1] * fx) * fy
            s = min(max(stops[r, c], np.float32(-12)), np.float32(12))
            out[r, c] = min(max(a * s + b, zero), one)


def apply(stops: F32, model: F32, place: tuple[float, float, float, float]) -> F32:
    """The refined mask (h, w) for a view's stops (h, w) at its place (u0, v0, du, dv)."""
    out = np.empty_like(stops)
    _apply(np.ascontiguousarray(stops), model, *place, out)
    return out
