"""Repairs on a raster, and against references in NumPy."""

import json
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fieldworld.camera import CameraError, specks
from fieldworld.lent import find_any, under, without
from sunlatch.blobs import Blobs
from sunlatch.blocks import Block, reader
from sunlatch.errors import DocumentError, MendError
from sunlatch.frame import per_of, span_of, whole
from sunlatch.geometry import View
from sunlatch.ledger import Area, CloneRepair, HealRepair, Scene, Source, Take, parse_scene
from sunlatch.mend import (
    Mended,
    checked,
    circle,
    heal_of,
    regrow_of,
    serves,
    shade,
    spot_of,
)  # fmt: skip
from sunlatch.mend.heal import healed, logarithm, taken
from sunlatch.mend.membrane import membrane
from sunlatch.render import Engine, area_of, picture_8, to_source
from tests.core.mending import keep_all, shown

# what cannot be


def test_a_source_outside_and_a_place_outside(coast):
    area = circle(0.5, 0.3, 0.01)
    with pytest.raises(MendError, match="outside the picture"):
        checked(coast.pyramid, area, Take(dx=3.0, dy=0.0))
    with pytest.raises(MendError, match="outside the picture"):
        heal_of(coast.pyramid, circle(3.0, 3.0, 0.01))
    with pytest.raises(MendError, match="most of the picture"):
        heal_of(coast.pyramid, circle(0.5, 0.3, 0.6))


@pytest.mark.parametrize(
    ("dx", "dy", "serves_"),
    [(0.05, 0.0, True), (0.0, -0.05, True), (0.015, 0.005, False), (0.0, 0.0, False), (0.6, 0.0, False), (0.0, -0.4, False)],
)  # fmt: skip
def test_a_source_serves_while_it_lies_on_the_picture_and_not_in_the_place(coast, dx, dy, serves_):
    assert serves(coast.pyramid, circle(0.5, 0.3, 0.01), Take(dx=dx, dy=dy)) is serves_


def test_what_is_found_serves(coast):
    area = circle(0.5, 0.3, 0.02)
    assert serves(coast.pyramid, area, heal_of(coast.pyramid, area).take)


def test_most_of_the_picture_is_not_regrown(coast, blobs):
    with pytest.raises(MendError, match="most of the picture"):
        regrow_of(coast.pyramid, Area(outline=[0, 0, 1, 0, 1, 0.6, 0, 0.6]), blobs)
    with pytest.raises(MendError, match="nothing left"):
        regrow_of(coast.pyramid, circle(0.5, 0.3, 0.05), blobs, source=circle(0.5, 0.3, 0.004))


def test_a_map_that_is_not_there_is_missed(coast, blobs, tmp_path):
    """What cannot be shown is said, and not left out."""
    repair = regrow_of(coast.pyramid, circle(0.5, 0.45, 0.02), blobs)
    for kept in (None, Blobs(tmp_path)):
        with pytest.raises(DocumentError, match=repair.map[:8]):
            shown(coast.pyramid, [repair], kept)


def test_an_empty_area_is_no_area():
    with pytest.raises(ValueError, match="the area is empty"):
        Area()


def test_a_scene_says_which_repair_is_wrong():
    data = {
        "schema_version": 5,
        "sources": [{"sha256": "0" * 64}],
        "repairs": [{"kind": "wire", "id": "w", "path": [0.1, 0.1]}],
    }
    with pytest.raises(DocumentError, match=r"repairs\[0\]"):
        parse_scene(data)


# heal and clone


def test_the_membrane_is_harmonic():
    """A harmonic function is given back from its rim; and nothing inside exceeds it."""
    y, x = np.mgrid[:120, :150].astype(np.float32)
    values = np.stack([x * x - y * y, x * y, 3 * x]) / 5000
    hole = ((x - 75) / 50) ** 2 + ((y - 60) / 40) ** 2 < 1
    out = membrane(values, hole)
    assert np.abs(out - values).max() < 0.02 * np.ptp(values)
    assert np.array_equal(out[:, ~hole], values[:, ~hole])


