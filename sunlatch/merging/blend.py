"""Where one frame of a sweep gives way to another, and how softly.

At a small size, frame by frame: who is shown where is cut so that the cut runs where frames agree and not through what
moved (graph cut, Kwatra et al. 2003, by OpenCV); then all are blended in bands, coarse ones over far, fine ones over near
(Burt & Adelson 1983), in log light. At full size what is left of that is one smooth map of stops for each frame, and the
cut itself, feathered by a few px.
"""

from dataclasses import dataclass
from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..running.patience import go_on

F32 = NDArray[np.float32]
U8 = NDArray[np.uint8]
B2 = NDArray[np.bool_]
I32 = NDArray[np.int32]

DARK: Final = 2.0**-11
"""Light, of what clips, below which stops are not told apart: noise."""
BANDS: Final = 6


@dataclass(frozen=True)
class Small:
    """A frame at the small size: stops (3, h, w) where `there` (h, w), and the edge (left, top) of that rectangle."""

    left: int
    top: int
    stops: F32
    edge: F32

    @property
    def there(self) -> B2:
        """Where it shows anything."""
        return np.asarray(self.edge > 0)

    @property
    def area(self) -> tuple[slice, slice]:
        """Its rectangle."""
        h, w = self.edge.shape
        return slice(self.top, self.top + h), slice(self.left, self.left + w)


def stops_of(planes: F32) -> F32:
    """Camera RGB as stops, the dark held."""
    return np.log2(np.maximum(planes, DARK)).astype(np.float32)


def cut(parts: list[Small], size: tuple[int, int]) -> I32:
    """Which part is shown at each px (h, w); −1 where none is. size: (width, height)."""
    go_on()
    names = np.full((size[1], size[0]), -1, np.int32)
    best = np.zeros((size[1], size[0]), np.float32)
    for n, p in enumerate(parts):  # to begin with, whoever lies deepest inside
        here, depth = names[p.area], best[p.area]
        more = p.there & (p.edge > depth)
        here[more], depth[more] = n, p.edge[more]
    if len(parts) < 2:
        return names
    matrix: Any = cv2.UMat
    finder: Any = cv2.detail.GraphCutSeamFinder("COST_COLOR_GRAD")
    pictures = [np.ascontiguousarray(np.moveaxis(p.stops, 0, -1) * np.float32(32)) for p in parts]
    masks = [matrix(p.there.astype(np.uint8) * 255) for p in parts]
    found = finder.find([matrix(x) for x in pictures], [(p.left, p.top) for p in parts], masks)
    shown = [np.asarray(m.get()) > 0 for m in (found if found is not None else masks)]
    for n, (p, mask) in enumerate(zip(parts, shown, strict=True)):
        names[p.area][mask & p.there] = n
    return names


def soft(names: I32, count: int, sigma: float = 1.0) -> F32:
    """How much each part is shown (count, h, w), a px or so soft: from where it goes to a finer size."""
    return np.stack([cv2.GaussianBlur((names == n).astype(np.float32), (0, 0), sigma) for n in range(count)])


def _pyramid(x: F32, levels: int) -> list[F32]:
    out = [x]
    for _ in range(levels):
        out.append(cv2.pyrDown(out[-1]))
    return out


def _up(x: F32, like: F32) -> F32:
    return np.asarray(cv2.pyrUp(x, dstsize=(like.shape[1], like.shape[0])), np.float32)


def filled(x: F32, there: B2) -> F32:
    """A picture (h, w, n) with what is not there drawn in from around it, smoothly."""
    weight = there.astype(np.float32)
    values, weights = [x * weight[..., None]], [weight]
    while min(values[-1].shape[:2]) > 2:
        values.append(cv2.pyrDown(values[-1]))
        weights.append(cv2.pyrDown(weights[-1]))
    out = np.asarray(values[-1] / np.maximum(weights[-1], 1e-6)[..., None], np.float32)
    for v, w in zip(values[-2::-1], weights[-2::-1], strict=True):
        share = np.minimum(w * 4, 1)[..., None]
        out = np.asarray(share * (v / np.maximum(w, 1e-6)[..., None]) + (1 - share) * _up(out, w), np.float32)
    return np.where(there[..., None], x, out).astype(np.float32)


def blended(parts: list[Small], names: I32) -> F32:
    """All parts as one (h, w, 3), stops, in bands; drawn on where there is none."""
    h, w = names.shape
    whole = np.zeros((h, w, 3), np.float32)
    for n, p in enumerate(parts):
        here = names[p.area] == n
        whole[p.area][here] = np.moveaxis(p.stops, 0, -1)[here]
    whole = filled(whole, names >= 0)
    nearest = _nearest(names)
    levels = min(BANDS, int(np.log2(max(min(h, w), 4))) - 1)
    total: list[F32] = []
    shares: list[F32] = []
    for n, p in enumerate(parts):
        go_on()
        picture = whole.copy()
        picture[p.area][p.there] = np.moveaxis(p.stops, 0, -1)[p.there]
        masks = _pyramid((nearest == n).astype(np.float32), levels)
        gauss = _pyramid(picture, levels)
        bands = [g - _up(gauss[k + 1], g) for k, g in enumerate(gauss[:-1])] + [gauss[-1]]
        for k, (band, mask) in enumerate(zip(bands, masks, strict=True)):
            if len(total) <= k:
                total.append(np.zeros_like(band))
                shares.append(np.zeros_like(mask))
            total[k] += band * mask[..., None]
            shares[k] += mask
    bands = [t / np.maximum(s, 1e-6)[..., None] for t, s in zip(total, shares, strict=True)]
    out = bands[-1]
    for band in bands[-2::-1]:
        out = band + _up(out, band)
    return np.asarray(out, np.float32)


def _nearest(names: I32) -> I32:
    """The same, with the nearest part where there is none."""
    if (names >= 0).all():
        return names
    _, labels = cv2.distanceTransformWithLabels(
        (names < 0).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
    )
    owner = np.full(int(labels.max()) + 1, -1, np.int32)
    there = names >= 0
    owner[labels[there]] = names[there]
    return np.asarray(owner[labels], np.int32)
