"""Where the lens puts things: rays of sensor px, and px of places in the world."""

import math
from dataclasses import dataclass
from typing import Final

import numpy as np
from numba import njit
from numpy.typing import NDArray

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

SENSOR_MM: Final = 36.0
"""Long edge of the sensor."""
DISTORTION: Final = -0.045
"""r_seen = r (1 + k r²), r = 1 at the corner of the frame."""


@dataclass(frozen=True)
class Lens:
    """A lens over a raster of width × height px: focal length in mm, distortion k."""

    width: int
    height: int
    focal_mm: float
    distortion: float = DISTORTION

    @property
    def pitch(self) -> float:
        """Tangent of the angle one px covers in the middle."""
        return SENSOR_MM / max(self.width, self.height) / self.focal_mm

    def packed(self) -> F64:
        """width, height, pitch, distortion, squared corner radius (as tangent): for kernels."""
        p = self.pitch
        corner = (self.width * p / 2) ** 2 + (self.height * p / 2) ** 2
        return np.array([self.width, self.height, p, self.distortion, corner])

    def rays(self) -> F32:
        """Unit rays (h, w, 3), camera axes (x right, y down, z ahead): what each px really looks at."""
        p = self.pitch
        x = ((np.arange(self.width) + 0.5 - self.width / 2) * p)[None]
        y = ((np.arange(self.height) + 0.5 - self.height / 2) * p)[:, None]
        table = np.linspace(0, 1.05, 2048)
        r = table.copy()
        for _ in range(12):  # solve seen = r (1 + k r)² for the true squared radius r
            r = table / (1 + self.distortion * r) ** 2
        scale = np.sqrt(np.divide(r, table, out=np.ones_like(r), where=table > 0))
        seen = (x * x + y * y).astype(np.float32)
        true = np.interp(seen / self.packed()[4], table, scale).astype(np.float32)
        norm = 1 / np.sqrt(seen * true * true + 1)
        return np.dstack((x.astype(np.float32) * true * norm, y.astype(np.float32) * true * norm, norm))

    def scaled(self, width: int, height: int) -> "Lens":
        """The same lens over another raster."""
        return Lens(width, height, self.focal_mm, self.distortion)


def turning(heading: float, pitch: float, roll: float) -> F64:
    """Rotation from camera axes (x right, y down, z ahead) to the world (y up), angles in degrees."""
    h, p, r = (math.radians(a) for a in (heading, pitch, roll))
    rolled = np.array([[math.cos(r), -math.sin(r), 0], [math.sin(r), math.cos(r), 0], [0, 0, 1]])
    flip = np.diag([1.0, -1.0, 1.0])
    pitched = np.array([[1, 0, 0], [0, math.cos(p), math.sin(p)], [0, -math.sin(p), math.cos(p)]])
    head = np.array([[math.cos(h), 0, math.sin(h)], [0, 1, 0], [-math.sin(h), 0, math.cos(h)]])
    return np.asarray(head @ pitched @ flip @ rolled)


@njit(nogil=True, cache=True, fastmath=True)
def project(x, y, z, turn, lens, out):  # type: ignore[no-untyped-def]
    """Px (column, row; the centre of pixel i is i + 0.5) of a place given relative to the eye, into
    out (2,). False when it lies behind the camera, or so far aside that the lens would fold it back in."""
    cz = turn[0, 2] * x + turn[1, 2] * y + turn[2, 2] * z
    if cz < 1e-3:
        return False
    u = (turn[0, 0] * x + turn[1, 0] * y + turn[2, 0] * z) / cz
    v = (turn[0, 1] * x + turn[1, 1] * y + turn[2, 1] * z) / cz
    bent = lens[3] * (u * u + v * v) / lens[4]
    if 1.0 + 3.0 * bent <= 0.0:
        return False
    scale = 1.0 + bent
    out[0] = u * scale / lens[2] + lens[0] / 2
    out[1] = v * scale / lens[2] + lens[1] / 2
    return True
