"""The Ammerlin coast seen from a viewpoint: radiance and truth for every pixel.

The ground is surveyed once along headings (terrain.py), so that a ray finds it by bisection; the
stack is a signed distance; land and sky are painted first, then the water, which mirrors them.
Rays are cast somewhat more sparsely than the sensor has px (a lens resolves no more); what is a
pixel wide or thinner (figures.py) is drawn at the sensor's own size afterwards. Radiance is linear
ITU-R BT.709, relative (see sky.py).
"""

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any, Final

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from .land import LENGTH, SHADE, ground_point, ground_shelter, haze, island, stack_point
from .optics import Lens, turning
from .rock import stack_meet
from .sky import Daylight, sky_rows, sky_table, sun_disc
from .terrain import PLACES, height, meet, rings, survey
from .textures import sea_slopes, textures
from .water import water_point

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

SKY, WATER, ISLAND, GROUND, STACK = range(5)
DENSITY: Final = 0.60
"""Rays per px along each axis."""
BLOCK: Final = 8
"""Side, in rays, of the blocks in which the stack is first looked for."""
INLAND: Final = ("heath", "path", "knoll")


@dataclass(frozen=True)
class Viewpoint:
    """Where the camera stands and looks. place: a key of PLACES. eye: metres over the ground there.
    heading, pitch, roll in degrees. when: seconds, which move the water."""

    place: str = "shore"
    eye: float = 1.75
    heading: float = 3.0
    pitch: float = 7.5
    roll: float = -0.5
    focal_mm: float = 26.0
    light: Daylight = field(default_factory=Daylight)
    when: float = 0.0
    water_s: float = 0.0
    """How long the water moves while the shutter is open, s."""
    figures: tuple[str, ...] = ()


@dataclass
class Seen:
    """What the lens sees. radiance (h, w, 3); shares (h, w) in 0–1 of sky, water, land, subject,
    twigs and wires; depth along the ray in m (1e6 for sky)."""

    radiance: F32
    sky: F32
    water: F32
    land: F32
    subject: F32
    twigs: F32
    wires: F32
    depth: F32


@njit(nogil=True, cache=True, fastmath=True)
def _find(dx, dy, dz, heading0, per, n, ring, eye, place, start, inland, cone, ground, rise, tex, out):  # type: ignore[no-untyped-def]
    """What a ray meets first: kind, and into out (1,) the distance along it. `start`: where to begin to
    look for the stack; negative where it is not."""
    flat = math.sqrt(dx * dx + dz * dz)
    slope = dy / max(flat, 1e-9)
    i = min(max(int((math.atan2(dx, dz) - heading0) * per + 0.5), 0), n - 1)
    kind, t = SKY, 1e6
    r = meet(slope, i, ring, eye, ground, rise)
    if r > 0.0 and (inland or eye + slope * r > 0.0):
        kind, t = GROUND, r / flat
    elif dy < -1e-5 and not inland:
        sea = -eye / dy
        if sea < 9000.0:
            kind, t = WATER, sea
    if start >= 0.0:
        s = stack_meet(0.0, eye, 0.0, dx, dy, dz, cone, start)
        if s > 0.0 and s < t:
            kind, t = STACK, s
    if kind == SKY and not inland:
        for layer in range(4):
            if slope < island(dx, dz, layer, tex):
                kind, t = ISLAND, 2600.0 + 2600.0 * layer
                break
    out[0] = t
    return kind


@njit(nogil=True, cache=True, fastmath=True)
def _near_rows(r0, r1, rays, eye, pixel, out):  # type: ignore[no-untyped-def]
    """Where looking for the stack may start, block by block: a distance, -2 near a miss, -1 far off."""
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            dx, dy, dz = float(rays[r, c, 0]), float(rays[r, c, 1]), float(rays[r, c, 2])
            out[r, c] = stack_meet(0.0, eye, 0.0, dx, dy, dz, pixel * BLOCK, 0.0)


