"""`make shots`: one current picture of each main view, from demo data, at 1280×800."""

import io
import re
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
from hands import (
    add_move,
    choose,
    drag,
    gathered,
    hold_land,
    hold_sky,
    ingredient,
    make_scene,
    new_move,
    on_picture,
    open_scene,
    settled,
    shown_as,
)
from PIL import Image
from playwright.sync_api import Page, expect
from running import ROOT, chromium, studio

SHOTS = ROOT / "docs" / "screenshots"


def ground(page: Page, shot: Callable[[str], None]) -> None:
    """Ground: a proposal and its plumb lines, the crop with its handles."""
    make_scene(page, "beacon")
    page.keyboard.press("s")
    expect(page.get_by_text("verticals corrected")).to_be_visible(timeout=30_000)
    settled(page)
    page.get_by_role("button", name="Open Plumb").click()
    settled(page)
    page.wait_for_timeout(1200)
    shot("ground-plumb")
    page.get_by_role("button", name="Open Trim").click()
    settled(page)
    page.wait_for_timeout(800)
    shot("ground-trim")


def latch(page: Page, shot: Callable[[str], None]) -> None:
    """A sky behind twigs; a painted refinement in black and white."""
    ingredient(page, "Sky")
    settled(page)
    box = page.locator(".stage").bounding_box()
    page.mouse.move(box["x"] + 0.22 * box["width"], box["y"] + 0.55 * box["height"])
    page.wait_for_timeout(1500)
    shot("latch-found")
    ingredient(page, "Hand")
    page.get_by_role("button", name="Paint to edges").click()
    page.mouse.move(box["x"] + 0.3 * box["width"], box["y"] + 0.62 * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + 0.7 * box["width"], box["y"] + 0.66 * box["height"], steps=12)
    page.mouse.up()
    shown_as(page, "Mask")
    settled(page)
    page.wait_for_timeout(1200)
    page.keyboard.press("Escape")
    shown_as(page, "Tint")


def joined(page: Page, shot: Callable[[str], None]) -> None:
    """Frames about to be joined, and the sweep they make: its projections, its seams."""
    page.get_by_role("region", name="Sweep of 5").get_by_role("button", name="Join").click()
    panel = page.get_by_role("region", name="Join", exact=True)
    expect(panel.get_by_role("img")).to_be_visible(timeout=40_000)
    page.wait_for_timeout(500)
    shot("gather-join")
    panel.get_by_role("button", name="Dismiss").click()
    page.get_by_role("region", name="Sweep of 5").get_by_role("link", name="Open scene").first.click()
    settled(page)
    page.get_by_role("button", name="Open Projection").click()
    expect(page.get_by_role("radiogroup", name="Projection").get_by_role("img")).to_have_count(6)
    settled(page)
    shot("join-sweep")
    page.keyboard.press("Escape")
    finished(page)
    worked(page, shot)
    page.get_by_role("link", name="The Ammerlin coast").click()
    gathered(page)


def worked(page: Page, shot: Callable[[str], None]) -> None:
    """The sweep that comes worked: the picture alone, and how its cable was taken out."""
    page.locator(".path a", has_text="Light").click()
    settled(page)
    box = page.locator(".stage").bounding_box()
    page.get_by_role("button", name="See how it was done").click()
    led = page.get_by_role("region", name="How it was done")
    led.get_by_role("button", name="Next").click()
    expect(led).to_contain_text("cable")
    settled(page)
    led.get_by_role("button", name="Without it").click()
    settled(page)
    page.wait_for_timeout(1200)
    page.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 0.2 * box["height"])
    page.wait_for_timeout(400)
    shot("worked-sweep")
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")


def finished(page: Page) -> None:
    """The picture of the scene that is open, and nothing else, 1280 px wide."""
    home, _, scene = page.url.replace("/join/", " ").partition(" ")
    opened = page.request.get(f"{home}/api/scenes/{scene}").json()
    w, h = opened["map"]["size"]
    asked = {
        "document": opened["revision"]["document"], "width": 1280, "height": round(1280 * h / w), "full": True,
        "view": "shots", "number": 1,
    }  # fmt: skip
    token = next(c["value"] for c in page.context.cookies() if c["name"] == "csrftoken")
    got = page.request.post(f"{home}/api/scenes/{scene}/picture", data=asked, headers={"X-CSRFToken": token})
    Image.open(io.BytesIO(got.body())).save(SHOTS / "finished.png")


