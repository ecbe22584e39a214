"""A worked scene walks one through itself; a scene opened again says what changed last; places that are watched, and what made one stop."""

import re
import sqlite3
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import find
from tests.coast import shoot
from tests.face.hands import accessible, on_picture, open_scene, picture, settled, tile
from tests.face.running import chromium


@pytest.fixture(scope="module")
def page(tmp_path_factory, with_frames):
    """The pool, small, as it comes worked."""
    folder = tmp_path_factory.mktemp("worked")
    shoot(smaller(find("pool"), 1200), folder / "pool.dng")
    with chromium() as browser:
        running = with_frames(folder)
        opened = browser.new_page(viewport={"width": 1280, "height": 800})
        errors: list[str] = []
        opened.on("pageerror", lambda e: errors.append(str(e)))
        opened.goto(running.link)
        opened.locator(".tile img").first.wait_for()
        yield opened
        assert not errors, errors


def test_what_made_one_stop_is_marked_and_squint_says_whether_the_eye_arrives(page: Page):
    tile(page, "pool")
    page.get_by_role("button", name="Look at pool.dng").click()
    expect(page.get_by_text("What made you stop? Click the place.")).to_be_visible()
    box = page.locator(".field").bounding_box()
    # the pool's bright water, a little left of the middle
    page.mouse.click(box["x"] + 0.5 * box["width"], box["y"] + 0.55 * box["height"])
    mark = page.get_by_role("slider", name=re.compile("What made you stop"))
    expect(mark).to_have_attribute("aria-valuetext", re.compile("^(49|50|51) % across"))
    mark.focus()
    page.keyboard.press("ArrowUp")
    expect(page.get_by_text("Here you stopped.")).to_be_visible()
    accessible(page)
    page.get_by_role("button", name="Clear").click()
    expect(mark).to_be_hidden()
    page.get_by_role("button", name="Mark the middle").click()
    expect(mark).to_be_visible()
    page.keyboard.press("Escape")
    open_scene(page, "pool")
    page.keyboard.press("8")
    expect(
        page.get_by_text(re.compile("(arrives (first|second|third)|not arrive) where you stopped"))
    ).to_be_visible()
    page.keyboard.press("Escape")
    settled(page)


def test_a_worked_scene_is_walked_through_line_by_line(page: Page):
    page.get_by_role("button", name="See how it was done").click()
    led = page.get_by_role("region", name="How it was done")
    count = int(re.search(r"of (\d+)", led.inner_text())[1])
    assert count == 8
    for n in range(count):
        expect(led.get_by_text(f"{n + 1} of {count}")).to_be_visible()
        assert len(led.locator("p").nth(1).inner_text()) > 40  # why
        settled(page)
        led.get_by_role("button", name="Without it").click()
        expect(page.get_by_text("Without this edit")).to_be_visible()
        settled(page)
        without = picture(page).astype(float)
        if n == 0:
            accessible(page)
        led.get_by_role("button", name="Without it").click()
        expect(page.get_by_text("Without this edit")).to_be_hidden()
        settled(page)
        assert np.abs(picture(page) - without).mean() > 0.05, n
        if n + 1 < count:
            led.get_by_role("button", name="Next").click()
    led.get_by_role("button", name="Done").click()
    expect(led).to_be_hidden()
    # nothing of it is an edit
    expect(page.get_by_role("button", name="undo: Edge fall")).to_be_visible()


def test_watched_places_read_stops_then_and_now_and_stay(page: Page):
    page.get_by_role("button", name="Watch places").click()
    page.mouse.click(*on_picture(page, 0.4, 0.7))
    page.mouse.click(*on_picture(page, 0.7, 0.2))
    page.keyboard.press("Escape")
    rock = page.get_by_role("slider", name=re.compile(r"^Watched 1: [+−]?\d\.\d stops was [+−]?\d\.\d"))
    expect(rock).to_be_visible()
    now, was = (
        float(v.replace("−", "-")) for v in re.findall(r"[+−]?\d+\.\d", rock.get_attribute("aria-label"))
    )
    assert now - was == pytest.approx(2.3, abs=0.9)  # the rock was brought up by so much
    page.reload()
    settled(page)
    expect(rock).to_be_visible()
    accessible(page)
    for _ in range(2):
        page.get_by_role("slider", name=re.compile("^Watched 1")).focus()
        page.keyboard.press("Delete")
    expect(rock).to_be_hidden()


def test_opened_again_another_day_it_says_what_changed(page: Page, running):
    page.keyboard.press("Escape")
    page.get_by_role("button", name="undo: Edge fall").click()
    settled(page)
    page.reload()
    settled(page)
    expect(page.get_by_role("region", name="Last time")).to_be_hidden()  # that was just now
    yesterday = (datetime.now(UTC) - timedelta(days=1)).strftime("%Y-%m-%d %H:%M:%S")
    with sqlite3.connect(running.data / "studio.sqlite3", timeout=60) as base:
        base.execute("UPDATE studio_revision SET created = ?", (yesterday,))
    page.reload()
    settled(page)
    last = page.get_by_role("region", name="Last time")
    expect(last).to_contain_text("Added: Exposure")
    accessible(page)
    last.get_by_role("button", name="Compare with before").click()
    expect(last).to_be_hidden()
    page.keyboard.press("Escape")
    page.reload()
    settled(page)
    expect(page.get_by_role("button", name="See how it was done")).to_be_visible()
    expect(last).to_be_hidden()  # it was read
