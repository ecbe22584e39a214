"""A scene shows what it showed when it was made, whatever finders say by now."""

from dataclasses import replace

import numpy as np
import pytest

from sunlatch.blobs import Blobs
from sunlatch.errors import DocumentError
from sunlatch.latch import INGREDIENT_KINDS
from sunlatch.latch.base import Finding
from sunlatch.ledger import EdgeTrue, Latch, habit_of, new_ingredient, parse_scene
from sunlatch.moves import GROUND_KINDS, LIGHT_KINDS
from sunlatch.render import Engine


def _scene(coast, *kinds):
    scene = coast.scene()
    at = Engine(threads=2).develop(scene, coast.pyramid).ground.read_at()
    scene.latches = [
        Latch(id=k, name=k, ingredients=[new_ingredient(k)], read_at=at, edge_true=EdgeTrue(on=False))
        for k in kinds
    ]
    return scene


def _masks(scene, coast, blobs):
    development = Engine(threads=2, blobs=blobs).develop(scene, coast.pyramid)
    view = development.geometry.fit(300)
    return {latch.id: development.latches.mask(latch, view) for latch in scene.latches}


def _kept(scene, coast, blobs):
    """The scene as it is saved once its masks have been seen."""
    engine = Engine(threads=2, blobs=blobs)
    development = engine.develop(scene, coast.pyramid)
    for latch in scene.latches:
        development.latches.mask(latch, development.geometry.fit(64))
    development.latches.keep_findings()
    return parse_scene(scene.model_dump_json())


@pytest.fixture
def blobs(tmp_path):
    return Blobs(tmp_path / "blobs")


def _later(monkeypatch, kind="sky"):
    """Another finder from now on: it finds the left half."""
    declared = INGREDIENT_KINDS[kind]

    def find(params, sight):
        half = np.zeros((40, 60), np.float32)
        half[:, :30] = 1
        return Finding(half)

    later = replace(declared, revision=declared.revision + 1, find=find)
    monkeypatch.setitem(INGREDIENT_KINDS, kind, later)


def test_a_saved_scene_keeps_the_sky_it_had_found(coast, blobs, monkeypatch):
    scene = _kept(_scene(coast, "sky"), coast, blobs)
    line = scene.latches[0].ingredients[0]
    assert line.found is not None
    before = _masks(scene, coast, blobs)["sky"]
    never = _scene(coast, "sky")
    _later(monkeypatch)
    # the pyramid's own findings may be dropped at any time
    for path in coast.pyramid.folder.parent.glob("found-*.npy"):
        path.unlink()
    assert np.abs(_masks(scene, coast, blobs)["sky"] - before).max() < 1e-3
    assert np.abs(_masks(never, coast, blobs)["sky"] - before).max() > 0.5, "what was not kept is found anew"

    again = _kept(scene, coast, blobs)
    assert again == scene, "saved again it is still what it was"
    line.found = None
    assert np.abs(_masks(scene, coast, blobs)["sky"] - before).max() > 0.5, "asked to, it is found anew"


def test_marks_made_later_find_anew(coast, blobs, monkeypatch):
    scene = _kept(_scene(coast, "sky"), coast, blobs)
    before = _masks(scene, coast, blobs)["sky"]
    _later(monkeypatch)
    line = scene.latches[0].ingredients[0]
    stroke = {"points": [0.2, 0.1, 1, 0.3, 0.1, 1], "radius": 0.02, "soft": 0.5, "flow": 1}
    line.params = type(line.params).model_validate({"marks": [stroke]})
    assert np.abs(_masks(scene, coast, blobs)["sky"] - before).max() > 0.5
    first = line.found
    Engine(threads=2, blobs=blobs).develop(scene, coast.pyramid).latches.keep_findings()
    assert line.revision == INGREDIENT_KINDS["sky"].revision
    assert line.found.mask != first.mask
    assert line.found.by != first.by


def test_what_looks_at_the_sky_is_found_anew_with_it(coast, blobs, monkeypatch):
    scene = _scene(coast, "distance")
    engine = Engine(threads=2, blobs=blobs)
    line = scene.latches[0].ingredients[0]
    before = engine.develop(scene, coast.pyramid)
    key, mask = before.reader.finding_key(line), before.reader.finding(line).mask
    _later(monkeypatch)
    after = engine.develop(scene, coast.pyramid)
    assert after.reader.finding_key(line) != key
    assert np.abs(after.reader.finding(line).mask - mask).max() > 0.3


def test_what_looked_at_an_earlier_sky_keeps_what_it_found_there(coast, blobs, monkeypatch):
    """Its own finder is the same; the sky's is another."""
    scene = _kept(_scene(coast, "distance"), coast, blobs)
    before = _masks(scene, coast, blobs)["distance"]
    _later(monkeypatch)
    assert np.abs(_masks(scene, coast, blobs)["distance"] - before).max() < 1e-3


def test_a_finder_says_what_it_looks_at(coast, monkeypatch):
    development = Engine(threads=2).develop(coast.scene(), coast.pyramid)
    with pytest.raises(AssertionError, match="does not say"):
        development.reader.sight("subject").found("sky")


def test_what_is_kept_and_gone_is_spoken_of(coast, blobs, monkeypatch):
    scene = _kept(_scene(coast, "sky"), coast, blobs)
    held = scene.latches[0].ingredients[0].found
    _later(monkeypatch)
    with pytest.raises(DocumentError, match="not with it"):
        _masks(scene, coast, None)
    blobs.path(held.mask).write_bytes(b"no picture")
    with pytest.raises(DocumentError, match="damaged"):
        _masks(scene, coast, blobs)
    blobs.path(held.mask).unlink()
    with pytest.raises(DocumentError, match="missing"):
        _masks(scene, coast, blobs)


def test_saving_looks_for_nothing(coast, blobs, monkeypatch):
    scene = _scene(coast, "subject")
    monkeypatch.setitem(
        INGREDIENT_KINDS, "subject", replace(INGREDIENT_KINDS["subject"], find=None.__class__)
    )
    for path in coast.pyramid.folder.parent.glob("found-*.npy"):
        path.unlink()
    Engine(threads=2, blobs=blobs).develop(scene, coast.pyramid).latches.keep_findings()
    assert scene.latches[0].ingredients[0].found is None


def test_a_habit_leaves_what_was_found_behind(coast, blobs):
    scene = _kept(_scene(coast, "sky"), coast, blobs)
    assert "found" not in habit_of(scene.latches[0])["ingredients"][0]


def test_every_earlier_revision_can_be_shown():
    """One with more than one either keeps what it found, or is honoured by name."""
    changed = {k for k, d in (INGREDIENT_KINDS | LIGHT_KINDS | GROUND_KINDS).items() if d.revision > 1}
    found = {k for k, d in INGREDIENT_KINDS.items() if d.find is not None}
    assert changed - found == {"rescue"}
