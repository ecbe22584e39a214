"""Wires and specks taken out, against the world as it is without them."""

from dataclasses import replace

import cv2
import numpy as np
import pytest

from fieldworld.camera import smaller, specks
from fieldworld.lent import find_any, without
from sunlatch.blocks import Block, reader
from sunlatch.errors import MendError
from sunlatch.frame import hash_file
from sunlatch.geometry import View
from sunlatch.ledger import Scene, Source, Take, repair_sentence
from sunlatch.mend import (
    Mended,
    circle,
    clone_of,
    dust,
    find_specks,
    specks_of,
    wire,
    wire_of,
)  # fmt: skip
from sunlatch.mend.heal import logarithm
from sunlatch.mend.trace import _width
from sunlatch.render import Engine
from tests.coast import shoot
from tests.conftest import delta_e
from tests.core.mending import WIDE, keep_all, shown


@pytest.fixture(scope="module")
def heath(frames, store):
    """The birch heath with its cable and specks, and without."""
    out = []
    for name, shot in (
        ("with", smaller(find_any("heath"), WIDE)),
        ("bare", without(smaller(find_any("heath"), WIDE), ["cable", "specks"])),
    ):
        path = frames / f"heath-{name}.dng"
        seen = shoot(shot, path)
        out.append((store.whole(hash_file(path), path), seen))
    return out


@pytest.fixture(scope="module")
def mended_heath(heath, blobs):
    (raster, seen), (bare, _) = heath
    columns = [np.flatnonzero(seen.wires[:, x] > 0.3).mean() for x in (1, WIDE - 2)]
    clicks = np.array([[1, columns[0]], [WIDE - 2, columns[1]]]) / WIDE
    repairs = [specks_of(raster), wire_of(raster, clicks)]
    pictures = [shown(raster, [], blobs), shown(raster, repairs, blobs), shown(bare, [], blobs)]
    return repairs, pictures, seen


def test_a_wire_is_followed_however_it_sags(mended_heath):
    repairs, _, seen = mended_heath
    path = np.array(repairs[1].path).reshape(-1, 2) * WIDE
    inside = (path[:, 0] > 2) & (path[:, 0] < WIDE - 2)
    off = [
        np.abs(np.flatnonzero(seen.wires[:, int(x)] > 0.15) + 0.5 - y).min() for x, y in path[inside][::20]
    ]
    assert np.median(off) < 0.6
    assert np.max(off) < 1.5
    straight = np.interp(path[:, 0], path[[0, -1], 0], path[[0, -1], 1])
    assert np.abs(path[:, 1] - straight).max() > 20  # two clicks were all that was said


@pytest.mark.parametrize("apart", [60, 110, 240])
def test_a_wire_clicked_more_often_is_the_same_wire(heath, apart):
    """However short the parts: what a part is judged against is wider than the line in it."""
    raster, seen = heath[0]
    columns = np.arange(40, WIDE - 40, apart)
    rows = [np.flatnonzero(seen.wires[:, x] > 0.15).mean() + 0.5 for x in columns]
    often = np.array(wire_of(raster, np.stack([columns + 0.5, rows], 1) / WIDE).path).reshape(-1, 2) * WIDE
    off = [
        np.abs(np.flatnonzero(seen.wires[:, int(x)] > 0.15) + 0.5 - y).min(initial=99)
        for x, y in often
        if seen.wires[:, int(x)].max() > 0.15
    ]
    assert np.median(off) < 0.5
    # where a part begins among twigs, a few px of it may follow one
    assert np.percentile(off, 97) < 1.5
    assert np.max(off) < 6


