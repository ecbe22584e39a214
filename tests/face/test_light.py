"""Light with pointer and keyboard: what a photographer does in an evening, checked by values of the picture."""

import re

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import find
from tests.coast import shoot
from tests.face.hands import (
    accessible,
    add_move,
    drag,
    drag_by,
    gathered,
    ingredient,
    make_scene,
    on_picture,
    pick,
    picture,
    settled,
)
from tests.face.running import PATIENT, chromium

FRAMES = {"bracket-3": 1272, "path": 1272, "pool": 1272}


@pytest.fixture(scope="module")
def running(tmp_path_factory, with_frames):
    """The studio with a frame against the light and one of a path with a walker, and a browser."""
    folder = tmp_path_factory.mktemp("light")
    for name, px in FRAMES.items():
        shoot(smaller(find(name), px), folder / f"{name}.dng")
    with chromium() as browser:
        running = with_frames(folder)
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        page = context.new_page()
        page.goto(running.link)
        page.locator(".tile img").first.wait_for()
        gathered(page)
        yield page.url, context


def _opened(running, name: str):
    url, context = running
    page = context.new_page()
    page.errors = []
    page.on("pageerror", lambda e: page.errors.append(str(e)))
    page.goto(url)
    page.locator(".tile img").first.wait_for()
    make_scene(page, name, "Light")
    return page


@pytest.fixture(scope="module")
def stack(running):
    """The stack at Light, with latches on its sky and its land."""
    page = _opened(running, "bracket-3")
    for name in ("Sky", "Land"):
        ingredient(page, "Sky")
        settled(page)
        page.get_by_label("Name of the latch").fill(name)
        page.get_by_label("Name of the latch").press("Enter")
        if name == "Land":
            page.get_by_text("Invert mask").click()
        settled(page)
        page.get_by_role("button", name="Ledger").click()
        settled(page)
    yield page
    assert not page.errors, page.errors
    page.close()


@pytest.fixture(scope="module")
def path(running):
    """The path and its walker at Light."""
    page = _opened(running, "path")
    yield page
    assert not page.errors, page.errors
    page.close()


@pytest.fixture(scope="module")
def pool(running):
    """The rock pool at Light."""
    page = _opened(running, "pool")
    yield page
    assert not page.errors, page.errors
    page.close()


def _grey(page: Page) -> np.ndarray:
    return picture(page).mean(2)


def _add(page: Page, name: str) -> None:
    """Add a move from under its question."""
    questions = page.get_by_role("group", name="What can be done").get_by_role("button", name="?")
    for n in range(questions.count()):
        questions.nth(n).click()
        item = page.locator(".kind-item:visible").filter(has=page.get_by_text(name, exact=True))
        page.locator(".kind-item:visible").first.wait_for()
        if item.count():
            item.click()
            break
        page.keyboard.press("Escape")
        page.locator(".kind-item:visible").first.wait_for(state="hidden")
    settled(page)


