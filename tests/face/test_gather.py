"""Gather with pointer and keyboard: groups, heaps, side by side, the field camera, a folder."""

import re

import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import OUTING
from tests.coast import shoot
from tests.face.hands import accessible, begin_scene, choose, gathered, pick, settled
from tests.face.running import chromium

WANTED = ("twin", "sweep", "pool", "path")


@pytest.fixture(scope="module")
def roll(tmp_path_factory):
    """The outing's twin, sweep and two singles, small."""
    folder = tmp_path_factory.mktemp("roll")
    for shot in OUTING:
        if shot.name.startswith(WANTED):
            shoot(smaller(shot, 1200), folder / f"{shot.name}.dng")
    return folder


@pytest.fixture(scope="module")
def gather(roll, with_frames):
    """A studio of its own with the roll in it, and a page signed in."""
    with chromium() as browser:
        running = with_frames(roll)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(running.link)
        yield page


@pytest.fixture
def page(gather: Page):
    """Gather as it opens."""
    gather.goto(re.split("/light|/ground|/outing", gather.url)[0])
    gather.locator(".tile img").first.wait_for()
    gathered(gather)
    return gather


def test_groups_stand_together(page: Page):
    expect(page.get_by_role("region", name="Dark and bright pair").locator(".tile")).to_have_count(2)
    expect(page.get_by_role("region", name="Sweep of 5").locator(".tile")).to_have_count(5)
    expect(page.get_by_text("clipped")).not_to_have_count(0)
    accessible(page)


def test_sorting_by_keyboard(page: Page):
    """Arrows go from frame to frame, letters put them on heaps, heaps can be looked at alone."""
    first, second = page.locator(".tile").nth(0), page.locator(".tile").nth(1)
    first.locator(".look").focus()
    page.keyboard.press("l")
    expect(first.locator(".heap")).to_have_text("Leave")
    page.keyboard.press("ArrowRight")
    expect(second.locator(".look")).to_be_focused()
    page.keyboard.press("e")
    expect(second.locator(".heap")).to_have_text("Evening")
    page.get_by_role("button", name="Leave 1").click()
    expect(page.locator(".tile")).to_have_count(1)
    page.get_by_role("button", name=re.compile("^All ")).click()
    page.reload()
    expect(page.locator(".tile").nth(1).locator(".heap")).to_have_text("Evening")
    page.locator(".tile .look").nth(1).focus()
    page.keyboard.press("u")
    expect(page.locator(".tile").nth(1).locator(".heap")).to_have_count(0)


def test_one_frame_large_and_at_full_size(page: Page):
    page.locator(".tile .look").first.focus()
    page.keyboard.press("Enter")
    large = page.get_by_role("region", name="Frames large").locator("img")
    expect(large).to_have_count(1)
    page.keyboard.press("r")
    expect(large).to_have_attribute("src", re.compile(r"/place\?"))
    name = large.get_attribute("alt")
    page.keyboard.press("ArrowRight")
    expect(large).not_to_have_attribute("alt", name)
    page.keyboard.press("Escape")
    expect(page.locator(".tile").first).to_be_visible()


def test_side_by_side_on_the_same_spot(page: Page):
    """Both panes show the same place, move together, and a click orders them by sharpness."""
    pick(page, page.get_by_role("button", name="Dark and bright pair: more"), "Compare")
    panes = page.get_by_role("region", name="Frames large").locator("img")
    expect(panes).to_have_count(2)
    gathered(page)
    spots = [panes.nth(n).get_attribute("src").split("?")[1] for n in range(2)]
    assert spots[0] == spots[1]
    box = panes.nth(0).bounding_box()
    page.mouse.move(box["x"] + 200, box["y"] + 200)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 170, steps=4)
    page.mouse.up()
    moved = [panes.nth(n).get_attribute("src").split("?")[1] for n in range(2)]
    assert moved[0] == moved[1] != spots[0]
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.7)
    expect(page.get_by_text("sharpest here")).to_have_count(1)
    accessible(page)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    expect(page.get_by_role("group", name="Selected frames")).to_have_count(0)


def test_regrouping_by_hand(page: Page):
    pick(page, page.get_by_role("button", name="Dark and bright pair: more"), "Ungroup")
    expect(page.get_by_role("region", name="Dark and bright pair")).to_have_count(0)
    page.get_by_label("Select twin-dark.dng").check()
    page.get_by_label("Select twin-bright.dng").check()
    pick(page, page.get_by_role("button", name="Group as"), "Dark and bright pair")
    expect(page.get_by_role("region", name="Dark and bright pair").locator(".tile")).to_have_count(2)


