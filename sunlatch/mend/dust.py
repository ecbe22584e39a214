"""Finds specks: soft round dips of light, alike in all colours, in places that are smooth but for them."""

from concurrent.futures import ThreadPoolExecutor
from contextvars import copy_context
from typing import Final, NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from ..compiled import kernel, part
from ..fastmath import log2
from ..frame import Raster
from ..running.patience import go_on
from ..running.progress import report, telling
from .heal import FLOOR

F32 = NDArray[np.float32]
RADII: Final = (2.2, 3.0, 4.1)
"""Radii, px, at which specks are looked for at one size of the picture…"""
LARGE: Final = (2.8, 3.8, 5.6, 7.6)
"""…and at the next smaller one."""
EDGE: Final = 2200
"""Long edge, px, at which the smallest are looked for."""
LIKE: Final = 0.45
"""How like a speck a place must look, at least (correlation), to be looked at closely."""
BESIDE: Final = np.float32(0.25)
"""How like one a place must look for those beside it to be compared, too."""
DEEP: Final = 0.012
"""How deep it must be, at least: natural logarithms of light."""
SHALLOW: Final = np.float32(0.003)
"""How much darker than what is around it a place must be to be compared: natural logarithms of light."""
DEEPEST: Final = 1.05
"""And at most: the darkest dust, stopped far down, takes two thirds of the light."""
DARK, SURER, STEEPER, MOST_LIKE = 0.22, 0.15, 0.65, 0.82
"""From so deep on it must look as much more like one, the more the deeper it is, up to so much."""
ROUND: Final = 0.4
"""The share of its depth that every eighth of it must have."""
UNLIKE: Final = 0.5
"""How much may be left over, and how far colours may differ, in depths, of a faint one; a plain one is given more."""
PLAIN: Final = 0.08
"""From so deep on a speck is plain; natural logarithms."""
MORE, MORE_SMALL = 0.07, 0.03
"""By how much more may be left over of a plain one, and of any of the smallest, of which there are few px."""
MOST: Final = 300
"""Specks of a picture, at most."""
DEEP_ENOUGH: Final = 0.1
"""Deeper ones are no clearer for it, when the clearest are put first."""
APART: Final = 1.2
"""Radii between the middles of two specks that are two."""
SOFT: Final = 4.0
"""How steeply a speck's shadow ends: at its radius it is half as deep, from 1.3 radii on there is all but nothing of it."""
SHOWN, CORE, PEAK = 2.3, 0.7, 5
"""Radii that are compared with it, and that its dip is taken over; px, a side, within which a dip is the deepest."""
SMOOTH: Final = 61
"""Px, a side, of what light is compared with first."""
BOUND: Final = np.float32(1.2)
"""Natural logarithms by which light may differ from that: what differs more is no speck, and must not outweigh one."""
NEAR: Final = 3
"""Px within which only the likest is a speck."""
CHANNELS: Final = (np.float32(0.3), np.float32(0.5), np.float32(0.2))
"""What red, green and blue count in what is compared."""
WINDOW, FITTED, INNER, RIM = 2.8, 2.6, 1.2, 0.95
"""Radii: of the window that is judged, of what is fitted, of what is left over in the speck rather than around it, and of what is
asked for its roundness."""
COMPARED: Final = 0.7
"""The share of the work that comparing is."""


LIKENESS: Final = (0.45, 0.6, 0.7, 0.8, 0.9, 1.0)
TRUE: Final = (0.3, 0.6, 0.75, 0.92, 0.98, 1.0)
"""Of what looked so like a speck, the share that was one: 592 places found on nine frames of the coast, clean and with 40 specks
laid on in three ranges of depth, and on twelve photographs."""


class Dust(NamedTuple):
    """A speck found: its middle and radius in px of the raster's level 0, how deep (natural logarithms), how like one."""

    x: float
    y: float
    radius: float
    depth: float
    like: float

    @property
    def sure(self) -> float:
        """How sure it is that it is one, 0–1."""
        return float(np.interp(self.like, LIKENESS, TRUE))


def _template(radius: float) -> F32:
    """A speck of depth 1 as a lens throws its shadow: soft-edged, in a window that shows what is around."""
    reach = int(np.ceil(SHOWN * radius))
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1].astype(np.float32)
    return np.asarray(-1 / (1 + np.exp(((x * x + y * y) / (radius * radius) - 1) * SOFT)), np.float32)


