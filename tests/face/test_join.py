"""Join with the pointer: a sweep and a bracket from Gather, on to Light, another projection, a frame left out."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import OUTING
from tests.coast import shoot
from tests.face.hands import (
    accessible,
    begin_scene,
    choose,
    gathered,
    ingredient,
    on_picture,
    picture,
    settled,
)
from tests.face.running import PATIENT, chromium, saved_document


@pytest.fixture(scope="module")
def roll(tmp_path_factory):
    """The outing's sweep, bracket and twin, and a frame that belongs to none of them, small."""
    folder = tmp_path_factory.mktemp("roll")
    for shot in OUTING:
        if shot.name.startswith(("sweep", "bracket", "heath", "twin")):
            shoot(smaller(shot, 1400), folder / f"{shot.name}.dng")
    return folder


@pytest.fixture(scope="module")
def studied(roll, with_frames):
    """A studio of its own with the roll in it, and a page signed in."""
    with chromium() as browser:
        running = with_frames(roll)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(running.link)
        yield page, running


@pytest.fixture
def page(studied):
    """Gather as it opens."""
    page, running = studied
    page.goto(running.url)
    page.locator(".tile img").first.wait_for()
    gathered(page)
    return page


def join(page: Page, group: str) -> None:
    """Join a group from its head, and wait for its picture."""
    page.get_by_role("region", name=group).get_by_role("button", name="Join").click()
    panel = page.get_by_role("region", name="Join", exact=True)
    expect(panel.get_by_role("img")).to_be_visible()
    accessible(page)
    panel.get_by_role("button", name="Join them").click()
    page.wait_for_url("**/join/**", timeout=PATIENT)
    settled(page)


def base(page: Page) -> dict:
    """What the saved document is made of."""
    return saved_document(page.url)


def on_the_path(page: Page, station: str) -> None:
    page.get_by_role("navigation", name="The path").get_by_role("link", name=station).click()
    settled(page)


def test_a_sweep_joined_lit_and_laid_flat_anew(page: Page):
    """The whole way with the pointer; a pool that was put on something stays on it in another projection."""
    join(page, "Sweep of 5")
    accessible(page)
    expect(page.get_by_text("Sweep of 5 frames")).to_be_visible()
    wide = picture(page)
    assert wide.shape[1] > 2 * wide.shape[0]

    on_the_path(page, "Light")
    ingredient(page, "Pool")
    settled(page)
    middle = page.get_by_role("slider", name="Pool: its middle")
    to = on_picture(page, 0.62, 0.3)
    at = middle.bounding_box()
    page.mouse.move(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
    page.mouse.down()
    page.mouse.move(*to, steps=6)
    page.mouse.up()
    settled(page)
    held = base(page)["latches"][0]["ingredients"][0]["params"]

    def light_there() -> float:
        """What the picture shows around the pool's middle."""
        box = page.get_by_role("slider", name="Pool: its middle").bounding_box()
        stage = page.locator(".stage").bounding_box()
        x, y = box["x"] + box["width"] / 2 - stage["x"], box["y"] + box["height"] / 2 - stage["y"]
        return float(
            page.locator(".stage > canvas").evaluate(
                """(c, [x, y]) => { const d = c.getContext('2d').getImageData(x - 25, y - 25, 50, 50).data;
                    let s = 0; for (let i = 0; i < d.length; i += 4) s += d[i + 1]; return s / (d.length / 4); }""",
                [x, y],
            )
        )

    before, place = light_there(), page.get_by_role("slider", name="Pool: its middle").bounding_box()
    on_the_path(page, "Join")
    page.get_by_role("button", name="Open Projection").click()
    page.get_by_role("radio", name=re.compile("rectilinear")).click()
    settled(page)
    straight = picture(page)
    assert straight.shape != wide.shape
    on_the_path(page, "Light")
    page.get_by_role("button", name=re.compile("^Open latch")).first.click()
    settled(page)
    assert base(page)["latches"][0]["ingredients"][0]["params"] == held
    now = page.get_by_role("slider", name="Pool: its middle").bounding_box()
    assert abs(now["x"] - place["x"]) + abs(now["y"] - place["y"]) > 5
    assert light_there() == pytest.approx(before, abs=14)


def test_a_sweep_is_turned_by_hand_and_frames_are_left_out(page: Page):
    page.get_by_role("region", name="Sweep of 5").get_by_role("link", name="Open scene").click()
    settled(page)
    page.get_by_role("button", name="Open Projection").click()
    page.get_by_role("button", name="Turn", exact=True).click()
    here, there = on_picture(page, 0.5, 0.5), on_picture(page, 0.6, 0.5)
    page.mouse.move(*here)
    page.mouse.down()
    page.mouse.move(*there, steps=5)
    page.mouse.up()
    settled(page)
    assert base(page)["ground"]["projection"]["params"]["facing"] < -3
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^undo")).click()
    settled(page)
    assert base(page)["ground"]["projection"]["params"]["facing"] == 0

    page.get_by_role("button", name="left ragged").click()
    settled(page)
    ragged = picture(page)
    page.locator(".frames li", has_text="sweep-1").locator(".el-switch").click()
    settled(page)
    fewer = picture(page)
    assert fewer.shape[1] / fewer.shape[0] < 0.92 * ragged.shape[1] / ragged.shape[0]
    page.get_by_role("button", name=re.compile("^undo")).click()
    settled(page)
    # seams: every frame in a tint of its own
    page.locator(".stage").focus()
    page.keyboard.press("0")
    page.wait_for_timeout(2500)
    tints = page.locator("canvas.seams").evaluate(
        """c => { const d = c.getContext('2d').getImageData(0, c.height >> 1, c.width, 1).data, s = new Set();
            for (let i = 0; i < d.length; i += 4) if (d[i + 3] === 64) s.add([d[i], d[i + 1], d[i + 2]].join());
            return s.size; }"""
    )
    assert tints == 5
    # this frame here: painted, and taken out again
    page.get_by_role("button", name=re.compile("Paint sweep-3.* in")).click()
    at = on_picture(page, 0.5, 0.5)
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] + 20, at[1] + 5, steps=4)
    page.mouse.up()
    expect(page.get_by_role("button", name=re.compile("undo: Paint sweep-3.* in"))).to_be_visible()
    expect(page.get_by_text("1 stroke says which frame is where.")).to_be_visible()
    expect(page.get_by_test_id("saved")).to_have_text("saved ✓")
    assert len(base(page)["base"]["painted"]) == 1
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Remove all").click()
    expect(page.get_by_test_id("saved")).to_have_text("saved ✓")
    expect(page.get_by_role("button", name="Remove all")).to_be_hidden()


