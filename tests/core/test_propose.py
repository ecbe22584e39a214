"""What Ground finds by itself, against the world's truth, and the proposal it makes."""

import json
from dataclasses import replace

import numpy as np
import pytest

from bench.noise_nearest import Looked, far, shot
from fieldworld.camera import Shot, smaller
from fieldworld.outing import find
from sunlatch.colour.light import NAMED_LIGHTS
from sunlatch.errors import RenderError
from sunlatch.frame import hash_file
from sunlatch.geometry import View, residual, solve
from sunlatch.ledger import Scene, Source, parse_scene
from sunlatch.meters import (
    SURE,
    estimate_fringe,
    estimate_lights,
    find_ends,
    find_horizon,
    find_lines,
    level_by,
    light_at,
    limits_picture,
    plumb_lines,
    read_borders,
    read_ground,
)
from sunlatch.moves import GROUND_KINDS
from sunlatch.parameters import Point
from sunlatch.propose import propose
from sunlatch.render import SCREEN
from tests.coast import shoot
from tests.core.test_sensor import _set


@pytest.fixture(scope="module")
def beacon(frames, store):
    """The beacon shot upwards, at 40 % of its size: camera leaned 17°, rolled 0.5°."""
    path = frames / "beacon-small.dng"
    shoot(smaller(find("beacon"), 1400), path)
    sha256 = hash_file(path)
    return sha256, store.whole(sha256, path)


@pytest.fixture(scope="module")
def tilted(frames, store):
    """A sea horizon, the camera rolled by 2.4°."""
    path = frames / "tilted.dng"
    view = replace(find("sweep-1").view, roll=2.4, pitch=1.0)
    shoot(Shot("tilted", view, find("sweep-1").exposure, 1200, 800), path)
    sha256 = hash_file(path)
    return sha256, store.whole(sha256, path)


def _scene(held):
    return Scene(sources=[Source(sha256=held[0])])


def test_the_leaning_tower_is_found_and_set_upright(beacon, engine):
    scene = _set(_scene(beacon), lens={"known": "database"})
    development = engine.develop(scene, beacon[1])
    lines = find_lines(development)
    assert len(lines) >= 2
    focal = beacon[1].info.focal
    drawn = plumb_lines(development, lines)
    lean, swing, roll = solve(drawn, focal)
    assert lean == pytest.approx(17, abs=2)
    assert swing == 0
    assert roll == pytest.approx(0.5, abs=0.5)
    _set(scene, plumb={"lines": lines, "lean": lean, "swing": swing, "roll": roll})
    state = read_ground(engine.develop(scene, beacon[1]))
    assert state.plumb_off < 0.3
    assert max(abs(v) for v in residual(drawn, lean, swing, roll, focal)) == pytest.approx(state.plumb_off)


def test_no_lines_where_nothing_is_built(coast, engine):
    assert find_lines(engine.develop(coast.scene(), coast.pyramid)) == []


def test_a_sea_horizon_is_found_and_levelled(tilted, engine):
    scene = _set(_scene(tilted), lens={"known": "database"})
    found = find_horizon(engine.develop(scene, tilted[1]))
    assert found.share > SURE
    assert found.level == pytest.approx(2.4, abs=0.15)
    _set(scene, trim={"level": found.level})
    again = find_horizon(engine.develop(scene, tilted[1]))
    assert abs(again.off) < 0.12
    assert "horizon" not in " ".join(read_ground(engine.develop(scene, tilted[1])).open)


def test_a_drawn_horizon_levels_whichever_way_it_was_drawn(coast, engine):
    development = engine.develop(coast.scene(), coast.pyramid)
    rise = np.tan(np.radians(3.0)) * 0.6
    a, b = Point(x=0.2, y=0.3), Point(x=0.8, y=0.3 + rise)
    assert level_by(development, a, b) == pytest.approx(-3, abs=0.01)
    assert level_by(development, b, a) == pytest.approx(-3, abs=0.01)
    with pytest.raises(ValueError, match="too short"):
        level_by(development, a, Point(x=0.2, y=0.301))


