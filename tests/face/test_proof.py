"""Proof in the browser: a frame just made, from the wall to the file, by pointer and by keys."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import find
from tests.coast import shoot
from tests.face.hands import accessible, begin_scene, drag, picture, settled
from tests.face.running import chromium


@pytest.fixture(scope="module")
def started(tmp_path_factory, with_frames):
    """A studio with one frame, and a browser signed in."""
    folder = tmp_path_factory.mktemp("proof")
    shoot(smaller(find("stack-backlit"), 1200), folder / "stack-backlit.dng")
    with chromium() as browser:
        running = with_frames(folder)
        context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
        page = context.new_page()
        page.goto(running.link)
        page.wait_for_url(f"{running.url}/")
        page.close()
        yield running.url, context


@pytest.fixture
def page(started):
    """A new scene of it, at Proof."""
    url, context = started
    made = context.new_page()
    errors: list[str] = []
    made.on("pageerror", lambda error: errors.append(str(error)))
    made.goto(url)
    begin_scene(made, "stack-backlit")
    settled(made)
    made.get_by_role("navigation", name="The path").get_by_role("link", name="Proof").click()
    settled(made)
    yield made
    made.close()
    assert not errors, errors


def _on(page: Page, paper: str) -> None:
    """Proof on a paper of the press."""
    page.get_by_role("button", name="Add a paper").click()
    page.get_by_role("menuitem", name=paper).click()
    expect(page.get_by_role("complementary", name="Ladder")).to_contain_text("On this paper")
    settled(page)


def test_the_paper_shows_before_the_money_is_spent(page: Page):
    expect(page.get_by_role("region", name="Proof")).to_contain_text("Choose a paper")
    screen = picture(page).astype(int)
    _on(page, "Matte cotton")
    paper = picture(page).astype(int)
    assert paper.min() > screen.min() + 20  # its ink is no black
    expect(page.get_by_role("img", name="A sheet of Matte cotton")).to_be_visible()
    accessible(page)
    page.get_by_role("button", name="On the screen").click()
    settled(page)
    assert picture(page).min() < 20
    page.get_by_role("button", name="Out of gamut").click()
    settled(page)
    marked = picture(page).astype(int)
    assert (np.ptp(marked, axis=2) < 4).mean() > 0.3  # what is held is grey
    page.get_by_role("button", name="On paper").click()
    # the border takes its place from the picture, and everything can be undone
    border = page.get_by_role("spinbutton", name="Paper: Border")
    border.focus()
    size = page.get_by_text(re.compile(r"The picture is \d+ mm"))
    before = size.inner_text()
    page.keyboard.press("ArrowUp")
    settled(page)
    expect(size).not_to_have_text(before)
    page.keyboard.press("Control+z")
    expect(size).to_have_text(before)


def test_a_line_for_the_paper_leaves_the_scene_alone(page: Page):
    _on(page, "Lustre")
    plain = picture(page).astype(float).mean()
    page.get_by_role("button", name="Test strip").click()
    strip = page.get_by_role("region", name="Test strip")
    expect(strip.get_by_role("button", name="Take as it is")).to_be_visible()
    expect(strip.get_by_role("button", name=re.compile("^Take"))).to_have_count(5)
    accessible(page)
    strip.get_by_role("button", name="Take Exposure +0.5 stops").click()
    settled(page)
    assert picture(page).mean() > plain + 4
    expect(page.get_by_role("region", name="Proof")).to_contain_text("Exposure +0.5 stops")
    path = page.get_by_role("navigation", name="The path")
    expect(path.get_by_role("link", name=re.compile("Light"))).to_be_visible()
    expect(path).to_contain_text("0 moves")


def test_keeps_are_compared_by_pointer_and_by_keys(page: Page):
    page.get_by_role("navigation", name="The path").get_by_role("link", name=re.compile("Light")).click()
    settled(page)
    page.keyboard.press("a")  # keep it
    page.get_by_label("Type an edit").fill("burn 1.2")
    page.keyboard.press("Enter")
    settled(page)
    page.keyboard.press("Escape")
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Proof").click()
    settled(page)
    page.get_by_role("button", name="Compare with Keep 1").click()
    line = page.get_by_role("slider", name="Where the split lies")
    expect(line).to_be_visible()
    box = line.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + 300
    drag(page, (x, y), (x + 150, y))
    assert int(line.get_attribute("aria-valuenow") or 0) > 60
    line.press("ArrowLeft")
    accessible(page)
    page.get_by_role("button", name="What changed").click()
    expect(page.get_by_role("list", name="What changed")).to_contain_text("Added: Exposure")
    expect(page.get_by_role("complementary", name="Ladder")).to_contain_text("Keep 1")
    page.keyboard.press("Escape")
    expect(line).to_be_hidden()
    # and gone back to, as one more step
    page.get_by_role("button", name="Keep 1: go back, rename, remove").click()
    page.get_by_role("menuitem", name="Go back to it").click()
    expect(page.get_by_role("button", name="undo: Back to Keep 1")).to_be_visible()
    settled(page)
    expect(page.get_by_role("navigation", name="The path")).to_contain_text("0 moves")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("navigation", name="The path")).to_contain_text("1 move")


@pytest.mark.parametrize("way", ["Side by side", "Blink", "Difference in stops"])
def test_two_states_are_looked_at_in_other_ways(page: Page, way: str):
    page.get_by_role("button", name="Compare", exact=False).first.click()
    page.get_by_role("menuitem", name=way).click()
    expect(page.get_by_role("toolbar", name="Compare")).to_be_visible()
    shown = page.locator(".pair .stage")
    expect(shown).to_have_count({"Side by side": 2, "Blink": 2, "Difference in stops": 1}[way])
    page.get_by_role("toolbar", name="Compare").get_by_role("button", name="Close").click()
    settled(page)


def test_preflight_leads_to_what_it_names(page: Page):
    _on(page, "Matte cotton")
    page.get_by_role("button", name="Preflight").click()
    side = page.get_by_role("region", name="Proof")
    expect(side).to_contain_text("to look at")
    expect(side).to_contain_text("ppi")  # 1200 px on half a metre
    side.get_by_role("button", name=re.compile(r"Print it \d+ mm wide")).click()
    settled(page)
    expect(side).to_contain_text("out of date")
    page.get_by_role("button", name="Preflight").click()
    expect(side).to_contain_text("enough from 60 cm")
    accessible(page)


def test_checks_have_a_sheet(page: Page):
    page.get_by_role("button", name="More checks").click()
    page.get_by_role("menuitem", name="All checks on one sheet").click()
    sheet = page.get_by_role("region", name="All checks")
    expect(sheet.locator("img")).to_have_count(sheet.get_by_role("button").count())
    accessible(page)
    sheet.get_by_role("button", name="Look through Turn").click()
    settled(page)
    page.keyboard.press("Escape")
    settled(page)


def test_a_file_for_the_paper_and_a_sheet_from_the_press(page: Page, tmp_path):
    import tifffile

    _on(page, "Metallic")
    page.keyboard.press("o")
    panel = page.get_by_role("region", name="Export")
    expect(panel).to_contain_text("The paper's profile")
    panel.get_by_text("Name, caption, copyright").click()
    panel.get_by_label("Caption").fill("Dusk at the stack")
    expect(panel.get_by_role("list", name="What the file will say")).to_contain_text("Dusk at the stack")
    accessible(page)
    panel.get_by_role("button", name="Export", exact=True).click()
    link = panel.get_by_role("link", name=re.compile("Save "))
    expect(link).to_be_visible(timeout=90_000)
    with page.expect_download() as download:
        link.click()
    download.value.save_as(tmp_path / "a.tif")
    with tifffile.TiffFile(tmp_path / "a.tif") as file:
        assert b"Metallic" in file.pages[0].tags["InterColorProfile"].value[:2000]
        assert file.pages[0].tags["ImageDescription"].value == "Dusk at the stack"
    page.get_by_role("button", name="Close export").click()
    page.get_by_role("button", name="Press", exact=True).click()
    page.get_by_role("button", name=re.compile("^Tray")).click()
    tray = page.get_by_role("region", name="Tray")
    expect(tray.get_by_role("link", name=re.compile("measured off the sheet"))).to_be_visible(timeout=90_000)


def test_a_profile_that_is_none_is_said(page: Page):
    chooser = page.get_by_label("A profile")
    chooser.set_input_files(
        {"name": "x.icc", "mimeType": "application/octet-stream", "buffer": b"no profile"}
    )
    expect(page.get_by_role("alert")).to_contain_text("no ICC profile")
