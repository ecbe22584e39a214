"""Leaving in the midst, Escape, a quick hand, the line gone: answers land where they belong, and what is said is so."""

import json
import re
from contextlib import contextmanager

import pytest
from playwright.sync_api import BrowserContext, Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import find
from tests.coast import shoot
from tests.face.hands import STAGE, add_move, drag, gathered, on_picture, settled, tile
from tests.face.running import chromium

FRAMES = {"bracket-3": 900, "path": 900}


@pytest.fixture(scope="module")
def started(tmp_path_factory, with_frames):
    """A studio with two frames, and a browser signed in."""
    folder = tmp_path_factory.mktemp("left")
    for name, px in FRAMES.items():
        shoot(smaller(find(name), px), folder / f"{name}.dng")
    with chromium() as browser:
        running = with_frames(folder)
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        page = context.new_page()
        page.goto(running.link)
        page.wait_for_url(f"{running.url}/")
        page.close()
        yield running.url, context


def _ask(context: BrowserContext, url: str, path: str, body: object = None):
    headers = {"X-CSRFToken": next(c["value"] for c in context.cookies() if c["name"] == "csrftoken")}
    if body is None:
        return context.request.get(f"{url}/api/{path}").json()
    answer = context.request.post(f"{url}/api/{path}", data=json.dumps(body), headers=headers)
    assert answer.ok, answer.text()
    return answer.json()


@pytest.fixture
def scenes(started):
    """A fresh scene of each frame, by name: their ids."""
    url, context = started
    context.new_page().goto(url)
    frames = [f for o in _ask(context, url, "outings") for f in o["frames"]]
    return {f["name"][:-4]: _ask(context, url, f"frames/{f['id']}/scenes", {})["id"] for f in frames}


@pytest.fixture
def page(started, scenes):
    """The bracket's frame at Mend."""
    url, context = started
    made = context.new_page()
    errors: list[str] = []
    made.on("pageerror", lambda error: errors.append(str(error)))
    made.goto(f"{url}/mend/{scenes['bracket-3']}")
    settled(made)
    yield made
    made.close()
    assert not errors, errors


@contextmanager
def held_back(page: Page, path: str):
    """Inside, questions to an address wait until they are let go: what waits until one was asked, and what lets them go."""
    waiting = []

    def hold(route):
        waiting.append(route)

    def let_go():
        for route in waiting:
            route.continue_()

    page.route(path, hold)

    def asked():
        while not waiting:
            page.wait_for_timeout(50)

    yield asked, let_go
    page.unroute(path, hold)


def _document(page: Page, started, scene: str):
    url, context = started
    return _ask(context, url, f"scenes/{scene}")["revision"]["document"]


def _outline(page: Page, at=(0.45, 0.6), release: bool = True) -> None:
    x, y = on_picture(page, *at)
    page.mouse.move(x, y)
    page.mouse.down()
    for dx, dy in ((40, 0), (40, 30), (0, 30), (0, 6)):
        page.mouse.move(x + dx, y + dy, steps=5)
    if release:
        page.mouse.up()


def _tool(page: Page, name: str) -> None:
    page.get_by_role("button", name=name, exact=True).click()


def _elsewhere(page: Page, started, scene: str, station: str = "mend") -> None:
    """To another scene within the page, as by a link."""
    page.evaluate("to => { history.pushState({}, '', to); dispatchEvent(new PopStateEvent('popstate')); }",
                  f"/{station}/{scene}")  # fmt: skip
    expect(page.get_by_role("heading", level=1)).not_to_contain_text("bracket-3")
    settled(page)


def test_a_regrow_begun_in_one_scene_is_saved_there_and_not_in_the_next(page, started, scenes):
    _tool(page, "Regrow")
    with held_back(page, "**/mend/regrow") as (asked, let_go):
        _outline(page)
        asked()
        _elsewhere(page, started, scenes["path"])
        let_go()
    ridge, path = scenes["bracket-3"], scenes["path"]
    for _ in range(1200):
        if _document(page, started, ridge)["repairs"]:
            break
        page.wait_for_timeout(100)
    assert [r["kind"] for r in _document(page, started, ridge)["repairs"]] == ["regrow"]
    assert _document(page, started, path)["repairs"] == []
    expect(page.get_by_role("list", name="Repairs").get_by_role("listitem")).to_have_count(0)