def test_where_the_wire_was_is_what_is_behind_it(mended_heath):
    """Grain apart: what differs is looked at over three px. On the ridge, which it all but runs along, it is less true."""
    _, (before, after, bare), seen = mended_heath
    wire = cv2.dilate((seen.wires > 0.2).astype(np.uint8), np.ones((3, 3))) > 0
    even = [cv2.blur(p, (3, 3)) for p in (before, after, bare)]
    before_it, after_it, bare_it = (p[wire][None] for p in even)
    assert delta_e(before_it, bare_it).mean() > 8
    assert delta_e(after_it, bare_it).mean() < 2.6
    sky = wire & (np.arange(WIDE) < 0.7 * WIDE)[None]
    assert delta_e(even[1][sky][None], even[2][sky][None]).mean() < 2
    # and nothing else has moved
    far = cv2.dilate(wire.astype(np.uint8), np.ones((31, 31))) == 0
    changed = np.abs(after.astype(int) - before).max(2) > 0
    assert changed[far].mean() < 0.002


def test_specks_in_the_sky_are_found_and_gone(heath, mended_heath):
    (raster, seen), _ = heath
    repairs, (_, after, bare), _ = mended_heath
    shot = find_any("heath")
    truth = specks(shot.exposure.f_number, WIDE, round(WIDE * shot.height / shot.width / 2) * 2)
    found = find_specks(raster)
    hits = {n for n, (x, y, r, _) in enumerate(truth) for d in found if np.hypot(d.x - x, d.y - y) < r}
    in_sky = {n for n, (x, y, _, _) in enumerate(truth) if seen.sky[int(y), int(x)] > 0.99}
    assert hits >= in_sky
    assert len(in_sky) >= 3
    assert len(found) - len(hits) <= 1
    even = [cv2.GaussianBlur(p, (0, 0), 2) for p in (after, bare)]
    for n in in_sky:
        x, y, r, _ = truth[n]
        rows, columns = np.mgrid[: even[0].shape[0], : even[0].shape[1]]
        spot = np.hypot(columns + 0.5 - x, rows + 0.5 - y) < r
        assert delta_e(even[0][spot][None], even[1][spot][None]).mean() < 2
    assert repair_sentence(repairs[0]) == f"{len(found)} specks"


@pytest.mark.parametrize("radius", [*dust.RADII, *dust.LARGE])
def test_likeness_to_a_speck_is_correlation_where_it_dips(radius):
    """Against OpenCV's normed correlation, on noise with a speck in it; elsewhere it is not asked."""
    rng = np.random.default_rng(3)
    light = cv2.GaussianBlur(rng.normal(0, 0.02, (90, 120)).astype(np.float32), (0, 0), 1)
    speck = dust._template(radius)
    reach = speck.shape[0] // 2
    light[40 - reach : 41 + reach, 60 - reach : 61 + reach] += 0.08 * speck
    like = dust._likeness(light, radius)
    wanted = cv2.matchTemplate(light, speck, cv2.TM_CCOEFF_NORMED)
    asked = like[reach:-reach, reach:-reach] > -1
    assert asked.mean() < 0.5
    # whatever dips and looks like one is asked, and what lies beside it
    core, around = 2 * round(0.7 * radius) + 1, speck.shape[0]
    dip = cv2.blur(light, (around, around)) - cv2.blur(light, (core, core))
    dips = (dip >= cv2.dilate(dip, np.ones((5, 5)))) & (dip >= dust.SHALLOW)
    one = cv2.dilate(wanted, np.ones((3, 3))) > dust.LIKE
    inner = slice(1, -1)
    likely = np.argwhere((dips[reach:-reach, reach:-reach] & one)[inner, inner]) + 1
    assert len(likely) >= 1
    for r, c in likely:
        assert asked[r - 1 : r + 2, c - 1 : c + 2].all()
    assert np.abs(like[reach:-reach, reach:-reach] - wanted)[asked].max() < 1e-3
    assert np.unravel_index(like.argmax(), like.shape) == pytest.approx((40, 60), abs=1)
    assert like.max() > wanted.max() - 1e-3


