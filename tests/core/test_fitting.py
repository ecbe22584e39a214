"""Where a place is mended from: nothing comes that is not found around it."""

import cv2
import numpy as np
import pytest
from scipy.spatial import cKDTree

from sunlatch.blocks import Block, reader
from sunlatch.frame import per_of
from sunlatch.geometry import View
from sunlatch.mend import circle, heal_of, search
from sunlatch.mend.fitting import least_foreign
from tests.core.mending import shown

SIDE = 80
"""Px of a synthetic place with room around."""


def _ground(*changes):
    """Mottled ground (h, w, 3), and beside it the same ground again for every change (h, w, 3: a factor): alike around."""
    rng = np.random.default_rng(2)
    mottled = cv2.GaussianBlur(rng.normal(0, 1, (SIDE, SIDE)).astype(np.float32), (0, 0), 4)
    light = 0.2 * np.exp(0.8 * mottled + 0.05 * rng.normal(0, 1, (SIDE, SIDE)))
    here = np.repeat(light[..., None], 3, 2)
    return reader(np.hstack([here, *(here * change for change in changes)]).astype(np.float32))


def _round(radius):
    y, x = np.mgrid[:SIDE, :SIDE]
    return np.hypot(x - SIDE / 2, y - SIDE / 2) < radius


OWN, HOLE = Block(0, SIDE, 0, SIDE), _round(20)
AROUND = _round(32) & ~HOLE


def _picked(read, against, heals=True):
    places = [(SIDE * (n + 1), 0, cost) for n, cost in enumerate(against)]
    return least_foreign(read, OWN, HOLE, AROUND, places, heals)[0] // SIDE


def _inside(factor, radius=12):
    return np.where(_round(radius)[..., None], np.float32(factor), np.float32(1))


@pytest.mark.parametrize(
    "strange",
    [_inside([1.5, 0.8, 1.2]), _inside(0.3), _inside([0.9, 1.2, 0.7])],
    ids=["red", "dark", "green"],
)
def test_of_places_alike_around_the_one_that_brings_nothing_strange(strange):
    assert _picked(_ground(strange, np.ones_like(strange)), [0.010, 0.011]) == 2


def test_of_two_that_bring_nothing_strange_the_one_whose_edge_fits():
    plain = np.ones((SIDE, SIDE, 3))
    assert _picked(_ground(plain, plain), [0.02, 0.01]) == 2


def test_what_is_healed_may_be_lighter_and_what_is_cloned_may_not():
    """A lighter place is led to the light around, so that only its edge speaks against it."""
    lighter, same = np.full((SIDE, SIDE, 3), 1.6), np.ones((SIDE, SIDE, 3))
    assert _picked(_ground(lighter, same), [0.010, 0.012], heals=True) == 1
    assert _picked(_ground(lighter, same), [0.010, 0.012], heals=False) == 2


def test_smooth_ground_is_not_mended_from_rough():
    rough = np.exp(np.random.default_rng(4).normal(0, 0.3, (SIDE, SIDE, 1))) * np.ones(3)
    rough = np.where(HOLE[..., None], rough, 1)
    assert _picked(_ground(rough, np.ones_like(rough)), [0.010, 0.011]) == 2


def _strangeness(coast, blobs):
    """Of places with nothing wrong, healed: how far their colours, evened, lie from those around (Lab)."""
    raster, per = coast.pyramid, per_of(coast.pyramid)
    h, w = raster.shape(0)
    rng = np.random.default_rng(5)
    strange = []
    for _ in range(16):
        x, y, r = rng.uniform(0.1, 0.9) * w, rng.uniform(0.65, 0.9) * h, 30
        room = int(2.5 * r)
        left, top = max(int(x) - room, 0), max(int(y) - room, 0)
        right, bottom = min(left + 2 * room, w), min(top + 2 * room, h)
        view = View((left / w, top / h, right / w, bottom / h), (right - left, bottom - top))
        repair = heal_of(raster, circle(x / per, y / per, r / per))
        picture = shown(raster, [repair], blobs, view).astype(np.float32) / 255
        got = cv2.GaussianBlur(cv2.cvtColor(picture, cv2.COLOR_RGB2LAB), (0, 0), 4)
        rows, columns = np.mgrid[top:bottom, left:right]
        away = np.hypot(columns - x, rows - y)
        tree = cKDTree(got[(away > 1.15 * r) & (away < 2.4 * r)])
        strange.append(np.percentile(tree.query(got[away < 0.85 * r], k=4)[0].mean(1), 95))
    return float(np.mean(strange))


def test_on_the_coast_less_comes_that_is_strange_than_from_where_the_edge_fits_best(
    coast, blobs, monkeypatch
):
    tried = _strangeness(coast, blobs)
    monkeypatch.setattr(search, "TRIED", 1)
    by_edge = _strangeness(coast, blobs)
    assert tried < 0.85 * by_edge
