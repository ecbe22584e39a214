"""A new sky against the world under that very sky, and against the mixture it is said to be."""

from dataclasses import replace

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldworld.camera import smaller
from fieldworld.lent import find_any, without
from sunlatch.binding.maps import lens_as_it_is
from sunlatch.colour import LUMA
from sunlatch.errors import DocumentError, MendError, RenderError
from sunlatch.frame import hash_file
from sunlatch.geometry import Geometry, Placed, View
from sunlatch.layers import loans
from sunlatch.layers.skies import SkyIn, land_at
from sunlatch.layers.sky_bands import _lay, grain_of, land_light, old_sky
from sunlatch.ledger import Latch, NewSky, Scene, Source, SpecksRepair, new_ingredient, parse_scene, sky_latch
from sunlatch.mend import spot_of
from sunlatch.meters import read_belongs
from sunlatch.meters.belongs import grain_belongs, rim_of
from sunlatch.render import Engine, picture_8
from tests.coast import shoot

WIDE = 1500


@pytest.fixture(scope="module")
def pair(frames, store):
    """The heath without its cable, and a sky; the truth of the heath."""
    out = {}
    for name, shot in (
        ("heath", without(find_any("heath"), ["cable", "specks"])),
        ("sky-1", find_any("sky-1")),
    ):
        path = frames / f"{name}-for-sky.dng"
        seen = shoot(smaller(shot, WIDE), path)
        out[name] = (
            Source(id=name, sha256=hash_file(path), path=path.name),
            store.whole(hash_file(path), path),
            seen,
        )
    return out


@pytest.fixture(scope="module")
def brought(pair):
    """The scene with the sky in it, developed."""
    engine = Engine(threads=2)
    sources = [pair["heath"][0], pair["sky-1"][0]]
    bare = engine.develop(Scene(sources=sources), pair["heath"][1])
    scene = Scene(sources=sources, latches=[sky_latch(bare.ground.read_at())])
    shown = engine.develop(scene, pair["heath"][1])
    scene.sky = shown.propose_sky(sources[1], pair["sky-1"][1], scene.latches[0])
    return engine, parse_scene(scene.model_dump(mode="json")), lambda source: pair[source.id][1]


def _developed(brought, pair, **params):
    engine, scene, lent = brought
    changed = scene.model_copy(deep=True)
    for name, value in params.items():
        setattr(changed.sky.params, name, value)
    return engine.develop(changed, pair["heath"][1], lent=lent)


