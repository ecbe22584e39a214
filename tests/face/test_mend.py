"""Mend with the pointer: specks, the cable, strokes, an outline; and what was painted before stays on its thing."""

import re

import cv2
import numpy as np
import pytest
import tifffile
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.lent import find_any
from tests.coast import shoot
from tests.face.hands import accessible, choose, drag, drag_by, make_scene, on_picture, picture, settled
from tests.face.running import chromium, saved_document


@pytest.fixture(scope="module")
def page(tmp_path_factory, with_frames):
    """A studio of its own with the heath in it, opened at Mend."""
    folder = tmp_path_factory.mktemp("heath")
    shoot(smaller(find_any("heath"), 1200), folder / "heath.dng")
    shoot(smaller(find_any("sky-1"), 1200), folder / "sky-1.dng")
    with chromium() as browser:
        running = with_frames(folder)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(running.link)
        page.locator(".tile img").first.wait_for()
        make_scene(page, "heath", "Mend")
        yield page


def undo_says(page: Page, words: str) -> None:
    # a sky is looked for in two frames first: busy machines take their time
    expect(page.get_by_role("button", name=f"undo: {words}")).to_be_visible()
    settled(page)


def repairs(page: Page) -> list[dict]:
    return saved_document(page.url)["repairs"]


def hold(page: Page, verb: str) -> None:
    page.get_by_role("button", name=verb, exact=True).click()


def test_all_specks_with_one_key_and_each_by_a_click(page: Page):
    expect(page.get_by_role("button", name="Find specks: ")).to_be_visible()
    accessible(page)
    page.locator(".stage").focus()
    page.keyboard.press("f")
    expect(page.get_by_role("button", name="undo:")).to_have_accessible_name(re.compile("undo: Mend "))
    settled(page)
    spots = repairs(page)[0]["spots"]
    assert len(spots) >= 3
    hold(page, "Spot")
    # one that is ringed is left as it is, and taken in again
    at = on_picture(page, spots[0]["x"], spots[0]["y"] * 1.5)
    page.mouse.click(*at)
    undo_says(page, "Leave spot")
    assert not repairs(page)[0]["spots"][0]["on"]
    page.mouse.click(*at)
    undo_says(page, "Mend spot again")
    page.mouse.click(*on_picture(page, 0.5, 0.2))
    undo_says(page, "Mend spot")
    assert len(repairs(page)[0]["spots"]) == len(spots) + 1
    page.keyboard.press("Escape")


