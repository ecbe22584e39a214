"""A new sky's px: the mixture of both skies taken apart and put together band by band, what water mirrors of it, its grain."""

from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel
from ..fastmath import smooth
from ..lookup import looked_up
from ..mend.membrane import membrane

F32 = NDArray[np.float32]
SURE: Final = 0.97
"""What the matte must hold at least, where it is learned."""
DARKEST_LIGHT: Final = 1e-6
RIPPLES: Final = (0.012, 0.05)
"""How far ripples blur what water mirrors, in widths and in heights of the frame."""
STEEP: Final = 0.35
"""How much water mirrors that is looked down at…"""
FRESNEL: Final = 0.2
"""…how far below the horizon that is, in heights of the frame."""


@kernel(
    "void(float32[:, :, ::1], float32[:, :, :], float32[:, :], float32[:, :, :], float32[:, :], float32[::1],"
    " float32[:, ::1], float32, float32[:, :, :], float32[:, :], float32[:, :, :])"
)
def _lay(rgb, new, alpha, old, away, gain, far, haze, mirrored, grain, most):  # type: ignore[no-untyped-def]
    """A band of working light with the sky that was there, `old`, out and the new one in. gain: of what stands before it;
    mirrored (3, rows, w): times as light as water is by what it mirrors; grain: times as light as the new sky is by it; away: how
    far below the horizon, in reaches of haze; far (3, w), haze: its light over every column, and how much of it there is at the
    horizon; most (3, rows, w): the light that what stands before it sends, at most."""
    one, zero = np.float32(1), np.float32(0)
    for r in range(rgb.shape[1]):
        for c in range(rgb.shape[2]):
            a = alpha[r, c]
            # in the sky's midst what is left over is not of the land: grain, and clouds of the old sky; the new one is there
            kept = one - smooth((a - np.float32(0.9)) * np.float32(12.5))
            # no more of the old sky can be there than there is light
            for k in range(3):
                a = min(a, rgb[k, r, c] / max(old[k, r, c], np.float32(1e-6)))
            a = max(a, zero)
            full = one - (one - a) * kept
            hang = haze * np.exp(-abs(away[r, c]))
            # a fringe of the lens, or of sharpening: at an edge what is lighter than what stands there is still of the old sky
            edge = smooth((a - np.float32(0.05)) * np.float32(4.0))
            for k in range(3):
                left = max(rgb[k, r, c] - a * old[k, r, c], zero)
                over = max(left - (one - a) * most[k, r, c], zero) * edge
                before = (left - over) * gain[k] * mirrored[k, r, c] * kept
                before += hang * ((one - a) * far[k, c] - before) * kept
                over *= min(new[k, r, c] / max(old[k, r, c], np.float32(1e-6)), one) * kept
                rgb[k, r, c] = full * new[k, r, c] * grain[r, c] + before + over


@kernel("void(float32[:, :, :], float32[:, :], float32[::1], float32[:, ::1])")
def grain_of(places, light, of, out):  # type: ignore[no-untyped-def]
    """Times as light as each px is by grain of its own. of: width and height of the level in px, how strong at which light."""
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            x, y = np.uint32(places[0, r, c] * of[0] + 65536.0), np.uint32(places[1, r, c] * of[1] + 65536.0)
            total = np.float32(-2.0)
            for n in range(4):  # four even numbers are all but a bell
                h = x * np.uint32(374761393) + y * np.uint32(668265263) + np.uint32(n) * np.uint32(2246822519)
                h = (h ^ (h >> np.uint32(13))) * np.uint32(1274126177)
                h = (h ^ (h >> np.uint32(16))) & np.uint32(0xFFFFFF)
                total += np.float32(h) * np.float32(1.0 / 16777216.0)
            fall = np.sqrt(of[3] / max(light[r, c], np.float32(1e-6)))
            out[r, c] = max(np.float32(0.1), np.float32(1) + total * np.float32(1.7320508) * of[2] * fall)


@dataclass(frozen=True)
class SkyBands:
    """See `SkyIn.lay`."""

    new: F32
    alpha: F32
    old: F32
    away: F32
    gain: F32
    far: F32
    haze: np.float32
    mirrored: F32
    grain: F32
    most: F32

    def band(self, rgb: F32, r: int, e: int) -> None:
        """Lay it into working light of rows r to before e, in place."""
        _lay(
            rgb,
            self.new[:, r:e],
            self.alpha[r:e],
            self.old[:, r:e],
            self.away[r:e],
            self.gain,
            self.far,
            self.haze,
            self.mirrored[:, r:e],
            self.grain[r:e],
            self.most[:, r:e],
        )


