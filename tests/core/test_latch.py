"""Ingredients, the algebra of masks, and edge-true refinement."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from sunlatch.errors import DocumentError
from sunlatch.geometry import View
from sunlatch.latch import INGREDIENT_KINDS, Reading, combine
from sunlatch.latch.base import stop_axis
from sunlatch.latch.refine import apply, fit, guide_of
from sunlatch.ledger import EdgeTrue, Latch, Spare, new_ingredient
from sunlatch.masking.masks import spared

MASKS = arrays(np.float32, (4, 5), elements=st.floats(0, 1, width=32))


@given(MASKS, MASKS)
def test_joins_stay_masks_and_mean_what_they_say(a, b):
    for join in ("add", "keep_only", "take_away"):
        out = combine(a, b, join)
        assert out.min() >= 0
        assert out.max() <= 1 + 1e-6
    assert np.allclose(combine(a, b, "add"), combine(b, a, "add"), atol=1e-6)
    assert np.all(combine(a, b, "add") >= np.maximum(a, b) - 1e-6)
    assert np.all(combine(a, b, "keep_only") <= np.minimum(a, b) + 1e-6)
    # what is taken away and what is kept only make up the whole
    assert np.allclose(combine(a, b, "take_away") + combine(a, b, "keep_only"), a, atol=1e-6)


@given(MASKS, MASKS)
def test_de_morgan(a, b):
    assert np.allclose(1 - combine(a, b, "add"), combine(1 - a, 1 - b, "keep_only"), atol=1e-6)


def _reading(stops, place=None):
    h, w = stops.shape
    axis = stop_axis()
    return Reading(
        stops=np.ascontiguousarray(stops, np.float32),
        lightness=np.clip((axis + 8) / 12, 0, 1),
        place=place or (0.5 / w, 0.5 / h, 1 / w, 1 / h),
        aspect=(1.0, h / w),
        to_developed=lambda p: p,
    )


STOPS = np.linspace(-9, 4, 300, dtype=np.float32).reshape(10, 30)


@pytest.mark.parametrize("leaning", ["lights", "darks", "midtones"])
@pytest.mark.parametrize("n", [1.0, 2.5, 8.0])
def test_fan_is_its_formula(leaning, n):
    line = new_ingredient("fan", params={"leaning": leaning, "narrowness": n})
    mask = INGREDIENT_KINDS["fan"].evaluate(line.params, _reading(STOPS))
    light = np.clip((STOPS + 8) / 12, 0, 1)
    base = {"lights": light, "darks": 1 - light, "midtones": 4 * light * (1 - light)}[leaning]
    assert np.allclose(mask, base**n, atol=4e-3)


def test_a_narrower_fan_takes_less():
    masks = [
        INGREDIENT_KINDS["fan"].evaluate(
            new_ingredient("fan", params={"narrowness": n}).params, _reading(STOPS)
        )
        for n in (1, 2, 4)
    ]
    assert np.all(masks[0] >= masks[1] - 1e-6)
    assert np.all(masks[1] >= masks[2] - 1e-6)


def test_light_range_is_full_inside_and_soft_at_both_ends():
    line = new_ingredient("light_range", params={"low": -2, "high": 1, "soft_low": 1, "soft_high": 2})
    mask = INGREDIENT_KINDS["light_range"].evaluate(line.params, _reading(STOPS))
    assert np.all(mask[(STOPS >= -2) & (STOPS <= 1)] > 0.999)
    assert np.all(mask[(STOPS < -3) | (STOPS > 3)] < 1e-3)
    assert float(np.interp(-2.5, STOPS.ravel(), mask.ravel())) == pytest.approx(0.5, abs=0.01)
    assert float(np.interp(2.0, STOPS.ravel(), mask.ravel())) == pytest.approx(0.5, abs=0.01)


def test_ramp_runs_between_its_ends():
    flat = np.zeros((100, 150))
    line = new_ingredient("ramp", params={"full": {"x": 0.5, "y": 0.1}, "none": {"x": 0.5, "y": 0.5}})
    mask = INGREDIENT_KINDS["ramp"].evaluate(line.params, _reading(flat))
    rows = (np.arange(100) + 0.5) / 150
    t = np.clip((0.5 - rows) / 0.4, 0, 1)
    assert np.allclose(mask, (t * t * (3 - 2 * t))[:, None], atol=1e-5)


@pytest.mark.parametrize(
    ("kind", "params", "said"),
    [
        ("ramp", {"full": {"x": 0.5, "y": 0.5}, "none": {"x": 0.5, "y": 0.5}}, "apart"),
        ("light_range", {"low": 2, "high": 1}, "lower to a higher"),
        ("fan", {"narrowness": 0.5}, "greater than or equal to 1"),
    ],
)
def test_impossible_ingredients_are_refused(kind, params, said):
    with pytest.raises(DocumentError, match=said):
        new_ingredient(kind, params=params)


def test_refinement_moves_a_soft_mask_to_the_edge():
    rng = np.random.default_rng(5)
    stops = np.where(np.arange(200)[None] < 100, -3.0, 1.0) + rng.normal(0, 0.08, (120, 200))
    blurred = np.clip((np.arange(200)[None] - 90) / 20, 0, 1) * np.ones((120, 1))
    stops32 = stops.astype(np.float32)
    model = fit(blurred.astype(np.float32), guide_of(stops32, 0.06, 0.3), 0.06)
    out = apply(stops.astype(np.float32), model, (0.5 / 200, 0.5 / 120, 1 / 200, 1 / 120))
    inner = out[20:-20]
    assert inner[:, 92:98].mean() < 0.2
    assert inner[:, 102:108].mean() > 0.8
    assert (inner[:, 100] - inner[:, 99]).mean() > 5 * (blurred[0, 100] - blurred[0, 99])


def test_spare_clauses_spare(development):
    at = development.ground.read_at()
    axis = stop_axis()
    dark = spared(Spare(what="shadows", edge=-3, soft=1.5, read_at=at))
    light = spared(Spare(what="highlights", edge=1, soft=1.0, read_at=at))
    assert np.all(dark[axis <= -4.5] == 0)
    assert np.all(dark[axis >= -3] == 1)
    assert np.all(light[axis >= 2] == 0)
    assert np.all(light[axis <= 1] == 1)


def _sky(development):
    return Latch(
        name="Sky",
        read_at=development.ground.read_at(),
        ingredients=[
            new_ingredient("light_range", params={"low": -1.2, "high": 10, "soft_low": 0.6}),
            new_ingredient(
                "ramp",
                join="keep_only",
                params={"full": {"x": 0.5, "y": 0.38}, "none": {"x": 0.5, "y": 0.44}},
            ),
        ],
    )


def test_sky_by_light_and_ramp_holds_the_worlds_sky(coast, development):
    """Light and a ramp alone must separate a backlit sky from rock and water, by the world's truth."""
    w, h = development.geometry.developed_size
    mask = development.latches.mask(_sky(development), View((0, 0, 1, 1), (w, h)))
    sky, rock = coast.truth.sky > 0.99, coast.truth.land > 0.99
    sky[round(0.36 * w) :] = False  # below, the ramp lets go on purpose
    assert mask[sky].mean() > 0.9
    assert mask[rock].mean() < 0.03
    assert mask[coast.truth.water > 0.99].mean() < 0.1


