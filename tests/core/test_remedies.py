"""What is offered for a place that is wrong does what it is offered for, there more than elsewhere."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldworld.camera import smaller
from fieldworld.outing import find
from sunlatch.errors import RenderError
from sunlatch.frame import hash_file
from sunlatch.geometry import View
from sunlatch.ledger import EdgeTrue, Latch, Scene, Source, new_ingredient
from sunlatch.meters import COMPLAINTS, pick_at, read_remedies
from sunlatch.moves.contrast import ContrastParams
from sunlatch.parameters import within
from tests.coast import shoot
from tests.core.moving import stops_of

SKY, ROCK = (0.85, 0.15), (0.15, 0.9)
PLACES = {"bright": SKY, "dark": ROCK, "flat": ROCK, "veiled": (0.2, 0.3), "loud": SKY, "grey": SKY, "hue": SKY, "eye": SKY}  # fmt: skip


@pytest.fixture(scope="module")
def pool(tmp_path_factory, store):
    """The rock pool against the light."""
    path = tmp_path_factory.mktemp("remedies") / "pool.dng"
    shoot(smaller(find("pool"), 1280), path)
    sha256 = hash_file(path)
    return Scene(sources=[Source(sha256=sha256)]), store.whole(sha256, path)


def _with(scene, remedy):
    made = scene.model_copy(deep=True)
    if remedy.latch is not None:
        made.latches.append(remedy.latch)
    made.moves.append(remedy.line)
    return made


def _around(at):
    return View((at[0] - 0.02, at[1] - 0.02, at[0] + 0.02, at[1] + 0.02), (32, 24))


def _colourful(development, at):
    picked = pick_at(development, *at).picked
    return float(np.hypot(picked.u, picked.v)), float(np.degrees(np.arctan2(picked.v, picked.u)))


@pytest.mark.parametrize("wrong", COMPLAINTS)
def test_every_remedy_does_something_about_the_complaint(engine, pool, wrong):
    scene, pyramid = pool
    at = PLACES[wrong]
    plain = engine.develop(scene, pyramid)
    remedies = read_remedies(plain, *at, wrong)
    assert len(remedies) >= 2
    assert len({r.description for r in remedies}) == len(remedies), "no two alike"
    before = stops_of(plain.light_planes(_around(at)))
    strength, hue = _colourful(plain, at)
    for remedy in remedies:
        moved = engine.develop(_with(scene, remedy), pyramid)
        now = stops_of(moved.light_planes(_around(at)))
        more = float(np.mean(now - before))
        after, turned = _colourful(moved, at)
        if wrong in ("bright", "dark"):
            assert more < -0.1 if wrong == "bright" else more > 0.1, remedy.description
        elif wrong == "flat":
            assert now.std() > before.std() * 1.02, remedy.description
        elif wrong in ("loud", "grey"):
            assert after < strength * 0.95 if wrong == "loud" else after > strength * 1.02, remedy.description
        elif wrong == "hue":
            assert abs(turned - hue) > 5 or after < strength * 0.8, remedy.description
        else:
            assert np.abs(now - before).max() > 0.02 or after < strength * 0.95, remedy.description


def test_the_sky_is_offered_first_for_a_bright_sky_and_spared_elsewhere(engine, pool):
    scene, pyramid = pool
    plain = engine.develop(scene, pyramid)
    first = read_remedies(plain, *SKY, "bright")[0]
    assert first.latch is not None
    assert [i.kind for i in first.latch.ingredients] == ["sky"]
    assert first.line.params.ev < 0
    moved = engine.develop(_with(scene, first), pyramid)
    off = stops_of(moved.light_planes(_around(ROCK))) - stops_of(plain.light_planes(_around(ROCK)))
    assert abs(off).max() < 0.01
    assert first.description.endswith("on Sky")


def test_a_latch_of_the_shelf_that_holds_the_place_is_used(engine, pool):
    scene = pool[0].model_copy(deep=True)
    at = engine.develop(scene, pool[1]).ground.read_at()
    land = Latch(name="Land", ingredients=[new_ingredient("sky", invert=True)], read_at=at, edge_true=EdgeTrue(on=False))  # fmt: skip
    scene.latches = [land]
    remedies = read_remedies(engine.develop(scene, pool[1]), *ROCK, "dark")
    assert remedies[0].latch is None
    assert remedies[0].line.latch == land.id
    assert all(r.line.latch != land.id for r in read_remedies(engine.develop(scene, pool[1]), *SKY, "dark"))


def test_a_pool_lies_where_it_was_pointed(engine, pool):
    scene, pyramid = pool
    plain = engine.develop(scene, pyramid)
    remedy = next(r for r in read_remedies(plain, *ROCK, "eye") if r.line.kind == "exposure")
    moved = engine.develop(_with(scene, remedy), pyramid)
    view = plain.geometry.fit(320)
    off = stops_of(moved.light_planes(view)) - stops_of(plain.light_planes(view))
    rows, columns = np.nonzero(off < -0.25)
    centre = (columns.mean() / off.shape[1], rows.mean() / off.shape[0])
    assert centre == pytest.approx(ROCK, abs=0.06)


def test_a_place_outside_is_refused(engine, pool):
    with pytest.raises(RenderError, match="outside"):
        read_remedies(engine.develop(*pool), 1.2, 0.5, "bright")


@given(st.floats(-40, 40))
def test_what_is_proposed_stays_in_declared_ranges(value):
    held = within(ContrastParams, "pivot", value)
    assert ContrastParams(pivot=held).pivot == held
    assert held == pytest.approx(value, abs=0.051) or abs(value) > 3.9