def _evened(row: F32, sigma: float) -> F32:
    """A row (n) evened over so many of its places."""
    return np.asarray(
        cv2.GaussianBlur(row[None], (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)[0], np.float32
    )


def old_sky(light: F32, matte: F32) -> F32:
    """A sky (h, w, 3) as it is where a matte (h, w) is sure of it, evened, and gone on where it is not; light (3, h, w)."""
    sure = cv2.erode((matte > SURE).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    if not sure.any():
        sure = matte >= max(float(matte.max()) - 0.02, DARKEST_LIGHT)
    weight = sure.astype(np.float32)
    spread_ = cv2.blur(weight, (5, 5)) + DARKEST_LIGHT
    even = np.stack([cv2.blur(np.maximum(p, DARKEST_LIGHT) * weight, (5, 5)) / spread_ for p in light])
    gone_on = membrane(np.log(np.maximum(even, DARKEST_LIGHT)).astype(np.float32), ~sure)
    return np.ascontiguousarray(np.exp(gone_on).transpose(1, 2, 0), np.float32)


LAND_NEAR, AT_MOST, NO_LAND = 3.0, 2.0, 0.01
"""How far around, px of the small copy, what stands before a sky is taken to be alike; how many times as light as that on the whole
a px of it may be; and how little of it there must be to be none."""


def land_light(light: F32, matte: F32, old: F32) -> F32:
    """The most light (h, w, 3) that what stands before a sky sends: what the sky `old` (h, w, 3) leaves of light (3, h, w) as far as
    the matte (h, w) says, evened, so that fringes to both sides of an edge come to nothing."""

    def even(plane: F32) -> F32:
        return np.asarray(
            cv2.GaussianBlur(plane, (0, 0), LAND_NEAR, borderType=cv2.BORDER_REPLICATE), np.float32
        )

    there = np.maximum(even(1 - matte), np.float32(NO_LAND))
    left = [np.maximum(even(p - matte * old[..., k]), 0) / there for k, p in enumerate(light)]
    return np.ascontiguousarray(np.stack(left, -1) * np.float32(AT_MOST))


def mirrored(ratio: F32, places: F32, horizon: np.float32, water: F32, amount: float) -> F32:
    """How many times as light water is by mirroring another sky (3, h, w). ratio: stops by which that is lighter (see `in_water`);
    places (2, h, w): on the frame upright; horizon: in heights of it; water (h, w): how much of each px it is."""
    h, w = ratio.shape[:2]
    below = np.maximum(places[1] - horizon, 0)
    up = np.ascontiguousarray((horizon - below) * h - np.float32(0.5))
    across = np.ascontiguousarray(places[0] * w - np.float32(0.5))
    stops = looked_up(ratio, across, up)
    # what is looked at from above shows its own ground, what is looked along mirrors all
    grazing = STEEP + (1 - STEEP) * np.exp(-below / np.float32(FRESNEL))
    share = np.float32(amount) * water * grazing.astype(np.float32)
    return np.ascontiguousarray(np.exp2(stops.transpose(2, 0, 1) * share), np.float32)


def in_water(new: F32, inside: F32, old: F32) -> F32:
    """Stops by which a sky (3, h, w) is lighter than the one that was there (h, w, 3), as ripples show them: (h, w, 3), blurred up
    and down. inside (h, w): how much of the new one there is."""
    there = np.maximum(inside, DARKEST_LIGHT)
    wide, tall = RIPPLES[0] * new.shape[2], RIPPLES[1] * new.shape[1]

    def even(planes: F32) -> F32:
        return np.asarray(cv2.GaussianBlur(planes, (0, 0), wide, None, tall, cv2.BORDER_REPLICATE))

    weight = even(there)
    theirs = np.log2(np.maximum(old, DARKEST_LIGHT))
    out = [
        even(np.log2(np.maximum(n, DARKEST_LIGHT)) * there) / weight
        - even(np.ascontiguousarray(theirs[..., k]))
        for k, n in enumerate(new)
    ]
    return np.ascontiguousarray(np.clip(np.stack(out, -1), -6, 6), np.float32)


def along_the_horizon(light: F32, weight: F32) -> F32:
    """A sky's light (3, h, w) over every column (3, w), weighted and smooth: in logarithms, so that a sun over the horizon does not
    light all of it."""
    wide = max(light.shape[2] / 12, 1.0)
    stops = (np.log2(np.maximum(light, DARKEST_LIGHT)) * weight).sum(1)
    both = np.concatenate([stops, weight.sum(0)[None]]).astype(np.float32)
    even = np.stack([_evened(row, wide) for row in both])
    return np.asarray(2.0 ** (even[:3] / even[3]), np.float32)
