"""A colour pointed at is the one the patch is seen as."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.colour import leading_colour
from sunlatch.geometry import View
from sunlatch.meters import colour_at, pick_at
from sunlatch.render import Engine


def _of(lightness, chroma, hue, n):
    turn = np.radians(hue)
    return np.tile([lightness, chroma * np.cos(turn), chroma * np.sin(turn)], (n, 1))


def _hue(lab):
    return float(np.degrees(np.arctan2(lab[2], lab[1])) % 360)


@given(st.floats(0, 360), st.floats(0.04, 0.3), st.floats(0.1, 0.9), st.integers(2, 60))
def test_one_colour_is_itself(hue, chroma, lightness, n):
    got = leading_colour(_of(lightness, chroma, hue, n))
    assert np.allclose(got, _of(lightness, chroma, hue, 1)[0], atol=1e-9)


@given(st.floats(0, 360), st.floats(0, 0.02))
def test_leaves_before_a_pale_sky_are_green_not_grey(opposite, pale):
    """More than half of the patch is sky, and its hue another."""
    patch = np.concatenate([_of(0.45, 0.11, 130, 40), _of(0.95, pale, opposite, 60)])
    got = leading_colour(patch)
    assert abs(_hue(got) - 130) < 15
    assert np.hypot(*got[1:]) > 0.06
    assert np.hypot(*patch.mean(0)[1:]) < 0.065


def test_two_hues_are_not_mixed_to_a_third():
    got = leading_colour(np.concatenate([_of(0.5, 0.1, 30, 55), _of(0.5, 0.1, 250, 45)]))
    assert _hue(got) == pytest.approx(30, abs=1)


def test_noise_of_one_hue_keeps_it_and_grey_stays_grey():
    rng = np.random.default_rng(4)
    patch = _of(0.5, 0.08, 355, 400)  # across where hue begins
    patch[:, 1:] += rng.normal(0, 0.015, (400, 2))
    assert min(_hue(leading_colour(patch)), 360 - _hue(leading_colour(patch))) < 9
    grey = np.concatenate([_of(0.3, 0.004, 20, 50), _of(0.7, 0.004, 200, 50)])
    assert np.allclose(leading_colour(grey), grey.mean(0))


def test_a_pick_reads_as_wide_a_patch_as_it_is_asked_for(coast):
    scene = coast.scene()
    development = Engine(threads=2).develop(scene, coast.pyramid)
    w, h = development.geometry.developed_size
    x, y, across = 0.4, 0.55, 0.05
    half = across / 2
    view = View((x - half, y - half * w / h, x + half, y + half * w / h), (40, 40))
    lab = development.reader.lab(view, development.ground.read_at())
    r = np.hypot(*(np.mgrid[:40, :40] - 19.5)) <= 20
    got = colour_at(development, development.ground.read_at(), x, y, across)
    want = leading_colour(lab[:, r].T)
    assert np.allclose([got.l, got.a, got.b], want, atol=0.02)
    picks = [pick_at(development, x, y, across=a).picked for a in (0.002, 0.05)]
    assert picks[0] != picks[1]
    assert pick_at(development, x, y).picked.at == picks[0].at
