"""A thin line mended over its own width: what is on one side is led to what fits it on the other, aslant where something
crosses it aslant."""

import math
from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, Fetch
from .heal import FLOOR, logarithm
from .trace import straightened

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
PIECE: Final = 240
"""Px of a line that are mended at a time."""
BESIDE: Final = 24
"""Px of the line before and after that are looked at, too."""
STEP: Final = 8
"""Px along the line between places that are asked first."""
EDGED: Final = (0.12, 0.4)
"""By how much (natural logarithms of light) both sides differ where a line may lie along an edge, and where it surely does…"""
ALONG: Final = 31
"""…over so many px along it."""
SHARP: Final = 0.9
"""Half of the px over which an edge goes over from one side to the other."""
ROWS: Final = 4
"""Px on either side that are compared to find how things cross."""


def reach_of(width: float) -> float:
    """Px to either side of its middle that are mended, of a line so wide."""
    return width / 2 + 2


def window(path: F64, width: float, span: Block) -> Block | None:
    """The block a piece of a line is mended in; None where it lies outside its raster's span."""
    room = math.ceil(reach_of(width)) + 1
    low, high = np.floor(path.min(0)).astype(int) - room, np.ceil(path.max(0)).astype(int) + room
    block = Block(
        max(int(low[1]), span.top),
        min(int(high[1]), span.bottom),
        max(int(low[0]), span.left),
        min(int(high[0]), span.right),
    )
    return block if block.bottom > block.top and block.right > block.left else None


def _slants(left: F32, right: F32, half: float) -> NDArray[np.int64]:
    """How far along the line what crosses it comes out on the one side, ahead of where it went in on the other, halved, at
    every px: the steadiest choice by which both sides look alike. left, right: light (k, rows, n), outward from the edge."""
    most = math.ceil(1.6 * half)
    n = left.shape[2]
    shifts = np.arange(-most, most + 1)
    cost = np.empty((len(shifts), n), np.float32)
    at = np.arange(n)
    for i, s in enumerate(shifts):
        apart = np.zeros(n, np.float32)
        for row in range(left.shape[1]):
            far = round(s * (half + 0.5 + row) / half)
            a, b = np.clip(at + far, 0, n - 1), np.clip(at - far, 0, n - 1)
            apart += np.abs(left[:, row, a] - right[:, row, b]).sum(0)
        cost[i] = cv2.blur(apart[None], (7, 1), borderType=cv2.BORDER_REPLICATE)[0]
    noise = max(float(np.median(cost)), 1e-4)
    cost += (0.05 * noise * np.abs(shifts))[:, None]
    best, came = cost[:, 0].astype(np.float64), np.zeros((n, len(shifts)), np.int8)
    step = 0.35 * noise
    for c in range(1, n):
        before = np.full((3, len(shifts)), np.inf)
        before[0, 1:] = best[:-1] + step
        before[1] = best
        before[2, :-1] = best[1:] + step
        pick = before.argmin(0)
        came[c] = pick - 1
        best = before[pick, np.arange(len(shifts))] + cost[:, c]
    out, row = np.empty(n, np.int64), int(best.argmin())
    for c in range(n - 1, -1, -1):
        out[c] = shifts[row]
        row += int(came[c, row])
    return out


def mended(
    read: Fetch, path: F64, first: int, last: int, width: float, block: Block, led: bool = True
) -> tuple[F32, F32]:
    """What a block (see `window`) of a piece of a line, points first..last of its path (n, 2, 1 px apart), becomes: planes
    (3, h, w), and how much of it (h, w). led: along an edge each side is led from its own."""
    half = reach_of(width)
    edge = math.ceil(half)
    begin, end = max(first - BESIDE, 0), min(last + BESIDE, len(path))
    some = path[begin:end]
    strip, across = straightened(read, some, edge + 2 * ROWS)
    middle = edge + 2 * ROWS
    left, right = (
        strip[:, middle + edge : middle + edge + ROWS],
        strip[:, middle - edge : middle - edge - ROWS : -1],
    )
    slant = _slants(logarithm(left), logarithm(right), half)
    y, x = np.mgrid[block.top : block.bottom, block.left : block.right] + 0.5
    px = np.stack([x.ravel(), y.ravel()], 1)
    close = _close(px, some, half)
    near, off = _nearest(px[close], some, across)
    inside = close[np.abs(off) < half]
    t, u = near[np.abs(off) < half], off[np.abs(off) < half]
    lean = cv2.blur(slant[None].astype(np.float32), (5, 1), borderType=cv2.BORDER_REPLICATE)[0]
    s = np.interp(t, np.arange(len(some)), lean)
    # along an edge both sides end where the line's middle is: a ramp from one to the other would wash it out
    edged = _edged(left, right) if led else np.zeros(len(some), np.float32)
    over = edge * (1 - edged[np.clip(np.rint(t).astype(int), 0, len(some) - 1)]) + SHARP
    share = np.clip(0.5 + u / (2 * np.minimum(over, edge)), 0, 1).astype(np.float32)
    at = t - s * u / edge
    a, b = _along(left[:, :2].mean(1), at + s), _along(right[:, :2].mean(1), at - s)
    grain, cleared = _grain(strip, middle, edge, t)
    made = share * a + (1 - share) * b
    made += (
        np.sqrt(np.maximum(1 - share**2 - (1 - share) ** 2, 0)) * grain * np.minimum(made + FLOOR, cleared)
    )
    out = np.zeros((3, px.shape[0]), np.float32)
    out[:, inside] = made
    much = np.zeros(px.shape[0], np.float32)
    own = (t >= first - begin - 0.5) & (t < last - begin - 0.5 if last < len(path) else np.isfinite(t))
    much[inside] = np.clip(half - np.abs(u), 0, 1) * own
    shape = (block.bottom - block.top, block.right - block.left)
    return out.reshape(3, *shape), much.reshape(shape)


