"""What a person waits for, measured at the screen: Chromium, 1280×800, a studio of its own with the 24-megapixel frame just
brought in. `python -m bench.screen`; needs Debian's Chromium and the tests' packages.

Each row stands beside what the core alone needs for the same, measured before it.
"""

import os
import re
import shutil
import statistics
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import rawpy
from playwright.sync_api import Page

from bench.__main__ import DEMO, median_ms, row, scene_of_twelve
from bench.hour import an_hour
from fieldworld.camera import shoot
from fieldworld.outing import find
from sunlatch.frame import FrameStore, hash_file
from sunlatch.geometry import View
from sunlatch.meters import read_ladder
from sunlatch.propose import propose
from sunlatch.render import Engine, picture_8
from tests.face.hands import drag_by, settled
from tests.face.running import Running, chromium, studio

WATCH = """() => {
  window.__first = 0;
  const look = () => {
    const c = document.querySelector('.stage > canvas');
    if (c && c.width > 300) {
      const p = c.getContext('2d').getImageData(c.width >> 1, c.height >> 1, 1, 1).data;
      if (p[3] > 0) { window.__first = performance.now(); return; }
    }
    requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
}"""


def half_size_ms(path: Path) -> float:
    """LibRaw's half-size decode of a frame."""

    def decode() -> None:
        with rawpy.imread(str(path)) as raw:
            raw.postprocess(half_size=True, output_bps=16, no_auto_bright=True)

    return median_ms(decode, 3)


def first_picture_ms(page: Page, running: Running) -> float:
    """From the click on a frame never opened to the first picture of it."""
    page.goto(running.url)
    page.get_by_role("button", name=f"Look at {DEMO}.dng").hover()
    button = page.get_by_role("button", name=f"New scene from {DEMO}.dng")
    button.wait_for()
    page.wait_for_load_state("networkidle")
    page.evaluate(WATCH)
    start = page.evaluate("performance.now()")
    button.click()
    while not (first := page.evaluate("window.__first")):
        page.wait_for_timeout(50)
    return float(first) - float(start)


def answers_a_second(page: Page, number: Any, seconds: float = 4.0) -> tuple[float, float]:
    """(pictures, ladders) that arrive a second while a number is dragged to and fro."""
    counted = {"picture": 0, "meters": 0}

    def count(response: Any) -> None:
        what = response.url.rpartition("/")[2]
        if what in counted and response.status == 200:
            counted[what] += 1

    box = number.bounding_box()
    x, y = box["x"] + 10, box["y"] + 10
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y, steps=4)
    page.on("response", count)
    start, n = time.perf_counter(), 0
    while time.perf_counter() - start < seconds:
        n += 1
        page.mouse.move(x + 30 + 60 * abs((n % 40) / 20 - 1), y)
        page.wait_for_timeout(16)
    taken = time.perf_counter() - start
    page.remove_listener("response", count)
    page.mouse.up()
    return counted["picture"] / taken, counted["meters"] / taken


def until_current_ms(page: Page, work: Any) -> float:
    """From `work` to the picture at rest."""
    start = time.perf_counter()
    work()
    page.wait_for_timeout(60)
    page.wait_for_selector(".stage[data-state=current]", timeout=60_000)
    return (time.perf_counter() - start) * 1e3


def core_rows(path: Path) -> dict[str, float]:
    """What the core alone needs, in ms: a drag's answer with its ladder, the picture at rest, a proposal, a turn."""
    store = FrameStore(Path(tempfile.mkdtemp(prefix="sunlatch-bench-")))
    try:
        sha256 = hash_file(path)
        pyramid = store.whole(sha256, path)
        engine, view = Engine(), View((0.0, 0.0, 1.0, 1.0), (774, 516))
        scene, held = scene_of_twelve(sha256, "exposure"), [0]

        def drag() -> None:
            held[0] += 1
            scene.moves[-1].params.ev = -1 + held[0] * 0.01
            made = engine.develop(scene, pyramid)
            picture_8(made, view, full=False)
            read_ladder(made, scene.latches[:2])

        def rest() -> None:
            drag()
            picture_8(engine.develop(scene, pyramid), view, full=True)

        def turn() -> None:
            held[0] += 1
            scene.ground.trim.params.level = 0.5 + held[0] * 0.01
            picture_8(engine.develop(scene, pyramid), View(view.region, (387, 258)), full=False)

        found = {"drag": median_ms(drag, 12), "rest": median_ms(rest, 3)}
        scene = scene_of_twelve(sha256, "exposure")
        start = time.perf_counter()
        propose(Engine().develop(scene.model_copy(update={"moves": [], "latches": []}), pyramid))
        found["propose"] = (time.perf_counter() - start) * 1e3
        found["turn"] = median_ms(turn, 5)
        return found
    finally:
        store.decoder.close()
        shutil.rmtree(store.folder, ignore_errors=True)


