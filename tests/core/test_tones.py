"""The rendering curve and its kernel; the fast logarithm and exponential."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numba import njit

from sunlatch.colour.tones import (
    MIDDLE_DISPLAY,
    SETTINGS,
    Tone,
    lightness,
    luminance,
    render_coefficients,
    render_tones,
    tone_curve,
    tone_table,
)
from sunlatch.fastmath import angle, cbrt, cos_sin, exp2, half_bits, half_value, log2

TONES = st.builds(
    Tone, st.floats(0.05, 0.3), st.floats(0.3, 6), st.floats(0.3, 6), st.just(1.0), st.booleans()
)


@given(TONES, st.floats(-14, -1), st.floats(0.5, 12))
def test_the_curve_passes_through_its_three_points(tone, black, white):
    ends = tone_curve(np.array([black, 0.0, white]), tone, black, white)
    assert np.allclose(ends, [0, MIDDLE_DISPLAY, 1], atol=1e-9)


@given(TONES, st.floats(-14, -1), st.floats(0.5, 12))
def test_the_curve_always_rises(tone, black, white):
    y = tone_curve(np.linspace(black - 2, white + 2, 500), tone, black, white)
    assert np.all(np.diff(y) >= -1e-12)
    assert y[0] == pytest.approx(0, abs=1e-12)
    assert y[-1] == pytest.approx(1)


def test_middle_grey_is_half_lightness():
    assert float(lightness(np.array(MIDDLE_DISPLAY))) == pytest.approx(0.5, abs=1e-6)
    p = np.linspace(0, 1, 99)
    assert np.allclose(lightness(luminance(p)), p)


def test_straight_is_straight_below_the_shoulder():
    stops = np.linspace(-5, 0.5, 50)
    y = tone_curve(stops, SETTINGS["straight"], -10, 3.0)
    assert np.abs(np.log2(y / (MIDDLE_DISPLAY * 2.0**stops))).max() < 0.05


def test_ends_on_one_side_are_refused():
    with pytest.raises(ValueError, match="middle grey"):
        tone_curve(np.zeros(1), SETTINGS["clear"], 1.0, 2.0)


def _rendered(rgb, tone=SETTINGS["clear"], space="srgb"):
    planes = np.ascontiguousarray(np.asarray(rgb, np.float32).reshape(-1, 3).T[:, None])
    out = np.empty_like(planes)
    render_tones(planes.copy(), tone_table(tone, -8, 2.5), render_coefficients(tone, space), out)
    return out[:, 0].T


def test_greys_stay_grey_and_follow_the_curve():
    stops = np.linspace(-9, 3.5, 300)
    out = _rendered(np.repeat(0.18 * 2.0 ** stops[:, None], 3, 1))
    expected = tone_curve(stops, SETTINGS["clear"], -8, 2.5)
    assert np.abs(out - expected[:, None]).max() < 3e-4


def test_nothing_leaves_the_unit_cube():
    rgb = np.random.default_rng(0).normal(0.2, 1.5, (5000, 3))
    out = _rendered(rgb)
    assert np.all(np.isfinite(out))
    assert out.min() >= 0
    assert out.max() <= 1


def test_hue_keeping_keeps_the_middle_channel_between():
    rgb = np.array([[0.5, 0.3, 0.1]])
    out = _rendered(rgb, Tone(0.165, 1.5, 1.4, 1.0), "rec2020")[0]
    assert (out[1] - out[2]) / (out[0] - out[2]) == pytest.approx(0.5, abs=2e-3)


@njit
def _apply(x, logs, powers):
    for i in range(x.size):
        logs[i] = log2(x[i])
        powers[i] = exp2(logs[i])


def test_fast_logarithm_and_exponential():
    x = np.geomspace(1e-9, 1e6, 400_001).astype(np.float32)
    logs, powers = np.empty_like(x), np.empty_like(x)
    _apply(x, logs, powers)
    exact = np.log2(x.astype(float))
    assert np.abs(logs - exact).max() < 4e-6
    assert np.abs(powers / 2.0 ** logs.astype(float) - 1).max() < 2e-5


@njit
def _to_half_and_back(x, bits, back):
    for i in range(x.size):
        bits[i] = half_bits(x[i])
        back[i] = half_value(bits[i])


def test_half_floats_agree_with_numpy():
    """Every finite half by its bits, and rounding between them."""
    every = np.arange(65536, dtype=np.uint16).view(np.float16)
    every = every[np.isfinite(every)]
    rng = np.random.default_rng(0)
    between = (rng.standard_normal(200_000) * 2.0 ** rng.integers(-20, 12, 200_000)).astype(np.float32)
    x = np.concatenate([every.astype(np.float32), between])
    bits, back = np.empty(x.size, np.uint16), np.empty(x.size, np.float32)
    _to_half_and_back(x, bits, back)
    assert np.array_equal(back, bits.view(np.float16).astype(np.float32))
    assert np.array_equal(back[: every.size], every.astype(np.float32))
    wanted = x.astype(np.float16).astype(np.float32)
    large = np.abs(x) >= 2.0**-14
    assert np.array_equal(back[large], wanted[large])
    assert np.abs(back - wanted)[~large].max() <= 2.0**-24


@njit
def _angles(x, y, turned, roots, cosines, sines):
    for i in range(x.size):
        turned[i] = angle(y[i], x[i])
        roots[i] = cbrt(x[i])
        cosines[i], sines[i] = cos_sin(y[i])


def test_roots_angles_and_turns_are_as_exact_as_they_say():
    rng = np.random.default_rng(3)
    x = (rng.choice([-1, 1], 4000) * 2.0 ** rng.uniform(-30, 12, 4000)).astype(np.float32)
    y = rng.uniform(-np.pi, np.pi, 4000).astype(np.float32)
    turned, roots, cosines, sines = (np.empty(4000, np.float32) for _ in range(4))
    _angles(x, y, turned, roots, cosines, sines)
    assert np.abs(turned - np.arctan2(y, x)).max() < 3e-5
    assert np.abs(roots / np.cbrt(x) - 1).max() < 5e-7
    assert np.abs(cosines - np.cos(y)).max() < 2e-4
    assert np.abs(sines - np.sin(y)).max() < 2e-4
