"""`make bench`: every row of the bars that can be measured today. Nothing here passes or fails.

`--profile` says where the time of each export went. A frame named on the command line is measured
instead of the demo's 24-megapixel one.
"""

import json
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import rawpy

from fieldworld.camera import shoot
from fieldworld.outing import find
from sunlatch.binding.maps import map_of
from sunlatch.colour.difference import delta_e
from sunlatch.colour.spaces import decode
from sunlatch.frame import FrameStore, Pyramid, hash_file
from sunlatch.geometry import View, taps
from sunlatch.latch.colour import ColourSample
from sunlatch.ledger import Latch, Scene, new_ingredient, new_move, parse_scene
from sunlatch.meters import ColourAt, colour_at
from sunlatch.moves import LIGHT_KINDS
from sunlatch.render import Engine, Output, bands_of, picture_8
from sunlatch.render.picture import shown_light
from sunlatch.sensor.kernels import reduce_light

SIZE = (1350, 900)
DEMO = "heath"
HERE = Path(__file__).parent


def _pointed(u: float, v: float, **done: float) -> dict[str, Any]:
    return {"picked": {"at": {"x": 0.5, "y": 0.3}, "u": u, "v": v, "stops": 0.0}, **done}


HUES = ((0.05, 0.12), (-0.05, -0.12), (-0.1, 0.05), (0.0, 0.0))
SETTINGS: dict[str, dict[str, Any]] = {
    "rungs": {"rungs": [{"at": -4.0, "by": 0.6}, {"at": -1.0, "by": 0.2}]},
    "curve": {"points": [{"at": -4.0, "to": -3.5}, {"at": 1.0, "to": 0.8}]},
    "hue_steer": {"anchors": [_pointed(u, v, turn=8.0) for u, v in HUES]},
    "monochrome": {"anchors": [_pointed(u, v, lighten=0.2) for u, v in HUES]},
    "relief": {"coarse": 0.2, "fine": 0.2},
}
"""Moves that do nothing without something drawn, or only part of what they cost."""


def median_ms(work: Callable[[], object], times: int) -> float:
    """Median wall time of `times` calls, in ms, after one that is not counted."""
    work()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append((time.perf_counter() - start) * 1e3)
    return statistics.median(taken)


def beside_jpeg(work: Callable[[], object], bgr: Any, times: int) -> tuple[float, float]:
    """(median wall time of `times` calls in ms, median of their ratios to JPEG encoding). A processor changes its
    pace within seconds, so each call is set against an encoding right after it: the second of two, when its
    picture lies in the cache."""

    def once(what: Callable[[], object]) -> float:
        start = time.perf_counter()
        what()
        return (time.perf_counter() - start) * 1e3

    def encode() -> None:
        cv2.imencode(".jpg", bgr)

    work()
    taken, ratios = [], []
    for _ in range(times):
        taken.append(once(work))
        encode()
        ratios.append(taken[-1] / once(encode))
    return statistics.median(taken), statistics.median(ratios)


def scene_of_twelve(sha256: str, last: str, **ground: dict[str, Any]) -> Scene:
    """The scene kept in bench/twelve.json: twelve moves of an evening on six latches; the last move is of kind
    `last`, and some of Ground set."""
    data = json.loads((HERE / "twelve.json").read_text())
    data["sources"][0]["sha256"] = sha256
    scene = parse_scene(data)
    if last != scene.moves[-1].kind:
        scene.moves[-1] = new_move(last, params=SETTINGS.get(last, {}), latch=scene.moves[-1].latch)
    for kind, values in ground.items():
        line = getattr(scene.ground, kind)
        line.params = type(line.params)(**(line.params.model_dump() | values))
    return scene


def row(what: str, value: float, ratio: float, bar: float, unit: str) -> None:
    """One line: the time in ms, the ratio, the bar, whether it holds."""
    verdict = "holds" if ratio <= bar else "does not hold"
    print(f"  {what:<58} {value:8.1f} ms  {ratio:5.2f}× {unit:<12} bar ≤ {bar:g}×  {verdict}", flush=True)


