"""Moves of light: what they change and what they leave alone, against NumPy and against the bars."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.errors import DocumentError
from sunlatch.geometry import View
from sunlatch.ledger import new_move, parse_scene
from sunlatch.moves import MOVE_KINDS
from sunlatch.moves.base import Lay
from sunlatch.moves.curve import LOW as CURVE_LOW
from sunlatch.moves.curve import PER as CURVE_PER
from sunlatch.moves.curve import table
from sunlatch.moves.rungs import LOW, PER, gains
from tests.core.moving import LAY, colours, moved, place_of, stops_of

SIZE = 480


def _edge():
    """A 4-stop edge with 0.3-stop texture and 0.1-stop noise: stops, texture, how far from the edge."""
    rng = np.random.default_rng(7)
    y, x = np.mgrid[0:SIZE, 0:SIZE]
    edge = SIZE / 2 + 25 * np.sin(y / 40)
    texture = 0.3 * np.sin(x / 2.7) * np.sin(y / 3.1)
    stops = np.where(x < edge, -4.0, 0.0) + texture + rng.normal(0, 0.1, (SIZE, SIZE))
    inner = (np.minimum(x, y) > 60) & (np.maximum(x, y) < SIZE - 60)
    return stops, texture, x - edge, inner


def _grey(stops):
    return np.repeat((0.18 * 2.0 ** np.asarray(stops, float))[None], 3, 0)


def _gain(params, at):
    return np.interp(at, LOW + np.arange(257) / PER, gains(MOVE_KINDS["rungs"].params(**params), 1.0))


@given(st.lists(st.tuples(st.integers(-7, 3), st.floats(-0.6, 0.6), st.floats(1, 4)), min_size=1, max_size=5, unique_by=lambda r: r[0]))  # fmt: skip
def test_rungs_arrive_where_they_are_put_and_strands_never_cross(pulled):
    rungs = [{"at": a, "by": b, "reach": r} for a, b, r in pulled]
    axis = LOW + np.arange(257) / PER
    carried = axis + gains(MOVE_KINDS["rungs"].params(rungs=rungs), 1.0)
    assert (np.diff(carried) > 0).all()
    if len(pulled) == 1:
        ((at, by, _),) = pulled
        assert _gain({"rungs": rungs}, at) == pytest.approx(by, abs=0.02)
        away = np.abs(axis - at) > pulled[0][2] + 0.2
        assert np.abs(carried - axis)[away].max() < 0.02


def test_neighbouring_rungs_go_together_and_the_ladder_is_squeezed_about_its_middle():
    both = {"rungs": [{"at": -3, "by": 1, "reach": 1}, {"at": -2, "by": 1, "reach": 1}]}
    assert np.allclose(_gain(both, [-3, -2.5, -2]), 1, atol=0.02)
    squeezed = {"squeeze": -0.5, "middle": -2}
    assert np.allclose(_gain(squeezed, [-6, -2, 2]), [2, 0, -2], atol=0.02)
    crossed = {"rungs": [{"at": -3, "by": 3, "reach": 1}, {"at": -2, "by": -1, "reach": 1}]}
    move = MOVE_KINDS["rungs"]
    assert "past its neighbour" in move.remark(move.params(**crossed))
    assert move.remark(move.params(**both)) == ""


def test_a_carried_rung_makes_no_halo_and_keeps_texture():
    """The bar: no halo over 0.05 stop outside 3 px, and detail stays."""
    stops, texture, side, inner = _edge()
    out = moved("rungs", _grey(stops), rungs=[{"at": -4, "by": 1.5, "reach": 2}])
    change = stops_of(out) - stops
    for here, level in ((side < 0, 1.5), (side > 0, 0.0)):
        far = np.abs(side).astype(int)
        deep = change[here & (far > 60) & inner].mean()
        assert deep == pytest.approx(level, abs=0.15)
        profile = np.array([change[here & inner & (far == d)].mean() for d in range(4, 40)])
        assert np.abs(profile - deep).max() <= 0.05
        away = here & inner & (far > 20)
        assert np.polyfit(texture[away], stops_of(out)[away], 1)[0] > 0.8


@given(st.lists(st.tuples(st.floats(-8, 4), st.floats(-8, 4)), min_size=1, max_size=6))
def test_a_curve_goes_through_its_points_and_never_turns_back(points):
    params = MOVE_KINDS["curve"].params(points=[{"at": a, "to": b} for a, b in points])
    axis = CURVE_LOW + np.arange(513) / CURVE_PER
    out = axis + table(params, 1.0)
    assert (np.diff(out) > -1e-3).all()
    at, to = np.array(points).T
    rising = len(set(np.round(at, 2))) == len(at) and (np.diff(to[np.argsort(at)]) >= 0).all()
    order = np.argsort(at)
    gentle = len(at) == 1 or (np.diff(to[order]) < 4 * np.diff(at[order]) - 0.5).all()
    if rising and gentle:  # a table holds no corner sharper than its steps
        assert np.allclose(np.interp(at, axis, out), to, atol=0.12)


def test_a_curve_says_what_it_does_with_points_that_cannot_be():
    move = MOVE_KINDS["curve"]
    twice = move.params(points=[{"at": -2, "to": -1}, {"at": -2, "to": -3}])
    assert "one place" in move.remark(twice)
    axis = CURVE_LOW + np.arange(513) / CURVE_PER
    assert np.interp(-2, axis, axis + table(twice, 1.0)) == pytest.approx(-2, abs=0.05)
    assert "stays level" in move.remark(move.params(points=[{"at": -4, "to": 0}, {"at": 0, "to": -2}]))


def test_a_curve_of_light_keeps_colour_and_one_of_a_channel_moves_it_alone():
    rgb = colours()
    out = moved("curve", rgb, 0.5, points=[{"at": -6, "to": -6}, {"at": -2, "to": -1}, {"at": 2, "to": 2}])
    assert np.allclose(out / out[1], rgb / rgb[1], rtol=1e-3)
    params = MOVE_KINDS["curve"].params(
        points=[{"at": -6, "to": -6}, {"at": -2, "to": -1}, {"at": 2, "to": 2}]
    )
    axis = CURVE_LOW + np.arange(513) / CURVE_PER
    wanted = 0.5 * np.interp(stops_of(rgb), axis, table(params, 1.0))
    assert np.allclose(stops_of(out) - stops_of(rgb), wanted, atol=2e-3)
    red = moved("curve", np.maximum(rgb, 1e-3), of="red", lift=1.0)
    assert np.allclose(red[1:], np.maximum(rgb, 1e-3)[1:])
    assert (red[0] > np.maximum(rgb, 1e-3)[0]).mean() > 0.9


def _soft_texture(scale, size=480):
    rng = np.random.default_rng(3)
    made = cv2.GaussianBlur(rng.normal(0, 1, (size, size)), (0, 0), scale * size)
    return made / made.std()


@pytest.mark.parametrize(("name", "scale"), [("coarse", 0.018), ("middle", 0.0055), ("fine", 0.0016)])
def test_relief_strengthens_its_own_scale_most(name, scale):
    stops = -2 + 0.15 * _soft_texture(scale)
    grown = {
        other: np.std(stops_of(moved("relief", _grey(stops), guard=0.0, **{other: 1.0}))) / np.std(stops)
        for other in ("coarse", "middle", "fine")
    }
    assert max(grown, key=grown.get) == name, grown
    assert grown[name] > 1.25
    weaker = np.std(stops_of(moved("relief", _grey(stops), guard=0.0, **{name: -0.8}))) / np.std(stops)
    assert weaker < 0.85


def test_relief_carves_rough_rock():
    rock = -4 + 0.8 * _soft_texture(0.0055)
    carved = stops_of(moved("relief", _grey(rock), middle=1.0))
    assert np.std(carved) > 1.2 * np.std(rock)


def test_relief_keeps_its_shares_and_lets_noise_sleep():
    texture = 0.2 * _soft_texture(0.005)
    dark, light = _grey(-7 + texture), _grey(2 + texture)
    only_lights = {"middle": 1.0, "middle_darks": 0.0, "guard": 0.0}
    assert np.std(stops_of(moved("relief", dark, **only_lights))) == pytest.approx(np.std(texture), rel=0.02)
    assert np.std(stops_of(moved("relief", light, **only_lights))) > 1.2 * np.std(texture)
    noise = _grey(-3 + np.random.default_rng(1).normal(0, 0.015, (SIZE, SIZE)))
    awake, asleep = (np.std(stops_of(moved("relief", noise, fine=2.0, guard=g))) for g in (0.0, 1.0))
    assert asleep < 1.2 * np.std(stops_of(noise)) < 0.7 * awake


def test_relief_makes_no_halo_at_a_strong_edge():
    stops, _, side, inner = _edge()
    out = moved("relief", _grey(stops), coarse=1.0, middle=0.5)
    change = cv2.blur(stops_of(out) - stops, (1, 15))
    far = np.abs(side).astype(int)
    for here in (side < 0, side > 0):
        profile = np.array([change[here & inner & (far == d)].mean() for d in range(4, 60)])
        assert np.abs(profile).max() < 0.14, profile


def test_edge_fall_follows_the_crop_lifts_the_middle_and_keeps_highlights():
    grey = np.full((3, 200, 300), 0.18)
    out = stops_of(moved("edge_fall", grey, depth=-1.5, lift=0.4, keep=0.0))
    assert out[100, 150] == pytest.approx(0.4, abs=0.01)
    assert out[0, 0] < -1.2
    assert out[0, 150] > out[0, 0]
    assert np.allclose(out, out[::-1], atol=1e-3)
    assert np.allclose(out, out[:, ::-1], atol=1e-3)
    cropped = Lay(LAY.aspect, (0.0, 0.0, 0.5, 1 / 3), LAY.to_canvas)
    part = stops_of(moved("edge_fall", grey, depth=-1.5, lift=0.4, keep=0.0, lay=cropped))
    assert part[50, 75] == pytest.approx(0.4, abs=0.01)
    assert np.allclose(part[:100, :150], out[::2, ::2], atol=0.03)
    bright = np.full((3, 200, 300), 1.6)
    kept, not_ = (moved("edge_fall", bright, depth=-2, keep=k)[1, 0, 0] for k in (1.0, 0.0))
    assert kept == pytest.approx(1.6, rel=0.02)
    assert not_ < 0.6
    there = stops_of(moved("edge_fall", grey, depth=0, lift=1, centre={"x": 0.25, "y": 0.25}))
    assert np.unravel_index(there.argmax(), there.shape) == pytest.approx((75, 75), abs=2)


@given(st.sampled_from(["adds", "soaks", "glints"]), st.floats(-2, 3))
def test_poured_light_lifts_middle_grey_by_what_it_says(blend, light):
    grey = np.full((3, 10, 15), 0.18)
    out = moved(
        "poured_light", grey, where="all", blend=blend, light=light, colour="#ffffff", other="#ffffff"
    )
    assert np.allclose(stops_of(out), light, atol=5e-3)
    half = moved("poured_light", grey, 0.5, where="all", blend="adds", light=light, colour="#ffffff")
    assert np.allclose(half, 0.18 * (1 + (2**light - 1) / 2), rtol=2e-3)


def test_poured_light_comes_from_a_side_and_from_a_place_smoothly():
    grey = np.full((3, 240, 360), 0.18)
    ends = {"start": {"x": 0.0, "y": 0.3}, "end": {"x": 1.0, "y": 0.3}}
    side = stops_of(
        moved("poured_light", grey, where="side", light=2, colour="#ffffff", other="#ffffff", **ends)
    )
    assert side[:, 0].mean() == pytest.approx(2, abs=0.02)
    assert side[:, -1].mean() == pytest.approx(0, abs=0.02)
    assert (np.diff(side, axis=1) <= 1e-6).all()
    # no banding: it changes by less than a hundredth of a stop from px to px
    assert np.abs(np.diff(side, axis=1)).max() < 0.02
    place = stops_of(
        moved("poured_light", grey, light=2, start={"x": 0.5, "y": 0.3}, end={"x": 0.7, "y": 0.3})
    )
    assert place[108, 180] > 1.9
    assert np.allclose(place[108 - 60, 180], place[108, 180 - 60], atol=0.02)
    assert np.abs(place[:, :100]).max() < 1e-3
    fading = moved("poured_light", grey, where="side", light=2, colour="#ff4000", other="#0040ff", **ends)
    assert fading[0, 100, 5] > 2 * fading[2, 100, 5]
    warm = moved("poured_light", grey, where="all", blend="soaks", light=0, colour="#ffb060", other="#ffb060")
    assert np.allclose(stops_of(warm), 0, atol=0.01)
    assert warm[0, 0, 0] > 1.2 * warm[2, 0, 0]


def test_haze_added_is_taken_away_again_and_near_things_stay():
    """A hazed picture whose air and depth are known: taken away, its far part is nearer the truth."""
    rng = np.random.default_rng(2)
    h, w = 240, 360
    clear = 0.18 * 2.0 ** (rng.normal(-3, 2, (h // 4, w // 4)).repeat(4, 0).repeat(4, 1)) * np.array([1.2, 1, 0.7])[:, None, None]  # fmt: skip
    through = np.linspace(0.25, 1.0, h)[:, None] * np.ones((h, w))
    air = np.array([0.75, 0.8, 0.9])[:, None, None]
    hazed = clear * through + air * (1 - through)
    out = moved("haze", hazed, amount=-1.0)
    far = slice(0, 80)
    before, after = np.abs(hazed - clear)[:, far].mean(), np.abs(out - clear)[:, far].mean()
    assert after < 0.55 * before
    near = np.abs(out - clear)[:, 200:].mean()
    assert near < 1.05 * np.abs(hazed - clear)[:, 200:].mean()
    more = moved("haze", hazed, amount=0.6)
    assert more.std() < hazed.std()
    assert (out > -1e-6).all()


def test_bloom_scatters_what_is_bright_and_loses_no_light():
    rgb = np.full((3, 200, 300), 0.02)
    rgb[:, 95:105, 145:155] = 4.0
    out = moved("bloom", rgb, amount=0.5, radius=0.02)
    assert out.sum() == pytest.approx(rgb.sum(), rel=0.01)
    assert out[1, 100, 150] < 3.2
    assert out[1, 100, 165] > 3 * 0.02
    assert out[1, 5, 5] == pytest.approx(0.02, rel=0.02)
    warm = moved("bloom", rgb, amount=0.5, radius=0.02, warmth=1.0)
    assert warm[0, 100, 165] > 1.3 * warm[2, 100, 165]
    dim = moved("bloom", rgb / 8, amount=0.5, above=5.0)
    assert np.allclose(dim, rgb / 8, rtol=1e-5)


@pytest.mark.parametrize("kind", ["relief", "haze", "bloom", "edge_fall", "poured_light", "rungs"])
def test_a_part_is_what_the_whole_shows_there(kind):
    """What a move knows it knows of the whole, so any window of it is the same px."""
    rgb = colours(20 * 400).reshape(3, 80, 100)
    move = MOVE_KINDS[kind]
    more = {"rungs": [{"at": -3, "by": 1}]} if kind == "rungs" else {}
    params = {move.first: move.params.model_fields[move.first].metadata[1].le * 0.4} | more
    aux = move.survey(rgb.astype(np.float32), move.params(**params)) if move.survey else None
    whole = moved(kind, rgb, aux=aux, **params)
    place = place_of(80, 100)
    place[0] += 30 / 100
    place[1] += 20 / 80
    part = moved(kind, rgb[:, 20:60, 30:90], aux=aux, place=place, **params)
    assert np.allclose(part, whole[:, 20:60, 30:90], rtol=2e-3, atol=1e-5)


def test_moves_with_drawn_things_are_kept_in_documents_and_bad_ones_refused(coast):
    scene = coast.scene()
    scene.moves = [
        new_move("rungs", params={"rungs": [{"at": -4, "by": 1, "reach": 2}]}),
        new_move("curve", params={"points": [{"at": -2, "to": -1}]}),
        new_move("poured_light", params={"colour": "#ff0000", "where": "side"}),
    ]
    assert parse_scene(scene.model_dump_json()) == scene
    for kind, params in (
        ("poured_light", {"colour": "red"}),
        ("curve", {"points": [{"at": "nan", "to": 0}]}),
        ("rungs", {"rungs": [{"at": -4, "by": 90}]}),
    ):
        with pytest.raises(DocumentError):
            new_move(kind, params=params)


def test_edge_fall_lies_on_the_crop_of_a_scene_and_is_the_same_before_it_is_trimmed(coast, engine):
    scene = coast.scene()
    scene.moves = [new_move("edge_fall", params={"depth": -2, "keep": 0})]
    trimmed = scene.model_copy(deep=True)
    trimmed.ground.trim.params = type(trimmed.ground.trim.params)(width=0.5, height=0.33)
    bare = trimmed.model_copy(deep=True)
    bare.moves = []

    def change(with_, without, untrimmed=False):
        one, other = (engine.develop(s, coast.pyramid, untrimmed) for s in (with_, without))
        view = one.geometry.fit(300)
        return stops_of(one.light_planes(view)) - stops_of(other.light_planes(view))

    fall = change(trimmed, bare)
    assert fall[0, 0] < -1.4
    assert abs(fall[fall.shape[0] // 2, fall.shape[1] // 2]) < 0.02
    wide = change(trimmed, bare, untrimmed=True)
    assert wide.min() == pytest.approx(-2, abs=0.05)
    assert abs(wide[wide.shape[0] // 2, wide.shape[1] // 2]) < 0.02


def test_forty_moves_are_one_picture(coast, engine):
    kinds = [k for k, m in MOVE_KINDS.items() if m.band == "light"]
    scene = coast.scene()
    for n in range(40):
        kind = kinds[n % len(kinds)]
        scene.moves.append(new_move(kind, params={MOVE_KINDS[kind].first: 0.05}, name=f"Move {n + 1}"))
    scene = parse_scene(scene.model_dump_json())
    development = engine.develop(scene, coast.pyramid)
    view = development.geometry.fit(240)
    whole = development.light_planes(view)
    assert np.isfinite(whole).all()
    assert (whole >= 0).all()
    # what moves know they know of the whole: half of the picture is the same px
    w, h = view.size
    half = development.light_planes(View((0.0, 0.0, 1.0, (h // 2) / h), (w, h // 2)))
    assert np.allclose(half, whole[:, : h // 2], rtol=0.02, atol=1e-3)
    plain = engine.develop(coast.scene(), coast.pyramid)
    assert not np.allclose(whole, plain.light_planes(view), rtol=0.05)
