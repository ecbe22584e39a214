"""Deterministic lattice noise for the invented world, compiled and free of global state."""

import numpy as np
from numba import njit


@njit("float32(int32, int32, int32, int32)", inline="always", nogil=True, cache=True)
def lattice(ix: int, iy: int, iz: int, seed: int) -> float:
    """A value in [0, 1) for an integer lattice point; the same for the same seed, everywhere."""
    h = np.uint32(ix) * np.uint32(374761393)
    h += np.uint32(iy) * np.uint32(668265263)
    h += np.uint32(iz) * np.uint32(2147483647)
    h += np.uint32(seed) * np.uint32(3266489917)
    h = (h ^ (h >> np.uint32(13))) * np.uint32(1274126177)
    h = (h ^ (h >> np.uint32(16))) * np.uint32(2246822519)
    h = h ^ (h >> np.uint32(15))
    return np.float32(h & np.uint32(0xFFFFFF)) * np.float32(1.0 / 16777216.0)


@njit("int32(float32)", inline="always", nogil=True, cache=True)
def _floor(x: float) -> int:
    i = np.int32(x)
    return np.int32(i - 1) if x < np.float32(i) else i


@njit("float32(float32, float32, float32, int32)", nogil=True, cache=True, fastmath=True)
def value3(x: float, y: float, z: float, seed: int) -> float:
    """Smooth value noise in three dimensions, range [-1, 1]."""
    ix, iy, iz = _floor(x), _floor(y), _floor(z)
    u, v, w = x - np.float32(ix), y - np.float32(iy), z - np.float32(iz)
    u = u * u * u * (u * (u * np.float32(6) - np.float32(15)) + np.float32(10))
    v = v * v * v * (v * (v * np.float32(6) - np.float32(15)) + np.float32(10))
    w = w * w * w * (w * (w * np.float32(6) - np.float32(15)) + np.float32(10))
    one = np.int32(1)
    a = lattice(ix, iy, iz, seed)
    b = lattice(ix + one, iy, iz, seed)
    c = lattice(ix, iy + one, iz, seed)
    d = lattice(ix + one, iy + one, iz, seed)
    e = lattice(ix, iy, iz + one, seed)
    f = lattice(ix + one, iy, iz + one, seed)
    g = lattice(ix, iy + one, iz + one, seed)
    h = lattice(ix + one, iy + one, iz + one, seed)
    near = (a + (b - a) * u) + ((c + (d - c) * u) - (a + (b - a) * u)) * v
    far = (e + (f - e) * u) + ((g + (h - g) * u) - (e + (f - e) * u)) * v
    return np.float32(2) * (near + (far - near) * w) - np.float32(1)


@njit("float32(float32, float32, int32)", nogil=True, cache=True, fastmath=True)
def value2(x: float, y: float, seed: int) -> float:
    """Smooth value noise in two dimensions, range [-1, 1]."""
    ix, iy = _floor(x), _floor(y)
    u, v = x - np.float32(ix), y - np.float32(iy)
    u = u * u * u * (u * (u * np.float32(6) - np.float32(15)) + np.float32(10))
    v = v * v * v * (v * (v * np.float32(6) - np.float32(15)) + np.float32(10))
    one, zero = np.int32(1), np.int32(0)
    a = lattice(ix, iy, zero, seed)
    b = lattice(ix + one, iy, zero, seed)
    c = lattice(ix, iy + one, zero, seed)
    d = lattice(ix + one, iy + one, zero, seed)
    top = a + (b - a) * u
    return np.float32(2) * (top + ((c + (d - c) * u) - top) * v) - np.float32(1)


@njit("float32(float32, float32, float32, int32, int32)", nogil=True, cache=True, fastmath=True)
def fractal3(x: float, y: float, z: float, octaves: int, seed: int) -> float:
    """Sum of octaves of value3 at gain 1/2, range about [-1, 1]."""
    total, gain = np.float32(0), np.float32(0.5)
    for o in range(octaves):
        total += gain * value3(x, y, z, seed + np.int32(o * 17))
        x, y, z = (
            x * np.float32(2.03) + np.float32(7.1),
            y * np.float32(2.03) - np.float32(3.7),
            z * np.float32(2.03) + np.float32(1.9),
        )
        gain *= np.float32(0.5)
    return total


@njit("float32(float32, float32, int32, int32)", nogil=True, cache=True, fastmath=True)
def fractal2(x: float, y: float, octaves: int, seed: int) -> float:
    """Sum of octaves of value2 at gain 1/2, range about [-1, 1]; each octave is turned a little."""
    total, gain = np.float32(0), np.float32(0.5)
    for o in range(octaves):
        total += gain * value2(x, y, seed + np.int32(o * 17))
        x, y = (
            x * np.float32(1.62) - y * np.float32(1.21) + np.float32(7.1),
            x * np.float32(1.21) + y * np.float32(1.62) - np.float32(3.7),
        )
        gain *= np.float32(0.5)
    return total


@njit("float32(float32, float32, float32, int32, int32)", nogil=True, cache=True, fastmath=True)
def ridged3(x: float, y: float, z: float, octaves: int, seed: int) -> float:
    """Ridged noise, range [0, 1]: sharp crests, as in cracked and eroded rock."""
    total, gain, norm = np.float32(0), np.float32(0.5), np.float32(0)
    for o in range(octaves):
        r = np.float32(1) - abs(value3(x, y, z, seed + np.int32(o * 31)))
        total += gain * r * r
        norm += gain
        x, y, z = (
            x * np.float32(2.1) + np.float32(3.3),
            y * np.float32(2.1) + np.float32(9.2),
            z * np.float32(2.1) - np.float32(5.1),
        )
        gain *= np.float32(0.5)
    return total / norm
