"""Crispness: fine contrast of log light given back, where there are edges and above the noise."""

import cv2
import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel
from ..fastmath import exp2, log2
from .noise import LIGHT_SHARE, WEIGHTS, NoiseModel

F32 = NDArray[np.float32]

APRON = 20
"""Px around a tile that the largest radius and the edge mask reach into."""
_ZERO, _ONE = np.float32(0), np.float32(1)
_LIMIT = 0.6
"""Stops a px may be changed at most, softly."""


@kernel("void(float32[:, :, ::1], float32[::1], float32, float32[:, ::1])")
def _log_light(camera, weights, dark, out):  # type: ignore[no-untyped-def]
    """log2 of light, held above the dark."""
    for r in range(out.shape[0]):
        a, b, d, o = camera[0, r], camera[1, r], camera[2, r], out[r]
        for c in range(out.shape[1]):
            o[c] = log2(max(weights[0] * a[c] + weights[1] * b[c] + weights[2] * d[c], dark))


@kernel(
    "void(float32[:, ::1], float32[:, ::1], float32, float32, float32, float32, float32[:, ::1], float32[:, ::1])"
)
def _above(stops, base, share, scale, offset, floor, detail, spread):  # type: ignore[no-untyped-def]
    """Detail above so many standard deviations of the noise, and that deviation, in stops."""
    for r in range(stops.shape[0]):
        s, b, d, n = stops[r], base[r], detail[r], spread[r]
        for c in range(stops.shape[1]):
            per = exp2(-s[c])
            n[c] = share * np.sqrt(scale * per + offset * per * per)
            away = s[c] - b[c]
            size = max(abs(away) - floor * n[c], _ZERO)
            d[c] = size if away >= _ZERO else -size


@kernel("void(float32[:, :, ::1], float32[:, ::1], float32[:, ::1], float32, float32, float32)")
def _lift(camera, detail, edge, amount, edges, limit):  # type: ignore[no-untyped-def]
    for r in range(detail.shape[0]):
        for c in range(detail.shape[1]):
            change = amount * detail[r, c] * (_ONE - edges + edges * edge[r, c])
            gain = exp2(change / (_ONE + abs(change) / limit))
            camera[0, r, c] *= gain
            camera[1, r, c] *= gain
            camera[2, r, c] *= gain


def _parts(
    camera: F32, level: int, model: NoiseModel, radius: float, floor: float, left: float
) -> tuple[F32, F32, F32]:
    """Detail above the noise in stops, how much of an edge there is, 0–1, and the detail around in stops;
    all (h, w)."""
    scale, offset = model.mixed(WEIGHTS)
    stops, detail, spread = (np.empty(camera.shape[1:], np.float32) for _ in range(3))
    weights = (WEIGHTS / np.array(model.neutral)).astype(np.float32)
    _log_light(camera, weights, np.float32(2 * np.sqrt(offset) + 1e-5), stops)
    sigma = max(radius / 2**level, 0.01)
    size = 2 * int(np.ceil(3 * sigma)) + 1
    base = np.asarray(cv2.GaussianBlur(stops, (size, size), sigma), np.float32)
    share = np.float32(LIGHT_SHARE[level] * left / np.log(2))
    _above(stops, base, share, np.float32(scale), np.float32(offset), np.float32(floor), detail, spread)
    # how strong contrast is around, against noise: an edge lifts it over a few px
    around = cv2.blur(np.abs(detail), (5, 5), borderType=cv2.BORDER_REPLICATE)
    edge = np.clip((around / (spread + np.float32(0.02)) - np.float32(0.15)) / np.float32(1.2), 0, 1)
    return detail, np.asarray(edge * edge * (3 - 2 * edge), np.float32), np.asarray(around, np.float32)


def crisp(
    camera: F32, level: int, model: NoiseModel, amount: float, radius: float, edges: float, floor: float,
    left: float = 1.0,
) -> None:  # fmt: skip
    """Sharpen camera RGB (3, h, w) of a pyramid level, in place. radius: px of the frame; edges: 0
    everywhere, 1 on edges only; floor: in standard deviations of the noise; left: the share of the
    noise that is still there."""
    detail, edge, _ = _parts(camera, level, model, radius, floor, left)
    _lift(camera, detail, edge, np.float32(amount), np.float32(edges), np.float32(_LIMIT))


def edge_mask(
    camera: F32, level: int, model: NoiseModel, radius: float, edges: float, floor: float, left: float = 1.0
) -> F32:
    """Where Crispness acts: (h, w) in [0, 1], full where there are 0.05 stops of detail around."""
    _, edge, around = _parts(camera, level, model, radius, floor, left)
    seen = np.clip(around / np.float32(0.05), 0, 1)
    return np.asarray(seen * (1 - edges + edges * edge), np.float32)


def acts_at(radius: float, level: int) -> int:
    """The pyramid level nearest to one at which a radius, in px of the frame, still spans px."""
    while level > 0 and radius / 2**level < 0.6:
        level -= 1
    return level