@given(st.integers(0, 2**32 - 1))
def test_the_membrane_stays_between_what_is_around_it(seed):
    rng = np.random.default_rng(seed)
    values = rng.normal(0, 1, (1, 23, 31)).astype(np.float32)
    hole = rng.random((23, 31)) < rng.uniform(0.1, 0.9)
    out = membrane(values, hole)
    if not hole.all():
        known = values[0][~hole]
        assert out.min() >= known.min() - 1e-3
        assert out.max() <= known.max() + 1e-3
    assert np.isfinite(out).all()


def test_heal_keeps_texture_and_takes_light_from_around():
    """The same texture under a slope of light twice as bright: healed from there, it is as if it had been here."""
    rng = np.random.default_rng(5)
    texture = np.exp(rng.normal(0, 0.1, (80, 80))).astype(np.float32)
    y, x = np.mgrid[:80, :80]
    slope = (0.1 + 0.001 * x).astype(np.float32)
    here, there = np.stack([texture * slope] * 3), np.stack([texture * 0.3] * 3)
    hole = np.hypot(x - 40, y - 40) < 20
    spoiled = here.copy()
    spoiled[:, hole] = 0.9
    made = healed(spoiled, there, hole)
    assert np.abs(logarithm(made) - logarithm(here))[:, hole].mean() < 0.02


@given(st.floats(-0.1, 0.1), st.floats(-0.1, 0.1), st.sampled_from([0.0, 90.0, 180.0]), st.booleans())
def test_what_is_taken_lies_where_it_says(dx, dy, turn, mirror):
    """A picture of its own coordinates tells where every px came from."""
    h, w = 160, 200
    y, x = np.mgrid[:h, :w].astype(np.float32) + 0.5
    picture = np.dstack([x, y, np.ones_like(x)])
    block, middle = Block(70, 90, 90, 120), (105.0, 80.0)
    made = taken(reader(picture), block, Take(dx=dx, dy=dy, turn=turn, mirror=mirror), 200, middle)
    by = np.array([105 - 90 - 0.5, 80 - 70 - 0.5])
    from_x, from_y = made[0, int(by[1]), int(by[0])], made[1, int(by[1]), int(by[0])]
    assert abs(from_x - (105 + round(dx * 200))) < 1.6
    assert abs(from_y - (80 + round(dy * 200))) < 1.6


def test_a_clone_is_the_other_place(coast, blobs):
    area, take = circle(0.3, 0.1, 0.02, soft=0.0), Take(dx=0.1, dy=0.02)
    repair = CloneRepair(id="c", area=area, take=take)
    mended = Mended(coast.pyramid, Scene(sources=[Source(sha256="0" * 64)], repairs=[repair]), keep_all())
    per = per_of(coast.pyramid)
    x, y, dx, dy = (round(v * per) for v in (0.3, 0.1, 0.1, 0.02))
    here, there = mended.fetch(0)(y - 5, y + 5, x - 5, x + 5), coast.pyramid.fetch(0)
    assert np.allclose(here, there(y - 5 + dy, y + 5 + dy, x - 5 + dx, x + 5 + dx), atol=1e-3)


def test_the_source_is_found_where_it_fits(coast):
    """Of a place in the sky, the sky; never itself."""
    repair = heal_of(coast.pyramid, circle(0.3, 0.1, 0.02))
    assert np.hypot(repair.take.dx, repair.take.dy) > 0.03
    at = np.array([0.3 + repair.take.dx, 0.1 + repair.take.dy]) * per_of(coast.pyramid)
    assert coast.truth.sky[int(at[1]), int(at[0])] > 0.9


# a raster under repairs


