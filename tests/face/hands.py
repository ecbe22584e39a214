"""What a photographer's hands do at the Light station, in Playwright."""

import base64
import io
import re
from typing import Any

import numpy as np
from axe_playwright_python.sync_playwright import Axe
from numpy.typing import NDArray
from PIL import Image
from playwright.sync_api import Page, expect

STAGE = ".stage"


def settled(page: Page) -> None:
    """Wait until the picture is the full answer to what was asked, and it is saved."""
    current = expect(page.locator(STAGE))
    current.to_have_attribute("data-state", "current")
    expect(page.get_by_test_id("saved")).to_have_text("saved ✓")
    page.wait_for_timeout(300)
    current.to_have_attribute("data-state", "current")


def picture(page: Page) -> NDArray[Any]:
    """What the canvas shows of the picture now: (h, w, 3) uint8, cut to the picture."""
    data = page.locator(f"{STAGE} > canvas").first.evaluate(
        """c => { const p = c.getContext('2d'), f = p.getImageData(0, 0, c.width, c.height);
            const a = (x, y) => f.data[4 * (y * c.width + x) + 3] > 0;
            const mx = c.width >> 1, my = c.height >> 1;
            let x0 = mx, x1 = mx, y0 = my, y1 = my;
            while (x0 > 0 && a(x0 - 1, my)) x0--;
            while (x1 < c.width - 1 && a(x1 + 1, my)) x1++;
            while (y0 > 0 && a(mx, y0 - 1)) y0--;
            while (y1 < c.height - 1 && a(mx, y1 + 1)) y1++;
            const o = document.createElement('canvas');
            o.width = x1 - x0 + 1; o.height = y1 - y0 + 1;
            o.getContext('2d').putImageData(f, -x0, -y0);
            return o.toDataURL('image/png').split(',')[1]; }"""
    )
    return np.asarray(Image.open(io.BytesIO(base64.b64decode(data))).convert("RGB"))


def gathered(page: Page) -> None:
    """Wait until every picture in sight has come."""
    page.wait_for_load_state("networkidle")
    come = """[...document.images].every(i => i.complete && i.naturalWidth > 0
        || i.loading === 'lazy' && (i.getBoundingClientRect().top > innerHeight || !i.getClientRects().length))"""
    for _ in range(1200):  # two minutes; asked from outside: inside, the page's own policy forbids it
        if page.evaluate(come):
            break
        page.wait_for_timeout(100)
    else:
        raise AssertionError("a picture did not come")
    page.wait_for_timeout(300)


def tile(page: Page, frame: str) -> None:
    """At Gather: point at a frame, so that what can be done with it is there."""
    page.get_by_role("button", name=f"Look at {frame}.dng", exact=True).hover()


def open_scene(page: Page, name: str, frame: str = "") -> None:
    """From Gather into a scene of that name; of its frame, where that is called otherwise."""
    tile(page, frame or re.sub(r" \d+$", "", name))
    page.get_by_role("link", name=f"Open scene {name}", exact=True).click()
    settled(page)


def begin_scene(page: Page, name: str) -> None:
    """From Gather: a new scene of a frame."""
    tile(page, name)
    page.get_by_role("button", name=f"New scene from {name}.dng", exact=True).click()


def make_scene(page: Page, name: str, station: str = "Ground") -> None:
    """From Gather: a new scene of a frame, which opens at Ground; on to a station along the path."""
    begin_scene(page, name)
    settled(page)
    if station != "Ground":
        page.get_by_role("navigation", name="The path").get_by_role("link", name=station).click()
        settled(page)


def choose(page: Page, label: str, option: str, within: Any = None) -> None:
    """Choose from a list by what it says."""
    box = (within or page).get_by_role("combobox", name=label, exact=True)
    box.locator("xpath=ancestor::div[contains(concat(' ', @class, ' '), ' el-select ')]").click()
    page.get_by_role("option", name=option, exact=True).locator("visible=true").click()
    expect(page.locator("[role=listbox]:visible")).to_have_count(0)


def pick(page: Page, opener: Any, item: str) -> None:
    """Open a menu and take one of its items."""
    opener.click()
    page.get_by_role("menuitem", name=item, exact=True).locator("visible=true").click()
    expect(page.locator("[role=menu]:visible")).to_have_count(0)


def kind(page: Page, label: str) -> None:
    """Take a kind from the sheet that is open."""
    page.get_by_role("dialog").locator("button.kind").filter(
        has=page.get_by_text(label, exact=True)
    ).last.click()


