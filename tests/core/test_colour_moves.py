"""Moves of colour: what they change, and what they leave alone, against OKLab in NumPy."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.colour import oklab
from sunlatch.moves import MOVE_KINDS
from sunlatch.moves.rows import of_one_light
from tests.core.moving import colours, lab_of, moved, rgb_of, stops_of

RGB = colours()
LAB = lab_of(RGB)
PURE = np.hypot(LAB[1], LAB[2]) / LAB[0]
HUE = np.degrees(np.arctan2(LAB[2], LAB[1]))


def _apart(a, b):
    return (a - b + 180) % 360 - 180


def _anchor(u, v, stops=0.0, **done):
    return {"picked": {"at": {"x": 0, "y": 0}, "u": u, "v": v, "stops": stops}} | done


def test_rows_go_to_oklab_and_back_without_drifting():
    out = RGB
    for _ in range(40):
        out = moved("vividness", out, amount=0.0)
    assert np.abs(out / RGB - 1).max() < 2e-4


@pytest.mark.parametrize("which", ["all", "weak"])
@given(amount=st.floats(-1, 1.5), mask=st.floats(0.01, 1))
def test_vividness_changes_chroma_alone(which, amount, mask):
    after = lab_of(moved("vividness", RGB, mask, amount=amount, which=which))
    share = 1.0 if which == "all" else 1 / (1 + (PURE / 0.11) ** 2)
    gain = np.maximum(1 + mask * amount * share, 0)
    assert np.allclose(after, np.stack([LAB[0], LAB[1] * gain, LAB[2] * gain]), atol=2e-4)


def test_weak_colours_gain_more_than_strong_ones():
    after = lab_of(moved("vividness", RGB, amount=0.8))
    gain = np.hypot(after[1], after[2]) / np.hypot(LAB[1], LAB[2])
    assert gain[PURE < 0.03].min() > 1.6
    assert gain[PURE > 0.2].max() < 1.25


@given(st.floats(-1, 1), st.floats(-1, 1), st.floats(0, 2))
def test_a_channel_mix_is_its_matrix_and_keeps_greys(red_green, blue_red, strength):
    out = moved("channel_mix", RGB, strength=strength, red_green=red_green, blue_red=blue_red, grey=False)
    m = np.eye(3)
    m[0, 1], m[2, 0] = red_green * strength, blue_red * strength
    assert np.allclose(out, np.einsum("ij,jhw->ihw", m, RGB), rtol=1e-3, atol=1e-4)
    grey = np.full((3, 2, 2), 0.3)
    if abs(1 + red_green) > 0.05 and abs(1 + blue_red) > 0.05:
        assert np.allclose(moved("channel_mix", grey, red_green=red_green, blue_red=blue_red), 0.3, rtol=1e-4)


def test_primaries_keep_white_and_turn_only_what_is_named():
    grey = np.full((3, 2, 2), 0.4)
    turned = {"red_turn": 12, "blue_pure": 0.3, "green_turn": -8}
    assert np.allclose(moved("primaries", grey, **turned), 0.4, rtol=1e-4)
    red, green = np.zeros((3, 1, 1)), np.zeros((3, 1, 1))
    red[0], green[1] = 0.5, 0.5
    before, after = lab_of(red)[:, 0, 0], lab_of(moved("primaries", red, red_turn=15))[:, 0, 0]
    assert abs(np.degrees(np.arctan2(after[2], after[1]) - np.arctan2(before[2], before[1]))) > 4
    still = lab_of(moved("primaries", green, red_turn=15))[:, 0, 0]
    was = lab_of(green)[:, 0, 0]
    assert abs(np.degrees(np.arctan2(still[2], still[1]) - np.arctan2(was[2], was[1]))) < 1.5
    purer = lab_of(moved("primaries", RGB, blue_pure=0.4))
    blue = np.abs(_apart(HUE, 264)) < 20
    assert (np.hypot(purer[1], purer[2]) > np.hypot(LAB[1], LAB[2]))[blue & (PURE > 0.03)].all()


def test_a_sky_filter_darkens_blue_sky_and_neither_cloud_nor_land():
    sky, cloud = [0.25, 0.3, 0.5], [0.8, 0.8, 0.82]
    rock, gold = [0.3, 0.2, 0.1], [0.9, 0.6, 0.3]
    rgb = np.array([sky, cloud, rock, gold], float).T[:, None]
    out = moved("sky_filter", rgb, depth=1.0)
    change = (stops_of(out) - stops_of(rgb))[0]
    assert -1.1 < change[0] < -0.5
    assert np.abs(change[1:]).max() < 0.05
    before, after = lab_of(rgb), lab_of(out)
    assert np.hypot(*after[1:, 0, 0]) / after[0, 0, 0] > 1.1 * np.hypot(*before[1:, 0, 0]) / before[0, 0, 0]


@given(st.floats(-60, 60), st.floats(-0.9, 1), st.floats(-2, 2))
def test_an_anchor_steers_its_own_hue_and_leaves_the_others(turn, deepen, lighten):
    u, v = 0.12 * np.cos(np.radians(60)), 0.12 * np.sin(np.radians(60))
    done = {"turn": turn, "deepen": deepen, "lighten": lighten, "reach": 25}
    own = rgb_of(np.array([0.6, 0.6 * u, 0.6 * v]))[:, None, None]
    after = lab_of(moved("hue_steer", own, anchors=[_anchor(u, v, **done)]))[:, 0, 0]
    gain = 2.0 ** (lighten / 3)
    assert after[0] == pytest.approx(0.6 * gain, rel=2e-3)
    assert np.hypot(*after[1:]) / after[0] == pytest.approx(0.12 * max(1 + deepen, 0), abs=2e-3)
    if deepen > -0.8:
        assert _apart(np.degrees(np.arctan2(after[2], after[1])), 60 + turn) == pytest.approx(0, abs=0.5)
    away = (np.abs(_apart(HUE, 60)) > 75) & (PURE > 0.05)
    out = lab_of(moved("hue_steer", RGB, anchors=[_anchor(u, v, **done)]))
    assert np.abs(out - LAB)[:, away].max() < 0.02
    # more or less light changes nothing of what is meant
    dark = moved("hue_steer", RGB / 8, anchors=[_anchor(u, v, **done)]) * 8
    assert np.allclose(lab_of(dark), out, atol=1e-3)


def test_a_grey_anchor_holds_greys_of_its_light_and_says_that_it_has_no_hue():
    greys = np.full((3, 1, 4), 0.18) * 2.0 ** np.array([-6, -3, 0, 3])
    out = moved("hue_steer", greys, anchors=[_anchor(0, 0, -3, lighten=1)])
    change = (stops_of(out) - stops_of(greys))[0]
    assert change[1] == pytest.approx(1, abs=0.01)
    assert np.abs(change[[0, 2, 3]]).max() < 0.3
    coloured = lab_of(moved("hue_steer", RGB, anchors=[_anchor(0, 0, -3, lighten=1)]))
    assert np.abs(coloured - LAB)[:, PURE > 0.12].max() < 0.01
    move = MOVE_KINDS["hue_steer"]
    assert "no hue" in move.remark(move.params(anchors=[_anchor(0, 0, turn=20)]))
    assert "Point at" in move.remark(move.params())


def test_overlapping_anchors_share_and_never_add_up_to_more_than_one():
    u, v = 0.1, 0.0
    one = moved("hue_steer", RGB, anchors=[_anchor(u, v, lighten=1)])
    two = moved("hue_steer", RGB, anchors=[_anchor(u, v, lighten=1), _anchor(u, v, lighten=1)])
    assert (stops_of(two) <= stops_of(RGB) + 1.001).all()
    assert stops_of(two).mean() > stops_of(one).mean()


@given(st.floats(0.05, 1))
def test_hues_are_gathered_to_the_nearer_of_two_and_greys_stay(amount):
    out = lab_of(moved("gather_hues", RGB, amount=amount, one="#e08a3c", two="#3c78b4", reach=180))
    targets = [float(np.degrees(np.arctan2(*oklab(of_one_light(c).astype(float))[[2, 1]]))) for c in ("#e08a3c", "#3c78b4")]  # fmt: skip
    hue = np.degrees(np.arctan2(out[2], out[1]))
    assert np.allclose(out[0], LAB[0], atol=1e-3)
    assert np.allclose(np.hypot(out[1], out[2]), np.hypot(LAB[1], LAB[2]), atol=1e-3)
    nearest = lambda h: np.min([np.abs(_apart(h, t)) for t in targets], 0)  # noqa: E731
    clear = (PURE > 0.07) & (nearest(HUE) < 60)
    assert np.allclose(nearest(hue)[clear], nearest(HUE)[clear] * (1 - amount), atol=1.5)
    assert np.abs(out - LAB)[:, PURE < 0.008].max() < 1e-3


def test_hues_out_of_reach_stay_and_skin_can_be_spared():
    out = lab_of(moved("gather_hues", RGB, amount=1.0, both=False, one="#e08a3c", reach=40))
    away = np.abs(_apart(HUE, 61)) > 60
    assert np.abs(out - LAB)[:, away].max() < 0.01
    skin = rgb_of(0.6 * np.array([1, 0.1 * np.cos(1.0), 0.1 * np.sin(1.0)]))[:, None, None]
    spared, not_ = (lab_of(moved("gather_hues", skin, amount=1, one="#30a050", both=False, spare_skin=s)) for s in (True, False))  # fmt: skip
    assert np.abs(spared - lab_of(skin)).max() < 0.1 * np.abs(not_ - lab_of(skin)).max()


@pytest.mark.parametrize("zone", ["around", "lighter", "darker"])
def test_a_tint_lies_on_its_zone(zone):
    stops = np.linspace(-10, 4, 57)
    greys = np.repeat((0.18 * 2.0**stops)[None, None], 3, 0)
    after = lab_of(moved("rung_tints", greys, amount=0.5, at=-3, reach=2, zone=zone, colour="#ff8020"))[:, 0]
    tint = np.hypot(after[1], after[2])
    around = np.abs(stops + 3) < 0.01
    assert tint[around].min() > 0.02
    assert np.allclose(after[0], np.cbrt(0.18 * 2.0**stops), atol=2e-3)
    low, high = stops < -5.01, stops > -0.99
    assert (tint[low].max() < 1e-3) == (zone != "darker")
    assert (tint[high].max() < 1e-3) == (zone != "lighter")
    if zone == "darker":
        assert tint[0] > 0.01, "black takes some of it"


def test_monochrome_is_grey_of_luminance_and_mixed_by_pointing():
    plain = moved("monochrome", RGB)
    assert np.abs(plain / plain[1] - 1).max() < 1e-3
    assert np.allclose(stops_of(plain), stops_of(RGB), atol=2e-3)
    u, v = -0.03, -0.12
    mixed = moved("monochrome", RGB, anchors=[_anchor(u, v, lighten=-2, reach=25)])
    change = stops_of(mixed) - stops_of(RGB)
    hue = np.degrees(np.arctan2(v, u))
    own = (np.abs(_apart(HUE, hue)) < 6) & (PURE > 0.08) & (PURE < 0.16)
    assert change[own].max() < -1.2
    assert np.abs(change[np.abs(_apart(HUE, hue)) > 80]).max() < 0.3
    half = lab_of(moved("monochrome", RGB, 0.5))
    assert np.allclose(half[1:], LAB[1:] / 2, atol=1e-3)