def subject(page: Page, shot: Callable[[str], None]) -> None:
    """A walker in a rough box, only what is inside; a Fan from its row, as contours."""
    ingredient(page, "Subject")
    settled(page)
    drag(page, on_picture(page, 0.495, 0.52), on_picture(page, 0.538, 0.64))
    settled(page)
    page.mouse.move(*on_picture(page, 0.517, 0.58))
    page.mouse.wheel(0, -900)
    settled(page)
    shown_as(page, "Inside")
    page.wait_for_timeout(1200)
    page.get_by_role("button", name="Whole").click()
    page.get_by_role("button", name="Back to the ledger").click()
    ingredient(page, "Fan")
    row = page.get_by_role("list", name="The Fan, wide to narrow")
    expect(row.get_by_role("img")).to_have_count(6, timeout=20_000)
    row.get_by_role("button", name="Narrowness 2.7").click()
    shown_as(page, "Contour")
    settled(page)
    page.wait_for_timeout(1500)
    shot("latch-fan")
    shown_as(page, "Tint")


def mend(page: Page, shot: Callable[[str], None]) -> None:
    """The heath without its specks and its cable, a place grown anew; then another sky."""
    make_scene(page, "heath", "Mend")
    page.keyboard.press("f")
    expect(page.get_by_role("button", name="undo:")).to_contain_text("Mend", timeout=30_000)
    page.get_by_role("button", name="Wire", exact=True).click()
    for x, y in ((0.004, 0.4295), (0.997, 0.4052)):
        page.mouse.click(*on_picture(page, x, y))
    expect(page.get_by_role("button", name="undo: Take out wire")).to_be_visible(timeout=30_000)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    settled(page)
    page.get_by_role("button", name="Regrow", exact=True).click()
    x, y = on_picture(page, 0.5, 0.72)
    page.mouse.move(x, y)
    page.mouse.down()
    for dx, dy in ((30, -60), (62, -20), (66, 50), (30, 66), (2, 34)):
        page.mouse.move(x + dx, y + dy, steps=4)
    page.mouse.up()
    expect(page.get_by_role("button", name="undo: Regrow")).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="Regrow", exact=True).click()
    settled(page)
    page.wait_for_timeout(1500)
    shot("mend")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Bring a sky from another frame").click()
    page.get_by_role("button", name=re.compile("^Sky of sky-1")).click()
    expect(page.get_by_role("button", name="undo: New sky")).to_be_visible(timeout=60_000)
    settled(page)
    page.wait_for_timeout(2500)
    shot("mend-sky")


def shape(page: Page, shot: Callable[[str], None]) -> None:
    """A foreground pulled nearer, and how far each part is stretched."""
    make_scene(page, "boulders", "Mend")
    page.get_by_role("button", name="Enlarge").click()
    places = [(0.003, 0.62), (0.5, 0.64), (0.997, 0.62), (0.997, 0.996), (0.5, 0.996), (0.003, 0.996)]
    first, *rest = [on_picture(page, x, y) for x, y in places]
    page.mouse.move(*first)
    page.mouse.down()
    for to in rest:
        page.mouse.move(*to, steps=5)
    page.mouse.up()
    expect(page.get_by_role("button", name="undo: Enlarge foreground")).to_be_visible(timeout=30_000)
    page.keyboard.press("Escape")
    page.get_by_text("Show how far each part is stretched").click()
    settled(page)
    page.wait_for_timeout(800)
    shot("mend-shape")


def wrong(page: Page, shot: Callable[[str], None]) -> None:
    """A place pointed at, and a remedy tried."""
    page.get_by_role("button", name="Point at a problem").click()
    page.mouse.click(*on_picture(page, 0.25, 0.8))
    page.get_by_role("button", name="Too dark").click()
    remedies = page.get_by_role("region", name="What is wrong here").get_by_role("listitem")
    remedies.nth(1).hover(timeout=60_000)
    page.wait_for_timeout(2500)
    shot("light-wrong")
    page.keyboard.press("Escape")
    settled(page)


