"""What a file says about its frame: size, orientation, colour, exposure."""

from pathlib import Path
from typing import Any

import exifread
import numpy as np
import tifffile
from pydantic import BaseModel, ConfigDict

from ..colour import CameraColour, camera_to_working
from ..errors import FrameError

# Exif light source codes to kelvin (Exif 2.32, and the DNG specification's standard lights)
LIGHT_KELVIN = {
    1: 5500, 2: 4230, 3: 2850, 4: 5500, 9: 5500, 10: 6500, 11: 7500, 12: 6400, 13: 5000, 14: 4150,
    15: 3450, 17: 2856, 18: 4874, 19: 6774, 20: 5503, 21: 6504, 22: 7504, 23: 5003, 24: 3200,
}  # fmt: skip


MOST_PIXELS = 105_000_000
"""Frames with more px are not opened: decoding one takes too much memory."""


def check_size(width: int, height: int) -> None:
    """Raises FrameError for a frame that claims to be too large, or too small to be a picture."""
    if width * height > MOST_PIXELS:
        raise FrameError(
            f"it is {width} × {height} px, {width * height / 1e6:.0f} megapixels; frames of up to "
            f"{MOST_PIXELS / 1e6:.0f} megapixels can be opened"
        )
    if min(width, height) < 16:
        raise FrameError(f"it is {width} × {height} px, too small for a picture")


class FrameInfo(BaseModel):
    """A frame's own facts. Sizes in px of the as-captured active area; orientation as in Exif (1–8)."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    width: int
    height: int
    orientation: int = 1
    kind: str
    """"raw" or "rendered"."""
    bits: int = 16
    maker: str = ""
    model: str = ""
    taken: str = ""
    exposure_s: float | None = None
    f_number: float | None = None
    iso: int | None = None
    focal_mm: float | None = None
    focal_35: float | None = None
    """Focal length in mm that would see as much on a 36 × 24 mm sensor, where the file states it."""
    lens: str = ""
    lens_tags: str = ""
    """The DNG's own list of lens corrections (OpcodeList3), hexadecimal."""
    matrices: list[tuple[float, tuple[float, ...]]] = []
    neutral: tuple[float, float, float] = (1.0, 1.0, 1.0)
    colour_source: str = "none"
    noise_profile: tuple[float, float] | None = None
    """Scale and offset of noise variance over the 0–1 signal, where the file states them."""
    clipped: tuple[float, float, float] | None = None
    """Share of photosites that clipped, per channel, counted in the mosaic."""
    unit: int | None = None
    """The length that coordinates are divided by, px, where it is not the long edge."""
    rescued: bool = False
    """Whether what clipped was rebuilt before: there is nothing left to rescue."""
    headroom: float = 0.0
    """Stops beyond 1 at which light clips: of a bracket, what its shorter exposures hold."""
    notes: list[str] = []
    """Plain sentences about what the file does not say."""

    def check(self) -> None:
        """Raises FrameError where what the file says of its colour cannot be: it could not be developed."""
        with np.errstate(all="ignore"):
            try:
                matrix = camera_to_working(self.colour, self.colour.as_shot())
            except (ValueError, ArithmeticError, np.linalg.LinAlgError) as error:
                raise FrameError(f"its colour data are damaged ({error})") from error
        if (
            not np.isfinite(matrix).all()
            or np.abs(matrix).max() > 1e3
            or np.abs(np.linalg.det(matrix)) < 1e-6
        ):
            raise FrameError("its colour data are damaged (its matrix or its neutral cannot be)")
        if not all(1e-3 < v < 1e3 for v in self.neutral):
            raise FrameError("its colour data are damaged (its neutral cannot be)")

    @property
    def long_edge(self) -> int:
        """The length that coordinates are divided by, px."""
        return self.unit or max(self.width, self.height)

    @property
    def focal(self) -> float:
        """Focal length in long edges of the frame; a moderate wide angle where nothing is stated."""
        full = self.focal_35 and self.focal_mm and abs(self.focal_35 - self.focal_mm) < 1
        if self.focal_35 and not full:  # where both agree, the true length is the less rounded one
            return (
                self.focal_35
                / 43.267
                * float(np.hypot(self.width, self.height))
                / max(self.width, self.height)
            )
        return (self.focal_mm or 28.0) / 36.0

    @property
    def colour(self) -> CameraColour:
        """How the frame's numbers relate to colour."""
        return CameraColour(tuple(self.matrices), self.neutral, self.colour_source)

    @property
    def developed_size(self) -> tuple[int, int]:
        """(width, height) in px once turned upright."""
        turned = self.orientation >= 5
        return (self.height, self.width) if turned else (self.width, self.height)


