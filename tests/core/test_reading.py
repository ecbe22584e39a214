"""The reading picture's colour, what finders see, and what is kept of their findings."""

import numpy as np
import pytest

from sunlatch.colour import oklab
from sunlatch.colour.tones import lightness, tone_curve
from sunlatch.errors import DocumentError, RenderError
from sunlatch.geometry import View
from sunlatch.latch.base import sampled
from sunlatch.ledger import EdgeTrue, Latch, Spare, new_ingredient
from sunlatch.masking.reader import NEUTRAL_CURVE
from sunlatch.meters import colour_at, fan_rungs, why


def _latch(development, *ingredients, edge_true=False):
    return Latch(
        name="Place", read_at=development.ground.read_at(), edge_true=EdgeTrue(on=edge_true),
        ingredients=list(ingredients),
    )  # fmt: skip


def test_the_readings_colour_is_oklab_through_the_neutral_curve(development):
    """Against NumPy: the light's own OKLab, scaled as a whole to the curve's lightness."""
    view, at = development.geometry.fit(200), development.ground.read_at()
    lab, stops = development.reader.lab(view, at), development.reader.stops(view, at)
    light = development.light_planes(view).transpose(1, 2, 0).astype(float)
    tone, black, white = NEUTRAL_CURVE
    shown = tone_curve(stops.astype(float), tone, black, white)
    want = oklab(light) * np.cbrt(shown / (0.18 * 2.0 ** stops.astype(float)))[..., None]
    inside = (light > 1e-4).all(-1)
    assert inside.mean() > 0.9
    assert np.abs(lab.transpose(1, 2, 0) - want)[inside].max() < 4e-3
    greys = (np.abs(want[..., 1:]) < 0.01).all(-1) & inside
    assert np.allclose(want[greys][:, 0] * 1.16 - 0.16, lightness(shown[greys]), atol=0.02)


def test_ground_and_moves_shift_no_colour_of_the_reading(coast, engine):
    scene = coast.scene()
    first = engine.develop(scene, coast.pyramid)
    view, at = first.geometry.fit(150), first.ground.read_at()
    before = first.reader.lab(view, at).copy()
    scene.ground.base_exposure.params.ev = 1.5
    scene.ground.colour_of_light.params.kelvin = 3200
    scene.ground.noise.params.light = 1.0
    assert np.allclose(engine.develop(scene, coast.pyramid).reader.lab(view, at), before, atol=1e-6)


def test_finders_see_an_underexposed_frame_as_a_usual_one(development):
    """Their exposure brings the brightest percent to two stops over grey, whatever the scene says."""
    at = development.reader.finders_light()
    base = development.geometry.base
    bright = np.percentile(development.reader.stops(base.fit(256), at, base), 99)
    assert bright == pytest.approx(2.0, abs=0.05)


