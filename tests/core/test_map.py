"""Lens, plumb and trim, composed into one map; and pixels drawn through it once."""

import base64
import json
import math
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from sunlatch.blocks import reader
from sunlatch.errors import GeometryError
from sunlatch.geometry import (
    Geometry,
    LensShape,
    PlumbLine,
    Trimmed,
    View,
    described,
    homography,
    mesh_of,
    residual,
    solve,
    source_map,
    warp,
)
from sunlatch.geometry.trim import _reach

TRUTH = Path(__file__).resolve().parents[2] / "web" / "src" / "model" / "plane.truth.json"
LENSES = st.builds(
    LensShape,
    st.tuples(st.just(0.0), st.floats(-0.12, 0.15), st.floats(-0.02, 0.04), st.just(0.0)),
)
TURNS = st.tuples(
    st.floats(-25, 25), st.floats(-25, 25), st.floats(-20, 20), st.floats(-0.3, 0.3), st.floats(0.5, 2.5)
)


def _turned(turn):
    return tuple(float(v) for v in homography(*turn).ravel())


def _maps(trim=None):
    return st.builds(
        lambda w, h, o, lens, turn, level: Geometry(w, h, o, lens, _turned(turn), level, trim or Trimmed()),
        st.integers(300, 6000), st.integers(300, 6000), st.integers(1, 8), LENSES, TURNS, st.floats(-30, 30),
    )  # fmt: skip


@given(_maps(), st.floats(0.02, 0.98), st.floats(0.02, 0.98))
def test_places_come_back(geometry, x, y):
    p = np.array([[x, y]]) * 2 * geometry.middle
    turned = geometry.to_turned(p)
    assume(np.abs(turned).max() < 3)
    assert np.allclose(geometry.turned_to_source(turned), p, atol=1e-7)
    assert np.allclose(geometry.to_source(geometry.to_developed(p)), p, atol=1e-7)


@given(_maps())
def test_no_empty_corner_is_shown(geometry):
    w, h = geometry.developed_size
    assume(min(w, h) > 4)
    b = geometry.box
    t = np.linspace(0, 1, 60)
    edge = np.concatenate(
        [np.stack([b.x0 + t * b.width, t * 0 + y], -1) for y in (b.y0, b.y1)]
        + [np.stack([t * 0 + x, b.y0 + t * b.height], -1) for x in (b.x0, b.x1)]
    )
    source = geometry.turned_to_source(edge) * geometry.long_edge
    slack = 1.5  # px: between the places that are asked a curved edge may bulge a little
    assert source.min() > -slack
    assert (source - [geometry.width, geometry.height]).max() < slack


@given(_maps(Trimmed(empty=True)))
def test_with_corners_everything_is_shown(geometry):
    w, h = 2 * geometry.middle
    corners = geometry.to_turned(np.array([[0, 0], [w, 0], [0, h], [w, h]]))
    assume(np.abs(corners).max() < 1.5)
    box = geometry.box
    slack = 2 / geometry.long_edge
    assert np.all(corners >= np.array([box.x0, box.y0]) - slack)
    assert np.all(corners <= np.array([box.x1, box.y1]) + slack)


def test_a_crop_stays_on_its_thing():
    """Whatever lens, plumb and level do, the crop's middle shows the same place of the frame."""
    centre = (0.55, 0.3)
    for lens, turn, level in (
        (LensShape(), (0, 0, 0, 0, 1), 0.0), (LensShape((0, -0.05, 0, 0)), (6, -2, 1, 0.1, 0.8), 3.0),
    ):  # fmt: skip
        g = Geometry(4000, 3000, 1, lens, _turned(turn), level, Trimmed(centre, 0.3, None, 1.5))
        w, h = g.developed_size
        assert w / h == pytest.approx(1.5, abs=0.01)
        middle = g.to_source(np.array([w, h]) / 2 / g.long_edge)
        assert np.allclose(middle, centre, atol=1 / 4000)


