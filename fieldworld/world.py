"""The Ammerlin coast seen from a viewpoint: radiance and truth for every pixel.

The ground is surveyed once along headings (terrain.py), so that a ray finds it by bisection; the
stack is a signed distance; land and sky are painted first, then the water, which mirrors them.
Rays are cast somewhat more sparsely than the sensor has px (a lens resolves no more); what is a
pixel wide or thinner (figures.py) is drawn at the sensor's own size afterwards. Radiance is linear
ITU-R BT.709, relative (see sky.py).
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray

from .casting import (
    BLOCK,
    SKY,
    WATER,
    edge_rows,
    find_rows,
    land_rows,
    near_rows,
    shelter_rows,
    water_rows,
)
from .figures import draw_figures
from .land import LENGTH
from .optics import Lens, turning
from .painted_sky import PaintedSky
from .seen import Seen, Viewpoint
from .sky import sky_table, sun_disc
from .terrain import PLACES, height, rings, survey
from .textures import sea_slopes, textures

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

DENSITY: Final = 0.54
"""Rays per px along each axis."""
INLAND: Final = ("heath", "path", "knoll")


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
        self.sky = PaintedSky(view.light, self.sun, self.sun_colour, self.table, self._bands)

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

    def _near(self) -> F64:
        """A safe distance to start looking for the stack from, per block; negative where it is not."""
        h, w = self.world.shape[:2]
        rows, columns = -(-h // BLOCK), -(-w // BLOCK)
        if not self.has_stack:
            return np.full((rows, columns), -1.0)
        small = np.ascontiguousarray(self.world[BLOCK // 2 :: BLOCK, BLOCK // 2 :: BLOCK])
        t = np.empty(small.shape[:2])
        self._bands(t.shape[0], 8, lambda a, b: near_rows(a, b, small, self.eye, self.pixel, t))
        t = np.pad(t, ((1, 1 + rows - t.shape[0]), (1, 1 + columns - t.shape[1])), mode="edge")
        reach = [t[i : i + rows, j : j + columns] for i in range(3) for j in range(3)]
        there = np.max(reach, axis=0)
        nearest = np.min([np.where(p > 0, p, 1e9) for p in reach], axis=0)
        # a near miss without a hit beside it is looked at from the start
        start = np.where(nearest < 1e8, np.maximum(nearest * 0.97 - 2.0, 0.0), 0.0)
        return np.ascontiguousarray(np.where((there > 0) | (np.min(reach, axis=0) < -1.5), start, -1.0))

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
        sky = self.sky.behind(self.world)
        rgb, kind = np.empty((h, w, 3), np.float32), np.empty((h, w), np.uint8)
        depth = np.empty((h, w), np.float32)
        finding = (float(headings[0]), float(per), headings.size, ring, self.eye, self.place, self._near(),
                   self.inland, self.pixel)  # fmt: skip
        level = np.zeros((h, w), np.float32)
        self._bands(
            h, 16,
            lambda a, b: find_rows(a, b, self.world, *finding, ground, rise, self.tex, kind, depth, level),
        )  # fmt: skip
        shelter = np.empty((h // 2, w // 2, 2), np.float32)
        self._bands(
            h // 2, 8,
            lambda a, b: shelter_rows(a, b, self.world, self.place, self.pixel, self.sun, self.light, self.tex,
                                       kind, depth, level, shelter),
        )  # fmt: skip
        shelter = cv2.resize(shelter, (w, h), interpolation=cv2.INTER_LINEAR)
        self._bands(
            h, 16,
            lambda a, b: land_rows(a, b, self.world, sky, self.eye, self.place, self.pixel, self.sun,
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
        land, dome = rgb.copy(), self.sky.dome()
        mirrored = np.where(kind == WATER, np.float32(1e6), depth)
        waves, packed = sea_slopes(self.view.light.wind), self.lens.packed()
        moments = 1 if self.view.water_s < 0.05 else min(12, max(3, round(self.view.water_s * 2)))
        total = np.zeros_like(rgb) if moments > 1 else rgb
        for n in range(moments):
            when = self.view.when + self.view.water_s * (n + 0.5) / moments
            self._bands(
                rgb.shape[0], 16,
                lambda a, b, when=when: water_rows(  # type: ignore[misc]
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
            lambda a, b: edge_rows(a, b, ys, xs, self.world, *finding, ground, rise, self.tex, kind, rgb, shares, out),
        )  # fmt: skip
        rgb[ys, xs] = out
        for k in range(5):
            covers[k][ys, xs] = shares[:, k]

    def _at_full_size(self, rgb: F32, depth: F32, covers: list[F32]) -> Seen:
        """Everything at the sensor's own size, and the figures on it."""
        size = (self.full.width, self.full.height)

        def wide(x: F32) -> F32:
            out = cv2.resize(x, size, interpolation=cv2.INTER_CUBIC)
            return np.asarray(np.maximum(out, 0, out=out), np.float32)

        sky = cv2.resize(covers[SKY], size, interpolation=cv2.INTER_LINEAR)
        water = cv2.resize(covers[WATER], size, interpolation=cv2.INTER_LINEAR)
        radiance = wide(rgb)
        disc = sun_disc(self.world, self.view.light, self.pixel)
        if disc.any():
            disc = cv2.resize(disc, size, interpolation=cv2.INTER_LINEAR)
            radiance += (disc * sky)[..., None] * self.sun_colour
        seen = Seen(
            radiance, sky, water, np.clip(1 - sky - water, 0, 1), *(np.zeros(sky.shape, np.float32) for _ in range(3)),
            cv2.resize(depth, size, interpolation=cv2.INTER_NEAREST),
        )  # fmt: skip
        draw_figures(self, seen)
        return seen


def photograph(view: Viewpoint, lens: Lens, threads: int = 2) -> Seen:
    """What a lens sees from a viewpoint."""
    return Scenery(view, lens, threads).look()


def warm(part: str) -> None:
    """Compile one half of the kernels ("land" or "water"), so that two processes can share the wait."""
    lens = Lens(48, 32, 26.0)
    if part == "land":
        photograph(Viewpoint("path", figures=("gull",)), lens, 1)
        return
    scenery = Scenery(Viewpoint(), lens, 1)
    scenery._near()
    h, w = scenery.world.shape[:2]
    scenery._water(np.zeros((h, w, 3), np.float32), np.zeros((h, w), np.uint8), np.ones((h, w), np.float32))
