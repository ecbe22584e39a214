"""Strokes on sheets: the same picture, a light document, and a clear word where a sheet is gone."""

import pytest

from sunlatch.blobs import Blobs
from sunlatch.errors import DocumentError, StorageError
from sunlatch.latch import Sheets, hand
from sunlatch.latch.sheets import LOOSE
from sunlatch.latch.stroke import Sheet, Stroke
from sunlatch.ledger import Latch, ingredient_sentence, new_ingredient, parse_scene, put_away
from sunlatch.render import Engine


def _strokes(many, first=0):
    return [
        Stroke(points=[0.001 * n, 0.2, 1, 0.001 * n, 0.4, 1], radius=0.02, soft=0.5, flow=0.5)
        for n in range(first, first + many)
    ]


def test_many_strokes_go_on_a_sheet_and_come_back_in_order(tmp_path):
    sheets = Sheets(Blobs(tmp_path))
    few = _strokes(LOOSE - 1)
    assert sheets.put_away(few) == few
    one = sheets.put_away(_strokes(LOOSE))
    assert [type(s) for s in one] == [Sheet]
    two = sheets.put_away([*one, *_strokes(LOOSE + 3, LOOSE)])
    assert [s.count for s in two] == [LOOSE, LOOSE + 3]
    back = [s for sheet in two for s in Sheets(Blobs(tmp_path)).strokes(sheet)]
    assert back == _strokes(2 * LOOSE + 3)
    assert sheets.put_away(two) == two
    assert sheets.put_away(_strokes(LOOSE)) == one, "the same strokes are the same sheet"
    assert len([p for p in tmp_path.rglob("*") if p.is_file()]) == 2


def test_a_latch_holds_the_same_from_its_sheets_and_draws_nothing_anew(coast, tmp_path, monkeypatch):
    scene, blobs = coast.scene(), Blobs(tmp_path)
    engine = Engine(threads=2, blobs=blobs)
    development = engine.develop(scene, coast.pyramid)
    painted = new_ingredient("hand", params={"strokes": [s.model_dump() for s in _strokes(60, 200)]})
    scene.latches = [
        Latch(id="p", name="Painted", ingredients=[painted], read_at=development.ground.read_at())
    ]
    view = development.geometry.fit(200)
    mask = engine.develop(scene, coast.pyramid).latches.mask(scene.latches[0], view)
    assert mask.max() > 0.4

    monkeypatch.setattr(hand, "_drawn", None)  # asked to draw again, it would fail
    put_away(scene, blobs)
    assert len(painted.params.strokes) == 1
    assert len(scene.model_dump_json()) < 4000
    assert ingredient_sentence(painted) == "Hand, strokes: 60"
    assert parse_scene(scene.model_dump_json()) == scene
    assert (engine.develop(scene, coast.pyramid).latches.mask(scene.latches[0], view) == mask).all()

    bare = Engine(threads=2).develop(scene, coast.pyramid)
    with pytest.raises(DocumentError, match="not with it"):
        bare.latches.mask(scene.latches[0], view)


def test_a_sheet_that_is_gone_or_damaged_is_spoken_of(tmp_path):
    sheets = Sheets(Blobs(tmp_path))
    (sheet,) = sheets.put_away(_strokes(LOOSE))
    path = next(p for p in tmp_path.rglob("*") if p.is_file())
    path.write_bytes(path.read_bytes().replace(b"0.02", b"0.03"))
    with pytest.raises(DocumentError, match="damaged"):
        sheets.strokes(sheet)
    path.unlink()
    with pytest.raises(DocumentError, match="missing"):
        sheets.strokes(sheet)
    (tmp_path / "ab").write_text("no folder")
    blocked = Sheets(Blobs(tmp_path / "ab"))
    with pytest.raises(StorageError, match="could not be saved"):
        blocked.put_away(_strokes(LOOSE))


def test_a_name_that_is_no_sheet_is_refused():
    with pytest.raises(DocumentError):
        new_ingredient("hand", params={"strokes": [{"sheet": "../../etc", "count": 3}]})
