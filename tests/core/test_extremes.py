"""Nothing within its limits breaks the renderer: kernels at their extremes, alone and stacked, and light that is none."""

import dataclasses

import numpy as np
import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

from sunlatch.colour.tones import SETTINGS, render_coefficients, render_tones, tone_table
from sunlatch.compiled import kernel
from sunlatch.errors import SunLatchError
from sunlatch.fastmath import angle, cbrt, cos_sin, exp2, half_bits, log2, octave_place, smooth
from sunlatch.geometry import View
from sunlatch.latch import INGREDIENT_KINDS
from sunlatch.latch.base import STOPS_SIZE, by_light
from sunlatch.latch.refine import apply, apply_at, apply_colour
from sunlatch.ledger import EdgeTrue, Latch, ReadAt, new_ingredient, new_move
from sunlatch.moves import GROUND_KINDS, LIGHT_KINDS
from sunlatch.render import Engine, picture_8
from sunlatch.sensor.kernels import (
    LAB_SIZE,
    LIGHT_LIMIT,
    bound,
    bytes_table,
    encode_8,
    encode_16,
    encode_table,
    push_colour,
    read_lab,
    read_stops,
)

from .extremes import extremes
from .moving import moved

NONE = np.array([np.nan, np.inf, -np.inf, 0.0, -0.0, 1e38, -1e38, 0.18], np.float32)
"""What is no light, or hardly."""
SLOW = settings(max_examples=25, suppress_health_check=list(HealthCheck), deadline=None)


def _planes():
    """Every combination of these in three channels, (3, 16, 32)."""
    return np.ascontiguousarray(np.stack(np.meshgrid(NONE, NONE, NONE)).reshape(3, 16, 32), np.float32)


def _lights():
    """Black, white, negative, hugely bright and ordinary light side by side (3, 40, 60)."""
    rng = np.random.default_rng(2)
    rgb = 0.18 * 2.0 ** rng.uniform(-12, 4, (3, 40, 60))
    rgb[:, :8] = 0
    rgb[:, 8:14] = 1
    rgb[:, 14:20] *= -1
    rgb[:, 20:26] = LIGHT_LIMIT
    rgb[:, 26:30] = -LIGHT_LIMIT
    rgb[0, 30:34] = LIGHT_LIMIT
    return rgb.astype(np.float32)


def test_bounding_leaves_finite_light_and_touches_no_other():
    rgb = _planes()
    bound(rgb)
    assert np.isfinite(rgb).all()
    assert np.abs(rgb).max() <= LIGHT_LIMIT
    light = np.random.default_rng(1).normal(0, 100, (3, 7, 9)).astype(np.float32)
    kept = light.copy()
    bound(light)
    assert np.array_equal(light, kept)


@pytest.mark.parametrize("space", ["srgb", "p3", "rec2020"])
def test_encoding_what_is_no_light_stays_inside_its_table(space):
    planes = _planes()
    bytes_, words = np.full((16, 32, 3), 7, np.uint8), np.full((16, 32, 3), 7, np.uint16)
    encode_8(planes, bytes_table(space), bytes_)
    encode_16(planes, encode_table(space), words)
    number = np.isnan(planes).transpose(1, 2, 0)
    assert set(np.unique(bytes_[number])) == {0}
    assert set(np.unique(words[number])) == {0}
    assert bytes_[planes.transpose(1, 2, 0) > 1].min() == 255


@pytest.mark.parametrize("setting", list(SETTINGS))
def test_rendering_what_is_no_light_gives_display_light(setting):
    out = np.empty_like(_planes())
    table = tone_table(SETTINGS[setting], -8.0, 2.5)
    render_tones(_planes(), table, render_coefficients(SETTINGS[setting], "srgb"), out)
    assert np.isfinite(out).all()
    assert out.min() >= 0
    assert out.max() <= 1


