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
import scipy
from numpy.typing import NDArray

from .matte import matte, unknown
from .measures import blurred, likeness, often, smaller, table_of, texture, unlike
from .novelty import medians, novelty, roughness
from .walker import walk

F32 = NDArray[np.float32]
B2 = NDArray[np.bool_]
Region = tuple[float, float, float, float]
LONG_EDGE: Final = 256
"""Long edge of the box, px, while the thing is looked for; a small thing is enlarged to it."""
BOX_MARGIN: Final = 1.0
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
CENTRED: Final = 1.4
"""Log odds for what lies in the middle of its box: 1 there, 0 on an ellipse whose half axes are the box's over the root of this."""
NOISE, SMOOTH, LEAST = 2.5, 10, 0.02
"""From so many times the texture of the smoothest px (SMOOTH percent of them) on, and so much in OKLab, differences are edges."""
ROUGH_PX, ROUGH_WINDOW, MIDDLE, CELLS = 2.2, 22, 9.5, 7.9
"""Texture as the fourth axis of a table: px of the frame that it is taken between, its window as a part of the box's long edge,
the cell of none, and the last."""
CERTAIN: Final = 0.03
"""No first opinion is surer than this."""
LOOKS: Final = 2
"""What likeness weighs against place and novelty."""
RELIABLE, KNOWN = 0.05, 10
"""How reliable an opinion is against its neighbours', and one that is known (see `walk`)."""
SOFTENED, LEAST_SOFT = 0.35, 0.6
"""Px, standard deviation, over which an enlarged box is evened, for each px of the frame, and at least."""
SMALLEST: Final = 8
"""Px, at least, of a side."""
RIM: Final = 9
"""Px, a side, that are kept around a piece: its soft rim."""
PLACE: Final = 0.15
"""What a way of a box's long edge counts as in colour when the alike are looked for (see `novelty`)."""
FALLS: Final = -4.0
"""The power by which novelty becomes an opinion."""
BESIDE, ALONE = 0.03, 0.05
"""How far px speak for one another, in long edges of the box; and the share taken to be there of both."""
DECIDED, FILLED = 20, 0.9
"""Log odds that are as good as certain; and how much of the thing a hole in it is."""
WINDOW, WIDEST = 0.04, 0.05
"""How far on both sides of an edge colours are examples, in long edges of the box; no standard deviation of them is larger."""
IN, OUT, TURNS = 0.6, 0.4, 0.35
"""From how much on a px is an example of the thing, and up to how much of what is not, over how much it becomes one whole."""
UNIT, SIDES, ENOUGH = 3, 4, 20
"""Squared standard deviations that count as one, at most so many; and examples count whole from one in so many on."""
BEFORE, EDGES = 0.7, 0.15
"""What counts of the opinion before, and how reliable all is then."""
WHOLE, NONE = 0.85, 0.15
"""From how much on a px is the thing whole, and up to how much it is not at all, before it is matted."""
GLANCE, EVEN = 512, 3
"""Long edge, px, at which the eye is asked, and px, a side, of the median that grain goes by."""
RARE, RAREST = 4, 1.5
"""From a log of how rare a colour is to how much that counts, and at most."""
CLOSE_BY, FARTHER, SPREAD = 0.03, 0.12, 0.2
"""What a px is compared with: so far and farther around, in long edges; no standard deviation is larger."""
STRONGEST, DULLEST = 90, 0.5
"""Percent of px that are no more unlike than what counts as one; and the least that does, and that stands out at all."""
DRAWN, AT_MOST = 1.2, 3
"""Px, standard deviation, by which what stands out is drawn together; and how much unlikeness counts at most."""
PART_OF, STANDS_OUT = 0.25, 0.4
"""From how much on a px is part of a thing, as a share of what stands out the most too; and from how much it stands out."""
ROOM, LEAST_ROOM = 0.25, 4
"""Room around it in its box, in its sides, and px at least."""
CLOSED: Final = 7
"""Px, a side, of gaps in a piece that are none."""


