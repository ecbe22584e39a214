"""Subject: what stands in a box and is unlike all that lies around the box.

A first opinion is how far a px is from the px around the box that lie near and look alike, at several
scales of texture. From it models of the thing and of its surroundings are learned, with a random walk
keeping to edges, the middle of the box counting a little more than its rim; holes belong to the thing. Then
its edge is found anew by what lies on both sides of it, and matted. It fails where a thing is like its
surroundings in colour and texture both.
"""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import binary_fill_holes

from .matte import matte, unknown
from .measures import blurred, likeness, often, smaller, table_of, texture, unlike
from .novelty import medians, novelty, roughness
from .walker import walk

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
Region = tuple[float, float, float, float]
LONG_EDGE: Final = 256
"""Long edge of the box, px, while the thing is looked for; a small thing is enlarged to it."""
AROUND: Final = 1.0
"""How much is looked at on each side of the box, in sides of the box."""
SCALES: Final = (40, 16, 9)
"""Sides of the squares whose medians are compared, as parts of the box's long edge."""
UNLIKE: Final = 1.3
"""Novelty that may as well be the thing as not."""
EDGE, NARROW = 0.025, 0.006
"""How far off the edge may be when it is found anew, and when it is matted; in long edges of the box."""
ROUNDS: Final = 4
CRUMB, DULL = 0.12, 0.7
"""Pieces smaller than this share of the largest do not belong to the thing, nor do those less unlike what lies
around, in shares of the largest."""
CLEARLY, PADDED, LOOSE = 0.7, 0.5, 0.18
"""First opinion of what is clearly the thing; room left around it in a tighter box, in its sides, for a walker's
legs may be like the heath; and the share of a loose box that what is clearly the thing takes at most."""
THICK: Final = 0.5
"""What is long has at least so much of that room at its sides too, in shares of what it has at its ends."""
THING: Final = 0.12
"""What takes more of the picture than this is not a thing in it."""


def surroundings(box: Region) -> Region:
    """The region a box is looked at in: the box and as much again on every side, within the frame."""
    w, h = (box[2] - box[0]) * AROUND, (box[3] - box[1]) * AROUND
    return (max(0.0, box[0] - w), max(0.0, box[1] - h), min(1.0, box[2] + w), min(1.0, box[3] + h))


