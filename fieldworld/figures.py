"""Thin and small things, drawn at the sensor's own size over the painted picture: birches, reeds,
cable, beacon, walker, gull, boat. All are strokes and discs in the world, thrown onto the sensor by
the lens; their coverage is exact to a fraction of a pixel, and is the truth about them.
"""

import math
from collections.abc import Callable
from itertools import pairwise
from typing import Final

import numpy as np
from numba import njit
from numpy.typing import NDArray

from .optics import project
from .seen import Seen, Stage
from .terrain import height, path_x

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
Stroke = tuple[float, ...]
"""From (x, y, z) to (x, y, z) in m over the sea, width at either end in m, albedo (3); a twelfth number
says that the ends are cut square (1), and that it is flat, lit alike all over (2)."""


@njit(
    "void(float64[:, ::1], float64, float64[:, ::1], float64[::1], float64[::1], float32[:, ::1],"
    " float32[:, :, ::1], float32[:, ::1])",
    nogil=True,
    cache=True,
    fastmath=True,
)
def _draw(strokes, eye, turn, lens, light, depth, rgb, cover):  # type: ignore[no-untyped-def]
    """Draw strokes far to near. light: (3) on dark things, (3) sun's part for their bright side."""
    a, b = np.empty(2), np.empty(2)
    h, w = depth.shape
    for n in range(strokes.shape[0]):
        s = strokes[n]
        if not project(s[0], s[1] - eye, s[2], turn, lens, a):
            continue
        if not project(s[3], s[4] - eye, s[5], turn, lens, b):
            continue
        da = math.sqrt(s[0] ** 2 + (s[1] - eye) ** 2 + s[2] ** 2)
        db = math.sqrt(s[3] ** 2 + (s[4] - eye) ** 2 + s[5] ** 2)
        wa, wb = s[6] / da / lens[2] / 2, s[7] / db / lens[2] / 2
        grow = max(wa, wb) + 1.5
        x0, x1 = int(max(min(a[0], b[0]) - grow, 0)), int(min(max(a[0], b[0]) + grow, w - 1))
        y0, y1 = int(max(min(a[1], b[1]) - grow, 0)), int(min(max(a[1], b[1]) + grow, h - 1))
        if x1 < x0 or y1 < y0:
            continue
        ex, ey = b[0] - a[0], b[1] - a[1]
        length = ex * ex + ey * ey
        away = min(da, db)
        for y in range(y0, y1 + 1):
            for x in range(x0, x1 + 1):
                px, py = x + 0.5 - a[0], y + 0.5 - a[1]
                along = (px * ex + py * ey) / max(math.sqrt(length), 1e-9)
                t = min(max((px * ex + py * ey) / max(length, 1e-9), 0.0), 1.0)
                d = math.sqrt((px - t * ex) ** 2 + (py - t * ey) ** 2)
                half = wa + (wb - wa) * t
                if s[11] > 0.0:
                    d = abs(px * ey - py * ex) / max(math.sqrt(length), 1e-9)
                # a stroke thinner than a pixel covers as much of it as it is wide
                c = min(max(half + 0.5 - d, 0.0), min(2.0 * half, 1.0))
                if s[11] > 0.0:
                    c *= min(max(along + 0.5, 0.0), 1.0) * min(max(math.sqrt(length) - along + 0.5, 0.0), 1.0)
                if c <= 0.0 or depth[y, x] < away * 0.985 - 0.15:
                    continue
                side = (px * ey - py * ex) / (math.sqrt(length) + 1e-9) / max(half, 0.7)
                lit = 0.5 if s[11] > 1.0 else min(max(0.5 - 0.5 * side * light[6], 0.0), 1.0)
                for k in range(3):
                    colour = s[8 + k] * (light[k] + lit * light[3 + k])
                    rgb[y, x, k] += (colour - rgb[y, x, k]) * c
                cover[y, x] = 1.0 - (1.0 - cover[y, x]) * (1.0 - c)


def _long(v: F64) -> float:
    """NumPy's own norm takes three times as long over three numbers, and there are tens of thousands."""
    return math.sqrt(v.dot(v))


