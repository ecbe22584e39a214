"""Spaces, light, camera colour, profiles: against published values and each other."""

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sunlatch.colour import CameraColour, LightColour, camera_to_working, light_of_neutral, output_profile
from sunlatch.colour.light import kelvin_duv_to_xy, planckian_xy, xy_to_kelvin_duv
from sunlatch.colour.profiles import to_linear_working
from sunlatch.colour.spaces import (
    D65,
    adaptation,
    decode,
    encode,
    rgb_to_xyz,
    working_to_output,
    xy_to_xyz,
)
from tests.conftest import ciede2000

LIGHTS = st.builds(LightColour, st.floats(1800, 20000), st.floats(-0.02, 0.02))
CAMERA = CameraColour(
    (
        (2856.0, (1.02, -0.34, -0.10, -0.42, 1.24, 0.20, -0.06, 0.17, 0.62)),
        (6504.0, (0.87, -0.28, -0.09, -0.46, 1.27, 0.21, -0.09, 0.19, 0.71)),
    ),
    (0.42, 1.0, 0.83),
    "file",
)


def test_srgb_matrix_is_the_published_one():
    published = [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]
    assert np.allclose(rgb_to_xyz("srgb"), published, atol=2e-4)


def test_black_bodies_lie_where_the_tables_say():
    for kelvin, x, y in (
        (2000, 0.5267, 0.4133),
        (2856, 0.4476, 0.4074),
        (6500, 0.3135, 0.3237),
        (10000, 0.2807, 0.2884),
    ):
        assert np.allclose(planckian_xy(kelvin), (x, y), atol=1.5e-3)


@given(LIGHTS)
@example(LightColour(4000.0, 0.01953125))
@example(LightColour(2222.0, -0.02))
def test_kelvin_and_duv_come_back(light):
    back = xy_to_kelvin_duv(kelvin_duv_to_xy(light))
    assert back.kelvin == pytest.approx(light.kelvin, rel=2e-4)
    assert back.duv == pytest.approx(light.duv, abs=2e-5)


@pytest.mark.parametrize("light", [LightColour(1200, 0), LightColour(30000, 0), LightColour(5000, 0.2)])
def test_lights_out_of_range_are_refused(light):
    with pytest.raises(ValueError, match="outside"):
        kelvin_duv_to_xy(light)


@given(LIGHTS)
def test_the_chosen_light_prints_neutral(light):
    white = CAMERA.matrix(light.kelvin) @ xy_to_xyz(kelvin_duv_to_xy(light))
    working = camera_to_working(CAMERA, light) @ (white / white.max())
    assert np.allclose(working, 1.0, atol=1e-9)


@given(st.floats(2500, 12000), st.floats(-0.01, 0.01))
def test_a_neutral_names_its_light(kelvin, duv):
    light = LightColour(kelvin, duv)
    neutral = CAMERA.matrix(kelvin) @ xy_to_xyz(kelvin_duv_to_xy(light))
    found = light_of_neutral(CAMERA, neutral)
    assert found.kelvin == pytest.approx(kelvin, rel=0.01)
    assert found.duv == pytest.approx(duv, abs=1e-3)


def test_an_empty_channel_names_no_light():
    with pytest.raises(ValueError, match="empty"):
        light_of_neutral(CAMERA, np.array([0.0, 1.0, 1.0]))


def test_adaptation_carries_white_to_white():
    a = np.array([0.4476, 0.4074])
    assert np.allclose(adaptation(a, D65) @ xy_to_xyz(a), xy_to_xyz(D65))


@pytest.mark.parametrize("space", ["srgb", "p3", "rec2020", "linear"])
@pytest.mark.parametrize("dtype", [np.uint8, np.uint16, np.float32])
def test_profiles_mean_to_others_what_they_mean_to_us(space, dtype):
    top = {np.uint8: 255, np.uint16: 65535, np.float32: 1}[dtype]
    data = (np.random.default_rng(3).random((9, 7, 3)) * top).astype(dtype)
    read = to_linear_working(data, output_profile(space))
    ours = decode(data / top, space) @ np.linalg.inv(working_to_output(space)).T
    assert np.abs(read - ours).max() < 5e-5


@given(st.floats(0, 1), st.sampled_from(["srgb", "p3", "rec2020"]))
def test_encoding_comes_back(value, space):
    assert float(decode(encode(np.array(value), space), space)) == pytest.approx(value, abs=1e-9)


def test_damaged_profile_is_refused():
    with pytest.raises(ValueError, match=r".+"):
        to_linear_working(np.zeros((2, 2, 3), np.uint8), b"not a profile")


def test_the_difference_formula_itself():
    """Pairs from Sharma, Wu & Dalal 2005, table 1."""
    pairs = [
        ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
        ((50, 2.5, 0), (73, 25, -18), 27.1492),
        ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
    ]
    for one, two, expected in pairs:
        assert float(ciede2000(np.array(one, float), np.array(two, float))) == pytest.approx(
            expected, abs=1e-4
        )