def test_a_crop_on_a_straight_map_lies_on_whole_px():
    g = Geometry(4001, 3001, 1, trim=Trimmed((0.4, 0.3), 0.31, None, 1.5))
    x0, y0, x1, y1 = g.source_rectangle(g.fit(10**6))
    assert [x0 % 1, y0 % 1] == pytest.approx([0, 0], abs=1e-6)
    assert (round(x1 - x0), round(y1 - y0)) == g.developed_size


def _told_to_the_face():
    """Maps as the server sends them, with places of the frame and where they lie on the developed picture."""
    size = (4000, 3000)
    bent = LensShape((0, -0.05, 0.01, 0))
    for g in (
        Geometry(*size), Geometry(*size, 8), Geometry(*size, 1, level=7.0),
        Geometry(*size, 1, bent, _turned((12, -3, 1.5, 0.1, 0.7)), 2.0, Trimmed((0.5, 0.4), 0.5, None, 1.5)),
        Geometry(*size, 3, bent, _turned((-25, 15, 10, 0.2, 0.9)), -4.0),
    ):  # fmt: skip
        source = np.array([[0.1, 0.2], [0.9, 0.5], [0.02, 0.73], [0.5, 0.375]])
        yield {
            "map": described(g) | {"kept": []},
            "source": source.tolist(),
            "picture": (g.to_developed(source) / [g.box.width, g.box.height]).round(9).tolist(),
        }


def test_the_face_is_told_the_cores_map():
    """web/src/model/plane.test.ts checks itself against this file, which `python tests/core/test_map.py` writes."""
    for case, now in zip(json.loads(TRUTH.read_text()), _told_to_the_face(), strict=True):
        assert np.allclose(case["picture"], now["picture"], atol=1e-8)
        for name in ("box", "canvas", "size"):
            assert np.allclose(case["map"][name], now["map"][name], atol=1e-9)
        held, fresh = (
            np.frombuffer(base64.b64decode(m["map"]["mesh"]["source"]), "<f4") for m in (case, now)
        )
        assert np.allclose(held, fresh, atol=1e-6)


@given(_maps(), st.floats(0.05, 0.95), st.floats(0.05, 0.95))
def test_what_is_drawn_over_the_picture_lies_on_its_thing(geometry, x, y):
    """The mesh against the map, in px of the frame."""
    p = np.array([[x, y]]) * 2 * geometry.middle
    turned = geometry.to_turned(p)
    canvas = geometry.canvas
    assume(np.all(turned >= [canvas.x0, canvas.y0]) and np.all(turned <= [canvas.x1, canvas.y1]))
    assert np.abs(mesh_of(geometry).at(turned) - p).max() * geometry.long_edge < 1


# the lens


@given(LENSES, st.floats(0, 1))
def test_a_lens_is_undone(lens, true):
    seen = true * float(lens.factor(np.array(true**2)))
    assert float(lens.undo(np.array(seen))) == pytest.approx(true, abs=1e-6)


@pytest.mark.parametrize(
    ("shape", "said"),
    [
        (LensShape((0, -2.0, 0, 0)), "fold the picture"),
        (LensShape((0, math.nan, 0, 0)), "fold the picture"),
        (LensShape(red=(0.5, 0)), "absurdly far apart"),
        (LensShape(falloff=(-1.2, 0, 0)), "no light reaches the corners"),
    ],
)
def test_absurd_lenses_are_refused(shape, said):
    with pytest.raises(GeometryError, match=said):
        shape.check()


# plumb


def _seen(points, lean, swing, roll, focal):
    """Where a camera standing like that draws points of its straight picture."""
    h = np.linalg.inv(homography(lean, swing, roll, 0.0, focal))
    p = np.concatenate([points, np.ones((*points.shape[:-1], 1))], -1) @ h.T
    return p[..., :2] / p[..., 2:]


ANGLES = st.floats(-18, 18)


