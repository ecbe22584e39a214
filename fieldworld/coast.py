"""The Ammerlin coast seen from one viewpoint: radiance and truth for every pixel.

A ray per pixel through rock, sea, far islands and sky; edges get more rays. Radiance is linear
ITU-R BT.709, relative (see sky.py). Truth: what each pixel shows, and how far away it is.
"""

import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from .rock import GRID_COLUMNS, GRID_ROWS, march, survey_rows
from .shading import ROCK, SEA, SHELF, SKY, shade
from .sky import Daylight, sky_rows, sky_table

F32 = NDArray[np.float32]


@dataclass(frozen=True)
class Viewpoint:
    """Where the camera stands and looks: eye in metres, angles in degrees, focal length in mm."""

    eye: tuple[float, float, float] = (0.0, 2.1, 0.0)
    heading: float = 3.0
    pitch: float = 7.5
    roll: float = -0.5
    focal_mm: float = 26.0
    light: Daylight = field(default_factory=Daylight)


@dataclass(frozen=True)
class View:
    """What the lens sees: radiance (h, w, 3), shares of sky, water and rock (h, w), depth in m."""

    radiance: F32
    sky: F32
    water: F32
    rock: F32
    depth: F32


@njit(nogil=True, cache=True, fastmath=True)
def _rows(r0, r1, rays, eye, near, ratio, sky, cone, light, sun, sun_colour, table, grid, rgb, kind, depth):  # type: ignore[no-untyped-def]
    """Shade rows r0..r1. `near`: where a coarse pass says marching may start; `sky`: behind it all."""
    work = np.empty((5, 3), np.float64)
    scratch = np.empty(3, np.float32)
    out = np.empty(3, np.float64)
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            start = near[r // ratio, c // ratio]
            k, t = shade(
                eye[0],
                eye[1],
                eye[2],
                rays[r, c, 0],
                rays[r, c, 1],
                rays[r, c, 2],
                start,
                cone,
                light,
                sun,
                sun_colour,
                table,
                grid,
                work,
                scratch,
                out,
            )
            kind[r, c] = k
            depth[r, c] = t
            for i in range(3):
                rgb[r, c, i] = sky[r, c, i] if k == SKY else out[i]


@njit(nogil=True, cache=True, fastmath=True)
def _near(r0, r1, rays, eye, cone, grid, t):  # type: ignore[no-untyped-def]
    for r in range(r0, r1):
        for c in range(rays.shape[1]):
            dy = rays[r, c, 1]
            stop = min(-eye[1] / dy if dy < -1e-5 else 1e9, 190.0)
            t[r, c] = march(eye[0], eye[1], eye[2], rays[r, c, 0], dy, rays[r, c, 2], 0.05, stop, cone, grid)


def _bands(pool: ThreadPoolExecutor, rows: int, step: int, work: Callable[[int, int], None]) -> None:
    list(pool.map(lambda r: work(r, min(r + step, rows)), range(0, rows, step)))


def photograph(view: Viewpoint, rays: F32, threads: int = 2) -> View:
    """Shade every ray (h, w, 3: camera axes, x right, y down, z ahead, unit length) of a viewpoint."""
    turn = _turn(view)
    world = np.ascontiguousarray((rays @ turn.T).astype(np.float32))
    h, w = world.shape[:2]
    table, sun_colour = sky_table(view.light)
    sun = view.light.sun()
    light = np.array([view.light.cloud_cover, view.light.seed, view.light.haze])
    eye = np.array(view.eye)
    cone = float(np.arccos(np.clip((world[h // 2, w // 2] * world[h // 2, w // 2 + 1]).sum(), -1, 1))) / 2
    coarse = 8
    small = np.ascontiguousarray(world[coarse // 2 :: coarse, coarse // 2 :: coarse])
    small = np.pad(
        small,
        ((0, -(-h // coarse) - small.shape[0]), (0, -(-w // coarse) - small.shape[1]), (0, 0)),
        mode="edge",
    )
    t = np.empty(small.shape[:2])
    grid = np.empty((GRID_ROWS, GRID_COLUMNS), np.float32)
    rgb = np.empty((h, w, 3), np.float32)
    kind = np.empty((h, w), np.uint8)
    depth = np.empty((h, w), np.float32)
    with ThreadPoolExecutor(threads) as pool:
        _bands(pool, GRID_ROWS, 20, lambda a, b: survey_rows(a, b, grid))
        sky = _sky(pool, world, sun, sun_colour, table, light)
        _bands(pool, t.shape[0], 8, lambda a, b: _near(a, b, small, eye, cone * coarse, grid, t))
        near = _starts(t)
        args = (cone, light, sun, sun_colour, table, grid)
        _bands(
            pool,
            h,
            16,
            lambda a, b: _rows(a, b, world, eye, near, coarse, sky, *args, rgb, kind, depth),
        )
        shares = [(kind == SKY), (kind == SEA), (kind == ROCK) | (kind == SHELF)]
        covers = [s.astype(np.float32) for s in shares]
        _soften_edges(pool, world, eye, near, coarse, sky, args, kind, depth, rgb, covers)
    return View(rgb, covers[0], covers[1], covers[2], depth)


def _sky(
    pool: ThreadPoolExecutor,
    world: F32,
    sun: F32,
    sun_colour: F32,
    table: F32,
    light: NDArray[np.float64],
) -> F32:
    """The sky behind every pixel; clouds are soft, so a third of the resolution will do."""
    h, w = world.shape[:2]
    rays = cv2.resize(world, (-(-w // 3), -(-h // 3)), interpolation=cv2.INTER_AREA)
    rays /= np.linalg.norm(rays, axis=-1, keepdims=True)
    out = np.empty_like(rays)
    _bands(
        pool,
        rays.shape[0],
        16,
        lambda a, b: sky_rows(a, b, rays, sun, sun_colour, table, light[0], light[1], out),
    )
    return np.maximum(cv2.resize(out, (w, h), interpolation=cv2.INTER_CUBIC), 0).astype(np.float32)


def _turn(view: Viewpoint) -> NDArray[np.float64]:
    """Rotation from camera axes (x right, y down, z ahead) to the world (y up)."""
    h, p, r = (math.radians(a) for a in (view.heading, view.pitch, view.roll))
    roll = np.array([[math.cos(r), -math.sin(r), 0], [math.sin(r), math.cos(r), 0], [0, 0, 1]])
    flip = np.diag([1.0, -1.0, 1.0])
    pitch = np.array([[1, 0, 0], [0, math.cos(p), math.sin(p)], [0, -math.sin(p), math.cos(p)]])
    head = np.array([[math.cos(h), 0, math.sin(h)], [0, 1, 0], [-math.sin(h), 0, math.cos(h)]])
    return head @ pitch @ flip @ roll


def _starts(t: NDArray[np.float64]) -> NDArray[np.float64]:
    """A safe distance to start marching from, per coarse cell: the nearest of its surroundings."""
    far = np.where(t > 0, t, np.where(t < -1.5, 0.05, 185.0))
    padded = np.pad(far, 1, mode="edge")
    near = np.min(
        [padded[i : i + t.shape[0], j : j + t.shape[1]] for i in range(3) for j in range(3)], axis=0
    )
    return np.ascontiguousarray(np.maximum(near * 0.93 - 1.0, 0.05))


def _soften_edges(
    pool: ThreadPoolExecutor,
    rays: F32,
    eye: NDArray[np.float64],
    near: NDArray[np.float64],
    coarse: int,
    sky: F32,
    args: tuple[Any, ...],
    kind: NDArray[np.uint8],
    depth: F32,
    rgb: F32,
    covers: list[F32],
) -> None:
    """Where neighbours show different things, average a 3×3 bundle of rays per pixel."""
    edge = np.zeros(kind.shape, bool)
    jump = np.abs(np.diff(np.log(np.maximum(depth, 0.1)), axis=1)) > 0.08
    edge[:, 1:] |= (kind[:, 1:] != kind[:, :-1]) | jump
    edge[:, :-1] |= (kind[:, 1:] != kind[:, :-1]) | jump
    jump = np.abs(np.diff(np.log(np.maximum(depth, 0.1)), axis=0)) > 0.08
    edge[1:] |= (kind[1:] != kind[:-1]) | jump
    edge[:-1] |= (kind[1:] != kind[:-1]) | jump
    edge[0] = edge[-1] = False
    edge[:, 0] = edge[:, -1] = False
    ys, xs = np.nonzero(edge)
    if ys.size == 0:
        return
    right = rays[ys, xs + 1] - rays[ys, xs]
    down = rays[ys + 1, xs] - rays[ys, xs]
    starts = near[ys // coarse, xs // coarse][:, None] * np.ones((1, 9))
    offsets = np.array([(i, j) for i in (-1, 0, 1) for j in (-1, 0, 1)], np.float32) / 3
    bundle = rays[ys, xs][:, None] + offsets[:, :1] * right[:, None] + offsets[:, 1:] * down[:, None]
    bundle /= np.linalg.norm(bundle, axis=-1, keepdims=True)
    bundle = np.ascontiguousarray(bundle.astype(np.float32))
    n = bundle.shape[0]
    behind = np.ascontiguousarray(np.repeat(sky[ys, xs][:, None], 9, axis=1))
    out = np.empty((n, 9, 3), np.float32)
    kinds = np.empty((n, 9), np.uint8)
    deep = np.empty((n, 9), np.float32)
    _bands(
        pool,
        n,
        4096,
        lambda a, b: _rows(a, b, bundle, eye, starts, 1, behind, *args, out, kinds, deep),
    )
    rgb[ys, xs] = out.mean(1)
    for cover, which in zip(covers, ((SKY,), (SEA,), (ROCK, SHELF)), strict=True):
        cover[ys, xs] = np.isin(kinds, which).mean(1)
    kind[ys, xs] = kinds[:, 4]


def pinhole(width: int, height: int, focal_mm: float, long_mm: float = 36.0) -> F32:
    """Unit rays (h, w, 3) of an ideal camera; the long edge of the sensor is `long_mm` wide."""
    pitch = long_mm / max(width, height) / focal_mm
    x = (np.arange(width, dtype=np.float32) + 0.5 - width / 2) * pitch
    y = (np.arange(height, dtype=np.float32) + 0.5 - height / 2) * pitch
    rays = np.dstack((*np.meshgrid(x, y), np.ones((height, width), np.float32)))
    return np.ascontiguousarray(rays / np.linalg.norm(rays, axis=-1, keepdims=True))
