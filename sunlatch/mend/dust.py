"""Finds specks: soft round dips of light, alike in all colours, in places that are smooth but for them."""

from concurrent.futures import ThreadPoolExecutor
from typing import Final, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ..frame import Raster
from ..patience import go_on
from ..progress import phase, told
from .heal import logarithm

F32 = NDArray[np.float32]
RADII: Final = (2.2, 3.0, 4.1, 5.6, 7.6)
"""Radii, px, at which specks are looked for at one size of the picture; larger ones at the next smaller size."""
EDGE: Final = 2200
"""Long edge, px, at which the smallest are looked for."""
LIKE: Final = 0.45
"""How like a speck a place must look, at least (correlation), to be looked at closely."""
DEEP: Final = 0.012
"""How deep it must be, at least: natural logarithms of light."""
DEEPEST: Final = 0.22
"""And at most: dust is never opaque."""
ROUND: Final = 0.4
"""The share of its depth that every eighth of it must have."""
UNLIKE: Final = 0.5
"""How much may be left over, and how far colours may differ, in depths, of a faint one; a plain one is given more."""
PLAIN: Final = 0.08


class Dust(NamedTuple):
    """A speck found: its middle and radius in px of the raster's level 0, how deep (natural logarithms), how like one."""

    x: float
    y: float
    radius: float
    depth: float
    like: float


def _template(radius: float) -> F32:
    """A speck of depth 1 as a lens throws its shadow: soft-edged, in a window that shows what is around."""
    reach = int(np.ceil(2.3 * radius))
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1].astype(np.float32)
    return np.asarray(-1 / (1 + np.exp(((x * x + y * y) / (radius * radius) - 1) * 4)), np.float32)


def _likeness(light: F32, radius: float) -> F32:
    """How like a speck of a radius every place (h, w) looks: correlation, −1 where its window does not fit in."""
    template = _template(radius)
    reach, (h, w) = template.shape[0] // 2, light.shape
    like = np.full((h, w), -1, np.float32)
    if min(h, w) > 2 * reach + 1:
        like[reach : h - reach, reach : w - reach] = cv2.matchTemplate(light, template, cv2.TM_CCOEFF_NORMED)
    return like


def find_specks(raster: Raster, most: int = 300) -> list[Dust]:
    """Specks on a raster, the clearest first."""
    levels = sorted(raster.levels)
    first = next((k for k in levels if max(raster.shape(k)) <= EDGE), levels[-1])
    found: list[Dust] = []
    coarse = [first + 1] if first < levels[-1] else []
    with phase(0.0, 0.8 if coarse else 1.0):
        found += _at(raster, first, RADII)
    for level in coarse:
        with phase(0.8, 1.0):
            found += _at(raster, level, RADII[3:])
    found.sort(key=lambda d: -d.like * min(d.depth, 0.1))
    out: list[Dust] = []
    for dust in found:
        if all(np.hypot(dust.x - o.x, dust.y - o.y) > 1.2 * max(dust.radius, o.radius) for o in out):
            out.append(dust)
    return out[:most]


def _at(raster: Raster, level: int, radii: tuple[float, ...]) -> list[Dust]:
    h, w = raster.shape(level)
    planes = logarithm(raster.fetch(level)(0, h, 0, w))
    light = 0.3 * planes[0] + 0.5 * planes[1] + 0.2 * planes[2]
    light -= cv2.blur(light, (61, 61), borderType=cv2.BORDER_REFLECT)
    light = np.clip(light, -0.6, 0.6)
    best, which = np.full((h, w), -1, np.float32), np.zeros((h, w), np.uint8)
    with ThreadPoolExecutor(2) as pool:
        for n, like in enumerate(pool.map(lambda radius: _likeness(light, radius), radii)):
            go_on()
            told(0.7 * n / len(radii))
            better = like > best
            np.copyto(best, like, where=better)
            which[better] = n
    top = cv2.dilate(best, np.ones((7, 7), np.uint8))
    candidate = (best >= top) & (best > LIKE)
    k = raster.info.width / w
    out = []
    for n, radius in enumerate(radii):
        go_on()
        told(0.7 + 0.3 * n / len(radii))
        rows, columns = np.nonzero(candidate & (which == n))
        depths = _judged(planes, light, rows, columns, radius)
        for r, c, depth in zip(rows.tolist(), columns.tolist(), depths.tolist(), strict=True):
            if depth > 0:
                out.append(Dust((c + 0.5) * k, (r + 0.5) * k, radius * k, depth, float(best[r, c])))
    return out


def _judged(
    planes: F32, light: F32, rows: NDArray[np.int64], columns: NDArray[np.int64], radius: float
) -> F32:
    """How deep specks at rows and columns (n) are (n); 0 where there is none. A slope and a speck are fitted to what is there
    (least squares): what they leave over tells how well that says it."""
    reach = int(np.ceil(2.8 * radius))
    h, w = light.shape
    inside = (rows >= reach) & (rows < h - reach) & (columns >= reach) & (columns < w - reach)
    depth = np.zeros(len(rows), np.float32)
    some = np.flatnonzero(inside)
    y, x = (v.ravel() for v in np.mgrid[-reach : reach + 1, -reach : reach + 1])
    away = np.hypot(y, x) / radius
    use, core = away < 2.6, away < 1.2
    basis = np.stack([np.ones(len(x)), y, x, -1 / (1 + np.exp((away * away - 1) * 4))], -1)
    solve = np.linalg.pinv(basis[use]).astype(np.float32)
    at_r, at_c = rows[some, None] + y, columns[some, None] + x
    part = light[at_r, at_c]
    fit = part[:, use] @ solve.T
    likely = (fit[:, 3] > DEEP) & (fit[:, 3] < DEEPEST)
    some, part, fit, at_r, at_c = (v[likely] for v in (some, part, fit, at_r, at_c))
    if not len(some):
        return depth
    deep = fit[:, 3]
    left_over = part - fit @ basis.T.astype(np.float32)
    uneven = (left_over[:, core].std(1) + left_over[:, use & ~core].std(1)) / deep
    # round: every eighth of it is dark
    turn = ((np.arctan2(y, x) / np.pi * 4 + 8).astype(int)) % 8
    own = part - fit[:, :3] @ basis[:, :3].T.astype(np.float32)
    shallow = np.max([own[:, (away < 0.95) & (turn == n)].mean(1) for n in range(8)], axis=0)
    # of no colour: all three dip alike
    dips = np.stack([plane[at_r, at_c][:, use] @ solve[3] for plane in planes])
    unlike = uneven + np.ptp(dips, axis=0) / deep
    room = np.where(deep < PLAIN, 0.0, 0.07) if radius >= RADII[1] else 0.03
    depth[some] = np.where((shallow < -ROUND * deep) & (unlike < UNLIKE + room), deep, 0)
    return depth
