"""Corners that a frame leaves empty, grown: from what is on it, where they were outlined, at every look."""

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sunlatch.blobs import Blobs
from sunlatch.blocks import Block
from sunlatch.errors import DocumentError, MendError
from sunlatch.geometry import View
from sunlatch.ledger import Area, Scene
from sunlatch.mend import SourceMap, circle, regrow_of, room_for
from sunlatch.mend.area import moved, shade
from sunlatch.mend.wider import Wider
from sunlatch.meters import read_ground, read_ladder
from sunlatch.render import Engine, Output, bands_of, picture_8
from sunlatch.render.picture import PATTERN

CORNER = np.array([[0.002, 0.55], [0.12, 0.93], [0.6, 0.95], [0.6, 0.998], [0.002, 0.998]])


@pytest.fixture(scope="module")
def context(blobs):
    return Engine(threads=2, blobs=blobs)


def leaning(coast) -> Scene:
    """Plumbed so far that corners are empty, and shown with them."""
    scene = coast.scene()
    scene.ground.plumb.params.lean, scene.ground.plumb.params.roll = 8.0, 3.0
    scene.ground.trim.params.empty = True
    return scene


@pytest.fixture(scope="module")
def grown(coast, context, blobs):
    """The scene, and the same with its lower left corner grown."""
    scene = leaning(coast)
    bare = context.develop(scene, coast.pyramid)
    box = bare.geometry.box
    at = bare.geometry.to_source(CORNER * [box.width, box.height])
    repair = regrow_of(
        coast.pyramid, Area(outline=[float(v) for v in at.ravel()]), blobs, seed=3, beyond=True
    )
    after = scene.model_copy(update={"repairs": [repair]})
    return bare, context.develop(after, coast.pyramid), repair


def test_what_was_grown_is_shown_but_was_not_taken(coast, grown):
    """What was photographed is what the map of points says, but for px that lie across its edge; growing adds none of it."""
    bare, after, _ = grown
    view = bare.geometry.fit(500)
    taken = bare.geometry.covered(bare.geometry.points(view))
    untaken = after.ground.untaken(view)
    assert np.array_equal(untaken, bare.ground.untaken(view))
    inside = cv2.erode(taken.astype(np.uint8), np.ones((3, 3))) > 0
    outside = cv2.dilate(taken.astype(np.uint8), np.ones((3, 3))) == 0
    assert outside.mean() > 0.02
    assert not untaken[inside].any()
    assert untaken[outside].all()
    assert np.array_equal(bare.ground.beyond(view), untaken)
    assert after.ground.beyond(view).sum() < 0.9 * untaken.sum()
    assert Engine(threads=2).develop(coast.scene(), coast.pyramid).ground.untaken(view) is None


def test_what_reaches_over_an_edge_that_is_not_shown_ends_there(coast, blobs, grown):
    """A dab over the frame's side means what is in the picture; only where corners are shown it may mean these."""
    bare, _, _ = grown
    assert bare.ground.shows_edges()
    assert not Engine(threads=2).develop(coast.scene(), coast.pyramid).ground.shows_edges()
    dab = circle(-0.005, 0.1, 0.02, soft=0.0)
    inside, over = (
        SourceMap.read(regrow_of(coast.pyramid, dab, blobs, beyond=b).map, blobs) for b in (False, True)
    )
    assert inside.left == 0
    assert inside.away[:, :15].any(-1).mean() > 0.5
    assert over.left < -15
    assert not over.away[:, -over.left + 6 :].any()


def _outlined(view) -> np.ndarray:
    mask = np.zeros((view.size[1], view.size[0]), np.uint8)
    cv2.fillPoly(mask, [np.rint(CORNER * view.size).astype(np.int32)], 1)
    return cv2.erode(mask, np.ones((7, 7), np.uint8)) > 0


def _nothing(shown) -> np.ndarray:
    """Where the pattern is that stands for nothing."""
    return np.isin(shown, PATTERN).all(-1) & (np.ptp(shown, axis=-1) == 0)