def main() -> None:
    """Measure everything; prints ratios."""
    scratch = Path(tempfile.mkdtemp(prefix="sunlatch-screen-"))
    frames = scratch / "frames"
    frames.mkdir()
    try:
        made = Path(os.environ.get("SUNLATCH_DATA", "data")) / "demo" / f"{DEMO}.dng"
        path = frames / f"{DEMO}.dng"
        if made.exists():
            os.link(made, path) if made.stat().st_dev == scratch.stat().st_dev else shutil.copyfile(
                made, path
            )
        else:
            print("  making the demo frame …")
            shoot(find(DEMO), path)
        half, core = half_size_ms(path), core_rows(path)
        os.environ.pop("SUNLATCH_DATA", None)
        with studio(scratch / "data", frames) as running, chromium() as browser:
            page = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
            page.goto(running.link)
            page.wait_for_url(f"{running.url}/")
            time.sleep(20)  # kernels are compiled or read, decoders started
            row(
                "click to first picture, frame just brought in",
                (v := first_picture_ms(page, running)),
                v / half,
                8,
                "half size",
            )
            settled(page)
            v = until_current_ms(page, lambda: page.get_by_role("button", name="Start for me").click())
            page.get_by_role("button", name="undo: Start for me").wait_for(timeout=60_000)
            row("start for me", v, v / core["propose"], 1.5, "core")
            level = page.get_by_role("spinbutton", name=re.compile("[Ll]evel")).first
            if level.count():
                pictures, _ = answers_a_second(page, level, 3)
                row(
                    "turn of the level, an answer",
                    (v := 1e3 / max(pictures, 0.01)),
                    v / core["turn"],
                    1.5,
                    "core",
                )
                settled(page)
            document = scene_of_twelve(hash_file(path), "exposure").model_dump(mode="json")
            scene = page.url.rpartition("/")[2]
            page.evaluate(SAVE, [scene, document])
            page.goto(f"{running.url}/light/{scene}")
            settled(page)
            number = page.get_by_role("spinbutton", name=re.compile("^Exposure.*: Exposure$")).last
            number.scroll_into_view_if_needed()
            pictures, ladders = answers_a_second(page, number)
            answer = 1e3 / max(pictures, 0.01)
            print(
                f"  {'answers a second in a drag, ladder following':<58} {pictures:8.1f} /s  {core['drag'] / answer:5.2f}  of the core's   bar ≥ 10, ≥ 0.7   (ladders {ladders:.1f} /s)"
            )
            settled(page)
            rests = []
            for by in (24, -24, 24):
                rests.append(until_current_ms(page, lambda by=by: drag_by(page, number, by)))
                settled(page)
            row(
                "release to the picture at rest",
                (v := statistics.median(rests)),
                v / core["rest"],
                1.3,
                "core",
            )
            an_hour(page, scene, running.web())
    finally:
        shutil.rmtree(scratch, ignore_errors=True)


SAVE = """async ([scene, document]) => {
  const token = document_cookie();
  function document_cookie() { return window.document.cookie.match(/csrftoken=([^;]+)/)[1]; }
  const now = await (await fetch(`/api/scenes/${scene}`)).json();
  document.sources = now.revision.document.sources;
  const body = JSON.stringify({ base: now.revision.number, document, words: "bench" });
  const headers = { "Content-Type": "application/json", "X-CSRFToken": token };
  const answer = await fetch(`/api/scenes/${scene}/revisions`, { method: "POST", headers, body });
  if (!answer.ok) throw new Error(await answer.text());
}"""


if __name__ == "__main__":
    sys.exit(main())
