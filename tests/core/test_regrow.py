"""Regrow: from what surrounds a place, meeting its light; a map of where each px is taken from."""

import cv2
import numpy as np
import pytest

from fieldworld.camera import smaller
from fieldworld.lent import find_any, without
from sunlatch.blocks import Block
from sunlatch.errors import MendError
from sunlatch.frame import hash_file, per_of, span_of, whole
from sunlatch.ledger import Area, CloneRepair, Take
from sunlatch.mend import (
    circle,
    put_mask,
    regrow_of,
    shade,
)  # fmt: skip
from sunlatch.mend.patches import SourceMap, complete
from sunlatch.moves.regrow import MOVE as REGROW
from tests.coast import shoot
from tests.conftest import delta_e
from tests.core.mending import shown
from tests.core.mending import under as mended_by


def test_a_pattern_grows_on():
    """A hole in stripes that lean is filled by stripes that lean, in step."""
    y, x = np.mgrid[:160, :160]
    picture = np.repeat(np.sin((x + 2 * y) / 5)[..., None], 3, axis=2).astype(np.float32)
    hole = np.hypot(x - 80, y - 85) < 22
    spoiled = picture.copy()
    spoiled[hole] = 3
    away, _ = complete(spoiled, hole, np.ones_like(hole), seed=1)
    rows, columns = np.nonzero(hole)
    made = picture[rows + away[rows, columns, 0], columns + away[rows, columns, 1]]
    assert not hole[rows + away[rows, columns, 0], columns + away[rows, columns, 1]].any()
    assert np.abs(made - picture[hole]).mean() < 0.08


def test_it_is_grown_from_what_was_allowed(coast, blobs):
    may = Area(outline=[0.0, 0.35, 1.0, 0.35, 1.0, 0.66, 0.0, 0.66])
    repair = regrow_of(coast.pyramid, circle(0.5, 0.3, 0.03), blobs, source=may, seed=4)
    held = SourceMap.read(repair.map, blobs)
    _, cover = shade(repair.area, held.per, span_of(coast.pyramid), blobs)
    rows = np.arange(cover.shape[0])[:, None] + held.top + held.away[..., 0]
    assert (rows[cover > 0.1] >= 0.35 * held.per - 4).all()


def test_it_is_never_grown_from_what_was_spared(coast, blobs):
    """What it would take most of is forbidden: nothing comes from there; and both are remembered."""
    place = circle(0.5, 0.3, 0.03)
    free = SourceMap.read(regrow_of(coast.pyramid, place, blobs, seed=4).map, blobs)
    not_ = Area(outline=[0.0, 0.0, 0.5, 0.0, 0.5, 0.7, 0.0, 0.7])
    repair = regrow_of(coast.pyramid, place, blobs, spared=not_, seed=4)
    held = SourceMap.read(repair.map, blobs)
    assert (repair.source, repair.spared) == (None, not_)

    def from_the_left(one):
        _, cover = shade(place, one.per, span_of(coast.pyramid), blobs)
        columns = np.arange(cover.shape[1]) + one.left + one.away[..., 1]
        return (columns[cover > 0.1] < 0.5 * one.per - 4).mean()

    assert from_the_left(free) > 0.2
    assert from_the_left(held) == 0
    everywhere = Area(outline=[0.0, 0.0, 1.0, 0.0, 1.0, 0.7, 0.0, 0.7])
    with pytest.raises(MendError, match="nothing left to grow this from"):
        regrow_of(coast.pyramid, place, blobs, spared=everywhere)


def test_regrown_from_elsewhere_it_meets_the_light_around_it(coast, blobs):
    """Sky grown from darker sky: fitted, there is no step along its edge; not fitted, there is."""
    area = circle(0.45, 0.1, 0.02)
    repair = regrow_of(coast.pyramid, area, blobs, source=circle(0.12, 0.05, 0.05))
    light = whole(coast.pyramid, min(coast.pyramid.levels))

    def step(fit):
        fitted = repair.model_copy(deep=True)
        fitted.params.fit = fit
        after = whole(mended_by(coast, [fitted], blobs), min(coast.pyramid.levels))
        h, w = after.shape[1:]
        y, x = np.mgrid[:h, :w] + 0.5
        away = np.hypot(x - 0.45 * w, y - 0.1 * w) / w
        inside, outside = (away > 0.011) & (away < 0.013), (away > 0.022) & (away < 0.026)
        assert np.array_equal(after[:, outside], light[:, outside])
        return abs(np.log2(after[1][inside].mean() / after[1][outside].mean()))

    assert step(0.0) > 3 * step(1.0)
    assert step(1.0) < 0.05


