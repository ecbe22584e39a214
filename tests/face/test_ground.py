"""Ground with pointer and keyboard: plumb lines, a crop, a horizon; a proposal, and putting parts back."""

import base64
import json
import re
import urllib.request

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import find
from tests.coast import shoot
from tests.face.hands import (
    accessible,
    choose,
    drag,
    drag_by,
    gathered,
    make_scene,
    on_picture,
    picture,
    settled,
    tile,
)
from tests.face.running import chromium, saved_document

FRAMES = ("beacon", "sweep-1", "blue-hour")


@pytest.fixture(scope="module")
def roll(tmp_path_factory):
    """The beacon, small, a sea horizon rolled by hand, a noisy blue hour."""
    folder = tmp_path_factory.mktemp("ground")
    seen = {name: shoot(smaller(find(name), 1200), folder / f"{name}.dng") for name in FRAMES}
    return folder, seen["beacon"]


@pytest.fixture(scope="module")
def started(roll, with_frames):
    """A studio of its own with these frames."""
    with chromium() as browser:
        running = with_frames(roll[0])
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(running.link)
        yield page, running


@pytest.fixture
def page(started):
    """Gather as it opens; the page fails the test on a script error."""
    opened, running = started
    errors: list[str] = []
    opened.on("pageerror", lambda e: errors.append(str(e)))
    opened.goto(running.url)
    opened.locator(".tile img").first.wait_for()
    gathered(opened)
    yield opened
    assert not errors, errors


def _open(page: Page, line: str) -> None:
    page.get_by_role("button", name=f"Open {line}").click()
    settled(page)


def _scene(page: Page) -> dict:
    """The scene as the server has it."""
    scene = page.url.rsplit("/", 1)[1]
    cookies = "; ".join(f"{c['name']}={c['value']}" for c in page.context.cookies())
    origin = re.match(r"https?://[^/]+", page.url)[0]
    request = urllib.request.Request(f"{origin}/api/scenes/{scene}", headers={"Cookie": cookies})
    with urllib.request.urlopen(request) as answer:
        return json.load(answer)


def _ground(page: Page) -> dict:
    """Ground as the server has it."""
    return saved_document(page.url)["ground"]


