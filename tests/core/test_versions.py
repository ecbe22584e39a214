"""Documents of earlier versions: brought forward they say the same, and look the same."""

import copy

import numpy as np
import pytest

from sunlatch.binding.maps import map_of
from sunlatch.geometry import homography
from sunlatch.ledger import parse_scene, spared_by
from sunlatch.ledger.migrations import SCHEMA_VERSION, migrate
from sunlatch.moves import LIGHT_KINDS
from sunlatch.render import Engine, picture_8

PLUMB = {"lean": 4.0, "swing": 0.0, "roll": 1.0, "stretch": 0.2, "across": 0.05, "down": -0.02}


def _old(coast, **more):
    return {"schema_version": 2, "sources": [{"sha256": coast.scene().sources[0].sha256}]} | more


def test_stretch_and_place_went_to_trim(coast):
    given = _old(coast, ground={"plumb": {"params": dict(PLUMB)}, "trim": {"params": {"level": 1.5}}})
    held = copy.deepcopy(given)
    scene = parse_scene(given)
    assert given == held, "what was given is not changed"
    assert scene.schema_version == SCHEMA_VERSION
    plumb, trim = scene.ground.plumb.params, scene.ground.trim.params
    assert (plumb.lean, plumb.roll) == (4.0, 1.0)
    assert (trim.stretch, trim.across, trim.down, trim.level) == (0.2, 0.05, -0.02, 1.5)
    geometry = map_of(scene, coast.pyramid.info)
    want = homography(4.0, 0.0, 1.0, 0.2, coast.pyramid.info.focal)
    assert np.allclose(np.array(geometry.plumb).reshape(3, 3), want)
    assert geometry.trim.shift == (0.05, -0.02)
    assert geometry.level == 1.5


@pytest.mark.parametrize(
    ("ground", "trim"),
    [
        ({"plumb": {"on": False, "params": PLUMB}, "trim": {"params": {"level": 2.0}}}, (True, 0.0, 2.0)),
        ({"plumb": {"params": PLUMB}, "trim": {"on": False, "params": {"level": 2.0}}}, (True, 0.2, 0.0)),
        ({"plumb": {"params": PLUMB}}, (True, 0.2, 0.0)),
        ({"plumb": {"params": {"stretch": 0.0}}, "trim": {"on": False, "params": {"level": 2.0}}}, (False, 0.0, 2.0)),
        ({}, (True, 0.0, 0.0)),
    ],
)  # fmt: skip
def test_what_was_off_does_as_little_as_before(coast, ground, trim):
    line = parse_scene(_old(coast, ground=copy.deepcopy(ground))).ground.trim
    assert (line.on, line.params.stretch, line.params.level) == trim


def test_an_edge_fall_that_kept_highlights_goes_on_doing_so(coast):
    said = {"kind": "edge_fall", "params": {"depth": -2.0}}
    scene = parse_scene(
        _old(coast, moves=[said, {"kind": "edge_fall", "params": {"depth": -1.0, "keep": 0.9}}])
    )
    assert [m.params.keep for m in scene.moves] == [0.5, 0.9]
    now = parse_scene(_old(coast, moves=[said]) | {"schema_version": SCHEMA_VERSION})
    assert now.moves[0].params.keep == 0
    engine = Engine(threads=2)
    at = engine.develop(now, coast.pyramid).ground.read_at()
    now.moves[0].spare = spared_by("edge_fall", at)
    assert [s.what for s in now.moves[0].spare] == ["highlights"]
    before, after = (
        picture_8(d, d.geometry.fit(300), True).astype(float)
        for d in (engine.develop(s, coast.pyramid) for s in (scene, now))
    )
    # another way to the same end: highlights at the edge do not turn grey
    bright = before.min(2) > 200
    assert np.abs(after - before)[bright].mean() < 25


def test_every_move_names_only_spare_clauses_there_are(coast):
    at = Engine(threads=1).develop(coast.scene(), coast.pyramid).ground.read_at()
    assert {k: [s.what for s in spared_by(k, at)] for k, d in LIGHT_KINDS.items() if d.spares} == {
        "edge_fall": ["highlights"]
    }


@pytest.mark.parametrize(
    "odd", [{"ground": None}, {"ground": {"plumb": None}}, {"ground": {"plumb": {"params": 3}}}, {"moves": None},
            {"moves": [7]}, {"moves": [{"kind": "edge_fall", "params": None}]}],
)  # fmt: skip
def test_odd_documents_are_carried_on_to_where_they_are_refused(coast, odd):
    assert migrate(_old(coast, **odd))["schema_version"] == SCHEMA_VERSION


def test_rotations_distortion_and_vignetting_are_called_so():
    """A sweep of a bracket and a frame, a loan and a lens by hand, as they were written before: each number under its
    own name."""
    bracket = {
        "kind": "bracket", "anchor": "a", "focal": 900.0,
        "members": [{"source": "a", "turn": [0, 0, 0], "ev": 0.0}, {"source": "b", "turn": [0, 0.01, 0], "ev": 2.0}],
    }  # fmt: skip
    given = {
        "schema_version": 8, "sources": [{"id": key, "sha256": key * 64} for key in "abcd"],
        "base": {
            "kind": "sweep", "anchor": "a", "focal": 900.0, "density": 900.0, "bend": 0.01, "fall": -0.2,
            "corner": [-0.5, -0.3], "size": [1600, 600], "unit": 900,
            "members": [
                {"source": "a", "turn": [0, 0.1, 0], "size": [900, 600], "bracket": bracket},
                {"source": "c", "turn": [0, -0.2, 0], "size": [900, 600]},
            ],
        },
        "loans": [{"source": "d", "turn": [0, 0, 0.3], "focal": 900.0, "ev": 1.0, "params": {}}],
        "ground": {"lens": {"params": {"known": "hand", "bend": 0.04}}},
    }  # fmt: skip
    held = copy.deepcopy(given)
    scene = parse_scene(given)
    assert given == held, "what was given is not changed"
    base = scene.base
    assert (base.distortion, base.vignetting) == (0.01, -0.2)
    assert [m.rotation for m in base.members] == [[0, 0.1, 0], [0, -0.2, 0]]
    assert [m.rotation for m in base.members[0].bracket.members] == [[0, 0, 0], [0, 0.01, 0]]
    assert scene.loans[0].rotation == [0, 0, 0.3]
    assert scene.ground.lens.params.radial == 0.04
