"""Where glare has burnt sea and sky to one white the sea's line is carried on, and nothing else is."""

import cv2
import numpy as np
import pytest

from sunlatch.latch.found.glare import under_the_glare

H, W, SEA = 240, 480, 150


def _shore(lean=0.0, tone=0.6, streaked=True, burnt=True):
    """Sky over a sea with level streaks, and a sun whose glare burns out the right half of both; what has been
    taken for sky, which is all that is burnt out; and how far a px lies under the line."""
    rng = np.random.default_rng(5)
    y, x = np.mgrid[0 : 2 * H, 0 : 2 * W] / np.float32(2)
    under = y - SEA - np.tan(np.radians(lean)) * (x - W / 2)
    grain = rng.normal(0, 1, (2 * H, 2 * W)).astype(np.float32)
    wide, tall = (12, 0.8) if streaked else (0.8, 12)
    grain = cv2.GaussianBlur(grain, (0, 0), sigmaX=wide, sigmaY=tall)
    light = np.where(under > 0, tone + 0.05 * grain / grain.std(), 0.7).astype(np.float32)
    sun = np.exp(-np.square((x - 0.75 * W) / 60) - np.square((y - SEA) / 50)) if burnt else 0
    light = np.minimum(light + 3 * sun, 0.8).astype(np.float32)
    fine = np.stack([light, 0 * light, 0 * light])
    lab = np.stack([cv2.resize(p, (W, H), interpolation=cv2.INTER_AREA) for p in fine])
    under = cv2.resize(under.astype(np.float32), (W, H), interpolation=cv2.INTER_AREA)
    return lab, (under < 0) | (lab[0] > 0.795), fine, under


@pytest.mark.parametrize("lean", [0.0, 1.6, -2.4])
def test_the_line_of_the_sea_is_carried_on_behind_glare(lean):
    lab, sky, fine, under = _shore(lean)
    assert (sky & (under > 3)).mean() > 0.01
    found = under_the_glare(lab, sky, fine)
    assert found[under > 4].all()
    assert not found[under < -4].any()


@pytest.mark.parametrize(
    "other",
    [{"streaked": False}, {"burnt": False}, {"lean": 12.0}],
    ids=["a wall", "no glare", "a slope"],
)
def test_what_is_no_burnt_sea_is_left(other):
    lab, sky, fine, _ = _shore(**other)
    assert not under_the_glare(lab, sky, fine).any()


def test_sky_that_is_not_burnt_out_is_never_taken():
    """Sky seen beside the end of a quay lies under the quay's line; it is not white."""
    lab, sky, fine, under = _shore()
    beside = (under > 0) & (np.arange(W)[None] > W / 2)
    lab[0][beside] = 0.7
    lab[0, :20, :40] = 0.8
    assert not under_the_glare(lab, sky | beside, fine).any()
