"""Tileable textures of the invented world, made once from seeds: a look-up costs less than noise.

Every layer is SIZE × SIZE, periodic, float32. Spectral layers are Gaussian fields whose spectrum
falls as a power of frequency; the sea's slopes follow a wind-sea spectrum (Phillips 1958, as used
by Tessendorf 2001).
"""

from functools import lru_cache
from typing import Final

import numpy as np
from numba import njit
from numpy.typing import NDArray

F32 = NDArray[np.float32]

SIZE: Final = 256
ROLLING, ROUGH, RIDGED, CRACKS, STONES, GRAIN = range(6)
"""Layers: smooth hills and broken ground (mean 0, deviation 1), crests (0–1), distance to the nearest
joint and to the nearest stone's middle (0–1, in cells), fine grain (mean 0, deviation 1)."""


def _spectral(seed: int, fall: float, low: float = 1.0) -> NDArray[np.float64]:
    """A periodic Gaussian field with amplitude ~ frequency^-fall, mean 0, deviation 1."""
    rng = np.random.default_rng(seed)
    waves = np.fft.rfft2(rng.standard_normal((SIZE, SIZE)))
    fy, fx = np.fft.fftfreq(SIZE) * SIZE, np.fft.rfftfreq(SIZE) * SIZE
    f = np.hypot(fy[:, None], fx[None])
    waves *= np.where(f >= low, np.maximum(f, 1.0) ** -fall, 0)
    field = np.fft.irfft2(waves, (SIZE, SIZE))
    return np.asarray(field / field.std())


def _ridged(seed: int) -> NDArray[np.float64]:
    """Crests at several scales, 0–1."""
    total = np.zeros((SIZE, SIZE))
    for n in range(5):
        band = _spectral(seed + n, 2.9, 2.0 * 2.0**n)
        total += 0.46**n * (1 - np.minimum(np.sqrt(band * band + 0.02) * 0.62, 1))
    return np.asarray((total - total.min()) / np.ptp(total))


def _cells(seed: int, count: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Periodic Worley cells: distance to the nearest border and to the nearest middle, in cells."""
    rng = np.random.default_rng(seed)
    jitter = rng.uniform(0.08, 0.92, (count, count, 2))
    at = (np.arange(SIZE) + 0.5) / SIZE * count
    ix = at.astype(int)
    first = np.full((SIZE, SIZE), 9.0)
    second = np.full((SIZE, SIZE), 9.0)
    for dy in (-1, 0, 1):
        for dx in (-1, 0, 1):
            cy, cx = (ix + dy)[:, None], (ix + dx)[None]
            point = jitter[cy % count, cx % count]
            d = np.hypot(at[:, None] - cy - point[..., 0], at[None] - cx - point[..., 1])
            second = np.minimum(second, np.maximum(first, d))
            first = np.minimum(first, d)
    return second - first, first


@lru_cache(1)
def textures() -> F32:
    """All layers (6, SIZE, SIZE)."""
    border, _ = _cells(31, 24)
    _, middle = _cells(37, 20)
    layers = [
        _spectral(11, 1.9), _spectral(13, 1.35), _ridged(17), np.minimum(border, 1),
        np.minimum(middle, 1), _spectral(23, 0.75, 4),
    ]  # fmt: skip
    return np.ascontiguousarray(np.stack(layers), np.float32)


@lru_cache(8)
def sea_slopes(wind: float, seed: int = 5) -> F32:
    """Slopes of the sea surface (2, SIZE, SIZE) along x and z over a tile of TILE_M metres; deviation 1."""
    rng = np.random.default_rng(seed)
    k = np.fft.fftfreq(SIZE) * SIZE * 2 * np.pi / TILE_M
    kz, kx = k[:, None], k[None]
    size = np.hypot(kx, kz)
    size[0, 0] = 1
    length = wind**2 / 9.81
    along = (kz * 0.94 + kx * 0.34) / size
    power = np.exp(-1 / (size * length) ** 2) / size**4 * (0.25 + 0.75 * along**2)
    power *= np.exp(-((size * 0.05) ** 2))
    power[0, 0] = 0
    waves = (rng.standard_normal((SIZE, SIZE)) + 1j * rng.standard_normal((SIZE, SIZE))) * np.sqrt(power)
    slopes = [np.fft.ifft2(1j * kx * waves).real, np.fft.ifft2(1j * kz * waves).real]
    return np.ascontiguousarray(np.stack([s / s.std() for s in slopes]), np.float32)


TILE_M: Final = 48.0


@njit("float32(float32[:, :, ::1], int64, float64, float64)", nogil=True, cache=True, fastmath=True)
def sample(tex, layer, u, v):  # type: ignore[no-untyped-def]
    """A layer at (u, v) in tiles (period 1), bilinear."""
    x, y = u * SIZE, v * SIZE
    x0, y0 = np.int64(x), np.int64(y)
    if x < x0:
        x0 -= 1
    if y < y0:
        y0 -= 1
    fx, fy = np.float32(x - x0), np.float32(y - y0)
    # unsigned indices spare the test for counting from the end
    mask = np.int64(SIZE - 1)
    i0, i1 = np.uint64(x0 & mask), np.uint64((x0 + 1) & mask)
    j0, j1 = np.uint64(y0 & mask), np.uint64((y0 + 1) & mask)
    n = np.uint64(layer)
    a = tex[n, j0, i0] + (tex[n, j0, i1] - tex[n, j0, i0]) * fx
    b = tex[n, j1, i0] + (tex[n, j1, i1] - tex[n, j1, i0]) * fx
    return a + (b - a) * fy
