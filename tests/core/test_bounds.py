"""What lies at the bounds of a document: it is a picture all the same, or is refused where it is read."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from sunlatch.blocks import Block
from sunlatch.errors import DocumentError
from sunlatch.geometry import LensShape, Member
from sunlatch.ledger import (
    Area,
    BentLine,
    CloneRepair,
    HealRepair,
    ReshapeLine,
    Source,
    Speck,
    SpecksRepair,
    Take,
    WireRepair,
    parse_scene,
)
from sunlatch.ledger.joined import SOURCES, Sweep, SweepMember
from sunlatch.ledger.shapes import PulledPart
from sunlatch.mend import circle, units
from sunlatch.mend.area import shade, shade_in
from sunlatch.mend.units import units_of
from sunlatch.parameters import FARTHEST

from .mending import under

PX = 1 / 1272


def _picture(coast, engine, **parts):
    scene = coast.scene()
    for name, value in parts.items():
        setattr(scene, name, value)
    development = engine.develop(parse_scene(scene.model_dump(mode="json")), coast.pyramid)
    return development.light_planes(development.geometry.fit(200))


OUTSIDE = [
    [-2.5 * PX, -3 * PX, 0.2, -2.2 * PX, 0.1, -8 * PX], [1 + 2.4 * PX, 0.1, 1 + 9 * PX, 0.2, 1 + 3 * PX, 0.3],
    [30.0, 30.0, 31.0, 30.0, 30.0, 31.0], [-FARTHEST] * 6,
]  # fmt: skip


@pytest.mark.parametrize("outline", OUTSIDE)
@pytest.mark.parametrize("kind", [HealRepair, CloneRepair])
def test_an_area_just_outside_the_frame_does_nothing(coast, engine, outline, kind):
    repair = kind(id="r", area=Area(outline=outline), take=Take(dx=0.1, dy=0.1))
    assert np.array_equal(_picture(coast, engine, repairs=[repair]), _picture(coast, engine))


def test_a_stroke_just_outside_and_specks_far_away_do_nothing(coast, engine):
    heal = HealRepair(id="r", area=circle(-0.01, 0.3, 0.01 - 2 * PX), take=Take(dx=0.1, dy=0.0))
    specks = SpecksRepair(
        id="s", spots=[Speck(x=x, y=0.2, radius=0.01, dx=0.1, dy=0) for x in (6.5, -FARTHEST, FARTHEST)]
    )
    wire = WireRepair(id="w", path=[-0.2, -0.5, 6.0, -0.5])
    assert np.array_equal(_picture(coast, engine, repairs=[heal, specks, wire]), _picture(coast, engine))


@pytest.mark.parametrize("what", ["straight", "level", "upright"])
def test_a_line_of_equal_points_bends_nothing(coast, engine, what):
    line = ReshapeLine(id="l", lines=[BentLine(points=[0.4, 0.3] * 4, what=what)])
    part = ReshapeLine(
        id="p",
        pulled=[PulledPart(outline=[0.4, 0.3] * 4), PulledPart(outline=[0.1, 0.5, 0.6, 0.5, 0.9, 0.5])],
    )
    assert np.allclose(_picture(coast, engine, shapes=[line, part]), _picture(coast, engine), atol=1e-6)


def test_more_than_sixty_sources_are_a_scene(coast):
    scene = coast.scene()
    scene.sources = [Source(sha256=f"{n:064x}") for n in range(70)]
    assert len(parse_scene(scene.model_dump(mode="json")).sources) == 70
    scene.sources = [Source(sha256=f"{n:064x}") for n in range(SOURCES + 1)]
    with pytest.raises(DocumentError):
        parse_scene(scene.model_dump(mode="json"))


def _sweep(**changed):
    members = [
        SweepMember(source=s, rotation=[0.0, 0.1 * n, 0.0], size=[900, 600]) for n, s in enumerate("ab")
    ]
    data = {"anchor": "a", "focal": 900.0, "density": 900.0, "corner": [-0.5, -0.3], "size": [1024, 640], "unit": 900,
            "members": members}  # fmt: skip
    return Sweep(**(data | changed))


@pytest.mark.parametrize(
    "changed",
    [
        {"size": [400_000, 640]}, {"size": [1024, 400_000]}, {"size": [15, 640]}, {"corner": [1e300, 0.0]},
        {"size": [90_000, 40_000], "density": 20_000.0}, {"unit": 2}, {"corner": [0.0]},
        {"members": [SweepMember(source="a", rotation=[0.0] * 3, size=[900, 600])]},
    ],
)  # fmt: skip
def test_a_sweep_beyond_its_sphere_is_refused(changed):
    _sweep()
    with pytest.raises(ValidationError):
        _sweep(**changed)


@pytest.mark.parametrize("turn", [[1e300, 0, 0], [0, -11, 0], [float("nan"), 0, 0], [0, 0]])
def test_a_turn_is_an_angle(turn):
    with pytest.raises(ValidationError):
        SweepMember(source="a", rotation=turn, size=[900, 600])


# areas


@given(
    st.lists(st.tuples(st.floats(-0.3, 1.3), st.floats(-0.3, 1.0)), min_size=3, max_size=6),
    st.lists(st.tuples(st.floats(-0.2, 1.2), st.floats(-0.2, 0.9), st.booleans()), max_size=3),
    st.integers(-40, 500), st.integers(-40, 700),
)  # fmt: skip
def test_a_window_of_an_area_is_a_part_of_it(outline, spots, top, left):
    from sunlatch.blocks import Block
    from sunlatch.latch import Stroke

    strokes = [
        Stroke(points=[x, y, 1, x + 0.1, y, 1], radius=0.04, soft=0.5, flow=0.8, erase=e) for x, y, e in spots
    ]
    area = Area(outline=[v for p in outline for v in p], strokes=strokes)
    window, shape = Block(top, top + 130, left, left + 170), (600, 800)
    whole = shade_in(Block(0, 600, 0, 800), area, 800.0, Block(0, shape[0], 0, shape[1]), None)
    part = shade_in(window, area, 800.0, Block(0, shape[0], 0, shape[1]), None)
    assert part.shape == (130, 170)
    y0, y1, x0, x1 = max(top, 0), min(top + 130, 600), max(left, 0), min(left + 170, 800)
    if y1 > y0 and x1 > x0:
        assert np.abs(part[y0 - top : y1 - top, x0 - left : x1 - left] - whole[y0:y1, x0:x1]).max() < 0.02
    outside = part.copy()
    outside[max(y0 - top, 0) : max(y1 - top, 0), max(x0 - left, 0) : max(x1 - left, 0)] = 0
    assert not outside.any()


def _long(radius=0.006):
    from sunlatch.latch import Stroke

    across = np.linspace(0.05, 0.95, 40)
    points = np.column_stack([across, 0.2 + 0.3 * across, np.ones(40)])
    return Area(strokes=[Stroke(points=points.ravel().tolist(), radius=radius, soft=0.3, flow=1.0)])


@pytest.mark.parametrize("kind", [HealRepair, CloneRepair])
@pytest.mark.parametrize("turned", [0.0, 20.0])
def test_a_long_thin_stroke_is_mended_along_it_as_it_would_be_whole(coast, kind, turned, monkeypatch):
    repair = kind(id="r", area=_long(0.003), take=Take(dx=0.02, dy=-0.05, turn=turned))
    monkeypatch.setattr(units, "TILE", 128)
    units._cut.cache_clear()
    h, w = coast.pyramid.shape(0)
    pieces = units_of([repair], 1272.0, Block(0, h, 0, w), None)[0]
    made = under(coast, [repair], None).fetch(0)(0, h, 0, w)
    monkeypatch.setattr(units, "SPARSE", 1e9)
    assert len(units_of([repair], 1272.0, Block(0, h, 0, w), None)[0]) == 1
    whole = under(coast, [repair], None).fetch(0)(0, h, 0, w)
    units._cut.cache_clear()
    assert len(pieces) > 5
    looked = sum((b.bottom - b.top) * (b.right - b.left) for b in (p.reads[0] for p in pieces))
    assert looked < 0.7 * h * w
    off = np.abs(np.log2(np.maximum(made, 1e-3)) - np.log2(np.maximum(whole, 1e-3)))
    assert off.max() < (0.02 if kind is HealRepair else 1e-3)
    before = under(coast, [], None).fetch(0)(0, h, 0, w)
    assert (np.abs(made - before).max(0) > 1e-4).mean() > 0.002


def test_a_broad_area_is_mended_as_one(coast):
    area = Area(outline=[0.1, 0.1, 0.9, 0.1, 0.9, 0.5, 0.1, 0.5])
    heal = HealRepair(id="r", area=area, take=Take(dx=0.0, dy=0.2))
    assert len(units_of([heal], 6000.0, Block(0, 4000, 0, 6000), None)[0]) == 1
    assert (
        len(
            units_of([heal.model_copy(update={"area": _long(0.002)})], 6000.0, Block(0, 4000, 0, 6000), None)[
                0
            ]
        )
        > 20
    )


def test_what_lies_outside_is_refused_where_it_is_begun(coast):
    from sunlatch.errors import MendError

    with pytest.raises(MendError, match="outside the picture"):
        shade(Area(outline=[5.0, 5, 6, 5, 5, 6]), 800.0, Block(0, 600, 0, 800), None)


# a frame of a sweep and its lens


@given(
    st.floats(-0.08, 0.08), st.floats(-0.03, 0.03), st.floats(-0.49, 0.49), st.floats(-0.49, 0.49),
    st.floats(0.5, 3.0),
)  # fmt: skip
def test_what_a_lens_held_is_covered_and_nothing_else(k1, k2, x, y, focal):
    """Places of a frame come back as deep inside it as they are, whatever its lens bent."""
    w, h = 1200, 800
    turn = (1.0, 0, 0, 0, 1, 0, 0, 0, 1)
    member = Member(turn, focal * w, w, h, LensShape(distortion=(0.0, k1, k2, 0.0)))
    inside = member.depth(member.world(np.array([x, y])))
    assert inside == pytest.approx(min((0.5 - abs(x)) * w, (0.5 - abs(y)) * h), abs=0.5)
    edge = member.world(np.array([np.copysign(0.505, x), y]))
    assert member.depth(edge) < 0


def test_a_lens_that_bends_outward_shows_less_than_an_ideal_one():
    turn = (1.0, 0, 0, 0, 1, 0, 0, 0, 1)
    corner = np.array([0.45 * 1200, 0.45 * 800, 1200.0])
    ideal, pincushion, barrel = (
        Member(turn, 1200.0, 1200, 800, LensShape(distortion=(0.0, k, 0.0, 0.0))) for k in (0, 0.2, -0.2)
    )
    assert ideal.depth(corner) > 0
    assert pincushion.depth(corner) < 0 < ideal.depth(corner) < barrel.depth(corner)