def _likeness(light: F32, radius: float) -> F32:
    """How like a speck of a radius places (h, w) look: correlation, where they are darker than what is around and about the
    darkest there; −1 elsewhere."""
    template = _template(radius)
    core, around = 2 * round(CORE * radius) + 1, template.shape[0]
    dip = cv2.blur(light, (around, around)) - cv2.blur(light, (core, core))
    like = np.full(light.shape, -1, np.float32)
    peak = cv2.dilate(dip, np.ones((PEAK, PEAK), np.uint8))
    template -= template.mean()
    _compare(light, dip, peak, template / np.float32(np.linalg.norm(template)), like)
    return like


@part
def _like(light, template, y, x):  # type: ignore[no-untyped-def]
    """Correlation of a window of light around a place with a template of mean nought and norm one; −1 where it is even."""
    side = template.shape[0]
    top, left = y - side // 2, x - side // 2
    total = squares = product = np.float32(0)
    for j in range(side):
        for i in range(side):
            v = light[top + j, left + i]
            total += v
            squares += v * v
            product += v * template[j, i]
    spread = squares - total * total / np.float32(side * side)
    return product / np.sqrt(spread) if spread > 0 else np.float32(-1)


@kernel("void(float32[:, ::1], float32[:, ::1], float32[:, ::1], float32[:, ::1], float32[:, ::1])")
def _compare(light, dip, peak, template, like):  # type: ignore[no-untyped-def]
    """Correlation with a template in every place that dips the deepest, and where it is anything like one beside it, in place."""
    h, w = light.shape
    reach = template.shape[0] // 2
    for r in range(reach + 1, h - reach - 1):
        for c in range(reach + 1, w - reach - 1):
            if dip[r, c] < peak[r, c] or dip[r, c] < SHALLOW:
                continue
            like[r, c] = _like(light, template, r, c)
            if like[r, c] < BESIDE:
                continue
            for y in range(r - 1, r + 2):
                for x in range(c - 1, c + 2):
                    like[y, x] = _like(light, template, y, x)


def find_specks(raster: Raster, most: int = MOST) -> list[Dust]:
    """Specks on a raster, the clearest first."""
    levels = sorted(raster.levels)
    first = next((k for k in levels if max(raster.shape(k)) <= EDGE), levels[-1])
    with ThreadPoolExecutor(1) as pool:
        larger = pool.submit(copy_context().run, _unheard, raster, first + 1) if first < levels[-1] else None
        found = _at(raster, first, RADII)
        found += larger.result() if larger else []
    found.sort(key=lambda d: -d.like * min(d.depth, DEEP_ENOUGH))
    out: list[Dust] = []
    for dust in found:
        if all(np.hypot(dust.x - o.x, dust.y - o.y) > APART * max(dust.radius, o.radius) for o in out):
            out.append(dust)
    return out[:most]


def _unheard(raster: Raster, level: int) -> list[Dust]:
    """Large ones, while it is told how far the small ones are."""
    with telling(lambda _: None):
        return _at(raster, level, LARGE)


def _at(raster: Raster, level: int, radii: tuple[float, ...]) -> list[Dust]:
    h, w = raster.shape(level)
    planes, light = np.empty((3, h, w), np.float32), np.empty((h, w), np.float32)
    _logarithms(np.ascontiguousarray(raster.fetch(level)(0, h, 0, w)), planes, light)
    light = _within(light, cv2.blur(light, (SMOOTH, SMOOTH), borderType=cv2.BORDER_REFLECT))
    best, which = np.full((h, w), -1, np.float32), np.zeros((h, w), np.uint8)
    k = raster.info.width / w
    out = []
    with ThreadPoolExecutor(2) as pool:
        for n, like in enumerate(pool.map(lambda radius: _likeness(light, radius), radii)):
            go_on()
            report(COMPARED * n / len(radii))
            _better(like, n, best, which)
        rows, columns = _peaks(best)
        number = which[rows, columns]
        places = [(rows[number == n], columns[number == n]) for n in range(len(radii))]
        go_on()
        judged = pool.map(lambda at, radius: _judged(planes, light, at[0], at[1], radius), places, radii)
        for (r, c), depth, radius in zip(places, judged, radii, strict=True):
            for y, x, deep in zip(r.tolist(), c.tolist(), depth.tolist(), strict=True):
                if deep > 0 and best[y, x] > _needed(deep):
                    out.append(Dust((x + 0.5) * k, (y + 0.5) * k, radius * k, deep, float(best[y, x])))
    report(1.0)
    return out