def _number(value: Any) -> float | None:
    try:
        ratio = value.values[0]
        return float(ratio.num) / float(ratio.den) if hasattr(ratio, "num") else float(ratio)
    except (AttributeError, IndexError, ZeroDivisionError, TypeError, ValueError):
        return None


def read_exif(path: Path) -> dict[str, Any]:
    """Exposure data of any file that carries Exif; missing or unreadable entries are left out."""
    try:
        with path.open("rb") as file:
            tags = exifread.process_file(file, details=False)
    except Exception:  # exif blocks are often damaged; the picture may still be whole
        return {}
    found: dict[str, Any] = {}

    def tag(name: str) -> Any:
        """An entry of the Exif directory, else of the file's first one, where TIFF/EP (ISO 12234-2) has them."""
        return tags.get(f"EXIF {name}", tags.get(f"Image {name}"))

    for name, key in (
        ("exposure_s", "ExposureTime"),
        ("f_number", "FNumber"),
        ("focal_mm", "FocalLength"),
        ("focal_35", "FocalLengthIn35mmFilm"),
        ("iso", "ISOSpeedRatings"),
    ):
        value = _number(tag(key))
        if value is not None and 0 < value < 1e7:
            found[name] = int(value) if name == "iso" else value
    # fmt: off
    for name, key in (("maker", "Make"), ("model", "Model"), ("taken", "DateTimeOriginal"), ("lens", "LensModel")):
        if tag(key) is not None:
            found[name] = str(tag(key)).strip("\0 ")[:80]
    # fmt: on
    parts = str(tag("SubSecTimeOriginal") or "").strip("\0 ")
    if "taken" in found and "." not in found["taken"] and parts.isdigit():
        found["taken"] += f".{parts[:6]}"
    if "Image Orientation" in tags:
        code = _number(tags["Image Orientation"])
        if code is not None and 1 <= code <= 8:
            found["orientation"] = int(code)
    return found


def _floats(value: Any) -> tuple[float, ...]:
    flat = [float(v) for v in value]
    return tuple(flat)


def read_dng_colour(path: Path) -> dict[str, Any]:
    """Colour tags of a DNG: matrices with their lights, as-shot neutral, noise profile."""
    found: dict[str, Any] = {}
    try:
        with tifffile.TiffFile(path) as tif:
            tags = tif.pages[0].tags  # type: ignore[union-attr]
            if 50706 not in tags:
                return {}
            matrices = []
            for matrix, light in ((50721, 50778), (50722, 50779)):
                if matrix in tags:
                    raw = _floats(_ratios(tags[matrix].value))
                    code = int(tags[light].value) if light in tags else 21
                    if len(raw) == 9:
                        matrices.append((float(LIGHT_KELVIN.get(code, 6504)), raw))
            if matrices:
                found["matrices"] = matrices
                found["colour_source"] = "file"
            if 50728 in tags:
                neutral = _floats(_ratios(tags[50728].value))
                if len(neutral) == 3 and min(neutral) > 0:
                    found["neutral"] = neutral
            if 51022 in tags and len(tags[51022].value) <= 4096:
                found["lens_tags"] = bytes(tags[51022].value).hex()
            if 51041 in tags:
                profile = _floats(tags[51041].value)
                # one that cannot be is left out: noise is then measured
                if len(profile) >= 2 and all(0 <= v < 10 for v in profile[:2]):
                    found["noise_profile"] = (profile[0], profile[1])
    except Exception:  # any damage here is found again, and named, by the decoder
        return {}
    return found


def _ratios(value: Any) -> list[float]:
    flat = list(value)
    if flat and isinstance(flat[0], tuple):
        return [a / b if b else 0.0 for a, b in flat]
    return [flat[i] / flat[i + 1] if flat[i + 1] else 0.0 for i in range(0, len(flat), 2)]
