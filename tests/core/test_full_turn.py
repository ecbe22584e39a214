"""A full turn looked at where its raster is cut shows, holds and measures what it does where it is not: every stage that knows
the developed picture, of one raster cut in two places."""

import math

import numpy as np
import pytest

from sunlatch.blobs import Blobs
from sunlatch.geometry import View
from sunlatch.latch import Stroke
from sunlatch.ledger import (
    EdgeTrue,
    HealRepair,
    Latch,
    NudgeLine,
    NudgeStroke,
    Scene,
    Source,
    Spare,
    Sweep,
    SweepMember,
    Take,
    new_ingredient,
    new_move,
)
from sunlatch.mend import heal_of
from sunlatch.meters import colour_at, light_at, pick_at, read_ladder, read_spot
from sunlatch.render import Engine, area_of, picture_8
from sunlatch.render.output import Output
from sunlatch.render.picture import bands_of
from tests.core.test_round import H, Round, W

DENSITY = W / (2 * math.pi)
AT = View((0.3, 0.2, 0.7, 0.8), (300, 200))
"""Around the middle, where one of both is cut."""


def _scene(facing: float) -> Scene:
    members = [
        SweepMember(source=f"s{n}", rotation=[0.0, n * math.pi / 4, 0.0], size=[400, 1200]) for n in range(8)
    ]
    base = Sweep(
        revision=4, anchor="s0", focal=DENSITY, density=DENSITY, corner=[-math.pi, -H / 2 / DENSITY],
        size=[W, H], unit=W, members=members,
    )  # fmt: skip
    scene = Scene(sources=[Source(id=f"s{n}", sha256=f"{n:064x}") for n in range(8)], base=base)
    scene.ground.projection.params.facing = facing
    return scene


