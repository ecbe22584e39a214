"""Area reduction, strips, and what the store and the cache promise."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.blocks import reader
from sunlatch.frame import FrameStore, hash_file
from sunlatch.geometry import Geometry, Trimmed, View, phase_table, resample, taps
from sunlatch.ledger import Scene, Source
from sunlatch.meters import sharpness_at
from sunlatch.render import Engine
from sunlatch.render.picture import FINE_PIXELS, finer
from sunlatch.running.shelf import LOCKS
from sunlatch.sensor.kernels import reduce_light


@given(st.integers(1, 60), st.integers(1, 200), st.floats(0, 5))
def test_taps_share_out_every_pixel(count, size, start):
    """Reducing: weights of an output pixel sum to 1, and inner source px are each used once over."""
    step = max(size / count, 1.0)
    index, weight = taps(start, step, count, size + 8)
    assert np.allclose(weight.sum(1), 1, atol=1e-5)
    assert weight.min() >= -1e-6 or step <= 1
    if step > 1.01 and start == 0:
        used = np.zeros(size + 8)
        np.add.at(used, index.ravel(), (weight * step).ravel())
        inner = used[1 : int(count * step) - 1]
        assert np.allclose(inner, 1, atol=1e-3)


@given(st.integers(2, 40), st.integers(2, 40), st.integers(1, 4), st.integers(1, 4), st.integers(0, 99))
def test_whole_reductions_are_block_means(w, h, kx, ky, seed):
    light = np.random.default_rng(seed).random((3, h * ky, w * kx), np.float32)
    xi, xw = taps(0.0, float(kx), w, w * kx)
    yi, yw = taps(0.0, float(ky), h, h * ky)
    out = np.empty((3, h, w), np.float32)
    reduce_light(light, xi, xw, yi, yw, out)
    assert np.allclose(out, light.reshape(3, h, ky, w, kx).mean((2, 4)), atol=1e-5)


@given(st.floats(1.0, 7.0), st.integers(0, 99))
def test_any_reduction_keeps_the_mean(ratio, seed):
    w = 24
    size = int(np.ceil(w * ratio))
    light = np.random.default_rng(seed).random((3, size, size), np.float32)
    i, weight = taps(0.0, size / w, w, size)
    out = np.empty((3, w, w), np.float32)
    reduce_light(light, i, weight, i, weight, out)
    assert out.mean() == pytest.approx(light.mean(), abs=2e-3 if size > w else 1e-5)


@given(st.floats(1.06, 6.0), st.integers(0, 1023))
def test_straight_and_bent_maps_draw_px_together_alike(step, phase):
    """The weights of a px that lies a phase past a px of the source."""
    step = round(step, 4)
    table = phase_table(step)[phase]
    index, weight = taps(20 + phase / 1024 + 0.5 - step / 2, step, 1, 60)
    straight, bent = np.zeros(60), np.zeros(60)
    np.add.at(straight, index[0], weight[0])
    bent[20 - (table.size // 2 - 1) :][: table.size] = table
    assert np.allclose(straight, bent, atol=2e-5)


@pytest.mark.parametrize("scale", [0.3, 0.7, 1.0, 2.0])
@pytest.mark.parametrize("orientation", [1, 6])
def test_a_turn_too_small_to_see_changes_nothing(coast, engine, scale, orientation):
    """Straight maps and bent ones draw the same picture."""
    info = coast.pyramid.info
    straight = Geometry(info.width, info.height, orientation, trim=Trimmed((0.5, 0.4), 0.4, None, 1.5))
    bent = replace(straight, level=1e-7)
    w, h = straight.developed_size
    view = View((0, 0, 1, 1), (round(w * scale), round(h * scale)))
    a, b = straight.box, bent.box  # the bent one's lies between px
    region = (
        (a.x0 - b.x0) / b.width, (a.y0 - b.y0) / b.height, (a.x1 - b.x0) / b.width, (a.y1 - b.y0) / b.height
    )  # fmt: skip
    sensor = engine.develop(coast.scene(), coast.pyramid).ground.sensor
    one, other = (
        sensor.planes(straight, view, "rescued"),
        sensor.planes(bent, View(region, view.size), "rescued"),
    )
    assert np.abs(one - other).mean() < 1e-3 * one.mean()


def test_half_floats_are_widened_exactly_even_read_only():
    picture = np.random.default_rng(3).standard_normal((40, 50, 3)).astype(np.float16)
    picture.setflags(write=False)
    planes = reader(picture)(3, 30, 7, 50)
    assert np.array_equal(planes, picture[3:30, 7:].astype(np.float32).transpose(2, 0, 1))


@given(st.integers(-9, 40), st.integers(1, 30), st.integers(-9, 50), st.integers(1, 30))
def test_beyond_its_edges_a_raster_repeats_them(top, rows, left, columns):
    picture = np.random.default_rng(4).random((30, 40, 3)).astype(np.float32)
    y = np.clip(np.arange(top, top + rows), 0, 29)
    x = np.clip(np.arange(left, left + columns), 0, 39)
    planes = reader(picture)(top, top + rows, left, left + columns)
    assert np.array_equal(planes, picture[y][:, x].transpose(2, 0, 1))


def test_resampling_a_window_equals_cutting_the_whole():
    source = np.random.default_rng(4).random((90, 120, 3)).astype(np.float16)
    whole = resample(reader(source), source.shape[1::-1], (0, 0, 120, 90), (60, 45))
    part = resample(reader(source), source.shape[1::-1], (40, 20, 80, 60), (20, 20))
    assert np.allclose(part, whole[:, 10:30, 20:40], atol=1e-6)


def test_rest_pictures_use_the_frames_own_px_up_to_a_limit(coast, engine):
    development = engine.develop(coast.scene(), coast.pyramid)
    assert finer(development, development.geometry.fit(300)).size == development.geometry.developed_size
    half = View((0.25, 0.5, 0.75, 1.0), (50, 30))
    w, h = development.geometry.developed_size
    assert finer(development, half).size == (round(w / 2), round(h / 2))
    vast = development.geometry.__class__(40_000, 30_000)
    development.geometry = vast
    size = finer(development, vast.fit(800)).size
    assert size[0] * size[1] == pytest.approx(FINE_PIXELS, rel=0.01)


def test_an_engine_knows_where_a_chain_changed():
    engine = Engine(threads=1)
    assert engine.changed_at("v", ["a", "b", "c"]) == 0
    assert engine.changed_at("v", ["a", "b", "c"]) == 3
    assert engine.changed_at("v", ["a", "x", "c"]) == 1
    assert engine.changed_at("w", ["a"]) == 0


def test_sharpness_falls_with_blur_and_not_with_exposure(tmp_path, store, engine):
    """Of the same detail the blurred is less sharp; a stop more light changes little."""
    import cv2

    from fieldworld.camera import Exposure, Shot, expose
    from fieldworld.seen import Viewpoint
    from tests.core.test_frame import _dng

    rng = np.random.default_rng(5)
    detail = cv2.GaussianBlur(rng.random((400, 600)).astype(np.float32), (0, 0), 1.2)
    detail = 0.02 + 0.06 * (detail - detail.min()) / np.ptp(detail)

    def measured(picture, seconds):
        shot = Shot("s", Viewpoint(), Exposure(seconds, 8.0, 100))
        path = tmp_path / f"{picture.mean():.6f}-{seconds:.5f}.dng"
        _dng(path, expose(np.repeat(picture[..., None], 3, 2), shot.exposure, 1))
        pyramid = store.whole(hash_file(path), path)
        development = engine.develop(Scene(sources=[Source(sha256=hash_file(path))]), pyramid)
        return sharpness_at(development, 0.5, 0.5)

    sharp, brighter = measured(detail, 1 / 60), measured(detail, 1 / 30)
    soft = measured(cv2.GaussianBlur(detail, (0, 0), 2.5), 1 / 60)
    flat = measured(np.full_like(detail, 0.05), 1 / 60)
    assert sharp > 4 * soft
    assert brighter == pytest.approx(sharp, rel=0.2)
    assert flat < 0.1 * sharp


def test_the_store_keeps_its_quota(tmp_path, coast):
    store = FrameStore(tmp_path / "small", quota_bytes=1)
    try:
        store.whole(coast.sha256, coast.path)
        assert store.best(coast.sha256) is not None
        other = tmp_path / "other.dng"
        data = bytearray(coast.path.read_bytes())
        data[-2] ^= 1
        other.write_bytes(bytes(data))
        store.whole(hash_file(other), other)
        homes = [home for home in (tmp_path / "small").iterdir() if home.name != LOCKS]
        assert len(homes) == 1
        assert homes[0].name.startswith(hash_file(other)[:32])
    finally:
        store.decoder.close()