def _half(shown: np.ndarray) -> tuple[float, float]:
    """Mean of the upper third and of the lower quarter."""
    h = len(shown)
    return float(shown[: h // 3].mean()), float(shown[3 * h // 4 :].mean())


def test_a_sky_is_held_and_nothing_else(stack):
    before = _half(_grey(stack))
    add_move(stack, "hold sky 1")
    settled(stack)
    after = _half(_grey(stack))
    assert after[0] < 0.8 * before[0]
    assert after[1] == pytest.approx(before[1], abs=1.0)
    stack.get_by_role("button", name="undo: Exposure on Sky").click()
    settled(stack)
    assert _half(_grey(stack)) == pytest.approx(before, abs=0.5)


def test_a_meeting_is_brought_to_its_aim_taken_or_left(stack):
    expect(stack.get_by_test_id("meeting")).to_contain_text("stops")
    aim = stack.get_by_role("button", name="2–3")
    expect(aim).to_be_visible()
    start = _half(_grey(stack))
    aim.click()
    expect(stack.get_by_role("button", name="Apply")).to_be_visible()
    stack.keyboard.press("Escape")
    expect(stack.get_by_role("button", name="Apply")).to_be_hidden()
    settled(stack)
    assert _half(_grey(stack)) == pytest.approx(start, abs=0.5)
    # left, it is gone, also where something else was saved while it stood
    lines = stack.get_by_role("region", name="Ledger").locator("li.line")
    stack.get_by_role("button", name="2–3").click()
    expect(stack.get_by_role("button", name="Apply")).to_be_visible()
    add_move(stack, "vividness 5")
    expect(lines).to_have_count(2)
    stack.get_by_role("button", name="Cancel").click()
    settled(stack)
    expect(lines).to_have_count(1)
    expect(lines).to_contain_text("Vividness")
    stack.get_by_role("button", name="Remove", exact=True).click()
    settled(stack)
    stack.get_by_role("button", name="2–3").click()
    stack.get_by_role("button", name="Apply").click(timeout=PATIENT)
    settled(stack)
    expect(stack.get_by_role("button", name="undo: Bring meeting")).to_be_visible()
    expect(stack.get_by_test_id("meeting")).to_contain_text("3.0")
    now = _half(_grey(stack))
    assert now != pytest.approx(start, abs=0.5)


def test_a_foreground_is_opened_on_the_ladder_but_not_its_deepest_shadows(stack):
    _add(stack, "Rungs")
    before = _grey(stack)
    rung = stack.get_by_role("slider", name="Rung at −5.0 stops")
    box = rung.bounding_box()
    at = (box["x"] + 26, box["y"] + box["height"] / 2)
    drag(stack, at, (at[0], at[1] - 60))
    settled(stack)
    expect(stack.get_by_role("button", name="undo: Move rung")).to_be_visible()
    stack.get_by_role("button", name="shadows", exact=True).click()
    settled(stack)
    stack.get_by_role("spinbutton", name="Spared shadows").click()
    stack.keyboard.type("-8")
    stack.keyboard.press("Enter")
    settled(stack)
    after = _grey(stack)
    dark = (before > 12) & (before < 40)
    assert (after[dark] - before[dark]).mean() > 2
    deepest = before < 3
    assert not deepest.any() or np.abs(after[deepest] - before[deepest]).max() < 4
    assert np.abs(after - before)[before > 180].mean() < 2.5
    # the same with the keyboard; a strand that is let go is gone
    rung.focus()
    stack.keyboard.press("ArrowDown")
    settled(stack)
    expect(stack.get_by_role("list", name="Rungs").get_by_role("listitem")).to_have_count(1)
    rung.focus()
    stack.keyboard.press("Delete")
    settled(stack)
    expect(stack.get_by_role("list", name="Rungs")).to_be_hidden()
    accessible(stack)


def test_light_is_carried_by_dragging_on_the_picture(stack):
    _add(stack, "Rungs")
    before = _grey(stack)
    x, y = on_picture(stack, 0.5, 0.2)
    stack.mouse.move(x, y)
    stack.mouse.down()
    expect(stack.get_by_role("list", name="Rungs").get_by_role("listitem")).to_have_count(1)
    stack.mouse.move(x, y + 50, steps=8)
    expect(stack.get_by_role("list", name="Rungs")).to_contain_text("−1.1 stops")
    stack.mouse.up()
    settled(stack)
    expect(stack.get_by_role("button", name="undo: Move rung on the picture")).to_be_visible()
    after = _grey(stack)
    h, w = after.shape
    place = (slice(int(0.17 * h), int(0.23 * h)), slice(int(0.47 * w), int(0.53 * w)))
    assert after[place].mean() < 0.8 * before[place].mean()
    # Escape in mid-drag puts back what was there, and a click changes nothing
    stack.mouse.move(x, y)
    stack.mouse.down()
    stack.mouse.move(x, y - 80, steps=8)
    stack.keyboard.press("Escape")
    stack.mouse.up()
    settled(stack)
    assert np.abs(_grey(stack) - after).mean() < 0.5
    stack.get_by_role("button", name="Remove", exact=True).click()
    settled(stack)
    # a point of a curve in the same way
    _add(stack, "Curve")
    drag(stack, (x, y), (x, y + 44))
    settled(stack)
    expect(stack.get_by_role("button", name="undo: Draw curve on the picture")).to_be_visible()
    assert _grey(stack)[place].mean() < 0.8 * before[place].mean()
    stack.get_by_role("button", name="Remove", exact=True).click()
    settled(stack)


def test_contrast_is_brought_back(stack):
    add_move(stack, "contrast 30")
    settled(stack)
    flat = _grey(stack)
    stack.get_by_role("spinbutton", name="Contrast: Contrast").first.focus()
    for _ in range(10):
        stack.keyboard.press("ArrowUp")
    settled(stack)
    assert _grey(stack).std() > flat.std()
    _add(stack, "Relief")
    before = _grey(stack)
    stack.get_by_role("spinbutton", name="Relief fine", exact=True).click()
    stack.keyboard.type("150")
    stack.keyboard.press("Enter")
    settled(stack)
    fine = lambda g: float(np.abs(np.diff(g[len(g) // 2 :], axis=0)).mean())  # noqa: E731
    assert fine(_grey(stack)) > 1.03 * fine(before)


def test_light_is_poured_on_a_path_and_the_edges_fall(path):
    _add(path, "Poured light")
    before = _grey(path)
    path.get_by_role("button", name="a glow").click()
    settled(path)
    start = path.get_by_role("slider", name="Poured light: where it starts")
    drag_by(path, start, 0, 60)
    settled(path)
    after = _grey(path)
    h, w = after.shape
    lit = after - before
    assert lit[int(0.55 * h) : int(0.7 * h), int(0.45 * w) : int(0.55 * w)].mean() > 8
    assert np.abs(lit[:, : int(0.12 * w)]).mean() < 1
    _add(path, "Edge fall")
    path.get_by_role("spinbutton", name="Edge fall: At the edges").click()
    path.keyboard.type("-1.5")
    path.keyboard.press("Enter")
    settled(path)
    fallen = _grey(path)
    assert fallen[-20:, :20].mean() < 0.75 * after[-20:, :20].mean()
    middle = (slice(int(0.45 * h), int(0.55 * h)), slice(int(0.45 * w), int(0.55 * w)))
    assert fallen[middle].mean() == pytest.approx(after[middle].mean(), abs=2)
    drag_by(path, path.get_by_role("slider", name="Edge fall: outer ring"), -60, -40)
    settled(path)
    assert _grey(path)[:, :30].mean() < fallen[:, :30].mean()


def test_sunlit_ground_is_warmed_and_its_shade_cooled(path):
    before = picture(path).astype(float)
    ground = np.arange(len(before))[:, None] > 0.45 * len(before)
    light, shade = (before.mean(2) > 140) & ground, (before.mean(2) < 60) & ground
    assert min(light.sum(), shade.sum()) > 2000

    def warmth(p: np.ndarray, where: np.ndarray) -> float:
        return float((p[..., 0] - p[..., 2])[where].mean())

    _add(path, "Rung tints")
    path.get_by_text("it and all lighter").click()
    _type(path, "Rung tints: at", "0")
    _type(path, "Rung tints: Tint", "40")
    warmed = picture(path).astype(float)
    assert warmth(warmed, light) > warmth(before, light) + 5
    assert warmth(warmed, shade) == pytest.approx(warmth(before, shade), abs=2)
    _add(path, "Rung tints")
    path.get_by_text("it and all darker").click()
    colour = path.get_by_role("textbox", name="Colour", exact=True)
    colour.fill("#5a86d8")
    colour.press("Enter")
    _type(path, "Rung tints: Tint", "40")
    cooled = picture(path).astype(float)
    assert warmth(cooled, shade) < warmth(warmed, shade) - 2
    assert warmth(cooled, light) > warmth(before, light) + 4
    assert cooled[shade].mean() == pytest.approx(before[shade].mean(), abs=3)


def _type(page: Page, name: str, value: str) -> None:
    page.get_by_role("spinbutton", name=name).last.click()
    page.keyboard.type(value)
    page.keyboard.press("Enter")
    settled(page)


def test_one_foreign_colour_is_tamed(path):
    _add(path, "Hue steer")
    path.get_by_role("button", name="Pick a colour").click()
    path.mouse.click(*on_picture(path, 0.5, 0.12))
    expect(path.get_by_role("list", name="Hues").get_by_role("listitem")).to_have_count(1)
    expect(path.get_by_test_id("taken")).to_be_visible()
    settled(path)
    path.get_by_role("button", name="Pick a colour").click()
    path.mouse.click(*on_picture(path, 0.3, 0.14))
    settled(path)
    hues = path.get_by_role("list", name="Hues").get_by_role("listitem")
    expect(hues.first).to_contain_text("with 2")
    plain = picture(path).astype(float)
    hues.first.get_by_role("spinbutton").first.focus()
    settled(path)
    assert np.abs(picture(path).astype(float) - plain).mean() > 3, "where it acts is shown"
    path.get_by_label("Take out 2").click()
    settled(path)
    path.mouse.move(5, 5)
    settled(path)
    steered = picture(path).astype(float)
    path.get_by_role("spinbutton", name="Hue steer, 1: deepen").click()
    path.keyboard.type("-80")
    path.keyboard.press("Enter")
    settled(path)
    tamed = picture(path).astype(float)
    colour = lambda p, rows: float((p.max(2) - p.min(2))[rows].mean())  # noqa: E731
    top, bottom = slice(0, len(tamed) // 5), slice(4 * len(tamed) // 5, None)
    assert colour(tamed, top) < 0.75 * colour(steered, top)
    assert colour(tamed, bottom) == pytest.approx(colour(steered, bottom), rel=0.12)


def test_dodging_writes_one_line_and_adds_to_it(path):
    lines = path.get_by_role("region", name="Ledger").locator("li.line")
    before, count = _grey(path), lines.count()
    path.get_by_role("button", name="Dodge", exact=True).click()
    settled(path)
    for y in (0.7, 0.8):
        drag(path, on_picture(path, 0.3, y), on_picture(path, 0.6, y))
        settled(path)
    path.keyboard.press("Escape")
    path.keyboard.press("Escape")
    settled(path)
    expect(lines).to_have_count(count + 1)
    expect(lines.last).to_contain_text("Dodge")
    after = _grey(path)
    h, w = after.shape
    assert (after - before)[int(0.7 * h), int(0.35 * w) : int(0.55 * w)].mean() > 4
    assert np.abs(after - before)[: h // 3].max() < 3


def test_the_eye_is_asked_and_all_is_eased_off(path):
    path.keyboard.press("8")
    expect(path.get_by_text("1 is where the eye goes first now")).to_be_visible()
    path.keyboard.press("Escape")
    path.keyboard.press("9")
    expect(path.locator(".found")).to_contain_text("halo")
    path.keyboard.press("Escape")
    settled(path)
    full = _grey(path)
    ease = path.get_by_role("spinbutton", name="Overall strength")
    ease.click()
    path.keyboard.type("0")
    path.keyboard.press("Enter")
    settled(path)
    none = _grey(path)
    path.keyboard.press("2")
    settled(path)
    start = _grey(path)
    path.keyboard.press("Escape")
    assert np.abs(none - start).mean() < 1 < np.abs(full - start).mean()
    path.keyboard.press("Control+z")
    settled(path)
    assert np.abs(_grey(path) - full).mean() < 0.5


def test_what_is_wrong_is_pointed_at(pool):
    lines = pool.get_by_role("region", name="Ledger").locator("li.line")
    before = _grey(pool)
    pool.get_by_role("button", name="Point at a problem").click()
    pool.mouse.click(*on_picture(pool, 0.85, 0.15))
    pool.get_by_role("button", name="Too bright").click()
    remedies = pool.get_by_role("region", name="What is wrong here").get_by_role("listitem")
    expect(remedies.first).to_contain_text("on Sky")
    remedies.first.hover()
    expect(lines).to_have_count(1)
    expect(pool.get_by_test_id("saved")).to_have_text("not saved yet")
    expect(pool.get_by_role("button", name="Open latch Sky")).to_be_visible()
    pool.keyboard.press("Escape")
    settled(pool)
    expect(lines).to_have_count(0)
    expect(pool.get_by_role("button", name="Open latch Sky")).to_be_hidden()
    assert np.abs(_grey(pool) - before).max() < 3
    # by keyboard, and taken
    pool.keyboard.press("p")
    for _ in range(17):
        pool.keyboard.press("ArrowUp")
    pool.keyboard.press("Enter")
    pool.get_by_role("button", name="Too bright").press("Enter")
    expect(remedies.first).to_be_visible()
    pool.get_by_role("button", name="Too bright").press("Enter")  # said once more, it is looked at once more
    expect(remedies.first).to_be_visible()
    remedies.first.get_by_role("button").press("Enter")
    settled(pool)
    expect(pool.get_by_role("button", name="undo: Exposure on Sky")).to_be_visible()
    after = _grey(pool)
    assert _half(after)[0] < 0.85 * _half(before)[0]
    assert _half(after)[1] == pytest.approx(_half(before)[1], abs=1)
    accessible(pool)


def test_a_reflection_is_brought_to_within_half_a_stop_of_its_sky(pool):
    pool.keyboard.press("Escape")
    ingredient(pool, "Pool")
    settled(pool)
    pool.get_by_label("Name of the latch").fill("Mirror")
    pool.get_by_label("Name of the latch").press("Enter")
    centre = pool.get_by_role("slider", name="Pool: its middle")
    box = centre.bounding_box()
    drag(pool, (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2), on_picture(pool, 0.5, 0.68))
    settled(pool)
    pool.get_by_role("button", name="Back to the ledger").click()
    settled(pool)
    pick(pool, pool.get_by_role("button", name="Left wing"), "Sky")
    pick(pool, pool.get_by_role("button", name="Right wing"), "Mirror")
    settled(pool)
    before = _grey(pool)
    aim = pool.get_by_role("button", name="–").filter(has_text="–").first
    aim.click(timeout=PATIENT)
    number = pool.get_by_role("spinbutton", name="Aim of the meeting")
    number.click()
    pool.keyboard.type("0.4")
    pool.keyboard.press("Enter")
    pool.get_by_role("button", name="Apply").click(timeout=PATIENT)
    settled(pool)
    expect(pool.get_by_test_id("meeting")).to_contain_text("0.4")
    after = _grey(pool)
    h, w = after.shape
    mirror = (slice(int(0.63 * h), int(0.73 * h)), slice(int(0.45 * w), int(0.55 * w)))
    corner = (slice(int(0.9 * h), h), slice(0, int(0.1 * w)))
    assert (
        after[mirror].mean() > before[mirror].mean() + 5
        or after[: h // 4].mean() < before[: h // 4].mean() - 5
    )
    assert np.abs(after - before)[corner].mean() < 2


def test_lines_are_switched_together_and_kept_as_a_habit(pool):
    pool.keyboard.press("Escape")
    ledger = pool.get_by_role("region", name="Ledger")
    lines = ledger.locator("li.line")
    expect(lines).to_have_count(2)
    pool.keyboard.press("2")
    settled(pool)
    start = _grey(pool)
    pool.keyboard.press("Escape")
    settled(pool)
    both = _grey(pool)
    lines.nth(1).get_by_role("button", name="Open Exposure").click()
    pick(pool, pool.locator(".line.open").get_by_role("button", name=": more"), "Group with line above")
    settled(pool)
    pool.get_by_label("Name of the group").fill("Evening light")
    pool.get_by_label("Name of the group").press("Enter")
    settled(pool)
    switch = ledger.get_by_role("switch", name="Evening light on or off")
    switch.focus()
    pool.keyboard.press("Space")
    settled(pool)
    expect(pool.get_by_role("button", name="undo: Switch Evening light off")).to_be_visible()
    assert np.abs(_grey(pool) - start).mean() < 0.5 < np.abs(both - start).mean()
    pool.keyboard.press("Control+z")
    settled(pool)
    assert np.abs(_grey(pool) - both).mean() < 0.5
    pool.get_by_role("button", name="Fold Evening light").click()
    expect(lines).to_have_count(0)
    pool.get_by_role("button", name="Open Evening light").click()
    # kept, and used again in the same scene: the latches that are there are used
    pool.get_by_role("button", name="Habits and more").click()
    pool.get_by_role("button", name="Save all of Light as a habit").click()
    pool.get_by_role("button", name="Use habit Light of pool").click()
    settled(pool)
    expect(lines).to_have_count(4)
    expect(pool.get_by_role("region", name="Latches").locator(".tile:not(.new)")).to_have_count(2)
    accessible(pool)


def test_the_wheel_zooms_by_degrees_and_the_middle_button_pans(path: Page):
    """Whatever tool is in hand; what is under the pointer stays there."""
    stage = path.locator(".stage")
    x, y = on_picture(path, 0.5, 0.5)
    path.mouse.move(x, y)
    path.mouse.wheel(0, -30)
    label = re.compile(r"The picture, (\d+) %")
    expect(stage).to_have_attribute("aria-label", label)
    first = int(label.search(stage.get_attribute("aria-label")).group(1))
    path.mouse.wheel(0, -30)
    path.wait_for_timeout(200)
    second = int(label.search(stage.get_attribute("aria-label")).group(1))
    assert first < second < first * 1.25
    expect(path.get_by_text(f"{second} %", exact=True)).to_be_visible()
    path.mouse.wheel(0, -2000)
    expect(stage).to_have_attribute("aria-label", re.compile("The picture, 100 %"))
    settled(path)
    before = picture(path)
    path.get_by_role("button", name="Point at a problem").click()  # a tool that owns the left button
    path.mouse.move(x, y)
    path.mouse.down(button="middle")
    path.mouse.move(x - 60, y, steps=4)
    path.mouse.up(button="middle")
    settled(path)
    after = picture(path)
    h, w = min(before.shape[0], after.shape[0]) - 4, 200
    assert np.abs(after[:h, 100 : 100 + w].astype(int) - before[:h, 160 : 160 + w]).mean() < 6
    assert np.abs(after[:h, 100 : 100 + w].astype(int) - before[:h, 100 : 100 + w]).mean() > 6
    path.keyboard.press("Escape")
    path.mouse.wheel(0, 5000)
    expect(stage).to_have_attribute("aria-label", re.compile("whole"))
