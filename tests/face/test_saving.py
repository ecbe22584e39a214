"""Nothing that was called saved is lost, and what is not saved is not called so: the server killed, a session ended, two
windows, a page that is gone, keys and pointers that never come up."""

import json
import os
import re
import signal
import sqlite3
import time
from contextlib import contextmanager

import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import smaller
from fieldworld.outing import find
from tests.coast import shoot
from tests.face.hands import accessible, add_move, begin_scene, drag, drag_by, on_picture, settled
from tests.face.running import chromium, saved_document, studio


@pytest.fixture(scope="module")
def running(tmp_path_factory):
    """A studio of its own, to be killed, with one small frame and its scene."""
    frames = tmp_path_factory.mktemp("frames")
    shoot(smaller(find("stack-backlit"), 900), frames / "stack-backlit.dng")
    with studio(tmp_path_factory.mktemp("data"), frames) as started:
        yield started


@pytest.fixture(scope="module")
def context(running):
    """A browser, signed in."""
    with chromium() as browser:
        made = browser.new_context(viewport={"width": 1280, "height": 800})
        page = made.new_page()
        page.goto(running.link)
        page.wait_for_url(f"{running.url}/")
        page.close()
        yield made


def _sql(running, query, *values):
    with sqlite3.connect(running.data / "studio.sqlite3", timeout=20) as base:
        return base.execute(query, values).fetchall()


@pytest.fixture
def scene(context, running):
    """A fresh scene at Light, with one Exposure."""
    page = context.new_page()
    page.goto(running.url)
    begin_scene(page, "stack-backlit")
    settled(page)
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Light").click()
    settled(page)
    add_move(page, "lift 0.5")
    settled(page)
    yield page
    page.close(run_before_unload=False)


def _id(page: Page) -> str:
    return page.url.rpartition("/")[2]


def _number(page: Page):
    return page.get_by_role("spinbutton", name="Exposure: Exposure")


def _revisions(running, scene_id):
    """Every revision's words and exposure, in order."""
    rows = _sql(
        running, "SELECT words, document FROM studio_revision WHERE scene_id = ? ORDER BY number", scene_id
    )
    return [(words, [m["params"]["ev"] for m in json.loads(d)["moves"]]) for words, d in rows]


def _saved(page: Page, text: str = "saved ✓", seconds: float = 60) -> None:
    expect(page.get_by_test_id("saved")).to_have_text(text, timeout=seconds * 1000)


@contextmanager
def _away(running):
    """The web server is killed, and not started again while inside."""
    web = running.web()
    os.kill(running.process.pid, signal.SIGSTOP)
    os.kill(web, signal.SIGKILL)
    try:
        yield
    finally:
        os.kill(running.process.pid, signal.SIGCONT)
        until = time.monotonic() + 60
        while not running.listening() and time.monotonic() < until:
            time.sleep(0.1)


def test_killed_in_the_midst_of_edits_every_edit_is_found_that_was_called_saved(scene, running):
    called_saved = []
    for n in range(3):
        drag_by(scene, _number(scene), 24)
        _saved(scene)
        called_saved.append(_number(scene).inner_text())
        if n == 1:  # in the midst of it, and started again by itself
            os.kill(running.web(), signal.SIGKILL)
    shown = [f"+{v[0]:.1f} stops" for _, v in _revisions(running, _id(scene)) if v]
    for text in called_saved:
        assert text in shown
    scene.reload()
    settled(scene)
    expect(_number(scene)).to_have_text(called_saved[-1])


def test_while_the_studio_is_away_work_goes_on_and_is_saved_when_it_is_back(scene, running):
    with _away(running):
        drag_by(scene, _number(scene), 40)
        _saved(scene, "not saved: no connection, retrying")
        drag_by(scene, _number(scene), 40)
        last = _number(scene).inner_text()
        assert last == "+1.5 stops"
        expect(scene.get_by_role("heading", name="Sign in")).to_be_hidden()
        expect(scene.get_by_role("dialog", name="Sign in again")).to_be_hidden()
    _saved(scene)
    assert [v for _, v in _revisions(running, _id(scene))][-2:] == [[1.0], [1.5]]
    scene.reload()
    settled(scene)
    expect(_number(scene)).to_have_text(last)


def test_what_was_drawn_while_the_line_was_down_is_mended_when_it_is_back(scene):
    """The stroke is not lost, the ladder does not stay old, and nobody goes on saying that there is no line."""
    scene.get_by_role("navigation", name="The path").get_by_role("link", name="Mend").click()
    settled(scene)
    scene.context.set_offline(True)
    try:
        scene.get_by_role("button", name="Heal", exact=True).click()
        x, y = on_picture(scene, 0.6, 0.8)
        drag(scene, (x, y), (x + 24, y + 5))
        expect(scene.get_by_role("alert")).to_have_text(re.compile("No connection .* it is tried again"))
        # what is seen otherwise while it is down is old, and says so
        scene.keyboard.press("Escape")
        scene.get_by_role("navigation", name="The path").get_by_role("link", name="Light").click()
        drag_by(scene, _number(scene), 40)
        expect(scene.get_by_text("out of date")).to_be_visible()
    finally:
        scene.context.set_offline(False)
    settled(scene)
    expect(scene.get_by_role("alert")).to_have_count(0)
    expect(scene.get_by_text("out of date")).to_be_hidden()
    expect(scene.get_by_text("Heal", exact=True).first).to_be_visible()
    saved = saved_document(scene.url)
    assert [r["kind"] for r in saved["repairs"]] == ["heal"]
    assert saved["moves"][0]["params"]["ev"] == 1.0