def test_the_cable_goes_between_two_clicks(page: Page):
    before = picture(page).astype(int)
    hold(page, "Wire")
    for x, y in ((0.004, 0.43), (0.997, 0.405)):
        page.mouse.click(*on_picture(page, x, y))
    undo_says(page, "Take out wire")
    page.keyboard.press("Escape")
    # nothing is left over the picture that would read as the wire; pointed at, its line says where it was
    traced = page.locator(".stage polyline.ring")
    expect(traced).to_have_count(0)
    page.get_by_role("button", name="Open Wire", exact=False).or_(
        page.get_by_role("button", name="Close Wire", exact=False)
    ).first.hover()
    expect(traced).to_have_count(1)
    page.get_by_role("heading").first.hover()
    expect(traced).to_have_count(0)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    settled(page)
    after = picture(page).astype(int)
    h, w = after.shape[:2]
    band = slice(round(0.40 * h), round(0.47 * h))
    changed = np.abs(after - before)[band].max(2) > 4
    assert changed.any(0)[: w // 2].mean() > 0.9
    # nothing where two clicks find no wire: it is said, and the picture stays
    hold(page, "Wire")
    for x, y in ((0.1, 0.08), (0.4, 0.06)):
        page.mouse.click(*on_picture(page, x, y))
    expect(page.get_by_role("alert")).to_contain_text("No wire was found")
    page.get_by_role("button", name="Dismiss").click()
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")


def test_a_stroke_heals_and_its_other_end_is_dragged(page: Page):
    hold(page, "Heal")
    start = on_picture(page, 0.6, 0.7)
    drag(page, start, (start[0] + 30, start[1] + 6))
    undo_says(page, "Heal")
    page.keyboard.press("Escape")
    one = repairs(page)[-1]
    accessible(page)
    drag_by(page, page.get_by_role("slider", name="Where it is taken from"), 25, 10)
    undo_says(page, "Move source")
    other = repairs(page)[-1]
    assert other["area"] == one["area"]
    assert other["take"] != one["take"]
    # how softly it ends, afterwards
    soft = page.get_by_role("spinbutton", name="Softness of Heal")
    soft.focus()
    for key in "80":
        page.keyboard.press(key)
    page.keyboard.press("Enter")
    undo_says(page, "Softness of Heal")
    assert repairs(page)[-1]["area"]["strokes"][0]["soft"] == 0.8
    page.get_by_role("button", name=re.compile("^undo: ")).click()
    settled(page)
    # by keyboard alone: the end goes where the arrows say
    page.get_by_role("slider", name="Where it is mended").focus()
    page.keyboard.press("ArrowRight")
    undo_says(page, "Move repair")
    moved = repairs(page)[-1]
    assert moved["area"]["strokes"][0]["points"][0] > other["area"]["strokes"][0]["points"][0]
    assert moved["take"]["dx"] == pytest.approx(other["take"]["dx"], abs=1e-6)
    # closed in the ledger, it opens where it lies; beside it the picture is carried
    lines = page.get_by_role("slider", name="Where it is mended")
    page.get_by_role("button", name=re.compile("^Close .*Heal")).click()
    expect(lines).to_have_count(0)
    page.mouse.click(start[0] + 15, start[1] + 3)
    expect(lines).to_have_count(1)


def test_a_place_is_cloned_from_where_its_other_end_is_dragged(page: Page):
    before = picture(page).astype(int)
    hold(page, "Clone")
    start = on_picture(page, 0.45, 0.85)
    drag(page, start, (start[0] + 24, start[1] + 4))
    undo_says(page, "Clone")
    page.keyboard.press("Escape")
    assert repairs(page)[-1]["kind"] == "clone"
    # from the sky: the place is as light as that
    x, y = on_picture(page, 0.45, 0.1)
    handle = page.get_by_role("slider", name="Where it is taken from").bounding_box()
    at = (handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2)
    drag(page, at, (x, y))
    undo_says(page, "Move source")
    after = picture(page).astype(int)
    h, w = before.shape[:2]
    here = (slice(round(0.847 * h), round(0.853 * h)), slice(round(0.455 * w), round(0.47 * w)))
    assert after[here].mean() > before[here].mean() + 40
    for _ in range(2):
        page.get_by_role("button", name=re.compile("^undo: ")).click()
        settled(page)


def test_it_is_refocused_and_latched_to_what_is_stretched(page: Page):
    """Finer by as much as is dragged; where nothing is stretched, nowhere once it is latched to that."""
    page.get_by_role("button", name="100 %").click()
    settled(page)
    before = picture(page).astype(float)
    page.locator(".sentence", has_text="Refocus").click()
    drag_by(page, page.get_by_role("spinbutton", name="How much", exact=True), 120)
    undo_says(page, "How much")
    sharp = picture(page).astype(float)

    def fine(shown):
        return np.abs(shown - cv2.GaussianBlur(shown, (0, 0), 1.5)).mean()

    assert fine(sharp) > 1.05 * fine(before)
    page.get_by_role("button", name="Only where the picture is stretched").click()
    undo_says(page, "Refocus stretched parts")
    expect(page.get_by_role("status").filter(has_text="Nothing is stretched")).to_be_visible()
    assert np.abs(picture(page) - before).mean() < 0.3 * np.abs(sharp - before).mean()
    for _ in range(2):
        page.get_by_role("button", name=re.compile("^undo: ")).click()
        settled(page)
    page.get_by_role("button", name="Whole").click()
    settled(page)


def test_a_stroke_shows_while_it_is_drawn_and_escape_leaves_nothing(page: Page):
    before, saved = picture(page).astype(int), repairs(page)
    hold(page, "Heal")
    start = on_picture(page, 0.3, 0.75)
    h, w = before.shape[:2]
    box = (slice(round(0.68 * h), round(0.82 * h)), slice(round(0.25 * w), round(0.45 * w)))
    page.mouse.move(*start)
    page.mouse.down()
    changed = 0.0
    for n in range(60):  # the button stays down all the while
        page.mouse.move(start[0] + 20 + 3 * (n % 20), start[1] + n % 5)
        page.wait_for_timeout(100)
        changed = float(np.abs(picture(page).astype(int) - before)[box].max())
        if changed > 12:
            break
    assert changed > 12
    assert repairs(page) == saved
    page.keyboard.press("Escape")
    page.mouse.up()
    settled(page)
    assert repairs(page) == saved
    assert np.abs(picture(page).astype(int) - before)[box].max() <= 3
    page.keyboard.press("Escape")


def outline(page: Page, x: float, y: float, px: int = 34) -> None:
    at = on_picture(page, x, y)
    page.mouse.move(*at)
    page.mouse.down()
    for dx, dy in ((px, -px // 3), (2 * px, 0), (2 * px, px), (px, px + 12), (0, px)):
        page.mouse.move(at[0] + dx, at[1] + dy, steps=4)
    page.mouse.up()


def test_an_outline_is_regrown_from_three_proposals(page: Page):
    hold(page, "Regrow")
    outline(page, 0.5, 0.8)
    undo_says(page, "Regrow")
    page.keyboard.press("Escape")
    proposals = page.get_by_role("group", name="Proposals").get_by_role("button")
    expect(proposals).to_have_count(4)  # and "Try again"
    first = picture(page).astype(int)
    proposals.nth(2).click()
    undo_says(page, "Choose other proposal")
    assert np.abs(picture(page).astype(int) - first).max() > 3
    accessible(page)
    # never from the ground beside it, then from a place of its own, then from everywhere again
    regrown = repairs(page)[-1]
    choose(page, "What it must not be grown from", "a place I outline …")
    expect(page.get_by_text("Outline what it must not be grown from.")).to_be_visible()
    outline(page, 0.62, 0.78, 60)
    undo_says(page, "Never grow from there")
    limited = repairs(page)[-1]
    assert limited["map"] != regrown["map"]
    assert len(limited["spared"]["outline"]) > 6
    expect(page.get_by_text("never from here")).to_be_visible()
    accessible(page)
    choose(page, "What it may be grown from", "a place I outline …")
    outline(page, 0.2, 0.75, 60)
    undo_says(page, "Grow only from there")
    expect(page.get_by_text("from here", exact=True)).to_be_visible()
    assert repairs(page)[-1]["spared"] == limited["spared"]
    choose(page, "What it may be grown from", "everywhere around")
    undo_says(page, "Grow from everywhere")
    assert repairs(page)[-1]["source"] is None
    assert repairs(page)[-1]["map"] == limited["map"]
    expect(page.get_by_text("from here", exact=True)).to_be_hidden()
    # closer, one comes to the place that is open
    page.get_by_role("button", name="100 %").click()
    settled(page)
    stage, ring = (page.locator(s).first.bounding_box() for s in (".stage", "polygon.ring"))
    assert ring["x"] + ring["width"] / 2 == pytest.approx(stage["x"] + stage["width"] / 2, abs=3)
    assert stage["y"] < ring["y"] < ring["y"] + ring["height"] < stage["y"] + stage["height"]
    page.get_by_role("button", name="Whole").click()
    settled(page)


def test_an_empty_corner_is_outlined_and_filled(page: Page):
    """Turned, with its corners shown; one is filled, and the picture beside it stays."""
    path = page.get_by_role("navigation", name="The path")
    path.get_by_role("link", name="Ground").click()
    settled(page)
    page.locator(".sentence", has_text="Trim").click()
    drag_by(page, page.get_by_role("spinbutton", name="Level", exact=True), 400)
    page.get_by_text("Show empty corners").click()
    settled(page)
    path.get_by_role("link", name="Mend").click()
    settled(page)
    before = picture(page).astype(int)
    h, w = before.shape[:2]
    corner = (slice(h - 12, h - 2), slice(w - 12, w - 2))
    nothing = next(c for c in (corner, (corner[0], slice(2, 12))) if set(np.unique(before[c])) <= {122, 134})
    right = nothing[1].start > w // 2
    hold(page, "Regrow")
    points = [(0.7, 0.9), (0.97, 0.6), (0.999, 0.6), (0.999, 0.999), (0.7, 0.999)]
    places = [on_picture(page, x if right else 1 - x, y) for x, y in points]
    page.mouse.move(*places[0])
    page.mouse.down()
    for place in places[1:]:
        page.mouse.move(*place, steps=6)
    page.mouse.up()
    undo_says(page, "Regrow")
    after = picture(page).astype(int)
    assert np.isin(after[nothing], (122, 134)).mean() < 0.2
    middle = (slice(h // 4, h // 2), slice(w // 4, w // 2))
    assert np.abs(after - before)[middle].max() <= 3
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^undo: ")).click()
    settled(page)
    # and all of them at once
    page.get_by_role("button", name="Fill the empty corners").click()
    undo_says(page, "Regrow")
    settled(page)
    filled = picture(page).astype(int)
    assert np.isin(filled[nothing], (122, 134)).mean() < 0.2
    assert np.abs(filled - before)[middle].max() <= 3
    expect(page.get_by_role("button", name="Fill the empty corners")).to_be_hidden()
    page.keyboard.press("Escape")
    for _ in range(3):
        page.get_by_role("button", name=re.compile("^undo: ")).click()
        settled(page)


def test_a_thing_is_hidden_for_a_look(page: Page):
    count = len(repairs(page))
    before = picture(page).astype(int)
    hold(page, "Hide")
    outline(page, 0.68, 0.55)
    expect(page.get_by_text("Preview without it.")).to_be_visible()
    page.wait_for_timeout(800)
    expect(page.locator(".stage")).to_have_attribute("data-state", "current")
    assert np.abs(picture(page).astype(int) - before).max() > 6
    assert len(repairs(page)) == count  # nothing was written
    page.get_by_role("button", name="Restore").click()
    page.keyboard.press("Escape")
    settled(page)
    assert np.abs(picture(page).astype(int) - before).mean() < 0.6


def test_repairs_are_lines_and_follow_what_comes_later(page: Page):
    lines = page.get_by_role("list", name="Repairs").get_by_role("listitem")
    count = lines.count()
    assert count == len(repairs(page))
    page.keyboard.press("Escape")
    page.keyboard.press("k")
    settled(page)
    grey = picture(page).astype(int)
    assert np.ptp(grey, axis=2).mean() < 6
    accessible(page)
    page.keyboard.press("k")
    # the band is told at Light in a sentence, and the crop moves nothing off its thing
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Light").click()
    settled(page)
    expect(page.get_by_role("region", name="Ledger").get_by_text("Wire").first).to_be_visible()
    mended = picture(page).astype(int)
    page.keyboard.down("3")
    settled(page)
    assert np.abs(picture(page).astype(int) - mended).max() > 6
    page.keyboard.up("3")
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Mend").click()
    settled(page)
    lines.last.get_by_role("button", name="Open").click()
    page.get_by_role("button", name="Remove", exact=True).click()
    settled(page)
    assert len(repairs(page)) == count - 1


def shapes(page: Page) -> list[dict]:
    return saved_document(page.url)["shapes"]


def test_a_foreground_is_pulled_nearer_a_line_made_straight_and_a_place_nudged(page: Page):
    before = picture(page).astype(int)
    h = before.shape[0]
    hold(page, "Enlarge")
    places = [(0.003, 0.7), (0.5, 0.72), (0.997, 0.7), (0.997, 0.995), (0.5, 0.995), (0.003, 0.995)]
    first, *rest = [on_picture(page, x, y) for x, y in places]
    page.mouse.move(*first)
    page.mouse.down()
    for to in rest:
        page.mouse.move(*to, steps=5)
    page.mouse.up()
    undo_says(page, "Enlarge foreground")
    page.keyboard.press("Escape")
    pulled = picture(page).astype(int)
    assert pulled.shape == before.shape
    assert np.abs(pulled - before)[round(0.9 * h) :].mean() > 4
    assert np.abs(pulled - before)[: h // 2].mean() < 0.6
    page.get_by_text("Show how far each part is stretched").click()
    assert page.locator(".grid text").count() > 3
    accessible(page)
    page.get_by_text("Show how far each part is stretched").click()
    # a line, place by place: it is straight from the third on, and its places are handles
    hold(page, "Straighten")
    for x, y in ((0.1, 0.42), (0.5, 0.45), (0.9, 0.42)):
        page.mouse.click(*on_picture(page, x, y))
        settled(page)
    undo_says(page, "Straighten line")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    (one,) = shapes(page)
    assert len(one["lines"][0]["points"]) == 6
    ys = [page.get_by_role("slider", name=f"Line 1, place {n};").bounding_box()["y"] for n in (1, 2, 3)]
    assert np.ptp(ys) < 2
    drag_by(page, page.get_by_role("slider", name="Line 1, place 2;"), 0, 8)
    undo_says(page, "Move line")
    # the brush: what is dragged goes along, while it is dragged
    hold(page, "Nudge")
    choose(page, "What the brush does", "push")
    start = picture(page).astype(int)
    x, y = on_picture(page, 0.3, 0.8)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 40, y, steps=8)
    page.wait_for_timeout(1500)
    assert len(shapes(page)) == 1  # nothing is saved yet
    page.mouse.up()
    undo_says(page, "Push")
    assert np.abs(picture(page).astype(int) - start).max() > 10
    page.keyboard.press("Escape")
    lines = page.get_by_role("list", name="Shape").get_by_role("listitem")
    expect(lines).to_have_count(2)
    for _ in range(2):
        opened = lines.first.get_by_role("button", name="Open")
        if opened.count():
            opened.click()
        page.get_by_role("button", name="Remove", exact=True).click()
        settled(page)
    assert shapes(page) == []
    assert np.abs(picture(page).astype(int) - before).mean() < 0.6


def test_a_place_is_pinned_and_carried_and_a_grid_laid(page: Page):
    """What is carried lies where it was let go; what is held beside it stays; pins are handles, and go one by one."""
    had = len(shapes(page))
    hold(page, "Pin")
    for x in (0.3, 0.7):
        page.mouse.click(*on_picture(page, x, 0.7))
        undo_says(page, "Fix point")
    before = picture(page).astype(int)
    start = on_picture(page, 0.5, 0.6)
    drag(page, start, (start[0] + 18, start[1] + 6))
    undo_says(page, "Drag point")
    page.keyboard.press("Escape")
    carried = picture(page).astype(int)
    h, w = before.shape[:2]
    near, held = (
        np.s_[round(0.55 * h) : round(0.65 * h), round(a * w) : round(b * w)]
        for a, b in ((0.46, 0.54), (0.0, 0.06))
    )
    assert np.abs(carried - before)[near].mean() > 4 * max(np.abs(carried - before)[held].mean(), 0.2)
    line = shapes(page)[-1]
    assert len(shapes(page)) == had + 1
    assert [bool(p["dx"]) for p in line["pins"]] == [False, False, True]
    assert line["pins"][2]["dx"] == pytest.approx(18 / w, abs=0.2 / w)
    # the handle lies where the place was carried to; the arrows carry it farther
    pin = page.get_by_role("slider", name="Pin 3;")
    box = pin.bounding_box()
    assert box["x"] + box["width"] / 2 == pytest.approx(start[0] + 18, abs=2)
    pin.focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    undo_says(page, "Move pin")
    assert shapes(page)[-1]["pins"][2]["dx"] > line["pins"][2]["dx"]
    accessible(page)
    pin.focus()
    page.keyboard.press("Delete")
    undo_says(page, "Remove pin")
    assert len(shapes(page)[-1]["pins"]) == 2
    page.get_by_role("button", name="Add a grid of pins").click()
    undo_says(page, "Add grid of pins")
    assert len(shapes(page)[-1]["pins"]) > 12
    page.get_by_role("button", name="Remove", exact=True).click()
    settled(page)
    assert len(shapes(page)) == had


def test_a_sky_is_brought_carried_and_made_a_file(page: Page, tmp_path):
    before = picture(page).astype(int)
    page.get_by_role("button", name="Bring a sky from another frame").click()
    expect(page.get_by_role("region", name="Skies")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Sky of sky-1")).click()
    undo_says(page, "New sky")
    accessible(page)
    after = picture(page).astype(int)
    h = after.shape[0]
    assert np.abs(after - before)[: h // 3].mean() > 10
    page.get_by_role("button", name="Move sky").click()
    x, y = on_picture(page, 0.5, 0.2)
    drag(page, (x, y), (x + 120, y - 10))
    undo_says(page, "Move sky")
    # it ends within its place now: that is said, with what would help
    rows = page.get_by_role("list", name="Belongs")
    expect(rows).to_contain_text("uncovered")
    rows.get_by_role("button", name="Enlarge it").click()
    undo_says(page, "Sky: Enlarge it")
    page.keyboard.press("Escape")
    # its frame has no scene of its own yet: that is said
    page.get_by_role("button", name="Copy edits from its own scene").click()
    expect(page.get_by_role("alert")).to_contain_text("has no scene of its own yet")
    page.get_by_role("button", name="Dismiss").click()
    # the land follows
    relight = page.get_by_role("spinbutton", name="Relight")
    land = picture(page).astype(int)[round(0.8 * h) :]
    drag_by(page, relight, 240)
    undo_says(page, "Relight of the new sky")
    assert np.abs(picture(page).astype(int)[round(0.8 * h) :] - land).mean() > 0.5
    page.get_by_role("button", name="Export", exact=True).click()
    page.get_by_role("region", name="Export").get_by_role("button", name="Export", exact=True).click()
    link = page.get_by_role("link", name="Save heath.tif")
    expect(link).to_be_visible()
    with page.expect_download() as download:
        link.click()
    download.value.save_as(tmp_path / "heath.tif")
    file = tifffile.imread(tmp_path / "heath.tif")
    assert file.shape[:2] == (800, 1200)
    shown = picture(page)
    small = cv2.resize(file, shown.shape[1::-1], interpolation=cv2.INTER_AREA).astype(float) / 257
    assert np.abs(small[: h // 3].mean((0, 1)) - shown[: h // 3].mean((0, 1))).max() < 12
