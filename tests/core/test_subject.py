"""Subject, Water and Distance against what is true of the coast; marks that set a finding right."""

import cv2
import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.outing import find
from sunlatch.errors import DocumentError
from sunlatch.frame import hash_file
from sunlatch.latch.found import corrected, find_subject, salient_box, tightened
from sunlatch.latch.found.novelty import medians, novelty
from sunlatch.ledger import EdgeTrue, Latch, Scene, Source, new_ingredient
from sunlatch.meters import in_doubt, why_empty
from tests.coast import shoot


def _overlap(found, true):
    a, b = found > 0.5, true > 0.5
    return float((a & b).sum() / (a | b).sum())


def _opened(name, px, tmp_path_factory, store, engine):
    path = tmp_path_factory.mktemp("found") / f"{name}.dng"
    shot = find(name) if px is None else smaller(find(name), px)
    truth = shoot(shot, path)
    sha256 = hash_file(path)
    return engine.develop(Scene(sources=[Source(sha256=sha256)]), store.whole(sha256, path)), truth


def _latch(development, kind, **params):
    line = new_ingredient(kind, params=params)
    return Latch(
        name="L", ingredients=[line], read_at=development.ground.read_at(), edge_true=EdgeTrue(on=False)
    )


def _whole(development, latch):
    return development.latches.mask(latch, development.geometry.fit(10**6))


def _corners(development, x0, y0, x1, y1):
    """A box in fractions of the frame, as the document holds it."""
    w, h = development.geometry.developed_size
    ends = development.geometry.to_source(np.array([[x0 * w, y0 * h], [x1 * w, y1 * h]]) / max(w, h))
    one, other = ({"x": float(x), "y": float(y)} for x, y in ends)
    return {"one": one, "other": other}


def _rough_box(development, truth, pads):
    ys, xs = np.nonzero(truth > 0.5)
    h, w = truth.shape
    across, down = (xs.max() - xs.min()) / w, (ys.max() - ys.min()) / h
    return _corners(
        development,
        xs.min() / w - pads[0] * across,
        ys.min() / h - pads[1] * down,
        xs.max() / w + pads[2] * across,
        ys.max() / h + pads[3] * down,
    )


@pytest.fixture(scope="module", params=["path", "pool", "beacon"])
def subject(request, tmp_path_factory, store, engine):
    """A walker of 60 × 180 px on a heath, a boat of 56 × 75 px against a low sun, a beacon, as shot."""
    return request.param, *_opened(request.param, None, tmp_path_factory, store, engine)


def test_a_subject_is_found_from_a_rough_box(subject):
    name, development, truth = subject
    box = _rough_box(development, truth.subject, (0.12, 0.1, 0.18, 0.06))
    latch = _latch(development, "subject", box=box)
    assert _overlap(_whole(development, latch), truth.subject) >= 0.93, name


@pytest.mark.parametrize("subject", ["path"], indirect=True)
def test_a_very_rough_box_costs_little(subject):
    _, development, truth = subject
    box = _rough_box(development, truth.subject, (0.3, 0.2, 0.25, 0.2))
    mask = _whole(development, _latch(development, "subject", box=box))
    assert _overlap(mask, truth.subject) >= 0.91


@pytest.mark.parametrize("subject", ["pool"], indirect=True)
def test_a_loose_box_around_a_small_thing_is_tightened(subject):
    """Two or three times as broad and high as the boat: the sky in its sail's corner does not come along."""
    _, development, truth = subject
    box = _rough_box(development, truth.subject, (0.9, 0.5, 0.7, 0.6))
    mask = _whole(development, _latch(development, "subject", box=box))
    assert _overlap(mask, truth.subject) >= 0.93


@pytest.mark.parametrize("subject", ["beacon"], indirect=True)
def test_what_stands_out_is_found_from_nothing_and_from_a_stroke(subject):
    _, development, truth = subject
    # what the eye goes to is asked for, and holds nothing by itself
    guessed = _latch(development, "subject")
    assert not _whole(development, guessed).any()
    asked = in_doubt(development, guessed)
    assert list(asked.values()) == ["Is this what the picture is of? 3\u00a0% of the frame may be."]
    confirmed = _latch(development, "subject", answer="yes")
    assert not in_doubt(development, confirmed)
    assert _overlap(_whole(development, confirmed), truth.subject) >= 0.93
    ys, xs = np.nonzero(truth.subject > 0.5)
    h, w = truth.subject.shape
    x = np.full(2, np.median(xs)) / max(h, w)
    y = np.percentile(ys, (10, 90)) / max(h, w)
    ends = development.geometry.to_source(np.column_stack([x, y]))
    stroke = {
        "points": [v for p in ends for v in (*map(float, p), 1.0)], "radius": 0.004, "soft": 0, "flow": 1,
    }  # fmt: skip
    mask = _whole(development, _latch(development, "subject", marks=[stroke]))
    assert _overlap(mask, truth.subject) >= 0.93


