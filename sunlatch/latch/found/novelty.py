"""How unlike a px is to what lies around it, where "around" is known and the rest is asked."""

from typing import Final

import cv2
import numpy as np
import scipy
from numpy.typing import NDArray

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
KNOWN, TESTED, BESIDE, NEAREST = 5000, 1500, 32, 5
"""Px around that are remembered; px around they are tested on; of how many that lie near and look alike the
so many-th nearest in colour counts."""
SPARE, PART, USUAL = 300, 16384, 95
"""Px that must be left to be tested on; px that are asked at a time; and the percentage of those around that are usual."""
FLAT: Final = 1e-3
"""Texture that is none, in OKLab."""
FAINT: Final = 0.015
"""Differences in OKLab that are nothing, however even the surroundings."""


def medians(planes: F32, side: int) -> F32:
    """Planes (n, h, w), each px the median within a square of a side: textures go, edges stay."""
    side = max(3, side // 2 * 2 + 1)
    out = np.empty_like(planes)
    for n, plane in enumerate(planes):
        low, high = float(plane.min()), float(plane.max())
        per = max(high - low, 1e-6) / 255
        bytes_ = np.rint((plane - low) / per).astype(np.uint8)
        out[n] = cv2.medianBlur(bytes_, side) * np.float32(per) + np.float32(low)
    return out


def roughness(lab: F32, fine: int, window: int) -> F32:
    """Texture (h, w) as log2 of the middle difference from what lies `fine` px around, within a window; it
    does not spill over edges as a mean would."""
    off = np.abs(lab - medians(lab, fine)).sum(0, keepdims=True).astype(np.float32)
    return np.asarray(np.log2(np.maximum(cv2.blur(medians(off, window)[0], (3, 3)), FLAT)), np.float32)


def novelty(planes: F32, asked: B2, near: float) -> F32:
    """How far px are in colour from those around that lie near and look alike: (h, w), 1 where it is as far
    as all but a few of those around are from one another; 0 where it is not asked. planes: (n, h, w).
    near: what a way of the picture's long edge counts as in colour when the alike are looked for."""
    h, w = asked.shape
    y, x = np.mgrid[0:h, 0:w].astype(np.float32) * np.float32(near / max(h, w))
    points = np.concatenate([planes, x[None], y[None]]).reshape(len(planes) + 2, -1).T
    around = np.random.default_rng(1).permutation(np.nonzero(~asked.ravel())[0])
    known = points[around[:KNOWN]]
    tested = around[KNOWN : KNOWN + TESTED] if len(around) > KNOWN + SPARE else around[:TESTED]
    tree, depth = scipy.spatial.cKDTree(known), len(planes)
    beside = min(BESIDE, len(known))
    nearest = min(NEAREST, beside) - 1

    def far(some: F32) -> F32:
        out = np.empty(len(some), np.float32)
        for n in range(0, len(some), PART):
            part = some[n : n + PART]
            which = tree.query(part, k=beside, workers=-1)[1]
            off = np.square(known[which.reshape(len(part), -1), :depth] - part[:, None, :depth]).sum(2)
            out[n : n + PART] = np.sqrt(np.partition(off, nearest, axis=1)[:, nearest])
        return out

    out = np.zeros(h * w, np.float32)
    inside = np.nonzero(asked.ravel())[0]
    out[inside] = far(points[inside])
    usual = max(float(np.percentile(far(points[tested]), USUAL)), FAINT)
    return np.asarray(out.reshape(h, w) / usual, np.float32)