def carry(page: Page, shot: Callable[[str], None]) -> None:
    """Light carried up by dragging on the picture, with what is felt outlined."""
    new_move(page, "How bright?", "Rungs")
    settled(page)
    x, y = on_picture(page, 0.12, 0.62)
    page.mouse.move(x, y)
    page.mouse.down()
    expect(page.get_by_role("list", name="Rungs").get_by_role("listitem")).to_have_count(1)
    page.mouse.move(x, y - 50, steps=6)
    page.wait_for_timeout(2500)
    shot("light-carry")
    page.keyboard.press("Escape")
    page.mouse.up()
    page.get_by_role("button", name="Remove", exact=True).click()
    settled(page)


def proof(page: Page, shot: Callable[[str], None]) -> None:
    """On matte cotton: what preflight finds, a strip, the start beside now."""
    page.keyboard.press("Escape")
    page.keyboard.press("a")
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Proof").click()
    settled(page)
    for paper in ("Lustre", "Matte cotton"):
        page.get_by_role("button", name="Add a paper").click()
        page.get_by_role("menuitem", name=paper).click()
        settled(page)
    page.get_by_role("button", name="Preflight").click()
    expect(page.get_by_role("region", name="Proof")).to_contain_text("well", timeout=60_000)
    page.mouse.move(640, 300)
    settled(page)
    page.wait_for_timeout(800)
    shot("proof")
    page.get_by_role("button", name="Test strip").click()
    expect(page.get_by_role("button", name="Take as it is")).to_be_visible(timeout=60_000)
    page.wait_for_timeout(500)
    shot("proof-strip")
    page.keyboard.press("Escape")
    settled(page)
    page.locator(".verbs-row").get_by_role("button", name="Compare").click()
    page.get_by_role("menuitem", name="Split").click()
    page.get_by_role("button", name="What changed").click()
    expect(page.get_by_role("list", name="What changed")).to_be_visible(timeout=60_000)
    page.wait_for_timeout(4000)
    shot("proof-compare")


def main(frames: Path, out: Path) -> None:
    """Take them all."""
    out.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as data,
        studio(Path(data), frames, "sweep") as running,
        chromium() as browser,
    ):
        page = browser.new_page(viewport={"width": 1280, "height": 800})

        def shot(name: str) -> None:
            page.screenshot(path=out / f"{name}.png")

        page.goto(running.link)
        page.locator(".tile img").last.wait_for()
        gathered(page)
        shot("gather")
        page.get_by_role("button", name="Field camera").click()
        choose(page, "Viewpoint", "Boulder beach")
        expect(page.locator(".finder")).to_have_attribute("aria-busy", "false", timeout=30_000)
        page.wait_for_timeout(1500)
        expect(page.locator(".finder")).to_have_attribute("aria-busy", "false", timeout=30_000)
        gathered(page)
        shot("gather-field-camera")
        page.get_by_role("button", name="Disconnect").click()
        joined(page, shot)
        ground(page, shot)
        page.get_by_role("link", name="The Ammerlin coast").click()
        make_scene(page, "heath", "Light")
        latch(page, shot)
        page.get_by_role("link", name="The Ammerlin coast").click()
        mend(page, shot)
        page.get_by_role("link", name="The Ammerlin coast").click()
        shape(page, shot)
        page.get_by_role("link", name="The Ammerlin coast").click()
        make_scene(page, "path", "Light")
        subject(page, shot)
        page.get_by_role("link", name="The Ammerlin coast").click()
        open_scene(page, "stack-backlit")
        hold_sky(page)
        page.keyboard.press("Escape")
        hold_land(page)
        page.keyboard.press("Escape")
        add_move(page, "hold sky 1.1")
        add_move(page, "lift land 3.6")
        add_move(page, "contrast 20")
        settled(page)
        page.keyboard.press("Escape")
        page.mouse.move(640, 300)
        page.wait_for_timeout(800)
        shot("light-worked")
        wrong(page, shot)
        carry(page, shot)
        proof(page, shot)


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]) if len(sys.argv) > 2 else SHOTS)
