"""Reshape and Nudge: what is pinned lies where it is carried, lines are straight, nothing folds, latches stay on their thing."""

import uuid

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from sunlatch.binding import shapes
from sunlatch.binding.shapes import shaped
from sunlatch.blocks import reader
from sunlatch.errors import MendError
from sunlatch.geometry import (
    Box,
    Geometry,
    Lattice,
    LensShape,
    Trimmed,
    filled,
    homography,
    mesh_of,
    spread,
    warp,
)
from sunlatch.geometry.field import AREA_LEAST, Field, determinants, held_back
from sunlatch.geometry.lattice import scattered
from sunlatch.ledger import (
    BentLine,
    EdgeTrue,
    Latch,
    NudgeLine,
    NudgeStroke,
    Pin,
    PulledPart,
    ReshapeLine,
    SpecksRepair,
    load_scene,
    new_ingredient,
    parse_scene,
)
from sunlatch.mend import spot_of

PLAIN = Geometry(3000, 2000)
TURNED = Geometry(
    3000, 2000, 6, LensShape((0, -0.04, 0, 0)),
    tuple(float(v) for v in homography(4, 2, 1, 0, 1.2).ravel()), 1.5,
)  # fmt: skip


def reshape(**fields) -> ReshapeLine:
    return ReshapeLine(id=str(uuid.uuid4()), **fields)


def stroke(
    verb: str, *places: tuple[float, float], radius: float = 0.06, strength: float = 1.0
) -> NudgeStroke:
    points = [v for x, y in places for v in (x, y, 1.0)]
    return NudgeStroke(verb=verb, points=points, radius=radius, strength=strength)


def nudge(*strokes: NudgeStroke) -> NudgeLine:
    return NudgeLine(id=str(uuid.uuid4()), strokes=list(strokes))


@settings(max_examples=25)
@given(
    st.lists(st.tuples(st.floats(0.1, 0.9), st.floats(0.1, 0.55), st.floats(-0.02, 0.02), st.floats(-0.02, 0.02)),
             min_size=1, max_size=8),
    st.booleans(), st.sampled_from([PLAIN, TURNED]),
)  # fmt: skip
def test_pins_lie_where_they_are_carried_and_the_way_back_is_the_way(pins, edges, before):
    held: list[tuple[float, ...]] = []
    for pin in pins:  # two that lie together cannot both be met
        if all(np.hypot(pin[0] - p[0], pin[1] - p[1]) > 0.15 for p in held):
            held.append(pin)
    line = reshape(pins=[Pin(x=x, y=y, dx=dx, dy=dy) for x, y, dx, dy in held])
    line.params.edges = edges
    g = shaped(before, [line])
    places = np.array([p[:2] for p in held])
    wanted = before.to_turned(places) + np.array([p[2:] for p in held])
    if not g.fields:
        assert np.abs(wanted - before.to_turned(places)).max() < 1e-9
        return
    if g.fields[0].share == 1.0:
        assert np.abs(g.to_turned(places) - wanted).max() * 3000 < 1
    assert determinants(g.fields[0].nodes).min() >= AREA_LEAST * 0.999
    grid = np.stack(np.meshgrid(np.linspace(0.03, 0.97, 30), np.linspace(0.03, 0.63, 20)), -1)
    assert np.abs(g.turned_to_source(g.to_turned(grid)) - grid).max() * 3000 < 0.02


def test_what_is_far_from_a_pin_stays():
    line = reshape(pins=[Pin(x=0.2, y=0.2, dx=0.03)])
    line.params.reach = 0.15
    g = shaped(PLAIN, [line])
    away = np.array([[0.9, 0.6]])
    assert np.abs(g.to_turned(away) - PLAIN.to_turned(away)).max() * 3000 < 0.3


def test_edges_stay_and_the_picture_its_size():
    line = reshape(pins=[Pin(x=0.1, y=0.1, dx=-0.04, dy=-0.03)])
    g = shaped(PLAIN, [line])
    t = np.linspace(0, 2 / 3, 50)
    left = g.to_turned(np.stack([t * 0, t], -1))
    assert np.abs(left[:, 0] + 0.5).max() * 3000 < 1e-3
    assert g.developed_size == (3000, 2000)
    line.params.edges = False
    assert shaped(PLAIN, [line]).developed_size != (3000, 2000)


