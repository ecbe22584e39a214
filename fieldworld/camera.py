"""The field camera: radiance through glass and silicon, to a raw file.

Lens (radial distortion, vignetting, lateral colour, veiling glare), specks on the sensor's glass,
colour filters, Poisson-Gaussian noise, a 14-bit converter that clips. Every coefficient stated
here is the truth that lens and noise tests compare with.
"""

from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from .coast import View, Viewpoint, photograph, pinhole
from .dng import write_dng

F32 = NDArray[np.float32]

MAKER, MODEL = "Ammerlin Works", "Field One"
BLACK, WHITE = 512, 16383
FULL_WELL, READ_NOISE = 48_000.0, 3.2  # electrons, at ISO 100
VIGNETTING = (-0.42, 0.10)  # gain = 1 + a r² + b r⁴, r = 1 at the corner
DISTORTION = -0.045  # r_seen = r (1 + k r²), r = 1 at the corner
LATERAL = (1.0006, 0.9995)  # scale of red and of blue against green

# XYZ to camera under standard light A and D65: plausible filters, ours
MATRIX_A = np.array([[1.02, -0.34, -0.10], [-0.42, 1.24, 0.20], [-0.06, 0.17, 0.62]])
MATRIX_D65 = np.array([[0.87, -0.28, -0.09], [-0.46, 1.27, 0.21], [-0.09, 0.19, 0.71]])
BT709_TO_XYZ = np.array(
    [[0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923],
     [0.0193308, 0.1191948, 0.9505322]]
)  # fmt: skip


@dataclass(frozen=True)
class Exposure:
    """What the photographer sets. `gain` is radiance that just clips a neutral at f/8, 1/60 s, ISO 100."""

    seconds: float = 1 / 30
    f_number: float = 8.0
    iso: int = 100

    def level(self) -> float:
        """Sensor signal (1 = clipping) per unit of radiance."""
        return 0.30 * (self.seconds * 60) * (8 / self.f_number) ** 2 * (self.iso / 100)


@dataclass(frozen=True)
class Shot:
    """One raw file to be made."""

    name: str
    view: Viewpoint
    exposure: Exposure = Exposure()
    width: int = 4240
    height: int = 2832
    orientation: int = 1
    taken: str = "2026:10:03 18:21:40"
    seed: int = 1


def lens_rays(width: int, height: int, focal_mm: float) -> F32:
    """Rays of the distorting lens: what each sensor pixel really looks at."""
    ideal = pinhole(width, height, focal_mm)
    x, y = ideal[..., 0] / ideal[..., 2], ideal[..., 1] / ideal[..., 2]
    corner = x[0, 0] ** 2 + y[0, 0] ** 2
    seen = (x * x + y * y) / corner
    r = seen.copy()
    for _ in range(8):  # solve seen = r (1 + k r)² for the true squared radius r
        r = seen / (1 + DISTORTION * r) ** 2
    scale = np.sqrt(r / np.maximum(seen, 1e-12))
    rays = np.dstack((x * scale, y * scale, np.ones_like(x)))
    rays /= np.linalg.norm(rays, axis=-1, keepdims=True)
    return np.ascontiguousarray(rays, np.float32)


def _radius2(height: int, width: int) -> F32:
    y = (np.arange(height, dtype=np.float32) + 0.5) * 2 / height - 1
    x = (np.arange(width, dtype=np.float32) + 0.5) * 2 / width - 1
    a = height / width
    return (x[None] ** 2 + (y[:, None] * a) ** 2) / (1 + a * a)