def test_a_mask_is_the_same_in_a_tile_and_in_the_whole(development):
    w, h = development.geometry.developed_size
    latch = _sky(development)
    latch.edge_true = EdgeTrue(reach=0.01)
    whole = development.latches.mask(latch, View((0, 0, 1, 1), (w, h)))
    box = (400, 200, 700, 380)
    tile = development.latches.mask(
        latch, View((box[0] / w, box[1] / h, box[2] / w, box[3] / h), (box[2] - box[0], box[3] - box[1]))
    )
    assert np.abs(tile - whole[box[1] : box[3], box[0] : box[2]]).max() < 2e-3


def test_a_latch_does_not_chase_ground(coast, engine, development):
    """The mask reads the picture at its own stored light, so Ground's changes do not move it."""
    view = development.geometry.fit(600)
    latch = _sky(development)
    before = development.latches.mask(latch, view)
    scene = coast.scene()
    scene.ground.base_exposure.params.ev = 2.0
    scene.ground.colour_of_light.params.kelvin = 3400.0
    after = engine.develop(scene, coast.pyramid).latches.mask(latch, view)
    assert np.array_equal(before, after)


def test_an_empty_latch_holds_nothing(development):
    latch = Latch(name="Empty", read_at=development.ground.read_at())
    assert development.latches.mask(latch, development.geometry.fit(100)).max() == 0