@pytest.mark.parametrize("subject", ["beacon"], indirect=True)
def test_a_box_with_nothing_in_it_says_so(subject):
    _, development, _ = subject
    latch = _latch(development, "subject", box=_corners(development, 0.1, 0.05, 0.25, 0.15))
    assert "stands out" in why_empty(development, latch)
    assert not _whole(development, latch).any()
    click = _latch(development, "subject", box=_corners(development, 0.5, 0.5, 0.5, 0.5))
    assert "stands out" in why_empty(development, click)


def test_a_disc_on_a_textured_ground_is_found_and_its_holes_belong_to_it():
    rng = np.random.default_rng(4)
    y, x = np.mgrid[0:300, 0:300]
    ground = 0.45 + cv2.GaussianBlur(rng.normal(0, 1, (300, 300)), (0, 0), 1.5) * 0.25
    disc = np.hypot(x - 150, y - 150) < 45
    hole = np.hypot(x - 160, y - 140) < 9
    light = np.where(disc & ~hole, 0.3, ground)
    lab = np.stack([light, np.where(disc & ~hole, 0.1, 0.0), 0 * light]).astype(np.float32)
    found = find_subject(lab, (0.3, 0.3, 0.7, 0.7))
    found = cv2.resize(found, (300, 300), interpolation=cv2.INTER_LINEAR)
    assert _overlap(found, disc) > 0.93
    assert found[hole].mean() > 0.5


def test_a_tightened_box_holds_what_was_marked():
    """A large and a small disc in a loose box: by itself it closes in on the large one; marks say which."""
    rng = np.random.default_rng(8)
    y, x = np.mgrid[0:300, 0:400]
    large, small = np.hypot(x - 150, y - 150) < 30, np.hypot(x - 255, y - 150) < 8
    lab = np.zeros((3, 300, 400), np.float32)
    lab[0] = 0.5 + rng.normal(0, 0.01, x.shape)
    lab[1] = 0.15 * (large | small)
    box = (0.2, 0.15, 0.8, 0.85)
    alone = tightened(lab, box)
    assert alone[2] < 240 / 400
    both = tightened(lab, box, small)
    assert both[0] < 120 / 400
    assert both[2] > 263 / 400
    only = tightened(lab, box, small, large)
    assert 185 / 400 < only[0] < 247 / 400
    assert only[2] > 263 / 400


def test_what_is_far_less_unlike_than_the_thing_does_not_come_along():
    """A red disc, and apart from it a patch only a little off the ground's tone, in one loose box."""
    rng = np.random.default_rng(9)
    y, x = np.mgrid[0:300, 0:400]
    disc, patch = np.hypot(x - 160, y - 130) < 36, np.hypot(x - 245, y - 190) < 24
    lab = np.zeros((3, 300, 400), np.float32)
    lab[0] = 0.5 + rng.normal(0, 0.01, x.shape) + 0.03 * patch
    lab[1] = 0.15 * disc
    found = find_subject(lab, (0.25, 0.2, 0.75, 0.8))
    found = cv2.resize(found, (400, 300), interpolation=cv2.INTER_LINEAR)
    assert _overlap(found, disc) > 0.93
    assert found[patch].mean() < 0.05
    marked = cv2.resize(find_subject(lab, (0.25, 0.2, 0.75, 0.8), patch), (400, 300))
    assert marked[patch].mean() > 0.9


def test_the_eye_goes_to_what_is_rare_and_unlike_what_is_near():
    rng = np.random.default_rng(4)
    y, x = np.mgrid[0:300, 0:420]
    lab = np.zeros((3, 300, 420), np.float32)
    lab[0] = 0.45 + cv2.GaussianBlur(rng.normal(0, 1, (300, 420)), (0, 0), 1.5) * 0.1
    lab[1] += 0.15 * (np.hypot(x - 300, y - 90) < 15)
    box = salient_box(lab)
    assert box is not None
    assert 0.6 < box[0] < 285 / 420
    assert 315 / 420 < box[2] < 0.83
    assert 0.1 < box[1] < 75 / 300
    assert 105 / 300 < box[3] < 0.5


def test_novelty_is_one_among_its_like_and_far_more_for_what_is_unlike():
    rng = np.random.default_rng(5)
    planes = rng.normal(0.4, 0.05, (3, 80, 120)).astype(np.float32)
    planes[:, 30:40, 50:60] += 0.4
    asked = np.zeros((80, 120), bool)
    asked[20:60, 40:90] = True
    far = novelty(planes, asked, 0.1)
    odd = np.zeros_like(asked)
    odd[30:40, 50:60] = True
    assert np.median(far[asked & ~odd]) < 1
    assert far[odd].min() > 3
    assert not far[~asked].any()