def _edged(left: F32, right: F32) -> F32:
    """How surely a line lies along an edge at every px of it (n,): its two sides differ, by much and for long, and each is
    even. left, right: light (3, rows, n)."""
    one, other = (logarithm(side).mean((0, 1)) for side in (left, right))
    long = (ALONG, 1)
    apart = np.abs(cv2.blur((one - other)[None], long, borderType=cv2.BORDER_REPLICATE)[0])
    rough = [
        np.abs(side - cv2.blur(side[None], long, borderType=cv2.BORDER_REPLICATE)[0]) for side in (one, other)
    ]
    uneven = cv2.blur((rough[0] + rough[1])[None], long, borderType=cv2.BORDER_REPLICATE)[0]
    sure = np.clip((apart - 2 * uneven - EDGED[0]) / (EDGED[1] - EDGED[0]), 0, 1)
    return np.asarray(sure * sure * (3 - 2 * sure), np.float32)


def _close(px: F64, path: F64, half: float) -> NDArray[np.int64]:
    """Which px can lie within so many px of a line at all: by its height over every column, or its width at every row."""
    steep = np.ptp(path[:, 1]) > np.ptp(path[:, 0])
    along, across = (1, 0) if steep else (0, 1)
    order = np.argsort(path[:, along])
    at = np.interp(px[:, along], path[order, along], path[order, across])
    slope = float(np.abs(np.gradient(path[:, across])).max())
    return np.flatnonzero(np.abs(px[:, across] - at) < 3 * half * (1 + 2 * slope) + 4)


def _nearest(px: F64, path: F64, across: F64) -> tuple[F64, F64]:
    """How far along a path (n, 2) px (m, 2) lie, and how far to its side."""
    posts = np.arange(0, len(path), STEP)
    first = np.empty(len(px), np.int64)
    for begin in range(0, len(px), 4096):
        some = px[begin : begin + 4096]
        first[begin : begin + 4096] = posts[((some[:, None] - path[posts][None]) ** 2).sum(2).argmin(1)]
    near = np.clip(first[:, None] + np.arange(-STEP, STEP + 1), 0, len(path) - 1)
    pick = ((px[:, None] - path[near]) ** 2).sum(2).argmin(1)
    n = near[np.arange(len(px)), pick]
    apart = px - path[n]
    along = apart[:, 0] * across[n, 1] - apart[:, 1] * across[n, 0]
    off = (apart * across[n]).sum(1)
    # past its ends a line does not go on
    off[((n == 0) & (along < -0.5)) | ((n == len(path) - 1) & (along > 0.5))] = np.inf
    return n + along, off


def _along(row: F32, at: F64) -> F32:
    """A row of px (3, n) between its px."""
    n = row.shape[1]
    low = np.clip(np.floor(at).astype(int), 0, n - 2)
    part = np.clip(at - low, 0, 1).astype(np.float32)
    return np.asarray(row[:, low] * (1 - part) + row[:, low + 1] * part, np.float32)


def _grain(strip: F32, middle: int, edge: int, t: F64) -> tuple[F32, F32]:
    """Grain as it lies beside the line, as a share of light (3, m), nothing larger than grain; and the light it lay on."""
    beside = strip[:, middle + edge + ROWS]
    even = np.stack([cv2.blur(row[None], (5, 1), borderType=cv2.BORDER_REPLICATE)[0] for row in beside])
    share = (beside - even) / np.maximum(even + FLOOR, FLOOR)
    spread = 1.4826 * np.median(np.abs(share), axis=1, keepdims=True)
    share = np.clip(share, -2.5 * spread, 2.5 * spread)
    at = np.clip(np.rint(t).astype(int), 0, share.shape[1] - 1)
    return np.asarray(share[:, at], np.float32), np.asarray(even[:, at] + FLOOR, np.float32)