def _birch(rng: np.random.Generator, x: float, z: float, ground: float, tall: float) -> list[Stroke]:
    """A dwarf birch: a leaning white stem, branches that fork down to twigs, a few gold leaves."""
    strokes: list[Stroke] = []
    white, dark = (0.46, 0.43, 0.38), (0.055, 0.042, 0.034)

    def grow(p: F64, way: F64, length: float, width: float, order: int) -> None:
        pieces = 5 if order == 0 else 3
        for i in range(pieces):
            way = way + rng.normal(0, 0.10 + 0.06 * order, 3)
            way[1] += 0.04 - 0.03 * order
            way = way / _long(way)
            q = p + way * length / pieces
            w0, w1 = width * (1 - 0.7 * i / pieces), width * (1 - 0.7 * (i + 1) / pieces)
            bark = white if w0 > 0.028 else dark
            strokes.append((*p, *q, w0, w1, *bark))
            if order == 0 and w0 > 0.03 and rng.random() < 0.8:
                strokes.append((*(p + way * 0.03), *(p + way * 0.06), w0 * 1.01, w0 * 0.9, 0.06, 0.05, 0.045))
            if order < 3:
                for _ in range(int(rng.integers(2, 5)) if order else 5):
                    start = p + (q - p) * rng.random()
                    side = rng.normal(0, 1, 3)
                    side[1] = abs(side[1]) * 0.5 + (0.5 if order == 0 else 0.1)
                    turn = way * 0.55 + side / _long(side)
                    reach = length * rng.uniform(0.28, 0.5) * (1 - 0.45 * i / pieces if order == 0 else 1)
                    grow(start, turn / _long(turn), reach, max(w1 * 0.5, 0.0035), order + 1)
            if order == 3 and rng.random() < 0.35:
                leaf = q + rng.normal(0, 0.02, 3)
                strokes.append(
                    (*leaf, *(leaf + np.array([0.012, -0.014, 0])), 0.026, 0.016, 0.30, 0.20, 0.035)
                )
            p = q

    lean = np.array([rng.normal(0, 0.16), 1.0, rng.normal(0, 0.1)])
    grow(np.array([x, ground - 0.1, z]), lean / _long(lean), tall, tall * 0.026, 0)
    return strokes