def test_the_colour_fringe_is_read_off_the_frame(frames, store, engine):
    """Against the field camera's lateral colour: red 0.6 ‰, blue −0.5 ‰."""
    path = frames / "fringe.dng"
    shoot(smaller(find("heath"), 1800), path)
    pyramid = store.whole(hash_file(path), path)
    development = engine.develop(Scene(sources=[Source(sha256=hash_file(path))]), pyramid)
    red, blue = estimate_fringe(development)
    assert red == pytest.approx(0.0006, abs=0.00025)
    assert blue == pytest.approx(-0.0005, abs=0.00025)


def test_estimates_find_a_light_that_was_laid_on(frames, store, engine):
    """Greys of every level under a warm light: all three assumptions hold, all three find it."""
    from fieldworld.camera import BLACK, MATRIX_D65, WHITE
    from fieldworld.dng import write_dng
    from sunlatch.colour.light import kelvin_duv_to_xy
    from sunlatch.colour.spaces import xy_to_xyz

    light = NAMED_LIGHTS["late afternoon"]
    white = MATRIX_D65 @ xy_to_xyz(kelvin_duv_to_xy(light))
    rng = np.random.default_rng(3)
    grey = np.kron(rng.uniform(0.03, 0.7, (20, 30)), np.ones((20, 20)))
    colours = np.tile(np.array([[0, 1], [1, 2]]), (200, 300))
    mosaic = grey * (white / white.max())[colours] * (WHITE - BLACK) + BLACK + rng.normal(0, 8, grey.shape)
    path = frames / "greys.dng"
    write_dng(
        path, mosaic.astype(np.uint16), maker="M", model="N", black=BLACK, white=WHITE,
        matrices=[(21, MATRIX_D65)], neutral=np.array([0.5, 1, 0.8]), noise_profile=(1e-5, 1e-8), orientation=1,
        taken="2026:10:03 10:00:00", exposure_s=0.01, f_number=8, iso=100, focal_mm=24, lens="",
    )  # fmt: skip
    pyramid = store.whole(hash_file(path), path)
    development = engine.develop(Scene(sources=[Source(sha256=hash_file(path))]), pyramid)
    for estimate in estimate_lights(development):
        assert estimate.kelvin == pytest.approx(light.kelvin, rel=0.04), estimate.method
        assert estimate.tint == pytest.approx(light.duv * 1000, abs=2.5), estimate.method


def test_found_ends_leave_out_what_they_say(coast, engine):
    scene = coast.scene()
    for share in (0.0, 0.002, 0.02):
        black, white = find_ends(engine.develop(scene, coast.pyramid), share)
        rgb = engine.develop(scene, coast.pyramid).light_planes(View((0, 0, 1, 1), (900, 601)))
        over = (np.log2(np.maximum(rgb.max(0), 1e-5) / 0.18) > white).mean()
        assert abs(over - share) < 0.01
        assert black < -1 < white


def test_limits_show_the_channel_that_clips(coast, engine):
    scene = coast.scene()
    scene.ground.ends.params.white = 0.5
    development = engine.develop(scene, coast.pyramid)
    view = development.geometry.fit(400)
    shown = limits_picture(development, view)
    light = np.empty((3, *view.size[::-1]), np.float32)

    def take(band, r, e):
        light[:, r:e] = band

    development.display(view, SCREEN, take, keep=False)
    full = light >= 0.9995
    assert full.any()
    assert (shown.transpose(2, 0, 1)[full] == 255).all()
    nothing = ~full.any(0) & ~(light <= 0.0005).any(0)
    flat = shown[nothing].astype(int)
    assert np.ptp(flat, axis=1).max() == 0


