"""What happens on the sensor's raster: Rescue, Noise, Crispness; tiles, latches, and what stays put."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldworld.camera import BLACK, MATRIX_D65, WHITE, Exposure, Shot, as_shot_neutral, smaller
from fieldworld.dng import write_dng
from fieldworld.seen import Viewpoint
from sunlatch.colour.spaces import decode
from sunlatch.frame import hash_file
from sunlatch.geometry import View, taps
from sunlatch.ledger import Latch, Scene, Source, new_ingredient
from sunlatch.render import Engine, Output, bands_of, picture_8
from sunlatch.sensor.crispness import crisp, edge_mask
from sunlatch.sensor.kernels import reduce_light
from sunlatch.sensor.noise import COLOUR_SHARE, LIGHT_SHARE, NoiseModel, measured, smooth
from sunlatch.sensor.rescue import hue_around, rescue
from tests.coast import shoot, truth_of

NEUTRAL = (0.45, 1.0, 0.8)
MODEL = NoiseModel(2e-4, 1e-7, NEUTRAL)


def _noisy(clean, model=MODEL, seed=3):
    rng = np.random.default_rng(seed)
    spread = np.sqrt(np.maximum(model.scale * clean + model.offset, 0))
    return (clean + rng.standard_normal(clean.shape) * spread).astype(np.float32)


def _parts(planes):
    """Light, and red against green, of white-balanced camera RGB."""
    w = np.array(NEUTRAL)[:, None, None]
    balanced = planes / w
    return 0.25 * balanced[0] + 0.5 * balanced[1] + 0.25 * balanced[2], balanced[0] - balanced[1]


# noise


def test_noise_is_taken_from_the_smooth_and_edges_stay():
    clean = np.full((3, 160, 200), 0.05) * np.array(NEUTRAL)[:, None, None]
    clean[:, :, 100:] *= 8
    noisy = _noisy(clean)
    out = noisy.copy()
    smooth(out, 0, MODEL, 1.0, 1.0, 0.0)
    flat = (slice(None), slice(20, 140), slice(20, 80))
    before, after = (_parts((x - clean)[flat])[0].std() for x in (noisy, out))
    assert after < 0.4 * before
    assert abs(float((out - clean)[flat].mean())) < 0.02 * clean[1, 0, 0]
    # the edge keeps its place and height
    row = out[1].mean(0)
    assert row[96] < 0.06
    assert row[104] > 0.36


def test_a_high_iso_wall_comes_out_quiet(tmp_path, store):
    """Through the real sensor and decoder, by the noise the file states: most of it goes, light stays."""
    from fieldworld.camera import expose

    wall = np.full((512, 768, 3), 0.005, np.float32)
    path = tmp_path / "wall.dng"
    exposure = Exposure(1 / 250, 8.0, 3200)
    electrons = 48_000 * 100 / exposure.iso
    write_dng(
        path, expose(wall, exposure, 1), maker="Ammerlin Works", model="Field One", black=BLACK, white=WHITE,
        matrices=[(21, MATRIX_D65)], neutral=as_shot_neutral(), noise_profile=(1 / electrons, (3.2 / electrons) ** 2),
        orientation=1, taken="2026:10:03 10:00:00", exposure_s=1 / 250, f_number=8, iso=3200, focal_mm=24, lens="",
    )  # fmt: skip
    pyramid = store.whole(hash_file(path), path)
    view = View((0.3, 0.3, 0.7, 0.7), (307, 205))
    seen = []
    for values in ({"light": 0.0, "colour": 0.0}, {"light": 1.0, "colour": 1.0, "grain": 0.0}):
        scene = _set(Scene(sources=[Source(sha256=hash_file(path))]), noise=values)
        seen.append(Engine().develop(scene, pyramid).camera(view))
    before, after = ([part.std() for part in _parts(x)] for x in seen)
    assert after[0] < 0.35 * before[0]
    assert after[1] < 0.3 * before[1]
    assert np.allclose(seen[1].mean((1, 2)), seen[0].mean((1, 2)), rtol=0.01)


def test_nothing_asked_nothing_done():
    noisy = _noisy(np.full((3, 60, 80), 0.1))
    out = noisy.copy()
    smooth(out, 0, MODEL, 0.0, 0.0, 0.0)
    assert np.allclose(out, noisy, atol=1e-6)


def test_grain_leaves_what_it_says():
    clean = np.full((3, 160, 200), 0.1)
    spreads = []
    for grain in (0.0, 0.5, 1.0):
        out = _noisy(clean)
        smooth(out, 0, MODEL, 1.0, 0.0, grain)
        light = np.tensordot([0.25 / NEUTRAL[0], 0.5, 0.25 / NEUTRAL[2]], out, 1)
        spreads.append(float(light[30:-30, 30:-30].std()))
    assert spreads[0] < 0.5 * spreads[1] < spreads[1] < spreads[2]


@pytest.mark.parametrize("scale", [2e-5, 4e-4])
def test_a_silent_frame_has_its_noise_measured(scale):
    """Frames that state none: the model is read off within a factor that does no harm."""
    ramp = np.linspace(0.01, 0.6, 640)[None, None] * np.array(NEUTRAL)[:, None, None] * np.ones((1, 512, 1))
    model = NoiseModel(scale, 1e-7, NEUTRAL)
    noisy = _noisy(ramp, model)
    found = measured(noisy, NEUTRAL)
    # independent channels are not demosaiced: the table's share is taken back
    assert 0.5 < found.scale * LIGHT_SHARE[0] ** 2 / (scale * 0.8) < 2.0


def test_what_demosaicing_does_to_noise_is_what_the_tables_say():
    from bench.noise_scales import shares

    light, colour = shares(768)
    assert np.allclose(light[:5], LIGHT_SHARE[:5], rtol=0.12)
    assert np.allclose(colour[:5], COLOUR_SHARE[:5], rtol=0.12)


# rescue


def test_one_full_channel_is_rebuilt_from_the_others():
    """A warm light over a ramp that clips green first: the hue goes on, nothing turns magenta."""
    neutral = np.array(NEUTRAL, np.float32)
    warm = neutral * [1.25, 1.0, 0.8]
    level = np.linspace(0.2, 1.6, 400)[None, None] * np.ones((1, 40, 1))
    true = (warm[:, None, None] * level).astype(np.float32)
    seen = np.minimum(true, 1.0)
    around = hue_around(seen, neutral)
    out = seen.copy()
    place = np.array([0.5 / 400, 0.5 / 40, 1 / 400, 1 / 40])
    rescue(out, neutral, around, place, np.float32(1), np.float32(1))
    whole = seen.max(0) < 0.75
    assert np.array_equal(out[:, whole], seen[:, whole])
    one = (true[1] > 1) & (true[0] < 0.75) & (true[2] < 0.9)
    assert one.any()
    assert np.abs(out[1] / true[1] - 1)[one].max() < 0.06
    green = out[1] / neutral[1] / np.minimum(out[0] / neutral[0], out[2] / neutral[2])
    assert green.min() > 0.95


def test_glitter_that_clipped_does_not_turn_a_blown_sky_pink():
    """A warm light over a glittering sea: a mean over specks that clipped is pink, and no hue of the light."""
    neutral = np.array(NEUTRAL, np.float32)
    warm = (neutral * [1.1, 1.0, 0.8])[:, None, None]
    y = np.mgrid[0:640, 0:960][0]
    light = np.where(y < 320, 4.0, np.where(np.random.default_rng(2).random((640, 960)) < 0.3, 4.0, 0.3))
    seen = np.minimum(warm * light, 1.0).astype(np.float32)
    small = np.stack([cv2.resize(p, (60, 40), interpolation=cv2.INTER_AREA) for p in seen])
    share = cv2.resize((seen.max(0) >= 1).astype(np.float32), (60, 40), interpolation=cv2.INTER_AREA)
    share[30:] = 0  # the foreground does not glitter
    small[:, 30:] = 0.3 * warm
    place = np.array([0.5 / 960, 0.5 / 640, 1 / 960, 1 / 640])
    pink = []
    for known in (None, share):
        out = seen.copy()
        rescue(out, neutral, hue_around(small, neutral, known), place, np.float32(1), np.float32(1))
        red, green, blue = (out / neutral[:, None, None])[:, 100, 400]
        pink.append(float(min(red, blue) / green))
    assert pink[0] > 1.05  # as scenes of revision 2 have it
    assert pink[1] < 1.0


def test_rescue_never_goes_back_and_has_no_rim():
    neutral = np.array(NEUTRAL, np.float32)
    level = np.linspace(0.5, 3.0, 600)[None, None] * np.ones((1, 20, 1))
    seen = np.minimum(neutral[:, None, None] * level, 1.0).astype(np.float32)
    around = hue_around(seen, neutral)
    out = seen.copy()
    rescue(out, neutral, around, np.array([0, 0, 1 / 600, 1 / 20]), np.float32(1), np.float32(0.6))
    light = (out / neutral[:, None, None]).mean(0)[10]
    steps = np.diff(light)
    assert steps.min() > -2e-3
    assert steps.max() < 0.02
    # all channels full: white
    end = out[:, 10, -1] / neutral
    assert np.ptp(end) / end.mean() < 0.02


# crispness


def test_crispness_lifts_edges_and_leaves_noise():
    clean = np.full((3, 120, 160), 0.1) * np.array(NEUTRAL)[:, None, None]
    clean[:, :, 80:] *= 3
    soft = np.stack([cv2.GaussianBlur(c, (0, 0), 1.0) for c in clean])
    noisy = _noisy(soft, NoiseModel(2e-5, 1e-8, NEUTRAL))
    model = NoiseModel(2e-5, 1e-8, NEUTRAL)
    out = noisy.copy()
    crisp(out, 0, model, 1.0, 1.0, 0.8, 2.5)
    slope = lambda x: float(np.abs(np.diff(np.log2(x[1].mean(0)))).max())  # noqa: E731
    assert slope(out) > 1.15 * slope(noisy)
    flat = (slice(None), slice(10, -10), slice(10, 60))
    assert out[flat].std() < 1.06 * noisy[flat].std()
    mask = edge_mask(noisy, 0, model, 1.0, 0.8, 2.5)
    assert mask[10:-10, 77:83].max() > 0.8
    assert mask[10:-10, 10:60].mean() < 0.03


@given(st.floats(0, 3), st.floats(0.4, 4))
def test_crispness_changes_a_px_by_little_more_than_half_a_stop(amount, radius):
    rng = np.random.default_rng(1)
    picture = np.exp2(rng.normal(-3, 2, (3, 40, 50))).astype(np.float32)
    out = picture.copy()
    crisp(out, 0, NoiseModel(1e-9, 1e-12, NEUTRAL), amount, radius, 0.0, 0.0)
    assert np.abs(np.log2(out / picture)).max() <= 0.61


# in the pipeline


def _set(scene, **ground):
    for kind, values in ground.items():
        line = getattr(scene.ground, kind)
        line.params = type(line.params)(**(line.params.model_dump() | values))
    return scene


WORK = {"noise": {"light": 0.8, "colour": 1.0}, "crispness": {"amount": 0.8}}


def test_tiles_leave_no_seam_and_views_agree(coast, monkeypatch):
    """Smaller tiles, and a part instead of the whole, give the same picture."""
    from sunlatch.sensor import stages

    scene = _set(coast.scene(), **WORK)
    whole = Engine().develop(scene, coast.pyramid).camera(View((0, 0, 1, 1), (1272, 850)))
    monkeypatch.setattr(stages, "TILE", 96)
    again = Engine().develop(scene, coast.pyramid).camera(View((0, 0, 1, 1), (1272, 850)))
    assert np.allclose(whole, again, rtol=2e-3, atol=1e-5)
    part = View((0.25, 0.2, 0.75, 0.6), (636, 340))
    x, y = round(0.25 * 1272), round(0.2 * 850)
    seen = Engine().develop(scene, coast.pyramid).camera(part)
    assert np.allclose(seen, whole[:, y : y + 340, x : x + 636], rtol=2e-3, atol=1e-5)


def test_latched_to_the_sky_the_land_keeps_its_noise(coast, engine):
    scene = coast.scene()
    development = engine.develop(scene, coast.pyramid)
    sky = Latch(
        name="Sky",
        read_at=development.ground.read_at(),
        ingredients=[new_ingredient("light_range", params={"low": -1})],
    )
    scene.latches = [sky]
    view = View((0, 0, 1, 1), (1272, 850))
    plain = development.camera(view)
    _set(scene, **WORK)
    everywhere = engine.develop(scene, coast.pyramid).camera(view)
    scene.ground.noise.latch = scene.ground.crispness.latch = sky.id
    held = engine.develop(scene, coast.pyramid)
    mask = held.latches.mask(sky, view)
    out = held.camera(view)
    inside, outside = mask > 0.999, mask == 0
    assert inside.sum() > 1000
    assert outside.sum() > 1000
    assert np.allclose(out[:, outside], plain[:, outside], atol=1e-6)
    assert np.allclose(out[:, inside], everywhere[:, inside], rtol=5e-3, atol=1e-5)


def test_the_reading_picture_knows_nothing_of_ground(coast, engine):
    """Noise, Crispness, vignetting, base exposure: no mask moves."""
    scene = coast.scene()
    development = engine.develop(scene, coast.pyramid)
    latch = Latch(name="Lights", read_at=development.ground.read_at(), ingredients=[new_ingredient("fan")])
    scene.latches = [latch]
    view = View((0.1, 0.1, 0.9, 0.9), (500, 330))
    before = development.latches.mask(latch, view)
    _set(
        scene,
        **WORK,
        base_exposure={"ev": 1.5},
        lens={"known": "hand", "corners": 0.8},
        rescue={"amount": 0.2},
    )
    after = engine.develop(scene, coast.pyramid).latches.mask(latch, view)
    assert np.array_equal(before, after)


SHAPES = [
    {"lens": {"known": "database"}},
    {"plumb": {"lean": 6.0, "roll": -2.0, "swing": 3.0}},
    {"trim": {"level": 2.5, "centre": {"x": 0.45, "y": 0.3}, "width": 0.5}},
    {"lens": {"known": "database"}, "plumb": {"lean": -5.0}, "trim": {"level": -3.0, "format": "1:1"}},
]


@pytest.mark.parametrize("shape", SHAPES)
@pytest.mark.parametrize("edge_true", [True, False])
def test_a_latch_stays_on_its_rock(coast, engine, shape, edge_true):
    """Lens, plumb and trim after latching: the mask's edges lie on the same px of the frame, within one."""
    scene = coast.scene()
    development = engine.develop(scene, coast.pyramid)
    latch = Latch(
        name="Lights",
        read_at=development.ground.read_at(),
        ingredients=[new_ingredient("light_range", params={"low": 0.5, "soft_low": 0.4})],
    )
    latch.edge_true.on = edge_true
    scene.latches = [latch]
    whole = View((0, 0, 1, 1), development.geometry.developed_size)
    before = development.latches.mask(latch, whole)
    changed = engine.develop(_set(scene, **shape), coast.pyramid)
    view = View((0, 0, 1, 1), changed.geometry.developed_size)
    after = changed.latches.mask(latch, view)
    source = (
        changed.geometry.turned_to_source(changed.geometry.points(view)) * changed.geometry.long_edge - 0.5
    )
    x, y = np.rint(source[..., 0]).astype(int), np.rint(source[..., 1]).astype(int)
    inside = (x > 3) & (y > 3) & (x < before.shape[1] - 4) & (y < before.shape[0] - 4)
    # the lowest and highest value within one px of where it came from
    around = np.stack(
        [before[np.clip(y + j, 0, before.shape[0] - 1), np.clip(x + i, 0, before.shape[1] - 1)]
         for i in (-1, 0, 1) for j in (-1, 0, 1)]
    )  # fmt: skip
    low, high = around.min(0) - 0.12, around.max(0) + 0.12
    held = ((after >= low) & (after <= high))[inside]
    assert held.mean() > 0.995


