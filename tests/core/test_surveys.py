"""What moves learn of the whole picture, and how it is looked up: against NumPy, and whatever the order it is made in."""

import threading

import cv2
import numpy as np
import pytest
from numba import njit

from sunlatch.errors import CancelledError
from sunlatch.fastmath import octave_place
from sunlatch.ledger import new_move
from sunlatch.moves import MOVE_KINDS
from sunlatch.moves.grid import BIN, CELLS, HIGH_STOP, LOW_STOP, row_of_base
from sunlatch.moves.grid import survey as grid_of
from sunlatch.moves.haze import PATCH
from sunlatch.moves.relief import EDGE, SCALES
from sunlatch.moves.sampling import columns, row_sampled
from sunlatch.render import Engine, picture_8
from sunlatch.running.patience import Patience
from tests.core.moving import stops_of

H, W = 120, 180


def _scene(seed=2, h=H, w=W):
    """A dark land under a bright sky, with texture and colour: (3, h, w), float32."""
    rng = np.random.default_rng(seed)
    y, x = np.mgrid[0:h, 0:w]
    stops = np.where(y < h * (0.45 + 0.1 * np.sin(x / 25)), 0.5, -4.0)
    stops = stops + 0.4 * np.sin(x / 5) * np.sin(y / 4) + rng.normal(0, 0.1, (h, w))
    colour = 1 + 0.3 * np.stack([np.sin(x / 31), np.cos(y / 23), np.sin((x + y) / 40)])
    return (0.18 * 2.0**stops * colour).astype(np.float32)


def _box(plane, radius, size):
    side = (2 * max(2, round(radius * size)) + 1,) * 2
    return cv2.blur(np.asarray(plane, np.float64), side, borderType=cv2.BORDER_REFLECT)


def _rows(plane, order, w, place):
    """Rows of a view of a plane, looked up in the order given: {row: (w,)}."""
    at, between = np.empty(w, np.uint32), np.empty(w, np.float32)
    columns(place, plane.shape[1], at, between)
    pair, held = np.empty((2, w), np.float32), np.full(2, -1)
    out = {}
    for r in order:
        out[r] = np.empty(w, np.float32)
        row_sampled(plane, place, r, at, between, pair, held, out[r])
    return out


@pytest.mark.parametrize("zoom", [0.6, 1.0, 2.7, 11.0])
def test_planes_are_looked_up_between_their_px_whatever_row_comes_next(zoom):
    rng = np.random.default_rng(1)
    plane = rng.random((23, 31), dtype=np.float32)
    h, w = round(23 * zoom), round(31 * zoom)
    place = np.array([0.5 / w, 0.5 / h, 1 / w, 1 / h], np.float32)
    gy = np.clip((np.arange(h) + 0.5) / h * 23 - 0.5, 0, 22)
    gx = np.clip((np.arange(w) + 0.5) / w * 31 - 0.5, 0, 30)
    y, x = np.minimum(gy.astype(int), 21), np.minimum(gx.astype(int), 29)
    fy, fx = (gy - y)[:, None], gx - x
    rows = plane[y] * (1 - fy) + plane[y + 1] * fy
    want = rows[:, x] * (1 - fx) + rows[:, x + 1] * fx
    orders = range(h), range(h - 1, -1, -1), rng.permutation(h).tolist(), [3, 3, 0, h - 1, 0]
    for order in orders:
        for r, row in _rows(plane, order, w, place).items():
            assert np.abs(row - want[r]).max() < 2e-3, r


def test_the_grid_is_numpys():
    """Every px spread over eight cells, then a binomial blur along each of three axes."""
    rgb = _scene()
    stops = stops_of(rgb)
    rows, cells, bins = round(H * CELLS / W), CELLS, int((HIGH_STOP - LOW_STOP) / BIN) + 1
    want = np.zeros((rows, cells, bins, 2))
    gy, gx = (np.arange(H) + 0.5) / H * rows - 0.5, (np.arange(W) + 0.5) / W * cells - 0.5
    y, x = np.floor(gy).astype(int)[:, None], np.floor(gx).astype(int)[None]
    gz = np.clip((stops - LOW_STOP) / BIN, 0, bins - 1.001)
    z = gz.astype(int)
    for dy, dx, dz in np.ndindex(2, 2, 2):
        weight = (
            np.abs(1 - dy - (gy[:, None] - y)) * np.abs(1 - dx - (gx[None] - x)) * np.abs(1 - dz - (gz - z))
        )
        cell = np.clip(y + dy, 0, rows - 1) + 0 * x, np.clip(x + dx, 0, cells - 1) + 0 * y, z + dz
        np.add.at(want[..., 0], cell, weight * stops)
        np.add.at(want[..., 1], cell, weight)
    for axis in range(3):
        want = np.apply_along_axis(
            lambda v: np.convolve(v, np.array([1, 4, 6, 4, 1]) / 16, "same"), axis, want
        )
    grid = grid_of(rgb)
    assert grid.shape == want.shape
    assert np.abs(grid - want).max() < 1e-4 * np.abs(want).max()


