"""Rescue: light whose channels clipped, rebuilt from the channels that did not.

The hue of light around clipped places is learned once from the whole frame at a small
size and carried inward (push and pull over halved sizes, after Gortler et al. 1996). Where one or
two channels are full, the others say how bright it is and the hue around it says what the full ones
would have read. Where all are full, the px goes to that hue or to white, at the level reached.
Everything fades in before a channel is full, so there is
no rim. Revision 1 is `roll_off`; revision 2 took
the mean of glitter, some of it clipped, for a hue.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from ..compiled import inlined, kernel

F32 = NDArray[np.float32]

HUE_LONG_EDGE = 420
"""At most this many px long is the level from which the hue around is learned (the pyramid's last)."""
SPECKS = 0.004
"""Share of clipped photosites from which on a px says nothing of hue."""
_ZERO, _ONE, _HALF = np.float32(0), np.float32(1), np.float32(0.5)
_START, _FULL = np.float32(0.78), np.float32(0.97)
STARTS = float(_START)
"""Below this share of the clip level nothing is changed."""


def hue_around(small: F32, neutral: F32, clipped: F32 | None = None) -> F32:
    """Planes (2, h, w): log of red and of blue against green, less those of the as-shot white, of the
    light around every place. small: camera RGB (3, h, w) of the whole frame. clipped: share of photosites
    of a px that clipped, (h, w): a mean over glitter that clipped has no hue of its own."""
    level = np.maximum(small, 1e-5)
    full = level.max(0)
    # bright but whole light counts; what is dark has another hue
    whole = full < 0.82 if clipped is None else (full < 0.82) & (clipped < SPECKS)
    weight = np.where(whole, full**2, 0).astype(np.float32) + np.float32(1e-9)
    away = np.stack(
        [
            np.log(level[0] / level[1]) - np.log(neutral[0] / neutral[1]),
            np.log(level[2] / level[1]) - np.log(neutral[2] / neutral[1]),
        ]
    )
    away = np.clip(away, -1.2, 1.2).astype(np.float32) * weight
    sizes = [(weight, away)]
    while max(sizes[-1][0].shape) > 1:
        w, a = sizes[-1]
        half = (max(1, w.shape[1] // 2), max(1, w.shape[0] // 2))

        def less(plane: F32, half: tuple[int, int] = half) -> F32:
            return np.asarray(cv2.resize(plane, half, interpolation=cv2.INTER_AREA), np.float32).reshape(
                half[1], half[0]
            )

        sizes.append((less(w), np.stack([less(p) for p in a])))
    w, a = sizes[-1]
    found = a / w
    for w, a in reversed(sizes[:-1]):
        size = (w.shape[1], w.shape[0])
        wide = np.stack([cv2.resize(p, size, interpolation=cv2.INTER_LINEAR) for p in found])
        known = np.clip(w / 0.02, 0, 1)
        found = a / w * known + wide * (1 - known)
    return np.ascontiguousarray([cv2.GaussianBlur(p, (0, 0), 2.0) for p in found], np.float32)


@inlined
def _clip_share(v):  # type: ignore[no-untyped-def]
    t = min(max(_ZERO, (v - _START) / (_FULL - _START)), _ONE)
    return t * t * (np.float32(3) - np.float32(2) * t)


@kernel("void(float32[:, :, ::1], float32[::1], float32[:, :, ::1], float64[::1], float32, float32)")
def rescue(camera, neutral, around, place, amount, hue):  # type: ignore[no-untyped-def]
    """Revisions 2 and 3, in place on camera RGB (3, rows, w), 1 = clip level. neutral: as-shot white, largest
    1. around: from hue_around. place: u0, v0, du, dv of the block in fractions of the frame."""
    rows, columns = around.shape[1], around.shape[2]
    for r in range(camera.shape[1]):
        for c in range(camera.shape[2]):
            a, b, d = camera[0, r, c], camera[1, r, c], camera[2, r, c]
            if max(a, max(b, d)) <= _START:
                continue
            gy = min(max(0.0, (place[1] + r * place[3]) * rows - 0.5), rows - 1.001)
            gx = min(max(0.0, (place[0] + c * place[2]) * columns - 0.5), columns - 1.001)
            y, x = int(gy), int(gx)
            fy, fx = np.float32(gy - y), np.float32(gx - x)
            w00, w01 = (_ONE - fy) * (_ONE - fx), (_ONE - fy) * fx
            w10, w11 = fy * (_ONE - fx), fy * fx
            red = around[0, y, x] * w00 + around[0, y, x + 1] * w01
            red += around[0, y + 1, x] * w10 + around[0, y + 1, x + 1] * w11
            blue = around[1, y, x] * w00 + around[1, y, x + 1] * w01
            blue += around[1, y + 1, x] * w10 + around[1, y + 1, x + 1] * w11
            ta, tb, td = _clip_share(a), _clip_share(b), _clip_share(d)
            kept = _ONE - (_ONE - hue) * ta * tb * td
            wa = neutral[0] * np.exp(red * kept)
            wb = neutral[1]
            wd = neutral[2] * np.exp(blue * kept)
            la, lb, ld = a / wa, b / wb, d / wd
            top = max(la, max(lb, ld))
            # sharply in favour of the channels that are whole
            ua, ub, ud = (_ONE - ta) ** 2, (_ONE - tb) ** 2, (_ONE - td) ** 2
            some = np.float32(0.02)
            level = (ua * la + ub * lb + ud * ld + some * top) / (ua + ub + ud + some)
            camera[0, r, c] = a + amount * ta * max(wa * level - a, _ZERO)
            camera[1, r, c] = b + amount * tb * max(wb * level - b, _ZERO)
            camera[2, r, c] = d + amount * td * max(wd * level - d, _ZERO)


@kernel("void(float32[:, :, ::1], float32[::1])")
def roll_off(camera, neutral):  # type: ignore[no-untyped-def]
    """Revision 1, in place on camera RGB (3, rows, w): as scenes of the first version have it.

    `neutral`: camera RGB of the as-shot white, largest channel 1. Where the channel that clips
    first is full, it is rebuilt from the other two at that white; where those are full as well,
    the pixel goes to white at the level reached.
    """
    full = np.float32(0.94)
    start = np.float32(0.74)
    for r in range(camera.shape[1]):
        for c in range(camera.shape[2]):
            a, b, d = camera[0, r, c], camera[1, r, c], camera[2, r, c]
            ta = min(max(_ZERO, (a - start) / (full - start)), _ONE)
            tb = min(max(_ZERO, (b - start) / (full - start)), _ONE)
            td = min(max(_ZERO, (d - start) / (full - start)), _ONE)
            na, nb, nd = a / neutral[0], b / neutral[1], d / neutral[2]
            nb = max(nb, nb + tb * (_HALF * (na + nd) - nb))
            high = max(na, max(nb, nd))
            both = max(tb * ta, tb * td)
            camera[0, r, c] = (na + (high - na) * both) * neutral[0]
            camera[1, r, c] = (nb + (high - nb) * both) * neutral[1]
            camera[2, r, c] = (nd + (high - nd) * both) * neutral[2]
