"""The field camera: radiance through glass and silicon, to a raw file.

Lens (radial distortion, vignetting, lateral colour, veiling glare), specks on the sensor's glass,
colour filters, Poisson-Gaussian noise, a 14-bit converter that clips. Every coefficient stated
here is the truth that lens and noise tests compare with.
"""

from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from .dng import write_dng
from .optics import Lens, project
from .seen import Seen, Viewpoint
from .sky import DISC_RADIANCE
from .world import Scenery

F32 = NDArray[np.float32]

MAKER, MODEL, LENS = "Ammerlin Works", "Field One", "Field Zoom 12-400"
BLACK, WHITE = 512, 16383
FULL_WELL, READ_NOISE = 48_000.0, 3.2  # electrons, at ISO 100
VIGNETTING = (-0.42, 0.10)  # gain = 1 + a r² + b r⁴, r = 1 at the corner
LATERAL = (1.0006, 0.9995)  # scale of red and of blue against green

# XYZ to camera under standard light A and D65: plausible filters, ours
MATRIX_A = np.array([[1.02, -0.34, -0.10], [-0.42, 1.24, 0.20], [-0.06, 0.17, 0.62]])
MATRIX_D65 = np.array([[0.87, -0.28, -0.09], [-0.46, 1.27, 0.21], [-0.09, 0.19, 0.71]])
BT709_TO_XYZ = np.array(
    [[0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923],
     [0.0193308, 0.1191948, 0.9505322]]
)  # fmt: skip


LIMITS = {
    "focal_mm": (12.0, 400.0, "mm"), "seconds": (1 / 8000, 60.0, "s"), "f_number": (1.8, 22.0, ""),
    "iso": (50, 12800, ""), "frames": (1, 12, ""),
    "step": (0.5, 3.0, "stops"), "turn": (-180.0, 180.0, "°"), "tilt": (-40.0, 40.0, "°"),
}  # fmt: skip
"""What the camera can do: lowest, highest, unit."""


class CameraError(Exception):
    """A setting the camera does not have; the sentence names the limit that was met."""


def within_limits(**wanted: float) -> None:
    """Raise CameraError for the first setting outside LIMITS."""
    names = {
        "focal_mm": "focal length",
        "seconds": "shutter",
        "f_number": "aperture",
        "iso": "ISO",
        "frames": "number of frames",
        "step": "step",
        "turn": "turn",
        "tilt": "tilt",
    }
    for name, value in wanted.items():
        low, high, unit = LIMITS[name]
        if not (low <= value <= high):
            limit = f"{low:g} to {high:g} {unit}".strip() if name != "seconds" else "1/8000 to 60 s"
            raise CameraError(
                f"The field camera cannot set a {names[name]} of {value:g} {unit}".rstrip()
                + f"; it goes from {limit}."
            )


@dataclass(frozen=True)
class Exposure:
    """What the photographer sets."""

    seconds: float = 1 / 250
    f_number: float = 8.0
    iso: int = 100

    def level(self) -> float:
        """Sensor signal (1 = clipping) per unit of radiance."""
        return 2.6 * (self.seconds * 60) * (8 / self.f_number) ** 2 * (self.iso / 100)


@dataclass(frozen=True)
class Shot:
    """One raw file to be made. orientation: Exif code of how the camera was held (8: on its side, the
    picture is upright after a quarter turn to the left). job: what the frame is for."""

    name: str
    view: Viewpoint
    exposure: Exposure = Exposure()
    width: int = 4240
    height: int = 2832
    orientation: int = 1
    taken: str = "2026:10:03 18:21:40"
    seed: int = 1
    job: str = ""
    dust: int = 9
    """How many specks lie on the sensor's glass."""
    white: str = "daylight"
    """What the camera took for white: "daylight" (D65), or "card", measured off a grey card there."""

    def check(self) -> None:
        """Raise CameraError for what the camera cannot set."""
        e = self.exposure
        within_limits(focal_mm=self.view.focal_mm, seconds=e.seconds, f_number=e.f_number, iso=e.iso)

    @property
    def lens(self) -> Lens:
        """The lens over this sensor; on its side the raster is that of the upright picture."""
        if self.orientation >= 5:
            return Lens(self.height, self.width, self.view.focal_mm)
        return Lens(self.width, self.height, self.view.focal_mm)


def _radius2(height: int, width: int) -> F32:
    y = (np.arange(height, dtype=np.float32) + 0.5) * 2 / height - 1
    x = (np.arange(width, dtype=np.float32) + 0.5) * 2 / width - 1
    a = height / width
    return (x[None] ** 2 + (y[:, None] * a) ** 2) / (1 + a * a)


