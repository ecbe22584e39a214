"""Follows a thin line between places that were pointed at: along its ridge of light or dark, however it sags."""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray

from ..blocks import Block, Fetch
from ..errors import MendError
from ..frame import Raster, span_of
from ..lookup import looked_up
from ..running.patience import go_on
from .heal import logarithm

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
SAGS: Final = 0.07
"""How far it may hang from the straight, in lengths."""
WIDEST: Final = 14
"""Px to either side within which its own width is looked for."""
NEAR: Final = 0.01
"""How near to the picture's edge, in long edges, a line is taken to go on to it."""
SLOPE: Final = 60
"""Px from its end over which it is told where it goes on."""
PLAINEST: Final = 12.0
"""How much of a ridge counts, at most, in what nine places in ten stay under."""
PLAIN: Final = 1.6
"""How plain a line must be, at least, to be one."""
JUDGED: Final = 60
"""Px to either side, at least, against which a line is judged plain: of a narrower strip it may itself be a tenth."""
STIFF: Final = 3e3
"""How much smoother than its ridge a line is taken to be, where the ridge is faint."""


def straightened(read: Fetch, path: F64, reach: int) -> tuple[F32, F64]:
    """What lies along a path of px (n, 2: x, y), one px apart: planes (3, 2·reach+1, n), across it from its right side to its
    left; and the unit vectors across it (n, 2)."""
    along = np.gradient(path, axis=0)
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
    across = np.stack([-along[:, 1], along[:, 0]], 1)
    off = np.arange(-reach, reach + 1)[:, None, None]
    at = path[None] + off * across[None]
    left, top = np.floor(at.reshape(-1, 2).min(0) - 3).astype(int)
    right, bottom = np.ceil(at.reshape(-1, 2).max(0) + 4).astype(int)
    planes = read(int(top), int(bottom), int(left), int(right))
    x = (at[..., 0] - left - 0.5).astype(np.float32)
    y = (at[..., 1] - top - 0.5).astype(np.float32)
    return np.stack(
        [looked_up(plane, x, y, cv2.INTER_CUBIC, cv2.BORDER_CONSTANT) for plane in planes]
    ), across


def every_px(path: F64) -> F64:
    """The same line with its points one px apart."""
    steps = np.linalg.norm(np.diff(path, axis=0), axis=1)
    far = np.concatenate([[0], np.cumsum(steps)])
    if far[-1] < 2:
        raise MendError("A wire needs two ends that lie apart; point at its other end, too.")
    at = np.linspace(0, far[-1], max(round(far[-1]), 3))
    return np.stack([np.interp(at, far, path[:, k]) for k in (0, 1)], 1)


def _ridge(strip: F32, sigma: float) -> F32:
    """How much of a thin line lies at every place of a strip of light (2·reach+1, n): dark ones more than nought."""
    rows = cv2.GaussianBlur(strip, (0, 0), sigmaX=2.0, sigmaY=sigma)
    bent = np.zeros_like(rows)
    bent[1:-1] = rows[2:] + rows[:-2] - 2 * rows[1:-1]
    return np.asarray(bent, np.float32)


