"""What the program says of a picture: the meeting of two latches, rims along edges, where the eye goes."""

import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.outing import find
from sunlatch.errors import RenderError
from sunlatch.frame import hash_file
from sunlatch.geometry import View
from sunlatch.ledger import EdgeTrue, Latch, Scene, Source, new_ingredient, new_move
from sunlatch.meters import pick_at, read_halos, read_meeting, read_squint, squinted
from sunlatch.meters.squint import places
from tests.coast import shoot
from tests.core.moving import stops_of


@pytest.fixture(scope="module", params=["bracket-3", "pool", "stack-backlit"])
def backlit(request, tmp_path_factory, store):
    """A frame against the light with latches on its sky and its land, and its pyramid."""
    path = tmp_path_factory.mktemp("meeting") / f"{request.param}.dng"
    shoot(smaller(find(request.param), 1200), path)
    sha256 = hash_file(path)
    pyramid = store.whole(sha256, path)
    return Scene(sources=[Source(sha256=sha256)]), pyramid


def _latched(engine, backlit):
    scene, pyramid = backlit[0].model_copy(deep=True), backlit[1]
    at = engine.develop(scene, pyramid).ground.read_at()
    finish = {"read_at": at, "edge_true": EdgeTrue(on=False)}
    sky = Latch(name="Sky", ingredients=[new_ingredient("sky")], **finish)
    land = Latch(name="Land", ingredients=[new_ingredient("sky", invert=True)], **finish)
    water = Latch(name="Water", ingredients=[new_ingredient("water")], **finish)
    scene.latches = [sky, land, water]
    return scene, pyramid


@pytest.mark.parametrize("aim", [2.5, 1.5])
def test_a_proposed_move_brings_the_meeting_to_its_aim_without_a_halo(engine, backlit, aim):
    scene, pyramid = _latched(engine, backlit)
    sky, land, _ = scene.latches
    before = read_meeting(engine.develop(scene, pyramid), sky, land, aim)
    assert before.upper.name == "Sky"
    assert before.upper.low < before.upper.centre < before.upper.high
    assert abs(before.distance - aim) > 0.1
    assert before.proposal is not None
    assert abs(before.proposal.lands - aim) < 0.2
    assert " on " in before.proposal.description
    scene.moves = [before.proposal.line]
    after = engine.develop(scene, pyramid)
    assert read_meeting(after, sky, land).distance == pytest.approx(aim, abs=0.2)
    rims = read_halos(after)
    # one at most: where a tip of the sea at the frame's edge is taken for sky
    assert len([r for r in rims if abs(r.stops) > 0.3]) <= 1, rims


def test_a_meeting_says_what_is_plausible(engine, backlit):
    scene, pyramid = _latched(engine, backlit)
    sky, land, water = scene.latches
    development = engine.develop(scene, pyramid)
    reflects = read_meeting(development, water, sky)
    assert reflects.upper.name == "Sky"
    assert reflects.aim == (0.3, 1.0)
    assert "reflection" in reflects.why
    with pytest.raises(RenderError, match="two different latches"):
        read_meeting(development, sky, sky)
    nothing = Latch(name="Nothing", ingredients=[], read_at=sky.read_at)
    with pytest.raises(RenderError, match="holds nothing"):
        read_meeting(development, sky, nothing)
    same = read_meeting(development, sky, land, read_meeting(development, sky, land).distance)
    assert same.proposal is None


def test_a_mask_that_bleeds_over_its_edge_is_a_halo_and_one_that_follows_it_is_none(coast, engine):
    scene = coast.scene()
    at = engine.develop(scene, coast.pyramid).ground.read_at()
    held = {"read_at": at, "ingredients": [new_ingredient("sky")], "edge_true": EdgeTrue(on=False)}
    scene.latches = [Latch(id="true", name="Sky", **held), Latch(id="soft", name="Soft", feather=14, **held)]
    assert read_halos(engine.develop(scene, coast.pyramid)) == []
    worst = {}
    for key in ("true", "soft"):
        scene.moves = [new_move("exposure", latch=key, params={"ev": -2})]
        worst[key] = read_halos(engine.develop(scene, coast.pyramid))
    assert len(worst["soft"]) > 5 * max(len(worst["true"]), 1)
    assert abs(worst["soft"][0].stops) > 0.35
    assert all(0 <= r.x <= 1 and 0 <= r.y <= 1 for r in worst["soft"])


def test_the_eye_goes_to_what_stands_out_and_squint_shows_it():
    grey = np.full((3, 64, 96), 0.1, np.float32)
    light, red = grey.copy(), grey.copy()
    light[:, 40:46, 60:66] = 0.8
    red[:, 20:25, 30:35] = np.array([0.3, 0.05, 0.05], np.float32)[:, None, None]
    assert places(grey) == []
    first = places(light)[0]
    assert (first.x, first.y) == pytest.approx((63 / 96, 43 / 64), abs=0.03)
    assert places(red)[0].x == pytest.approx(32.5 / 96, abs=0.03)
    light[:] = np.minimum(light, 0.3)
    both = places(np.maximum(light, red))
    assert [round(p.x, 1) for p in both[:2]] == [0.7, 0.3]


def test_squint_follows_what_light_does(coast, engine):
    scene = coast.scene()
    development = engine.develop(scene, coast.pyramid)
    seen = read_squint(development)
    assert seen.now == seen.start
    assert seen.now[0].pull == 1.0
    scene.moves = [
        new_move("poured_light", params={"light": 4, "start": {"x": 0.25, "y": 0.55}, "end": {"x": 0.3, "y": 0.55}})
    ]  # fmt: skip
    poured = read_squint(engine.develop(scene, coast.pyramid))
    assert poured.start == seen.start
    assert min(np.hypot(p.x - 0.25, p.y - 0.55 * 1.5) for p in poured.now) < 0.06
    whole, part = (
        squinted(development, View(region, size), grey=True)
        for region, size in (((0, 0, 1, 1), (300, 200)), ((0.5, 0.5, 1, 1), (150, 100)))
    )
    assert np.abs(whole[100:, 150:].astype(int) - part).mean() < 2
    assert (whole[..., 0] == whole[..., 2]).all()


def test_a_pick_reads_the_colour_as_a_move_sees_it(coast, engine):
    scene = coast.scene()
    scene.moves = [
        new_move("exposure", params={"ev": 1}),
        new_move("vividness", params={"amount": -1, "which": "all"}),
    ]
    development = engine.develop(scene, coast.pyramid)
    start, lit, grey = (pick_at(development, 0.3, 0.3, n) for n in (0, 1, None))
    assert lit.picked.stops == pytest.approx(start.picked.stops + 1, abs=0.01)
    assert (lit.picked.u, lit.picked.v) == pytest.approx((start.picked.u, start.picked.v), abs=1e-3)
    assert np.hypot(grey.picked.u, grey.picked.v) < 0.01 < np.hypot(start.picked.u, start.picked.v)
    assert start.shown.startswith("#")
    assert stops_of(development.light_planes(development.geometry.fit(100), 0)).shape[1] == 100
    with pytest.raises(RenderError, match="outside the picture"):
        pick_at(development, 1.2, 0.3)
