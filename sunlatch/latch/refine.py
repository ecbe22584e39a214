"""Edge-true refinement: the mask follows the edges of the picture.

Guided filter (He, Sun & Tang 2013) with log luminance as guide, in its fast form (He & Sun 2015):
the local linear model mask ≈ a·stops + b is fitted on a fixed small size of the whole picture and
applied at the size asked for. So a mask is the same in every view, tile and file, and costs a
look-up. It softens masks that are already right; it cannot mend one that is several pixels off.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel
from ..running.patience import go_on
from .base import Each, at_once

F32 = NDArray[np.float32]

FIT_LONG_EDGE = 1280
"""Long edge of the picture the model is fitted on, px."""


def guide_of(stops: F32, reach: float, texture: float) -> F32:
    """What a picture gives to every mask that is fitted to it, planes (3, h, w): its light, the local mean of
    that, and how much of a difference counts. stops: (h, w). reach: radius as a fraction of the long
    edge. texture: differences in stops below this are not edges."""
    light = np.clip(stops, -12, 12).astype(np.float32)
    mean = _mean(light, reach)
    variance = _mean(light * light, reach) - mean * mean
    return np.stack((light, mean, 1 / (np.maximum(variance, 0) + np.float32(texture) ** 2)))


def fit(mask: F32, guide: F32, reach: float, each: Each = at_once) -> F32:
    """Planes (h, w, 2) of a and b. mask: (h, w). guide: as `guide_of` gives it, with the same reach."""
    side = _side(mask.shape, reach)
    half, rows = side // 2, len(mask)
    mask = np.ascontiguousarray(mask, np.float32)
    out = np.empty((*mask.shape, 2), np.float32)

    def band(first: int, last: int) -> None:
        # all of it band by band: what is large is written once, and what lies between stays in the cache
        low, high = max(0, first - half), min(rows, last + half)
        top, bottom = max(0, low - half), min(rows, high + half)
        pair = np.empty((bottom - top, mask.shape[1], 2), np.float32)
        _with_light(mask[top:bottom], guide[:, top:bottom], pair)
        means = _box(pair, side)[low - top : high - top]
        _line(guide[:, low:high], means)
        out[first:last] = _box(means, side)[first - low : last - low]

    each(rows, band)
    return out


@kernel("void(float32[:, ::1], float32[:, :, :], float32[:, :, ::1])")
def _with_light(mask, guide, out):  # type: ignore[no-untyped-def]
    """The mask, and the mask times the light."""
    for r in range(mask.shape[0]):
        for c in range(mask.shape[1]):
            out[r, c, 0] = mask[r, c]
            out[r, c, 1] = mask[r, c] * guide[0, r, c]


@kernel("void(float32[:, :, :], float32[:, :, ::1])")
def _line(guide, means):  # type: ignore[no-untyped-def]
    """Means of those two → slope and offset, in place."""
    for r in range(means.shape[0]):
        for c in range(means.shape[1]):
            a = (means[r, c, 1] - guide[1, r, c] * means[r, c, 0]) * guide[2, r, c]
            means[r, c, 1] = means[r, c, 0] - a * guide[1, r, c]
            means[r, c, 0] = a


def _side(shape: tuple[int, ...], reach: float) -> int:
    return 2 * max(1, round(reach * max(shape[:2]))) + 1


def _box(x: F32, side: int) -> F32:
    return np.asarray(cv2.boxFilter(x, cv2.CV_32F, (side, side), borderType=cv2.BORDER_REFLECT), np.float32)


def _mean(x: F32, reach: float) -> F32:
    """Box means within reach, of one plane or of several (h, w, n)."""
    return _box(x, _side(x.shape, reach))


@kernel("void(float32[:, ::1], float32[:, :, ::1], float64, float64, float64, float64, float32[:, ::1])")
def _apply(stops, model, u0, v0, du, dv, out):  # type: ignore[no-untyped-def]
    rows, columns = model.shape[0], model.shape[1]
    zero, one, low, high = np.float32(0), np.float32(1), np.float32(-12), np.float32(12)
    start, step = np.float32(u0 * columns - 0.5), np.float32(du * columns)
    last = np.float32(columns - 1.001)
    slope, height = np.empty(columns, np.float32), np.empty(columns, np.float32)
    for r in range(stops.shape[0]):
        gy = min(max(0.0, (v0 + r * dv) * rows - 0.5), rows - 1.001)
        y = int(gy)
        fy = np.float32(gy - y)
        # the two rows of the model are mixed once, not at every px
        for x in range(columns):
            slope[x] = model[y, x, 0] + (model[y + 1, x, 0] - model[y, x, 0]) * fy
            height[x] = model[y, x, 1] + (model[y + 1, x, 1] - model[y, x, 1]) * fy
        for c in range(stops.shape[1]):
            gx = min(max(zero, start + np.float32(c) * step), last)
            i = np.uint32(gx)
            fx = gx - np.float32(i)
            a = slope[i] + (slope[i + np.uint32(1)] - slope[i]) * fx
            b = height[i] + (height[i + np.uint32(1)] - height[i]) * fx
            s = min(max(low, stops[r, c]), high)
            out[r, c] = min(max(zero, a * s + b), one)


def apply(stops: F32, model: F32, place: tuple[float, float, float, float]) -> F32:
    """The refined mask (h, w) for a view's stops (h, w) at its place (u0, v0, du, dv)."""
    out = np.empty_like(stops)
    _apply(np.ascontiguousarray(stops), model, *place, out)
    return out


