"""Projections and the sphere: inverses, what goes round, and the largest rectangle, by hypothesis and by brute force."""

import math
from itertools import product

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from sunlatch.geometry import PROJECTIONS, Geometry, Master, Member, Outline, Sphere, rotation
from sunlatch.geometry.projection import along, towards
from sunlatch.geometry.trim import widest

ANGLE = st.floats(-1.1, 1.1)


@given(st.sampled_from(sorted(PROJECTIONS)), ANGLE, st.floats(-0.9, 0.9), st.floats(0.0, 1.5))
def test_every_projection_comes_back(name: str, right: float, down: float, squeeze: float) -> None:
    laid = PROJECTIONS[name]
    direction = towards(np.array(right), np.array(down))
    there = laid.onto(direction, squeeze)
    assert np.allclose(laid.back(there, squeeze), direction, atol=1e-9)


@pytest.mark.parametrize("name", sorted(PROJECTIONS))
def test_a_radian_in_the_middle_is_one_long(name: str) -> None:
    step = 1e-5
    for axis in range(2):
        d = towards(np.array(step if axis == 0 else 0.0), np.array(step if axis else 0.0))
        assert PROJECTIONS[name].onto(d, 1.0)[axis] == pytest.approx(step, rel=1e-6)


def test_rectilinear_keeps_lines_straight_and_stereographic_angles() -> None:
    t = np.linspace(-0.8, 0.8, 30)
    plane = np.stack([t, 0.3 + 0.4 * t, np.ones_like(t)], -1)  # a line in the world
    line = PROJECTIONS["rectilinear"].onto(plane / np.linalg.norm(plane, axis=1, keepdims=True), 1.0)
    assert np.abs(np.polyval(np.polyfit(line[:, 0], line[:, 1], 1), line[:, 0]) - line[:, 1]).max() < 1e-9
    at, step = np.array([0.7, -0.4]), 1e-5
    right, down = (
        PROJECTIONS["stereographic"].onto(towards(*(at + d)), 1.0)
        - PROJECTIONS["stereographic"].onto(towards(*at), 1.0)
        for d in (np.array([step / math.cos(at[1]), 0]), np.array([0, step]))
    )
    assert right @ down / np.linalg.norm(right) / np.linalg.norm(down) == pytest.approx(0, abs=1e-3)


def sweep_of(count: int, step: float, **shown: object) -> tuple[Geometry, Sphere]:
    focal = 500.0
    members = tuple(
        Member(tuple(rotation(0, -step * (n - (count - 1) / 2), 0).ravel()), focal, 400, 600)
        for n in range(count)
    )
    wide = count * step > 359
    half = math.pi if wide else math.radians(step * (count - 1) / 2) + 0.45
    width = round(2 * half * focal)
    master = Master(-half, -0.62, (width, 620), width / (2 * half))
    sphere = Sphere(master, Outline(members), 600, **shown)  # type: ignore[arg-type]
    return Geometry(*master.size, sphere=sphere, unit=600), sphere


@given(
    st.sampled_from(sorted(PROJECTIONS)), st.floats(-12, 12), st.floats(-8, 8), st.floats(-40, 40),
    st.floats(0.25, 0.75), st.floats(0.3, 0.7),
)  # fmt: skip
def test_the_map_of_a_sweep_comes_back(
    name: str, roll: float, lean: float, facing: float, u: float, v: float
) -> None:
    turn = tuple(float(x) for x in (rotation(lean, 0, roll) @ rotation(0, -facing, 0)).ravel())
    geometry, sphere = sweep_of(4, 25.0, projection=name, rotation=turn)
    place = np.array([[u * sphere.master.size[0], v * sphere.master.size[1]]]) / 600
    there = geometry.to_turned(place)
    if np.abs(there).max() < 3:
        assert np.allclose(geometry.turned_to_source(there), place, atol=1e-7)


def test_all_the_way_round_there_is_no_edge() -> None:
    geometry, sphere = sweep_of(
        12, 30.0, projection="cylindrical", rotation=tuple(rotation(0, -170, 0).ravel())
    )
    assert sphere.master.wraps
    assert geometry.wraps
    box = geometry.box
    assert box.width == pytest.approx(2 * math.pi * sphere.master.focal / 600, rel=1e-3)
    x = np.linspace(box.x0, box.x1, 700)
    source = geometry.turned_to_source(np.stack([x, x * 0], -1))[:, 0]
    steps = np.diff(source)
    assert steps.min() > 0
    assert np.ptp(steps) < 1e-9


def test_what_frames_cover_is_what_any_of_them_sees() -> None:
    _, sphere = sweep_of(3, 30.0)
    grid = sphere.master.directions(sphere.master.grid(61, 41))
    by_hand = np.zeros(grid.shape[:2], bool)
    for r, c in product(range(41), range(61)):
        for member in sphere.outline.members:
            d = np.array(member.rotation).reshape(3, 3) @ grid[r, c]
            if d[2] > 0 and abs(d[0] / d[2]) * 500 <= 200 and abs(d[1] / d[2]) * 500 <= 300:
                by_hand[r, c] = True
    assert np.array_equal(sphere.outline.covered(grid), by_hand)
    assert Outline(sphere.outline.members) == sphere.outline
    assert Outline(sphere.outline.members[:2]) != sphere.outline


@given(arrays(bool, st.tuples(st.integers(1, 7), st.integers(1, 7))))
def test_the_largest_rectangle_is_the_largest(there: np.ndarray) -> None:
    best = 0
    rows, columns = there.shape
    for top, left in product(range(rows), range(columns)):
        for bottom, right in product(range(top + 1, rows + 1), range(left + 1, columns + 1)):
            if there[top:bottom, left:right].all():
                best = max(best, (bottom - top) * (right - left))
    found = widest(there)
    if found is None:
        assert best == 0
    else:
        top, bottom, left, right = found
        assert there[top:bottom, left:right].all()
        assert (bottom - top) * (right - left) == best


def test_directions_and_angles_are_inverse() -> None:
    rng = np.random.default_rng(1)
    angles = np.stack([rng.uniform(-3, 3, 50), rng.uniform(-1.5, 1.5, 50)], -1)
    assert np.allclose(along(towards(angles[:, 0], angles[:, 1])), angles)