def new_latch(page: Page, label: str) -> None:
    """A new latch of one ingredient, from the shelf; it is open then, and what it is made with in hand."""
    page.get_by_role("button", name="New latch", exact=True).click()
    kind(page, label)


def add_ingredient(page: Page, label: str) -> None:
    """One more ingredient for the opened latch."""
    page.get_by_role("button", name="Add ingredient").click()
    kind(page, label)


def ingredient(page: Page, label: str) -> None:
    """One more ingredient of the opened latch; of a new latch where none is open."""
    if page.get_by_role("region", name="Latch", exact=True).is_visible():
        add_ingredient(page, label)
    else:
        new_latch(page, label)


def shown_as(page: Page, look: str) -> None:
    """How the mask of the opened latch is shown."""
    page.get_by_role("radiogroup", name="Shown as").get_by_text(look, exact=True).click()


def new_move(page: Page, question: str, label: str) -> None:
    """A move from the menu of its question."""
    page.get_by_role("button", name=question, exact=True).click()
    page.locator(".kind-item:visible").filter(has=page.get_by_text(label, exact=True)).click()


def on_picture(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a place of the shown picture (fractions) lies on the page."""
    box = page.locator(STAGE).bounding_box()
    frame = page.locator(f"{STAGE} > canvas").first.evaluate(
        """c => { const p = c.getContext('2d'), f = p.getImageData(0, 0, c.width, c.height);
            const a = (x, y) => f.data[4 * (y * c.width + x) + 3] > 0;
            const mx = c.width >> 1, my = c.height >> 1;
            let x0 = mx, x1 = mx, y0 = my, y1 = my;
            while (x0 > 0 && a(x0 - 1, my)) x0--;
            while (x1 < c.width - 1 && a(x1 + 1, my)) x1++;
            while (y0 > 0 && a(mx, y0 - 1)) y0--;
            while (y1 < c.height - 1 && a(mx, y1 + 1)) y1++;
            return [x0, y0, x1 + 1, y1 + 1]; }"""
    )
    x0, y0, x1, y1 = frame
    return box["x"] + x0 + x * (x1 - x0), box["y"] + y0 + y * (y1 - y0)


def drag(page: Page, start: tuple[float, float], end: tuple[float, float], steps: int = 12) -> None:
    """Press, move, release."""
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(*end, steps=steps)
    page.mouse.up()


def drag_by(page: Page, target: Any, dx: float, dy: float = 0) -> None:
    """Drag an element by so many px."""
    box = target.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    drag(page, (x, y), (x + dx, y + dy))


def hold_sky(page: Page) -> None:
    """A luminosity mask leaning to the lights, kept by a ramp to the upper part; named Sky."""
    new_latch(page, "Fan")
    page.get_by_label("Name of the latch").fill("Sky")
    page.get_by_label("Name of the latch").press("Enter")
    add_ingredient(page, "Ramp")
    settled(page)


def hold_land(page: Page) -> None:
    """A latch for the dark land, from the shelf."""
    new_latch(page, "Fan")
    page.get_by_label("Name of the latch").fill("Land")
    page.get_by_label("Name of the latch").press("Enter")
    page.get_by_role("button", name="Fan leaning to").click()
    expect(page.get_by_text("the darks", exact=True)).to_be_hidden()
    page.get_by_role("button", name="Fan leaning to").click()
    page.get_by_text("the darks", exact=True).click()
    expect(page.get_by_role("radio", name="the darks")).to_be_checked()
    page.get_by_role("spinbutton", name="Narrowness").click()
    page.get_by_role("textbox", name="Narrowness").fill("6")
    page.get_by_role("textbox", name="Narrowness").press("Enter")
    expect(page.get_by_role("button", name="Fan leaning to the darks")).to_be_visible()
    expect(page.get_by_role("spinbutton", name="Narrowness")).to_have_text("6.0")
    settled(page)


def add_move(page: Page, words: str, understood: bool = True) -> None:
    """Type a move and Enter; understood: it is taken as it stands."""
    page.get_by_label("Type an edit").fill(words)
    page.get_by_label("Type an edit").press("Enter")
    if understood:
        expect(page.get_by_label("Type an edit")).to_have_value("")


def accessible(page: Page) -> None:
    """axe finds nothing against WCAG 2.2 A and AA."""
    found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]})
    faults = [(v["id"], [n["html"][:120] for n in v["nodes"]]) for v in found.response["violations"]]
    assert not faults, faults
