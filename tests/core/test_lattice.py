"""Between nodes the map is what its formulas say; and another map is drawn through as well as our own."""

from dataclasses import dataclass

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from sunlatch.blocks import reader
from sunlatch.geometry import Geometry, LensShape, Trimmed, View, homography, mesh_of, source_map, warp
from sunlatch.geometry.lattice import INTERVAL, Lattice, spread


def _spread(nodes, size):
    out = np.empty((nodes.values.shape[0], size[1], size[0]), np.float32)
    spread(nodes, np.ones(len(out)), np.zeros(len(out)), 0, out)
    return out


@given(st.lists(st.floats(-2, 2), min_size=16, max_size=16), st.integers(17, 90), st.integers(1, 70))
def test_cubics_are_exact(coefficients, width, height):
    c = np.array(coefficients).reshape(4, 4)

    def ask(points):
        return np.polynomial.polynomial.polyval2d(points[..., 0], points[..., 1], c)[..., None]

    step = 1 / 90
    count = -(-width // INTERVAL), -(-height // INTERVAL)
    nodes = Lattice.over((0.1, -0.3), (step * INTERVAL, step * INTERVAL), count, ask)
    points = np.stack(np.meshgrid(0.1 + step * np.arange(width), -0.3 + step * np.arange(height)), -1)
    assume(np.abs(nodes.values).max() < 9)  # farther ones are held
    assert np.allclose(nodes.at(points), ask(points), atol=1e-9)
    assert np.allclose(_spread(nodes, (width, height))[0], ask(points)[..., 0], atol=1e-5)


@settings(max_examples=15)
@given(
    st.tuples(
        st.floats(-25, 25), st.floats(-25, 25), st.floats(-20, 20), st.floats(-0.3, 0.3), st.floats(0.5, 2.5)
    ),
    st.floats(-0.12, 0.15), st.floats(-30, 30),
)  # fmt: skip
def test_px_are_a_twentieth_of_one_from_their_place_at_worst(turn, bend, level):
    plumb = tuple(float(v) for v in homography(*turn).ravel())
    g = Geometry(6000, 4000, 1, LensShape((0, bend, 0.02, 0)), plumb, level, Trimmed(empty=True))
    view = g.fit(1200)
    found = _spread(g.lattice(view, g.turned_to_source), view.size).transpose(1, 2, 0)
    true = g.turned_to_source(g.points(view))
    inside = ((true > 0) & (true < 2 * g.middle)).all(-1)
    assert np.abs(found - true)[inside].max(initial=0) * 1200 < 0.05


def test_what_is_asked_behind_the_camera_stays_finite():
    nodes = Lattice.over((0.0, 0.0), (1.0, 1.0), (4, 4), lambda p: 1 / np.maximum(1e-12, 2 - p[..., :1]))
    assert np.isfinite(_spread(nodes, (64, 64))).all()


@dataclass(frozen=True)
class _Carried(Geometry):
    """A map with a field of displacements between Trim and the turned plane, as Reshape will have one."""

    def _field(self, points):
        return np.asarray(points) + 0.01 * np.sin(np.asarray(points)[..., ::-1] * 9)

    def turned_to_source(self, points):
        return Geometry.turned_to_source(self, self._field(points))

    def radius2(self, points):
        return Geometry.radius2(self, self._field(points))


@pytest.fixture
def carried():
    plumb = tuple(float(v) for v in homography(3, 1, 0, 0, 1).ravel())
    return _Carried(240, 160, 1, LensShape((0, -0.04, 0, 0), falloff=(-0.3, 0, 0)), plumb, 2.0)


def test_a_field_of_displacements_needs_one_formula(carried):
    """Px, places, the box and what is drawn over all follow a map of another form."""
    y, x = np.mgrid[:160, :240].astype(np.float32)
    picture = np.stack([0.4 + 0.3 * np.sin(x / 14) * np.cos(y / 11)] * 3, -1).astype(np.float32)
    view = carried.fit(10**6)
    drawn = warp(reader(picture), (240, 160), carried, view)
    at = carried.turned_to_source(carried.points(view)) * 240
    inside = (at > 6).all(-1) & (at < [234, 154]).all(-1)
    wanted = 0.4 + 0.3 * np.sin((at[..., 0] - 0.5) / 14) * np.cos((at[..., 1] - 0.5) / 11)
    assert inside.mean() > 0.7
    assert np.abs(drawn[0] - wanted)[inside].max() < 2e-3
    out = np.empty((3, view.size[1], view.size[0]), np.float32)
    source_map(carried, view, (0, view.size[1]), out)
    assert np.abs(out[:2].transpose(1, 2, 0) - at / [240, 160]).max() < 1e-4
    mesh = mesh_of(carried).at(carried.points(view)) * 240
    assert np.abs(mesh - at).max() < 0.1


def test_a_view_is_the_same_in_parts(carried):
    view = carried.fit(10**6)
    whole = _spread(carried.lattice(view, carried.turned_to_source), view.size)
    part = View((40 / view.size[0], 30 / view.size[1], 1, 1), (view.size[0] - 40, view.size[1] - 30))
    assert np.allclose(
        _spread(carried.lattice(part, carried.turned_to_source), part.size),
        whole[:, 30:, 40:],
        atol=0.01 / 240,
    )