def test_an_old_scene_keeps_what_it_showed(coast, blobs):
    """Revision 1: every px as its map says, whatever is set; what is grown now is of the newest."""
    repair = regrow_of(coast.pyramid, circle(0.45, 0.1, 0.02), blobs, source=circle(0.12, 0.05, 0.05))
    assert repair.revision == REGROW.revision == 2
    old = repair.model_copy(update={"revision": 1})
    light = whole(coast.pyramid, 0)
    block, cover = shade(old.area, per_of(coast.pyramid), span_of(coast.pyramid), blobs)
    there = light[:, block.top : block.bottom, block.left : block.right]
    said = SourceMap.read(old.map, blobs).filled(
        coast.pyramid.fetch(0), block, per_of(coast.pyramid), there, cover > 0
    )
    after = whole(mended_by(coast, [old], blobs), 0)[:, block.top : block.bottom, block.left : block.right]
    assert np.abs(after - (there + cover * (said - there))).max() < 1e-5
    assert (
        np.abs(whole(mended_by(coast, [repair], blobs), 0) - whole(mended_by(coast, [old], blobs), 0)).max()
        > 1e-3
    )


def test_what_is_regrown_at_the_frames_edge_owes_nothing_to_what_went(coast, blobs):
    """A dark thing that ends at the edge of the frame leaves no shade there."""
    place = circle(0.01, 0.1, 0.02, soft=0.0)
    dark = CloneRepair(id="dark", area=place, take=Take(dx=0.3, dy=0.45))
    raster = mended_by(coast, [dark], blobs)
    grown = regrow_of(raster, circle(0.01, 0.1, 0.024, soft=0.0), blobs)
    sky, with_it, after = (
        whole(r, 0)[1] for r in (coast.pyramid, raster, mended_by(coast, [dark, grown], blobs))
    )
    there = slice(118, 136), slice(0, 20)
    assert with_it[there].mean() < 0.5 * sky[there].mean()
    assert np.abs(np.log2(cv2.blur(after, (9, 9))[there] / cv2.blur(sky, (9, 9))[there])).max() < 0.25


def test_a_map_goes_on_beyond_its_edge_as_the_nearest_of_its_places_says():
    away = np.zeros((6, 8, 2), np.int16)
    away[2:4, 2:5], away[2:4, 5:7] = [3, -7], [5, 9]
    held = SourceMap(away, 100.0, 10, 20)
    wide = held.continued(3)
    assert (wide.top, wide.left) == (7, 17)
    assert wide.away.shape == (12, 14, 2)
    assert np.array_equal(wide.away[5:7, 5:10], away[2:4, 2:7])
    assert wide.away[6, 3].tolist() == [3, -7]
    assert wide.away[6, 11].tolist() == [5, 9]
    assert not wide.away[0].any()
    assert not wide.away[:, 0].any()
    # what it says is told on any raster
    assert held.says(Block(9, 17, 19, 29), 100.0).sum() == 10
    assert held.says(Block(18, 34, 38, 58), 200.0).sum() == 40


def test_another_seed_another_proposal_and_the_same_seed_the_same(coast, blobs):
    area = circle(0.5, 0.45, 0.03)
    maps = [regrow_of(coast.pyramid, area, blobs, seed=s).map for s in (1, 1, 2)]
    assert maps[0] == maps[1] != maps[2]


def test_the_walker_is_gone(frames, store, blobs):
    """What stands in his place is of the colours there are without him, and as rough."""
    shot = smaller(find_any("path"), 1400)
    path, bare = frames / "walker.dng", frames / "no-walker.dng"
    seen = shoot(shot, path)
    shoot(without(shot, ["walker", "specks"]), bare)
    raster, truth = (store.whole(hash_file(p), p) for p in (path, bare))
    there = cv2.dilate((seen.subject > 0.02).astype(np.uint8), np.ones((9, 9))) > 0
    rows, columns = np.nonzero(there)
    box = tuple(v / 1400 for v in (columns.min(), rows.min(), columns.max() + 1, rows.max() + 1))
    part = there[rows.min() : rows.max() + 1, columns.min() : columns.max() + 1].astype(np.float32)
    repair = regrow_of(raster, Area(mask=put_mask(part, box, blobs)), blobs)
    pictures = [
        shown(r, some, blobs).astype(np.float32)
        for r, some in ((raster, []), (raster, [repair]), (truth, []))
    ]
    him = seen.subject > 0.5
    assert 0.7 < pictures[1][him].std(0).mean() / pictures[2][him].std(0).mean() < 1.4
    # its grain is another; over a dozen px it is what there is without him
    before, after, without_him = (
        np.rint(cv2.GaussianBlur(p, (0, 0), 6)).astype(np.uint8)[him][None] for p in pictures
    )
    was, now = delta_e(before, without_him).mean(), delta_e(after, without_him).mean()
    assert was > 8
    assert now < 0.6 * was
