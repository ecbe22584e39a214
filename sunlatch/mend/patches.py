"""A hole filled by patches of what surrounds it, from coarse to fine, so that every patch of it is like one that is there.

Wexler, Shechtman & Irani, Space-Time Completion of Video, 2007 (patches vote for every px, the better the louder); Barnes et
al., PatchMatch, 2009 (the likeliest patch of every place: handed on from neighbour to neighbour, and sought at random, ever
nearer). What comes of it is a map: where each px is taken from.
"""

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blobs import Blobs
from ..blocks import Block, Fetch
from ..compiled import kernel, part
from ..errors import DocumentError
from ..running.patience import go_on
from ..running.progress import phase, report
from .membrane import membrane

F32 = NDArray[np.float32]
I32 = NDArray[np.int32]
B2 = NDArray[np.bool_]
U8 = NDArray[np.uint8]
HALF: Final = 3
"""Px around the middle of a patch."""
COARSEST: Final = 14
"""Px across of a hole at which it is begun."""
PULL: Final = 0.08
"""What it costs a patch, for every px and colour of it, to lie a whole side of the picture away (squares of logarithms)."""
ROWS: Final = 4
"""How many columns a row away counts for: ground that recedes has its grain along rows."""


@part
def _apart(picture, r, c, y, x, limit):  # type: ignore[no-untyped-def]
    """How unlike two patches are: squares summed over colours; past a limit it is not counted on."""
    total = np.float32(0)
    for dy in range(-3, 4):
        for dx in range(-3, 4):
            for k in range(3):
                d = picture[r + dy, c + dx, k] - picture[y + dy, x + dx, k]
                total += d * d
        if total > limit:
            return total
    return total


@part
def _next(state):  # type: ignore[no-untyped-def]
    """The next of a row of random numbers (xorshift, Marsaglia 2003)."""
    x = state[0]
    x ^= (x << np.uint64(13)) & np.uint64(0xFFFFFFFFFFFFFFFF)
    x ^= x >> np.uint64(7)
    x ^= (x << np.uint64(17)) & np.uint64(0xFFFFFFFFFFFFFFFF)
    state[0] = x
    return np.int64(x >> np.uint64(33))


@kernel(
    "void(float32[:, :, ::1], uint8[:, ::1], uint8[:, ::1], int32[:, :, ::1], float32[:, ::1], int64, int64,"
    " uint64[::1], float32)"
)
def _match(picture, wanted, source, at, cost, sweeps, first, state, near):  # type: ignore[no-untyped-def]
    """The likeliest source patch of every place that is wanted, in place: `at` (h, w, 2: row, column) and `cost`. near: what a
    patch costs the farther away it lies, at a whole side of the picture along a row."""
    h, w = wanted.shape
    side = np.float32(max(h, w))
    for r in range(3, h - 3):
        for c in range(3, w - 3):
            if wanted[r, c]:
                away = np.float32(ROWS * abs(at[r, c, 0] - r) + abs(at[r, c, 1] - c)) / side * near
                cost[r, c] = _apart(picture, r, c, at[r, c, 0], at[r, c, 1], np.float32(1e30)) + away
    for n in range(sweeps):
        back = (n + first) & 1
        step = -1 if back else 1
        for i in range(3, h - 3):
            r = h - 1 - i if back else i
            for j in range(3, w - 3):
                c = w - 1 - j if back else j
                if not wanted[r, c]:
                    continue
                best, y, x = cost[r, c], at[r, c, 0], at[r, c, 1]
                for way in range(2):
                    rr, cc = (r - step, c) if way == 0 else (r, c - step)
                    if rr < 3 or cc < 3 or rr >= h - 3 or cc >= w - 3 or not wanted[rr, cc]:
                        continue
                    ty, tx = at[rr, cc, 0] + r - rr, at[rr, cc, 1] + c - cc
                    if 3 <= ty < h - 3 and 3 <= tx < w - 3 and source[ty, tx]:
                        away = np.float32(ROWS * abs(ty - r) + abs(tx - c)) / side * near
                        d = _apart(picture, r, c, ty, tx, best - away) + away
                        if d < best:
                            best, y, x = d, ty, tx
                reach = max(h, w)
                while reach >= 1:
                    ty = y + _next(state) % (2 * reach + 1) - reach
                    tx = x + _next(state) % (2 * reach + 1) - reach
                    if 3 <= ty < h - 3 and 3 <= tx < w - 3 and source[ty, tx]:
                        away = np.float32(ROWS * abs(ty - r) + abs(tx - c)) / side * near
                        d = _apart(picture, r, c, ty, tx, best - away) + away
                        if d < best:
                            best, y, x = d, ty, tx
                    reach //= 2
                cost[r, c] = best
                at[r, c, 0], at[r, c, 1] = y, x


