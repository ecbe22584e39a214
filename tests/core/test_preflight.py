"""Preflight says what is there, where it is, and what would help; and nothing of what is not."""

import cv2
import numpy as np
import pytest

from fieldworld.inks import STOCKS
from fieldworld.press_profile import shipped
from sunlatch.colour.printing import Printing, Profile
from sunlatch.ledger import PaperParams, new_move
from sunlatch.mend.patches import SourceMap
from sunlatch.proof import laid_out, preflight
from sunlatch.proof.made import repeated
from sunlatch.proof.tiles import CHOSEN_PX, noise_of, overshoot
from sunlatch.render import Output, picture_8
from sunlatch.render.output import Proof

MATTE = Printing(Profile(shipped(STOCKS["matte"])))


@pytest.fixture
def judged(coast, engine):
    """What preflight says of the coast, changed."""

    def judge(change=None, output=None, **paper):
        scene = coast.scene()
        if change is not None:
            change(scene)
        made = engine.develop(scene, coast.pyramid)
        layout = laid_out(PaperParams(**paper), made.geometry.developed_size)
        told = preflight(made, output or Output("srgb", 16), layout)
        return {one.what: one for one in told.to_look_at}, told

    return judge


def test_worst_first_with_place_and_remedy(judged):
    found, told = judged(output=Output(bits=16, printing=MATTE))
    assert [f.much for f in told.to_look_at] == sorted((f.much for f in told.to_look_at), reverse=True)
    for one in told.to_look_at:
        assert one.description
        assert one.remedy is not None
        assert one.x is None or (0 <= one.x <= 1 and 0 <= one.y <= 1)
    assert "ppi" in found  # a tenth of the px on 52 cm
    assert found["ppi"].remedy.paper["across"] < 300


def test_enough_px_are_enough(judged):
    found, told = judged(width=120, height=90, border=10)
    assert "ppi" not in found
    assert any("enough from" in words for words in told.well)


def test_a_burnt_sky_is_bare_paper(judged):
    def burnt(scene):
        scene.ground.ends.params.white = 0.5

    found, _ = judged(burnt)
    assert found["clipped"].y < 0.6  # the sky, not the land
    assert found["clipped"].remedy.line == "ends"
    assert "clipped" not in judged()[0]


def test_colours_beyond_the_paper_are_named_and_perceptual_draws_them_in(judged):
    def vivid(scene):
        scene.moves.append(new_move("vividness", params={"amount": 1.0}))

    found, _ = judged(vivid, Output(bits=16, printing=MATTE))
    assert found["gamut"].remedy.paper == {"intent": "perceptual"}
    softer = Output(bits=16, printing=Printing(MATTE.profile, "perceptual"))
    assert "gamut" not in judged(vivid, softer)[0]


def test_ink_that_is_not_dark_enough_is_said_where_black_is_not_compensated(judged):
    plain = Output(bits=16, printing=Printing(MATTE.profile, "relative", False))
    found, _ = judged(output=plain)
    assert found["ink"].remedy.paper == {"compensated": True}
    assert "ink" not in judged(output=Output(bits=16, printing=MATTE))[0]


def test_a_turned_frame_has_a_horizon_off_and_empty_corners(judged):
    def turned(scene):
        scene.ground.trim.params.level = 4.0
        scene.ground.trim.params.empty = True

    found, _ = judged(turned)
    assert "corners" in found
    assert "no empty corners" in judged()[1].well


def test_halos_are_counted(judged):
    def rimmed(scene):
        scene.moves.append(new_move("relief", params={"coarse": 2.0, "middle": 1.0, "fine": 0.0}))

    found, _ = judged(rimmed)
    assert "halos" in found
    assert found["halos"].remedy.station == "Light"


def test_an_edge_that_rings_does_and_one_that_is_soft_does_not():
    step = np.where(np.arange(160) < 80, 0.25, 0.75).astype(np.float32)
    soft = np.convolve(np.pad(step, 4, "edge"), [0.25, 0.5, 0.25], "same")[4:-4].astype(np.float32)
    soft = np.tile(soft, (160, 1))
    ringing = soft + 2.5 * (soft - cv2.GaussianBlur(soft, (0, 0), 1.2))
    assert overshoot(soft)[0] < 0.03
    assert overshoot(ringing)[0] > 0.16


def test_noise_is_told_from_a_slope():
    rng = np.random.default_rng(1)
    slope = np.linspace(20, 60, 160, dtype=np.float32)[None].repeat(160, 0)
    assert noise_of(slope) < 0.01
    assert noise_of(slope + rng.normal(0, 0.8, slope.shape).astype(np.float32)) == pytest.approx(0.8, rel=0.1)


def test_a_smooth_slope_bands_in_8_bits_and_not_in_16(coast, engine):
    """The coast with its grain smoothed away is such a slope; in 16 bits nothing bands."""
    scene = coast.scene()
    scene.ground.noise.params.light = 1.0
    scene.ground.noise.params.colour = 1.0
    made = engine.develop(scene, coast.pyramid)
    layout = laid_out(PaperParams(width=120, height=90, border=10), made.geometry.developed_size)
    for bits in (8, 16):
        told = preflight(made, Output("srgb", bits), layout)
        bands = [f for f in told.to_look_at if f.what == "bands"]
        if bits == 16:
            assert not bands
        for one in bands:
            assert one.remedy.bits == 16


def test_what_was_regrown_twice_from_one_place_is_seen():
    away = np.zeros((120, 120, 2), np.int16)
    rows, columns = np.mgrid[:120, :120]
    away[..., 0] = 200
    away[..., 1] = 300
    assert repeated(SourceMap(away, 1000.0, 0, 0)) == 0
    twice = away.copy()
    twice[60:, :, 0] = 140  # the lower half from where the upper is from
    assert repeated(SourceMap(twice, 1000.0, 0, 0)) > 0.9
    rng = np.random.default_rng(2)
    apart = np.stack([rows + 0 * columns, columns], -1) * 3 + rng.integers(0, 2, (120, 120, 2))
    assert repeated(SourceMap(apart.astype(np.int16), 1000.0, 0, 0)) == 0


def test_what_is_counted_out_of_gamut_is_what_the_picture_marks(coast, engine, judged):
    def vivid(scene):
        scene.moves.append(new_move("vividness", params={"amount": 1.0}))

    said = float(judged(vivid, Output(bits=16, printing=MATTE))[0]["gamut"].description.split(" %")[0])
    scene = coast.scene()
    vivid(scene)
    made = engine.develop(scene, coast.pyramid)
    marked = picture_8(made, made.geometry.fit(CHOSEN_PX), True, Proof(printing=MATTE, missed=True))
    assert 100 * (np.ptp(marked, axis=2) > 4).mean() == pytest.approx(said, abs=0.3)