def test_the_field_camera_is_released_and_frames_arrive(page: Page):
    """Connect, look, change the light, release; the frame arrives while the rest stays usable."""
    before = page.locator(".tile").count()
    page.get_by_role("button", name="Field camera").click()
    finder = page.locator(".finder")
    expect(finder.locator("img")).to_be_visible()
    expect(finder).to_have_attribute("aria-busy", "false")
    seen = finder.locator("img").get_attribute("src")
    choose(page, "Light", "Sundown")
    expect(finder.locator("img")).not_to_have_attribute("src", seen)
    accessible(page)
    # what cannot be set is said, and put right
    page.get_by_label("Focal length").fill("900")
    expect(page.get_by_role("alert")).to_contain_text("focal length of 900 mm")
    expect(page.get_by_role("button", name="Release")).to_be_disabled()
    page.get_by_label("Focal length").fill("30")
    expect(page.get_by_role("button", name="Release")).to_be_enabled()
    page.get_by_role("button", name="Release").click()
    # the table can be used meanwhile
    page.locator(".tile .look").first.focus()
    page.keyboard.press("m")
    expect(page.locator(".tile").first.locator(".heap")).to_have_text("Maybe")
    expect(page.get_by_text("1 frame has arrived.")).to_be_visible()
    expect(page.locator(".tile")).to_have_count(before + 1)
    page.get_by_role("button", name="Disconnect").click()
    expect(page.get_by_role("complementary", name="Field camera")).to_have_count(0)


def test_a_folder_that_may_not_be_read_is_said(page: Page):
    page.get_by_role("button", name="Add a folder").click()
    page.get_by_label("Folder on the server").fill("/etc")
    page.get_by_role("button", name="Copy frames from this folder").click()
    expect(page.get_by_role("alert")).to_contain_text("/etc may not be read from here")


def test_a_frame_opens_as_a_scene(page: Page):
    begin_scene(page, "sweep-3")
    expect(page).to_have_url(re.compile(r"/ground/"))
    expect(page.locator(".stage")).to_have_attribute("data-state", "current")


def test_names_are_given_and_taken_back(page: Page):
    pick(page, page.get_by_role("button", name="Outing menu"), "Rename outing")
    field = page.get_by_label(re.compile("New name of outing"))
    expect(field).to_be_focused()
    before = field.input_value()
    field.fill("Heath and coast")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_have_text("Heath and coast")
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("heading", level=1)).to_have_text(before)
    page.locator(".tile .look").first.focus()
    page.keyboard.press("F2")
    page.get_by_label(re.compile("New name of frame")).fill("the keeper")
    page.keyboard.press("Enter")
    expect(page.get_by_text("the keeper", exact=True)).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_text("the keeper", exact=True)).to_have_count(0)


def test_the_outing_is_in_the_address_and_come_back_to(page: Page):
    """A new outing asks its name; from a scene of the old one the path leads back to the old one."""
    old = page.get_by_role("heading", level=1).inner_text()
    pick(page, page.get_by_role("button", name="Outing menu"), "New outing")
    page.get_by_label("Name of the outing").fill("Another trip")
    page.get_by_role("button", name="Create").click()
    expect(page).to_have_url(re.compile("/outing/"))
    expect(page.get_by_role("heading", level=1)).to_have_text("Another trip")
    expect(page.get_by_text("Gather is where")).to_be_visible()
    choose(page, "Outing", old)
    expect(page.get_by_role("heading", level=1)).to_have_text(old)
    begin_scene(page, "path")
    expect(page.locator(".stage")).to_have_attribute("data-state", "current")
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Gather").click()
    expect(page.get_by_role("heading", level=1)).to_have_text(old)
    page.reload()
    expect(page.get_by_role("heading", level=1)).to_have_text(old)
    choose(page, "Outing", "Another trip")
    expect(page.get_by_role("heading", level=1)).to_have_text("Another trip")
    pick(page, page.get_by_role("button", name="Outing menu"), "Remove outing")
    expect(page.get_by_role("heading", level=1)).to_have_text(old)


def test_the_same_file_can_be_brought_in_twice_and_a_slow_one_stopped(page: Page, roll):
    chosen = page.get_by_label("Files to add")
    before = page.locator(".tile").count()
    page.route("**/frames?name=*", lambda route: route.abort())
    for _ in range(2):
        with page.expect_file_chooser() as opened:
            page.get_by_role("button", name="Add frames").click()
        opened.value.set_files(roll / "path.dng")
        expect(page.get_by_role("alert")).to_contain_text("did not arrive")
        page.get_by_role("button", name="Dismiss").click()
        expect(page.get_by_role("alert")).to_have_count(0)
    page.unroute("**/frames?name=*")
    page.route("**/frames?name=*", lambda route: None)  # neither sent nor refused
    chosen.set_input_files([roll / "path.dng", roll / "pool.dng"])
    expect(page.get_by_text("1 more to come")).to_be_visible()
    page.get_by_role("button", name="Stop all").click()
    expect(page.locator(".arrivals")).to_have_count(0)
    page.unroute("**/frames?name=*")
    expect(page.locator(".tile")).to_have_count(before)


def test_a_file_goes_on_being_made_when_its_panel_is_closed(page: Page):
    begin_scene(page, "path")
    settled(page)
    page.keyboard.press("o")
    page.get_by_role("region", name="Export").get_by_role("button", name="Export", exact=True).click()
    page.get_by_role("button", name="Close export").click()
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Gather").click()
    expect(page).to_have_url(re.compile("/outing/"))
    page.get_by_role("button", name=re.compile("^Tray")).click()
    tray = page.get_by_role("region", name="Tray")
    file = tray.get_by_role("link", name=re.compile(r"path.*\.tif")).first
    expect(file).to_be_visible()
    accessible(page)
    with page.expect_download() as saved:
        file.click()
    assert saved.value.suggested_filename.endswith(".tif")
    page.keyboard.press("Escape")
    expect(tray).to_have_count(0)