def test_a_thing_hidden_for_a_look_is_nothing_once_one_has_left(page, started, scenes):
    _tool(page, "Hide")
    with held_back(page, "**/mend/regrow") as (asked, let_go):
        _outline(page)
        asked()
        page.get_by_role("navigation", name="The path").get_by_role("link", name="Light").click()
        expect(page.get_by_label("Type an edit")).to_be_visible()
        let_go()
    add_move(page, "lift 0.5")
    settled(page)
    page.wait_for_timeout(1500)
    assert _document(page, started, scenes["bracket-3"])["repairs"] == []


@pytest.mark.parametrize("tool", ["Regrow", "Heal", "Nudge"])
def test_escape_in_mid_stroke_and_no_movement_after_it_draws(page, started, scenes, tool):
    _tool(page, tool)
    _outline(page, release=False)
    page.keyboard.press("Escape")
    x, y = on_picture(page, 0.6, 0.5)
    page.mouse.move(x, y, steps=8)
    page.mouse.up()
    page.mouse.move(x + 40, y + 20, steps=6)
    settled(page)
    document = _document(page, started, scenes["bracket-3"])
    assert (document["repairs"], document["shapes"]) == ([], [])
    expect(page.get_by_role("button", name="undo")).to_be_disabled()
    # and the next one is drawn
    if tool == "Nudge":
        _outline(page)
        expect(page.get_by_role("button", name="undo: Push")).to_be_visible()


def test_two_quick_undos_undo_twice(page, started, scenes):
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Light").click()
    for n in range(3):
        add_move(page, f"lift 0.{n + 3}")
    settled(page)
    page.locator(STAGE).focus()
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(page.locator(".line")).to_have_count(1)
    expect(page.get_by_role("alert")).to_have_count(0)
    settled(page)
    assert len(_document(page, started, scenes["bracket-3"])["moves"]) == 1


def test_an_edit_while_an_undo_is_on_its_way_is_no_other_windows(page, started, scenes):
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Light").click()
    for n in range(2):
        add_move(page, f"lift 0.{n + 3}")
    settled(page)
    page.locator(STAGE).focus()
    with held_back(page, "**/undo") as (asked, let_go):
        page.keyboard.press("Control+z")
        asked()
        add_move(page, "contrast 20")
        page.wait_for_timeout(500)
        let_go()
    settled(page)
    expect(page.get_by_role("alertdialog")).to_have_count(0)
    expect(page.get_by_role("alert")).to_have_count(0)
    kinds = [m["kind"] for m in _document(page, started, scenes["bracket-3"])["moves"]]
    assert kinds[-1] == "contrast"


def test_a_key_held_while_the_window_changes_leaves_no_look_behind(page):
    page.locator(STAGE).focus()
    page.keyboard.down("5")
    looked = page.locator("footer [aria-pressed=true]", has_text=re.compile("^5"))
    expect(looked).to_be_visible()
    page.evaluate("dispatchEvent(new Event('blur'))")
    expect(looked).to_have_count(0)
    page.keyboard.up("5")
    expect(looked).to_have_count(0)


def test_the_picture_comes_by_itself_once_the_line_is_back(page, started, scenes):
    page.route("**/picture", lambda route: route.abort())
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Light").click()
    add_move(page, "lift 1.0")
    expect(page.get_by_role("alert")).to_contain_text("No connection")
    expect(page.locator("footer .waits")).not_to_contain_text("developing")
    page.unroute("**/picture")
    expect(page.get_by_role("alert")).to_have_count(0)
    settled(page)


def test_what_cannot_be_shown_names_its_line_and_is_switched_off(started, scenes):
    """A repair whose map is gone: the scene opens all the same, without it."""
    url, context = started
    scene = scenes["bracket-3"]
    opened = _ask(context, url, f"scenes/{scene}")
    document = opened["revision"]["document"]
    outline = [0.4, 0.3, 0.5, 0.3, 0.5, 0.4]
    document["repairs"] = [
        {
            "id": "r" * 36,
            "kind": "regrow",
            "name": "foot",
            "area": {"outline": outline},
            "map": "0" * 64,
            "seed": 0,
        }
    ]
    body = {"base": opened["revision"]["number"], "document": document, "words": "Regrow"}
    _ask(context, url, f"scenes/{scene}/revisions", body)
    page = context.new_page()
    page.goto(f"{url}/mend/{scene}")
    alert = page.get_by_role("alert").filter(has_text="Regrow: foot cannot be shown, and is left out")
    expect(alert).to_be_visible()
    settled(page)
    ink = page.locator(f"{STAGE} > canvas").first.evaluate(
        "c => c.getContext('2d').getImageData(c.width >> 1, c.height >> 1, 1, 1).data[3]"
    )
    assert ink == 255  # a picture is in sight
    alert.get_by_role("button", name="Switch off Regrow: foot").click()
    expect(page.get_by_role("alert")).to_have_count(0)
    settled(page)
    assert _ask(context, url, f"scenes/{scene}")["revision"]["document"]["repairs"][0]["on"] is False
    page.close()