def main() -> None:
    """Measure everything."""
    arguments = [a for a in sys.argv[1:] if not a.startswith("--")]
    home = Path(os.environ.get("SUNLATCH_DATA", "data"))
    path = Path(arguments[0]) if arguments else home / "demo" / f"{DEMO}.dng"
    scratch = Path(tempfile.mkdtemp(prefix="sunlatch-bench-"))
    try:
        if not path.exists():
            path = scratch / f"{DEMO}.dng"
            print("  making the demo frame …")
            shoot(find(DEMO), path)
        measure(path, scratch, "--profile" in sys.argv)
    finally:
        shutil.rmtree(scratch)


def measure(path: Path, scratch: Path, profile: bool) -> None:
    """Every row, on one frame."""
    sha256 = hash_file(path)
    store = FrameStore(scratch / "pyramids")
    store.decoder.warm()

    def half_size() -> None:
        with rawpy.imread(str(path)) as raw:
            raw.postprocess(half_size=True, output_bps=16, no_auto_bright=True, use_camera_wb=True)

    half = median_ms(half_size, 5)

    def first_picture() -> None:
        store.forget(sha256)
        _, pyramid = store.first_look(sha256, path)
        development = Engine().develop(parse_scene(_bare(sha256)), pyramid)
        picture_8(development, development.geometry.fit(SIZE[0]), full=False)

    first = median_ms(first_picture, 5)
    whole_start = time.perf_counter()
    pyramid = store.whole(sha256, path)
    whole = (time.perf_counter() - whole_start) * 1e3
    print(f"\n  Frame {pyramid.info.width} × {pyramid.info.height}; LibRaw half size {half:.0f} ms")
    row("raw to first picture, decoder prewarmed", first, first / half, 1.5, "half size")
    print(f"  {'(whole pyramid, AHD, in the background)':<58} {whole:8.1f} ms")
    store.decoder.close()

    drags(pyramid, sha256)

    def ahd() -> float:
        with rawpy.imread(str(path)) as raw:
            start = time.perf_counter()
            raw.postprocess(
                demosaic_algorithm=rawpy.DemosaicAlgorithm.AHD, output_bps=16, no_auto_bright=True
            )
            return (time.perf_counter() - start) * 1e3

    print(f"\n  Full render to 16 bits, 12 moves, 6 latches; LibRaw AHD {ahd():.0f} ms")
    everything = {"lens": {"known": "database"}, "trim": {"level": 0.8}}
    for what, bar, ground in (
        ("straight", 2.5, {}),
        ("with lens and level (one warp)", 2.5, everything),
        ("with Noise", 4.0, {"noise": {"light": 1.0, "colour": 1.0}}),
        ("with lens, level, Noise and Crispness (no bar of its own)", 4.0,
         everything | {"noise": {"light": 1.0, "colour": 1.0}, "crispness": {"amount": 0.7}}),
    ):  # fmt: skip
        export(scene_of_twelve(sha256, "exposure", **ground), pyramid, ahd, what, bar, profile)
    fidelity(pyramid, sha256, everything)
    growth(path, scratch)


def _bare(sha256: str) -> dict[str, Any]:
    return {"schema_version": 3, "sources": [{"sha256": sha256}]}