def test_medians_are_medians():
    rng = np.random.default_rng(6)
    plane = rng.random((1, 20, 24)).astype(np.float32)
    got = medians(plane, 5)[0]
    want = np.median(np.lib.stride_tricks.sliding_window_view(plane[0], (5, 5)), axis=(2, 3))
    assert np.abs(got[2:-2, 2:-2] - want).max() <= 1 / 255


def test_marks_set_a_finding_right_where_it_is_alike_and_only_there():
    """Two grey fields and a dark one between; the finder took the left one only."""
    lab = np.zeros((3, 120, 300), np.float32)
    lab[0, :, :100], lab[0, :, 100:200], lab[0, :, 200:] = 0.6, 0.2, 0.62
    lab[0] += np.random.default_rng(7).normal(0, 0.004, (120, 300))
    mask = np.zeros((120, 300), np.float32)
    mask[:, :100] = 1
    belongs, not_ = np.zeros((2, 120, 300), bool)
    assert corrected(lab, mask, belongs, not_) is mask
    belongs[30:90, 225:275] = True
    more = corrected(lab, mask, belongs, not_)
    assert more[:, 205:].mean() > 0.9
    assert more[:, :95].mean() > 0.95
    assert more[:, 105:195].mean() < 0.05
    not_[30:90, 25:75] = True
    less = corrected(lab, mask, np.zeros_like(not_), not_)
    assert less.mean() < 0.05


@pytest.fixture(scope="module")
def shore(tmp_path_factory, store, engine):
    return _opened("bracket-3", 800, tmp_path_factory, store, engine)


def test_water_is_found_at_the_shore_and_marks_make_it_better(shore):
    development, truth = shore
    before = _overlap(_whole(development, _latch(development, "water")), truth.water)
    assert before > 0.75
    mask = _whole(development, _latch(development, "water"))
    assert mask[truth.sky > 0.9].mean() < 0.02

    def stroke(wrong, erase):
        off = cv2.distanceTransform(wrong.astype(np.uint8), cv2.DIST_L2, 5)
        r, c = np.unravel_index(off.argmax(), off.shape)
        at = development.geometry.to_source(np.array([[c + 0.5, r + 0.5]]) / max(off.shape))[0]
        size = float(off.max()) * 0.6 / max(off.shape)
        return {
            "points": [float(at[0]), float(at[1]), 1.0], "radius": size, "soft": 0, "flow": 1, "erase": erase,
        }  # fmt: skip

    marks = [
        stroke((mask < 0.3) & (truth.water > 0.9), False),
        stroke((mask > 0.7) & (truth.water < 0.1), True),
    ]
    after = _overlap(_whole(development, _latch(development, "water", marks=marks)), truth.water)
    assert after > before


def test_distance_rises_with_what_is_truly_far_and_its_ends_find_nothing_anew(shore, monkeypatch):
    import sunlatch.latch.distance as module

    development, truth = shore
    mask = _whole(development, _latch(development, "distance", near=0.0, far=1.0))
    assert mask[truth.sky > 0.95].mean() > 0.9
    land = (truth.land > 0.9) & (truth.depth < 1e5)
    far, near = (
        (truth.depth > np.percentile(truth.depth[land], 90)),
        (truth.depth < np.percentile(truth.depth[land], 30)),
    )
    assert mask[land & far].mean() > mask[land & near].mean() + 0.2
    monkeypatch.setattr(module, "WINDOW", None)  # asked again, it would fail
    step = _whole(development, _latch(development, "distance", near=0.5, far=0.5))
    assert ((step < 0.01) | (step > 0.99)).mean() > 0.97
    with pytest.raises(TypeError):
        _whole(development, _latch(development, "distance", lie=0.9))


def test_an_empty_latch_says_where_it_loses_what_it_held(shore):
    development, _ = shore
    assert why_empty(development, _latch(development, "sky")) == ""
    bare = _latch(development, "sky")
    bare.ingredients = []
    assert "no ingredient" in why_empty(development, bare)
    dark = _latch(development, "light_range", low=9.0, high=10.0)
    assert "from the first" in why_empty(development, dark)
    narrow = _latch(development, "light_range", low=-14.0, high=-4.0)
    narrow.ingredients.append(
        new_ingredient("light_range", join="keep_only", params={"low": 1.0, "high": 9.0})
    )
    assert "keeping only “Light" in why_empty(development, narrow)
    weak = _latch(development, "sky")
    weak.strength = 0.0
    assert "strength" in why_empty(development, weak)
    off = _latch(development, "sky")
    off.ingredients[0].on = False
    assert "off" in why_empty(development, off)


def test_a_subjects_box_is_checked():
    with pytest.raises(DocumentError):
        new_ingredient(
            "subject", params={"box": {"one": {"x": 0, "y": float("nan")}, "other": {"x": 1, "y": 1}}}
        )