def find_subject(lab: F32, box: Region, belongs: B2 | None = None, not_: B2 | None = None) -> F32:
    """The thing in a box, (h, w) in [0, 1], at a size of its own. lab: (3, H, W), the picture with the
    surroundings of the box. box: in fractions of it. belongs, not_: what is known of it, (H, W)."""
    small, per = _at_its_size(lab, box)
    h, w = small.shape[1:]
    size = (w, h)
    known = [_sized(mark, size) for mark in (belongs, not_)]
    inside = _within(box, size)
    inside = (inside | known[0]) & ~known[1]
    if inside.all() or not inside.any():
        return np.zeros((h, w), np.float32)
    fine = _smoothed(small, per)
    left, right, top, bottom = box[0] * w, box[2] * w, box[1] * h, box[3] * h
    y = (np.arange(h, dtype=np.float32)[:, None] - (top + bottom) / 2) / ((bottom - top) / 2)
    x = (np.arange(w, dtype=np.float32)[None] - (left + right) / 2) / ((right - left) / 2)
    middle = np.clip(1 - 1.4 * (x * x + y * y), -1, 1)
    first = _unlike_around(fine, inside)
    even = medians(fine, LONG_EDGE // SCALES[0])
    noise = max(2.5 * float(np.percentile(texture(small), 10)), 0.02)
    rough = roughness(fine, round(2.2 * max(1.0, per)), LONG_EDGE // 22)
    where, cells = table_of(even, np.clip(rough + 9.5, 0, 7.9).astype(np.float32))
    opinion = np.log((first + 0.03) / (1.03 - first)) + middle
    mask = first
    for _ in range(ROUNDS):
        looks = likeness(where, cells, mask**2 * inside, (1 - mask) ** 2)
        said = np.asarray(2 * looks + _beside(mask) + opinion, np.float32)
        mask = _settled(even, said, inside, known, 0.05, noise)
    if float(mask.max()) < 0.5:
        return np.zeros((h, w), np.float32)
    found = _true_to_edges(even, small, _without_crumbs(mask, known[0], first), inside, noise)
    return _without_crumbs(found, known[0], first)


def tightened(lab: F32, box: Region, belongs: B2 | None = None, not_: B2 | None = None) -> Region:
    """The box, or a tighter one where the thing is far smaller than it: in a loose box there is more that is
    unlike what lies around than the thing. What is marked as belonging to it stays within."""
    small, per = _at_its_size(lab, box)
    h, w = small.shape[1:]
    inside = _within(box, (w, h))
    if inside.all() or not inside.any():
        return box
    first = _unlike_around(_smoothed(small, per), inside)
    kept, off = (_sized(mark, (w, h)) for mark in (belongs, not_))
    clear = _without_crumbs(np.where((first > CLEARLY) & ~off, first, 0).astype(np.float32), kept) > CLEARLY
    clear |= kept
    rows, columns = np.nonzero(clear.any(1))[0], np.nonzero(clear.any(0))[0]
    if not len(rows):
        return box
    across, down = columns[-1] - columns[0] + 1, rows[-1] - rows[0] + 1
    pad_x, pad_y = PADDED * max(across, THICK * down), PADDED * max(down, THICK * across)
    tight = (
        max(box[0], (columns[0] - pad_x) / w),
        max(box[1], (rows[0] - pad_y) / h),
        min(box[2], (columns[-1] + 1 + pad_x) / w),
        min(box[3], (rows[-1] + 1 + pad_y) / h),
    )
    return tight if across * down < LOOSE * inside.sum() else box


def _at_its_size(lab: F32, box: Region) -> tuple[F32, float]:
    """The picture at the size at which the box has its LONG_EDGE, and how much larger that is."""
    h, w = lab.shape[1:]
    per = LONG_EDGE / max((box[2] - box[0]) * w, (box[3] - box[1]) * h)
    size = (max(8, round(w * per)), max(8, round(h * per)))
    how = cv2.INTER_AREA if per < 1 else cv2.INTER_CUBIC
    return np.stack([cv2.resize(p, size, interpolation=how) for p in lab]).astype(np.float32), per


def _smoothed(small: F32, per: float) -> F32:
    return np.stack([blurred(p, max(0.6, 0.35 * per)) for p in small])


def _within(box: Region, size: tuple[int, int]) -> B2:
    w, h = size
    inside: B2 = np.zeros((h, w), bool)
    rows = slice(max(int(box[1] * h), 0), int(box[3] * h) + 1)
    inside[rows, max(int(box[0] * w), 0) : int(box[2] * w) + 1] = True
    return inside


def _without_crumbs(mask: F32, belongs: B2, first: F32 | None = None) -> F32:
    """A mask without what is far smaller than its largest piece and lies apart from it, or is far less unlike
    what lies around by a first opinion."""
    _, label, boxes, _ = cv2.connectedComponentsWithStats((mask > 0.5).astype(np.uint8), connectivity=4)
    area = boxes[:, cv2.CC_STAT_AREA].astype(np.float64)
    area[0] = 0
    held = area > CRUMB * area.max()
    if first is not None:
        novel = np.bincount(label.ravel(), first.ravel()) / np.maximum(boxes[:, cv2.CC_STAT_AREA], 1)
        held &= novel > DULL * novel[int(area.argmax())]
    held[np.unique(label[belongs])] = True
    held[0] = False
    near = cv2.dilate(held[label].astype(np.uint8), np.ones((9, 9)))  # their soft rims stay
    return np.where((near > 0) | belongs, mask, 0).astype(np.float32)


def _sized(mark: B2 | None, size: tuple[int, int]) -> B2:
    if mark is None:
        return np.zeros((size[1], size[0]), bool)
    return np.asarray(cv2.resize(mark.astype(np.uint8), size, interpolation=cv2.INTER_AREA) > 0)


def _unlike_around(fine: F32, inside: B2) -> F32:
    """The first opinion, 0–1: how novel a px is among what lies around the box."""
    scales = [
        novelty(medians(fine, LONG_EDGE // s), inside, 0.15 * max(inside.shape) / LONG_EDGE) for s in SCALES
    ]
    far = np.sqrt(np.mean(np.square(scales), 0))
    return np.where(inside, 1 / (1 + (np.maximum(far, 1e-6) / UNLIKE) ** -4.0), 0).astype(np.float32)


def _beside(mask: F32) -> F32:
    """What lies just beside a px, as an opinion."""
    wide = 0.03 * LONG_EDGE
    return np.asarray(np.log((blurred(mask, wide) + 0.05) / (blurred(1 - mask, wide) + 0.05)), np.float32)


def _settled(guide: F32, opinion: F32, open_: B2, known: list[B2], trust: float, noise: float) -> F32:
    """Opinions made to agree along the picture; holes are filled; outside of what is open there is nothing."""
    own = np.where(open_, 1 / (1 + np.exp(-np.clip(opinion, -20, 20))), 0)
    own = np.where(known[0], 1.0, own).astype(np.float32)
    sure = ~open_ | known[0]
    mask = np.where(open_, walk(guide, own, np.where(sure, 10, trust).astype(np.float32), noise), 0)
    holes = binary_fill_holes(mask > 0.5) & (mask <= 0.5) & open_
    return np.where(holes, 0.9, mask).astype(np.float32)


def _true_to_edges(even: F32, small: F32, mask: F32, inside: B2, noise: float) -> F32:
    """The edge found anew within a narrow band, by what lies on both sides of it, then matted."""
    reach = max(2, round(EDGE * LONG_EDGE))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    hard = (mask > 0.5).astype(np.uint8)
    core = cv2.erode(hard, disc) > 0
    off = (cv2.dilate(hard, disc) == 0) | ~inside
    wide = 0.04 * LONG_EDGE
    for _ in range(2):
        within = np.where(core, 1, np.clip((mask - 0.6) / 0.35, 0, 1)).astype(np.float32)
        without = np.where(off, 1, np.clip((0.4 - mask) / 0.35, 0, 1)).astype(np.float32)
        one, much = unlike(even, within, wide, wide, widest=0.05)
        other, _ = unlike(even, without, wide, wide, widest=0.05)
        sides = np.clip((other - one) / 3, -4, 4) * np.clip(much * 20, 0, 1)
        opinion = sides + 0.7 * np.log((mask + 0.03) / (1.03 - mask))
        own = np.where(core, 1, np.where(off, 0, 1 / (1 + np.exp(-opinion)))).astype(np.float32)
        mask = walk(even, own, np.where(core | off, 10, 0.15).astype(np.float32), noise)
    return matted_again(small, mask, round(NARROW * LONG_EDGE), inside)


def matted_again(lab: F32, mask: F32, reach: int = 3, within: B2 | None = None) -> F32:
    """A mask (h, w) whose edge is known within so many px, matted there. lab: (3, h, w)."""
    sure = np.where(mask > 0.85, 1, np.where(mask < 0.15, 0, mask)).astype(np.float32)
    open_ = unknown(mask, max(2, reach))
    return matte(lab, sure, open_ if within is None else open_ & within)


def salient_box(lab: F32) -> Region | None:
    """A box around what the eye would go to, in fractions of a picture (3, h, w); None where nothing stands
    out: colours that are rare in the picture and unlike what is near them, in one piece."""
    small = medians(smaller(lab, 512), 3)
    h, w = small.shape[1:]
    where, cells = table_of(small, np.full((h, w), 3, np.float32))
    every = np.ones((h, w), np.float32)
    common = often(where, cells)
    rare = np.clip((np.median(common) - common) / 4, 0, 1.5)
    near, far = (unlike(small, every, s * max(h, w), s * max(h, w), widest=0.2)[0] for s in (0.03, 0.12))
    local = [x / max(float(np.percentile(x, 90)), 0.5) for x in (near, far)]
    strong = blurred((rare * np.minimum(*local)).astype(np.float32), 1.2)
    most = float(strong.max())
    if most < 0.5:
        return None
    # what stands out is a part of a thing; the thing is all about it that is rare and unlike what lies farther
    wide = blurred((rare * np.clip(local[1], 0, 3)).astype(np.float32), 1.2)
    pieces = _pieces(np.asarray(wide > 0.25))
    parts = _pieces(np.asarray(strong > max(0.25 * most, 0.4)))
    weight = np.bincount(parts[0].ravel(), strong.ravel(), len(parts[1])) / np.sqrt(parts[1][:, 4])
    weight[0] = 0
    part = int(weight.argmax())
    box = parts[1][part, :4]
    inside = pieces[0][parts[0] == part]
    piece = int(np.bincount(inside).argmax())
    if piece and pieces[1][piece, 4] < THING * h * w:
        box = pieces[1][piece, :4]
    left, top, across, down = (float(v) for v in box)
    pad_x, pad_y = max(0.25 * across, 4), max(0.25 * down, 4)
    return (
        max(0.0, (left - pad_x) / w),
        max(0.0, (top - pad_y) / h),
        min(1.0, (left + across + pad_x) / w),
        min(1.0, (top + down + pad_y) / h),
    )


def _pieces(held: B2) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Which piece every px belongs to (0: none), and their boxes and areas."""
    closed = cv2.morphologyEx(held.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((7, 7)))
    _, label, boxes, _ = cv2.connectedComponentsWithStats(closed, connectivity=8)
    return np.asarray(label), np.asarray(boxes)
