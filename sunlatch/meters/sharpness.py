"""How sharp a frame is at a place, comparable between frames of the same thing."""

import cv2
import numpy as np

from ..geometry import View
from ..render.develop import Development

PATCH = 192
"""Side of the patch, px of the frame."""


def sharpness_at(development: Development, x: float, y: float) -> float:
    """Energy of fine contrast around (x, y), fractions of the picture, over what noise explains.

    The variance of the Laplacian of log light (Pech-Pacheco 2000) at 100 %, less its value for the
    noise at that light where the file states its noise. Never negative; 0 where nothing is in focus.
    """
    w, h = development.geometry.developed_size
    side_x, side_y = min(PATCH, w), min(PATCH, h)
    left = min(max(round(x * w - side_x / 2), 0), w - side_x)
    top = min(max(round(y * h - side_y / 2), 0), h - side_y)
    view = View((left / w, top / h, (left + side_x) / w, (top + side_y) / h), (side_x, side_y))
    light = development.light_planes(view, 0)
    luma = np.tensordot(np.array([0.2627, 0.6780, 0.0593], np.float32), light, 1)
    luma = np.maximum(luma, 1e-4)
    # a little smoothing first: single-pixel noise is not sharpness
    smooth = cv2.GaussianBlur(luma, (0, 0), 1.0)
    detail = cv2.Laplacian(np.log2(smooth), cv2.CV_32F)
    ground = development.ground
    profile = development.raster.noise(*ground.sensor.block_of(ground.geometry, view))
    noise = 0.0
    if profile is not None:
        relative = (profile[0] * luma + profile[1]) / (luma * luma)
        # gain of Gaussian (sigma 1) and Laplacian on white noise, to base-2 logarithms
        noise = float(np.mean(relative)) * 0.112 / np.log(2) ** 2
    return max(float(detail.var()) - noise, 0.0)