def test_a_crop_changes_no_px(coast, engine):
    """What a step learns of the whole picture it learns of all that the map shows."""
    from sunlatch.ledger import new_move

    scene = coast.scene()
    scene.moves = [new_move("contrast", params={"amount": 0.6})]
    whole = engine.develop(scene, coast.pyramid)
    full = picture_8(whole, View((0, 0, 1, 1), whole.geometry.developed_size), full=False)
    _set(scene, trim={"centre": {"x": 0.4, "y": 0.3}, "width": 0.4})
    cropped = engine.develop(scene, coast.pyramid)
    part = picture_8(cropped, View((0, 0, 1, 1), cropped.geometry.developed_size), full=False)
    x0, y0, _, _ = cropped.geometry.source_rectangle(cropped.geometry.fit(10**6))
    x, y = round(x0), round(y0)
    again = full[y : y + part.shape[0], x : x + part.shape[1]]
    assert np.abs(part.astype(int) - again).max() <= 1


def test_the_lens_is_undone_to_a_third_of_a_px(coast, engine):
    """From the database, against the field camera's own lens."""
    scene = _set(coast.scene(), lens={"known": "database"})
    g = engine.develop(scene, coast.pyramid).geometry
    rng = np.random.default_rng(2)
    true = rng.uniform(-1, 1, (4000, 2)) * g.middle
    r2 = (true**2).sum(1, keepdims=True) / g.half_diagonal**2
    seen = true * (1 - 0.045 * r2) + g.middle
    inside = ((seen > 0) & (seen < 2 * g.middle)).all(1)
    off = (g.to_turned(seen[inside]) - true[inside]) * 6000  # px of a 24-megapixel frame
    assert np.sqrt((off**2).sum(1).mean()) <= 0.3
    assert g.lens.red[0] == pytest.approx(0.0006, abs=3e-5)
    assert g.lens.transmitted(np.array(1.0)) == pytest.approx(1 - 0.42 + 0.10, abs=0.01)