@pytest.fixture(scope="module")
def both(coast):
    """Cut at the middle of what is shown, and half a turn away: the same picture."""
    return [(Round(coast, 0), 180.0), (Round(coast, W // 2), 0.0)]


@pytest.fixture(scope="module")
def engine(tmp_path_factory):
    return Engine(threads=2, blobs=Blobs(tmp_path_factory.mktemp("blobs")))


def _developed(both, engine, change=None):
    """Both, bound; change(scene, geometry): what is done to a scene whose map is known."""
    out = []
    for raster, facing in both:
        scene = _scene(facing)
        bare = engine.develop(scene, raster)
        if change is not None:
            change(scene, bare)
            bare = engine.develop(scene, raster)
        out.append(bare)
    return out


def _place(bare, x: float, y: float):
    """A place of the developed picture (shares of it) as the face puts it into a document."""
    w, h = bare.geometry.developed_size
    at = bare.geometry.to_source(np.array([x * w, y * h]) / bare.geometry.long_edge)
    return {"x": float(at[0]), "y": float(at[1])}


def _alike(one, other, least, most):
    assert np.abs(one.astype(float) - other.astype(float)).max() <= most
    assert one.astype(float).std() > least  # there is something to be alike


def test_it_is_the_same_picture(both, engine):
    one, other = _developed(both, engine)
    assert one.geometry.developed_size == other.geometry.developed_size
    for view, full in ((AT, True), (AT, False), (one.geometry.fit(400), True)):
        _alike(picture_8(one, view, full), picture_8(other, view, full), 5, 2)


def _ingredient(kind, **params):
    return new_ingredient(kind, params=params)


def _hand(bare):
    a, b = _place(bare, 0.42, 0.5), _place(bare, 0.58, 0.55)
    params = {
        "strokes": [
            Stroke(points=[a["x"], a["y"], 1.0, b["x"], b["y"], 1.0], radius=0.03, soft=0.5, flow=1.0)
        ]
    }
    return _ingredient("hand", **params)


def _outline(bare):
    corners = [(0.42, 0.4), (0.58, 0.4), (0.6, 0.7), (0.45, 0.7)]
    return _ingredient("outline", points=[_place(bare, *c) | {"sharp": True} for c in corners])


def _pool(bare):
    return _ingredient("pool", centre=_place(bare, 0.5, 0.5), edge=_place(bare, 0.6, 0.5))


def _ramp(bare):
    return _ingredient("ramp", full=_place(bare, 0.44, 0.5), none=_place(bare, 0.56, 0.52))


def _kin(bare):
    return _ingredient("kin", places=[_place(bare, 0.5, 0.45), _place(bare, 0.52, 0.5)])


def _seeking(bare):
    line = _hand(bare)
    line.params.strokes[0].seek = True
    return line


INGREDIENTS = {
    "hand": _hand, "to edges": _seeking, "outline": _outline, "pool": _pool, "ramp": _ramp, "kin": _kin,
    "light": lambda bare: new_ingredient("light_range"), "detail": lambda bare: new_ingredient("detail"),
    "distance": lambda bare: new_ingredient("distance"), "fan": lambda bare: new_ingredient("fan"),
}  # fmt: skip


@pytest.mark.parametrize("kind", INGREDIENTS)
@pytest.mark.parametrize("edges", [False, True], ids=["as drawn", "snapped"])
def test_a_latch_holds_the_same(both, engine, kind, edges):
    def change(scene, bare):
        scene.latches = [
            Latch(
                id="l", name="L", read_at=bare.ground.read_at(), ingredients=[INGREDIENTS[kind](bare)],
                edge_true=EdgeTrue(on=edges), grow=3.0, feather=4.0,
            )
        ]  # fmt: skip

    one, other = (d.latches.mask(d.scene.latches[0], AT) for d in _developed(both, engine, change))
    if kind == "distance":  # a finder looks from edge to edge: what stands at the cut is another edge's
        assert np.quantile(np.abs(one - other), 0.99) < 0.02
        assert one.std() > 0.05
    else:
        _alike(
            one,
            other,
            0.05,
            {"to edges": 0.02, "kin": 0.05, "detail": 0.05}.get(kind, 0.05 if edges else 2e-3),
        )


def test_a_move_spares_and_its_light_is_the_same(both, engine):
    def change(scene, bare):
        move = new_move("exposure", params={"ev": -1.0})
        move.spare = [Spare(what="highlights", edge=0.5, read_at=bare.ground.read_at())]
        scene.moves = [
            move,
            new_move("relief", params={"coarse": 0.4}),
            new_move("haze", params={"amount": 0.3}),
        ]

    one, other = (picture_8(d, AT, True) for d in _developed(both, engine, change))
    _alike(one, other, 5, 4)


def test_what_is_measured_at_a_place_and_of_the_whole_is_the_same(both, engine):
    one, other = _developed(both, engine)
    for x in (0.47, 0.5, 0.53):
        a, b = (read_spot(d, x, 0.5) for d in (one, other))
        assert a.model_dump() == pytest.approx(b.model_dump(), abs=2e-3)
        a, b = (pick_at(d, x, 0.5) for d in (one, other))
        assert a.picked.stops == pytest.approx(b.picked.stops, abs=5e-3)
        a, b = (light_at(d, x, 0.5) for d in (one, other))
        assert (a.kelvin, a.duv) == pytest.approx((b.kelvin, b.duv), rel=0.02)
        a, b = (colour_at(d, d.ground.read_at(), x, 0.5) for d in (one, other))
        assert (a.l, a.a, a.b) == pytest.approx((b.l, b.a, b.b), abs=5e-3)
    bars = [np.array(read_ladder(d, []).bars, float) for d in (one, other)]
    assert np.abs(bars[0] - bars[1]).max() < 0.01


def test_a_place_painted_across_the_cut_is_mended_there(both, engine):
    """An area from a mask of the developed picture, as an empty corner or a latch gives it; and one that is drawn."""
    shown = []
    for raster, facing in both:
        scene = _scene(facing)
        bare = engine.develop(scene, raster)
        w, h = bare.geometry.fit(300).size
        mask = np.zeros((h, w), np.float32)
        mask[h // 2 - 8 : h // 2 + 8, w // 2 - 12 : w // 2 + 12] = 1
        area = area_of(bare, mask, engine.blobs)
        repair = heal_of(raster, area, engine.blobs, Take(dx=0.0, dy=0.06))
        assert isinstance(repair, HealRepair)
        scene.repairs = [repair]
        shown.append((picture_8(bare, AT, True), picture_8(engine.develop(scene, raster), AT, True)))
    (before, one), (_, other) = shown
    assert np.abs(one.astype(float) - before).max() > 8
    _alike(one, other, 5, 3)


def test_what_is_nudged_there_moves_alike(both, engine):
    def change(scene, bare):
        a, b = _place(bare, 0.46, 0.5), _place(bare, 0.54, 0.5)
        stroke = NudgeStroke(points=[a["x"], a["y"], 1.0, b["x"], b["y"], 1.0], radius=0.06)
        scene.shapes = [NudgeLine(id="n", strokes=[stroke])]

    one, other = (picture_8(d, AT, True) for d in _developed(both, engine, change))
    plain = picture_8(_developed(both, engine)[0], AT, True)
    assert np.abs(one.astype(float) - plain).max() > 8
    _alike(one, other, 5, 3)


def test_a_new_sky_lies_all_the_way_round(both, engine, coast):
    """Placed by itself, and let in by a ramp that holds the upper half."""
    source = Source(id="sky", sha256="f" * 64)
    shown = []
    for raster, facing in both:
        scene = _scene(facing)
        bare = engine.develop(scene, raster)
        latch = Latch(
            id="l", name="Sky", read_at=bare.ground.read_at(),
            ingredients=[_ingredient("ramp", full=_place(bare, 0.5, 0.3), none=_place(bare, 0.5, 0.6))],
        )  # fmt: skip
        scene.latches = [latch]
        scene.sources.append(source)
        scene.sky = engine.develop(scene, raster).propose_sky(source, coast.pyramid, latch, 0.5)
        done = engine.develop(scene, raster, lent=lambda _: coast.pyramid)
        shown.append([picture_8(d, d.geometry.fit(500), True).astype(float) for d in (bare, done)])
    (before, one), (_, other) = shown
    change = np.abs(one - before)[: len(one) // 4].mean((0, 2))
    assert (change > 3).mean() > 0.95  # in every column
    assert np.abs(one - other).mean() < 1.0


def test_a_file_of_it_is_what_is_shown(both, engine):
    files = []
    for d in _developed(both, engine):
        w, h = d.geometry.developed_size
        bands = bands_of(d, View((0.0, 0.0, 1.0, 1.0), (w, h)), Output("srgb", 8))
        files.append(np.concatenate(list(bands)))
    _alike(files[0], files[1], 5, 3)