def _needed(deep: float) -> float:
    """How like a speck of a depth must look: gaps, stones and birds are as dark, but seldom as round and as soft-edged."""
    return min(LIKE + STEEPER * max(deep - DARK, 0.0) + (SURER if deep > DARK else 0.0), MOST_LIKE)


def _peaks(best: F32) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Rows and columns of what looks like a speck, and more so than all within NEAR px."""
    rows, columns = np.nonzero(best > LIKE)
    inside = (rows >= NEAR) & (columns >= NEAR)
    inside &= (rows < best.shape[0] - NEAR) & (columns < best.shape[1] - NEAR)
    rows, columns = rows[inside], columns[inside]
    y, x = (v.ravel() for v in np.mgrid[-NEAR : NEAR + 1, -NEAR : NEAR + 1])
    most = best[rows[:, None] + y, columns[:, None] + x].max(1, initial=-1)
    top = best[rows, columns] >= most
    return rows[top], columns[top]


@kernel("void(float32[:, :, ::1], float32[:, :, ::1], float32[:, ::1])")
def _logarithms(planes, logs, out):  # type: ignore[no-untyped-def]
    """Natural logarithms of planes of light, as heal.py takes them; and what of them is compared (h, w)."""
    scale, floor = np.float32(np.log(2.0)), np.float32(FLOOR)
    for r in range(planes.shape[1]):
        for k in range(3):
            for c in range(planes.shape[2]):
                logs[k, r, c] = scale * log2(max(planes[k, r, c] + floor, floor / np.float32(4)))
        for c in range(planes.shape[2]):
            out[r, c] = (
                CHANNELS[0] * logs[0, r, c] + CHANNELS[1] * logs[1, r, c] + CHANNELS[2] * logs[2, r, c]
            )


@kernel("float32[:, ::1](float32[:, ::1], float32[:, ::1])")
def _within(light, around):  # type: ignore[no-untyped-def]
    """By how much light (h, w) differs from what is around, within bounds."""
    out = np.empty_like(light)
    for r in range(out.shape[0]):
        for c in range(out.shape[1]):
            out[r, c] = min(max(light[r, c] - around[r, c], -BOUND), BOUND)
    return out


@kernel("void(float32[:, ::1], int64, float32[:, ::1], uint8[:, ::1])")
def _better(like, n, best, which):  # type: ignore[no-untyped-def]
    """Where a likeness is the best by now it is kept, and its number, in place."""
    for r in range(like.shape[0]):
        for c in range(like.shape[1]):
            if like[r, c] > best[r, c]:
                best[r, c] = like[r, c]
                which[r, c] = n


def _judged(
    planes: F32, light: F32, rows: NDArray[np.int64], columns: NDArray[np.int64], radius: float
) -> F32:
    """How deep specks at rows and columns (n) are (n); 0 where there is none. A slope and a speck are fitted to what is there
    (least squares): what they leave over tells how well that says it."""
    reach = int(np.ceil(WINDOW * radius))
    h, w = light.shape
    inside = (rows >= reach) & (rows < h - reach) & (columns >= reach) & (columns < w - reach)
    depth = np.zeros(len(rows), np.float32)
    some = np.flatnonzero(inside)
    y, x = (v.ravel() for v in np.mgrid[-reach : reach + 1, -reach : reach + 1])
    away = np.hypot(y, x) / radius
    use, core = away < FITTED, away < INNER
    basis = np.stack([np.ones(len(x)), y, x, -1 / (1 + np.exp((away * away - 1) * SOFT))], -1)
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
    shallow = np.max([own[:, (away < RIM) & (turn == n)].mean(1) for n in range(8)], axis=0)
    # of no colour: all three dip alike
    dips = np.stack([plane[at_r, at_c][:, use] @ solve[3] for plane in planes])
    unlike = uneven + np.ptp(dips, axis=0) / deep
    room = np.where(deep < PLAIN, 0.0, MORE) if radius >= RADII[1] else MORE_SMALL
    depth[some] = np.where((shallow < -ROUND * deep) & (unlike < UNLIKE + room), deep, 0)
    return depth