def _edges(truth) -> np.ndarray:
    """The tower's left and right edge on the upright raster, from the truth: (2, 2, 2) of x, y in px."""
    inside = truth.subject > 0.5
    rows = np.flatnonzero(inside.sum(1) > 20)
    # the lantern above and the heather below are not the tower's edges
    rows = rows[len(rows) // 4 : -len(rows) // 10]
    sides = np.array([[np.flatnonzero(inside[y])[[0, -1]]] for y in rows])[:, 0] + [0.0, 1.0]
    out = []
    for k in range(2):
        fit = np.polyfit(rows + 0.5, sides[:, k], 1)
        out.append([[np.polyval(fit, y), y] for y in (rows[5], rows[-5])])
    return np.array(out)


def _shown(page: Page, upright: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    """Where px of the upright raster lie on the page, by the map of what is saved (no lens)."""
    scene = _scene(page)
    m, (w, h) = scene["map"], size
    turned = (upright - np.array([w, h]) / 2) / max(w, h)
    # the frame was held on its side: upright is a quarter turn of what was captured
    source = np.stack([-turned[..., 1], turned[..., 0]], -1) if scene["frame"]["orientation"] == 8 else turned
    mesh = m["mesh"]
    nodes = np.frombuffer(base64.b64decode(mesh["source"]), "<f4").reshape(-1, mesh["columns"], 2)
    rows, columns = np.mgrid[: len(nodes), : mesh["columns"]]
    places = np.stack([columns - 1, rows - 1], -1) * mesh["step"] + mesh["start"]
    # without a lens the map is a homography, which the mesh's nodes give exactly
    near = np.abs(nodes).max(-1) < 2
    middle = np.array([scene["frame"]["width"], scene["frame"]["height"]]) / (2 * m["long_edge"])
    f, _ = cv2.findHomography(nodes[near] - middle, places[near])
    p = np.concatenate([source, np.ones((*source.shape[:-1], 1))], -1) @ f.T
    g = p[..., :2] / p[..., 2:]
    x0, y0, x1, y1 = m["box"]
    fractions = (g - [x0, y0]) / [x1 - x0, y1 - y0]
    return np.array([on_picture(page, *point) for point in fractions.reshape(-1, 2)]).reshape(upright.shape)


def _lean(line: np.ndarray) -> float:
    """A line's angle from upright, degrees."""
    (x0, y0), (x1, y1) = line
    return float(np.degrees(np.arctan2(x1 - x0, y1 - y0)))


def test_plumb_by_drawing_two_uprights(page: Page, roll):
    make_scene(page, "beacon")
    accessible(page)
    edges, size = _edges(roll[1]), roll[1].subject.shape[::-1]
    before = [_lean(line) for line in _shown(page, edges, size)]
    assert max(abs(v) for v in before) > 1.5
    _open(page, "Plumb")
    for side in (0, 1):
        page.get_by_role("button", name="Draw a vertical").click()
        start, end = _shown(page, edges, size)[side]
        drag(page, tuple(start), tuple(end))
        settled(page)
        page.keyboard.press("Escape")
    for line in _shown(page, edges, size):
        assert abs(_lean(line)) < 0.35  # drawn by hand on whole screen px
    plumb = _ground(page)["plumb"]["params"]
    assert len(plumb["lines"]) == 2
    assert 12 < plumb["lean"] < 24
    expect(page.get_by_text(re.compile(r"The worst line is 0\.0\d° off"))).to_be_visible()
    accessible(page)

    # an end moved by keyboard solves anew; a line that crosses is refused in a sentence, and nothing is lost
    end = page.get_by_role("slider", name="upright line 1, first end")
    end.focus()
    page.keyboard.press("ArrowLeft")
    settled(page)
    moved = _ground(page)["plumb"]["params"]
    assert moved["lean"] != plumb["lean"]
    page.get_by_role("button", name="Draw a vertical").click()
    (x, top), (_, bottom) = _shown(page, edges, size)[0]
    drag(page, (x - 14, top + 4), (x + 16, bottom - 4))
    expect(page.get_by_role("alert")).to_contain_text(re.compile("cross|can be undone"))
    assert _ground(page)["plumb"]["params"] == moved
    page.get_by_role("button", name="Dismiss").click()
    page.keyboard.press("Escape")

    # off and on again by its own switch; put back alone
    page.get_by_role("button", name="Reset Plumb").click()
    settled(page)
    assert _ground(page)["plumb"]["params"]["lines"] == []


def test_a_crop_by_its_handles_and_a_format(page: Page):
    make_scene(page, "blue-hour")
    _open(page, "Trim")
    corner = page.get_by_role("slider", name="Crop: bottom right corner")
    drag_by(page, corner, -220, -60)
    settled(page)
    trim = _ground(page)["trim"]["params"]
    assert 0.4 < trim["width"] < 0.9
    assert trim["height"] is None
    inside = page.get_by_role("button", name="Crop: move it")
    inside.focus()
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    settled(page)
    assert _ground(page)["trim"]["params"]["centre"]["x"] > trim["centre"]["x"] + 0.01
    choose(page, "Format", "1:1")
    settled(page)
    page.keyboard.press("Escape")
    settled(page)
    h, w = picture(page).shape[:2]
    assert abs(h - w) <= 1
    # Escape in mid-drag takes it back
    _open(page, "Trim")
    before = _ground(page)["trim"]["params"]
    box = page.get_by_role("slider", name="Crop: left edge").bounding_box()
    page.mouse.move(box["x"] + 7, box["y"] + 7)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 7, steps=5)
    page.keyboard.press("Escape")
    page.mouse.up()
    settled(page)
    assert _ground(page)["trim"]["params"] == before
    accessible(page)


def test_a_horizon_is_levelled_by_drawing_and_by_finding(page: Page):
    make_scene(page, "sweep-1")
    _open(page, "Trim")
    shown = picture(page)
    h, w = shown.shape[:2]
    # the sea's edge: the strongest dark step downward, at two places
    grey = cv2.GaussianBlur(shown.astype(np.float32).mean(2), (0, 0), 1.5)
    step = np.diff(grey[int(0.3 * h) : int(0.75 * h)], axis=0)
    x0, x1 = int(0.08 * w), int(0.6 * w)
    y0, y1 = (int(step[:, x - 3 : x + 4].mean(1).argmin()) + int(0.3 * h) for x in (x0, x1))
    page.get_by_role("button", name="Draw the horizon").click()
    drag(page, on_picture(page, x0 / w, (y0 + 0.5) / h), on_picture(page, x1 / w, (y1 + 0.5) / h))
    settled(page)
    drawn = _ground(page)["trim"]["params"]["level"]
    assert drawn == pytest.approx(find("sweep-1").view.roll, abs=0.5)
    page.get_by_role("button", name="Find horizon").click()
    settled(page)
    found = _ground(page)["trim"]["params"]["level"]
    assert found == pytest.approx(find("sweep-1").view.roll, abs=0.25)
    # Escape leaves the tool, not the station
    page.get_by_role("button", name="Draw the horizon").click()
    expect(page.get_by_text("Draw along the horizon. Esc to finish.")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_text("Draw along the horizon. Esc to finish.")).to_have_count(0)


def test_start_for_me_says_why_and_each_part_can_be_undone(page: Page):
    tile(page, "blue-hour")
    page.get_by_role("link", name=re.compile("Open scene blue-hour")).click()
    settled(page)
    page.keyboard.press("[")
    expect(page).to_have_url(re.compile("/ground/"))
    settled(page)
    start = _ground(page)
    page.keyboard.press("s")
    expect(page.get_by_text("all of it from colour.")).to_be_visible()
    settled(page)
    proposed = _ground(page)
    assert proposed["noise"]["params"]["light"] > 0
    assert proposed["lens"]["params"]["known"] == "database"
    accessible(page)

    # Noise is judged in two loupes that sit on different places
    _open(page, "Noise")
    loupes = page.locator(".pair canvas")
    expect(loupes).to_have_count(2)
    page.wait_for_timeout(1500)
    pixels = "c => [...c.getContext('2d').getImageData(40, 40, 120, 90).data]"
    one, two = (np.array(loupes.nth(n).evaluate(pixels)).reshape(90, 120, 4)[..., :3] for n in (0, 1))
    assert one.std() > 0
    assert np.abs(one.astype(int) - two).mean() > 3
    loupes.nth(0).focus()
    for _ in range(3):
        page.keyboard.press("ArrowUp")
    page.wait_for_timeout(1200)
    assert not np.array_equal(np.array(loupes.nth(0).evaluate(pixels)).reshape(90, 120, 4)[..., :3], one)
    page.get_by_role("button", name="Reset Noise").click()
    settled(page)
    now = _ground(page)
    assert now["noise"]["params"] == start["noise"]["params"]
    assert now["crispness"] == proposed["crispness"]
    page.keyboard.press("Control+z")
    settled(page)
    assert _ground(page)["noise"] == proposed["noise"]

    # ways of looking: pushed colour and limits are held, and change nothing
    plain = picture(page)
    page.keyboard.down("5")
    expect(page.get_by_text("Colour four times as strong: casts show")).to_be_visible()
    page.wait_for_timeout(500)
    expect(page.locator(".stage")).to_have_attribute("data-state", "current")
    pushed = picture(page)
    page.wait_for_timeout(300)
    page.keyboard.up("5")
    assert np.ptp(pushed.astype(int), axis=2).mean() > 1.4 * np.ptp(plain.astype(int), axis=2).mean()
    settled(page)
    assert _ground(page) == proposed | {"noise": _ground(page)["noise"]}


def test_while_an_end_is_moved_what_clips_shows(page: Page):
    tile(page, "blue-hour")
    page.get_by_role("link", name=re.compile("Open scene blue-hour")).click()
    settled(page)
    page.keyboard.press("[")
    settled(page)
    _open(page, "Ends")
    plain = picture(page)
    slider = page.locator(".line.open .row", has_text="Prints white").locator(".el-slider__runway")
    slider.scroll_into_view_if_needed()
    box = slider.bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.5, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.02, box["y"] + box["height"] / 2, steps=6)
    page.wait_for_timeout(1200)
    shown = picture(page)
    assert (shown == 255).any(2).mean() > (plain == 255).any(2).mean() + 0.02
    flat = np.ptp(shown.astype(int), axis=2)
    assert np.median(flat) <= 6
    page.mouse.up()
    settled(page)
    assert (picture(page) != shown).any(2).mean() > 0.5
    page.get_by_role("button", name="Find both ends").click()
    settled(page)
    assert _ground(page)["ends"]["params"]["white"] is not None