def test_a_base_is_looked_up_in_the_grid_by_place_and_by_light():
    rgb = _scene()
    grid = grid_of(rgb)
    rows, cells, bins = grid.shape[:3]
    place = np.array([0.5 / W, 0.5 / H, 1 / W, 1 / H], np.float32)
    at, between = np.empty(W, np.uint32), np.empty(W, np.float32)
    columns(place, cells, at, between)
    slab, work, base = (
        np.empty(cells * bins * 2, np.float32),
        np.empty((2, W), np.float32),
        np.empty(W, np.float32),
    )
    for r in (0, 17, 54, H - 1):
        row_of_base(grid, place, r, *rgb[:, r], at, between, slab, work, base)
        stops = stops_of(rgb[:, r])
        gy = np.clip((r + 0.5) / H * rows - 0.5, 0, rows - 1.001)
        gx = np.clip((np.arange(W) + 0.5) / W * cells - 0.5, 0, cells - 1.001)
        gz = np.clip((stops - LOW_STOP) / BIN, 0, bins - 1.001)
        y, x, z = int(gy), gx.astype(int), gz.astype(int)
        pair = 0
        for dy, dx, dz in np.ndindex(2, 2, 2):
            share = abs(1 - dy - (gy - y)) * np.abs(1 - dx - (gx - x)) * np.abs(1 - dz - (gz - z))
            pair = pair + share[:, None] * grid[y + dy, x + dx, z + dz]
        assert np.abs(base - pair[:, 0] / pair[:, 1]).max() < 2e-3


def test_reliefs_models_are_guided_filters():
    rgb = _scene()
    stops = np.maximum(stops_of(rgb), -12)
    learned = MOVE_KINDS["relief"].survey(rgb, MOVE_KINDS["relief"].params())[..., 0]
    finer = stops
    for n, (name, radius) in enumerate(SCALES.items()):
        around = _box(stops, radius, W)
        spread = np.maximum(_box(stops**2, radius, W) - around**2, 0)
        steep = (spread / EDGE[name] ** 2) ** 4
        keeps = steep / (steep + 1)
        a, b = _box(keeps, radius, W), _box((1 - keeps) * around, radius, W)
        base = a * stops + b
        rms = np.sqrt(_box((finer - base) ** 2, radius, W))
        for got, want in zip(learned[3 * n : 3 * n + 3], (a, b, rms), strict=True):
            assert np.abs(got - want).max() < 2e-3
        finer = base


def test_haze_is_read_from_the_darkest_channel():
    rgb = _scene()
    learned = MOVE_KINDS["haze"].survey(rgb, MOVE_KINDS["haze"].params())[..., 0]
    patch = np.ones((2 * round(PATCH * W) + 1,) * 2, np.uint8)
    dark = cv2.erode(rgb.min(0), patch)
    haziest = dark >= np.percentile(dark, 99.5)
    air = np.array([np.median(p[haziest]) for p in rgb])
    through = 1 - 0.95 * cv2.erode(np.minimum((rgb / air[:, None, None]).min(0), 1), patch)
    stops = np.maximum(stops_of(rgb), -10)
    around, of = _box(stops, 0.025, W), _box(through, 0.025, W)
    a = (_box(stops * through, 0.025, W) - around * of) / (_box(stops**2, 0.025, W) - around**2 + 0.04)
    assert np.allclose(learned[2, 0, :3], air, rtol=1e-5)
    assert np.abs(learned[0] - _box(a, 0.025, W)).max() < 2e-3
    assert np.abs(learned[1] - _box(of - a * around, 0.025, W)).max() < 2e-3