@pytest.mark.parametrize("what", ["straight", "level"])
@pytest.mark.parametrize("before", [PLAIN, TURNED])
def test_a_bent_shore_is_made_straight(what, before):
    xs = np.linspace(0.05, 0.95, 9)
    bent = 0.3 + 0.015 * np.sin(3.3 * xs) + 0.004 * np.sin(9 * xs)
    line = reshape(lines=[BentLine(points=np.column_stack([xs, bent]).ravel().tolist(), what=what)])
    if before is TURNED and what == "level":
        line.lines[0].what = "upright"  # a frame on its side
    g = shaped(before, [line])
    assert g.fields[0].share == 1.0
    t = np.linspace(0.06, 0.94, 300)
    shown = g.to_turned(np.column_stack([t, 0.3 + 0.015 * np.sin(3.3 * t) + 0.004 * np.sin(9 * t)]))
    middle = shown.mean(0)
    way = np.linalg.svd(shown - middle, full_matrices=False)[2][0]
    off = (shown - middle) @ np.array([-way[1], way[0]])
    assert np.abs(off).max() * 3000 < 3  # the line through nine places is itself a px or two from the truth
    if what == "level":
        assert abs(way[1] if before is PLAIN else way[0]) < 1e-3


def test_a_foreground_is_pulled_larger_and_the_rest_stays():
    outline = [-0.01, 0.42, 1.01, 0.42, 1.01, 0.68, -0.01, 0.68]
    line = reshape(pulled=[PulledPart(outline=outline, amount=1.3)])
    g = shaped(PLAIN, [line])
    assert g.developed_size == (3000, 2000)
    far = np.array([[0.2, 0.1], [0.8, 0.4]])
    assert np.abs(g.to_turned(far) - PLAIN.to_turned(far)).max() * 3000 < 0.5
    near = g.to_turned(np.array([[0.4, 0.64], [0.6, 0.64]]))
    assert 0.24 < near[1, 0] - near[0, 0] < 0.27
    stretch = g.stretched(9, 8)
    assert stretch[0].max() < 1.01
    assert stretch[-1, 4] > 1.15


def test_nothing_folds_whatever_is_asked():
    line = reshape(pins=[Pin(x=0.4, y=0.3, dx=0.3), Pin(x=0.5, y=0.3, dx=-0.3)])
    g = shaped(PLAIN, [line])
    assert 0 < g.fields[0].share < 0.8
    assert determinants(g.fields[0].nodes).min() == pytest.approx(AREA_LEAST, abs=0.03)
    hard = nudge(*(stroke("carry", (0.3, 0.3), (0.5, 0.3)) for _ in range(6)))
    many = shaped(PLAIN, [hard])
    assert many.fields[0].share < 1
    assert determinants(many.fields[0].nodes).min() >= AREA_LEAST * 0.99


@settings(max_examples=20)
@given(st.floats(-2, 2), st.floats(-2, 2))
@example(0.6875, 1.0)
def test_held_back_is_just_within_what_may_be(a, b):
    def ask(points):
        x, y = points[..., 0], points[..., 1]
        return np.stack([a * np.sin(3 * x) * np.cos(2 * y), b * np.sin(2 * x + y)], -1) * 0.4

    nodes = Lattice.over((0.0, 0.0), (0.02, 0.02), (50, 40), ask)
    made, share = held_back(nodes)
    assert determinants(made).min() >= AREA_LEAST - 1e-6
    if share < 1:
        # a little more of it comes to that bound; some fields come away from it again with more still
        more = share * np.linspace(1, 1.05, 51)
        least = [determinants(Lattice(nodes.values * f, nodes.start, nodes.step)).min() for f in more]
        assert min(least) < AREA_LEAST + 1e-4