def test_what_is_empty_is_no_light_and_paper_in_a_file(coast, context):
    """The ladder and Ground count the picture; only the file prints it white."""
    scene = leaning(coast)
    bare = context.develop(scene, coast.pyramid)
    beyond = bare.ground.beyond(bare.geometry.fit(640))
    assert beyond.mean() > 0.01
    held = read_ladder(bare, [])
    assert sum(held.bars) == pytest.approx(1, abs=1e-3)
    assert held.clipped_in_file < 0.5 * beyond.mean()
    state = read_ground(bare)
    assert state.empty == pytest.approx(100 * beyond.mean(), abs=0.3)
    assert "corners empty" in state.open
    band = np.concatenate(list(bands_of(bare, bare.geometry.fit(640), Output("srgb", 8))))
    inside = cv2.erode(beyond.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    assert (band[inside] == 255).all()
    whole = context.develop(coast.scene(), coast.pyramid)
    assert read_ground(whole).empty == 0


def test_an_empty_corner_is_filled_and_nothing_else_changes(grown):
    bare, shown, _ = grown
    view = bare.geometry.fit(700)
    before, after = picture_8(bare, view, True).astype(int), picture_8(shown, view, True).astype(int)
    empty = cv2.erode(bare.ground.beyond(view).astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    asked = _outlined(view)
    assert (empty & asked).mean() > 0.01
    assert set(np.unique(before[empty])) == set(PATTERN)  # on a screen it is nothing, not white
    assert _nothing(after)[empty & asked].mean() < 0.05
    # what is not outlined stays empty, and the picture what it was
    outlined = np.zeros(asked.shape, np.uint8)
    cv2.fillPoly(outlined, [np.rint(CORNER * view.size).astype(np.int32)], 1)
    far = cv2.dilate(outlined, np.ones((41, 41), np.uint8)) == 0
    assert _nothing(after)[empty & far].all()
    inside = cv2.erode((~bare.ground.beyond(view)).astype(np.uint8), np.ones((25, 25), np.uint8)) > 0
    # along the very edge the two are blended
    assert (np.abs(after - before)[inside] > 2).mean() < 1e-4


def test_it_is_of_the_colours_beside_it(grown):
    bare, shown, _ = grown
    view = bare.geometry.fit(700)
    after = picture_8(shown, view, True)
    empty = bare.ground.beyond(view)
    corner = empty & _outlined(view)
    beside = cv2.dilate(corner.astype(np.uint8), np.ones((81, 81), np.uint8)).astype(bool) & ~empty
    own, near = after[corner], after[beside]
    assert np.abs(np.percentile(own, [25, 75], axis=0) - np.percentile(near, [25, 75], axis=0)).max() < 40


def test_it_is_the_same_at_every_size_and_in_parts(grown):
    _, shown, _ = grown
    large, small = (picture_8(shown, shown.geometry.fit(n), True) for n in (1000, 500))
    even = cv2.resize(large, small.shape[1::-1], interpolation=cv2.INTER_AREA).astype(int)
    lower = slice(round(0.7 * small.shape[0]), None)
    assert np.abs(even - small)[lower].mean() < 6
    part = picture_8(shown, View((0.0, 0.5, 0.5, 1.0), (500, large.shape[0] // 2)), True).astype(int)
    whole = large[-part.shape[0] :, :500].astype(int)
    assert np.abs(part - whole).mean() < 3


def test_it_follows_exposure(grown, coast, context):
    _, shown, _ = grown
    lighter = shown.scene.model_copy(deep=True)
    lighter.ground.base_exposure.params.ev += 1.0
    view = shown.geometry.fit(400)
    corner = _outlined(view)
    one, two = (d.light_planes(view)[1][corner] for d in (shown, context.develop(lighter, coast.pyramid)))
    assert np.allclose(two, 2 * one, rtol=1e-3, atol=1e-5)


def test_without_its_map_it_is_missed(grown, coast, tmp_path):
    scene, repair = grown[1].scene, grown[2]
    for kept in (None, Blobs(tmp_path)):
        with pytest.raises(DocumentError, match=repair.map[:8]):
            picture_8(
                Engine(threads=1, blobs=kept).develop(scene, coast.pyramid),
                View((0, 0, 1, 1), (60, 40)),
                False,
            )


def test_too_far_beyond_is_said(coast, blobs):
    with pytest.raises(MendError, match="too far beyond"):
        regrow_of(coast.pyramid, Area(outline=[0.5, 0.5, 1.8, 0.5, 1.8, 0.6]), blobs, beyond=True)


def test_on_the_picture_no_room_is_needed(coast):
    assert room_for(coast.pyramid, circle(0.5, 0.3, 0.05)) == 0
    assert room_for(coast.pyramid, circle(0.0, 0.3, 0.05)) >= 0.05 * 1272


@given(st.integers(0, 2), st.integers(-90, 60), st.integers(-90, 60))
def test_with_room_around_it_a_raster_is_the_same(coast, level, top, left):
    wide = Wider(coast.pyramid, 64)
    room = 64 >> level
    assert wide.at(level) == room
    assert np.array_equal(
        wide.fetch(level)(top, top + 40, left, left + 30),
        coast.pyramid.fetch(level)(top - room, top + 40 - room, left - room, left + 30 - room),
    )
    there = wide.coverage(level)(top, top + 40, left, left + 30)[0]
    rows, columns = np.arange(top, top + 40) - room, np.arange(left, left + 30) - room
    h, w = coast.pyramid.shape(level)
    assert np.array_equal(
        there > 0.5, ((rows >= 0) & (rows < h))[:, None] & ((columns >= 0) & (columns < w))[None]
    )


@given(st.floats(0.0, 0.3))
def test_an_area_is_moved_as_it_is(by):
    area = circle(0.3, 0.3, 0.04)
    by = round(by * 1000) / 1000
    (one, cover), (two, other) = (
        shade(a, 1000.0, Block(0, 1000, 0, 1000), None) for a in (area, moved(area, by))
    )
    assert (two.top - one.top, two.left - one.left) == (round(by * 1000),) * 2
    assert np.abs(cover - other).max() < 0.02


def test_a_map_says_nothing_where_nothing_was_asked(grown, blobs):
    held = SourceMap.read(grown[2].map, blobs)
    h, w = held.away.shape[:2]
    outside = np.array([[held.left - 5.5, held.top + 3.5], [held.left + w + 9.5, held.top + h + 9.5]])
    assert (held.taken(outside)[1] == 0).all()
    rows, columns = np.nonzero(held.away.any(-1))
    at = np.stack([columns + held.left + 0.5, rows + held.top + 0.5], -1)
    places, weights = held.taken(at)
    assert (weights.sum(0) > 0).all()
    # its own patch, the loudest of the nine, is taken from where the map says
    assert np.allclose(places[4] - at, held.away[rows, columns][:, ::-1], atol=1e-3)
    assert (weights.argmax(0) == 4).all()
