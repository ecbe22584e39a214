"""A strip is the picture, a step at a time; what wins is what the scene then shows."""

import numpy as np
import pytest

from fieldworld.inks import STOCKS
from fieldworld.press_profile import shipped
from fieldworld.sheet import measured
from sunlatch.colour import LUMA
from sunlatch.colour.printing import Printing, Profile
from sunlatch.errors import DocumentError, RenderError
from sunlatch.ledger import Paper, new_move
from sunlatch.proof import Setting, stepped, strip
from sunlatch.proof.strip import telling
from sunlatch.render import SCREEN, Output, Sharpness, picture_8

STEPS = (-1.0, 0.0, 1.0)


def test_pieces_are_the_picture_with_that_step(development):
    px, pieces = strip(
        development, [Setting("exposure", STEPS)], SCREEN, region=(0.2, 0.2, 0.5, 0.5), width=160
    )
    assert [p["steps"] for p in pieces] == [[-1], [0], [1]]
    assert [p["label"] for p in pieces] == ["Exposure -1 stops", "as it is", "Exposure +1 stops"]
    from sunlatch.geometry import View

    for piece, step in zip(pieces, STEPS, strict=True):
        x, y, w, h = piece["at"]
        made = development.again(stepped(development.scene, "exposure", step))
        alone = picture_8(made, View((0.2, 0.2, 0.5, 0.5), (w, h)), False)
        assert np.abs(px[y : y + h, x : x + w].astype(int) - alone).max() <= 1


def test_two_settings_make_a_table(development):
    settings = [Setting("exposure", STEPS), Setting("warmth", (-500.0, 500.0))]
    px, pieces = strip(development, settings, SCREEN, region=(0.3, 0.1, 0.6, 0.3), width=80)
    assert len(pieces) == 6
    assert px.shape[1] > px.shape[0]
    cool, warm = (next(p for p in pieces if p["steps"] == [0, k]) for k in (-500.0, 500.0))
    red = [
        px[y : y + h, x : x + w, 0].mean() / px[y : y + h, x : x + w, 2].mean()
        for x, y, w, h in (cool["at"], warm["at"])
    ]
    assert red[0] < red[1]


def test_a_step_goes_to_the_paper_where_there_is_one(coast):
    scene = coast.scene()
    assert len(stepped(scene, "exposure", 0.5).moves) == 1
    paper = Paper(name="Cotton")
    scene.papers, scene.paper = [paper], paper.id
    tried = stepped(scene, "exposure", 0.5)
    assert not tried.moves
    assert tried.on_paper.moves[0].params.ev == 0.5
    assert stepped(scene, "sharpness", 50).on_paper.params.sharpness == pytest.approx(1.5)
    assert stepped(scene, "exposure", 0) is scene


def test_any_number_of_the_ledger(coast):
    scene = coast.scene()
    scene.moves.append(new_move("exposure", params={"ev": 0.3}))
    assert stepped(scene, "1.ev", 0.5).moves[0].params.ev == pytest.approx(0.8)
    assert stepped(scene, "exposure.ev", 0.5).moves[0].params.ev == pytest.approx(0.8)
    assert stepped(scene, "base_exposure.ev", -1).ground.base_exposure.params.ev == -1


@pytest.mark.parametrize(
    ("of", "step", "said"),
    [("moon.ev", 1, "no line"), ("1.ev", 1, "no line"), ("rendering.setting", 1, "no number"), ("exposure", 99, "ev"),
     ("sharpness", 10, "belongs to a paper")],
)  # fmt: skip
def test_what_cannot_be_stepped_is_said(coast, of, step, said):
    with pytest.raises(DocumentError, match=said):
        stepped(coast.scene(), of, step)


def test_a_strip_has_steps(development):
    with pytest.raises(DocumentError, match="1 to 12"):
        Setting("exposure", ())
    with pytest.raises(DocumentError, match="not a number"):
        Setting("exposure", (float("nan"),))
    with pytest.raises(RenderError, match="one or two"):
        strip(development, [], SCREEN)


def test_the_most_telling_piece_has_darks_and_lights(development):
    x0, y0, x1, y1 = telling(development, SCREEN)
    assert 0 <= x0 < x1 <= 1
    assert 0 <= y0 < y1 <= 1
    whole = picture_8(development, development.geometry.fit(240), False).astype(float).mean(2)
    h, w = whole.shape
    piece = whole[int(y0 * h) : int(y1 * h), int(x0 * w) : int(x1 * w)]
    assert piece.std() > 0.9 * whole.std()


def test_a_strip_for_the_press_is_in_the_papers_numbers(development):
    printing = Printing(Profile(shipped(STOCKS["lustre"])))
    output = Output(bits=16, printing=printing, sharpness=Sharpness(200))
    px, pieces = strip(
        development, [Setting("exposure", STEPS)], output, region=(0.3, 0.3, 0.6, 0.6), width=100
    )
    assert px.dtype == np.uint16
    light = measured(STOCKS["lustre"], px) @ np.array([0, 1, 0])
    means = [light[y : y + h, x : x + w].mean() for x, y, w, h in (p["at"] for p in pieces)]
    assert means[0] < means[1] < means[2]
    assert (px[0] == 65535).all()  # paper between
    assert LUMA.sum() == pytest.approx(1)
