"""Noise: taken away as far as the sensor's own noise model explains it, scale by scale.

Camera RGB, white at (1, 1, 1), is split into light and two colour differences, and each into scales
by an undecimated wavelet (à trous, B3 spline; Starck & Murtagh 1994). At every place of every scale
the energy found around it is compared with what Poisson-Gaussian noise (Foi et al. 2008) would give
there, and the coefficient shrunk by an empirical Wiener gain. A pyramid level lacks the finest
scales; the others are treated alike, so that screen and file agree.

What demosaicing does to white noise, per scale, was measured through our own decoder
(`python -m bench.noise_scales`; a test holds it).
"""

from dataclasses import dataclass
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel, part

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

LIGHT_SCALES: Final = 4
COLOUR_SCALES: Final = 5
APRON: Final = 64
"""Px around a tile that the widest scale reaches into."""
WEIGHTS: Final = np.array([0.25, 0.5, 0.25], np.float32)
"""Light of white-balanced camera RGB."""
LIGHT_SHARE: Final = (0.928, 0.326, 0.151, 0.0738, 0.037, 0.0184, 0.0091, 0.0046, 0.0023, 0.00115)
COLOUR_SHARE: Final = (0.343, 0.257, 0.150, 0.078, 0.039, 0.0196, 0.0098, 0.0049, 0.00245, 0.0012)
"""Standard deviation of each scale, over that of the same mixture of independent channels."""
_ZERO, _ONE = np.float32(0), np.float32(1)
_NINTH, _TINY = np.float32(1.0 / 9.0), np.float32(1e-20)
_W0, _W1, _W2 = np.float32(0.375), np.float32(0.25), np.float32(0.0625)


@dataclass(frozen=True)
class NoiseModel:
    """variance = scale · signal + offset, over camera RGB with 1 at the clip level; neutral: camera RGB
    of the as-shot white, largest 1."""

    scale: float
    offset: float
    neutral: tuple[float, float, float]

    def mixed(self, weights: Any) -> tuple[float, float]:
        """The same for a mixture of white-balanced channels, over light."""
        w = np.array(self.neutral)
        share = np.asarray(weights, float) ** 2
        return float((share / w).sum() * self.scale), float((share / w**2).sum() * self.offset)


@part
def _spline_row(padded, step, out):  # type: ignore[no-untyped-def]
    """B3 spline along a row that is padded by 2·step on both sides. Slices, because an index that
    might be negative keeps a loop out of the vector registers."""
    n = out.size
    a, b, d, e = padded[:n], padded[step:], padded[3 * step :], padded[4 * step :]
    m = padded[2 * step :]
    for c in range(n):
        out[c] = _W0 * m[c] + _W1 * (b[c] + d[c]) + _W2 * (a[c] + e[c])


@part
def _pad_row(padded, room):  # type: ignore[no-untyped-def]
    """Repeat the ends of padded[room : −room] into the room on both sides."""
    last = padded.size - room - 1
    for c in range(room):
        padded[c] = padded[room]
        padded[last + 1 + c] = padded[last]


@kernel("void(float32[:, ::1], int64, float32[:, ::1])")
def _blur(plane, step, out):  # type: ignore[no-untyped-def]
    """B3 spline with its taps `step` px apart; edges repeated."""
    h, w = plane.shape
    room = 2 * step
    padded = np.empty(w + 2 * room, np.float32)
    for r in range(h):
        a, b = plane[max(r - 2 * step, 0)], plane[max(r - step, 0)]
        d, e = plane[min(r + step, h - 1)], plane[min(r + 2 * step, h - 1)]
        m, o = plane[r], padded[room : room + w]
        for c in range(w):
            o[c] = _W0 * m[c] + _W1 * (b[c] + d[c]) + _W2 * (a[c] + e[c])
        _pad_row(padded, room)
        _spline_row(padded, step, out[r])


@part
def _kept_row(padded, step, light, scale, offset, much, kept):  # type: ignore[no-untyped-def]
    """The Wiener gain along a row; padded: energy of three rows, padded by step on both sides."""
    left, here, right = padded[: kept.size], padded[step:], padded[2 * step :]
    for c in range(kept.size):
        around = (left[c] + here[c] + right[c]) * _NINTH + _TINY
        noise = max(scale * light[c], _ZERO) + offset
        kept[c] = max(around - much * noise, _ZERO) / around


@part
def _add_row(plane, smooth, kept, grain, total):  # type: ignore[no-untyped-def]
    rest = _ONE - grain
    for c in range(total.size):
        total[c] += (plane[c] - smooth[c]) * (grain + kept[c] * rest)


