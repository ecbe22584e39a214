"""Paper: where the picture lies on it, and what that means from where one stands."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from sunlatch.errors import DocumentError, ExportError
from sunlatch.ledger import Paper, PaperParams, Scene, Source, new_move, parse_scene
from sunlatch.proof import checked, file_name, laid_out
from sunlatch.proof.files import on_sheet
from sunlatch.render import EXPORT_BAND, Output

SIZE = st.tuples(st.integers(200, 20_000), st.integers(200, 20_000))
SIDES = st.floats(60, 2000)


@given(SIZE, SIDES, SIDES, st.floats(0, 200), st.floats(0, 10), st.sampled_from(["fit", "fill"]))
def test_a_picture_lies_within_its_border_in_its_own_shape(size, width, height, border, raised, fit):
    assume(min(width, height) - 2 * border > 10)
    at = laid_out(PaperParams(width=width, height=height, border=border, raised=raised, fit=fit), size)
    assert at.at[0] >= border - 1e-6
    assert at.at[0] + at.size[0] <= width - border + 1e-6
    assert 0 <= at.at[1] <= height - at.size[1] + 1e-6
    x0, y0, x1, y1 = at.region
    assert 0 <= x0 < x1 <= 1
    assert 0 <= y0 < y1 <= 1
    shape = (x1 - x0) * size[0] / ((y1 - y0) * size[1])
    assert at.size[0] / at.size[1] == pytest.approx(shape, rel=1e-6)
    sheet = at.at_density(72)
    assert sheet.at[0] + sheet.picture[0] <= sheet.size[0]
    assert sheet.at[1] + sheet.picture[1] <= sheet.size[1]


def test_what_it_means_is_said():
    near = laid_out(PaperParams(width=600, height=400, border=40, distance=60), (6000, 4000))
    assert near.ppi == pytest.approx(6000 / near.size[0] * 25.4)
    assert near.sentence.endswith("it holds.")
    far = laid_out(PaperParams(width=2000, height=1400, distance=60), (3000, 2000))
    assert "soft" in far.sentence
    assert f"{far.ppi:.0f} ppi" in far.sentence


def test_exactly_so_wide():
    at = laid_out(PaperParams(fit="exact", across=300), (3000, 2000))
    assert at.size == pytest.approx((300, 200))
    with pytest.raises(ExportError, match="larger than the sheet"):
        laid_out(PaperParams(fit="exact", across=700), (3000, 2000))


@pytest.mark.parametrize(
    ("params", "said"), [({"border": 200}, "leaves nothing"), ({"width": 5000, "height": 5000, "border": 0}, "megapixels")]
)  # fmt: skip
def test_what_cannot_be_is_said(params, said):
    with pytest.raises(ExportError, match=said):
        laid_out(PaperParams(**params), (6000, 4000)).at_density(1200)


def test_a_paper_of_nothing_is_no_paper(coast):
    data = coast.scene().model_dump(mode="json")
    data["papers"] = [{"name": "None", "params": {"width": 0, "height": 400}}]
    with pytest.raises(DocumentError, match=r"papers\[0\]"):
        parse_scene(data)
    data["papers"] = []
    data["paper"] = "gone"
    with pytest.raises(DocumentError, match="not in the document"):
        parse_scene(data)


def test_lines_for_a_paper_leave_the_scene_alone(coast, engine):
    scene = coast.scene()
    paper = Paper(name="Cotton", moves=[new_move("exposure", params={"ev": 1.0})])
    scene.papers, scene.paper = [paper], paper.id
    scene = parse_scene(scene.model_dump(mode="json"))
    plain = engine.develop(scene, coast.pyramid)
    view = plain.geometry.fit(120)
    printed = plain.again(scene.for_paper(scene.on_paper))
    bare = engine.develop(coast.scene(), coast.pyramid)
    assert np.array_equal(plain.light_planes(view), bare.light_planes(view))
    ratio = printed.light_planes(view) / np.maximum(plain.light_planes(view), 1e-6)
    assert np.median(ratio) == pytest.approx(2, rel=1e-3)


def test_a_line_for_a_paper_names_only_what_is_there(coast):
    data = coast.scene().model_dump(mode="json")
    line = {"kind": "exposure", "latch": "nobody"}
    data["papers"] = [{"name": "Cotton", "moves": [line]}]
    with pytest.raises(DocumentError, match="not in the document"):
        parse_scene(data)


@given(st.integers(30, 300), st.integers(30, 700), st.floats(0, 40), st.floats(0, 3))
def test_a_sheet_holds_its_picture_px_for_px(width, height, border, line):
    assume(2 * border < min(width, height) / 3)
    params = PaperParams(
        width=max(width, 30), height=max(height, 30), border=border, line=line, gap=1, raised=3
    )
    sheet = laid_out(params, (400, 300)).at_density(40)
    rng = np.random.default_rng(3)
    picture = rng.integers(0, 200, (sheet.picture[1], sheet.picture[0], 3)).astype(np.uint8)
    bands = (picture[r : r + EXPORT_BAND] for r in range(0, len(picture), EXPORT_BAND))
    whole = np.concatenate(list(on_sheet(bands, sheet, Output("srgb", 8))))
    assert whole.shape == (sheet.size[1], sheet.size[0], 3)
    (x, y), (w, h) = sheet.at, sheet.picture
    assert np.array_equal(whole[y : y + h, x : x + w], picture)
    whole[y : y + h, x : x + w] = 255
    dark = int((whole.min(2) < 250).sum())
    assert (dark > 0) == (
        sheet.line > 0 and sheet.gap + sheet.line <= max(x, y)
    )  # a line within the sheet is drawn


@pytest.mark.parametrize(
    ("pattern", "said"),
    [("../{scene}", "leads out"), ("a/b", "leads out"), (".hidden", "leads out"), ("{moon}", "moon"), ("{scene", "brace"),
     ("a\tb", "control"), ("  ", "needs a name")],
)  # fmt: skip
def test_a_pattern_that_cannot_name_a_file_is_said(pattern, said):
    with pytest.raises(ExportError, match=said):
        checked(pattern)


def test_files_are_named_by_what_is_known():
    facts = {"scene": "Stack: at dusk", "paper": "Cotton", "width": "520"}
    assert file_name("{scene} {paper}", facts, ".tif") == "Stack- at dusk Cotton.tif"
    with pytest.raises(ExportError, match="two files would be called"):
        file_name("{paper}", facts, ".tif", {"cotton.TIF"})


@given(st.text(max_size=400))
def test_any_name_is_a_name_or_is_refused(text):
    try:
        name = file_name("{scene}", {"scene": text}, ".tif")
    except ExportError:
        return
    assert "/" not in name
    assert len(name.encode()) <= 255
    assert name not in (".tif", "..tif")


def test_an_older_scene_has_no_paper(coast):
    data = Scene(sources=[Source(sha256=coast.sha256)]).model_dump(mode="json")
    for key in ("papers", "paper", "keeps"):
        data.pop(key)
    assert parse_scene(data | {"schema_version": 7}).papers == []
