"""The first ten minutes, by what can be seen: roles and names only, no key, no tooltip, nothing known of the program."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import find
from tests.coast import shoot
from tests.face.hands import accessible, drag, on_picture, picture, settled
from tests.face.running import PATIENT, chromium, photographer


@pytest.fixture(scope="module")
def frame(tmp_path_factory):
    """A frame on somebody's disk."""
    path = tmp_path_factory.mktemp("card") / "stack-backlit.dng"
    (path.parent / "none").mkdir()
    shoot(smaller(find("stack-backlit"), 1200), path)
    return path


def walked(frame, running, **context) -> None:
    """Bring a frame in, start, hold the sky, darken it, mend a spot, make a file."""
    with chromium() as browser:
        running = photographer(running, frame.parent / "none", "first")
        page = browser.new_context(accept_downloads=True, **context).new_page()
        errors: list[str] = []
        page.on("pageerror", lambda e: errors.append(str(e)))
        page.goto(running.link)
        _gather(page, frame)
        _start(page)
        _sky(page)
        _spot(page)
        _file(page)
        assert not errors, errors


def _gather(page: Page, frame) -> None:
    # an empty table says what it is for, and one thing is filled: the first step
    expect(page.get_by_text("Gather is where the frames of one trip lie side by side")).to_be_visible()
    with page.expect_file_chooser() as opened:
        page.get_by_role("button", name="Add frames").click()
    opened.value.set_files(frame)
    page.get_by_role("button", name="Look at stack-backlit.dng").hover()
    page.get_by_role("button", name="New scene from stack-backlit.dng").click()
    settled(page)
    expect(page).to_have_title("stack-backlit, Ground · Sun Latch")


def _start(page: Page) -> None:
    page.get_by_role("button", name="Start for me").click()
    expect(page.get_by_role("button", name="undo: Start for me")).to_be_visible()
    settled(page)
    page.get_by_role("link", name="Light").click()
    settled(page)


def _sky(page: Page) -> None:
    # what to do first stands where one would look
    expect(page.get_by_text("Hold the sky first")).to_be_visible()
    before = picture(page).astype(float)
    page.get_by_role("button", name="Hold the sky").click()
    settled(page)
    page.get_by_role("button", name="Edit what it holds").click()
    page.get_by_role("menuitem", name=re.compile("^Exposure")).click()
    number = page.get_by_role("spinbutton", name="Exposure on Sky: Exposure")
    number.click()
    field = page.get_by_role("textbox", name="Exposure on Sky: Exposure")
    field.fill("-1.2")
    field.press("Enter")
    settled(page)
    after = picture(page).astype(float)
    h = len(before)
    assert after[: h // 5].mean() < 0.8 * before[: h // 5].mean()
    assert np.abs(after - before)[-h // 8 :].mean() < 3
    accessible(page)


def _spot(page: Page) -> None:
    page.get_by_role("link", name="Mend").click()
    settled(page)
    page.get_by_role("button", name="Heal", exact=True).click()
    x, y = on_picture(page, 0.3, 0.2)
    drag(page, (x, y), (x + 14, y + 3))
    expect(page.get_by_role("button", name="undo: Heal")).to_be_visible()
    settled(page)


def _file(page: Page) -> None:
    page.get_by_role("button", name="Export", exact=True).click()
    panel = page.get_by_role("region", name="Export")
    panel.get_by_role("button", name="Export", exact=True).click()
    file = panel.get_by_role("link", name=re.compile("^Save stack-backlit"))
    expect(file).to_be_visible(timeout=PATIENT)
    with page.expect_download() as made:
        file.click()
    assert made.value.path().stat().st_size > 100_000


def test_the_first_ten_minutes(frame, running):
    walked(frame, running, viewport={"width": 1280, "height": 800})


@pytest.mark.parametrize("size", [(1024, 768), (768, 1024), (1920, 1200)])
def test_all_of_it_is_there_on_other_windows(frame, running, size):
    """Nothing that one needs is cut off, and the picture keeps most of the window."""
    with chromium() as browser:
        running = photographer(running, frame.parent / "none", f"width-{size[0]}")
        page = browser.new_context(
            viewport={"width": size[0], "height": size[1]}, device_scale_factor=2
        ).new_page()
        page.goto(running.link)
        page.locator("input[type=file]").set_input_files(frame)
        page.get_by_role("button", name="Look at stack-backlit.dng").hover()
        page.get_by_role("button", name="New scene from stack-backlit.dng").click()
        for station in ("Light", "Mend", "Proof"):
            page.get_by_role("navigation", name="The path").get_by_role("link", name=station).click()
            settled(page)
            for name in ("Export", "Keep this state"):
                box = page.get_by_role("button", name=name, exact=True).first.bounding_box()
                assert 0 <= box["x"] <= size[0] - box["width"], (station, name)
            stage = page.locator(".stage").bounding_box()
            assert min(stage["width"], stage["height"]) >= 0.5 * min(size), (station, stage)
            accessible(page)
        if size[0] == 768:
            assert stage["width"] >= 720