def test_the_corners_come_back_to_what_they_were(tmp_path, store):
    """A flat grey wall through the lens: vignetting undone within a twentieth of a stop."""
    from fieldworld.camera import expose

    wall = np.full((400, 600, 3), 0.1, np.float32)
    path = tmp_path / "wall.dng"
    write_dng(
        path, expose(wall, Exposure(1 / 60), 1), maker="Ammerlin Works", model="Field One", black=BLACK, white=WHITE,
        matrices=[(21, MATRIX_D65)], neutral=as_shot_neutral(), noise_profile=(2e-5, 4e-9), orientation=1,
        taken="2026:10:03 10:00:00", exposure_s=1 / 60, f_number=8, iso=100, focal_mm=24, lens="Field Zoom 12-400",
    )  # fmt: skip
    pyramid = store.whole(hash_file(path), path)
    scene = Scene(sources=[Source(sha256=hash_file(path))])
    for known, most in (("off", 9.0), ("database", 0.05)):
        development = Engine().develop(_set(scene, lens={"known": known}), pyramid)
        light = development.light_planes(development.geometry.fit(600), 0)[1]
        stops = np.log2(cv2.blur(light, (25, 25)))[12:-12, 12:-12]
        assert np.ptp(stops) < most
        if known == "off":
            assert np.ptp(stops) > 0.4