@pytest.mark.parametrize("damage", ["gone", "short", "garbage"])
def test_a_finding_that_was_lost_is_found_again(development, engine, damage):
    line = new_ingredient("sky")
    first = development.reader.finding(line)
    held = list(development.raster.folder.parent.glob("found-*.npy"))
    assert len(held) >= 1
    for path in held:
        whole = path.read_bytes()
        if damage == "gone":
            path.unlink()
        else:
            path.write_bytes(whole[: len(whole) // 2] if damage == "short" else b"not an array")
    again = type(engine)(threads=2).develop(development.scene, development.raster).reader.finding(line)
    assert np.allclose(again.mask, first.mask, atol=1e-4)
    assert not list(development.raster.folder.parent.glob(".found-*.part"))


def test_a_mask_of_the_frame_is_looked_up_where_px_lie():
    raster = np.linspace(0, 1, 8 * 12, dtype=np.float32).reshape(8, 12)
    v, u = np.mgrid[0:8, 0:12]
    places = np.stack([(u + 0.5) / 12, (v + 0.5) / 8]).astype(np.float32)
    assert np.allclose(sampled(raster, places), raster, atol=1e-6)
    between = sampled(raster, places[:, :, :-1] + np.float32([[[0.5 / 12]], [[0]]]))
    assert np.allclose(between, (raster[:, :-1] + raster[:, 1:]) / 2, atol=2e-3)


def test_why_gives_each_ingredient_and_the_whole(development):
    fan, ramp = new_ingredient("fan"), new_ingredient("ramp", join="keep_only")
    off = new_ingredient("pool", on=False)
    latch = _latch(development, fan, ramp, off)
    view = development.geometry.fit(10**6)
    whole = development.latches.mask(latch, view)
    h, w = whole.shape
    for x, y in ((0.2, 0.1), (0.5, 0.3), (0.8, 0.9)):
        said, result = why(development, latch, x, y)
        assert set(said) == {fan.id, ramp.id}
        assert result == pytest.approx(said[fan.id] * said[ramp.id], abs=0.01)
        around = whole[int(y * h) - 6 : int(y * h) + 7, int(x * w) - 6 : int(x * w) + 7]
        assert around.min() - 0.02 <= result <= around.max() + 0.02
    with pytest.raises(RenderError, match="outside the picture"):
        why(development, latch, 1.2, 0.5)
    with pytest.raises(DocumentError, match="no ingredient"):
        development.latches.term(latch, "nothing", view)


def test_a_picked_colour_is_that_of_the_place_and_is_held_there(development):
    latch = _latch(development, new_ingredient("colour"))
    picked = colour_at(development, latch.read_at, 0.3, 0.2)
    w, h = development.geometry.developed_size
    unit = development.geometry.long_edge
    assert np.allclose([picked.at.x, picked.at.y], [0.3 * w / unit, 0.2 * h / unit], atol=1e-6)
    sample = picked.model_dump(exclude={"shown"})
    held = _latch(development, new_ingredient("colour", params={"samples": [sample], "reach": 0.05}))
    mask = development.latches.mask(held, View((0.29, 0.19, 0.31, 0.21), (12, 12)))
    assert mask.mean() > 0.7
    assert development.latches.mask(held, development.geometry.fit(200)).mean() < 0.9
    less = _latch(
        development,
        new_ingredient("colour", params={"samples": [sample, sample | {"take": False}], "reach": 0.05}),
    )
    assert development.latches.mask(less, View((0.29, 0.19, 0.31, 0.21), (12, 12))).max() < 0.3


def test_edge_true_models_are_made_anew_only_where_a_shape_changes(coast, engine):
    """A ramp is straight on the developed plane, so lean bends it on the frame; a turn does not, and a latch
    without shapes keeps its model through anything."""
    scene = coast.scene()
    at = engine.develop(scene, coast.pyramid).ground.read_at()
    kinds = ("ramp", "fan")
    scene.latches += [Latch(name=k, read_at=at, ingredients=[new_ingredient(k)]) for k in kinds]
    trim, plumb = scene.ground.trim.params, scene.ground.plumb.params

    def models():
        development = engine.develop(scene, coast.pyramid)
        return [development.latches._edge_model(latch) for latch in scene.latches]

    still = models()
    trim.level = 4.0
    turned = models()
    fresh = type(engine)(threads=2).develop(scene, coast.pyramid)
    assert np.allclose(fresh.latches._edge_model(scene.latches[0]), turned[0], atol=1e-4)
    assert turned[0] is still[0]
    plumb.lean = 12.0
    leaned = models()
    assert np.abs(leaned[0] - still[0]).max() > 0.02
    assert leaned[1] is still[1]


def test_fine_edges_feather_and_growth_are_the_same_in_a_part_as_in_the_whole(coast, engine):
    development = engine.develop(coast.scene(), coast.pyramid)
    latch = Latch(name="L", ingredients=[new_ingredient("sky")], read_at=development.ground.read_at())
    view = development.geometry.fit(10**6)
    plain = development.latches.mask(latch, view)
    for changed in (
        {"grow": 6.0},
        {"feather": 9.0},
        {"fine_edges": True},
        {"fine_edges": True, "grow": -4.0},
    ):
        other = latch.model_copy(update=changed | {"id": str(changed)})
        whole = development.latches.mask(other, view)
        w, h = view.size
        x, y = w // 4, h // 4
        part = View((x / w, y / h, (w - x) / w, (h - y) / h), (w - 2 * x, h - 2 * y))
        inner = development.latches.mask(other, part)
        assert np.abs(inner - whole[y : h - y, x : w - x]).max() < 0.05, changed
        assert np.abs(whole - plain).max() > 0.1, changed
    assert (
        development.latches.mask(latch.model_copy(update={"grow": 6.0, "id": "grown"}), view).sum()
        > plain.sum()
    )


def test_a_spared_colour_is_what_the_colour_ingredient_holds(coast, engine):
    development = engine.develop(coast.scene(), coast.pyramid)
    at = development.ground.read_at()
    seen = colour_at(development, at, 0.5, 0.1)
    picked = {"samples": [{"at": seen.at.model_dump(), "l": seen.l, "a": seen.a, "b": seen.b}], "reach": 0.1}
    view = development.geometry.fit(300)
    held = Latch(
        name="L",
        ingredients=[new_ingredient("colour", params=picked)],
        read_at=at,
        edge_true=EdgeTrue(on=False),
    )
    mask = development.latches.mask(held, view)
    assert mask.max() > 0.9
    spare = Spare(what="colour", colour=picked, read_at=at)
    assert np.allclose(development.latches.where(None, [spare], view), 1 - mask, atol=1e-6)
    nothing = Spare(what="colour", read_at=at)
    assert development.latches.where(None, [nothing], view).min() == 1


@pytest.mark.parametrize("leaning", ["lights", "darks", "midtones"])
def test_the_fan_lies_at_the_rungs_of_which_it_takes_half(development, leaning):
    at = development.ground.read_at()
    narrow = [1.0, 2.7, 7.4]
    rungs = fan_rungs(development, at, leaning, narrow)
    assert rungs == sorted(rungs, reverse=leaning != "lights")
    view = development.geometry.fit(400)
    stops = development.reader.stops(view, at)
    for n, rung in zip(narrow, rungs, strict=True):
        fan = new_ingredient("fan", params={"leaning": leaning, "narrowness": n})
        latch = Latch(name="Fan", read_at=at, ingredients=[fan], edge_true=EdgeTrue(on=False))
        there = np.abs(stops - rung) < 0.05
        assert there.any()
        assert development.latches.mask(latch, view)[there].mean() == pytest.approx(0.5, abs=0.03)
