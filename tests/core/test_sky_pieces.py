"""Sky beside what is tall and crisp: cliffs that leave the picture at its top, white towers before white clouds."""

from dataclasses import replace

import cv2
import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.outing import find
from sunlatch.colour import oklab
from sunlatch.frame import hash_file
from sunlatch.latch.found import find_sky
from sunlatch.latch.found.pieces import against_the_sky, land_at_the_top, parted
from sunlatch.ledger import Scene, Source
from tests.coast import shoot

RNG = np.random.default_rng(11)
H, W = 426, 640
Y, X = np.mgrid[0:H, 0:W]
LAND = 0.8 * H + 6 * np.sin(X / 25) < Y


def _picture(thing, tone, sky=(0.3, 0.36, 0.45), clouds=0.0):
    """A thing (h, w, bool) of one tone that stands on rough dark land before a sky with soft clouds: its OKLab."""
    bright = np.array(sky) * (0.8 + 0.6 * Y / H)[..., None]
    heap = cv2.GaussianBlur(RNG.normal(0, 1, (H, W)), (0, 0), 22)
    bright += clouds * np.clip(heap / heap.std(), 0, 1.5)[..., None]
    light = np.where(thing[..., None], tone, bright)
    rough = 0.05 * np.exp(cv2.GaussianBlur(RNG.normal(0, 2, (H, W)), (0, 0), 1.0))
    light = np.where(LAND[..., None], rough[..., None], light)
    light = np.stack([cv2.GaussianBlur(p, (0, 0), 0.7) for p in light.transpose(2, 0, 1)], -1)
    lab = oklab(np.maximum(light + RNG.normal(0, 0.002, light.shape), 1e-4))
    return lab.transpose(2, 0, 1).astype(np.float32)


def _wrong(found, true):
    return float(((found > 0.5) != true).sum() / true.sum())


@pytest.mark.parametrize("share", [0.25, 0.6])
def test_a_cliff_that_leaves_the_picture_at_its_top_is_not_sky(share):
    cliff = share * W + 20 * np.sin(Y / 30) > X
    found = find_sky(_picture(cliff, 0.03))
    assert _wrong(found, ~cliff & ~LAND) < 0.02


def test_a_blue_sky_beside_a_white_house_stays_sky():
    house = X < 0.4 * W
    found = find_sky(_picture(house, 0.85, sky=(0.05, 0.12, 0.3)))
    assert found[~house & ~LAND].mean() > 0.97


@pytest.mark.parametrize("left", [0.2, 0.5, 0.7])
def test_a_white_tower_before_white_clouds_is_not_sky(left):
    tower = (left * W < X) & ((left + 0.08) * W > X) & (Y > 0.25 * H)
    found = find_sky(_picture(tower, 0.75, clouds=0.12))
    assert found[tower & ~LAND].mean() < 0.1
    assert found[~tower & ~LAND].mean() > 0.97


def test_a_gap_in_a_rock_is_sky():
    """There is no sky around it, only rock."""
    rock = (X > 0.3 * W) & (X < 0.7 * W) & (Y > 0.2 * H)
    gap = np.hypot(X - 0.5 * W, (Y - 0.45 * H) / 1.4) < 30
    found = find_sky(_picture(rock & ~gap, 0.04))
    assert found[gap].mean() > 0.9
    assert found[rock & ~gap].mean() < 0.05


@pytest.mark.parametrize(
    ("name", "view"),
    [
        ("blue-hour", {"heading": 2.9, "pitch": -0.9, "focal_mm": 36.9}),
        ("beacon", {"heading": 2.6, "pitch": 15.8, "focal_mm": 28.1}),
    ],
    ids=["a rock taller than the picture", "a white tower"],
)
def test_on_the_coast(name, view, tmp_path, store, engine):
    shot = find(name)
    truth = shoot(smaller(replace(shot, view=replace(shot.view, **view)), 1440), tmp_path / "a.dng")
    sha256 = hash_file(tmp_path / "a.dng")
    lab = (
        engine.develop(Scene(sources=[Source(sha256=sha256)]), store.whole(sha256, tmp_path / "a.dng"))
        .reader.sight()
        .lab()
    )
    found = cv2.resize(find_sky(lab), truth.sky.shape[::-1], interpolation=cv2.INTER_LINEAR)
    a, b = found > 0.5, truth.sky > 0.5
    assert (a & b).sum() / (a | b).sum() > 0.97


def _parts(*edges):
    """Pieces between upright edges at some columns, from the top down to land in the lowest fifth."""
    cost = np.zeros((H, W), np.float32)
    for x in edges:
        cost[: int(0.8 * H), x : x + 3] = 1
    cost[int(0.8 * H) : int(0.8 * H) + 3] = 1
    return parted(cost)


@pytest.mark.parametrize(
    ("light", "blue", "bottom", "is_land"),
    [(0.3, 0.0, 0.3, True), (0.3, -0.1, 0.3, False), (0.6, 0.0, 0.3, False), (0.45, 0.0, 0.2, False)],
    ids=["a cliff", "a blue sky beside a wall", "a cloud", "a dark cloud over darker land"],
)
def test_what_is_land_at_the_top_is_as_dark_as_the_ground_and_no_bluer(light, blue, bottom, is_land):
    lab = np.stack([np.full((H, W), 0.75), np.zeros((H, W)), np.full((H, W), -0.03)]).astype(np.float32)
    lab[0, :, :500], lab[2, :, :500] = light, blue
    lab[0, int(0.75 * H) :] = bottom
    found = land_at_the_top(lab)
    assert (found[:200, :500] == is_land).all()
    assert not found[:200, 500:].any()


@pytest.mark.parametrize(
    ("tone", "beside", "is_thing"),
    [(0.9, 1.0, True), (0.75, 1.0, False), (0.9, 0.0, False)],
    ids=["a tower", "sky between two twigs", "a gap in a rock"],
)
def test_a_thing_has_sky_of_another_colour_beside_it_and_stands(tone, beside, is_thing):
    pieces = _parts(200, 260)
    lab = np.stack([np.full((H, W), 0.75), np.zeros((H, W)), np.full((H, W), -0.03)]).astype(np.float32)
    lab[0, :, 202:260] = tone
    near = np.full((H, W), beside, np.float32)
    near[:, 200:263] = 0.2
    near[int(0.8 * H) :] = 0
    found = against_the_sky(lab, near, pieces)
    assert found[100, 230] == is_thing
    assert not found[100, 100] or beside == 0


def test_what_hangs_in_the_sky_is_no_thing():
    """A kite, the moon: there is no land around it."""
    cost = np.zeros((H, W), np.float32)
    cv2.circle(cost, (300, 150), 20, 1, 3)
    lab = np.stack([np.full((H, W), 0.75), np.zeros((H, W)), np.full((H, W), -0.03)]).astype(np.float32)
    inside = np.hypot(X - 300, Y - 150) < 20
    lab[0][inside] = 0.95
    near = np.where(inside, 0.1, 1).astype(np.float32)
    assert not against_the_sky(lab, near, parted(cost)).any()