def test_masks_of_what_is_no_light_are_masks():
    stops = np.tile(NONE, (16, 2)).astype(np.float32)
    model = np.ones((12, 14, 2), np.float32)
    places = np.stack([np.tile(NONE, (16, 2)), np.tile(NONE, (16, 2)).T.reshape(16, 16)]).astype(np.float32)
    lab = np.stack([stops, stops, stops])
    drawn = np.empty((16, 16), np.float32)
    apply_colour(lab, np.ones((4, 12, 14), np.float32), places, drawn, True)
    for mask in (
        by_light(stops, np.linspace(0, 1, STOPS_SIZE)),
        apply(stops, model, (0.0, 0.0, 0.1, 0.1)),
        apply_at(stops, model, places),
        drawn,
    ):
        assert np.isfinite(mask).all()
        assert mask.min() >= 0
        assert mask.max() <= 1


def test_reading_what_is_no_light_is_finite():
    planes, m = _planes(), np.eye(3, dtype=np.float32).ravel()
    stops, lab = np.empty((16, 32), np.float32), np.empty((3, 16, 32), np.float32)
    read_stops(planes, m[:3].copy(), stops)
    shown = np.linspace(0, 1, LAB_SIZE).astype(np.float32)
    read_lab(planes, m, np.full(3, 1 / 3, np.float32), shown, lab)
    assert np.isfinite(stops).all()
    assert np.isfinite(lab).all()
    bound(planes)
    push_colour(planes, np.float32(12))
    assert np.isfinite(planes).all()


@kernel("void(float32[::1], float32[:, ::1])")
def _every(x, out):  # type: ignore[no-untyped-def]
    for c in range(x.size):
        out[0, c] = log2(x[c])
        out[1, c] = exp2(x[c])
        out[2, c] = cbrt(min(max(np.float32(-1e30), x[c]), np.float32(1e30)))
        out[3, c], out[4, c] = cos_sin(x[c])
        out[5, c] = smooth(x[c])
        out[6, c] = octave_place(x[c], np.int32(-19))
        out[7, c] = np.float32(half_bits(x[c]))
        out[8, c] = angle(np.float32(0), min(max(np.float32(-1e30), x[c]), np.float32(1e30)))


def test_fast_mathematics_is_finite_for_what_is_no_number():
    out = np.empty((9, NONE.size), np.float32)
    _every(NONE, out)
    assert np.isfinite(out).all()


LINES = st.one_of(
    *(st.tuples(st.just(kind), extremes(declared.params)) for kind, declared in LIGHT_KINDS.items())
)


@pytest.mark.parametrize("kind", list(LIGHT_KINDS))
def test_a_move_at_its_extremes_leaves_finite_light(kind):
    @SLOW
    @given(
        extremes(LIGHT_KINDS[kind].params),
        st.sampled_from([0.05, 1.0, 2.0]),
        st.sampled_from([0.0, 0.5, 1.0]),
    )
    def holds(params, strength, mask):
        out = np.ascontiguousarray(
            moved(kind, _lights(), mask, strength, **params.model_dump(mode="json")), np.float32
        )
        if mask == 0:
            assert np.array_equal(out, _lights())
        bound(out)
        assert np.isfinite(out).all()

    holds()


@SLOW
@given(st.lists(st.tuples(LINES, st.sampled_from([1.0, 2.0])), min_size=2, max_size=8))
def test_moves_stacked_at_their_extremes_leave_finite_light(lines):
    rgb = _lights()
    for (kind, params), strength in lines:
        made = moved(kind, rgb, 1.0, strength, **params.model_dump(mode="json"))
        rgb = np.ascontiguousarray(made, np.float32)
        bound(rgb)
    assert np.isfinite(rgb).all()


