"""Where what is drawn for a move acts, and what two colours pointed at share."""

import numpy as np
import pytest

from sunlatch.colour import from_oklab
from sunlatch.errors import RenderError
from sunlatch.ledger import Scene, new_move
from sunlatch.meters import pick_at, shared, zone_of
from sunlatch.moves import MOVE_KINDS
from tests.core.moving import stops_of


def _hues(*degrees, light=0.6, pure=0.2):
    """A row of colours of these hues (3, 1, n)."""
    turned = np.radians(degrees)
    lab = light * np.stack([np.ones(len(degrees)), pure * np.cos(turned), pure * np.sin(turned)], -1)
    return np.ascontiguousarray(from_oklab(lab).T[:, None], np.float32)


def _anchor(degree, pure=0.2, **more):
    turned = np.radians(degree)
    return {
        "picked": {
            "u": pure * np.cos(turned),
            "v": pure * np.sin(turned),
            "stops": 0.0,
            "at": {"x": 0.5, "y": 0.3},
        }
    } | more


def test_a_rung_is_felt_most_where_it_stands_and_not_beyond_its_reach():
    grey = 0.18 * 2.0 ** np.array([-6, -4, -3, -2, 0], np.float32)
    rgb = np.broadcast_to(grey, (3, 1, 5)).copy()
    rungs = MOVE_KINDS["rungs"]
    params = rungs.params(rungs=[{"at": 1.0}, {"at": -3.0, "by": 1.0, "reach": 2.0}])
    assert rungs.zone(params, rgb, 1)[0] == pytest.approx([0, 0.5, 1, 0.5, 0], abs=1e-3)


@pytest.mark.parametrize("kind", ["hue_steer", "monochrome"])
def test_two_hues_share_what_lies_between_them(kind):
    declared = MOVE_KINDS[kind]
    params = declared.params(anchors=[_anchor(20), _anchor(60)])
    rgb = _hues(20, 40, 60, 200)
    one, other = (declared.zone(params, rgb, n)[0] for n in range(2))
    assert one[0] > 0.7 > 0.3 > one[2]
    assert one[1] == pytest.approx(other[1], abs=1e-3)
    assert (one + other <= 1 + 1e-5).all()
    assert one[3] < 0.01


def test_shares_are_measured_in_the_picture_before_the_move(coast, engine):
    scene = coast.scene()
    plain = engine.develop(scene, coast.pyramid)
    sky = pick_at(plain, 0.7, 0.2).picked.model_dump()
    far = {"u": -sky["u"] - 0.2, "v": -sky["v"] - 0.2, "stops": 0.0, "at": sky["at"]}
    steer = new_move(
        "hue_steer", params={"anchors": [{"picked": sky}, {"picked": sky, "reach": 28}, {"picked": far}]}
    )
    scene.moves = [new_move("exposure", params={"ev": -1}), steer, new_move("exposure", on=False)]
    development = engine.develop(scene, coast.pyramid)
    first, second, third = shared(development, steer.id)
    assert (first.other, second.other) == (1, 0)
    assert first.much > 0.8  # the narrower one has a little less
    assert second.much > 0.9
    assert third.much < 0.6 * first.much
    assert shared(development, scene.moves[0].id) == []
    view = development.geometry.fit(200)
    zone = zone_of(development, steer.id, 0, view)
    assert zone.shape == view.size[::-1]
    assert zone[: len(zone) // 5].mean() > 0.15  # it has half of what two of one colour hold
    # zones are of the light that enters: a stop darker, a rung's zone is a stop further down
    rungs = new_move("rungs", params={"rungs": [{"at": -3.0, "by": 1.0}]})
    moved = Scene(**scene.model_dump(exclude={"moves"}), moves=[scene.moves[0], rungs])
    after = engine.develop(moved, coast.pyramid)
    felt = zone_of(after, rungs.id, 0, view)
    stops = stops_of(plain.light_planes(view))
    assert stops[felt > 0.9].mean() == pytest.approx(-2.0, abs=0.1)


def test_what_is_not_drawn_has_no_zone(coast, engine):
    scene = coast.scene()
    scene.moves = [new_move("rungs", params={"rungs": [{"at": 0.0}]}), new_move("exposure")]
    development = engine.develop(scene, coast.pyramid)
    view = development.geometry.fit(60)
    for move, n in ((scene.moves[0].id, 1), (scene.moves[1].id, 0), ("nobody", 0)):
        with pytest.raises(RenderError):
            zone_of(development, move, n, view)