@given(ANGLES, ANGLES, st.floats(-12, 12), st.floats(0.6, 2.0))
def test_the_turn_is_found_from_uprights_and_levels(lean, swing, roll, focal):
    straight = np.array(
        [[[-0.25, -0.2], [-0.25, 0.2]], [[0.22, -0.2], [0.22, 0.15]], [[-0.2, -0.15], [0.2, -0.15]],
         [[-0.2, 0.18], [0.22, 0.18]]]
    )  # fmt: skip
    seen = _seen(straight, lean, swing, roll, focal)
    lines = [PlumbLine(tuple(a), tuple(b), "upright" if n < 2 else "level") for n, (a, b) in enumerate(seen)]
    found = solve(lines, focal)
    assert max(abs(v) for v in residual(lines, *found, focal)) <= 0.05
    assert np.allclose(found, (lean, swing, roll), atol=0.02)


@given(st.floats(-20, 20), st.floats(-10, 10))
def test_two_uprights_say_how_the_camera_leaned(lean, roll):
    straight = np.array([[[-0.3, -0.2], [-0.3, 0.2]], [[0.25, -0.2], [0.25, 0.2]]])
    lines = [PlumbLine(tuple(a), tuple(b), "upright") for a, b in _seen(straight, lean, 0, roll, 0.9)]
    found = solve(lines, 0.9)
    assert max(abs(v) for v in residual(lines, *found, 0.9)) <= 0.05
    assert found[1] == 0
    assert found[0] == pytest.approx(lean, abs=0.4)


def test_one_line_only_rolls():
    lean, swing, roll = solve([PlumbLine((-0.3, 0.02), (0.3, -0.02), "level")], 1.0)
    assert lean == 0
    assert roll != 0 or swing != 0
    assert abs(residual([PlumbLine((-0.3, 0.02), (0.3, -0.02), "level")], lean, swing, roll, 1.0)[0]) < 0.05


@pytest.mark.parametrize(
    ("lines", "said"),
    [
        ([], "draw a line"),
        ([PlumbLine((0, 0), (0.001, 0.01), "upright")], "too short"),
        ([PlumbLine((-0.3, 0), (0.3, 0.02), "upright")], "lies across that"),
        ([PlumbLine((-0.1, -0.2), (0.1, 0.2), "upright"), PlumbLine((0.1, -0.2), (-0.1, 0.2), "upright")], "cross"),
        ([PlumbLine((0.1, -0.2), (0.1, 0), "upright"), PlumbLine((0.1, 0.05), (0.1, 0.2), "upright")], "lie on one another"),
        ([PlumbLine((-0.3, -0.3), (-0.05, 0.3), "upright"), PlumbLine((0.3, -0.3), (0.05, 0.3), "upright")], "can be undone"),
    ],
)  # fmt: skip
def test_lines_that_cannot_be_are_refused_with_a_reason(lines, said):
    with pytest.raises(GeometryError, match=said):
        solve(lines, 0.75)


def test_parallel_uprights_only_roll():
    """Parallel lines say that the camera did not lean; it is rolled, and nothing blows up."""
    t = math.radians(4)
    along = np.array([math.sin(t), math.cos(t)]) * 0.2
    lines = [
        PlumbLine(tuple(c - along), tuple(c + along), "upright")
        for c in (np.array([-0.25, 0]), np.array([0.25, 0]))
    ]
    lean, _, roll = solve(lines, 1.0)
    assert abs(roll) == pytest.approx(4, abs=0.1)
    assert abs(lean) < 0.3


# drawing through the map


def _smooth_picture(w=240, h=160):
    y, x = np.mgrid[0:h, 0:w] + 0.5
    return np.dstack([0.4 + 0.3 * np.sin(x / 14 + k) * np.cos(y / 11 - k) for k in range(3)]).astype(
        np.float32
    )


