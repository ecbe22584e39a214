"""Decode a raw file with LibRaw into camera RGB. Runs in the child process only."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import rawpy
from numpy.typing import NDArray

from ..colour.spaces import D65, rgb_to_xyz, xy_to_xyz
from ..errors import FrameError
from .binning import bin_mosaic
from .metadata import FrameInfo, check_size, read_dng_colour, read_exif

F16 = NDArray[np.float16]
FLIP_TO_EXIF = {0: 1, 3: 3, 5: 8, 6: 6}


class RawFile:
    """An opened raw file: its facts at once, its pixels when asked."""

    def __init__(self, path: Path) -> None:
        try:
            self._raw = rawpy.imread(str(path))
        except rawpy.LibRawError as error:
            raise FrameError(f"no raw decoder recognises it ({_words_of(error)})") from error
        sizes = self._raw.sizes
        check_size(sizes.width, sizes.height)
        self.info = self._facts(path)
        self._unpacked = False
        self.spent = False
        """True once LibRaw has worked on the mosaic it holds, which changes it: open the file anew."""

    def _facts(self, path: Path) -> FrameInfo:
        sizes = self._raw.sizes
        facts: dict[str, Any] = read_exif(path) | read_dng_colour(path)
        facts["orientation"] = FLIP_TO_EXIF.get(sizes.flip, 1)
        notes: list[str] = []
        if "matrices" not in facts:
            xyz = np.asarray(self._raw.rgb_xyz_matrix, float)[:3]
            if np.any(xyz):
                facts |= {"matrices": [(6504.0, tuple(xyz.ravel()))], "colour_source": "decoder"}
            else:
                inverse = np.linalg.inv(rgb_to_xyz("srgb"))
                facts |= {"matrices": [(6504.0, tuple(inverse.ravel()))], "colour_source": "none"}
                notes.append("No colour matrix is known for this camera; colours are approximate.")
        if "neutral" not in facts:
            gains = np.asarray(self._raw.camera_whitebalance, float)[:3]
            if np.all(gains > 0):
                neutral = gains[1] / gains
            else:
                neutral = np.array(facts["matrices"][0][1]).reshape(3, 3) @ xy_to_xyz(D65)
                neutral = np.maximum(neutral / neutral[1], 0.05)
                notes.append("The file does not say what the light was; daylight is assumed.")
            facts["neutral"] = tuple(float(v) for v in neutral)
        if "exposure_s" not in facts:
            notes.append("no exposure data.")
        return FrameInfo(width=sizes.width, height=sizes.height, kind="raw", bits=16, notes=notes, **facts)

    def _unpack(self) -> None:
        """Lift the mosaic off zero, so that noise below black survives LibRaw's clipping."""
        if self._unpacked:
            return
        raw = self._raw
        try:
            mosaic = raw.raw_image
        except rawpy.LibRawError as error:
            raise FrameError(f"its picture data are damaged ({_words_of(error)})") from error
        self._white = int(raw.white_level)
        self._black = float(np.mean(raw.black_level_per_channel))
        self._lift = 0
        if mosaic is not None and mosaic.ndim == 2:
            self._lift = max(min(self._white // 40, 65535 - self._white), 0)
            cv2.add(mosaic, float(self._lift), dst=mosaic)  # stops at 65 535
        self._unpacked = True

    def clipped(self) -> NDArray[np.uint8] | None:
        """Share of clipped photosites per channel at half size; None where there is no mosaic.

        To be asked before the pixels: LibRaw's work changes the mosaic it holds.
        """
        self._unpack()
        if self._lift == 0:
            return None
        plane = _clipped(self._raw, self._white + self._lift - 2)
        red, green, blue = (float(v) / 255 for v in plane.mean((0, 1)))
        self.info.clipped = (red, green, blue)
        return plane

    def first_pixels(self) -> F16:
        """Camera RGB at half size, as soon as possible: by binning where the mosaic is of 2×2 blocks."""
        colours = self._block()
        if colours is None:
            return np.concatenate(list(self.bands(half=True)))
        try:
            mosaic = self._raw.raw_image_visible
        except rawpy.LibRawError as error:
            raise FrameError(f"its picture data are damaged ({_words_of(error)})") from error
        levels = np.asarray(self._raw.black_level_per_channel, np.float32)
        black = np.array([levels[0], (levels[1] + levels[3]) / 2, levels[2]], np.float32)
        pixels, self.info.clipped = bin_mosaic(mosaic, colours, black, float(self._raw.white_level))
        return pixels

    def _block(self) -> NDArray[np.int64] | None:
        """Which colour each photosite of the corner 2×2 block sees; None for other mosaics."""
        pattern, mosaic = self._raw.raw_pattern, self._raw.raw_image
        if pattern is None or pattern.shape != (2, 2) or mosaic is None or mosaic.ndim != 2:
            return None
        sizes = self._raw.sizes
        turned = np.roll(pattern, (-(sizes.top_margin % 2), -(sizes.left_margin % 2)), (0, 1))
        colours = np.ascontiguousarray(np.where(turned == 3, 1, turned), np.int64)
        return colours if set(colours.ravel()) == {0, 1, 2} else None

    def bands(self, half: bool = False) -> Iterator[F16]:
        """Camera RGB (rows, w, 3) float16, 1 = clip level, from top to bottom; half size by LibRaw, or AHD demosaic."""
        self._unpack()
        self.spent = True
        gains = 1 / np.array(self.info.neutral)
        gains = gains / gains.max()
        try:
            out = self._raw.postprocess(
                half_size=half,
                demosaic_algorithm=rawpy.DemosaicAlgorithm.AHD,
                output_color=rawpy.ColorSpace.raw,
                gamma=(1, 1),
                no_auto_bright=True,
                adjust_maximum_thr=0.0,
                user_wb=[gains[0], gains[1], gains[2], gains[1]],
                highlight_mode=rawpy.HighlightMode.Ignore,
                # LibRaw takes this level as it is after black has been subtracted
                user_sat=round(self._white - self._black) + self._lift,
                output_bps=16,
                user_flip=0,
            )
        except rawpy.LibRawError as error:
            raise FrameError(f"its picture data are damaged ({_words_of(error)})") from error
        if out.ndim != 3 or out.shape[2] != 3:
            raise FrameError("it is not a colour picture")
        self._raw.close()  # half of the memory is LibRaw's, and it is done
        yield from _unscaled(out, gains, self._black, self._white, self._lift)


def _unscaled(out: NDArray[np.uint16], gains: Any, black: float, white: int, lift: int) -> Iterator[F16]:
    """Gains and lift undone, band by band."""
    span = white - black
    scale = ((span + lift) / (65535 * gains * span)).astype(np.float32)
    offset = np.float32(lift / span)
    for r in range(0, out.shape[0], 256):
        yield (out[r : r + 256].astype(np.float32) * scale - offset).astype(np.float16)


def _clipped(raw: Any, limit: int) -> NDArray[np.uint8]:
    """Share of clipped photosites per channel (0–255) at half size, from the mosaic itself."""
    mosaic = raw.raw_image_visible
    h, w = mosaic.shape[0] // 2 * 2, mosaic.shape[1] // 2 * 2
    over = (mosaic[:h, :w] >= limit).view(np.uint8)
    pattern = raw.raw_pattern
    if pattern is not None and pattern.shape == (2, 2):
        top, left = raw.sizes.top_margin, raw.sizes.left_margin
        out = np.zeros((h // 2, w // 2, 3), np.uint8)
        share = {c: 255 // int((pattern % 4 == c).sum()) for c in range(4)}
        greens = sum(int((pattern == c).sum()) for c in (1, 3))
        for i in range(2):
            for j in range(2):
                c = int(pattern[(top + i) % 2, (left + j) % 2])
                part = 255 // greens if c in (1, 3) else share[c]
                out[..., 1 if c == 3 else c] += over[i::2, j::2] * np.uint8(part)
        out[out == 254] = 255
        return out
    colours = raw.raw_colors_visible[:h, :w]
    shares = []
    for c in range(3):
        here = (colours == c) | ((colours == 3) if c == 1 else False)
        half = (w // 2, h // 2)
        clipped = cv2.resize((over & here).astype(np.float32), half, interpolation=cv2.INTER_AREA)
        present = cv2.resize(here.astype(np.float32), half, interpolation=cv2.INTER_AREA)
        shares.append(np.where(present > 0, clipped / np.maximum(present, 1e-6), 0))
    return (np.dstack(shares) * 255).astype(np.uint8)


def _words_of(error: Exception) -> str:
    text = error.args[0] if error.args else error
    return text.decode(errors="replace") if isinstance(text, bytes) else str(text)