@kernel(
    "void(float32[:, :, ::1], uint8[:, ::1], uint8[:, ::1], int32[:, :, ::1], float32[:, ::1], float32[:, ::1],"
    " float32, float32[:, :, ::1])"
)
def _vote(picture, hole, wanted, at, cost, sure, spread, out):  # type: ignore[no-untyped-def]
    """Every px of a hole as the patches over it say, each as loud as it is like its source and as its place is sure."""
    h, w = hole.shape
    for r in range(3, h - 3):
        for c in range(3, w - 3):
            if not hole[r, c]:
                continue
            red = green = blue = total = np.float32(0)
            for dy in range(-3, 4):
                for dx in range(-3, 4):
                    rr, cc = r + dy, c + dx
                    if rr < 3 or cc < 3 or rr >= h - 3 or cc >= w - 3 or not wanted[rr, cc]:
                        continue
                    y, x = at[rr, cc, 0] - dy, at[rr, cc, 1] - dx
                    weight = np.exp(-cost[rr, cc] / spread) * sure[rr, cc] + np.float32(1e-12)
                    red += weight * picture[y, x, 0]
                    green += weight * picture[y, x, 1]
                    blue += weight * picture[y, x, 2]
                    total += weight
            if total > 0:
                out[r, c, 0], out[r, c, 1], out[r, c, 2] = red / total, green / total, blue / total