def test_screen_and_file_agree_through_the_map(coast, engine):
    """The fidelity bar, with lens, plumb, level, Noise and Crispness at work."""
    from tests.conftest import delta_e

    scene = _set(
        coast.scene(),
        **WORK,
        lens={"known": "database"},
        plumb={"lean": 4.0, "roll": 1.0},
        trim={"level": 1.5},
    )
    development = engine.develop(scene, coast.pyramid)
    view = development.geometry.fit(420)
    file = np.concatenate(list(bands_of(development, development.geometry.fit(10**6), Output("srgb", 16))))
    light = decode(file / 65535, "srgb").transpose(2, 0, 1)
    xi, xw = taps(0.0, light.shape[2] / view.size[0], view.size[0], light.shape[2])
    yi, yw = taps(0.0, light.shape[1] / view.size[1], view.size[1], light.shape[1])
    small = np.empty((3, *view.size[::-1]), np.float32)
    reduce_light(np.ascontiguousarray(light, np.float32), xi, xw, yi, yw, small)
    screen = decode(picture_8(development, view, full=True) / 255, "srgb")
    off = delta_e(screen, small.transpose(1, 2, 0))
    assert off.mean() <= 0.5  # the screen's 8 bits included
    assert np.quantile(off, 0.99) <= 2.5