def test_the_kernel_is_the_reference_between_nodes():
    rng = np.random.default_rng(3)
    nodes = Lattice(rng.random((2, 12, 17)), (0.1, -0.2), (0.05, 0.06))
    points = np.column_stack([rng.uniform(0.1, 0.79, 200), rng.uniform(-0.2, 0.33, 200)])
    assert np.allclose(scattered(nodes, points), nodes.at(points), atol=1e-12)
    rim = scattered(nodes, np.array([[9.0, 9.0], [-9.0, 0.0]]))
    assert np.isfinite(rim).all()
    assert np.abs(rim).max() < 2


def test_a_brush_carries_swells_draws_in_settles_and_puts_back():
    carried = shaped(PLAIN, [nudge(stroke("carry", (0.4, 0.3), (0.43, 0.31)))])
    moved = carried.to_turned(np.array([[0.4, 0.3]])) - PLAIN.to_turned(np.array([[0.4, 0.3]]))
    assert np.allclose(moved[0], [0.03, 0.01], atol=0.004)
    rim = np.array([[0.4, 0.3 + 0.1]])
    assert np.abs(carried.to_turned(rim) - PLAIN.to_turned(rim)).max() * 3000 < 0.01
    pair = np.array([[0.385, 0.3], [0.415, 0.3]])

    def apart(*strokes: NudgeStroke) -> float:
        shown = shaped(PLAIN, [nudge(*strokes)]).to_turned(pair)
        return float(shown[1, 0] - shown[0, 0])

    assert apart(stroke("swell", (0.4, 0.3))) > 0.0315
    assert apart(stroke("draw_in", (0.4, 0.3))) < 0.0285
    there = [stroke("carry", (0.4, 0.3), (0.43, 0.31))]
    back = shaped(PLAIN, [nudge(*there, *(stroke("put_back", (0.42, 0.3), radius=0.15) for _ in range(40)))])
    size = np.abs(back.fields[0].nodes.values).max()
    assert size < 0.2 * np.abs(carried.fields[0].nodes.values).max()
    settled = shaped(PLAIN, [nudge(*there, *(stroke("settle", (0.42, 0.3), radius=0.1) for _ in range(30)))])
    assert determinants(settled.fields[0].nodes).min() > determinants(carried.fields[0].nodes).min()


def test_a_stroke_touches_what_lies_there_after_those_before():
    first = stroke("carry", (0.4, 0.3), (0.44, 0.3))
    at = shaped(PLAIN, [nudge(first)]).turned_to_source(PLAIN.to_turned(np.array([[0.5, 0.34]])))[0]
    g = shaped(PLAIN, [nudge(first, stroke("swell", tuple(at), radius=0.04))])
    # the swelling lies about where the pointer was, though the picture had been carried there
    d = g.fields[0].nodes.values - shaped(PLAIN, [nudge(first)]).fields[0].nodes.values
    j, i = np.argwhere(np.hypot(*d) > 1e-5).mean(0)
    x = g.fields[0].nodes.start[0] + (i - 1) * g.fields[0].nodes.step[0]
    y = g.fields[0].nodes.start[1] + (j - 1) * g.fields[0].nodes.step[1]
    assert np.allclose([x, y], PLAIN.to_turned(np.array([[0.5, 0.34]]))[0], atol=0.004)


@pytest.mark.parametrize(
    "line",
    [
        reshape(pins=[Pin(x=0.3, y=0.3, dx=0.02, dy=-0.02), Pin(x=0.7, y=0.4)]),
        nudge(stroke("carry", (0.5, 0.3), (0.515, 0.31), radius=0.04), stroke("swell", (0.3, 0.4))),
    ],
)
def test_px_and_what_is_drawn_over_them_come_from_where_the_map_says(line):
    g = shaped(TURNED, [line])
    view = g.fit(1200)
    found = np.empty((2, view.size[1], view.size[0]), np.float32)
    spread(g.lattice(view, g.turned_to_source), np.ones(2), np.zeros(2), 0, found)
    true = g.turned_to_source(g.points(view))
    assert np.abs(found.transpose(1, 2, 0) - true).max() * 1200 < 0.4
    mesh = np.abs(mesh_of(g).at(g.points(view)) - true)
    assert mesh.max() * 1200 < 1.0
    y, x = np.mgrid[:200, :300].astype(np.float32)
    picture = np.stack([0.4 + 0.3 * np.sin(x / 14) * np.cos(y / 11)] * 3, -1).astype(np.float32)
    small = shaped(Geometry(300, 200, trim=Trimmed(empty=True)), [line])
    full = small.fit(10**6)
    drawn = warp(reader(picture), (300, 200), small, full)
    at = small.turned_to_source(small.points(full)) * 300
    inside = (at > 6).all(-1) & (at < [294, 194]).all(-1)
    wanted = 0.4 + 0.3 * np.sin((at[..., 0] - 0.5) / 14) * np.cos((at[..., 1] - 0.5) / 11)
    assert np.abs(drawn[0] - wanted)[inside].max() < 4e-3