def _halved(picture: F32, hole: B2, source: B2) -> tuple[F32, B2, B2]:
    size = (max(picture.shape[1] // 2, 1), max(picture.shape[0] // 2, 1))
    known = (~hole).astype(np.float32)
    there = cv2.resize(known, size, interpolation=cv2.INTER_AREA)
    small = cv2.resize(picture * known[..., None], size, interpolation=cv2.INTER_AREA)
    small /= np.maximum(there, np.float32(1e-6))[..., None]
    free = cv2.resize(source.astype(np.float32), size, interpolation=cv2.INTER_AREA)
    return small, there < 0.5, free > 0.99


def _sources(known: B2) -> U8:
    """The middles of patches that lie wholly where light may be taken from."""
    whole = cv2.erode(known.astype(np.uint8), np.ones((2 * HALF + 1,) * 2, np.uint8), borderValue=0)
    whole[:HALF] = whole[-HALF:] = 0
    whole[:, :HALF] = whole[:, -HALF:] = 0
    return np.ascontiguousarray(whole)


def complete(picture: F32, hole: B2, source: B2, seed: int, near: float = 0.0) -> tuple[I32, F32]:
    """Where every px (h, w, 2: rows and columns away) of a hole (h, w) is taken from, and the picture (h, w, 3; logarithms of
    light) as it is then. source: where light may be taken from; near: how much near patches are preferred, 0–1. Raises
    ValueError where there is no patch to take."""
    levels = [(picture, hole, source & ~hole)]
    while min(levels[-1][1].shape) > 4 * (2 * HALF + 1) and _across(levels[-1][1]) > COARSEST:
        smaller = _halved(*levels[-1])
        if not _sources(smaller[2]).any() or not smaller[1].any():
            break
        levels.append(smaller)
    state = np.array([seed * 2654435761 + 88172645463325252], np.uint64)
    at: I32 | None = None
    for n in range(len(levels) - 1, -1, -1):
        shown, empty, free = levels[n]
        sources = _sources(free)
        if not sources.any():
            raise ValueError("no patch to take")
        # every level has four times the px of the one before it
        with phase(0.0 if at is None else 0.25 ** (n + 1), 0.25**n):
            at, shown = _level(shown, empty, sources, at, state, near, len(levels) - 1 - n, n)
    assert at is not None
    h, w = hole.shape
    rows, columns = np.mgrid[:h, :w]
    return np.stack([at[..., 0] - rows, at[..., 1] - columns], -1).astype(np.int32), shown


def _across(hole: B2) -> int:
    """The longer side of what is empty, px."""
    rows, columns = np.flatnonzero(hole.any(1)), np.flatnonzero(hole.any(0))
    return int(max(rows[-1] - rows[0], columns[-1] - columns[0]) + 1)


def _level(
    picture: F32,
    hole: B2,
    sources: U8,
    coarser: I32 | None,
    state: NDArray[np.uint64],
    near: float,
    step: int,
    left: int,
) -> tuple[I32, F32]:
    h, w = hole.shape
    wanted = cv2.dilate(hole.astype(np.uint8), np.ones((2 * HALF + 1,) * 2, np.uint8))
    wanted[:HALF] = wanted[-HALF:] = 0
    wanted[:, :HALF] = wanted[:, -HALF:] = 0
    wanted = np.ascontiguousarray(wanted)
    places = np.argwhere(sources > 0).astype(np.int32)
    rng = np.random.default_rng(int(state[0] % (1 << 32)))
    at = places[rng.integers(0, len(places), (h, w))]
    if coarser is not None:
        r, c = (
            np.minimum(np.arange(h) // 2, coarser.shape[0] - 1),
            np.minimum(np.arange(w) // 2, coarser.shape[1] - 1),
        )
        up = 2 * coarser[r][:, c] + np.stack(
            np.broadcast_arrays(np.arange(h)[:, None] & 1, np.arange(w)[None] & 1), -1
        )
        up = np.clip(up, 0, [h - 1, w - 1]).astype(np.int32)
        fits = sources[up[..., 0], up[..., 1]] > 0
        at = np.where(fits[..., None], up, at)
    at = np.ascontiguousarray(at, np.int32)
    shown = np.ascontiguousarray(picture, np.float32).copy()
    cost = np.zeros((h, w), np.float32)
    deep = cv2.distanceTransform(hole.astype(np.uint8), cv2.DIST_L2, 3)
    sure = np.power(1.25, -np.minimum(deep, 60)).astype(np.float32)
    empty = np.ascontiguousarray(hole, np.uint8)
    if coarser is None:
        planes = membrane(np.ascontiguousarray(shown.transpose(2, 0, 1)), hole)
        shown = np.ascontiguousarray(planes.transpose(1, 2, 0))
    else:
        _vote(shown, empty, wanted, at, cost, sure, np.float32(1), shown)
    rounds = max(12 - 3 * step, 2 if left else 1)
    pull = np.float32(near * (2 * HALF + 1) ** 2 * 3 * PULL)
    for n in range(rounds):
        go_on()
        report(n / rounds)
        _match(shown, wanted, sources, at, cost, 3 if coarser is None else 2, n, state, pull)
        spread = max(float(np.percentile(cost[wanted > 0], 75)), 1e-6)
        voted = shown.copy()
        _vote(shown, empty, wanted, at, cost, sure, np.float32(spread), voted)
        shown = voted
    return at, shown


@dataclass(frozen=True)
class SourceMap:
    """Where the px of an area are taken from. away: (h, w, 2) rows and columns of px, of which there are `per` to one long
    edge; top, left: where it lies, in them."""

    away: NDArray[np.int16]
    per: float
    top: int
    left: int

    @staticmethod
    def read(name: str, blobs: Blobs) -> "SourceMap":
        """From among a scene's blobs. Raises DocumentError."""
        try:
            with np.load(io.BytesIO(blobs.get(name)), allow_pickle=False) as held:
                away, place = held["away"], held["place"]
            if away.dtype != np.int16 or away.ndim != 3 or away.shape[2] != 2 or place.shape != (3,):
                raise ValueError
        except (ValueError, KeyError, OSError, EOFError) as error:
            raise DocumentError(f"a part of the scene is damaged ({name[:8]})") from error
        return SourceMap(away, float(place[0]), int(place[1]), int(place[2]))

    def put(self, blobs: Blobs) -> str:
        """Keep it among a scene's blobs: its name there. Raises DocumentError."""
        out = io.BytesIO()
        np.savez_compressed(out, away=self.away, place=np.array([self.per, self.top, self.left], np.float64))
        return blobs.put(out.getvalue())

    def continued(self, ring: int) -> "SourceMap":
        """The same, and for so many px around it what the nearest of its places says."""
        away = np.pad(self.away, ((ring, ring), (ring, ring), (0, 0)))
        fixed = away.any(2)
        if fixed.any():
            _, nearest = cv2.distanceTransformWithLabels(
                (~fixed).astype(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL
            )
            known = np.zeros((nearest.max() + 1, 2), np.int16)
            known[nearest[fixed]] = away[fixed]
            around = cv2.dilate(fixed.astype(np.uint8), np.ones((2 * ring + 1,) * 2, np.uint8)) > 0
            away = np.where(around[..., None], known[nearest], np.int16(0))
        return SourceMap(np.ascontiguousarray(away), self.per, self.top - ring, self.left - ring)

    def says(self, block: Block, per: float) -> B2:
        """Whether it says anything of the px of a block (h, w) of a raster of so many px to one long edge."""
        h, w = self.away.shape[:2]
        k = self.per / per
        r = np.floor((np.arange(block.top, block.bottom) + 0.5) * k).astype(np.int64) - self.top
        c = np.floor((np.arange(block.left, block.right) + 0.5) * k).astype(np.int64) - self.left
        there = ((r >= 0) & (r < h))[:, None] & ((c >= 0) & (c < w))[None]
        known = np.asarray(self.away.any(2))
        return np.asarray(there & known[np.clip(r, 0, h - 1)][:, np.clip(c, 0, w - 1)])

    def taken(self, at: NDArray[np.floating]) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """Of places (n, 2: x, y px, of which there are `per` to one long edge): where nine patches around each take it from
        (9, n, 2), and how much of each is meant (9, n); nothing where the map says nothing."""
        h, w = self.away.shape[:2]
        near = np.floor(at).astype(np.int64)
        places, weights = [], []
        for dy in (-1, 0, 1):
            for dx in (-1, 0, 1):
                r, c = near[:, 1] + dy - self.top, near[:, 0] + dx - self.left
                here = (r >= 0) & (r < h) & (c >= 0) & (c < w)
                away = self.away[np.clip(r, 0, h - 1), np.clip(c, 0, w - 1)].astype(np.float32)
                off = ((near + [dx, dy] + 0.5 - at) ** 2).sum(1)
                here &= away.any(1)
                weights.append(np.where(here, np.maximum(2.25 - off, 0) ** 2, 0).astype(np.float32))
                places.append((at + away[:, ::-1]).astype(np.float32))
        return np.stack(places), np.stack(weights)

    def _corners(self, per: float) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        h, w = self.away.shape[:2]
        rows = np.arange(h)[:, None] + self.top + self.away[..., 0].astype(np.int64)
        columns = np.arange(w)[None] + self.left + self.away[..., 1].astype(np.int64)
        k = per / self.per
        low = np.floor(np.array([rows.min(), columns.min()]) * k).astype(np.int64) - 4
        high = np.ceil((np.array([rows.max(), columns.max()]) + 1) * k).astype(np.int64) + 4
        return low, high

    def reads(self, window: Block, per: float) -> Sequence[Block]:
        """The block of a raster of so many px to one long edge that it takes light from."""
        low, high = self._corners(per)
        return (Block(int(low[0]), int(high[0]), int(low[1]), int(high[1])),)

    def filled(self, read: Fetch, block: Block, per: float, there: F32, hole: B2) -> F32:
        """A block (planes 3, h, w) with the px of a hole taken from where the map says; `there`: what it shows else."""
        go_on()
        (where,) = self.reads(block, per)
        source = read(*where)
        out = there.copy()
        place = np.array([self.top, self.left, where.top, where.left, block.top, block.left], np.int64)
        _gather(
            source,
            np.ascontiguousarray(self.away),
            np.ascontiguousarray(hole, np.uint8),
            place,
            per / self.per,
            out,
        )
        return out


@kernel("void(float32[:, :, ::1], int16[:, :, ::1], uint8[:, ::1], int64[::1], float64, float32[:, :, ::1])")
def _gather(source, away, hole, place, k, out):  # type: ignore[no-untyped-def]
    """Px of a hole as the map's places around them say, the nearest loudest. place: the map's corner, the source's, the hole's."""
    h, w = hole.shape
    top, left = place[0], place[1]
    for r in range(h):
        for c in range(w):
            if not hole[r, c]:
                continue
            at_r, at_c = (r + place[4] + 0.5) / k - top - 0.5, (c + place[5] + 0.5) / k - left - 0.5
            near_r, near_c = int(np.floor(at_r + 0.5)), int(np.floor(at_c + 0.5))
            red = green = blue = total = np.float32(0)
            for dy in range(-1, 2):
                for dx in range(-1, 2):
                    q, p = near_r + dy, near_c + dx
                    if q < 0 or p < 0 or q >= away.shape[0] or p >= away.shape[1]:
                        continue
                    far = (at_r - q) * (at_r - q) + (at_c - p) * (at_c - p)
                    weight = np.float32(max(2.25 - far, 0.0) ** 2)
                    y = r + place[4] - place[2] + int(np.round(away[q, p, 0] * k))
                    x = c + place[5] - place[3] + int(np.round(away[q, p, 1] * k))
                    if y < 0 or x < 0 or y >= source.shape[1] or x >= source.shape[2]:
                        continue
                    red += weight * source[0, y, x]
                    green += weight * source[1, y, x]
                    blue += weight * source[2, y, x]
                    total += weight
            if total > 0:
                out[0, r, c], out[1, r, c], out[2, r, c] = red / total, green / total, blue / total