FILTERS = MATRIX_D65 @ BT709_TO_XYZ
"""Linear BT.709 radiance to what the red, green and blue photosites see of it."""


def _glass(radiance: F32) -> F32:
    """Linear BT.709 radiance (h, w, 3) to camera RGB before exposure, through the lens: lateral colour,
    veiling glare and vignetting, channel by channel."""
    rgb = cv2.transform(radiance, FILTERS.astype(np.float32))
    h, w = rgb.shape[:2]
    r2 = _radius2(h, w)
    fall = 1 + VIGNETTING[0] * r2 + VIGNETTING[1] * r2 * r2
    out = np.empty_like(rgb)
    for k, scale in enumerate((LATERAL[0], 1.0, LATERAL[1])):
        light = np.ascontiguousarray(rgb[..., k])
        if scale != 1.0:
            m = np.array([[1 / scale, 0, (1 - 1 / scale) * w / 2], [0, 1 / scale, (1 - 1 / scale) * h / 2]])
            way = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
            light = cv2.warpAffine(light, m, (w, h), flags=way, borderMode=cv2.BORDER_REPLICATE)
        small = cv2.resize(light, (w // 16, h // 16), interpolation=cv2.INTER_AREA)
        near = cv2.GaussianBlur(small, (0, 0), w / 16 * 0.006)
        wide = cv2.GaussianBlur(small, (0, 0), w / 16 * 0.09)
        light *= np.float32(0.982)
        light += cv2.resize(near * 0.012 + wide * 0.006, (w, h), interpolation=cv2.INTER_LINEAR)
        light *= fall
        out[..., k] = light
    return out


def _flare(rgb: F32, scenery: Scenery) -> None:
    """Ghosts of a sun in or near the frame, strung on the line through the middle, added in place to
    camera RGB before exposure."""
    lens = scenery.full
    at = np.empty(2)
    sun = scenery.sun
    if sun[1] <= 0 or not project(
        float(sun[0]), float(sun[1]), float(sun[2]), scenery.turn, lens.packed(), at
    ):
        return
    h, w = rgb.shape[:2]
    x, y = at[0] / w - 0.5, at[1] / h - 0.5
    if max(abs(x), abs(y)) > 0.75:
        return
    xi, yi = int(np.clip(at[0], 0, w - 1)), int(np.clip(at[1], 0, h - 1))
    near = rgb[max(yi - 4, 0) : yi + 5, max(xi - 4, 0) : xi + 5].max()
    seen = min(float(near) / (DISC_RADIANCE * 0.3), 1.0)
    if seen < 0.02:
        return
    for place, size, colour, strength in (
        (-0.45, 0.022, (0.5, 1.0, 0.7), 0.010), (-0.8, 0.040, (1.0, 0.55, 0.4), 0.005),
        (0.42, 0.014, (0.6, 0.7, 1.0), 0.010), (-1.25, 0.060, (0.7, 0.8, 1.0), 0.003),
    ):  # fmt: skip
        cx, cy, r = (0.5 + x * place) * w, (0.5 + y * place) * h, size * w
        x0, x1 = int(max(cx - 1.3 * r, 0)), int(min(cx + 1.3 * r, w))
        y0, y1 = int(max(cy - 1.3 * r, 0)), int(min(cy + 1.3 * r, h))
        if x1 <= x0 or y1 <= y0:
            continue
        yy, xx = np.mgrid[y0:y1, x0:x1].astype(np.float32)
        d = np.hypot(xx - cx, yy - cy) / r
        disc = np.clip((1.02 - d) * 14, 0, 1) * (0.55 + 0.45 * d**3)
        rgb[y0:y1, x0:x1] += (disc * strength * seen)[..., None] * (FILTERS @ colour).astype(np.float32)


def specks(
    f_number: float, width: int, height: int, count: int = 9
) -> list[tuple[float, float, float, float]]:
    """The specks on this sensor as (x px, y px, radius px, depth): the same places every time."""
    rng = np.random.default_rng(4711)
    places = rng.uniform(0.03, 0.97, (count, 2))
    size = rng.uniform(0.0011, 0.0024, count)
    depth = rng.uniform(0.05, 0.16, count)
    soft = 16 / f_number
    return [
        (float(x * width), float(y * height), float(s * width * soft**0.6), float(d / soft))
        for (x, y), s, d in zip(places, size, depth, strict=True)
    ]


def _dust(rgb: F32, f_number: float, count: int) -> None:
    h, w = rgb.shape[:2]
    for x, y, r, d in specks(f_number, w, h, count):
        x0, x1 = max(int(x - 3 * r), 0), min(int(x + 3 * r) + 1, w)
        y0, y1 = max(int(y - 3 * r), 0), min(int(y + 3 * r) + 1, h)
        yy, xx = np.mgrid[y0:y1, x0:x1]
        rr = ((xx - x) ** 2 + (yy - y) ** 2) / (r * r)
        rgb[y0:y1, x0:x1] *= (1 - d / (1 + np.exp((rr - 1) * 4)))[..., None].astype(np.float32)


def expose(
    radiance: F32, exposure: Exposure, seed: int, orientation: int = 1, dust: int = 9
) -> NDArray[np.uint16]:
    """The mosaic (h, w) uint16 that the sensor delivers for linear BT.709 radiance (h, w, 3) of the
    upright picture; specks, noise and filters lie on the sensor as it was held."""
    return _read_out(_glass(radiance), exposure, seed, orientation, dust)


def _read_out(rgb: F32, exposure: Exposure, seed: int, orientation: int, dust: int) -> NDArray[np.uint16]:
    """The mosaic for what has come through the glass."""
    if orientation == 8:
        rgb = np.ascontiguousarray(np.rot90(rgb, -1))
    elif orientation == 6:
        rgb = np.ascontiguousarray(np.rot90(rgb, 1))
    elif orientation != 1:
        raise ValueError(f"the field camera is not held that way ({orientation})")
    _dust(rgb, exposure.f_number, dust)
    h, w = rgb.shape[:2]
    electrons = FULL_WELL * 100 / exposure.iso
    noise = np.random.Generator(np.random.SFC64(seed)).standard_normal((h, w), dtype=np.float32)
    mosaic = np.empty((h, w), np.uint16)
    _convert(rgb, exposure.level(), noise, 1 / electrons, (READ_NOISE / electrons) ** 2, mosaic)
    return mosaic


@njit(
    "void(float32[:, :, ::1], float64, float32[:, ::1], float64, float64, uint16[:, ::1])",
    nogil=True,
    cache=True,
)
def _convert(rgb, level, noise, shot_noise, read_noise, mosaic):  # type: ignore[no-untyped-def]
    """One colour of every photosite, RGGB; noise of the stated variance; the converter."""
    span, top = np.float32(WHITE - BLACK), np.float32(WHITE)
    for y in range(mosaic.shape[0]):
        for x in range(mosaic.shape[1]):
            light = max(rgb[y, x, (y & 1) + (x & 1)] * np.float32(level), np.float32(0))
            light += noise[y, x] * np.sqrt(light * np.float32(shot_noise) + np.float32(read_noise))
            value = light * span + np.float32(BLACK + 0.5)
            mosaic[y, x] = np.uint16(min(max(value, np.float32(0)), top))


def as_shot_neutral(light: NDArray[np.float64] | None = None) -> NDArray[np.float64]:
    """Camera RGB, green = 1, of a grey card: under daylight D65, or in `light` (linear BT.709)."""
    xyz = np.array([0.95046, 1.0, 1.08906]) if light is None else BT709_TO_XYZ @ light
    white = MATRIX_D65 @ xyz
    return np.asarray(white / white[1])


def develop(shot: Shot, seen: Seen, scenery: Scenery, path: Path) -> None:
    """Expose what the lens sees and write the raw file."""
    glass = _glass(seen.radiance)
    _flare(glass, scenery)
    mosaic = _read_out(glass, shot.exposure, shot.seed, shot.orientation, shot.dust)
    electrons = FULL_WELL * 100 / shot.exposure.iso
    write_dng(
        path,
        mosaic,
        maker=MAKER,
        model=MODEL,
        black=BLACK,
        white=WHITE,
        matrices=[(17, MATRIX_A), (21, MATRIX_D65)],
        neutral=as_shot_neutral(scenery.card_light() if shot.white == "card" else None),
        noise_profile=(1 / electrons, (READ_NOISE / electrons) ** 2),
        orientation=shot.orientation,
        taken=shot.taken,
        exposure_s=shot.exposure.seconds,
        f_number=shot.exposure.f_number,
        iso=shot.exposure.iso,
        focal_mm=shot.view.focal_mm,
        lens=LENS,
        description="The Ammerlin coast, an invented place",
    )


def shoot(shot: Shot, path: Path, threads: int = 2) -> Seen:
    """Photograph, write the raw file, and return what the lens saw, upright."""
    shot.check()
    scenery = Scenery(shot.view, shot.lens, threads)
    seen = scenery.look()
    develop(shot, seen, scenery, path)
    return seen


def smaller(shot: Shot, width: int) -> Shot:
    """The same shot on fewer pixels, for tests and viewfinders."""
    even = max(2, round(width * shot.height / shot.width / 2) * 2)
    return replace(shot, width=width // 2 * 2, height=even)