def test_a_bracket_reaches_further(page: Page):
    join(page, "Bracket of 5")
    expect(page.get_by_text("was +2.5")).to_be_visible()
    assert min(m["ev"] for m in base(page)["base"]["members"]) == pytest.approx(-4, abs=0.2)
    # pulled down four stops, what one frame burns out is there
    on_the_path(page, "Ground")
    number = page.get_by_role("spinbutton", name=re.compile("^Base exposure"))
    number.focus()
    for key in "-4":
        page.keyboard.press(key)
    page.keyboard.press("Enter")
    settled(page)
    dark = picture(page)
    assert np.percentile(dark, 99.9) < 235


def test_frames_that_do_not_fit_are_told_and_nothing_is_made(page: Page):
    for name in ("sweep-1", "heath"):
        page.get_by_role("checkbox", name=re.compile(name)).check()
    page.get_by_role("button", name="Join as sweep (panorama)").click()
    panel = page.get_by_role("region", name="Join", exact=True)
    expect(panel.get_by_role("alert")).to_contain_text("overlap")
    expect(panel.get_by_role("button", name="Join them")).to_have_count(0)
    page.keyboard.press("Escape")
    expect(panel).to_have_count(0)


def test_the_dark_twin_lends_its_sky(page: Page):
    begin_scene(page, "twin-bright")
    settled(page)
    on_the_path(page, "Light")
    ingredient(page, "Sky")
    settled(page)
    on_the_path(page, "Join")
    before = picture(page)
    refused: list[str] = []
    page.on("response", lambda r: refused.append(r.text()) if r.status == 422 else None)
    page.get_by_role("button", name="Borrow from another frame").click()
    offered = page.get_by_role("region", name="Frames that can lend").locator("button.one")
    expect(offered.first).to_contain_text("twin-dark")
    expect(offered.first).to_contain_text("the same view")
    offered.first.click()
    expect(page.get_by_label("Loan from twin-dark.dng: Light")).to_be_visible()
    settled(page)
    accessible(page)
    loan = base(page)["loans"][0]
    assert loan["params"]["stops"] == pytest.approx(-3.06, abs=0.15)
    held = next(latch for latch in base(page)["latches"] if latch["id"] == loan["latch"])
    assert held["name"] == "Lent by twin-dark"  # where the scene clips, by a latch of its own
    clipped = before.min(-1) > 250
    lent = picture(page)
    assert lent[clipped].mean() < 0.9 * before[clipped].mean()
    deep = before.max(-1) < 40
    assert abs(lent[deep].astype(float) - before[deep]).mean() < 2
    choose(page, "What the loan from twin-dark.dng is latched to", "Sky")
    settled(page)
    after = picture(page)
    top, bottom = slice(0, before.shape[0] // 4), slice(-before.shape[0] // 4, None)
    assert after[top].mean() < 0.75 * before[top].mean()
    assert abs(after[bottom].astype(float) - before[bottom]).mean() < 2
    page.get_by_role("button", name="Remove the loan from twin-dark.dng").click()
    settled(page)
    assert abs(picture(page).astype(float) - before).mean() < 1
    assert not refused
