"""Fingers, a pen with a palm beside it, the wheel, and keys on the picture; and keys that are changed."""

import re
from itertools import pairwise

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import find
from tests.coast import shoot
from tests.face.hands import STAGE, accessible, drag, kind, make_scene, picture, settled
from tests.face.running import chromium, saved_document


@pytest.fixture(scope="module")
def page(tmp_path_factory, with_frames):
    """The path at Light, on a screen that is touched."""
    folder = tmp_path_factory.mktemp("touched")
    shoot(smaller(find("path"), 1200), folder / "path.dng")
    with chromium() as browser:
        running = with_frames(folder)
        context = browser.new_context(viewport={"width": 1280, "height": 800}, has_touch=True)
        page, errors = context.new_page(), []
        page.on("pageerror", lambda error: errors.append(str(error)))
        page.goto(running.link)
        page.locator(".tile img").first.wait_for()
        make_scene(page, "path", "Light")
        yield page
        assert not errors, errors


@pytest.fixture(autouse=True)
def whole(page: Page):
    """Each test begins with the whole picture, and nothing in hand."""
    page.keyboard.press("Escape")
    page.keyboard.press("w")
    settled(page)


def _zoom(page: Page) -> int:
    """Percent; 0 for the whole."""
    found = re.search(r"The picture, (\d+) %", page.locator(STAGE).get_attribute("aria-label"))
    return int(found[1]) if found else 0


def _middle(page: Page) -> tuple[float, float]:
    box = page.locator(STAGE).bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


class _Hand:
    """Fingers on the screen."""

    def __init__(self, page: Page) -> None:
        self.cdp = page.context.new_cdp_session(page)

    def touch(self, kind: str, *points: tuple[float, float]) -> None:
        said = [{"x": x, "y": y, "id": n} for n, (x, y) in enumerate(points)]
        self.cdp.send("Input.dispatchTouchEvent", {"type": f"touch{kind}", "touchPoints": said})

    def pen(self, kind: str, x: float, y: float, force: float = 0.5) -> None:
        self.cdp.send(
            "Input.dispatchMouseEvent",
            {"type": f"mouse{kind}", "x": x, "y": y, "button": "left", "buttons": 1, "clickCount": 1,
             "pointerType": "pen", "force": force},
        )  # fmt: skip


def test_two_fingers_enlarge_and_carry(page: Page):
    hand, (x, y) = _Hand(page), _middle(page)
    before = picture(page)
    hand.touch("Start", (x - 40, y))
    hand.touch("Start", (x - 40, y), (x + 40, y))
    for by in (60, 90, 130, 180):
        hand.touch("Move", (x - by, y), (x + by, y))
    settled(page)
    assert _zoom(page) > 60
    large = picture(page)
    for by in (20, 40, 60):
        hand.touch("Move", (x - 180 - by, y), (x + 180 - by, y))
    settled(page)
    carried = picture(page)
    hand.touch("End")
    assert before.shape != large.shape or np.abs(before.astype(int) - large).mean() > 2
    w = large.shape[1] - 60
    assert np.abs(carried[:, :w].astype(int) - large[:, 60 : 60 + w]).mean() < 3, "60 px to the left"
    assert np.abs(carried.astype(int) - large).mean() > 5


def test_a_second_finger_makes_nothing_of_what_the_first_pointed_at(page: Page):
    hand, (x, y) = _Hand(page), _middle(page)
    page.keyboard.press("p")
    hand.touch("Start", (x - 40, y))
    hand.touch("Start", (x - 40, y), (x + 40, y))
    hand.touch("Move", (x - 90, y), (x + 90, y))
    hand.touch("End")
    settled(page)
    assert _zoom(page) > 0
    expect(page.get_by_text("Point at what is wrong with the picture.")).to_be_visible()
    hand.touch("Start", (x, y))
    hand.touch("End")
    expect(page.locator(".complaints")).to_be_visible()
    page.keyboard.press("Escape")


def test_a_pen_paints_by_its_pressure_and_the_palm_beside_it_does_nothing(page: Page):
    page.get_by_role("button", name="Burn", exact=True).click()
    settled(page)
    hand, (x, y) = _Hand(page), _middle(page)
    hand.pen("Pressed", x - 80, y, 0.2)
    hand.pen("Moved", x - 40, y, 0.4)
    hand.touch("Start", (x + 60, y + 160))
    hand.touch("Move", (x + 90, y + 190))
    hand.pen("Moved", x, y, 0.9)
    hand.touch("End")
    hand.pen("Released", x, y, 0)
    settled(page)
    document = saved_document(page.url)
    strokes = next(
        i["params"]["strokes"]
        for latch in document["latches"]
        for i in latch["ingredients"]
        if i["kind"] == "hand"
    )
    assert len(strokes) == 1, "the palm painted nothing"
    pressures = strokes[0]["points"][2::3]
    assert pressures[0] < 0.5 < max(pressures)
    assert _zoom(page) == 0
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^undo: Paint")).click()
    settled(page)


