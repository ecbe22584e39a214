"""Proof in numbers: what the screen shows of a print against the press, and against LittleCMS itself; a drag on paper; preflight
beside the export it stands before. Figures are ratios against something measured in the same run."""

import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np

from fieldworld.demo import make
from fieldworld.inks import STOCKS
from fieldworld.outing import find
from fieldworld.press_profile import shipped
from fieldworld.sheet import measured
from sunlatch.colour.difference import ciede2000, lab_of_working
from sunlatch.colour.printing import Printing, Profile
from sunlatch.colour.spaces import D50, D65, XYZ_TO_WORKING, adaptation, decode_srgb, working_to_output
from sunlatch.frame import FrameStore, hash_file
from sunlatch.geometry import View
from sunlatch.ledger import PaperParams, Scene, Source, new_move
from sunlatch.proof import laid_out, preflight, write_picture
from sunlatch.render import SCREEN, Development, Engine, Output, Proof, picture_8

SIZE = (1350, 900)


def _seconds(work: Callable[[], object], times: int = 1) -> float:
    took = []
    for _ in range(times):
        begin = time.perf_counter()
        work()
        took.append(time.perf_counter() - begin)
    return float(np.median(took))


def _against_the_press(development: Development, name: str) -> None:
    printing = Printing(Profile(shipped(STOCKS[name])))
    view = development.geometry.fit(1200)
    light = np.empty((3, view.size[1], view.size[0]), np.float32)

    def take(band: np.ndarray, r: int, e: int) -> None:
        light[:, r:e] = band

    development.display(view, Output(bits=16, printing=printing), take, keep=False)
    held = np.ascontiguousarray(np.clip(light, 0, 1).transpose(1, 2, 0))
    shown = np.empty(held.shape, np.uint8)
    Proof(printing=printing).encode(light, shown)
    screen = decode_srgb(shown / 255) @ np.linalg.inv(working_to_output("srgb")).T
    sheet = (
        measured(STOCKS[name], printing.codes(held, quick=True)) @ (XYZ_TO_WORKING @ adaptation(D50, D65)).T
    )
    press = ciede2000(lab_of_working(screen), lab_of_working(sheet))
    exact = np.clip(printing.seen(held).astype(float) @ working_to_output("srgb").T, 0, 1)
    own = ciede2000(
        lab_of_working(exact @ np.linalg.inv(working_to_output("srgb")).T), lab_of_working(screen)
    )
    print(
        f"  {STOCKS[name].label:<14} proof to press ΔE2000 {press.mean():.2f}, 95 % {np.percentile(press, 95):.2f}   (bars 1.5, 4);"
        f"  to LittleCMS itself {own.mean():.2f}, 99 % {np.percentile(own, 99):.2f}   (bar 0.3)"
    )


def _drag(engine: Engine, development: Development) -> None:
    proof = Proof(printing=Printing(Profile(shipped(STOCKS["matte"]))))
    raster, scene = development.under, development.scene

    def answers(output: Output) -> float:
        took = []
        for n in range(14):
            moved = scene.model_copy(update={"moves": [new_move("exposure", params={"ev": 0.1 + n / 100})]})
            made = engine.develop(moved, raster)
            took.append(_seconds(lambda made=made: picture_8(made, View((0, 0, 1, 1), SIZE), False, output)))
        return float(np.median(took[4:]))

    shown = picture_8(development, View((0, 0, 1, 1), SIZE), False)
    jpeg = _seconds(lambda: cv2.imencode(".jpg", shown), 9)
    screen, paper = answers(SCREEN), answers(proof)
    print(
        f"  A drag: screen {screen / jpeg:.1f}×, paper {paper / jpeg:.1f}× a JPEG's encoding ({1000 * jpeg:.1f} ms)   (bar 5)"
    )


def _preflight(development: Development, folder: Path) -> None:
    printing = Printing(Profile(shipped(STOCKS["matte"])))
    output = Output(bits=16, printing=printing)
    layout = laid_out(PaperParams(), development.geometry.developed_size)
    preflight(development, output, layout)  # compiled
    judged = _seconds(lambda: preflight(development, output, layout))
    full = development.geometry.fit(10**6)
    made = _seconds(lambda: write_picture(development, folder / "a.tif", view=full, output=output))
    w, h = full.size
    print(
        f"  Preflight of {w * h / 1e6:.0f} MP: {judged:.1f} s, {judged / made:.2f}× its export ({made:.1f} s)   (bar 1)"
    )


def main() -> None:
    """Print all of it."""
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        path = Path(sys.argv[1]) if len(sys.argv) > 1 else folder / "heath.dng"
        if not path.exists():
            make(folder, [find("heath")], lambda *told: None)
        sha256 = hash_file(path)
        store, engine = FrameStore(folder / "pyramids"), Engine()
        development = engine.develop(Scene(sources=[Source(sha256=sha256)]), store.whole(sha256, path))
        print("\nProof")
        for name in STOCKS:
            _against_the_press(development, name)
        _drag(engine, development)
        _preflight(development, folder)


if __name__ == "__main__":
    main()