@njit(nogil=True, cache=True, fastmath=True)
def _find_rows(
    r0,
    r1,
    rays,
    heading0,
    per,
    n,
    ring,
    eye,
    place,
    near,
    inland,
    pixel,
    ground,
    rise,
    tex,
    kind,
    depth,
    level,
):  # type: ignore[no-untyped-def]
    """What every ray meets, how far away, and the fine height of the ground there."""
    found = np.empty(1)
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            dx, dy, dz = float(rays[r, c, 0]), float(rays[r, c, 1]), float(rays[r, c, 2])
            k = _find(
                dx,
                dy,
                dz,
                heading0,
                per,
                n,
                ring,
                eye,
                place,
                near[r // BLOCK, c // BLOCK],
                inland,
                pixel * 0.5,
                ground,
                rise,
                tex,
                found,
            )
            t = found[0]
            kind[r, c], depth[r, c] = k, t
            if k == GROUND:
                level[r, c] = height(dx * t, dz * t, place, t * pixel, tex)


@njit(nogil=True, cache=True, fastmath=True)
def _shelter_rows(r0, r1, rays, place, pixel, sun, light, tex, kind, depth, level, shelter):  # type: ignore[no-untyped-def]
    """Openness to the sky and sunlight of the ground, at half the resolution."""
    out = np.empty(2)
    for r in range(r0, r1):
        for c in range(shelter.shape[1]):
            y, x = 2 * r, 2 * c
            shelter[r, c, 0], shelter[r, c, 1] = 1.0, 1.0
            if kind[y, x] == GROUND:
                t = depth[y, x]
                ground_shelter(
                    rays[y, x, 0] * t,
                    level[y, x],
                    rays[y, x, 2] * t,
                    t * pixel,
                    place,
                    sun,
                    tex,
                    light[SHADE],
                    out,
                )
                shelter[r, c, 0], shelter[r, c, 1] = out[0], out[1]


@njit(nogil=True, cache=True, fastmath=True)
def _slopes(r, c, rays, kind, depth, level, out):  # type: ignore[no-untyped-def]
    """Slopes of the ground at a pixel from its neighbours', into out (2,)."""
    h, w = kind.shape
    t = depth[r, c]
    x, z, y = rays[r, c, 0] * t, rays[r, c, 2] * t, level[r, c]
    out[0], out[1] = 0.0, 0.0
    v = np.empty((2, 3))
    for axis in range(2):
        done = False
        for step in (1, -1):
            i, j = r + (step if axis else 0), c + (0 if axis else step)
            if (
                not done
                and 0 <= i < h
                and 0 <= j < w
                and kind[i, j] == GROUND
                and abs(depth[i, j] - t) < 0.25 * t
            ):
                u = depth[i, j]
                v[axis, 0], v[axis, 1] = rays[i, j, 0] * u - x, rays[i, j, 2] * u - z
                v[axis, 2] = level[i, j] - y
                done = True
        if not done:
            return
    det = v[0, 0] * v[1, 1] - v[0, 1] * v[1, 0]
    if abs(det) < 1e-12:
        return
    gx = (v[0, 2] * v[1, 1] - v[0, 1] * v[1, 2]) / det
    gz = (v[0, 0] * v[1, 2] - v[0, 2] * v[1, 0]) / det
    out[0], out[1] = min(max(gx, -4.0), 4.0), min(max(gz, -4.0), 4.0)


@njit(nogil=True, cache=True, fastmath=True)
def _land_rows(
    r0, r1, rays, sky, eye, place, pixel, sun, sun_colour, table, light, tex, kind, depth, level, shelter, rgb
):  # type: ignore[no-untyped-def]
    """Paint land and sky."""
    work, slope, out = np.empty((5, 3)), np.empty(2), np.empty(3)
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            dx, dy, dz = float(rays[r, c, 0]), float(rays[r, c, 1]), float(rays[r, c, 2])
            k, t = kind[r, c], depth[r, c]
            if k == GROUND:
                _slopes(r, c, rays, kind, depth, level, slope)
                ground_point(
                    dx * t,
                    level[r, c],
                    dz * t,
                    slope[0],
                    slope[1],
                    shelter[r, c, 0],
                    shelter[r, c, 1],
                    t,
                    dx,
                    dy,
                    dz,
                    place,
                    t * pixel,
                    sun,
                    sun_colour,
                    table,
                    light,
                    tex,
                    work,
                    out,
                )
            elif k == STACK:
                stack_point(
                    dx * t, eye + dy * t, dz * t, t, dx, dy, dz, sun, sun_colour, table, light, tex, work, out
                )
            elif k == ISLAND:
                for i in range(3):
                    out[i] = 0.042 * (table[60, 64, i] + table[22, 118, i])
                haze(out, t, dx, dy, dz, sun, table, light[2] * 5.0)
            else:
                for i in range(3):
                    out[i] = sky[r, c, i]
            for i in range(3):
                rgb[r, c, i] = out[i]


@njit(nogil=True, cache=True, fastmath=True)
def _water_rows(
    r0,
    r1,
    rays,
    eye,
    place,
    has_stack,
    pixel,
    when,
    sun,
    sun_colour,
    table,
    dome,
    light,
    tex,
    waves,
    lens,
    turn,
    land,
    kind,
    depth,
    rgb,
):  # type: ignore[no-untyped-def]
    """Paint the water, which mirrors `land` (the picture without it)."""
    work, out = np.empty((5, 3)), np.empty(3)
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            if kind[r, c] == WATER:
                dx, dy, dz = float(rays[r, c, 0]), float(rays[r, c, 1]), float(rays[r, c, 2])
                water_point(
                    r,
                    dx,
                    dy,
                    dz,
                    eye,
                    place,
                    has_stack,
                    pixel,
                    when,
                    sun,
                    sun_colour,
                    table,
                    dome,
                    light,
                    tex,
                    waves,
                    lens,
                    turn,
                    land,
                    depth,
                    work,
                    out,
                )
                for i in range(3):
                    rgb[r, c, i] = out[i]


@njit(nogil=True, cache=True, fastmath=True)
def _edge_rows(
    first,
    last,
    ys,
    xs,
    rays,
    heading0,
    per,
    n,
    ring,
    eye,
    place,
    near,
    inland,
    pixel,
    ground,
    rise,
    tex,
    kind,
    rgb,
    covers,
    out,
):  # type: ignore[no-untyped-def]
    """At the edges of things: nine rays say what share each has; its colour is its nearest neighbour's."""
    found, sums = np.empty(1), np.empty(5)
    for e in range(first, last):
        y, x = ys[e], xs[e]
        for k in range(5):
            sums[k] = 0.0
        for a in range(3):
            for b in range(3):
                fy, fx = (a - 1.0) / 3.0, (b - 1.0) / 3.0
                d = np.empty(3)
                for i in range(3):
                    d[i] = (
                        rays[y, x, i]
                        + fx * (rays[y, x + 1, i] - rays[y, x, i])
                        + fy * (rays[y + 1, x, i] - rays[y, x, i])
                    )
                m = 1.0 / math.sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2])
                k = _find(
                    d[0] * m,
                    d[1] * m,
                    d[2] * m,
                    heading0,
                    per,
                    n,
                    ring,
                    eye,
                    place,
                    near[y // BLOCK, x // BLOCK],
                    inland,
                    pixel * 0.12,
                    ground,
                    rise,
                    tex,
                    found,
                )
                sums[k] += 1.0 / 9.0
        for i in range(3):
            out[e, i] = 0.0
        held = 0.0
        for k in range(5):
            covers[e, k] = sums[k]
            if sums[k] <= 0.0:
                continue
            best, by, bx = 99.0, -1, -1
            for dy in range(-2, 3):
                for dx in range(-2, 3):
                    v, u = y + dy, x + dx
                    if 0 <= v < kind.shape[0] and 0 <= u < kind.shape[1] and kind[v, u] == k:
                        away = dy * dy + dx * dx + 0.01
                        if away < best:
                            best, by, bx = away, v, u
            if by >= 0:
                held += sums[k]
                for i in range(3):
                    out[e, i] += sums[k] * rgb[by, bx, i]
        if held > 0.0:
            for i in range(3):
                out[e, i] /= held
        else:
            for i in range(3):
                out[e, i] = rgb[y, x, i]


class Scenery:
    """A viewpoint made ready: sky tables, the surveyed ground, what all its exposures share."""

    def __init__(self, view: Viewpoint, lens: Lens, threads: int = 1) -> None:
        self.view, self.threads = view, threads
        self.lens = lens.scaled(max(16, round(lens.width * DENSITY)), max(16, round(lens.height * DENSITY)))
        self.full = lens
        self.turn = turning(view.heading, view.pitch, view.roll)
        self.tex = textures()
        self.place = PLACES[view.place]
        self.inland = view.place in INLAND
        self.has_stack = view.place == "shore"
        self.pixel = self.lens.pitch
        self.eye = max(height(0.0, 0.0, self.place, 0.1, self.tex), 0.0) + view.eye
        self.table, self.sun_colour = sky_table(view.light)
        self.sun = view.light.sun()
        # an overcast sky: the sun's light spread out, a little brighter overhead
        grey = (
            float(self.sun_colour.mean())
            * np.array([0.29, 0.30, 0.315])
            * (0.75 + 0.5 * np.linspace(0, 1, self.table.shape[0]) ** 2)[:, None, None]
        )
        self.table = (self.table * (1 - view.light.shade) + grey * view.light.shade).astype(np.float32)
        self.light = np.zeros(LENGTH)
        self.light[:] = (view.light.cloud_cover, view.light.seed, view.light.haze, view.light.season,
                         view.light.shade, 0)[:LENGTH]  # fmt: skip
        self.world = np.ascontiguousarray((self.lens.rays() @ self.turn.T).astype(np.float32))

    def figure_light(self) -> F64:
        """Light on upright things facing the camera: (3) all over, then (3) the sun's on their lit side."""
        sun, table, shade = self.sun, self.table, self.view.light.shade
        ambient = 0.34 * (0.45 * table[70, 64] + 0.55 * (table[22, 30] + table[22, 118]) / 2) * (1 - shade)
        ambient = ambient + shade * 0.75 * table[70, 64]
        # seen against the sun only a rim is lit; with the sun behind us the whole side is
        ahead = float((self.turn[:, 2] * sun).sum())
        direct = self.sun_colour * (1 - shade) * max(0.06, 0.45 - 0.45 * ahead) * (1.0 if sun[1] > 0 else 0.0)
        return np.array([*ambient, *direct])

    def card_light(self) -> F64:
        """What falls on a card facing the camera, linear BT.709 (3,)."""
        light = self.figure_light()
        return np.asarray(light[:3] + 0.5 * light[3:])

    def _bands(self, rows: int, step: int, work: Callable[[int, int], None]) -> None:
        with ThreadPoolExecutor(self.threads) as pool:
            list(pool.map(lambda r: work(r, min(r + step, rows)), range(0, rows, step)))

    def _headings(self) -> F64:
        """Headings to survey: not quite as many as there are columns of rays."""
        w = self.world
        border = np.concatenate([w[0], w[-1], w[:, 0], w[:, -1]])
        azimuth = np.arctan2(border[:, 0], border[:, 2])
        low, high = float(azimuth.min()), float(azimuth.max())
        middle = w[w.shape[0] // 2]
        step = float(np.abs(np.diff(np.arctan2(middle[:, 0], middle[:, 2]))).mean())
        count = min(int((high - low) / max(step, 1e-5) * 0.7) + 3, 6000)
        return np.linspace(low, high, count)

    def _sky(self) -> F32:
        """The sky behind every px; clouds are soft, so a third of the resolution will do."""
        h, w = self.world.shape[:2]
        rays = cv2.resize(self.world, (-(-w // 3), -(-h // 3)), interpolation=cv2.INTER_AREA)
        rays /= np.linalg.norm(rays, axis=-1, keepdims=True)
        out = self._painted(rays, 9)
        return np.maximum(cv2.resize(out, (w, h), interpolation=cv2.INTER_CUBIC), 0).astype(np.float32)

    def _painted(self, rays: F32, octaves: int) -> F32:
        out = np.empty_like(rays)
        light = self.view.light
        self._bands(
            rays.shape[0], 16,
            lambda a, b: sky_rows(a, b, rays, self.sun, self.sun_colour, self.table, light.cloud_cover,
                                  light.seed, octaves, out),
        )  # fmt: skip
        return out

    def _dome(self) -> F32:
        """The whole sky, for what the water mirrors."""
        el = (np.linspace(0, 1, 160) ** 2) * math.pi / 2
        az = (np.arange(640) / 640 - 0.5) * 2 * math.pi
        rays = np.stack(
            [
                np.cos(el)[:, None] * np.sin(az),
                np.repeat(np.sin(el)[:, None], az.size, 1),
                np.cos(el)[:, None] * np.cos(az),
            ],
            -1,
        )
        return self._painted(np.ascontiguousarray(rays, np.float32), 6)

    def _near(self) -> F64:
        """A safe distance to start looking for the stack from, per block; negative where it is not."""
        h, w = self.world.shape[:2]
        rows, columns = -(-h // BLOCK), -(-w // BLOCK)
        if not self.has_stack:
            return np.full((rows, columns), -1.0)
        small = np.ascontiguousarray(self.world[BLOCK // 2 :: BLOCK, BLOCK // 2 :: BLOCK])
        t = np.empty(small.shape[:2])
        self._bands(t.shape[0], 8, lambda a, b: _near_rows(a, b, small, self.eye, self.pixel, t))
        t = np.pad(t, ((1, 1 + rows - t.shape[0]), (1, 1 + columns - t.shape[1])), mode="edge")
        reach = [t[i : i + rows, j : j + columns] for i in range(3) for j in range(3)]
        there = np.max(reach, axis=0)
        nearest = np.min([np.where(p > 0, p, 1e9) for p in reach], axis=0)
        start = np.where(nearest < 1e8, np.maximum(nearest * 0.93 - 1.0, 0.0), 0.0)
        beside = np.min(reach, axis=0) < -1.5
        start = np.where(beside, 0.0, start)
        return np.ascontiguousarray(np.where((there > 0) | beside, start, -1.0))

    def look(self) -> Seen:
        """Cast every ray and draw the figures."""
        h, w = self.world.shape[:2]
        ring, headings = rings(), self._headings()
        ground = np.empty((headings.size, ring.size), np.float32)
        rise = np.empty_like(ground)
        self._bands(
            headings.size, 64,
            lambda a, b: survey(a, b, headings, ring, self.place, self.eye, self.pixel, self.tex, ground, rise),
        )  # fmt: skip
        per = (headings.size - 1) / (headings[-1] - headings[0])
        sky = self._sky()
        rgb, kind = np.empty((h, w, 3), np.float32), np.empty((h, w), np.uint8)
        depth = np.empty((h, w), np.float32)
        finding = (float(headings[0]), float(per), headings.size, ring, self.eye, self.place, self._near(),
                   self.inland, self.pixel)  # fmt: skip
        level = np.zeros((h, w), np.float32)
        self._bands(
            h, 16,
            lambda a, b: _find_rows(a, b, self.world, *finding, ground, rise, self.tex, kind, depth, level),
        )  # fmt: skip
        shelter = np.empty((h // 2, w // 2, 2), np.float32)
        self._bands(
            h // 2, 8,
            lambda a, b: _shelter_rows(a, b, self.world, self.place, self.pixel, self.sun, self.light, self.tex,
                                       kind, depth, level, shelter),
        )  # fmt: skip
        shelter = cv2.resize(shelter, (w, h), interpolation=cv2.INTER_LINEAR)
        self._bands(
            h, 16,
            lambda a, b: _land_rows(a, b, self.world, sky, self.eye, self.place, self.pixel, self.sun,
                                    self.sun_colour, self.table, self.light, self.tex, kind, depth, level,
                                    shelter, rgb),
        )  # fmt: skip
        if (kind == WATER).any():
            self._water(rgb, kind, depth)
        covers = [(kind == k).astype(np.float32) for k in range(5)]
        self._soften(finding, ground, rise, rgb, kind, depth, covers)
        return self._at_full_size(rgb, depth, covers)

    def _water(self, rgb: F32, kind: NDArray[np.uint8], depth: F32) -> None:
        """The water as the open shutter sees it: the mean of a few moments."""
        land, dome = rgb.copy(), self._dome()
        mirrored = np.where(kind == WATER, np.float32(1e6), depth)
        waves, packed = sea_slopes(self.view.light.wind), self.lens.packed()
        moments = 1 if self.view.water_s < 0.05 else min(12, max(3, round(self.view.water_s * 2)))
        total = np.zeros_like(rgb) if moments > 1 else rgb
        for n in range(moments):
            when = self.view.when + self.view.water_s * (n + 0.5) / moments
            self._bands(
                rgb.shape[0], 16,
                lambda a, b, when=when: _water_rows(  # type: ignore[misc]
                    a, b, self.world, self.eye, self.place, self.has_stack, self.pixel, when, self.sun,
                    self.sun_colour, self.table, dome, self.light, self.tex, waves, packed, self.turn, land,
                    kind, mirrored, rgb),
            )  # fmt: skip
            if moments > 1:
                total += rgb / moments
        rgb[:] = total
        # one ray a pixel breaks the mirror into steps; the lens would not see them
        on = (kind == WATER).astype(np.float32)
        soft = cv2.GaussianBlur(rgb * on[..., None], (0, 0), 0.75)
        share = cv2.GaussianBlur(on, (0, 0), 0.75)
        rgb[kind == WATER] = (soft / np.maximum(share, 1e-6)[..., None])[kind == WATER]

    def _soften(self, finding: tuple[Any, ...], ground: F32, rise: F32, rgb: F32, kind: NDArray[np.uint8],
                depth: F32, covers: list[F32]) -> None:  # fmt: skip
        """Where neighbours show different things, mix them by their true shares."""
        edge = np.zeros(kind.shape, bool)
        for axis in (0, 1):
            differ = np.diff(kind.astype(np.int8), axis=axis) != 0
            one = [slice(None)] * 2
            two = [slice(None)] * 2
            one[axis], two[axis] = slice(1, None), slice(None, -1)
            edge[tuple(one)] |= differ
            edge[tuple(two)] |= differ
        edge[-1] = edge[:, -1] = False
        ys, xs = np.nonzero(edge)
        out, shares = np.empty((ys.size, 3), np.float32), np.empty((ys.size, 5), np.float32)
        self._bands(
            ys.size, 4096,
            lambda a, b: _edge_rows(a, b, ys, xs, self.world, *finding, ground, rise, self.tex, kind, rgb, shares, out),
        )  # fmt: skip
        rgb[ys, xs] = out
        for k in range(5):
            covers[k][ys, xs] = shares[:, k]

    def _at_full_size(self, rgb: F32, depth: F32, covers: list[F32]) -> Seen:
        """Everything at the sensor's own size, and the figures on it."""
        from .figures import draw_figures

        size = (self.full.width, self.full.height)

        def wide(x: F32) -> F32:
            out = cv2.resize(x, size, interpolation=cv2.INTER_CUBIC)
            return np.asarray(np.maximum(out, 0, out=out), np.float32)

        sky = cv2.resize(covers[SKY], size, interpolation=cv2.INTER_LINEAR)
        water = cv2.resize(covers[WATER], size, interpolation=cv2.INTER_LINEAR)
        nothing = np.zeros(sky.shape, np.float32)
        radiance = wide(rgb)
        disc = sun_disc(self.world, self.view.light, self.pixel)
        if disc.any():
            disc = cv2.resize(disc, size, interpolation=cv2.INTER_LINEAR)
            radiance += (disc * sky)[..., None] * self.sun_colour
        seen = Seen(
            radiance, sky, water, np.clip(1 - sky - water, 0, 1), nothing, nothing.copy(), nothing.copy(),
            cv2.resize(depth, size, interpolation=cv2.INTER_NEAREST),
        )  # fmt: skip
        draw_figures(self, seen)
        return seen


def photograph(view: Viewpoint, lens: Lens, threads: int = 2) -> Seen:
    """What a lens sees from a viewpoint."""
    return Scenery(view, lens, threads).look()
