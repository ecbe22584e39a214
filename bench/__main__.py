"""`make bench`: the drag rows and the raw-to-first-picture row. Nothing here passes or fails."""

import os
import shutil
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import rawpy

from fieldworld.camera import shoot
from fieldworld.outing import find
from sunlatch.frame import FrameStore, hash_file
from sunlatch.geometry import View
from sunlatch.ledger import Latch, Scene, Source, new_ingredient, new_move
from sunlatch.render import Development, Engine, bands_of, picture_8

SIZE = (1350, 900)


def median_ms(work: Callable[[], object], times: int) -> float:
    """Median wall time of `times` calls, in ms, after one that is not counted."""
    work()
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        taken.append((time.perf_counter() - start) * 1e3)
    return statistics.median(taken)


def scene_of_twelve(development: Development, last: str) -> Scene:
    """Twelve moves on six latches, from the moves there are; the last is of kind `last`."""
    scene = development.scene
    at = development.read_at()
    makers = [
        ("fan", {"leaning": "lights", "narrowness": 1.5}), ("fan", {"leaning": "darks", "narrowness": 3}),
        ("fan", {"leaning": "midtones"}), ("light_range", {"low": -6, "high": -3}),
        ("light_range", {"low": 0, "high": 4}), ("fan", {"leaning": "lights", "narrowness": 4}),
    ]  # fmt: skip
    scene.latches = [
        Latch(name=f"Latch {n}", read_at=at, ingredients=[
            new_ingredient(kind, params=params),
            new_ingredient("ramp", join="keep_only", params={"full": {"x": 0.5, "y": 0.1 + n / 20}, "none": {"x": 0.5, "y": 0.7}}),
        ])
        for n, (kind, params) in enumerate(makers)
    ]  # fmt: skip
    scene.moves = [
        new_move("exposure", params={"ev": 0.1 * (n % 5) - 0.2}, latch=scene.latches[n % 6].id)
        for n in range(11)
    ]
    scene.moves.append(
        new_move(last, params={"ev" if last == "exposure" else "amount": 0.2}, latch=scene.latches[5].id)
    )
    return scene


def row(what: str, value: float, against: float, bar: float, unit: str) -> None:
    """One line: the ratio, the bar, whether it holds."""
    ratio = value / against
    verdict = "holds" if ratio <= bar else "does not hold"
    print(f"  {what:<58} {value:8.1f} ms  {ratio:5.2f}× {unit:<12} bar ≤ {bar:g}×  {verdict}", flush=True)


def main() -> None:
    """Measure everything on the demo frame, or on the frame named on the command line."""
    home = Path(os.environ.get("SUNLATCH_DATA", "data"))
    path = Path(sys.argv[1]) if len(sys.argv) > 1 else home / "demo" / "stack-backlit.dng"
    scratch = Path(tempfile.mkdtemp(prefix="sunlatch-bench-"))
    try:
        if not path.exists():
            path = scratch / "stack-backlit.dng"
            print("  making the demo frame …")
            shoot(find("stack-backlit"), path)
        measure(path, scratch)
    finally:
        shutil.rmtree(scratch)


def measure(path: Path, scratch: Path) -> None:
    """Every row, on one frame."""
    sha256 = hash_file(path)
    store = FrameStore(scratch / "pyramids")
    store.decoder.warm()

    def half_size() -> None:
        with rawpy.imread(str(path)) as raw:
            raw.postprocess(half_size=True, output_bps=16, no_auto_bright=True, use_camera_wb=True)

    half = median_ms(half_size, 5)
    engine = Engine()

    def first_picture() -> None:
        store.forget(sha256)
        _, pyramid = store.first_look(sha256, path)
        development = Engine().develop(Scene(sources=[Source(sha256=sha256)]), pyramid)
        picture_8(development, development.geometry.fit(SIZE[0]), full=False)

    first = median_ms(first_picture, 5)
    whole_start = time.perf_counter()
    pyramid = store.whole(sha256, path)
    whole = (time.perf_counter() - whole_start) * 1e3
    print(f"\n  Frame {pyramid.info.width} × {pyramid.info.height}; LibRaw half size {half:.0f} ms")
    row("raw to first picture, decoder prewarmed", first, half, 1.5, "half size")
    print(f"  {'(whole pyramid, AHD, in the background)':<58} {whole:8.1f} ms")

    base = Scene(sources=[Source(sha256=sha256)])
    view = View((0.0, 0.0, 1.0, 1.0), SIZE)
    for last, bar in (("exposure", 5.0), ("contrast", 10.0)):
        scene = scene_of_twelve(engine.develop(base.model_copy(deep=True), pyramid), last)
        shown = picture_8(engine.develop(scene, pyramid), view, full=False)
        bgr = cv2.cvtColor(shown, cv2.COLOR_RGB2BGR)
        jpeg = median_ms(lambda bgr=bgr: cv2.imencode(".jpg", bgr), 31)
        print(f"\n  12 moves, 6 latches, {SIZE[0]} × {SIZE[1]}, last is {last}; JPEG encoding {jpeg:.1f} ms")
        drag(engine, scene, pyramid, view, jpeg, -1, f"drag of the last move ({last})", bar)
        if last == "exposure":
            coarse = View(view.region, (SIZE[0] // 2, SIZE[1] // 2))
            drag(engine, scene, pyramid, coarse, jpeg, -1, "the same, coarse", 2.5)
            drag(engine, scene, pyramid, view, jpeg, 0, "drag of the first of the twelve", 18.0)
            drag(engine, scene, pyramid, view, jpeg, None, "drag of base exposure", 30.0)
            export(scene, pyramid, path)
    store.decoder.close()


def drag(
    engine: Engine, scene: Scene, pyramid, view: View, jpeg: float, index: int | None, what: str, bar: float
) -> None:  # type: ignore[no-untyped-def]
    """Answers to a drag: a new value each time, as a hand gives them."""
    count = iter(range(10_000))

    def answer() -> None:
        n = next(count)
        if index is None:
            scene.ground.base_exposure.params.ev = 0.001 * n
        else:
            params = scene.moves[index].params
            setattr(params, type(params).model_fields.__iter__().__next__(), 0.05 + 0.001 * n)
        picture_8(engine.develop(scene, pyramid), view, full=False)

    answer()
    row(what, median_ms(answer, 15), jpeg, bar, "JPEG")


def export(scene: Scene, pyramid, path: Path) -> None:  # type: ignore[no-untyped-def]
    """The full render of the same scene, decode and encode left out."""
    with rawpy.imread(str(path)) as raw:
        start = time.perf_counter()
        raw.postprocess(demosaic_algorithm=rawpy.DemosaicAlgorithm.AHD, output_bps=16, no_auto_bright=True)
        ahd = (time.perf_counter() - start) * 1e3

    def render() -> None:
        # a fresh engine: nothing may come from an earlier run's cache
        development = Engine(cache_bytes=256 << 20).develop(scene, pyramid)
        for band in bands_of(development, development.geometry.fit(10**6), "srgb", 16):
            np.asarray(band)

    row("full render of the same, to 16 bits", median_ms(render, 2), ahd, 2.5, "LibRaw AHD")


if __name__ == "__main__":
    main()