def surroundings(box: Region) -> Region:
    """The region a box is looked at in: the box and as much again on every side, within the frame."""
    w, h = (box[2] - box[0]) * BOX_MARGIN, (box[3] - box[1]) * BOX_MARGIN
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
    middle = np.clip(1 - CENTRED * (x * x + y * y), -1, 1)
    first = _unlike_around(fine, inside)
    even = medians(fine, LONG_EDGE // SCALES[0])
    noise = max(NOISE * float(np.percentile(texture(small), SMOOTH)), LEAST)
    rough = roughness(fine, round(ROUGH_PX * max(1.0, per)), LONG_EDGE // ROUGH_WINDOW)
    where, cells = table_of(even, np.clip(rough + MIDDLE, 0, CELLS).astype(np.float32))
    opinion = np.log((first + CERTAIN) / (1 + CERTAIN - first)) + middle
    mask = first
    for _ in range(ROUNDS):
        looks = likeness(where, cells, mask**2 * inside, (1 - mask) ** 2)
        evidence = np.asarray(LOOKS * looks + _beside(mask) + opinion, np.float32)
        mask = _settled(even, evidence, inside, known, RELIABLE, noise)
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
    size = (max(SMALLEST, round(w * per)), max(SMALLEST, round(h * per)))
    how = cv2.INTER_AREA if per < 1 else cv2.INTER_CUBIC
    return np.stack([cv2.resize(p, size, interpolation=how) for p in lab]).astype(np.float32), per


def _smoothed(small: F32, per: float) -> F32:
    return np.stack([blurred(p, max(LEAST_SOFT, SOFTENED * per)) for p in small])


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
    near = cv2.dilate(held[label].astype(np.uint8), np.ones((RIM, RIM)))  # their soft rims stay
    return np.where((near > 0) | belongs, mask, 0).astype(np.float32)


def _sized(mark: B2 | None, size: tuple[int, int]) -> B2:
    if mark is None:
        return np.zeros((size[1], size[0]), bool)
    return np.asarray(cv2.resize(mark.astype(np.uint8), size, interpolation=cv2.INTER_AREA) > 0)


def _unlike_around(fine: F32, inside: B2) -> F32:
    """The first opinion, 0–1: how novel a px is among what lies around the box."""
    scales = [
        novelty(medians(fine, LONG_EDGE // s), inside, PLACE * max(inside.shape) / LONG_EDGE) for s in SCALES
    ]
    far = np.sqrt(np.mean(np.square(scales), 0))
    return np.where(inside, 1 / (1 + (np.maximum(far, 1e-6) / UNLIKE) ** FALLS), 0).astype(np.float32)


def _beside(mask: F32) -> F32:
    """What lies just beside a px, as an opinion."""
    wide = BESIDE * LONG_EDGE
    return np.asarray(np.log((blurred(mask, wide) + ALONE) / (blurred(1 - mask, wide) + ALONE)), np.float32)


def _settled(guide: F32, opinion: F32, open_: B2, known: list[B2], reliability: float, noise: float) -> F32:
    """Opinions made to agree along the picture; holes are filled; outside of what is open there is nothing."""
    own = np.where(open_, 1 / (1 + np.exp(-np.clip(opinion, -DECIDED, DECIDED))), 0)
    own = np.where(known[0], 1.0, own).astype(np.float32)
    sure = ~open_ | known[0]
    mask = np.where(open_, walk(guide, own, np.where(sure, KNOWN, reliability).astype(np.float32), noise), 0)
    holes = scipy.ndimage.binary_fill_holes(mask > 0.5) & (mask <= 0.5) & open_
    return np.where(holes, FILLED, mask).astype(np.float32)


def _true_to_edges(even: F32, small: F32, mask: F32, inside: B2, noise: float) -> F32:
    """The edge found anew within a narrow band, by what lies on both sides of it, then matted."""
    reach = max(2, round(EDGE * LONG_EDGE))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    hard = (mask > 0.5).astype(np.uint8)
    core = cv2.erode(hard, disc) > 0
    off = (cv2.dilate(hard, disc) == 0) | ~inside
    wide = WINDOW * LONG_EDGE
    for _ in range(2):
        within = np.where(core, 1, np.clip((mask - IN) / TURNS, 0, 1)).astype(np.float32)
        without = np.where(off, 1, np.clip((OUT - mask) / TURNS, 0, 1)).astype(np.float32)
        one, much = unlike(even, within, wide, wide, widest=WIDEST)
        other, _ = unlike(even, without, wide, wide, widest=WIDEST)
        sides = np.clip((other - one) / UNIT, -SIDES, SIDES) * np.clip(much * ENOUGH, 0, 1)
        opinion = sides + BEFORE * np.log((mask + CERTAIN) / (1 + CERTAIN - mask))
        own = np.where(core, 1, np.where(off, 0, 1 / (1 + np.exp(-opinion)))).astype(np.float32)
        mask = walk(even, own, np.where(core | off, KNOWN, EDGES).astype(np.float32), noise)
    return matted_again(small, mask, round(NARROW * LONG_EDGE), inside)


def matted_again(lab: F32, mask: F32, reach: int = 3, within: B2 | None = None) -> F32:
    """A mask (h, w) whose edge is known within so many px, matted there. lab: (3, h, w)."""
    sure = np.where(mask > WHOLE, 1, np.where(mask < NONE, 0, mask)).astype(np.float32)
    open_ = unknown(mask, max(2, reach))
    return matte(lab, sure, open_ if within is None else open_ & within)


def salient_box(lab: F32) -> Region | None:
    """A box around what the eye would go to, in fractions of a picture (3, h, w); None where nothing stands
    out: colours that are rare in the picture and unlike what is near them, in one piece."""
    small = medians(smaller(lab, GLANCE), EVEN)
    h, w = small.shape[1:]
    where, cells = table_of(small, np.full((h, w), 3, np.float32))
    every = np.ones((h, w), np.float32)
    common = often(where, cells)
    rare = np.clip((np.median(common) - common) / RARE, 0, RAREST)
    near, far = (
        unlike(small, every, s * max(h, w), s * max(h, w), widest=SPREAD)[0] for s in (CLOSE_BY, FARTHER)
    )
    local = [x / max(float(np.percentile(x, STRONGEST)), DULLEST) for x in (near, far)]
    strong = blurred((rare * np.minimum(*local)).astype(np.float32), DRAWN)
    most = float(strong.max())
    if most < DULLEST:
        return None
    # what stands out is a part of a thing; the thing is all about it that is rare and unlike what lies farther
    wide = blurred((rare * np.clip(local[1], 0, AT_MOST)).astype(np.float32), DRAWN)
    pieces = _pieces(np.asarray(wide > PART_OF))
    parts = _pieces(np.asarray(strong > max(PART_OF * most, STANDS_OUT)))
    weight = np.bincount(parts[0].ravel(), strong.ravel(), len(parts[1])) / np.sqrt(parts[1][:, 4])
    weight[0] = 0
    part = int(weight.argmax())
    box = parts[1][part, :4]
    inside = pieces[0][parts[0] == part]
    piece = int(np.bincount(inside).argmax())
    if piece and pieces[1][piece, 4] < THING * h * w:
        box = pieces[1][piece, :4]
    left, top, across, down = (float(v) for v in box)
    pad_x, pad_y = max(ROOM * across, LEAST_ROOM), max(ROOM * down, LEAST_ROOM)
    return (
        max(0.0, (left - pad_x) / w),
        max(0.0, (top - pad_y) / h),
        min(1.0, (left + across + pad_x) / w),
        min(1.0, (top + down + pad_y) / h),
    )


def _pieces(held: B2) -> tuple[NDArray[np.int32], NDArray[np.int32]]:
    """Which piece every px belongs to (0: none), and their boxes and areas."""
    closed = cv2.morphologyEx(held.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((CLOSED, CLOSED)))
    _, label, boxes, _ = cv2.connectedComponentsWithStats(closed, connectivity=8)
    return np.asarray(label), np.asarray(boxes)
