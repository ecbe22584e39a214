"""How sure it is that there is a sky, or water: of the coast's none is lost, and where there is none, none is found."""

from dataclasses import replace

import cv2
import numpy as np
import pytest

import sunlatch.latch.water as water
from fieldworld.camera import smaller
from fieldworld.lent import find_any
from sunlatch.frame import FrameStore, hash_file
from sunlatch.latch.base import DOUBT, SURE, Finding
from sunlatch.latch.found import matted_sky, matted_water, sure_of_sky, sure_of_water
from sunlatch.latch.water import WaterParams
from sunlatch.layers.sky_proposal import MIRRORS
from sunlatch.ledger import Latch, Scene, Source, doubts_shown, new_ingredient, sky_latch
from sunlatch.meters import in_doubt, why_empty
from sunlatch.render import Engine
from tests.coast import shoot

SIZE = (213, 320)


def _lab(name, tmp_path, store: FrameStore, engine: Engine):
    path = tmp_path / f"{name}.dng"
    shoot(smaller(find_any(name), 900), path)
    sha = hash_file(path)
    bare = engine.develop(Scene(sources=[Source(sha256=sha)]), store.whole(sha, path))
    return bare, bare.reader.sight("water").lab()


@pytest.mark.parametrize("name", ["sky-1", "sky-2", "sky-3"])
def test_a_frame_that_is_all_sky_is_one(name, tmp_path, store, engine):
    bare, _ = _lab(name, tmp_path, store, engine)
    assert bare.reader.finding(new_ingredient("sky")).verdict == "found"


@pytest.mark.parametrize("name", ["heath", "path", "boulders"])
def test_land_alone_has_no_sky_and_no_water(name, tmp_path, store, engine):
    """The lower part of a picture, as if one had looked down: what is taken for a sky there is none, and so is its water."""
    _, lab = _lab(name, tmp_path, store, engine)
    h = lab.shape[1]
    low = np.ascontiguousarray(lab[:, round(0.62 * h) :])
    sky = matted_sky(low)
    assert sure_of_sky(low, sky) < SURE
    assert sure_of_water(low, matted_water(low, sky), sky) < SURE


def _blobs(colours, seed):
    """Something out of focus: broad soft patches of a few colours, (3, h, w) OKLab."""
    rng = np.random.default_rng(seed)
    out = np.empty((3, *SIZE), np.float32)
    field = cv2.resize(rng.random((6, 9)).astype(np.float32), SIZE[::-1], interpolation=cv2.INTER_CUBIC)
    share = np.clip(field, 0, 1)
    for k in range(3):
        out[k] = colours[0][k] * share + colours[1][k] * (1 - share)
    return out + rng.normal(0, 0.004, out.shape).astype(np.float32)


@pytest.mark.parametrize(
    "colours",
    [[(0.6, -0.09, 0.11), (0.75, -0.05, 0.14)], [(0.5, 0.16, 0.1), (0.6, 0.13, 0.15)]],
    ids=["leaves", "petals"],
)  # fmt: skip
@pytest.mark.parametrize("seed", range(3))
def test_leaves_and_petals_out_of_focus_are_no_sky(colours, seed):
    lab = _blobs(colours, seed)
    assert sure_of_sky(lab, np.ones(SIZE, np.float32)) < DOUBT


def test_a_grey_wall_is_asked_for():
    lab = np.zeros((3, *SIZE), np.float32)
    lab[0] = 0.6
    assert DOUBT <= sure_of_sky(lab, np.ones(SIZE, np.float32)) < SURE


def test_too_little_to_be_judged_is_none():
    lab, mask = np.full((3, *SIZE), 0.5, np.float32), np.zeros(SIZE, np.float32)
    mask[:3, :5] = 1
    assert sure_of_sky(lab, mask) == 0
    assert sure_of_water(lab, mask, np.zeros(SIZE, np.float32)) == 0


@pytest.mark.parametrize(
    ("sure", "answer", "held"),
    [
        (0.9, "found", True),
        (0.5, "found", False),
        (0.5, "yes", True),
        (0.9, "no", False),
        (0.1, "found", False),
    ],
)
def test_what_is_doubtful_counts_once_it_is_said(sure, answer, held):
    finding = Finding(np.ones((4, 4), np.float32), sure=sure)
    assert finding.held(WaterParams(answer=answer)) is held


@pytest.fixture
def doubtful(coast, engine, monkeypatch):
    """The coast, whose water is in doubt, and a latch that holds it."""
    monkeypatch.setattr(water, "sure_of_water", lambda *_: 0.5)
    scene = coast.scene()
    at = engine.develop(scene, coast.pyramid).ground.read_at()
    scene.latches = [Latch(name="Lake", read_at=at, ingredients=[new_ingredient("water")])]
    return scene


def test_doubtful_water_is_asked_for_shown_and_not_applied(doubtful, coast, tmp_path):
    pyramid = replace(coast.pyramid, key="in doubt", folder=None)
    development = Engine(threads=2).develop(doubtful, pyramid)
    latch = development.scene.latches[0]
    view = development.geometry.fit(200)
    assert not development.latches.mask(latch, view).any()
    (line,) = latch.ingredients
    assert in_doubt(development, latch)[line.id].startswith("Is this water?")
    assert "Is this water?" in why_empty(development, latch)
    shown = development.again(doubts_shown(doubtful))
    assert shown.latches.mask(shown.scene.latches[0], view).mean() > 0.05
    line.params.answer = "no"
    denied = development.again(doubtful)
    assert in_doubt(denied, denied.scene.latches[0]) == {}
    assert "said not to be there" in why_empty(denied, denied.scene.latches[0])
    line.params.answer = "yes"
    said = development.again(doubtful)
    assert said.latches.mask(said.scene.latches[0], view).mean() > 0.05


def test_a_new_sky_is_not_mirrored_in_what_may_be_no_water(coast, tmp_path, store, engine, monkeypatch):
    bare, _ = _lab("sky-1", tmp_path, store, engine)
    source, raster = bare.scene.sources[0], bare.raster
    scene = coast.scene()
    held = sky_latch(engine.develop(scene, coast.pyramid).ground.read_at())
    scene.latches = [held]
    sure = engine.develop(scene, coast.pyramid).propose_sky(source, raster, held)
    assert sure.params.water == MIRRORS
    monkeypatch.setattr(water, "sure_of_water", lambda *_: 0.5)
    unsure = Engine(threads=2).develop(scene, replace(coast.pyramid, key="no lake", folder=None))
    assert unsure.propose_sky(source, raster, held).params.water == 0
