"""Water against what is true of the coast and of made-up shores."""

import cv2
import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.outing import find
from sunlatch.frame import hash_file
from sunlatch.latch.found import corrected, find_water, matted_water, true_to_shores
from sunlatch.latch.found.marks import REACH
from sunlatch.latch.found.measures import across_edges
from sunlatch.ledger import Scene, Source
from tests.coast import shoot


def _overlap(found, true):
    a, b = found > 0.5, true > 0.5
    return float((a & b).sum() / (a | b).sum())


def _bay(seed=2):
    """A plain sky getting lighter downwards, under it level streaks about as light on the left and grainy dark
    ground on the right; (lab, sky, water)."""
    rng = np.random.default_rng(seed)
    h, w, shore = 420, 640, 160
    rows = np.arange(h)[:, None]
    lab = np.zeros((3, h, w), np.float32)
    lab[0] = 0.6 + 0.2 * np.minimum(rows, 2 * shore - rows) / shore
    lab[2] = -0.04
    noise = rng.normal(0, 1, (2, h, w)).astype(np.float32)
    streaks = cv2.GaussianBlur(noise[0], (0, 0), sigmaX=14, sigmaY=1.2)
    grain = cv2.GaussianBlur(noise[1], (0, 0), 1.5)
    under, left = rows >= shore, np.arange(w)[None] < 340 + 0.3 * (rows - shore)
    water, ground = under & left, under & ~left
    lab[0] = np.where(water, lab[0] - 0.03 + 0.03 * streaks / streaks.std(), lab[0])
    lab[0] = np.where(ground, 0.4 + 0.05 * grain / grain.std(), lab[0])
    lab[1:] = np.where(ground, 0.02, lab[1:])
    lab += rng.normal(0, 0.003, lab.shape).astype(np.float32)
    return lab, (~under & np.ones_like(left)).astype(np.float32), water


def test_level_streaks_as_light_as_the_sky_are_water_and_grainy_ground_is_not():
    lab, sky, water = _bay()
    assert _overlap(find_water(lab, sky), water) > 0.93
    assert _overlap(matted_water(lab, sky), water) > 0.95


def test_streaks_that_stand_upright_or_lean_are_no_water():
    """The ground on the left turned: reeds, and rain-cut slopes."""
    lab, sky, water = _bay()
    rng = np.random.default_rng(3)
    noise = cv2.GaussianBlur(rng.normal(0, 1, (900, 900)).astype(np.float32), (0, 0), sigmaX=14, sigmaY=1.2)
    for angle in (45, 90):
        turn = cv2.getRotationMatrix2D((450, 450), angle, 1)
        turned = cv2.warpAffine(noise, turn, (900, 900))[240:660, 130:770]
        plain = 0.7 + 0.03 * turned / turned.std() + rng.normal(0, 0.003, turned.shape)
        other = lab.copy()
        other[0] = np.where(water, plain, lab[0])
        assert (find_water(other, sky) > 0.5)[water].mean() < 0.25, angle


def test_glitter_in_the_midst_of_water_stays_while_its_edge_is_found():
    """A rough finding that is only fairly sure of the water and lies some px off its edge."""
    lab, _, water = _bay()
    rough = np.where(np.roll(water, 3, axis=1), 0.7, 0.3).astype(np.float32)
    found = true_to_shores(lab, rough)
    inside = cv2.erode(water.astype(np.uint8), np.ones((21, 21))) > 0
    assert found[inside].min() > 0.9
    assert _overlap(found, water) > 0.98


def _marked_at_one_end(wide, reach):
    """A stroke at one end of an even field so wide, all of it held, beside another field; what is left held."""
    lab = np.full((3, 100, 640), 0.5, np.float32)
    lab[0, :, wide:] = 0.7
    not_ = np.zeros((100, 640), bool)
    not_[30:70, 10:40] = True
    held = np.ones((100, 640), np.float32)
    return corrected(lab, held, np.zeros_like(not_), not_, lambda _, rough, within: rough, reach), not_


