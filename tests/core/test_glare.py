"""Where glare has burnt sea and sky to one white the sea's line is carried on, and nothing else is."""

import cv2
import numpy as np
import pytest

from sunlatch.latch.found.glare import under_the_glare

H, W, SEA = 240, 480, 150


def _specks(where, wide=8, tall=1):
    """Dark specks strewn at random over a picture of twice the size, so wide and tall at most."""
    rng = np.random.default_rng(7)
    found = np.zeros((2 * H, 2 * W), np.float32)
    for y, x in zip(rng.integers(0, 2 * H, 900), rng.integers(0, 2 * W, 900), strict=True):
        if where[y, x]:
            found[y : y + int(rng.integers(1, tall + 1)), x : x + int(rng.integers(1, wide + 1))] = 0.1
    return found


def _shore(lean=0.0, tone=0.6, strewn="sea", burnt="right", island=False):
    """Sky over a sea strewn with specks, and a sun whose glare burns out the right half of both or all of them;
    what has been taken for sky, which is all that is burnt out down to a shore; and how far a px lies under the
    line. strewn: "sea", "all", "upright" or ""; island: one whose foot is seen on the line to the left."""
    y, x = np.mgrid[0 : 2 * H, 0 : 2 * W] / np.float32(2)
    under = y - SEA - np.tan(np.radians(lean)) * (x - W / 2)
    light = np.where(under > 0, tone, 0.7).astype(np.float32)
    sun = {
        "right": np.exp(-np.square((x - 0.75 * W) / 60) - np.square((y - SEA) / 50)),
        "all": np.ones_like(x),
        "": np.zeros_like(x),
    }[burnt]
    light = np.minimum(light + 3 * sun, 0.8)
    if island:
        light = np.where((under < 0) & (under > -20 + np.abs(x - 100) / 4), 0.72, light)
    light = np.where(y > SEA + 60, 0.2, light)
    if strewn:
        light = light - _specks((under > 0) | (strewn == "all"), *((1, 8) if strewn == "upright" else (8, 1)))
    fine = np.stack([light, 0 * light, 0 * light]).astype(np.float32)
    lab = np.stack([cv2.resize(p, (W, H), interpolation=cv2.INTER_AREA) for p in fine])
    under = cv2.resize(under.astype(np.float32), (W, H), interpolation=cv2.INTER_AREA)
    white = cv2.morphologyEx((lab[0] > 0.795).astype(np.uint8), cv2.MORPH_CLOSE, np.ones((9, 9))) > 0
    return lab, ((under < 0) | white) & (np.arange(H)[:, None] < SEA + 60), fine, under


@pytest.mark.parametrize("lean", [0.0, 1.6, -2.4])
def test_the_line_of_the_sea_is_carried_on_behind_glare(lean):
    lab, sky, fine, under = _shore(lean)
    assert (sky & (under > 3)).mean() > 0.01
    found = under_the_glare(lab, sky, fine)
    assert found[under > 4].all()
    assert not found[under < -4].any()


@pytest.mark.parametrize("lean", [0.0, -0.6])
def test_the_foot_of_an_island_shows_the_line_of_a_sea_all_burnt_out(lean):
    lab, sky, fine, under = _shore(lean, burnt="all", island=True)
    found = under_the_glare(lab, sky, fine)
    assert found[under > 5].all()
    assert not found[under < -5].any()


@pytest.mark.parametrize(
    "other",
    [
        {"strewn": "all"},
        {"strewn": "upright"},
        {"burnt": ""},
        {"strewn": "", "burnt": "all", "island": True},
    ],
    ids=["birds", "reeds", "no glare", "a level cloud"],
)
def test_what_is_no_burnt_sea_with_a_line_is_left(other):
    lab, sky, fine, _ = _shore(**other)
    assert not under_the_glare(lab, sky, fine).any()


def test_sky_that_is_not_burnt_out_is_never_taken():
    """Sky seen beside the end of a quay lies under the quay's line; it is not white."""
    lab, sky, fine, under = _shore()
    beside = (under > 0) & (np.arange(W)[None] > W / 2)
    lab[0][beside] = 0.7
    lab[0, :20, :40] = 0.8
    assert not under_the_glare(lab, sky | beside, fine).any()