def test_lines_lie_one_upon_another_and_follow_the_map_below():
    one, two = reshape(pins=[Pin(x=0.3, y=0.3, dx=0.03)]), nudge(stroke("carry", (0.3, 0.3), (0.3, 0.33)))
    both = shaped(PLAIN, [one, two])
    assert len(both.fields) == 2
    moved = both.to_turned(np.array([[0.3, 0.3]])) - PLAIN.to_turned(np.array([[0.3, 0.3]]))
    assert np.allclose(moved[0], [0.03, 0.03], atol=0.004)
    one.on = False
    assert len(shaped(PLAIN, [one, two]).fields) == 1
    # another level: the same thing is carried by as much
    level = shaped(Geometry(3000, 2000, level=3.0), [two])
    moved = level.to_turned(np.array([[0.3, 0.3]])) - Geometry(3000, 2000, level=3.0).to_turned(
        np.array([[0.3, 0.3]])
    )
    assert np.hypot(*moved[0]) == pytest.approx(0.03, abs=0.003)


def test_a_field_has_its_inverse_where_it_is_steep():
    nodes, _ = held_back(
        Lattice.over((-0.6, -0.4), (0.01, 0.01), (120, 80), lambda p: 0.2 * np.sin(p[..., ::-1] * 6 + p * 7))
    )
    field = Field("x", nodes)
    rng = np.random.default_rng(5)
    places = rng.uniform([-0.4, -0.2], [0.4, 0.2], (400, 2))
    assert np.abs(field.under(field.over(places)) - places).max() < 1e-6


def test_documents_hold_them_and_older_ones_have_none(coast):
    scene = coast.scene()
    scene.shapes = [reshape(pins=[Pin(x=0.3, y=0.3, dx=0.02)]), nudge(stroke("swell", (0.4, 0.3)))]
    again = parse_scene(scene.model_dump_json())
    assert again == scene
    old = scene.model_dump(mode="json") | {"schema_version": 5}
    del old["shapes"]
    assert parse_scene(old).shapes == []


def test_a_latch_painted_before_stays_on_its_thing_through_a_repair_a_reshape_and_a_crop(coast, engine):
    """Within one px of the frame, by the middle of what is held."""
    scene = coast.scene()
    at = engine.develop(scene, coast.pyramid).ground.read_at()
    here = (0.42, 0.47)
    painted = {"points": [*here, 1.0], "radius": 0.02, "soft": 0.6, "flow": 1.0}
    scene.latches = [
        Latch(name="Hand", read_at=at, edge_true=EdgeTrue(on=False),
              ingredients=[new_ingredient("hand", params={"strokes": [painted]})])
    ]  # fmt: skip

    def off() -> tuple[float, float]:
        """How far the middle of the mask lies from where the map has the thing, px; and how large it is."""
        d = engine.develop(scene, coast.pyramid)
        view = d.geometry.fit(10**6)
        mask = d.latches.mask(scene.latches[0], view)
        y, x = np.mgrid[: mask.shape[0], : mask.shape[1]] + 0.5
        middle = np.array([(mask * x).sum(), (mask * y).sum()]) / mask.sum()
        wanted = d.geometry.to_developed(np.array(here)) * d.geometry.long_edge
        return float(np.hypot(*(middle - wanted))), float(mask.sum())

    before, size = off()
    assert before < 0.3
    d = engine.develop(scene, coast.pyramid)
    spot = spot_of(d.raster, *(np.array(here) * d.raster.info.long_edge), 6.0)
    scene.repairs = [SpecksRepair(id=str(uuid.uuid4()), spots=[spot])]
    scene.shapes = [reshape(pins=[Pin(x=0.4, y=0.4, dx=0.02, dy=-0.015), Pin(x=0.7, y=0.3)])]
    moved, larger = off()
    assert moved < 1
    assert 0.6 < larger / size < 1.6
    scene.ground.trim.params.level = 2.0
    scene.ground.trim.params.width = 0.6
    assert off()[0] < 1