def test_a_mark_reaches_as_far_as_it_is_told():
    short, not_ = _marked_at_one_end(130, 0.03)
    long, _ = _marked_at_one_end(130, 0.15)
    assert short[not_].max() < 0.2
    assert short[:, 100:].min() > 0.9
    assert long[:, 100].mean() < 0.5
    assert long[:, 140:].min() > 0.9


def test_a_mark_on_what_cannot_be_told_from_all_the_rest_counts_close_by_only():
    """The field goes on as far again, as where sea and sky are burnt to one white."""
    burnt, not_ = _marked_at_one_end(640, 0.15)
    assert burnt[not_].max() < 0.2
    assert burnt[:, 80:].min() > 0.9


def test_a_mark_counts_wherever_it_was_laid_even_on_what_is_unlike_the_rest_of_it():
    """A blob between the places at which the stroke's colours are sampled."""
    lab = np.full((3, 240, 320), 0.2, np.float32)
    lab[0, 110:130, 106:130] = 0.9
    not_ = np.zeros((240, 320), bool)
    not_[60:180, 80:240] = True
    held = np.ones((240, 320), np.float32)
    less = corrected(lab, held, np.zeros_like(not_), not_, lambda _, rough, within: rough)
    assert less[114:126, 110:126].max() < 0.2


def test_the_way_across_a_crisp_edge_is_dear_and_through_noise_or_a_soft_one_is_free():
    noise = np.random.default_rng(4).normal(0, 0.002, (3, 120, 320)).astype(np.float32)

    def cost(wide):
        step = 0.05 / (1 + np.exp(-np.clip((np.arange(320) - 160) / wide, -50, 50)))
        lab = noise + np.stack([np.float32(0.5) + step, 0 * step, 0 * step])[:, None]
        return across_edges(lab.astype(np.float32), (320, 120)).sum(1).mean()

    plain = across_edges(noise + np.float32(0.5), (320, 120)).sum(1).mean()
    assert plain < 0.03
    assert cost(30.0) < plain + 0.01
    assert cost(0.5) > plain + REACH


def test_a_picture_turned_over_left_to_right_has_the_same_water():
    lab, sky, _ = _bay()
    turned = find_water(np.ascontiguousarray(lab[..., ::-1]), np.ascontiguousarray(sky[:, ::-1]))
    assert np.abs(turned[:, ::-1] - find_water(lab, sky)).mean() < 0.01


def test_a_picture_without_a_sky_or_of_one_tone_is_no_trouble():
    lab, _, _ = _bay()
    nothing = np.zeros(lab.shape[1:], np.float32)
    assert np.isfinite(matted_water(lab, nothing)).all()
    assert np.isfinite(matted_water(np.full_like(lab, 0.5), nothing)).all()
    assert not matted_water(lab, nothing + 1).any()


@pytest.mark.parametrize(
    ("name", "least"),
    [
        ("stack-backlit", 0.76),
        ("bracket-3", 0.8),
        ("sweep-3", 0.8),
        ("boulders", 0.66),
        ("blue-hour", 0.76),
        ("twin-bright", 0.7),
    ],
)
def test_water_of_the_coast(name, least, tmp_path, store, engine):
    """Glitter, a pool, reflections of rock; stones by the sea that are no water; noise, and glare."""
    path = tmp_path / "frame.dng"
    truth = shoot(smaller(find(name), 1440), path)
    sha256 = hash_file(path)
    sight = engine.develop(Scene(sources=[Source(sha256=sha256)]), store.whole(sha256, path)).reader.sight(
        "water"
    )
    found = cv2.resize(matted_water(sight.lab(), sight.found("sky")), truth.water.shape[::-1])
    assert _overlap(found, truth.water) >= least
    assert found[truth.sky > 0.9].mean() < 0.02