def test_bloom_learns_what_is_bright_and_only_that():
    rgb = _scene()
    bloom = MOVE_KINDS["bloom"]
    learned = bloom.survey(rgb, bloom.params(above=-1, radius=0.02))[..., 0]
    t = np.clip((stops_of(rgb) + 1 + 1) / 2, 0, 1)
    bright = rgb * (t * t * (3 - 2 * t))
    assert np.allclose(learned.mean((1, 2)), bright.mean((1, 2)), rtol=0.02)
    narrow, wide = (
        np.stack([cv2.GaussianBlur(p, (0, 0), s * 0.02 * W, borderType=cv2.BORDER_REFLECT) for p in bright])
        for s in (1, 3)
    )
    assert np.abs(learned - (0.6 * narrow + 0.4 * wide)).max() < 0.02 * bright.max()
    assert np.abs(bloom.survey(rgb, bloom.params(above=5))).max() < 1e-6


@njit
def _places(x, out):
    for n in range(x.size):
        out[n] = octave_place(x[n], np.int32(-19))


def test_octaves_are_divided_evenly():
    x = np.concatenate([2.0 ** np.arange(-19, 14), np.geomspace(3e-6, 9e3, 4001)]).astype(np.float32)
    out = np.empty_like(x)
    _places(x, out)
    octave = np.floor(np.log2(x.astype(float)))
    assert np.abs(out - (octave + x / 2.0**octave - 1 + 19)).max() < 1e-5
    _places(np.array([0, -0.0, -3, 1e-30], np.float32), out[:4])
    assert (out[:4] < 0).all()


SURVEYED = ("rungs", "haze", "relief", "bloom")


def _looking_around(coast):
    """A scene of moves that must know the whole picture, with plain ones before, between and after."""
    scene = coast.scene()
    settings = {
        "rungs": {"rungs": [{"at": -4.0, "by": 0.8}]}, "haze": {"amount": -0.4},
        "relief": {"coarse": 0.3, "fine": 0.3}, "bloom": {"amount": 0.4},
    }  # fmt: skip
    for kind in SURVEYED:
        scene.moves += [new_move("exposure", params={"ev": 0.2}), new_move(kind, params=settings[kind])]
    scene.moves.append(new_move("vividness", params={"amount": 0.2}))
    return scene


def test_surveys_made_ahead_change_no_px(coast):
    """With one thread, with many, and with all surveys made before any band."""
    scene = _looking_around(coast)
    pictures = []
    for threads in (1, 2, 5):
        development = Engine(threads=threads).develop(scene, coast.pyramid)
        pictures.append(picture_8(development, development.geometry.fit(420), full=False))
    known = Engine(threads=2).develop(scene, coast.pyramid)
    for n in range(len(known.steps)):
        known.band._aux(n)
    pictures.append(picture_8(known, known.geometry.fit(420), full=False))
    assert all(np.array_equal(p, pictures[0]) for p in pictures[1:])
    plain = coast.scene()
    plain.moves = [m for m in scene.moves if m.kind not in SURVEYED]
    without = Engine(threads=2).develop(plain, coast.pyramid)
    assert not np.array_equal(picture_8(without, without.geometry.fit(420), full=False), pictures[0])


@pytest.mark.parametrize("when", range(0, 60, 6))
def test_overtaken_in_the_middle_of_its_surveys_it_stops_and_the_next_answer_is_right(coast, when):
    scene = _looking_around(coast)
    engine = Engine(threads=2)
    development = engine.develop(scene, coast.pyramid)
    view = development.geometry.fit(420)
    asked, lock = [0], threading.Lock()

    def stale():
        with lock:
            asked[0] += 1
            return asked[0] > when

    with Patience(stale), pytest.raises(CancelledError):
        picture_8(development, view, full=False)
    after = picture_8(engine.develop(scene, coast.pyramid), view, full=False)
    fresh = picture_8(Engine(threads=1).develop(scene, coast.pyramid), view, full=False)
    assert np.array_equal(after, fresh)


def test_a_survey_that_fails_fails_the_picture_and_leaves_the_threads_working(coast, monkeypatch):
    scene = _looking_around(coast)
    engine = Engine(threads=2)

    def broken(rgb, params):
        raise ValueError("nothing to see")

    haze = MOVE_KINDS["haze"]
    kept = haze.survey
    object.__setattr__(haze, "survey", broken)
    try:
        development = engine.develop(scene, coast.pyramid)
        with pytest.raises(ValueError, match="nothing to see"):
            picture_8(development, development.geometry.fit(300), full=False)
    finally:
        object.__setattr__(haze, "survey", kept)
    again = engine.develop(scene, coast.pyramid)
    assert picture_8(again, again.geometry.fit(300), full=False).any()