def test_a_strip_of_it_is_laid_as_in_the_whole(brought, pair, monkeypatch):
    """Its grain too; and where none of it shows, nothing of it is drawn."""
    monkeypatch.setattr(SkyIn, "grains", lambda *_: (0.05, 0.0))
    development = _developed(brought, pair, grain=1.0)
    sky, whole_view = development.sky, development.geometry.fit(WIDE)
    h = whole_view.size[1]
    whole = sky.lay(whole_view)
    for top, bottom in ((0, h // 8), (h // 4, h // 3)):
        strip = sky.lay(View((0, top / h, 1, bottom / h), (WIDE, bottom - top)))
        shows = strip.alpha > 0.5
        assert shows.mean() > 0.5
        assert strip.grain.std() > 0.02
        # places differ by a hair from view to view, so that a few px take their neighbour's grain
        assert np.isclose(strip.grain, whole.grain[top:bottom], rtol=0.01)[shows].mean() > 0.9
    land = sky.lay(View((0, 0.9, 1, 1), (WIDE, h // 10)))
    assert not land.alpha.any()
    assert not land.new.any()


def test_its_lens_and_its_reach_over_a_view_are_those_of_every_px(brought, pair, monkeypatch):
    """Both are asked of a lattice; and where nothing of its edge is near, no px is looked at."""
    sky = _developed(brought, pair).sky
    lens = replace(sky.frame.geometry.lens, falloff=(-0.5, 0.1, -0.05))
    frame = replace(sky.frame, geometry=replace(sky.frame.geometry, lens=lens))
    g, (w, h) = frame.geometry, (480, 320)
    view = View((0.1, 0.1, 0.6, 0.5), (w, h))
    x, y, dx, dy = g.corner(view)
    r2 = g.radius2(np.stack(np.meshgrid(x + dx * np.arange(w), y + dy * np.arange(h)), -1))
    assert np.ptp(r2) > 0.2
    exact = 2 ** (0.7 * r2) / lens.transmitted(r2)
    assert np.abs(frame.gain(view, 0.7) / exact - 1).max() < 1e-5
    flat = replace(frame, geometry=replace(g, lens=replace(lens, falloff=(0.0, 0.0, 0.0))))
    assert np.ptp(flat.gain(view, 0.7) / 2 ** (0.7 * r2)) < 1e-5
    assert (flat.gain(view, 0.0) == 1).all()
    assert sky.frame.inside(view, 24.0).strides == (0, 0)
    for region in (view.region, (-0.2, -0.2, 0.5, 0.5)):
        looked = View(region, (w, h))
        quick = sky.frame.inside(looked, 24.0)
        monkeypatch.setattr(loans, "SURELY", np.inf)
        assert np.array_equal(quick, sky.frame.inside(looked, 24.0))
        monkeypatch.undo()


def test_it_is_proposed_where_it_covers_and_as_light_as_the_old(brought, pair):
    _, scene, _ = brought
    development = _developed(brought, pair, stops=0.0, relight=0.0, haze=0.0)
    view = development.geometry.fit(600)
    matte = development.sky.matte(view)
    truth = cv2.resize(pair["heath"][2].sky, view.size, interpolation=cv2.INTER_AREA)
    assert matte[truth > 0.99].mean() > 0.97
    assert matte[truth < 0.01].mean() < 0.01
    bare = development.again(scene.model_copy(update={"sky": None}))
    stops = [np.log2(np.maximum(d.light_planes(view)[1], 1e-5)) for d in (development, bare)]
    sky = truth > 0.99
    assert abs(np.median(stops[0][sky]) - np.median(stops[1][sky])) < 0.15
    assert scene.sky.params.stops <= 0  # what would print white of it is held
    fits = {row.what: row.fits for row in read_belongs(development)}
    assert fits["reach"]


def test_the_matte_is_the_sky_to_its_edge(brought, pair):
    """The bar: mean error in the edge band ≤ .06, twigs and all."""
    development = _developed(brought, pair)
    seen = pair["heath"][2]
    matte = development.sky.matte(development.geometry.fit(WIDE))
    truth = cv2.resize(seen.sky, (matte.shape[1], matte.shape[0]), interpolation=cv2.INTER_AREA)
    band = cv2.dilate(((truth > 0.02) & (truth < 0.98)).astype(np.uint8), np.ones((3, 3))) > 0
    assert np.abs(matte - truth)[band].mean() < 0.1
    assert np.abs(matte - truth).mean() < 0.02


def test_no_fringe_of_the_old_sky_is_left_on_what_stands_before_it(brought, pair):
    """A black sky in place of the grey one: px of the edge hold what the land sent there, and no more of the old sky than the
    matte is wrong by."""
    development = _developed(brought, pair, stops=-5.0, relight=0.0, haze=0.0)
    view = development.geometry.fit(WIDE)
    seen = pair["heath"][2]
    before = development.again(development.scene.model_copy(update={"sky": None})).light_planes(view)[1]
    after = development.light_planes(view)[1]
    truth = cv2.resize(seen.sky, view.size, interpolation=cv2.INTER_AREA)
    edge = (truth > 0.2) & (truth < 0.8)
    sky = float(np.median(before[truth > 0.99]))
    left = after[edge] - before[truth < 0.01].mean() * (1 - truth[edge])
    assert (before[edge] / sky).mean() > 0.3
    assert np.clip(left / sky, 0, None).mean() < 0.08
    assert np.percentile(left / sky, 99) < 0.33
    development.scene.sky.revision = 2  # in a scene of before, fringes stay as they were
    as_it_was = development.again(development.scene).light_planes(view)[1][edge] - after[edge]
    assert (as_it_was > -1e-3).all()
    assert (as_it_was > 0.05 * sky).any()


def test_what_is_too_light_for_what_stands_there_is_of_the_old_sky():
    """A fringe at an edge goes with the sky it is of; what is as light as the land may be stays."""
    one = np.ones((3, 1, 1), np.float32)
    for fringe, left in ((0.2, 0.05 + 0.175 * 0.1), (0.0, 0.025)):
        rgb = np.full((3, 1, 1), 0.5 * 0.8 + 0.5 * 0.05 + fringe, np.float32)
        _lay(
            rgb, 0.08 * one, 0.5 * one[0], 0.8 * one, 50 * one[0], one[:, 0, 0].copy(), np.zeros((3, 1), np.float32),
            np.float32(0), one, one[0], 0.1 * one,
        )  # fmt: skip
        assert rgb[:, 0, 0] == pytest.approx(0.5 * 0.08 + left, abs=1e-5)


def test_the_land_beside_a_sky_is_as_light_as_it_is_however_its_edge_is_fringed():
    """A dark trunk before a light sky, its colours a px apart: its own light comes back, twice at most."""
    old = np.full((60, 90, 3), 0.8, np.float32)
    matte = np.ones((60, 90), np.float32)
    matte[:, 40:48] = 0
    light = np.stack([np.roll(matte, by, 1) * 0.8 + (1 - np.roll(matte, by, 1)) * 0.05 for by in (-1, 0, 1)])
    most = land_light(light.astype(np.float32), matte, old)
    assert (most[30, 44] > 0.09).all()
    assert (most[30, 44] < 0.2).all()  # a px of the sky is as light as 0.8
    assert most[30, 44, 1] == pytest.approx(0.1, abs=0.01)


def test_the_mixture_is_taken_apart_and_put_together():
    """Exactly, where the old sky and the matte are known."""
    rng = np.random.default_rng(2)
    h, w = 40, 60
    alpha = np.clip(rng.uniform(-0.3, 0.88, (h, w)), 0, 1).astype(np.float32)
    old, new = np.full((3, h, w), 0.8, np.float32), rng.uniform(0.1, 2, (3, h, w)).astype(np.float32)
    land = rng.uniform(0.01, 0.3, (3, h, w)).astype(np.float32)
    rgb = np.ascontiguousarray(alpha * old + (1 - alpha) * land)
    gain, far = np.array([1.2, 1.0, 0.8], np.float32), np.zeros((3, w), np.float32)
    _lay(
        rgb,
        new,
        alpha,
        old,
        np.full((h, w), 50, np.float32),
        gain,
        far,
        np.float32(0),
        np.ones_like(rgb),
        np.ones((h, w), np.float32),
        np.full_like(rgb, 0.3),
    )
    assert np.abs(rgb - (alpha * new + (1 - alpha) * land * gain[:, None, None])).max() < 1e-5


@given(st.integers(0, 1000))
def test_the_same_sky_again_changes_nothing_however_wrong_the_matte(seed):
    """No more of the old sky is taken out than there is light: dark twigs stay dark where too much is let in."""
    rng = np.random.default_rng(seed)
    h, w = 8, 12
    old = rng.uniform(0.2, 1.0, (3, h, w)).astype(np.float32)
    rgb = rng.uniform(0.0, 1.0, (3, h, w)).astype(np.float32)
    light = rgb.copy()
    ones = np.ones((3, h, w), np.float32)
    _lay(
        rgb, old, rng.uniform(0, 0.9, (h, w)).astype(np.float32), old, np.full((h, w), 50, np.float32), ones[:, 0, 0].copy(),
        np.zeros((3, w), np.float32), np.float32(0), ones, ones[0],
        rng.uniform(0, 0.5, (3, h, w)).astype(np.float32),
    )  # fmt: skip
    assert np.abs(rgb - light).max() < 1e-5


def test_the_old_sky_goes_on_behind_what_stands_before_it():
    y, x = np.mgrid[:90, :120].astype(np.float32)
    sky = np.stack([0.5 + 0.002 * x, 0.6 + 0.001 * x, 0.7 - 0.001 * y])
    matte = np.ones((90, 120), np.float32)
    matte[:, 50:56] = 0.0
    seen = sky.copy()
    seen[:, :, 50:56] = 0.01
    assert np.abs(old_sky(seen, matte).transpose(2, 0, 1) - sky).max() < 0.02


def test_the_old_sky_is_learned_once_however_the_new_one_is_carried(brought, pair):
    one, other = _developed(brought, pair), _developed(brought, pair, across=0.1, stops=-1.5, turn=3.0)
    assert one.sky.old() is other.sky.old()


def test_the_land_follows_as_far_as_is_said(brought, pair):
    view = _developed(brought, pair).geometry.fit(300)
    truth = cv2.resize(pair["heath"][2].sky, view.size, interpolation=cv2.INTER_AREA)
    # far below the horizon no haze hangs
    land = (truth < 0.001) & (np.arange(truth.shape[0])[:, None] > 0.85 * truth.shape[0])
    light = [
        _developed(brought, pair, relight=r, stops=0.0, haze=0.0).light_planes(view) for r in (0.0, 0.5, 1.0)
    ]
    scene = brought[1]
    for k in range(3):
        at = [np.log2(plane[k][land]).mean() for plane in light]
        assert at[2] - at[0] == pytest.approx(scene.sky.shed[k], abs=0.02)
        assert at[1] - at[0] == pytest.approx(scene.sky.shed[k] / 2, abs=0.02)


def test_placed_is_where_it_is_laid():
    plain = Geometry(1200, 800)
    placed = Placed(plain, plain, (0.1, -0.05), 2.0, 90.0, False)
    assert placed.inverse(np.array([[0.1, -0.05]])) == pytest.approx(np.zeros((1, 2)), abs=1e-9)
    # a quarter turn clockwise: what lay to the right lies below
    assert placed.inverse(np.array([[0.1, 0.15]])) == pytest.approx(np.array([[0.1, 0.0]]), abs=1e-9)
    mirrored = Placed(plain, plain, (0.0, 0.0), 1.0, 0.0, True)
    assert mirrored.inverse(np.array([[0.2, 0.1]])) == pytest.approx(np.array([[-0.2, 0.1]]), abs=1e-9)


def test_what_does_not_belong_is_said_with_what_would_help(brought, pair):
    rows = {r.what: r for r in read_belongs(_developed(brought, pair, across=0.6))}
    assert not rows["reach"].fits
    assert rows["reach"].remedy["size"] > brought[1].sky.params.size
    rows = {r.what: r for r in read_belongs(_developed(brought, pair, stops=4.0))}
    assert not rows["stops"].fits
    assert rows["stops"].remedy["stops"] < 4.0
    engine, scene, _ = brought
    with pytest.raises(RenderError, match="no new sky"):
        read_belongs(engine.develop(scene.model_copy(update={"sky": None}), pair["heath"][1]))


def test_specks_that_come_with_it_are_said_and_mended_in_its_frame(brought, pair):
    """The sky was taken with the coast's own sensor, specks and all."""
    engine, scene, lent = brought
    row = next(r for r in read_belongs(_developed(brought, pair)) if r.what == "specks")
    assert not row.fits
    spots = row.repairs[0].spots
    assert 1 <= len(spots) < 40
    mended = scene.model_copy(deep=True)
    mended.sky.repairs.append(row.repairs[0])
    mended = parse_scene(mended.model_dump(mode="json"))
    after = next(
        r for r in read_belongs(engine.develop(mended, pair["heath"][1], lent=lent)) if r.what == "specks"
    )
    left = after.repairs[0].spots if after.repairs else []
    assert len(left) <= len(spots) // 3
    # nothing of the scene's own is touched
    assert not mended.repairs


def test_its_horizon_is_read_against_ours(brought, pair):
    """Carried by so much, it misses by so much; what is offered brings it back. A sky that fills its frame has none."""
    _, scene, _ = brought

    def read(**params):
        development = _developed(brought, pair, **params)
        return land_at(development.sky), next(r for r in read_belongs(development) if r.what == "horizon")

    at, row = read()
    if at is None:
        assert row.fits
        return
    w, h = 1500, 1000
    lower, row = read(down=scene.sky.params.down - 0.1)
    assert at - lower == pytest.approx(0.1 * w / h, abs=1e-6)
    assert not row.fits
    assert "above ours" in row.description
    back, row = read(**row.remedy)
    assert back == pytest.approx(scene.sky.horizon, abs=0.003)
    assert row.fits


def test_grain_that_is_too_strong_is_smoothed_in_its_own_ground(brought, pair):
    development = _developed(brought, pair)
    row = grain_belongs(3.0)
    assert (row.fits, row.remedy) == (False, None)
    assert "3.0 times" in row.description
    _, scene, _ = brought
    changed = scene.model_copy(deep=True)
    for line, values in row.ground.items():
        for name, value in values.items():
            setattr(getattr(changed.sky.ground, line).params, name, value)
    engine, _, lent = brought
    smooth = engine.develop(changed, pair["heath"][1], lent=lent)
    full = development.geometry.fit(10**6)
    before, after = (d.sky.grains(full, d.geometry)[1] for d in (development, smooth))
    assert after < 0.5 * before


def test_where_water_is_not_sure_it_is_asked(brought, pair):
    """Of the heath a little looks like water: nothing mirrors by itself, and it is offered."""
    assert brought[1].sky.params.water == 0
    row = next(r for r in read_belongs(_developed(brought, pair)) if r.what == "water")
    assert (row.fits, row.remedy) == (False, {"water": 0.8})
    assert next(r for r in read_belongs(_developed(brought, pair, **row.remedy)) if r.what == "water").fits


def test_finders_do_not_see_the_new_sky(brought, pair):
    """The matte never depends on what it lets in."""
    one, other = _developed(brought, pair), _developed(brought, pair, stops=2.0, mirror=True)
    view = one.geometry.fit(400)
    assert np.array_equal(
        one.latches.mask(one.scene.latches[0], view), other.latches.mask(other.scene.latches[0], view)
    )
    assert not np.array_equal(picture_8(one, view, True), picture_8(other, view, True))


def test_where_there_is_no_sky_none_is_put_in(pair):
    engine = Engine(threads=2)
    sources = [pair["heath"][0], pair["sky-1"][0]]
    bare = engine.develop(Scene(sources=sources), pair["heath"][1])
    nothing = Latch(name="Nothing", ingredients=[], read_at=bare.ground.read_at())
    scene = Scene(sources=sources, latches=[nothing])
    with pytest.raises(MendError, match="Nothing holds all but nothing"):
        engine.develop(scene, pair["heath"][1]).propose_sky(sources[1], pair["sky-1"][1], nothing)


def test_a_sky_names_its_frame_and_its_latch():
    at = {"kelvin": 6500.0, "duv": 0.0, "base_exposure": 0.0}
    latch = Latch(id="l", name="Sky", ingredients=[new_ingredient("sky")], read_at=at)
    sources = [Source(id="a", sha256="0" * 64), Source(id="b", sha256="1" * 64)]
    sky = NewSky(id="n", source="b", latch="l")
    Scene(sources=sources, latches=[latch], sky=sky)
    for wrong in ({"source": "a"}, {"source": "c"}, {"latch": "m"}):
        data = Scene(sources=sources, latches=[latch], sky=sky).model_dump(mode="json")
        data["sky"] |= wrong
        with pytest.raises(DocumentError):
            parse_scene(data)


def test_latches_of_light_read_the_new_sky_and_its_matte_does_not(brought, pair):
    _, scene, _ = brought
    shown = _developed(brought, pair, stops=-2.0)
    other = _developed(brought, pair, stops=1.0)
    view = shown.geometry.fit(500)
    assert np.array_equal(shown.sky.matte(view), other.sky.matte(view))
    read_at = scene.latches[0].read_at
    lights = Latch(
        name="Lights", read_at=read_at, ingredients=[new_ingredient("light_range", params={"low": 1.0})]
    )
    lights.edge_true.on = False
    sky = cv2.resize(pair["heath"][2].sky, view.size, interpolation=cv2.INTER_AREA) > 0.99
    dark, bright = (d.latches.mask(lights, view)[sky].mean() for d in (shown, other))
    assert bright > dark + 0.3
    stops = shown.reader.stops(view, read_at)
    seen = np.log2(np.maximum(np.tensordot(LUMA, shown.light_planes(view), 1), 1e-6) / 0.18)
    assert np.median(np.abs(stops - seen)) < 0.05


def test_its_frame_has_its_own_ground_and_repairs(brought, pair):
    """Developed a stop lighter in its own scene it comes a stop lighter; a speck mended there is mended here."""
    engine, scene, lent = brought
    plain = _developed(brought, pair, haze=0.0, relight=0.0)
    own = scene.model_copy(deep=True)
    own.sky.params.haze = own.sky.params.relight = 0.0
    own.sky.ground.base_exposure.params.ev = 1.0
    raster = pair["sky-1"][1]
    unit = raster.info.long_edge
    spots = [
        spot_of(raster, x * unit, y * unit, 0.03 * unit).model_copy(update={"dx": 0.2, "dy": 0.1})
        for x in (0.35, 0.5, 0.65)
        for y in (0.1, 0.2, 0.3)
    ]
    own.sky.repairs = [SpecksRepair(id="s", spots=spots)]
    shown = engine.develop(parse_scene(own.model_dump(mode="json")), pair["heath"][1], lent=lent)
    view = shown.geometry.fit(700)
    sky = plain.sky.matte(view) > 0.99
    ratio = np.log2(shown.sky.frame.light(view)[1][sky] / plain.sky.frame.light(view)[1][sky])
    assert np.median(ratio) == pytest.approx(1, abs=0.02)
    assert np.abs(ratio - np.median(ratio)).max() > 0.02


def test_water_mirrors_it_and_the_rest_does_not(brought, pair):
    """Nothing changes where no water is found. Where it is, it takes the new sky's light, upside down."""
    dry, wet = _developed(brought, pair), _developed(brought, pair, water=1.0)
    view = dry.geometry.fit(500)
    found = wet.bare.reader.found_over(new_ingredient("water"), view, wet.geometry)
    assert np.abs(dry.light_planes(view) - wet.light_planes(view))[:, found < 0.002].max() < 0.002
    sky = wet.sky
    places = wet.bare.reader.frame_places(view, wet.geometry)
    stops = sky._in_water()
    assert stops.shape[2] == 3
    # a sky a stop lighter than itself is mirrored a stop lighter
    lighter = _developed(brought, pair, water=1.0, stops=wet.sky.line.params.stops + 1)
    assert np.median(lighter.sky._in_water() - stops) == pytest.approx(1, abs=0.02)
    # of what is water the part that the angle gives it, of the rest none
    mirrored = np.log2(sky._mirrored(view, wet.geometry, places))
    assert np.abs(mirrored[:, found < 0.002]).max() < 0.02
    assert np.abs(mirrored[:, found > 0.5]).max(initial=0) <= np.abs(stops).max() + 1e-4


def test_a_latch_named_water_says_what_mirrors(brought, pair):
    """A pool drawn on the dry heath mirrors, and nothing else does."""
    engine, scene, lent = brought
    pool = new_ingredient("pool")
    pool.params.centre.x, pool.params.centre.y = 0.5, 0.5
    pool.params.edge.x, pool.params.edge.y = 0.6, 0.5
    held = scene.model_copy(deep=True)
    held.latches.append(Latch(id="w", name="water", ingredients=[pool], read_at=scene.latches[0].read_at))
    held.sky.params.water = 1.0
    wet = engine.develop(held, pair["heath"][1], lent=lent)
    dry = engine.develop(scene, pair["heath"][1], lent=lent)
    view = dry.geometry.fit(500)
    where = wet.bare.mask(held.latches[-1], view)
    stops = np.abs(
        np.log2(wet.sky._mirrored(view, wet.geometry, wet.bare.reader.frame_places(view, wet.geometry)))
    )
    assert stops[:, where > 0.9].mean() > 0.05
    assert stops[:, where < 0.001].max() < 0.002
    held.latches[-1].ingredients[0].params.edge.x = 0.55
    assert engine.develop(held, pair["heath"][1], lent=lent).sky.key != wet.sky.key


def test_grain_lies_on_the_px_of_the_frame_and_is_as_strong_as_the_lands(brought, pair):
    clean, grained = _developed(brought, pair), _developed(brought, pair, grain=1.0)
    whole = View((0, 0, 1, 1), clean.geometry.developed_size)
    part = View((0.2, 0.05, 0.4, 0.2), (300, 150))
    ours, theirs = clean.sky.grains(whole, clean.geometry)
    assert ours > 0
    assert theirs > 0
    places = np.stack(np.meshgrid(np.linspace(0.1, 0.9, 900), np.linspace(0.1, 0.5, 600))).astype(np.float32)
    light = np.full((600, 900), 0.3, np.float32)
    out = np.empty_like(light)
    grain_of(places, light, np.array([6000, 4000, 0.05, 0.3], np.float32), out)
    assert out.std() == pytest.approx(0.05, rel=0.1)
    assert out.mean() == pytest.approx(1, abs=0.002)
    neighbours = np.corrcoef(out[:, :-1].ravel(), out[:, 1:].ravel())[0, 1]
    assert abs(neighbours) < 0.03
    again = np.empty_like(light[:100])
    grain_of(
        np.ascontiguousarray(places[:, 200:300]),
        light[:100],
        np.array([6000, 4000, 0.05, 0.3], np.float32),
        again,
    )
    assert np.array_equal(again, out[200:300])
    before, after = clean.light_planes(part), grained.light_planes(part)
    sky = clean.sky.matte(part) > 0.99
    change = np.log(after[1][sky] / before[1][sky]).std()
    level_ours, level_theirs = clean.sky.grains(part, clean.geometry)
    lacks = np.sqrt(max(level_ours**2 - level_theirs**2, 0))
    assert change == pytest.approx(lacks, rel=0.6, abs=1e-4)


def test_further_into_edges_it_takes_more(brought, pair):
    view = _developed(brought, pair).geometry.fit(900)
    less, as_it_is, more = (_developed(brought, pair, edge=e).sky.matte(view) for e in (-0.5, 0.0, 0.5))
    edge = (as_it_is > 0.1) & (as_it_is < 0.9)
    assert (more[edge] > as_it_is[edge]).all()
    assert (less[edge] < as_it_is[edge]).all()
    assert np.allclose(more[as_it_is == 0], 0)


def test_it_says_of_grain_and_rim_whether_they_belong(brought, pair):
    rows = {row.what: row for row in read_belongs(_developed(brought, pair))}
    assert {
        "side",
        "colour",
        "stops",
        "reach",
        "own land",
        "specks",
        "horizon",
        "water",
        "grain",
        "fringe",
    } == set(rows)
    assert rows["fringe"].fits
    for row in rows.values():
        assert row.description.endswith(".")


@pytest.mark.parametrize("stops", [-1.0, 0.0, 1.0])
def test_a_rim_is_read_as_large_as_it_is(stops):
    """A mixture as it should be has none; one whose land is lighter or darker along its edge, that much."""
    x = np.broadcast_to(np.arange(300, dtype=np.float32), (200, 300))
    alpha = np.clip((156 - x) / 12, 0, 1).astype(np.float32)
    land = np.where(alpha > 0, 0.05 * 2.0**stops, 0.05).astype(np.float32)
    new = np.full_like(alpha, 0.8)
    assert rim_of(alpha * new + (1 - alpha) * land, new, alpha) == pytest.approx(stops, abs=0.05)


# its own land, and its own lens


@pytest.fixture(scope="module")
def landed(pair):
    """The heath with its own sky brought again, so far down that its land lies where the sky should be."""
    engine = Engine(threads=2)
    own, raster, _ = pair["heath"]
    other = Source(id="again", sha256="e" * 64, path="again.dng")
    bare = engine.develop(Scene(sources=[own]), raster)
    scene = Scene(sources=[own, other], latches=[sky_latch(bare.ground.read_at())])
    params = {"across": 0.0, "down": -0.22, "size": 1.0, "haze": 0.0, "relight": 0.0}
    scene.sky = NewSky(id="sky", source="again", latch=scene.latches[0].id, horizon=0.5, params=params)
    return engine, scene, lambda source: raster


def test_of_a_sky_only_sky_is_brought(landed, pair):
    """Where its hills would stand behind ours the sky goes on: as light as it is above them, and nothing of them is left."""
    engine, scene, lent = landed
    development = engine.develop(scene, pair["heath"][1], lent=lent)
    view = development.geometry.fit(700)
    sky = development.sky
    lands, matte = sky.own.lands(view), sky.matte(view)
    where = (lands > 0.9) & (matte > 0.9)
    assert where.mean() > 0.05
    light = np.log2(np.maximum(np.tensordot(np.asarray(LUMA, np.float32), sky.light(view), 1), 1e-5))
    bare = np.log2(np.maximum(np.tensordot(np.asarray(LUMA, np.float32), sky.frame.light(view), 1), 1e-5))
    there = (lands < 0.05) & (matte > 0.9)
    low = np.percentile(light[there], 1)
    assert np.percentile(bare[where], 20) < low - 1  # its land is dark
    assert light[where].min() > low - 0.3
    assert cv2.Laplacian(light, cv2.CV_32F)[where].std() < 0.3 * cv2.Laplacian(bare, cv2.CV_32F)[where].std()
    row = next(r for r in read_belongs(development) if r.what == "own land")
    assert not row.fits
    assert "its place" in row.description


def test_a_sky_of_an_earlier_scene_stays_as_it_was(landed, pair):
    engine, scene, lent = landed
    earlier = scene.model_copy(deep=True)
    earlier.sky.revision = 1
    sky = engine.develop(earlier, pair["heath"][1], lent=lent).sky
    view = sky.scene_ground.geometry.fit(300)
    assert not sky.own.lands(view).any()
    assert np.array_equal(sky.light(view), sky.frame.light(view))


def test_a_flat_sky_stays_flat_whatever_lenses_lose_in_their_corners(pair):
    """Light that is even but for its own lens's falloff is even where it lies, in a scene whose lens is corrected."""
    engine = Engine(threads=2)
    own, raster, _ = pair["heath"]
    lens = lens_as_it_is(raster.info)
    assert any(lens.falloff)
    levels = {}
    for k, level in raster.levels.items():
        h, w = level.shape[:2]
        y, x = np.mgrid[:h, :w].astype(float) + 0.5
        r2 = ((x - w / 2) ** 2 + (y - h / 2) ** 2) / ((w / 2) ** 2 + (h / 2) ** 2)
        light = 0.3 * lens.transmitted(r2)
        levels[k] = np.repeat(light[..., None], 3, 2).astype(np.float16)
    flat = replace(raster, key="flat-whole", levels=levels, folder=None)
    other = Source(id="flat", sha256="f" * 64, path="flat.dng")
    everything = Latch(name="All", ingredients=[], read_at=sky_at(engine, own, raster), invert=True)
    scene = Scene(sources=[own, other], latches=[everything])
    scene.ground.lens.params.known = "frame" if raster.info.lens_tags else "database"
    params = {"across": 0.15, "down": -0.1, "size": 1.4, "haze": 0.0, "relight": 0.0}
    scene.sky = NewSky(id="sky", source="flat", latch=everything.id, horizon=1.0, params=params)
    development = engine.develop(scene, raster, lent=lambda source: flat)
    assert any(development.geometry.lens.falloff)
    view = development.geometry.fit(300)
    inside = development.sky.matte(view) > 0.999
    assert inside.mean() > 0.6
    stops = np.log2(development.light_planes(view)[1][inside])
    assert np.ptp(stops) < 0.06


def sky_at(engine, own, raster):
    """The light a fresh latch reads by."""
    return engine.develop(Scene(sources=[own]), raster).ground.read_at()