@kernel("void(float32[:, :], float32[:, :, ::1], float32[:, :, :], float32[:, :])")
def _apply_at(stops, model, places, out):  # type: ignore[no-untyped-def]
    rows, columns = model.shape[0], model.shape[1]
    zero, one, half = np.float32(0), np.float32(1), np.float32(0.5)
    for r in range(stops.shape[0]):
        for c in range(stops.shape[1]):
            gy = min(max(zero, places[1, r, c] * np.float32(rows) - half), np.float32(rows - 1.001))
            gx = min(max(zero, places[0, r, c] * np.float32(columns) - half), np.float32(columns - 1.001))
            y, x = int(gy), int(gx)
            fy, fx = gy - np.float32(y), gx - np.float32(x)
            a = (model[y, x, 0] * (one - fx) + model[y, x + 1, 0] * fx) * (one - fy)
            a += (model[y + 1, x, 0] * (one - fx) + model[y + 1, x + 1, 0] * fx) * fy
            b = (model[y, x, 1] * (one - fx) + model[y, x + 1, 1] * fx) * (one - fy)
            b += (model[y + 1, x, 1] * (one - fx) + model[y + 1, x + 1, 1] * fx) * fy
            s = min(max(np.float32(-12), stops[r, c]), np.float32(12))
            out[r, c] = min(max(zero, a * s + b), one)


def apply_at(stops: F32, model: F32, places: F32) -> F32:
    """The same where px do not lie in rows on the fitted picture: places (2, h, w), u and v in fractions
    of it."""
    out = np.empty_like(stops)
    _apply_at(np.ascontiguousarray(stops), model, places, out)
    return out


def fit_colour(mask: F32, lab: F32, radius: int = 2, epsilon: float = 2e-4) -> F32:
    """Planes (4, h, w): mask ≈ a·lab + b within a few px, so that a mask found on a small picture follows
    twigs on a large one. mask: (h, w); lab: (3, h, w), OKLab (He, Sun & Tang 2013, eq. 14)."""
    side = (2 * radius + 1, 2 * radius + 1)

    def mean(x: F32) -> F32:
        return np.asarray(cv2.blur(x, side, borderType=cv2.BORDER_REFLECT), np.float32)

    means = [mean(p) for p in lab]
    level = mean(mask)
    with_mask = [mean(p * mask) - m * level for p, m in zip(lab, means, strict=True)]
    pairs = ((0, 0), (0, 1), (0, 2), (1, 1), (1, 2), (2, 2))
    c00, c01, c02, c11, c12, c22 = (
        mean(lab[i] * lab[j]) - means[i] * means[j] + np.float32(epsilon if i == j else 0) for i, j in pairs
    )
    m0, m1, m2 = c11 * c22 - c12 * c12, c02 * c12 - c01 * c22, c01 * c12 - c02 * c11
    m3, m4, m5 = c00 * c22 - c02 * c02, c01 * c02 - c00 * c12, c00 * c11 - c01 * c01
    per = 1 / (c00 * m0 + c01 * m1 + c02 * m2)
    r, g, b = with_mask
    slopes = (
        (m0 * r + m1 * g + m2 * b) * per,
        (m1 * r + m3 * g + m4 * b) * per,
        (m2 * r + m4 * g + m5 * b) * per,
    )
    offset = level - sum(s * m for s, m in zip(slopes, means, strict=True))
    return np.stack([mean(np.asarray(p, np.float32)) for p in (*slopes, offset)])