def test_a_ragged_outline_is_drawn_out_to_the_edges():
    box = Box(-1.0, -0.4, 1.0, 0.4)

    def covered(points):
        x, y = points[..., 0], points[..., 1]
        upper = -0.36 + 0.02 * np.cos(7 * x) + np.where(x < 0.1, 0.015, 0)
        lower = 0.37 - 0.015 * np.cos(5 * x) - np.where(x > 0.4, 0.02, 0)
        return (y > upper) & (y < lower) & (np.abs(x + 0.05 * y) < 0.95)

    nodes, share = filled(box, covered, 1.0)
    assert share == 1.0
    field = Field("", nodes)
    grid = np.stack(np.meshgrid(np.linspace(-0.999, 0.999, 400), np.linspace(-0.399, 0.399, 160)), -1)
    assert covered(field.under(grid)).mean() > 0.998
    middle = np.array([[0.0, 0.0], [0.3, 0.05]])
    assert np.abs(field.under(middle) - middle).max() < 0.02
    assert not covered(grid).all()
    half, _ = filled(box, covered, 0.5)
    assert covered(grid).mean() < covered(Field("", half).under(grid)).mean() < 0.998


def test_from_the_command_line_a_line_is_made_straight_listed_and_taken_out(
    coast, tmp_path, capsys, monkeypatch
):
    from sunlatch.cli import app

    monkeypatch.setenv("SUNLATCH_CACHE", str(tmp_path / "cache"))

    def run(*words):
        app(list(words), standalone_mode=False)
        return capsys.readouterr().out.strip()

    document = str(tmp_path / "scene.json")
    run("new", str(coast.path), "-o", document)
    told = run("mend", document, "straighten", "0.1,0.4", "0.5,0.43", "0.9,0.4", "--level")
    assert told == "1: Reshape: 1 line"
    (shape,) = load_scene(tmp_path / "scene.json").shapes
    assert shape.lines[0].what == "level"
    assert len(shape.lines[0].points) == 6
    assert run("mend", document, "list") == told
    with pytest.raises(MendError, match="three points"):
        run("mend", document, "straighten", "0.1,0.4", "0.5,0.43")
    assert run("mend", document, "rm", "1") == "removed: Reshape: 1 line"
    assert load_scene(tmp_path / "scene.json").shapes == []


@settings(max_examples=15)
@given(
    st.lists(
        st.tuples(
            st.sampled_from(["carry", "swell", "draw_in", "settle", "put_back"]),
            st.floats(0.1, 0.9), st.floats(0.1, 0.55), st.floats(-0.1, 0.1), st.floats(-0.1, 0.1), st.floats(0.02, 0.1),
        ),
        min_size=2, max_size=4,
    )
)  # fmt: skip
def test_strokes_come_to_the_same_one_by_one_and_all_at_once(drawn):
    """While the last is drawn, those before it stand: what is held of them is what they would come to anew."""
    strokes = [stroke(v, (x, y), (x + a, y + b), radius=r) for v, x, y, a, b, r in drawn]
    lines = [nudge(*strokes[: n + 1]) for n in range(len(strokes))]
    one_by_one = [shaped(PLAIN, [line]) for line in lines][-1]
    shapes._fields.clear()
    shapes._made.cache_clear()
    at_once = shaped(PLAIN, [lines[-1]])
    for one, other in zip(one_by_one.fields, at_once.fields, strict=True):
        assert np.array_equal(one.nodes.values, other.nodes.values)
        assert one.share == other.share
        assert determinants(one.nodes).min() >= AREA_LEAST * 0.999