def test_px_come_from_where_the_map_says():
    """Against the function the picture was made from, at places the map gives."""
    picture = _smooth_picture()
    g = Geometry(
        240,
        160,
        1,
        LensShape((0, -0.06, 0, 0), (0.004, 0), (-0.003, 0.001)),
        _turned((5, -3, 2, 0.1, 0.9)),
        1.5,
    )
    view = g.fit(10**6)
    drawn = warp(reader(picture), (240, 160), g, view)
    source = g.turned_to_source(g.points(view))
    from_middle = source - g.middle
    s2 = (from_middle**2).sum(-1, keepdims=True) / g.half_diagonal**2
    for k, q in enumerate(((0.004, 0), (0, 0), (-0.003, 0.001))):
        at = (from_middle * (1 + q[0] + q[1] * s2) + g.middle) * 240
        wanted = 0.4 + 0.3 * np.sin(at[..., 0] / 14 + k) * np.cos(at[..., 1] / 11 - k)
        inside = (at > 6).all(-1) & (at < [234, 154]).all(-1)
        assert np.abs(drawn[k] - wanted)[inside].max() < 2e-3


def test_blocks_and_views_agree():
    picture = _smooth_picture(700, 400)
    g = Geometry(700, 400, 1, LensShape((0, -0.05, 0, 0)), level=2.0)
    whole = warp(reader(picture), (700, 400), g, g.fit(10**6))
    w, h = g.developed_size
    part = View((100 / w, 60 / h, 400 / w, 260 / h), (300, 200))
    assert np.allclose(warp(reader(picture), (700, 400), g, part), whole[:, 60:260, 100:400], atol=2e-4)


def test_a_hard_edge_gets_no_rim():
    """Sixteen to one, turned a little: nothing darker than the dark side, nothing lighter than the light."""
    picture = np.ones((200, 300, 3), np.float32)
    picture[:100] = 16
    g = Geometry(300, 200, 1, level=3.0)
    drawn = warp(reader(picture), (300, 200), g, g.fit(10**6))
    assert drawn.min() >= 1 - 1e-4
    assert drawn.max() <= 16 + 1e-3


def test_origins_and_falloff():
    g = Geometry(300, 200, 6, LensShape((0, -0.05, 0, 0), falloff=(-0.4, 0.1, 0)), level=1.0)
    view = g.fit(150)
    out = np.empty((3, view.size[1], view.size[0]), np.float32)
    for rows in ((0, 40), (40, view.size[1])):
        source_map(g, view, rows, out[:, slice(*rows)])
    wanted = g.turned_to_source(g.points(view))
    upright = g.base.to_canvas(wanted) / [g.base.canvas.width, g.base.canvas.height]
    assert np.allclose(out[:2].transpose(1, 2, 0), upright, atol=1e-5)
    s2 = ((wanted - g.middle) ** 2).sum(-1) / g.half_diagonal**2
    assert np.allclose(out[2], 1 / g.lens.transmitted(np.minimum(s2, 1)), rtol=1e-4)


@given(_maps(), st.floats(0.3, 3.0))
def test_the_box_is_as_large_as_the_map_allows(geometry, aspect):
    """What is asked ten thousand times is answered by numbers, as by the map itself."""
    assume(min(geometry.canvas.width, geometry.canvas.height) > 0.02)
    centre = np.array(geometry.canvas.centre) * 0.3
    half = np.array([aspect, 1.0]) / max(aspect, 1.0)
    reach = float(_reach(centre[None], half, 1.0, geometry.cover, 16)[0])
    edge = np.linspace(-1, 1, 17)
    ring = np.concatenate(
        [np.stack([edge, edge * 0 + s], -1) for s in (-1, 1)]
        + [np.stack([edge * 0 + s, edge], -1) for s in (-1, 1)]
    )

    def fits(factor):
        return bool(geometry.covered(centre + ring * half * factor).all())

    assert fits(reach * (1 - 1e-3)) or reach < 1e-3
    assert reach > 0.999 or not fits(reach + 1e-3)


if __name__ == "__main__":
    TRUTH.write_text(json.dumps(list(_told_to_the_face()), indent=1) + "\n")