@kernel("void(float32[:, :, :], float32[:, :, ::1], float32[:, :, :], float32[:, :], boolean)")
def _apply_colour(lab, model, places, out, part):  # type: ignore[no-untyped-def]
    rows, columns = np.float32(model.shape[1]), np.float32(model.shape[2])
    zero, one, half, edge = np.float32(0), np.float32(1), np.float32(0.5), np.float32(1.001)
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            u, v = places[0, r, c], places[1, r, c]
            if part and (u < zero or v < zero or u > one or v > one):
                out[r, c] = zero
                continue
            gy = min(max(zero, v * rows - half), rows - edge)
            gx = min(max(zero, u * columns - half), columns - edge)
            y, x = int(gy), int(gx)
            fy, fx = gy - np.float32(y), gx - np.float32(x)
            w00, w01 = (one - fy) * (one - fx), (one - fy) * fx
            w10, w11 = fy * (one - fx), fy * fx
            total = zero
            for k in range(4):
                m = w00 * model[k, y, x] + w01 * model[k, y, x + 1]
                m += w10 * model[k, y + 1, x] + w11 * model[k, y + 1, x + 1]
                total += m * lab[k, r, c] if k < 3 else m
            out[r, c] = min(max(zero, total), one)


def apply_colour(lab: F32, model: F32, places: F32, out: F32, part: bool = False) -> None:
    """Fill a mask (h, w) from a picture's OKLab (3, h, w). places: (2, h, w), u and v in fractions of what
    the model was fitted on. part: that is a part of the frame, beyond which there is nothing; beyond the whole
    its rim goes on."""
    _apply_colour(lab, model, places, out, part)


def _feathered(mask: F32, sigma: float) -> F32:
    """Gaussian blur of a mask (h, w); a wide one is made on a small copy, of which no px is missed."""
    step = int(sigma / WIDE)
    if step < 2:
        return np.asarray(cv2.GaussianBlur(mask, (0, 0), sigma), np.float32)
    h, w = mask.shape
    rows, columns = -(-h // step), -(-w // step)
    even = cv2.copyMakeBorder(mask, 0, rows * step - h, 0, columns * step - w, cv2.BORDER_REPLICATE)
    small = cv2.resize(even, (columns, rows), interpolation=cv2.INTER_AREA)
    # reducing by area blurs as well, and so does drawing it out again
    left = np.sqrt(max((sigma / step) ** 2 - 1 / 12 - 1 / 6, 0.04))
    small = cv2.GaussianBlur(small, (0, 0), float(left))
    large = cv2.resize(small, (columns * step, rows * step), interpolation=cv2.INTER_LINEAR)
    return np.ascontiguousarray(large[:h, :w], np.float32)


WIDE = 6
"""Px of a small copy that a wide feather is made on."""
STEP = 5
"""Px by which a mask grows at a time: small discs one upon the other are a large one."""


def margin_of(grow: float, feather: float) -> int:
    """How many px around count when a mask grows and is feathered by so many px."""
    return int(np.ceil(abs(grow) + 1.5 * feather)) + 1 if grow or feather else 0


def softened(mask: F32, grow: float, feather: float) -> F32:
    """A mask (h, w) whose edge is moved outward by `grow` px (inward if less than nothing), then blurred so
    that it ends over `feather` px on both sides."""
    move = cv2.dilate if grow > 0 else cv2.erode
    left = abs(grow)
    while left >= 1:
        go_on()
        step = min(STEP, int(left))
        disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * step + 1, 2 * step + 1))
        mask = np.asarray(move(mask, disc), np.float32)
        left -= step
    if left > 0:  # a part of a px, on small views mostly
        moved = np.asarray(move(mask, cv2.getStructuringElement(cv2.MORPH_CROSS, (3, 3))), np.float32)
        mask = mask + np.float32(left) * (moved - mask)
    if feather > 0:
        go_on()
        mask = np.clip(_feathered(mask, max(feather / 2, 0.2)), 0, 1)  # weights add up to one, or nearly
    return mask