@kernel(
    "void(float32[:, ::1], float32[:, ::1], float32[:, ::1], int64, float32, float32, float32, float32,"
    " float32[:, ::1], float32[:, ::1])"
)
def _shrink(plane, smooth, light, step, scale, offset, much, grain, energy, total):  # type: ignore[no-untyped-def]
    """Add what is kept of detail = plane − smooth to `total`. light: what the noise depends on."""
    h, w = plane.shape
    for r in range(h):
        p, s, e = plane[r], smooth[r], energy[r]
        for c in range(w):
            d = p[c] - s[c]
            e[c] = d * d
    padded, kept = np.empty(w + 2 * step, np.float32), np.empty(w, np.float32)
    for r in range(h):
        above, here, below = energy[max(r - step, 0)], energy[r], energy[min(r + step, h - 1)]
        line = padded[step : step + w]
        for c in range(w):
            line[c] = above[c] + here[c] + below[c]
        _pad_row(padded, step)
        _kept_row(padded, step, light[r], scale, offset, much, kept)
        _add_row(plane[r], smooth[r], kept, grain, total[r])


def _smoothed(
    plane: F32, light: F32 | None, shares: F64, variance: tuple[float, float], much: float, grain: float
) -> F32:
    """The plane shrunk at so many scales as there are shares. light: what the noise depends on, None when
    the plane is light itself. It is taken from close by even for wide scales: beside a bright sky
    the dark land has little noise, and what is wide there is no noise at all."""
    energy, total = np.empty_like(plane), np.zeros_like(plane)
    now = plane
    for n, share in enumerate(shares):
        smooth = np.empty_like(plane)
        _blur(now, 1 << n, smooth)
        if light is None:
            light = smooth
        scale, offset = (np.float32(v * share * share) for v in variance)
        kept = np.float32(grain if n < 2 else 0.0)
        _shrink(now, smooth, light, 1 << n, scale, offset, np.float32(much), kept, energy, total)
        now = smooth
    total += now
    return total


def smooth(camera: F32, level: int, model: NoiseModel, light: float, colour: float, grain: float) -> None:
    """Take noise away from camera RGB (3, h, w) of a pyramid level, in place. light, colour: 1 for what
    the model explains; grain: share of the finest noise that stays."""
    w = np.array(model.neutral, np.float32)
    balanced = camera / w[:, None, None]
    y = WEIGHTS[0] * balanced[0] + WEIGHTS[1] * balanced[1] + WEIGHTS[2] * balanced[2]
    red, blue = balanced[0] - balanced[1], balanced[2] - balanced[1]
    lights = max(LIGHT_SCALES - level, 1)
    shares = np.array(LIGHT_SHARE[level : level + lights])
    smooth_y = _smoothed(y, None, shares, model.mixed(WEIGHTS), 2.2 * light, grain)
    if colour > 0:
        colours = max(COLOUR_SCALES - level, 1)
        shares = np.array(COLOUR_SHARE[level : level + colours])
        for plane, weights in ((red, (1, -1, 0)), (blue, (0, -1, 1))):
            plane[:] = _smoothed(plane, smooth_y, shares, model.mixed(np.array(weights)), 3.5 * colour, 0.0)
    green = smooth_y - WEIGHTS[0] * red - WEIGHTS[2] * blue
    camera[0] = (green + red) * w[0]
    camera[1] = green * w[1]
    camera[2] = (green + blue) * w[2]


def finest(plane: F32) -> tuple[F32, F32]:
    """A plane (h, w) without its finest scale, and that scale."""
    plane = np.ascontiguousarray(plane, np.float32)
    low = np.empty_like(plane)
    _blur(plane, 1, low)
    return low, plane - low


def measured(level: F32, neutral: tuple[float, float, float]) -> NoiseModel:
    """A noise model read off a frame that states none: camera RGB (3, h, w) at full size.

    Pairs of the light and the smallest spread found around it, block by block; a line through the
    lower edge (after Foi et al. 2008).
    """
    w = np.array(neutral, np.float32)
    y = np.tensordot(WEIGHTS, level / w[:, None, None], 1).astype(np.float32)
    low, detail = finest(y)
    size = 16
    h, x = y.shape[0] // size * size, y.shape[1] // size * size
    blocks = (
        detail[:h, :x].reshape(h // size, size, x // size, size).transpose(0, 2, 1, 3).reshape(-1, size**2)
    )
    mean = low[:h, :x].reshape(h // size, size, x // size, size).mean((1, 3)).ravel()
    spread = (np.median(np.abs(blocks), 1) / 0.6745) ** 2
    lights, variances = [], []
    for lowest in np.quantile(mean, np.linspace(0, 0.9, 10)):
        here = (mean >= lowest) & (mean < lowest + max(0.3 * lowest, 0.004)) & (mean < 0.8)
        if here.sum() >= 8:
            lights.append(float(mean[here].mean()))
            variances.append(float(np.quantile(spread[here], 0.1)))
    share = LIGHT_SHARE[0] ** 2
    unit = NoiseModel(1.0, 1.0, neutral)
    per_scale, per_offset = unit.mixed(WEIGHTS)
    if len(lights) < 3:
        return NoiseModel(1e-5, 1e-7, neutral)
    design = np.stack([np.array(lights) * per_scale, np.full(len(lights), per_offset)], 1) * share
    fit, *_ = np.linalg.lstsq(design, np.array(variances), rcond=None)
    return NoiseModel(float(max(fit[0], 1e-7)), float(max(fit[1], 1e-9)), neutral)