def test_delete_with_nothing_focused_removes_nothing(started, scenes):
    url, context = started
    page = context.new_page()
    page.goto(url)
    page.locator(".tile img").first.wait_for()
    page.evaluate("document.activeElement?.blur()")
    page.keyboard.press("Delete")
    page.wait_for_timeout(500)
    expect(page.locator("[data-frame]")).to_have_count(2)
    page.locator("[data-frame]").nth(1).focus()
    name = page.locator("[data-frame]").nth(1).get_by_role("img").first.get_attribute("alt")
    page.keyboard.press("Delete")
    expect(page.get_by_role("status").filter(has_text="removed")).to_contain_text(name.partition(".")[0])
    expect(page.locator("[data-frame]")).to_have_count(1)
    page.get_by_role("button", name="Undo").first.click()
    expect(page.locator("[data-frame]")).to_have_count(2)
    page.close()


def test_a_hundred_percent_is_a_px_of_the_device(started, scenes):
    """At a pixel ratio of 2: as many px are asked for as the screen has, and drawn as they come."""
    url, context = started
    sharp = context.browser.new_context(
        viewport={"width": 1280, "height": 800}, device_scale_factor=2, storage_state=context.storage_state()
    )
    page = sharp.new_page()
    asked = []
    page.on(
        "request",
        lambda r: (
            asked.append(json.loads(r.post_data)) if r.url.endswith("/picture") and r.post_data else None
        ),
    )
    page.goto(f"{url}/ground/{scenes['path']}")
    settled(page)
    page.keyboard.press("r")
    settled(page)
    last = [a for a in asked if a["full"]][-1]
    frame = _ask(context, url, f"scenes/{scenes['path']}")
    width = frame["map"]["size"][0]
    across = last["region"][2] - last["region"][0]
    assert last["width"] == pytest.approx(across * width, abs=1)
    stage = page.locator(STAGE).bounding_box()
    assert last["width"] == min(width, round(stage["width"] * 2))
    sharp.close()


def test_a_drag_on_a_picture_left_alone_is_saved(page):
    """So that the tests above would notice a page that draws nothing at all."""
    _tool(page, "Heal")
    drag(page, on_picture(page, 0.3, 0.3), on_picture(page, 0.34, 0.3))
    expect(page.get_by_role("button", name="undo: Heal")).to_be_visible()


def test_a_scene_that_is_opened_asks_nothing_more_of_the_one_before(page: Page, scenes):
    """From Gather into another scene: what is computed is for that one, and nothing is done in the other any more."""
    _tool(page, "Heal")
    drag(page, on_picture(page, 0.3, 0.3), on_picture(page, 0.34, 0.3))
    expect(page.get_by_role("button", name="undo: Heal")).to_be_visible()
    page.get_by_role("link", name="The Ammerlin coast").click()
    gathered(page)
    asked = []
    page.on("request", lambda request: asked.append(request.url))
    page.evaluate("0")  # what was under way has been asked
    asked.clear()
    newest = page.locator(f"a[href$='{scenes['path']}']").first
    tile(page, "path")
    with held_back(page, f"**/api/scenes/{scenes['path']}") as (asked_for, let_go):
        newest.click()
        asked_for()
        expect(page.get_by_role("heading", level=1)).not_to_contain_text("bracket-3")
        expect(page.get_by_role("button", name="undo", exact=True)).to_be_disabled()
        page.keyboard.press("Control+z")
        page.keyboard.press("a")
        let_go()
    expect(page.get_by_role("heading", level=1)).to_contain_text("path")
    settled(page)
    assert any(scenes["path"] in url for url in asked)
    assert not [url for url in asked if scenes["bracket-3"] in url]