@pytest.mark.parametrize(
    "lines",
    [
        [("contrast", {"amount": 1.5}, 2.0)] * 3,
        [("contrast", {"amount": 1.5}, 1.0)] * 5,
        [("exposure", {"ev": 6.0}, 2.0)] * 11,
        [("contrast", {"amount": 0.1}, 1.0)] * 60,
        [("exposure", {"ev": 6.0}, 2.0)] * 11 + [("exposure", {"ev": -6.0}, 2.0)] * 11,
    ],
    ids=["three steep", "five steep", "eleven lifts", "sixty", "up and down"],
)
def test_a_document_within_its_limits_is_rendered(coast, engine, lines):
    scene = coast.scene()
    scene.moves = [new_move(kind, params=params, strength=strength) for kind, params, strength in lines]
    development = engine.develop(scene, coast.pyramid)
    shown = picture_8(development, View((0, 0, 1, 1), (320, 213)), full=False)
    light = development.light_planes(View((0, 0, 1, 1), (320, 213)))
    assert np.isfinite(light).all()
    assert shown.shape == (213, 320, 3)


GROUND = {
    kind: extremes(declared.params)
    for kind, declared in GROUND_KINDS.items()
    if kind
    in (
        "noise",
        "crispness",
        "rescue",
        "rendering",
        "ends",
        "colour_of_light",
        "base_exposure",
        "lens",
        "plumb",
    )
}
SEEN = [
    k
    for k, declared in INGREDIENT_KINDS.items()
    if declared.evaluate is not None and k not in ("hand", "another")
]


@pytest.fixture(scope="module")
def odd_pyramid(coast):
    """The coast with black, negative, clipped and absurdly bright places in it, as halves can hold them."""
    levels = {}
    for k, level in coast.pyramid.levels.items():
        changed = np.array(level)
        h, w = changed.shape[:2]
        for n, value in enumerate((0, -1, 1, 6e4, -6e4, 1e-7)):
            changed[n * h // 8 : (n + 1) * h // 8, : w // 3] = value
        changed[h * 7 // 8 :, : w // 3, 0] = 6e4
        levels[k] = changed
    return dataclasses.replace(coast.pyramid, key="odd-whole", levels=levels, folder=None)


@settings(
    max_examples=40, suppress_health_check=list(HealthCheck), deadline=None,
    phases=[Phase.explicit, Phase.reuse, Phase.generate],  # to shrink a whole document takes minutes
)  # fmt: skip
@given(
    st.fixed_dictionaries({}, optional=GROUND),
    st.lists(
        st.one_of(*(st.tuples(st.just(k), extremes(INGREDIENT_KINDS[k].params)) for k in SEEN)), max_size=3
    ),
    st.lists(LINES, max_size=3),
    st.booleans(),
)
def test_any_document_within_its_limits_is_a_picture_or_a_sentence(
    coast, odd_pyramid, ground, terms, lines, edges
):
    engine, scene = Engine(threads=2, cache_bytes=64 << 20), coast.scene()
    for kind, params in ground.items():
        getattr(scene.ground, kind).params = params
    at = ReadAt(kelvin=1667, duv=0.05, base_exposure=8)
    latch = Latch(
        name="L", read_at=at, grow=60, feather=300, edge_true=EdgeTrue(on=edges, reach=0.05, texture=0.02)
    )
    latch.ingredients = [new_ingredient(kind, params=p.model_dump(mode="json")) for kind, p in terms]
    scene.latches = [latch]
    scene.moves = [
        new_move(kind, params=p.model_dump(mode="json"), strength=2, latch=latch.id) for kind, p in lines
    ]
    said = ""
    try:
        development = engine.develop(scene, odd_pyramid)
        view = development.geometry.fit(130)
        shown = picture_8(development, view, full=True)
        assert shown.shape == (view.size[1], view.size[0], 3)
        assert np.isfinite(development.light_planes(view)).all()
        mask = development.latches.mask(latch, view)
        assert mask.min() >= 0
        assert mask.max() <= 1
    except SunLatchError as error:
        said = str(error)
    assert len(said) < 400
