"""Latches with pointer and keyboard: a sky with twigs, a painted refinement, a picked colour, a pool, one of others."""

import cv2
import numpy as np
import pytest
from playwright.sync_api import Page, expect

from fieldworld.camera import shoot, smaller
from fieldworld.outing import find
from tests.face.hands import accessible, drag, drag_by, gathered, make_scene, on_picture, picture, settled
from tests.face.running import chromium, studio


@pytest.fixture(scope="module")
def roll(tmp_path_factory):
    """The heath with its birches and cable, small, and its truth."""
    folder = tmp_path_factory.mktemp("latches")
    return folder, shoot(smaller(find("heath"), 1800), folder / "heath.dng")


@pytest.fixture(scope="module")
def page(roll, tmp_path_factory):
    """The heath at Light, masks shown in black and white."""
    with studio(tmp_path_factory.mktemp("latch-data"), roll[0]) as running, chromium() as browser:
        opened = browser.new_page(viewport={"width": 1280, "height": 800})
        errors: list[str] = []
        opened.on("pageerror", lambda e: errors.append(str(e)))
        opened.goto(running.link)
        opened.locator(".tile img").first.wait_for()
        gathered(opened)
        make_scene(opened, "heath", "Light")
        yield opened
        assert not errors, errors


def _new(page: Page, kind: str, name: str) -> None:
    if page.get_by_role("button", name="Ledger").count():
        page.get_by_role("button", name="Ledger").click()
    page.get_by_role("button", name=f"+ {kind}", exact=True).click()
    page.get_by_label("Name of the latch").fill(name)
    page.get_by_label("Name of the latch").press("Enter")
    page.get_by_text("Black and white", exact=True).click()
    settled(page)


def _mask(page: Page) -> np.ndarray:
    """The mask as the canvas shows it, 0–1."""
    settled(page)
    page.wait_for_timeout(300)
    return picture(page)[..., 1] / 255


def _at(page: Page, x: float, y: float) -> float:
    mask = _mask(page)
    h, w = mask.shape
    return float(mask[int(y * h), int(x * w)])


def test_a_sky_behind_twigs_and_its_refinement_by_hand(page, roll):
    _new(page, "Sky", "Sky")
    mask = _mask(page)
    truth = cv2.resize(roll[1].sky, mask.shape[::-1], interpolation=cv2.INTER_AREA)
    held, true = mask > 0.5, truth > 0.5
    assert (held & true).sum() / (held | true).sum() > 0.985
    accessible(page)
    # a little of the heath is added by hand, and some of that is taken away again
    page.get_by_role("button", name="+ Hand", exact=True).click()
    page.get_by_role("button", name="Paint", exact=True).click()
    drag(page, on_picture(page, 0.3, 0.8), on_picture(page, 0.6, 0.8))
    expect(page.get_by_text("undo: Painted by hand")).to_be_visible()
    assert _at(page, 0.45, 0.8) > 0.9
    assert _at(page, 0.45, 0.9) < 0.1
    page.get_by_role("button", name="Erase", exact=True).click()
    drag(page, on_picture(page, 0.45, 0.76), on_picture(page, 0.45, 0.84))
    assert _at(page, 0.45, 0.8) < 0.1
    assert _at(page, 0.35, 0.8) > 0.9
    # Shift goes straight on from the last stroke
    page.get_by_role("button", name="Paint", exact=True).click()
    page.mouse.click(*on_picture(page, 0.7, 0.7))
    settled(page)
    page.keyboard.down("Shift")
    page.mouse.click(*on_picture(page, 0.9, 0.7))
    page.keyboard.up("Shift")
    assert _at(page, 0.8, 0.7) > 0.9
    page.keyboard.press("Escape")
    # why is this place in? the row that decides is told
    page.mouse.move(*on_picture(page, 0.8, 0.7))
    expect(page.locator(".value.decides")).to_have_text("100")
    expect(page.get_by_text("Here the latch holds 100 %")).to_be_visible()
    page.keyboard.press("Control+z")


def test_a_picked_colour_kept_out_of_the_sky(page):
    _new(page, "Colour", "Heath")
    assert _mask(page).max() < 0.02
    expect(page.get_by_text("Nothing is picked yet")).to_be_visible()
    page.get_by_role("button", name="Pick a colour").click()
    page.mouse.click(*on_picture(page, 0.5, 0.62))
    expect(page.get_by_role("list", name="Samples").get_by_role("listitem")).to_have_count(1)
    page.keyboard.press("Escape")
    first = _mask(page)
    assert first[int(0.62 * len(first)) :].mean() > 0.5
    page.get_by_role("button", name="+ Another latch").click()
    page.get_by_label("How Another latch joins").select_option("take_away")
    settled(page)
    expect(page.get_by_role("button", name="Sky", exact=True)).to_be_visible()
    second = _mask(page)
    assert second[: int(0.3 * len(second))].max() < 0.02
    page.get_by_role("button", name="+ Fan", exact=True).click()
    assert (_mask(page) <= second + 0.03).all()


def test_a_pool_is_placed_with_its_handles(page):
    _new(page, "Pool", "Pool")
    before = _mask(page)
    middle = page.get_by_role("button", name="Pool: its middle")
    drag_by(page, middle, 150, 60)
    after = _mask(page)
    where = lambda m: np.array(np.average(np.indices(m.shape).reshape(2, -1), 1, m.ravel()))  # noqa: E731
    assert np.allclose(where(after) - where(before), [60, 150], atol=6)
    middle.focus()
    for _ in range(5):
        page.keyboard.press("ArrowLeft")
    assert where(_mask(page))[1] == pytest.approx(where(after)[1] - 40, abs=4)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="+ Detail", exact=True).click()
    settled(page)
    page.get_by_role("button", name="+ Ramp", exact=True).click()
    assert _mask(page).mean() < after.mean()


def test_masks_stay_in_place_through_lens_level_and_crop(page, roll):
    """After lens, level and a crop, Sky still holds the sky: its edge lies on the picture's own."""
    page.get_by_role("button", name="Ledger").click()
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Ground").click()
    settled(page)
    page.get_by_role("button", name="Open Lens").click()
    page.get_by_label("by the lens database").check(force=True)
    settled(page)
    page.get_by_role("button", name="Open Trim").click()
    page.get_by_role("spinbutton", name="Level").first.click()
    page.get_by_role("textbox", name="Level").first.fill("3")
    page.get_by_role("textbox", name="Level").first.press("Enter")
    settled(page)
    page.get_by_role("navigation", name="The path").get_by_role("link", name="Light").click()
    settled(page)
    shown = picture(page).astype(float)
    page.get_by_role("button", name="Open latch Sky").click()
    mask = _mask(page)
    light = cv2.GaussianBlur(shown.mean(2), (0, 0), 1)
    edge = np.abs(np.diff(np.where(mask > 0.5, 1, 0), axis=0))[: int(0.55 * len(mask))]
    step = light[:-1] - light[1:]
    rows, columns = np.nonzero(edge)
    ok = (rows > 4) & (rows < len(step) - 4)
    there = np.array([step[r - 2 : r + 3, c].max() for r, c in zip(rows[ok], columns[ok], strict=True)])
    away = np.array(
        [step[r - 12 : r - 7, c].max() for r, c in zip(rows[ok], columns[ok], strict=True) if r > 12]
    )
    assert np.median(there) > 4 * max(np.median(away), 0.5)