def drags(pyramid: Pyramid, sha256: str) -> None:
    """Answers to a drag, against OpenCV's JPEG encoding of the same picture."""
    engine = Engine()
    view = View((0.0, 0.0, 1.0, 1.0), SIZE)
    coarse = View(view.region, (SIZE[0] // 2, SIZE[1] // 2))
    for last, kind in LIGHT_KINDS.items():
        scene = scene_of_twelve(sha256, last)
        shown = picture_8(engine.develop(scene, pyramid), view, full=False)
        bgr = cv2.cvtColor(shown, cv2.COLOR_RGB2BGR)

        def drag(what: str, bar: float, index: int | None = -1, size: View = view,
                 scene: Scene = scene, bgr: Any = bgr) -> None:  # fmt: skip
            row(what, *beside_jpeg(dragging(engine, scene, pyramid, size, index), bgr, 15), bar, "JPEG")

        if last == "exposure":
            jpeg = median_ms(lambda bgr=bgr: cv2.imencode(".jpg", bgr), 31)
            print(f"\n  12 moves, 6 latches, {SIZE[0]} × {SIZE[1]}; JPEG encoding {jpeg:.1f} ms")
        drag(f"drag of the last of 12, {kind.label}", 10.0 if kind.survey else 5.0)
        if last == "exposure":
            drag("the same, coarse", 2.5, size=coarse)
            drag("drag of the first of the twelve", 18.0, 0)
            drag("the same, coarse, as the face asks where it is slow", 18.0, 0, coarse)
            drag("drag of base exposure", 30.0, None)
            for of, name, start in (
                ("fan", "narrowness", 1.5), ("colour", "reach", 0.08), ("light_range", "low", -3.0),
            ):  # fmt: skip
                answer = latching(engine, scene_of_twelve(sha256, last), pyramid, view, of, name, start)
                what = f"drag of {of.replace('_', ' ')} in the last move's latch, edge-true"
                row(what, *beside_jpeg(answer, bgr, 15), 10.0, "JPEG")
            level = scene_of_twelve(sha256, last, lens={"known": "database"})
            answer_ms, ratio = beside_jpeg(turning(engine, level, pyramid, view), bgr, 7)
            print(f"  {'turn of the level (no bar)':<58} {answer_ms:8.1f} ms  {ratio:5.2f}× JPEG", flush=True)
            turned = beside_jpeg(turning(engine, level, pyramid, coarse), bgr, 9)
            row("turn of the level, coarse, as the face asks it", *turned, 18.0, "JPEG")
            box_ms = median_ms(boxing(level, pyramid), 9)
            what = "making a bent map's box"
            print(f"  {what:<58} {box_ms:8.2f} ms  bar ≤ 5 ms", flush=True)


def boxing(scene: Scene, pyramid: Pyramid) -> Callable[[], None]:
    """The crop of a map that is new each time."""
    count = iter(range(10_000))

    def make() -> None:
        scene.ground.trim.params.level = 0.7 + 0.01 * next(count)
        _ = map_of(scene, pyramid.info).box

    return make


def dragging(
    engine: Engine, scene: Scene, pyramid: Pyramid, view: View, index: int | None
) -> Callable[[], None]:
    """Answers to a drag of a move, or of base exposure: a new value each time, as a hand gives them."""
    count = iter(range(10_000))

    def answer() -> None:
        n = next(count)
        if index is None:
            scene.ground.base_exposure.params.ev = 0.001 * n
        else:
            line = scene.moves[index]
            setattr(line.params, LIGHT_KINDS[line.kind].first, 0.05 + 0.001 * n)
        picture_8(engine.develop(scene, pyramid), view, full=False)

    answer()
    return answer


def latching(
    engine: Engine, scene: Scene, pyramid: Pyramid, view: View, kind: str, name: str, start: float
) -> Callable[[], None]:
    """Answers to a drag of an ingredient of the latch that the last move alone is latched to."""
    development = engine.develop(scene, pyramid)
    held = Latch(name="Dragged", ingredients=[new_ingredient(kind), new_ingredient("ramp", join="keep_only")],
                 read_at=development.ground.read_at())  # fmt: skip
    if kind == "colour":
        held.ingredients[0].params.samples = [colour_sample(colour_at(development, held.read_at, 0.5, 0.8))]
    scene.latches.append(held)
    scene.moves[-1].latch = held.id
    count = iter(range(10_000))

    def answer() -> None:
        setattr(held.ingredients[0].params, name, start + 0.001 * next(count))
        picture_8(engine.develop(scene, pyramid), view, full=False)

    answer()
    return answer


def colour_sample(seen: ColourAt) -> ColourSample:
    """A picked colour as the ingredient keeps it."""
    return ColourSample(at=seen.at, l=seen.l, a=seen.a, b=seen.b)


def turning(engine: Engine, scene: Scene, pyramid: Pyramid, view: View) -> Callable[[], None]:
    """Answers to a drag that moves every px."""
    count = iter(range(10_000))

    def answer() -> None:
        scene.ground.trim.params.level = 0.2 + 0.01 * next(count)
        picture_8(engine.develop(scene, pyramid), view, full=False)

    return answer


def rendered(scene: Scene, pyramid: Pyramid, engine: Engine | None = None) -> None:
    """A full render, handed on band by band and dropped, as a file writer takes it."""
    # a fresh engine: nothing may come from an earlier run's cache
    development = (engine or Engine(cache_bytes=256 << 20)).develop(scene, pyramid)
    for band in bands_of(development, development.geometry.fit(10**6), Output("srgb", 16)):
        np.asarray(band)


def export(
    scene: Scene, pyramid: Pyramid, ahd: Callable[[], float], what: str, bar: float, profile: bool
) -> None:
    """The full render of a scene, decode and encode left out, each of three between two demosaicings."""
    rendered(scene, pyramid)
    taken, ratios, before = [], [], ahd()
    for _ in range(3):
        start = time.perf_counter()
        rendered(scene, pyramid)
        taken.append((time.perf_counter() - start) * 1e3)
        after = ahd()
        ratios.append(taken[-1] / ((before + after) / 2))
        before = after
    row(what, statistics.median(taken), statistics.median(ratios), bar, "LibRaw AHD")
    if profile:
        engine = Engine(cache_bytes=256 << 20)
        engine.clock.on = True
        rendered(scene, pyramid, engine)
        print(engine.clock.table())


def fidelity(pyramid: Pyramid, sha256: str, ground: dict[str, Any]) -> None:
    """The screen at rest against the file reduced to its size, before encoding."""
    print("\n  Screen at rest against the file, before encoding, ΔE2000")
    for what, some in (("straight", {}), ("with lens and level", ground)):
        development = Engine().develop(scene_of_twelve(sha256, "exposure", **some), pyramid)
        view = development.geometry.fit(814)
        screen = shown_light(development, view)
        file = np.concatenate(
            [
                np.asarray(b)
                for b in bands_of(development, development.geometry.fit(10**6), Output("srgb", 32))
            ]
        )
        light = np.ascontiguousarray(decode(file, "srgb").transpose(2, 0, 1), np.float32)
        (w, h), (fw, fh) = view.size, light.shape[:0:-1]
        xi, xw = taps(0.0, fw / w, w, fw)
        yi, yw = taps(0.0, fh / h, h, fh)
        small = np.empty((3, h, w), np.float32)
        reduce_light(light, xi, xw, yi, yw, small)
        off = delta_e(screen.transpose(1, 2, 0), small.transpose(1, 2, 0))
        mean, high = float(off.mean()), float(np.quantile(off, 0.99))
        verdict = "holds" if mean <= 0.3 and high <= 2.5 else "does not hold"
        print(f"  {what:<58} mean {mean:.3f} (≤ 0.3), 99 % {high:.2f} (≤ 2.5)  {verdict}", flush=True)


def growth(path: Path, scratch: Path) -> None:
    """Export time and memory of a frame at 6, 24 and 96 MP, each in a process of its own."""
    print("\n  Growth of an export (lens, Noise, Crispness, 12 moves) with the frame's px")
    figures = []
    for width in (3000, 6000, 12000):
        out = subprocess.run(
            [sys.executable, "-m", "bench.growing", str(width), str(path), str(scratch / "growing")],
            capture_output=True, text=True, check=True,
        )  # fmt: skip
        seconds, peak, megapixels = (float(v) for v in out.stdout.split())
        figures.append((megapixels, seconds, peak))
        picture = megapixels * 12 / 1000
        print(
            f"  {megapixels:5.1f} MP  {seconds:6.2f} s  {seconds / megapixels * 1e3:6.1f} ms a MP   "
            f"anonymous {peak:.2f} GB = {peak / picture:.2f}× one float32 picture",
            flush=True,
        )
    per = [s / m for m, s, _ in figures]
    for n in (1, 2):
        off = per[n] / per[n - 1] - 1
        print(
            f"  {figures[n - 1][0]:.0f} → {figures[n][0]:.0f} MP: {off:+.0%} against linear "
            f"(bar ≤ +15 %)  {'holds' if off <= 0.15 else 'does not hold'}"
        )
    memory = figures[1][2] / (figures[1][0] * 0.012)
    print(f"  memory at 24 MP: {memory:.2f}× (bar ≤ 3×)  {'holds' if memory <= 3 else 'does not hold'}")


if __name__ == "__main__":
    main()