def _birches(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    out: list[Stroke] = []
    for x, z, tall in ((-3.2, 9.5, 3.4), (-2.1, 11.5, 3.9), (3.9, 13.5, 3.5), (-6.2, 17.0, 3.2), (7.8, 24.0, 3.1),
                       (1.2, 31.0, 2.9), (-11.5, 29.0, 3.3)):  # fmt: skip
        out += _birch(rng, x, z, _ground(s, x, z), tall)
    return out


def _ground(s: Stage, x: float, z: float) -> float:
    return float(height(x, z, s.place, 0.2, s.tex))


def _reeds(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    """Dry reeds and grass that stand against the sky."""
    out: list[Stroke] = []
    for _ in range(420):
        z = rng.uniform(2.2, 11) if rng.random() < 0.8 else rng.uniform(11, 22)
        x = rng.uniform(-0.75, 0.75) * z
        if s.view.place == "path" and abs(x - path_x(z)) < 1.5:
            continue
        ground = _ground(s, x, z)
        tall, lean = rng.uniform(0.2, 0.75), rng.normal(0.10, 0.16)
        p = (x, ground - 0.03, z)
        q = (x + lean * tall * 0.4, ground + tall * 0.65, z)
        r = (x + lean * tall * 1.5, ground + tall, z + rng.normal(0, 0.05))
        tone = rng.uniform(0.75, 1.2)
        colour = (0.24 * tone, 0.19 * tone, 0.09 * tone)
        out.append((*p, *q, 0.005, 0.0035, *colour))
        out.append((*q, *r, 0.0035, 0.0016, *colour))
    return out


def _card(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    """A grey card of 18 % on a stick in front of the camera, evenly lit."""
    ahead = s.turn[:, 2] * 3.0
    x, y, z = ahead[0], s.eye + ahead[1], ahead[2]
    stick = (x, y - 1.4, z + 0.02, x, y - 0.3, z + 0.02, 0.03, 0.03, 0.09, 0.07, 0.05, 1.0)
    return [stick, (x, y - 0.32, z, x, y + 0.32, z, 0.92, 0.92, 0.18, 0.18, 0.18, 2.0)]


def _grass(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    """Blades of the heath's own grass close by."""
    out: list[Stroke] = []
    for _ in range(15000):
        z = 1.3 + 12.0 * rng.random() ** 1.7
        x = rng.uniform(-0.85, 0.85) * (z + 0.5)
        if s.view.place == "path" and abs(x - path_x(z)) < 0.95 + 0.4 * rng.random():
            continue
        ground = _ground(s, x, z)
        tall, lean = rng.uniform(0.04, 0.2), rng.normal(0.02, 0.06)
        tone = rng.uniform(0.6, 1.3)
        mix = rng.random()
        colour = ((0.10 + 0.11 * mix) * tone, (0.105 + 0.065 * mix) * tone, (0.036 + 0.04 * mix) * tone)
        out.append(
            (x, ground - 0.02, z, x + lean, ground + tall, z + rng.normal(0, 0.04), 0.005, 0.0012, *colour)
        )
    return out


BEACON_AT: Final = (1.5, 20.0)
"""Where the white beacon stands on the knoll, x and z in m."""
BEACON_M: Final = 11.5


def _beacon(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    """A white tower with a dark lantern, its edges exactly upright."""
    x, z = BEACON_AT
    g = _ground(s, x, z) - 0.3
    white, dark, red = (0.70, 0.69, 0.66), (0.05, 0.05, 0.055), (0.30, 0.045, 0.03)
    out: list[Stroke] = [(x, g, z, x, g + BEACON_M, z, 2.9, 2.9, *white)]
    out.append((x, g + 6.6, z - 0.1, x, g + 7.9, z - 0.1, 2.93, 2.93, *red))
    out.append((x, g + BEACON_M, z, x, g + BEACON_M + 0.18, z, 3.4, 3.4, *dark))
    out.append((x, g + BEACON_M + 0.3, z, x, g + BEACON_M + 1.6, z, 1.7, 1.7, 0.16, 0.19, 0.20))
    for i in range(-3, 4):
        px = x + i * 0.5
        out.append((px, g + BEACON_M + 0.2, z - 0.2, px, g + BEACON_M + 1.05, z - 0.2, 0.05, 0.05, *dark))
    out.append(
        (x - 1.6, g + BEACON_M + 1.05, z - 0.2, x + 1.6, g + BEACON_M + 1.05, z - 0.2, 0.06, 0.06, *dark)
    )
    for i in range(3):
        px = x - 0.6 + i * 0.6
        out.append((px, g + BEACON_M + 0.3, z - 0.3, px, g + BEACON_M + 1.7, z - 0.3, 0.07, 0.07, *dark))
    out.append((x, g + BEACON_M + 1.6, z, x, g + BEACON_M + 2.5, z, 2.0, 0.1, *dark))
    out.append((x, g + 0.2, z - 2.0, x, g + 2.1, z - 1.95, 0.95, 0.95, 0.06, 0.055, 0.05))
    for y in (3.6, 5.6, 9.3):
        out.append((x + 0.1, g + y, z - 1.9, x + 0.1, g + y + 0.75, z - 1.9, 0.42, 0.42, 0.07, 0.075, 0.08))
    return [(*stroke, 1.0) for stroke in out]


def _hanging(a: F64, b: F64, sag: float, width: float, colour: tuple[float, float, float]) -> list[Stroke]:
    """A cable between two points, as the parabola it nearly hangs in."""
    t = np.linspace(0, 1, 49)[:, None]
    points = a * (1 - t) + b * t
    points[:, 1] -= 4 * sag * (t * (1 - t))[:, 0]
    return [(*p, *q, width, width, *colour) for p, q in pairwise(points)]


def _cable(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    dark = (0.03, 0.03, 0.032)
    if s.view.place == "knoll":
        x, z = BEACON_AT
        g = _ground(s, x, z)
        return _hanging(np.array([x + 1.1, g + 9.4, z]), np.array([26.0, g + 7.5, 9.0]), 1.3, 0.02, dark)
    base = s.eye
    if s.view.place == "shore":
        # across the bay, behind the stacks, from beyond the left edge of a sweep to beyond the right one
        left, right = np.array([-560.0, base + 30.0, 190.0]), np.array([620.0, base + 34.0, 260.0])
        return _hanging(left, right, 9.0, 0.1, dark)
    left, right = np.array([-40.0, base + 6.4, 34.0]), np.array([44.0, base + 9.8, 52.0])
    return _hanging(left, right, 2.4, 0.022, dark)


def _walker(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    """Somebody in a rust-red jacket, walking away along the path."""
    z = 27.0
    x = float(path_x(z)) + s.view.walked
    g = _ground(s, x, z) + 0.02
    cloth, dark, skin = (0.34, 0.075, 0.035), (0.035, 0.037, 0.045), (0.30, 0.21, 0.16)

    def part(
        ax: float, ay: float, bx: float, by: float, wa: float, wb: float, c: tuple[float, ...]
    ) -> Stroke:
        return (x + ax, g + ay, z, x + bx, g + by, z, wa, wb, *c)

    return [
        part(-0.07, 0.04, -0.04, 0.84, 0.13, 0.19, dark), part(0.16, 0.02, 0.05, 0.84, 0.12, 0.19, dark),
        part(0.0, 0.84, 0.02, 1.40, 0.37, 0.44, cloth), part(-0.22, 0.86, -0.19, 1.38, 0.11, 0.14, cloth),
        part(0.27, 0.92, 0.21, 1.38, 0.11, 0.14, cloth), part(0.03, 0.98, 0.03, 1.36, 0.27, 0.30, (0.10, 0.11, 0.09)),
        part(0.02, 1.55, 0.02, 1.62, 0.21, 0.21, skin), part(0.02, 1.62, 0.02, 1.67, 0.23, 0.19, dark),
    ]  # fmt: skip


def _gull(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    x, y, z = (-9.0, s.eye + 8.0, 55.0) if s.view.place != "shore" else (-17.0, s.eye + 13.0, 70.0)
    x += 4.0 * s.view.when
    pale, tip = (0.55, 0.55, 0.56), (0.08, 0.08, 0.09)
    return [
        (x - 0.34, y + 0.02, z, x + 0.30, y, z, 0.06, 0.17, *pale),
        (x, y, z, x - 0.28, y + 0.34, z, 0.20, 0.13, *pale), (x - 0.28, y + 0.34, z, x - 0.72, y + 0.22, z, 0.12, 0.02, *tip),
        (x, y, z, x + 0.24, y + 0.36, z + 0.2, 0.20, 0.13, *pale),
        (x + 0.24, y + 0.36, z + 0.2, x + 0.66, y + 0.27, z + 0.2, 0.12, 0.02, *tip),
    ]  # fmt: skip


def _boat(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    x, z = (52.0, 330.0) if s.view.place == "pool" else (-88.0, 420.0)
    hull, sail = (0.06, 0.065, 0.08), (0.62, 0.58, 0.50)
    out: list[Stroke] = [
        (x - 4.2, 0.7, z, x + 4.4, 0.9, z, 1.3, 0.7, *hull),
        (x, 1.0, z, x, 12.5, z, 0.2, 0.1, *hull),
    ]
    for i in range(12):
        y = 1.9 + i * 0.85
        out.append((x + 0.2, y, z, x + 0.2 + 3.6 * (1 - i / 12.5), y, z, 0.95, 0.95, *sail))
    return out


def _tripod(s: Stage, rng: np.random.Generator) -> list[Stroke]:
    """A leg of the tripod beside the camera, its rubber foot on the ground: it reaches into the left lower corner."""
    x, _, z = s.turn[:, 0] * -1.0 + s.turn[:, 2] * 1.2
    foot = np.array([x, _ground(s, x, z) + 0.02, z])
    top = np.array([0.0, s.eye - 0.5, 0.0]) + s.turn[:, 0] * -1.7 + s.turn[:, 2] * 0.95
    dark, rubber = (0.045, 0.045, 0.05), (0.02, 0.02, 0.02)
    at = [foot + (top - foot) * t for t in (0.0, 0.05, 0.34, 0.36, 0.8)]
    return [
        (*at[0], *at[1], 0.055, 0.048, *rubber), (*at[1], *at[2], 0.028, 0.028, *dark),
        (*at[2], *at[3], 0.044, 0.044, *rubber), (*at[3], *at[4], 0.036, 0.036, *dark),
    ]  # fmt: skip


FIGURES: Final[dict[str, tuple[str, Callable[[Stage, np.random.Generator], list[Stroke]]]]] = {
    "beacon": ("subject", _beacon), "boat": ("subject", _boat), "gull": ("subject", _gull), "cable": ("wires", _cable),
    "walker": ("subject", _walker), "birches": ("twigs", _birches), "reeds": ("twigs", _reeds), "grass": ("land", _grass),
    "card": ("subject", _card), "tripod": ("subject", _tripod),
}  # fmt: skip
"""What can stand in a picture: which truth it belongs to, and how it is made; far things first."""


def draw_figures(scenery: Stage, seen: Seen) -> None:
    """Draw what the viewpoint names; the shares of sky, water and land make room for it."""
    right = float((scenery.turn[:, 0] * scenery.sun).sum())
    light = np.array([*scenery.figure_light(), 1.0 if right > 0 else -1.0])
    for n, (name, (truth, make)) in enumerate(FIGURES.items()):
        if name not in scenery.view.figures:
            continue
        rng = np.random.default_rng(1000 + n + scenery.view.light.seed)
        made = make(scenery, rng)
        strokes = np.array([(*stroke, 0.0)[:12] for stroke in made])
        middle = (strokes[:, :3] + strokes[:, 3:6]) / 2 - np.array([0, scenery.eye, 0])
        away = np.linalg.norm(middle, axis=1)
        if name in ("birches", "grass", "reeds"):
            strokes = strokes[np.argsort(-away, kind="stable")]
        own = np.zeros(seen.sky.shape, np.float32)
        before = seen.radiance
        _draw(
            np.ascontiguousarray(strokes), scenery.eye, scenery.turn, scenery.full.packed(), light, seen.depth,
            before, own,
        )  # fmt: skip
        for share in (seen.sky, seen.water, seen.land):
            share *= 1 - own
        held = getattr(seen, truth)
        held += own - held * own
        near = own > 0.5
        seen.depth[near] = np.minimum(seen.depth[near], float(np.median(away)))
