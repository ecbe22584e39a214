"""The coordinate map and the one resampling."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.blocks import reader
from sunlatch.geometry import Geometry, View, resample


def drawn(picture, rectangle, size):
    """A rectangle of an array (h, w, 3), resampled."""
    return resample(reader(picture), picture.shape[1::-1], rectangle, size)


MAPS = st.builds(Geometry, st.integers(20, 5000), st.integers(20, 5000), st.integers(1, 8))


@given(MAPS, st.floats(-0.5, 1.5), st.floats(-0.5, 1.5))
def test_there_and_back(geometry, x, y):
    p = np.array([[x, y]])
    assert np.allclose(geometry.to_source(geometry.to_developed(p)), p)


@given(MAPS)
def test_the_frame_fills_the_developed_picture(geometry):
    w, h = geometry.width / geometry.long_edge, geometry.height / geometry.long_edge
    corners = geometry.to_developed(np.array([[0, 0], [w, h]], float))
    size = np.array(geometry.developed_size) / geometry.long_edge
    assert np.allclose(corners.min(0), 0)
    assert np.allclose(corners.max(0), size)


@pytest.mark.parametrize("orientation", range(1, 9))
def test_pixels_and_coordinates_turn_together(orientation):
    """A marked source pixel is found where the map says."""
    source = np.zeros((4, 6, 3), np.float32)
    source[1, 4] = 1
    geometry = Geometry(6, 4, orientation)
    width, height = geometry.developed_size
    turned = (height, width) if orientation >= 5 else (width, height)
    planes = geometry.turn(drawn(source, (0, 0, 6, 4), turned))
    assert planes.shape == (3, height, width)
    u = geometry.to_developed(np.array([[4.5 / 6, 1.5 / 6]]))[0] * 6
    assert planes[0, int(u[1]), int(u[0])] == 1
    assert planes[0].sum() == 1


def test_identity_is_exact():
    picture = np.random.default_rng(1).random((37, 53, 3)).astype(np.float32)
    assert np.array_equal(drawn(picture, (0, 0, 53, 37), (53, 37)), picture.transpose(2, 0, 1))


def test_reducing_averages_area():
    picture = np.random.default_rng(2).random((40, 60, 3)).astype(np.float32)
    out = drawn(picture, (0, 0, 60, 40), (30, 20))
    expected = picture.reshape(20, 2, 30, 2, 3).mean((1, 3)).transpose(2, 0, 1)
    assert np.allclose(out, expected, atol=1e-6)


@given(st.floats(0.3, 0.94))
def test_flat_stays_flat_at_any_scale(scale):
    flat = np.full((60, 80, 3), 0.37, np.float32)
    out = drawn(flat, (0, 0, 80, 60), (max(1, round(80 * scale)), max(1, round(60 * scale))))
    assert np.allclose(out, 0.37, atol=1e-5)


def test_a_part_agrees_with_the_whole():
    picture = np.random.default_rng(3).random((90, 120, 3)).astype(np.float32)
    whole = drawn(picture, (0, 0, 120, 90), (80, 60))
    part = drawn(picture, (30, 30, 90, 60), (40, 20))
    assert np.allclose(part, whole[:, 20:40, 20:60], atol=1e-5)


def test_a_view_cut_into_rows_lies_in_the_same_place():
    view = View((0.1, 0.2, 0.9, 0.8), (80, 60))
    rows = view.rows(15, 30)
    geometry = Geometry(600, 400)
    place = geometry.place(view)
    assert geometry.place(rows)[1] == pytest.approx(place[1] + 15 * place[3])
    assert geometry.place(rows)[0] == place[0]