def test_a_session_that_ends_asks_for_the_password_in_place(scene, running):
    _sql(running, "DELETE FROM django_session")
    drag_by(scene, _number(scene), 40)
    again = scene.get_by_role("dialog", name="Sign in again")
    expect(again).to_be_visible()
    _saved(scene, "not saved: signed out")
    accessible(scene)
    again.get_by_label("Password of demo").fill("wrong")
    again.get_by_role("button", name="Sign in").click()
    expect(again.get_by_role("alert")).to_contain_text("Wrong name or password")
    again.get_by_label("Password of demo").fill("ammerlin coast")
    again.get_by_label("Password of demo").press("Enter")
    expect(again).to_be_hidden()
    _saved(scene)
    expect(_number(scene)).to_have_text("+1.0 stops")
    settled(scene)
    assert _revisions(running, _id(scene))[-1][1] == [1.0]


@pytest.mark.parametrize("whose", ["mine", "the other"])
def test_of_two_windows_neither_overwrites_the_other_unasked(scene, context, running, whose):
    other = context.new_page()
    other.goto(scene.url)
    settled(other)
    drag_by(other, _number(other), 80)
    settled(other)
    expect(_number(other)).to_have_text("+1.5 stops")
    drag_by(scene, _number(scene), -40)
    asks = scene.get_by_role("alertdialog", name="Two changes to one scene")
    expect(asks).to_be_visible()
    _saved(scene, "not saved: choose a version")
    accessible(scene)
    asks.get_by_role("button", name="Preview other version").click()
    expect(asks.get_by_role("button", name="Show mine")).to_be_visible()
    asks.get_by_role(
        "button", name={"mine": "Keep mine", "theirs": "Use the other", "the other": "Use the other"}[whose]
    ).click()
    _saved(scene)
    expect(_number(scene)).to_have_text("0.0 stops" if whose == "mine" else "+1.5 stops")
    values = [v for _, v in _revisions(running, _id(scene))]
    assert [1.5] in values
    assert values[-1] == ([0.0] if whose == "mine" else [1.5])
    other.close()


def test_what_a_page_that_is_gone_had_not_saved_is_offered(scene, context, running):
    address = scene.url
    with _away(running):
        drag_by(scene, _number(scene), 80)
        _saved(scene, "not saved: no connection, retrying")
        scene.wait_for_timeout(300)
        scene.close(run_before_unload=False)
    again = context.new_page()
    again.goto(address)
    left = again.get_by_role("alertdialog", name="Changes that were not saved")
    expect(left).to_contain_text("Exposure")
    accessible(again)
    left.get_by_role("button", name="Restore").click()
    expect(_number(again)).to_have_text("+1.5 stops")
    _saved(again)
    assert _revisions(running, address.rpartition("/")[2])[-1][1] == [1.5]
    again.reload()
    settled(again)
    expect(left).to_be_hidden()
    again.close()


def test_escape_after_a_drag_goes_back_to_what_was_committed_though_it_is_on_its_way(scene, context, running):
    scene.route("**/revisions", lambda route: (time.sleep(1.2), route.continue_()))
    drag_by(scene, _number(scene), 40)
    number = _number(scene).bounding_box()
    x, y = number["x"] + 10, number["y"] + 10
    scene.mouse.move(x, y)
    scene.mouse.down()
    scene.mouse.move(x + 80, y, steps=6)
    scene.keyboard.press("Escape")
    scene.mouse.up()
    expect(_number(scene)).to_have_text("+1.0 stops")
    scene.unroute("**/revisions")
    _saved(scene)
    assert _revisions(running, _id(scene))[-1][1] == [1.0]


def test_an_arrow_held_while_tab_leaves_is_done(scene, running):
    _number(scene).focus()
    scene.keyboard.down("ArrowUp")
    scene.keyboard.press("Tab")
    _saved(scene)
    scene.keyboard.up("ArrowUp")
    assert _revisions(running, _id(scene))[-1][1] == [0.6]


def test_a_pointer_that_is_taken_away_leaves_nothing_behind(scene, running):
    before = len(_revisions(running, _id(scene)))
    number = _number(scene).bounding_box()
    x, y = number["x"] + 10, number["y"] + 10
    scene.mouse.move(x, y)
    scene.mouse.down()
    scene.mouse.move(x + 80, y, steps=6)
    expect(_number(scene)).to_have_text("+1.5 stops")
    scene.evaluate("window.dispatchEvent(new PointerEvent('pointercancel', {pointerId: 1}))")
    expect(_number(scene)).to_have_text("+0.5 stops")
    scene.mouse.up()
    settled(scene)
    assert len(_revisions(running, _id(scene))) == before


def test_a_move_for_a_latch_that_is_not_there_asks_first(scene):
    add_move(scene, "burn sky 0.9", understood=False)
    expect(scene.get_by_text("There is no latch called “sky”.")).to_be_visible()
    expect(_number(scene)).to_have_count(1)
    accessible(scene)
    scene.get_by_role("button", name="Create latch “Sky”").click()
    settled(scene)
    expect(scene.get_by_role("spinbutton", name="Exposure on Sky: Exposure")).to_have_text("−0.9 stops")


def test_leaving_with_something_unsaved_is_warned_of(scene, running):
    asked = []
    scene.on("dialog", lambda dialog: (asked.append(dialog.type), dialog.dismiss()))
    with _away(running):
        drag_by(scene, _number(scene), 40)
        _saved(scene, "not saved: no connection, retrying")
        scene.close(run_before_unload=True)
        scene.wait_for_timeout(500)
    assert asked == ["beforeunload"]
    _saved(scene)