def test_a_frames_own_tags_are_read(tmp_path, store):
    """WarpRectilinear and FixVignetteRadial, as the Digital Negative specification lays them out."""
    import struct

    warp = struct.pack(">I", 1) + struct.pack(">8d", 1.0, -0.03, 0.004, 0.0, 0.0, 0.0, 0.5, 0.5)
    fix = struct.pack(">7d", 0.5, -0.1, 0.0, 0.0, 0.0, 0.5, 0.5)
    block = struct.pack(">I", 2)
    for code, body in ((1, warp), (3, fix)):
        block += struct.pack(">IIII", code, 0x01030000, 1, len(body)) + body
    path = tmp_path / "tagged.dng"
    mosaic = np.full((200, 300), 3000, np.uint16)
    write_dng(
        path, mosaic, maker="M", model="N", black=BLACK, white=WHITE, matrices=[(21, MATRIX_D65)],
        neutral=as_shot_neutral(), noise_profile=(2e-5, 4e-9), orientation=1, taken="2026:10:03 10:00:00",
        exposure_s=0.01, f_number=8, iso=100, focal_mm=24, lens="", lens_tags=block,
    )  # fmt: skip
    pyramid = store.whole(hash_file(path), path)
    scene = _set(Scene(sources=[Source(sha256=hash_file(path))]), lens={"known": "frame"})
    lens = Engine().develop(scene, pyramid).geometry.lens
    assert lens.distortion == pytest.approx((0, -0.03, 0.004, 0), abs=1e-6)
    assert 1 / lens.transmitted(np.array(1.0)) == pytest.approx(1.4, abs=0.01)


def test_truth_is_not_needed_to_develop(tmp_path, store):
    """A small frame of the coast, everything on: the sky stays where the truth has it."""
    shot = smaller(Shot("stack", Viewpoint()), 636)
    shoot(shot, tmp_path / "s.dng")
    truth = truth_of(shot)
    pyramid = store.whole(hash_file(tmp_path / "s.dng"), tmp_path / "s.dng")
    scene = _set(
        Scene(sources=[Source(sha256=hash_file(tmp_path / "s.dng"))]), **WORK, lens={"known": "database"}
    )
    development = Engine().develop(scene, pyramid)
    g = development.geometry
    view = g.fit(10**6)
    light = np.log2(np.maximum(development.camera(view)[1], 1e-4))
    source = (g.turned_to_source(g.points(view)) * g.long_edge - 0.5).round().astype(int)
    sky = truth.sky[np.clip(source[..., 1], 0, shot.height - 1), np.clip(source[..., 0], 0, shot.width - 1)]
    assert light[sky > 0.99].mean() > light[sky < 0.01].mean() + 2