def test_light_is_compared_in_logarithms():
    planes = np.random.default_rng(5).uniform(-0.01, 2, (3, 7, 9)).astype(np.float32)
    logs, light = np.empty_like(planes), np.empty((7, 9), np.float32)
    dust._logarithms(planes, logs, light)
    assert np.abs(logs - logarithm(planes)).max() < 1e-4
    assert np.abs(light - np.tensordot([0.3, 0.5, 0.2], logarithm(planes), 1)).max() < 1e-4


def test_a_latch_on_the_sky_sees_no_wire_any_more(heath, mended_heath, blobs):
    (raster, seen), _ = heath
    repairs, _, _ = mended_heath
    from sunlatch.ledger import new_ingredient

    wire = (seen.wires > 0.5) & (cv2.erode((seen.sky + seen.wires).clip(0, 1), np.ones((15, 15))) > 0.99)
    top, bottom = round(0.38 * wire.shape[0]), round(0.48 * wire.shape[0])
    wire = wire[top:bottom, : WIDE // 3]
    assert wire.sum() > 300
    held = []
    for some in ([], repairs):
        development = Engine(threads=2, blobs=blobs).develop(
            Scene(sources=[Source(sha256="0" * 64)], repairs=some), raster
        )
        h = seen.wires.shape[0]
        view = View((0, top / h, WIDE // 3 / WIDE, bottom / h), (WIDE // 3, bottom - top))
        mask = development.reader.found_over(new_ingredient("sky"), view, development.geometry)
        held.append(mask[wire].mean())
    assert held[0] < 0.6
    assert held[1] > 0.95


@pytest.mark.parametrize(
    ("clicks", "says"),
    [
        ([[0.4, 0.3]], "two ends"),
        ([[0.4, 0.3], [0.4, 0.3001]], "lie apart"),
        ([[0.05, 0.05], [0.5, 0.06]], "No wire"),
    ],
)
def test_a_wire_that_is_none(heath, clicks, says):
    with pytest.raises(MendError, match=says):
        wire_of(heath[0][0], np.array(clicks))


# a line along an edge, and one that is none


def _edge_with_wire(
    sky: float, land: float, wide: float, slant: float = 0.0
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A ridge, with a dark line along it; the same without; the line's path."""
    rng = np.random.default_rng(5)
    y, x = np.mgrid[:150, :600] + 0.5
    ridge = 75 + slant * (x - 300)
    share = np.clip(y - ridge + 0.5, 0, 1)
    bare = sky * (1 - share) + land * share
    bare = bare[..., None] * (1 + rng.normal(0, 0.01, (150, 600, 3)))
    line = np.clip((wide / 2 + 0.5) - np.abs(y - ridge), 0, 1)[..., None]
    path = np.stack([np.arange(2, 598.0), 75 + slant * (np.arange(2, 598.0) - 300)], 1)
    return (bare * (1 - line) + 0.02 * line).astype(np.float32), bare.astype(np.float32), path


@pytest.mark.parametrize("slant", [0.0, 0.04])
def test_a_wire_along_a_ridge_leaves_it_as_sharp_as_it_was(slant):
    seen, bare, path = _edge_with_wire(0.5, 0.12, 3.0, slant)
    read, block = reader(seen), Block(50, 100, 100, 500)
    planes, much = wire.mended(read, path, 98, 498, 3.0, block)
    there = read(*block)
    after = there + much * (planes - there)
    truth = bare[50:100, 100:500].transpose(2, 0, 1)
    off = np.abs(np.log2(np.maximum(after, 1e-3) / truth)).mean(0)
    rows = np.arange(50, 100)[:, None] + 0.5
    ridge = 75 + slant * (np.arange(100, 500) + 0.5 - 300)
    assert off[np.abs(rows - ridge) > 1.6].max() < 0.25  # nothing of the one side is drawn into the other
    even = after.mean((0, 2)) if slant == 0 else None
    if even is not None:
        steps = (even > 0.16) & (even < 0.46)
        assert steps.sum() <= 3


def test_a_wire_across_what_changes_goes_as_before():
    """On sides that are alike, or differ here and there, light is led across, without a step."""
    seen, _, path = _edge_with_wire(0.4, 0.4, 3.0)
    seen *= 1 + 0.2 * np.sin(np.arange(600) / 9)[None, :, None].astype(np.float32)
    read, block = reader(seen), Block(50, 100, 100, 500)
    left, right = (read(r, r + 4, 0, 600) for r in (80, 68))
    assert wire._edged(left, right).max() < 0.05
    planes, _ = wire.mended(read, path, 98, 498, 3.0, block)
    assert planes.shape == (3, 50, 400)


def test_what_is_too_thick_for_a_wire_is_said():
    seen, _, path = _edge_with_wire(0.4, 0.4, 44.0)
    with pytest.raises(MendError, match="thicker than a wire"):
        _width(reader(seen), path)


def test_where_a_wire_crosses_another_both_can_go(coast):
    """The second is followed and mended on what the first has left."""
    h, w = coast.pyramid.shape(0)
    y, x = np.mgrid[:h, :w] + 0.5
    bare = np.array(coast.pyramid.levels[0], np.float32)
    bare[:300] = 0.3 + 0.1 * (x[:300, :, None] / w)
    bare[:300] *= 1 + np.random.default_rng(1).normal(0, 0.004, (300, w, 3))
    lines = [[(100.0, 60.0), (900.0, 220.0)], [(120.0, 240.0), (880.0, 40.0)]]
    shade = np.ones((h, w))
    for (ax, ay), (bx, by) in lines:
        way = np.array([bx - ax, by - ay]) / np.hypot(bx - ax, by - ay)
        off = np.abs((x - ax) * way[1] - (y - ay) * way[0])
        along = (x - ax) * way[0] + (y - ay) * way[1]
        inside = (along > 0) & (along < np.hypot(bx - ax, by - ay))
        shade *= np.where(inside, 1 - 0.8 * np.clip(2.0 - off, 0, 1), 1)
    seen = bare * shade[..., None]

    def raster(light):
        levels = {k: v for k, v in coast.pyramid.levels.items() if k > 0} | {0: light.astype(np.float16)}
        return replace(coast.pyramid, key="crossing", levels=levels, folder=None)

    repairs = []
    for line in lines:
        under_ = Mended(raster(seen), Scene(sources=coast.scene().sources, repairs=repairs), keep_all())
        repairs = [*repairs, wire_of(under_, np.array(line) / w)]
    mended = Mended(raster(seen), Scene(sources=coast.scene().sources, repairs=repairs), keep_all())
    after = mended.fetch(0)(0, 300, 0, w).transpose(1, 2, 0)
    off = np.abs(np.log2(after / bare[:300])).mean(-1)
    middle = cv2.erode((shade[:300] < 0.9).astype(np.uint8), np.ones((1, 1))) > 0
    inner = middle & (x[:300] > 130) & (x[:300] < 850)
    assert np.abs(np.log2(shade[:300][inner])).mean() > 1
    assert np.percentile(off[inner], 95) < 0.05
    crossing = np.hypot(x[:300] - 505, y[:300] - 140) < 25
    assert off[crossing].max() < 0.2
    # what is mended there later stays on top of it
    later = clone_of(raster(seen), circle(505 / w, 140 / w, 0.02), None, Take(dx=0.0, dy=0.3))
    over = Mended(raster(seen), Scene(sources=coast.scene().sources, repairs=[*repairs, later]), keep_all())
    assert over.units[-1].identity == later.model_dump_json(exclude={"id", "name", "note", "on"})
    # in a scene of an earlier day each goes as it went
    earlier = [r.model_copy(update={"revision": 1}) for r in repairs]
    before = Mended(raster(seen), Scene(sources=coast.scene().sources, repairs=earlier), keep_all())
    assert len(before.units) < len(mended.units)