def test_the_borders_check_names_what_it_found(page: Page):
    tile(page, "beacon")
    page.get_by_role("link", name=re.compile("Open scene beacon")).click()
    settled(page)
    page.keyboard.press("[")
    settled(page)
    page.get_by_role("button", name="More checks").click()
    page.get_by_role("menuitem", name="7 Borders").click()
    expect(page.locator(".strip img")).to_have_count(4)
    expect(page.locator(".words p").first).to_be_visible()
    accessible(page)
    page.keyboard.press("Escape")
    expect(page.locator(".strip")).to_have_count(0)


def test_the_camera_is_turned_by_dragging_the_picture(page: Page):
    """The picture goes along with the pointer; Escape takes the turn back."""
    tile(page, "blue-hour")
    page.get_by_role("link", name=re.compile("Open scene blue-hour")).click()
    settled(page)
    page.keyboard.press("[")
    settled(page)
    _open(page, "Plumb")
    page.get_by_role("button", name="Turn by hand").click()
    settled(page)
    start = _ground(page)["plumb"]["params"]
    x, y = on_picture(page, 0.5, 0.5)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y - 40, steps=6)
    page.keyboard.press("Escape")
    page.mouse.up()
    settled(page)
    assert _ground(page)["plumb"]["params"] == start
    expect(page.get_by_role("button", name="Turn by hand")).to_have_attribute("aria-pressed", "true")
    before = picture(page).astype(float)
    drag(page, on_picture(page, 0.5, 0.5), (x + 30, y - 20))
    settled(page)
    turned = _ground(page)["plumb"]["params"]
    assert turned["swing"] > start["swing"] + 1
    assert turned["lean"] > start["lean"] + 0.5
    after = picture(page).astype(float)
    h, w = min(before.shape[0], after.shape[0]), min(before.shape[1], after.shape[1])
    assert np.abs(before[:h, :w] - after[:h, :w]).mean() > 1
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    settled(page)
    assert _ground(page)["plumb"]["params"] == start
    page.get_by_role("button", name="Close Plumb").click()


def test_where_crispness_acts_is_seen_as_any_mask(page: Page):
    tile(page, "blue-hour")
    page.get_by_role("link", name=re.compile("Open scene blue-hour")).click()
    settled(page)
    page.keyboard.press("[")
    settled(page)
    _open(page, "Crispness")
    labels = page.locator(".line.open .controls .row > span:first-child").all_inner_texts()
    assert labels == ["At edges", "How fine", "How much", "Noise threshold"]
    page.keyboard.press("Escape")
    settled(page)
    plain = picture(page).astype(int)
    page.keyboard.press("4")
    expect(page.get_by_text("Where Crispness acts; h for another look")).to_be_visible()
    settled(page)
    page.wait_for_timeout(600)
    looks = []
    for _ in range(4):
        looks.append(picture(page).astype(int))
        page.keyboard.press("h")
        page.wait_for_timeout(300)
    assert all(np.abs(look - plain).mean() > 0.5 for look in looks)
    assert any((np.ptp(look, axis=2) < 3).mean() > 0.99 for look in looks), "one of them is black and white"
    page.keyboard.press("Escape")
    settled(page)
    assert np.abs(picture(page).astype(int) - plain).mean() < 0.5