def _some(coast, blobs):
    """Repairs of every kind, some over others."""
    raster = coast.pyramid
    spot = spot_of(raster, 200, 100, 9)
    heal = heal_of(raster, circle(0.31, 0.12, 0.015))
    over = CloneRepair(
        id="over", area=circle(0.315, 0.125, 0.01), take=Take(dx=0.05, dy=0.0, turn=30, scale=1.2)
    )
    grown = regrow_of(raster, Area(outline=[0.5, 0.45, 0.56, 0.46, 0.55, 0.5, 0.5, 0.5]), blobs)
    from sunlatch.ledger import SpecksRepair, WireRepair

    wire = WireRepair(id="wire", path=[0.1, 0.2, 0.3, 0.21, 0.4, 0.2])
    return [SpecksRepair(id="s", spots=[spot]), heal, over, grown, wire]


def test_all_levels_agree_and_blocks_are_parts_of_the_whole(coast, blobs):
    scene = Scene(sources=[Source(sha256="0" * 64)], repairs=_some(coast, blobs))
    mended = Mended(coast.pyramid, scene, keep_all(), blobs)
    full = whole(mended, 0)
    assert np.abs(full - whole(coast.pyramid, 0)).max() > 0.02
    for level in sorted(mended.levels)[:3]:
        here = whole(mended, level)
        h, w = mended.shape(level)
        for top, bottom, left, right in (
            (-3, 40, -5, 60),
            (h // 3, h // 2, w // 4, w // 2),
            (h - 9, h + 4, w - 7, w + 2),
        ):
            part = mended.fetch(level)(top, bottom, left, right)
            rows, columns = (
                np.clip(np.arange(top, bottom), 0, h - 1),
                np.clip(np.arange(left, right), 0, w - 1),
            )
            assert np.array_equal(part, here[:, rows][:, :, columns])
        if level + 1 in mended.levels:
            halved = cv2.resize(
                here.transpose(1, 2, 0), (w // 2 * 2 // 2, h // 2 * 2 // 2), interpolation=cv2.INTER_AREA
            )
            coarser = whole(mended, level + 1).transpose(1, 2, 0)[: h // 2, : w // 2]
            if h % 2 == 0 and w % 2 == 0:
                assert np.abs(coarser - halved).max() < 2e-3


def test_a_repair_names_its_blocks_and_those_it_is_seen_in(coast, blobs):
    base = Scene(sources=[Source(sha256="0" * 64)], repairs=_some(coast, blobs))
    more = base.model_copy(
        update={"repairs": [*base.repairs, heal_of(coast.pyramid, circle(0.8, 0.1, 0.01))]}
    )
    one, two = (Mended(coast.pyramid, s, keep_all(), blobs) for s in (base, more))
    assert one.identity != two.identity
    here, elsewhere = Block(110, 140, 1000, 1030), Block(110, 140, 380, 400)
    assert one.identity_of(0, here) != two.identity_of(0, here)
    assert one.identity_of(0, elsewhere) == two.identity_of(0, elsewhere)
    aside = Mended(coast.pyramid, more, keep_all(), blobs, preview_edit=more.repairs[-1].id)
    assert aside.identity == one.identity
    assert aside.identity_of(0, here) == two.identity_of(0, here)


def test_what_lies_under_a_repair_changes_it_and_nothing_else(coast, blobs):
    """The clone that lies over a heal is made anew when that goes; the others are not."""
    scene = Scene(sources=[Source(sha256="0" * 64)], repairs=_some(coast, blobs))
    fewer = scene.model_copy(update={"repairs": [scene.repairs[0], *scene.repairs[2:]]})
    before, after = (Mended(coast.pyramid, s, keep_all(), blobs).names for s in (scene, fewer))
    assert before[0] == after[0]
    assert before[2] != after[1]


def test_a_repair_follows_exposure_crop_and_lens(coast, blobs):
    """It lies beneath all of them: what is shown of it elsewhere is what is shown of it here."""
    repairs = [heal_of(coast.pyramid, circle(0.3, 0.12, 0.02))]
    scene = Scene(sources=[Source(sha256="0" * 64)], repairs=repairs)
    scene.ground.base_exposure.params.ev = 1.5
    engine = Engine(threads=2, blobs=blobs)
    clean = scene.model_copy(update={"repairs": []})
    at = View((0.25, 0.1, 0.35, 0.25), (300, 300))
    changed = picture_8(engine.develop(scene, coast.pyramid), at, True).astype(int)
    was = picture_8(engine.develop(clean, coast.pyramid), at, True).astype(int)
    assert np.abs(changed - was).max() > 3
    scene.ground.trim.params.level = 4.0
    development = engine.develop(scene, coast.pyramid)
    place = development.geometry.to_developed(np.array([[0.3, 0.12]]))[0]
    w, h = development.geometry.box.width, development.geometry.box.height
    u, v = place[0] / w, place[1] / h
    near = View((u - 0.05, v - 0.05, u + 0.05, v + 0.05), (200, 200))
    plain = picture_8(
        engine.develop(scene.model_copy(update={"repairs": []}), coast.pyramid), near, True
    ).astype(int)
    turned = picture_8(development, near, True).astype(int)
    moved = np.abs(turned - plain).max(2) > 2
    # a fiftieth of the long edge around, and nothing beyond it
    rows, columns = np.mgrid[:200, :200]
    long_edge = np.hypot((rows - 99.5) * h, (columns - 99.5) * w) / 2000 / w
    assert moved[long_edge < 0.012].mean() > 0.1
    assert not moved[long_edge > 0.022].any()


def test_the_first_look_is_mended_too(coast, blobs):
    quick = replace(coast.pyramid, levels={k: v for k, v in coast.pyramid.levels.items() if k > 0})
    scene = Scene(sources=[Source(sha256="0" * 64)], repairs=_some(coast, blobs))
    rough = Mended(quick, scene, keep_all(), blobs)
    fine = Mended(coast.pyramid, scene, keep_all(), blobs)
    assert not rough.complete
    apart = np.abs(whole(rough, 1) - whole(fine, 1))
    assert np.median(apart) < 1e-3
    assert apart.mean() < 0.01 * whole(fine, 1).mean()


def test_a_thousand_strokes_are_drawn(coast, blobs):
    """No block asks for all of them, and all of them are there."""
    rng = np.random.default_rng(3)
    strokes = [
        HealRepair(id=f"h{n}", area=circle(float(x), float(y), 0.003), take=Take(dx=0.02, dy=0.004))
        for n, (x, y) in enumerate(
            zip(rng.uniform(0.05, 0.9, 1000), rng.uniform(0.05, 0.5, 1000), strict=True)
        )
    ]
    keep = keep_all()
    mended = Mended(coast.pyramid, Scene(sources=[Source(sha256="0" * 64)], repairs=strokes), keep, blobs)
    mended.fetch(0)(100, 200, 100, 200)
    assert 0 < len(keep.held) < 200
    whole(mended, 2)
    assert len({key.split()[1] for key in keep.held}) == 1000


# areas


def test_an_area_given_as_a_mask_lies_where_it_was_drawn(coast, blobs):
    scene = Scene(sources=[Source(sha256="0" * 64)])
    scene.ground.trim.params.level = 6.0
    development = Engine(threads=1, blobs=blobs).develop(scene, coast.pyramid)
    w, h = development.geometry.developed_size
    mask = np.zeros((h, w), np.float32)
    mask[h // 2 - 20 : h // 2 + 20, w // 3 - 30 : w // 3 + 30] = 1
    area = area_of(development, mask, blobs)
    middle = to_source(development.geometry, np.array([[1 / 3, 0.5]]))[0]
    block, cover = shade(area, per_of(coast.pyramid), span_of(coast.pyramid), blobs)
    rows, columns = np.nonzero(cover > 0.5)
    at = np.array([columns.mean() + 0.5 + block.left, rows.mean() + 0.5 + block.top]) / per_of(coast.pyramid)
    assert np.abs(at - middle).max() * per_of(coast.pyramid) < 1
    assert abs((cover > 0.5).sum() / 2400 - 1) < 0.05
    with pytest.raises(MendError, match="empty"):
        area_of(development, np.zeros((h, w), np.float32), blobs)
    with pytest.raises(MendError, match="fractions"):
        to_source(development.geometry, np.array([[1.4, 0.5]]))


def test_strokes_are_laid_and_taken_away(coast):
    line = {"points": [0.2, 0.2, 1, 0.4, 0.2, 1], "radius": 0.02, "soft": 0.0, "flow": 1.0}
    rub = {"points": [0.3, 0.2, 1], "radius": 0.03, "soft": 0.0, "flow": 1.0, "erase": True}
    area = Area.model_validate({"strokes": [line, rub]})
    block, cover = shade(area, 1000, Block(0, 700, 0, 1000), None)
    row = cover[200 - block.top]
    assert row[220 - block.left] == 1
    assert row[300 - block.left] == 0
    assert row[380 - block.left] == 1


# the coast, and the command line


def test_the_coast_leaves_out_what_it_is_asked_to():
    heath = find_any("heath")
    assert "cable" not in without(heath, ["cable"]).view.figures
    assert without(heath, ["specks"]).dust == 0
    assert under(heath, "sky-1").view.light == find_any("sky-1").view.light
    with pytest.raises(CameraError, match="has no walker"):
        without(heath, ["walker"])
    assert len(specks(14.0, 600, 400, 30)) == 30


def test_mend_from_the_command_line(tmp_path: Path, coast, capsys, monkeypatch):
    from sunlatch.cli import app

    monkeypatch.setenv("SUNLATCH_CACHE", str(tmp_path / "cache"))

    def run(*words):
        app(list(words), standalone_mode=False)
        return capsys.readouterr().out.strip()

    document = str(tmp_path / "scene.json")
    run("new", str(coast.path), "-o", document)
    assert run("mend", document, "heal", "0.3,0.2", "--radius", "20") == "1: Heal"
    mask = np.zeros((850, 1272), np.uint8)
    mask[600:640, 500:560] = 255
    cv2.imwrite(str(tmp_path / "mask.png"), mask)
    assert run("mend", document, "regrow", "--area", str(tmp_path / "mask.png")) == "2: Regrow"
    above = np.zeros((850, 1272), np.uint8)
    above[:580] = 255
    cv2.imwrite(str(tmp_path / "above.png"), above)
    with_limits = [
        "--from",
        str(tmp_path / "above.png"),
        "--not-from",
        str(tmp_path / "mask.png"),
        "--seed",
        "1",
    ]
    assert run("mend", document, "regrow", "--area", str(tmp_path / "mask.png"), *with_limits) == "3: Regrow"
    grown = json.loads(Path(document).read_text())["repairs"][2]
    assert grown["source"]["mask"]["box"][3] == pytest.approx(580 / 1272, abs=0.01)
    assert grown["spared"]["mask"]["box"] == pytest.approx(grown["area"]["mask"]["box"], abs=0.01)
    assert run("mend", document, "rm", "3") == "removed: Regrow"
    assert run("mend", document, "clone", "0.5,0.2", "0.55,0.2", "--radius", "12").startswith("3: Clone")
    assert run("mend", document, "list").splitlines()[1] == "2: Regrow"
    assert run("mend", document, "rm", "1") == "removed: Heal"
    assert [r["kind"] for r in json.loads(Path(document).read_text())["repairs"]] == ["regrow", "clone"]
    run("render", document, "-o", str(tmp_path / "out.png"), "--bits", "8")
    cv2.imwrite(str(tmp_path / "small.png"), mask[:100])
    with pytest.raises(MendError, match="1272 × 850"):
        run("mend", document, "regrow", "--area", str(tmp_path / "small.png"))
    with pytest.raises(MendError, match="there is no repair 9"):
        run("mend", document, "rm", "9")
    with pytest.raises(MendError, match="two numbers"):
        run("mend", document, "heal", "here", "--radius", "20")
