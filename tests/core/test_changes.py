"""What is different between two states, in sentences."""

import copy

import numpy as np
import pytest

from sunlatch.ledger import (
    Paper,
    before_light,
    changes,
    new_ingredient,
    new_move,
    parse_scene,
    shaped_like,
    untouched,
)
from sunlatch.ledger.document import Latch
from sunlatch.meters import difference, difference_picture


@pytest.fixture
def scene(coast, development):
    made = coast.scene()
    latch = Latch(name="Sky", ingredients=[new_ingredient("ramp")], read_at=development.ground.read_at())
    made.latches.append(latch)
    made.moves = [
        new_move("exposure", params={"ev": -0.9}, latch=latch.id),
        new_move("vividness", params={"amount": 0.2}),
    ]
    return parse_scene(made.model_dump(mode="json"))


def _changed(scene, change):
    other = copy.deepcopy(scene)
    change(other)
    return other


def test_nothing_changed_says_nothing(scene):
    assert changes(scene, copy.deepcopy(scene)) == []


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda s: setattr(s.moves[0].params, "ev", -0.5), "Exposure −0.5 stops on Sky (was: −0.9 stops on Sky)"),
        (lambda s: setattr(s.moves[1], "on", False), "Switched off: Vividness"),
        (lambda s: s.moves.pop(1), "Removed: Vividness"),
        (lambda s: s.moves.append(new_move("haze")), "Added: "),
        (lambda s: s.moves.reverse(), "The order of the lines changed"),
        (lambda s: setattr(s.latches[0], "invert", True), "Latch Sky changed"),
        (lambda s: setattr(s.ground.base_exposure.params, "ev", 1.0), "(was: "),
        (lambda s: setattr(s.ground.lens, "on", False), "Lens off"),
    ],
)  # fmt: skip
def test_every_line_that_differs_is_a_sentence(scene, change, said):
    told = changes(scene, _changed(scene, change))
    assert len(told) == 1
    assert said in told[0]


def test_only_light_is_compared(scene):
    def other(s):
        s.ground.trim.params.level = 3.0
        s.moves.clear()

    now = _changed(scene, other)
    same = shaped_like(scene, now)
    assert same.ground.trim == now.ground.trim
    assert len(same.moves) == 2
    told = changes(same, now)
    assert len(told) == 2
    assert all(words.startswith("Removed: ") for words in told)
    assert before_light(now).moves == []
    assert untouched(scene).latches == []


def test_the_difference_is_in_stops(scene, coast, engine):
    def lighter(s):
        s.moves = [new_move("exposure", params={"ev": 0.5})]
        s.ground.rendering.params.setting = "straight"

    def plain(s):
        s.moves = []
        s.ground.rendering.params.setting = "straight"

    one, other = (engine.develop(_changed(scene, c), coast.pyramid) for c in (plain, lighter))
    view = one.geometry.fit(200)
    stops = difference(one, other, view)
    assert np.median(stops) > 0.2
    shown = difference_picture(one, other, view)
    assert shown.dtype == np.uint8
    assert (shown[..., 0] == shown[..., 2]).all()
    assert (difference_picture(one, one, view) == 128).all()
    assert difference(other, one, view) == pytest.approx(-stops, abs=1e-5)


def test_papers_and_their_lines_are_told(scene):
    paper = Paper(name="Cotton", moves=[new_move("exposure", params={"ev": 0.2})])
    with_one = _changed(scene, lambda s: s.papers.append(paper.model_copy(deep=True)))
    assert changes(scene, with_one) == ["Paper Cotton added"]
    assert changes(with_one, scene) == ["Paper Cotton removed"]

    def brighter(s):
        s.papers[0].moves[0].params.ev = 0.5
        s.papers[0].params.border = 60

    assert changes(with_one, _changed(with_one, brighter)) == [
        "Paper Cotton changed",
        "Changed for Cotton: Exposure +0.5 stops",
    ]
    assert changes(with_one, _changed(with_one, lambda s: s.papers[0].moves.clear())) == [
        "Removed for Cotton: Exposure +0.2 stops"
    ]