def _followed(ridge: F32, ends: int, sags: int) -> tuple[NDArray[np.int64], float]:
    """The row at every column along which a ridge is strongest (dynamic programming; one row a column at most), beginning and
    ending within so many rows of the middle, and nowhere more than `sags` from it; and how strong it is."""
    rows, columns = ridge.shape
    scale = max(float(np.percentile(np.abs(ridge), 90)), 1e-6)
    gain = np.clip(ridge / scale, -1, PLAINEST).astype(np.float64)
    gain[np.abs(np.arange(rows) - rows // 2) > sags] = -2 * PLAINEST
    best = np.full((columns, rows), -np.inf)
    came = np.zeros((columns, rows), np.int8)
    middle = rows // 2
    best[0, max(middle - ends, 0) : middle + ends + 1] = 0
    best[0] += gain[:, 0]
    for c in range(1, columns):
        before = np.full((3, rows), -np.inf)
        before[0, 1:] = best[c - 1, :-1] - 0.15
        before[1] = best[c - 1]
        before[2, :-1] = best[c - 1, 1:] - 0.15
        pick = before.argmax(0)
        came[c] = pick - 1
        best[c] = before[pick, np.arange(rows)] + gain[:, c]
    last = np.full(rows, -np.inf)
    last[max(middle - ends, 0) : middle + ends + 1] = best[-1, max(middle - ends, 0) : middle + ends + 1]
    row = int(last.argmax())
    out = np.empty(columns, np.int64)
    for c in range(columns - 1, -1, -1):
        out[c] = row
        row += int(came[c, row])
    return out, float(last.max()) / columns


def _smoothed(rows: F64, weight: F64, stiff: float) -> F64:
    """Rows drawn to a smooth line, each as strongly as its weight (Whittaker 1923: squares of second differences)."""
    from scipy.linalg import solveh_banded

    n = len(rows)
    if n < 5:
        return rows
    bands = np.zeros((3, n))
    bands[2] = 6
    bands[2, [0, -1]], bands[2, [1, -2]] = 1, 5
    bands[1, 1:] = -4
    bands[1, [1, -1]] = -2
    bands[0, 2:] = 1
    bands *= stiff
    bands[2] += weight + 1e-6
    return np.asarray(solveh_banded(bands, weight * rows))


def trace(raster: Raster, clicks: F64) -> tuple[F64, float]:
    """A thin line through clicks (n, 2: x, y px of the raster's finest level): its path, points 1 px apart, and its width in px
    with its soft edge. Raises MendError."""
    if len(clicks) < 2:
        raise MendError("A wire needs two ends; point at its other end, too.")
    base = min(raster.levels)
    level = base + (1 if max(raster.shape(base)) > 2500 and base + 1 in raster.levels else 0)
    k = 2 ** (level - base)
    parts, sides = [], []
    for a, b in zip(clicks[:-1] / k, clicks[1:] / k, strict=True):
        go_on()
        straight = every_px(np.stack([a, b]))
        reach = int(np.clip(SAGS * len(straight), 8, 400))
        part, side, plain = _along(raster.fetch(level), straight, reach, 5)
        if plain < PLAIN:
            raise MendError(
                "No wire was found between these places; point at it more closely, or more often along it."
            )
        parts.append(part[:-1])
        sides.append(side)
    parts.append(parts[-1][-1:])
    path = every_px(np.concatenate(parts) * k)
    for _ in range(2):
        path, side, _ = _along(raster.fetch(base), path, 4 + k, 4 + k, bool(np.median(sides) > 0))
        path = every_px(path)
    return _led_out(path, span_of(raster)), _width(raster.fetch(base), path)


def _led_out(path: F64, span: Block) -> F64:
    """A line whose ends all but touch the picture's edge goes on past it."""
    first, last = np.array([span.left, span.top]), np.array([span.right, span.bottom])
    near = max(NEAR * float((last - first).max()), 12)
    for end, inner in ((0, SLOPE), (-1, -1 - SLOPE)):
        at = path[end]
        left = float(min((at - first).min(), (last - at).min()))
        if left < near and len(path) > 2 * SLOPE:
            step = (at - path[inner]) / SLOPE
            more = at + step * np.arange(1, int(2 * near))[:, None]
            more = more[((more > first - 4) & (more < last + 4)).all(1)]
            path = np.concatenate([more[::-1], path] if end == 0 else [path, more])
    return path


def _along(
    read: Fetch, straight: F64, reach: int, ends: int, dark: bool | None = None
) -> tuple[F64, int, float]:
    """A line within so many px of one that is roughly its; 1 where it is dark, −1 where it is light; and how plain it is."""
    wide = reach if dark is not None else max(reach, JUDGED)
    planes, across = straightened(read, straight, wide)
    light = logarithm(planes).mean(0)
    ridge = _ridge(light, 1.0)
    found = {}
    for side in (1, -1) if dark is None else ((1,) if dark else (-1,)):
        found[side] = _followed(side * ridge, ends, reach)
    # beside a dark line lie two lighter ones, which are fainter
    columns = np.arange(len(straight))
    side = max(found, key=lambda s: float(np.median(s * ridge[found[s][0], columns])))
    rows = found[side][0]
    strong = np.clip(side * ridge[rows, np.arange(len(rows))], 0, None)
    strong = strong / max(float(np.median(strong)), 1e-6)
    finer = rows + _between(side * ridge, rows)
    off = _smoothed(finer - wide, np.clip(strong, 0, 3).astype(np.float64), STIFF)
    return straight + off[:, None] * across, side, found[side][1]


def _between(ridge: F32, rows: NDArray[np.int64]) -> F64:
    """Where between rows the ridge's top lies, by the parabola through three."""
    r = np.clip(rows, 1, ridge.shape[0] - 2)
    c = np.arange(len(rows))
    up, here, down = ridge[r - 1, c], ridge[r, c], ridge[r + 1, c]
    bend = up + down - 2 * here
    return np.where(
        bend < -1e-9, np.clip(0.5 * (up - down) / np.where(bend < -1e-9, bend, -1), -0.5, 0.5), 0.0
    )


def _width(read: Fetch, path: F64) -> float:
    """Px over which a line differs from what lies on both sides of it, colours apart where the lens drew them apart. Raises
    MendError where it has no other side within reach."""
    planes, _ = straightened(read, path, WIDEST)
    light = logarithm(planes)
    sides = np.concatenate([light[:, :4], light[:, -4:]], 1).mean(1)
    profile = np.abs(np.median(light - sides[:, None], axis=2))
    profile = np.maximum(profile - np.median(profile), 0)
    tops = profile.max(1, keepdims=True)
    seen = (profile > 0.06 * np.maximum(tops, 0.3 * tops.max())).any(0)
    reach, middle = 0, WIDEST
    while reach < WIDEST - 4 and (seen[middle - reach - 1] or seen[middle + reach + 1]):
        reach += 1
    if _goes_on(read, path):
        raise MendError("This is thicker than a wire can be; outline it, and grow its place anew.")
    return float(np.clip(2 * reach + 1.0, 2.0, 2 * WIDEST))


def _goes_on(read: Fetch, path: F64) -> bool:
    """Whether what a line was found in is as it is in its middle on both sides, as far as a wire may reach, and ends beyond."""
    planes, _ = straightened(read, path, 4 * WIDEST)
    rows = np.median(logarithm(planes).mean(0), axis=1)
    middle, far = 4 * WIDEST, 3 * WIDEST
    own = float(np.median(rows[middle - 2 : middle + 3]))
    for way in (-1, 1):
        beside = float(np.median(rows[middle + way * WIDEST - 2 : middle + way * WIDEST + 3]))
        beyond = float(np.median(rows[middle + way * far - 2 : middle + way * far + 3]))
        if abs(beyond - own) < 0.15 or abs(beside - own) > 0.3 * abs(beyond - own):
            return False
    return True