def test_borders_mark_a_bright_corner(coast, engine):
    """The lower right corner lifted four stops by a ramp across it: it is named."""
    from sunlatch.ledger import Latch, new_ingredient, new_move

    scene = coast.scene()
    development = engine.develop(scene, coast.pyramid)
    before = read_borders(development)
    corner = Latch(name="Corner", read_at=development.ground.read_at(), ingredients=[
        new_ingredient("ramp", params={"full": {"x": 0.98, "y": 0.66}, "none": {"x": 0.94, "y": 0.62}})
    ])  # fmt: skip
    corner.edge_true.on = False
    scene.latches, scene.moves = [corner], [new_move("exposure", params={"ev": 6.0}, latch=corner.id)]
    after = read_borders(engine.develop(scene, coast.pyramid))
    found = [m for m in after if m.what == "bright" and m.side in ("bottom", "right") and m.end > 0.9]
    assert found
    assert not [m for m in before if m.what == "bright" and m.side == "bottom" and m.end > 0.9]


def test_a_pick_on_clipped_light_is_refused(coast, engine):
    clipped = np.argwhere(np.asarray(coast.pyramid.clipped)[..., 1] > 250)
    y, x = clipped[len(clipped) // 2]
    h, w = np.asarray(coast.pyramid.clipped).shape[:2]
    with pytest.raises(RenderError, match="clipped"):
        light_at(engine.develop(coast.scene(), coast.pyramid), (x + 0.5) / w, (y + 0.5) / h)


def test_the_proposal_says_why_and_leaves_what_was_set(beacon, engine):
    scene = _set(_scene(beacon), base_exposure={"ev": 0.7})
    looked = []
    proposed, said = propose(engine.develop(scene, beacon[1]), looked.append)
    assert looked[:2] == ["the lens", "built edges that lean"]
    assert len(looked) == 8, "it does not look at what was set already"
    kinds = [p.kind for p in said]
    assert {"lens", "plumb", "crispness"} <= set(kinds)
    assert "base_exposure" not in kinds
    assert proposed.ground.base_exposure.params.ev == 0.7
    for part in said:
        assert part.why.endswith(".")
        assert getattr(proposed.ground, part.kind).why == part.why
    assert scene.ground.lens.params.known == "off"
    # each part can be put back alone, and the document stays whole
    for kind in kinds:
        data = json.loads(proposed.model_dump_json())
        data["ground"][kind]["params"] = json.loads(GROUND_KINDS[kind].params().model_dump_json())
        parse_scene(data)
    again, nothing = propose(engine.develop(proposed, beacon[1]))
    assert [p.kind for p in nothing if p.kind in ("lens", "plumb", "crispness")] == []
    assert again.ground.plumb.params == proposed.ground.plumb.params


def test_named_lights_lie_on_the_daylight_locus():
    """CIE 15: D65 is x 0.3127, y 0.3290."""
    from sunlatch.colour.light import kelvin_duv_to_xy

    assert np.allclose(kelvin_duv_to_xy(NAMED_LIGHTS["daylight"]), (0.3127, 0.3290), atol=4e-4)
    assert NAMED_LIGHTS["open shade"].kelvin > NAMED_LIGHTS["midday"].kelvin > NAMED_LIGHTS["tungsten"].kelvin


def test_grain_is_left_where_it_lies_in_texture(tmp_path, store, engine):
    """Grass at a high speed keeps its grain, a smooth dusk loses half of it at most; of both what is proposed is nearer
    to the frame without noise than all that the model explains, and than none."""
    given = {}
    for name, iso in (("path", 1600), ("blue-hour", 1600)):
        truth = Looked(engine, store, shot(name, iso, tmp_path, without_noise=True, width=1440)).windows()
        noisy = Looked(engine, store, shot(name, iso, tmp_path, width=1440))
        light = given[name] = noisy.proposed()
        at = {v: far(noisy.windows(light=v, colour=1.0), truth) for v in {0.0, light, 1.0}}
        assert at[light] < 0.75 * at[1.0] + 0.25 * min(at.values())
        assert at[light] <= 1.02 * at[0.0]
    assert given["path"] <= 0.15
    assert 0.3 <= given["blue-hour"] <= 0.5