def test_the_wheel_goes_from_the_whole_to_four_times_and_back(page: Page):
    x, y = _middle(page)
    page.mouse.move(x, y)
    seen = []
    for _ in range(40):
        page.mouse.wheel(0, -60)
        seen.append(_zoom(page))
    page.wait_for_timeout(100)
    assert _zoom(page) == 400
    assert {100, 200} <= set(seen), "it stays at px as they are, in passing"
    steps = [b / a for a, b in pairwise(seen) if a and b > a]
    assert max(steps) < 1.35
    for _ in range(60):
        page.mouse.wheel(0, 60)
    page.wait_for_timeout(100)
    assert _zoom(page) == 0
    settled(page)


def test_space_carries_whatever_is_in_hand(page: Page):
    page.keyboard.press("r")
    settled(page)
    before = picture(page)
    page.keyboard.press("p")
    x, y = _middle(page)
    page.keyboard.down("Space")
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 80, y, steps=5)
    page.mouse.up()
    page.keyboard.up("Space")
    settled(page)
    after = picture(page)
    w = before.shape[1] - 80
    assert np.abs(after[:, :w].astype(int) - before[:, 80 : 80 + w]).mean() < 2
    expect(page.get_by_text("Point at what is wrong with the picture.")).to_be_visible()


def test_keys_on_the_picture_carry_and_zoom_it(page: Page):
    page.locator(STAGE).focus()
    page.keyboard.press("+")
    first = _zoom(page)
    page.keyboard.press("+")
    page.keyboard.press("+")
    assert 0 < first < _zoom(page)
    settled(page)
    before = picture(page)
    page.keyboard.press("ArrowRight")
    settled(page)
    assert np.abs(picture(page).astype(int) - before).mean() > 2
    for _ in range(6):
        page.keyboard.press("-")
    assert _zoom(page) == 0


def test_keys_are_looked_at_changed_and_switched_off(page: Page):
    page.keyboard.press("?")
    sheet = page.get_by_role("region", name="Shortcuts")
    accessible(page)
    sheet.get_by_role("button", name=re.compile("^surround")).click()
    page.keyboard.press("w")
    expect(sheet.get_by_role("alert")).to_have_text("w is: the whole picture.")
    page.keyboard.press("y")
    expect(sheet.get_by_role("button", name=re.compile("^surround"))).to_have_text("y")
    page.keyboard.press("Escape")
    expect(sheet).to_be_hidden()
    booth = page.get_by_role("button", name=re.compile("^Surround"))
    page.keyboard.press("b")
    expect(booth).to_have_accessible_name("Surround: grey")
    page.keyboard.press("y")
    expect(booth).to_have_accessible_name("Surround: white")
    page.reload()
    settled(page)
    page.keyboard.press("y")
    expect(booth).to_have_accessible_name("Surround: black")
    page.keyboard.press("?")
    sheet.get_by_text("Single-key shortcuts").click()
    page.keyboard.press("y")
    expect(booth).to_have_accessible_name("Surround: black")
    sheet.get_by_role("button", name="Reset").click()
    page.keyboard.press("Escape")
    page.keyboard.press("b")
    expect(booth).to_have_accessible_name("Surround: grey")  # it stayed through the reload


def test_digits_typed_at_a_number_are_digits(page: Page):
    page.keyboard.press("n")
    page.keyboard.type("exposure 0.3")
    page.keyboard.press("Enter")
    settled(page)
    number = page.get_by_role("spinbutton", name=re.compile("Exposure$")).last
    number.focus()
    page.keyboard.type("1.5")
    page.keyboard.press("Enter")
    expect(number).to_contain_text("1.5")
    assert page.locator(STAGE).get_attribute("aria-label") == "The picture, whole", (
        "no check was looked through"
    )
    settled(page)


def test_a_press_right_after_a_choice_is_the_pictures(page: Page):
    """A sheet that fades away takes nothing of what is meant for the picture under it."""
    page.get_by_role("button", name="New latch", exact=True).click()
    sheet, stage = page.get_by_role("dialog").bounding_box(), page.locator(STAGE).bounding_box()
    x = (max(sheet["x"], stage["x"]) + min(sheet["x"] + sheet["width"], stage["x"] + stage["width"])) / 2
    y = (max(sheet["y"], stage["y"]) + min(sheet["y"] + sheet["height"], stage["y"] + stage["height"])) / 2
    kind(page, "Hand")
    drag(page, (x, y), (x + 60, y))
    expect(page.get_by_role("button", name="undo: Paint by hand")).to_be_visible()
    settled(page)