def _glass(rgb: F32) -> F32:
    """Lateral colour, veiling glare and vignetting on radiance (h, w, 3)."""
    h, w = rgb.shape[:2]
    out = rgb.copy()
    for channel, scale in ((0, LATERAL[0]), (2, LATERAL[1])):
        m = np.array([[1 / scale, 0, (1 - 1 / scale) * w / 2], [0, 1 / scale, (1 - 1 / scale) * h / 2]])
        out[..., channel] = cv2.warpAffine(
            rgb[..., channel],
            m,
            (w, h),
            flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
            borderMode=cv2.BORDER_REPLICATE,
        )
    small = cv2.resize(out, (w // 16, h // 16), interpolation=cv2.INTER_AREA)
    near = cv2.GaussianBlur(small, (0, 0), w / 16 * 0.006)
    wide = cv2.GaussianBlur(small, (0, 0), w / 16 * 0.09)
    veil = cv2.resize(near * 0.012 + wide * 0.006, (w, h), interpolation=cv2.INTER_LINEAR)
    out = out * np.float32(0.982) + veil
    r2 = _radius2(h, w)
    fall = 1 + VIGNETTING[0] * r2 + VIGNETTING[1] * r2 * r2
    return (out * fall[..., None]).astype(np.float32)


def specks(f_number: float, width: int, height: int) -> list[tuple[float, float, float, float]]:
    """The specks on this sensor as (x px, y px, radius px, depth): the same places every time."""
    rng = np.random.default_rng(4711)
    places = rng.uniform(0.03, 0.97, (9, 2))
    size = rng.uniform(0.0011, 0.0024, 9)
    depth = rng.uniform(0.05, 0.16, 9)
    soft = 16 / f_number
    return [
        (float(x * width), float(y * height), float(s * width * soft**0.6), float(d / soft))
        for (x, y), s, d in zip(places, size, depth, strict=True)
    ]


def _dust(rgb: F32, f_number: float) -> None:
    h, w = rgb.shape[:2]
    for x, y, r, d in specks(f_number, w, h):
        x0, x1 = max(int(x - 3 * r), 0), min(int(x + 3 * r) + 1, w)
        y0, y1 = max(int(y - 3 * r), 0), min(int(y + 3 * r) + 1, h)
        yy, xx = np.mgrid[y0:y1, x0:x1]
        rr = ((xx - x) ** 2 + (yy - y) ** 2) / (r * r)
        rgb[y0:y1, x0:x1] *= (1 - d / (1 + np.exp((rr - 1) * 4)))[..., None].astype(np.float32)


def matrix_at(scene_white_warm: float) -> NDArray[np.float64]:
    """The filters' matrix between the two standard lights: 0 = D65, 1 = light A."""
    return MATRIX_D65 * (1 - scene_white_warm) + MATRIX_A * scene_white_warm


def expose(radiance: F32, exposure: Exposure, seed: int) -> NDArray[np.uint16]:
    """The mosaic (h, w) uint16 that the sensor delivers for linear BT.709 radiance (h, w, 3)."""
    rgb = _glass(radiance)
    _dust(rgb, exposure.f_number)
    to_camera = (MATRIX_D65 @ BT709_TO_XYZ).astype(np.float32)
    camera = np.maximum(rgb @ to_camera.T, 0) * np.float32(exposure.level())
    h, w = camera.shape[:2]
    signal = np.empty((h, w), np.float32)
    signal[0::2, 0::2] = camera[0::2, 0::2, 0]
    signal[0::2, 1::2] = camera[0::2, 1::2, 1]
    signal[1::2, 0::2] = camera[1::2, 0::2, 1]
    signal[1::2, 1::2] = camera[1::2, 1::2, 2]
    electrons = FULL_WELL * 100 / exposure.iso
    rng = np.random.Generator(np.random.SFC64(seed))
    sigma = np.sqrt(signal / electrons + (READ_NOISE / electrons) ** 2)
    signal += sigma * rng.standard_normal((h, w), dtype=np.float32)
    return np.clip(np.rint(signal * (WHITE - BLACK) + BLACK), 0, WHITE).astype(np.uint16)


def as_shot_neutral() -> NDArray[np.float64]:
    """Camera RGB of white under daylight D65, green = 1."""
    white = MATRIX_D65 @ np.array([0.95046, 1.0, 1.08906])
    return np.asarray(white / white[1])


def shoot(shot: Shot, path: Path) -> View:
    """Photograph, write the raw file, and return the truth (as the lens saw it)."""
    view = photograph(shot.view, lens_rays(shot.width, shot.height, shot.view.focal_mm))
    mosaic = expose(view.radiance, shot.exposure, shot.seed)
    electrons = FULL_WELL * 100 / shot.exposure.iso
    write_dng(
        path,
        mosaic,
        maker=MAKER,
        model=MODEL,
        black=BLACK,
        white=WHITE,
        matrices=[(17, MATRIX_A), (21, MATRIX_D65)],
        neutral=as_shot_neutral(),
        noise_profile=(1 / electrons, (READ_NOISE / electrons) ** 2),
        orientation=shot.orientation,
        taken=shot.taken,
        exposure_s=shot.exposure.seconds,
        f_number=shot.exposure.f_number,
        iso=shot.exposure.iso,
        focal_mm=shot.view.focal_mm,
        description="The Ammerlin coast, an invented place",
    )
    return view


def smaller(shot: Shot, width: int) -> Shot:
    """The same shot on fewer pixels, for tests and viewfinders."""
    even = max(2, round(width * shot.height / shot.width / 2) * 2)
    return replace(shot, width=width // 2 * 2, height=even)
