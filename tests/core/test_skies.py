"""Skies as they are offered: what is seen of them at a glance, against the truth, and the order that follows."""

from dataclasses import replace

import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.lent import find_any
from sunlatch.frame import hash_file
from sunlatch.ledger import Scene, Source
from sunlatch.meters.skies import BARE, NONE, Glance, fit, glance
from tests.coast import shoot

WIDE = 900
SHOTS = ("heath", "sky-1", "stack-backlit", "boulders")


@pytest.fixture(scope="module")
def seen(frames, store, engine):
    """Glances at frames, and how much of each is sky."""
    out = {}
    for name in SHOTS:
        path = frames / f"{name}-glance.dng"
        truth = shoot(smaller(find_any(name), WIDE), path)
        scene = Scene(sources=[Source(sha256=hash_file(path))])
        out[name] = (glance(engine.develop(scene, store.whole(hash_file(path), path))), truth.sky)
    return out


@pytest.mark.parametrize("name", SHOTS)
def test_a_glance_sees_about_as_much_sky_as_there_is(seen, name):
    """The edges of clouds and the glow around a low sun cost it some."""
    found, truth = seen[name]
    assert found.share == pytest.approx(truth.mean(), abs=0.19)


def test_a_frame_that_is_all_sky_reaches_down_the_farthest(seen):
    assert seen["sky-1"][0].tall == max(found.tall for found, _ in seen.values())


LAND = Glance(0.5, 0.5, 0.8, 0.9, 0.0, 1.5)


@pytest.mark.parametrize(
    ("changed", "said"),
    [
        ({"sky_slope": -0.9}, "lit from the other side"),
        ({"warm": 1.5}, "1.5 stops warmer"),
        ({"warm": -1.0}, "1.0 stops cooler"),
        ({"tall": 0.25}, "enlarged 2.0 times"),
        ({"wide": 3.0}, "enlarged 2.0 times"),
        ({"share": BARE / 2}, "no sky to speak of"),
        ({"share": 0.4}, "partly hidden by foreground"),
    ],
)
def test_what_does_not_fit_is_said_and_comes_later(changed, said):
    other = replace(LAND, **changed)
    found = fit(LAND, other)
    assert found.reasons == [said]
    assert found.apart > fit(LAND, LAND).apart


def test_the_same_sky_fits_and_none_comes_last():
    assert fit(LAND, LAND).reasons == []
    worst = fit(LAND, replace(LAND, sky_slope=-3.0, warm=4.0, tall=0.15))
    assert worst.apart < fit(LAND, replace(LAND, share=0.0)).apart == NONE


def test_a_land_without_a_sky_judges_no_colour():
    bare = replace(LAND, share=0.0)
    assert fit(bare, replace(LAND, warm=3.0)).reasons == []
    assert np.isfinite(fit(bare, LAND).apart)
