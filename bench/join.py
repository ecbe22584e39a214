"""Joins: `python -m bench.join [sweep|bracket|large]`, beside OpenCV on the same frames in the same run.

Ratios only; each line says against what. "large" shoots twelve frames of 24 megapixels first, which takes minutes.
"""

import os
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import rawpy
from numpy.typing import NDArray

from fieldworld.camera import FILTERS, Shot, _flare, _glass, shoot
from fieldworld.lent import find_any, ideal
from fieldworld.optics import turning
from fieldworld.world import Scenery
from sunlatch.binding.maps import rotation_matrix
from sunlatch.blocks import Block
from sunlatch.frame import FrameStore, hash_file
from sunlatch.geometry import View
from sunlatch.ledger import Scene, Source
from sunlatch.merging import JoinStore, plan_bracket, plan_sweep, scene_of, scene_of_bracket
from sunlatch.merging.exposures import exposures_of
from sunlatch.registration import InputFrame
from sunlatch.render import Development, Engine, picture_8

F64 = NDArray[np.float64]
DATA = Path(os.environ.get("SUNLATCH_DATA", "data"))
HEADINGS = (-36.5, -10.0, 16.5, 43.0)
LOOK, HALF = (400, 300), 0.12


def timed(work: Callable[[], Any]) -> tuple[float, Any]:
    """Seconds, and what came of it."""
    begun = time.perf_counter()
    made = work()
    return time.perf_counter() - begun, made


class Frames:
    """Frames of the coast, decoded."""

    def __init__(self, folder: Path, names: list[str]) -> None:
        self.store = FrameStore(folder / "pyramids")
        self.paths = {}
        demo = DATA / "demo"
        for name in names:
            path = demo / f"{name}.dng"
            if not path.exists():
                path = folder / f"{name}.dng"
                shoot(find_any(name), path)
            self.paths[name] = path
        self.sources = [Source(id=n, sha256=hash_file(p), path=p.name) for n, p in self.paths.items()]
        for source in self.sources:
            self.open(source)

    def open(self, source: Source) -> Any:
        """A frame, whole."""
        return self.store.whole(source.sha256, self.paths[source.id])

    def taken(self) -> list[InputFrame]:
        """As a join looks at them."""
        return [InputFrame(s.id, s.path, (r := self.open(s)).info, r) for s in self.sources]


def true_turn(name: str) -> F64:
    """World to camera."""
    view = find_any(name).view
    return np.asarray(turning(view.heading, view.pitch, view.roll).T)


def looks(shot: Shot) -> list[tuple[F64, NDArray[np.float32], NDArray[np.bool_]]]:
    """Views straight at the seams: directions in the world (h, w, 3; y up), true light, and where nothing moves."""
    out = []
    for heading in HEADINGS:
        view = replace(shot.view, heading=heading, pitch=0.0, roll=0.0, focal_mm=18.0 / HALF)
        true = ideal(view, (LOOK[0] * 3, LOOK[1] * 3))
        light, water = (
            cv2.resize(x, LOOK, interpolation=cv2.INTER_AREA) for x in (true.radiance, true.water)
        )
        x = (np.arange(LOOK[0]) + 0.5 - LOOK[0] / 2) * HALF * 2 / LOOK[0]
        y = (np.arange(LOOK[1]) + 0.5 - LOOK[1] / 2) * HALF * 2 / LOOK[0]
        d = np.stack([*np.meshgrid(x, y), np.ones(LOOK[::-1])], -1) @ turning(heading, 0.0, 0.0).T
        out.append((d, light @ FILTERS[1].astype(np.float32), cv2.dilate(water, np.ones((9, 9))) < 0.02))
    return out


def off(seen: NDArray[np.float32], light: NDArray[np.float32], still: NDArray[np.bool_]) -> float:
    """Median difference in stops, but for one gain for the whole."""
    a, b = (np.log2(np.maximum(cv2.GaussianBlur(x, (0, 0), 2), 1e-5)) for x in (seen, light))
    good = still & (seen > 0.004) & (seen < 0.7)
    apart = (a - b)[good]
    return float(np.median(np.abs(apart - np.median(apart))))


def sampled(picture: NDArray[np.float32], px: F64) -> NDArray[np.float32]:
    """A picture (h, w) at places (h, w, 2)."""
    at = (px - 0.5).astype(np.float32)
    return np.asarray(
        cv2.remap(
            picture, np.ascontiguousarray(at[..., 0]), np.ascontiguousarray(at[..., 1]), cv2.INTER_CUBIC
        )
    )


def aligned(turns: list[F64], names: list[str]) -> F64:
    """3×3 from the world as it is to the one that turns (world to camera) were solved in."""
    u, _, v = np.linalg.svd(sum(t.T @ true_turn(n) for t, n in zip(turns, names, strict=True)))
    return np.asarray(u @ v)


def sweep(folder: Path) -> None:
    """Five frames of the demo: time and truth, beside OpenCV's stitching module; a first look beside a half-size decode."""
    names = [f"sweep-{n}" for n in range(1, 6)]
    frames = Frames(folder, names)
    engine = Engine()
    plan_sweep(frames.taken(), engine)  # kernels are there, files are read
    half = min(timed(lambda: _half(frames.paths[names[0]]))[0] for _ in range(3))

    def first() -> None:
        base = plan_sweep(frames.taken(), engine, quick=True)
        store = JoinStore(Path(tempfile.mkdtemp(dir=folder)))
        scene = scene_of(base, frames.sources)
        picture_8(
            Development(engine, scene, store.first_look(scene, frames.open, engine)),
            View((0, 0, 1, 1), (900, 300)),
            False,
        )

    print(
        f"first look of five frames   {timed(first)[0] / half:5.2f} × a half-size decode of one ({half:.2f} s; bar 6)"
    )

    def whole() -> Any:
        base = plan_sweep(frames.taken(), engine)
        scene = scene_of(base, frames.sources)
        return scene, JoinStore(Path(tempfile.mkdtemp(dir=folder))).whole(scene, frames.open, engine)

    ours, (scene, raster) = timed(whole)
    pictures = []
    for source in frames.sources:
        one = Scene(sources=[source])
        one.ground.lens.params.known = "database"
        one.ground.rendering.params.setting = "straight"
        development = engine.develop(one, frames.open(source))
        pictures.append(picture_8(development, development.geometry.fit(10**6), True)[..., ::-1].copy())
    stitcher = cv2.Stitcher_create(cv2.Stitcher_PANORAMA)
    theirs, (status, stitched) = timed(lambda: stitcher.stitch(pictures))
    print(
        f"whole sweep                 {ours / theirs:5.2f} × OpenCV's stitching module ({theirs:.1f} s; bar 1)"
    )
    turns = [rotation_matrix(m.rotation) for m in scene.base.members]
    worst = max(
        np.degrees(np.arccos(np.clip((np.trace(b @ a.T @ (q @ p.T).T) - 1) / 2, -1, 1)))
        for a, b, p, q in zip(
            turns, turns[1:], map(true_turn, names), map(true_turn, names[1:]), strict=False
        )
    )
    level = max(
        np.degrees(np.arccos(np.clip((t @ [0, -1, 0]) @ (true_turn(n) @ [0, 1, 0]), -1, 1)))
        for t, n in zip(turns, names, strict=True)
    )
    print(
        f"turns {worst:.4f}° (bar 0.05), focal {100 * (scene.base.focal / (35 / 36 * 3504) - 1):+.3f} % (0.5), horizon {level:.3f}° (0.1)"
    )
    master = engine.develop(scene, raster).geometry.sphere.master  # type: ignore[union-attr]
    h, w = raster.shape(0)
    green = raster.fetch(0)(0, h, 0, w)[1]
    world = aligned(turns, names)
    seen = looks(find_any("sweep-3"))
    own = [off(sampled(green, master.px(d @ world.T)), light, still) for d, light, still in seen]
    print("off the world's light, stops:", "ours", np.round(own, 3), end="")
    if status != cv2.Stitcher_OK:
        print(f"; OpenCV refused ({status})")
        return
    size = pictures[0].shape[1::-1]
    cameras, grow = stitcher.cameras(), 1 / stitcher.workScale()
    scale = float(np.median([c.focal for c in cameras])) * grow
    warper = cv2.PyRotationWarper("spherical", scale)
    corners, their_turns = [], []
    for c in cameras:
        k = c.K().astype(np.float32)
        k[:2] *= np.float32(grow)
        corners.append(warper.warpRoi(size, k, c.R.astype(np.float32))[:2])
        their_turns.append(c.R.T.astype(float))
    left, top = np.min(corners, axis=0)
    their_world = aligned(their_turns, [names[i] for i in np.asarray(stitcher.component()).ravel()])
    linear = (stitched[..., 1].astype(np.float32) / 255) ** 2.2
    errors = []
    for d, light, still in seen:
        v = d @ their_world.T
        right = scale * np.arctan2(v[..., 0], v[..., 2])
        down = scale * (np.pi - np.arccos(v[..., 1] / np.linalg.norm(v, axis=-1)))
        errors.append(off(sampled(linear, np.stack([right - left, down - top], -1)), light, still))
    print("; OpenCV", np.round(errors, 3), f"; ours / OpenCV {np.mean(own) / np.mean(errors):.2f} (bar 1)")


def _half(path: Path) -> None:
    with rawpy.imread(str(path)) as raw:
        raw.postprocess(half_size=True, output_bps=16, no_auto_bright=True)


def bracket(folder: Path) -> None:
    """Five exposures of the demo: radiance against the truth, beside OpenCV's merging of the same aligned frames."""
    names = [f"bracket-{n}" for n in range(1, 6)]
    frames = Frames(folder, names)
    engine = Engine()
    plan_bracket(frames.taken(), engine)
    seconds, base = timed(lambda: plan_bracket(frames.taken(), engine))
    scene = scene_of_bracket(base, frames.sources)
    store = JoinStore(Path(tempfile.mkdtemp(dir=folder)))
    more, raster = timed(lambda: store.whole(scene, frames.open, engine))
    h, w = raster.shape(0)
    light = raster.fetch(0)(0, h, 0, w)
    shot = find_any("bracket-3")
    scenery = Scenery(shot.view, shot.lens, 2)
    seen = scenery.look()
    rgb = _glass(seen.radiance)
    _flare(rgb, scenery)
    truth = rgb[..., 1] * shot.exposure.level()
    still = cv2.dilate((seen.water > 0.01).astype(np.uint8), np.ones((9, 9))) == 0
    exposures = exposures_of(base, {f.key: f for f in frames.taken()}, engine)
    drawn = [np.moveaxis(e.draw(Block(0, h, 0, w), 0, (w, h), engine.pool), 0, -1) for e in exposures]
    eight = [np.clip(np.maximum(d, 0) ** (1 / 2.2) * 255 + 0.5, 0, 255).astype(np.uint8) for d in drawn]
    times = np.array([e.time for e in exposures], np.float32)
    response = np.repeat(((np.arange(256, dtype=np.float32) / 255) ** 2.2)[:, None, None], 3, 2)
    response[0] = response[1] / 4
    theirs, debevec = timed(lambda: cv2.createMergeDebevec().process(eight, times, response))
    robertson = cv2.createMergeRobertson().process(eight, times, response)
    stops = np.log2(np.maximum(truth, 1e-9))

    def error(x: NDArray[np.float32]) -> float:
        gain = np.median((truth / np.maximum(x, 1e-9))[still & (stops > -4) & (stops < -1)])
        return float(np.median(np.abs(x * gain / truth - 1)[still]))

    print(f"bracket: radiance off by {100 * error(light[1]):.2f} % (median, {np.ptp(stops[still]):.0f} stops; bar 3);"
          f" OpenCV's two ways {100 * error(debevec[..., 1]):.2f} and {100 * error(robertson[..., 1]):.2f} %")  # fmt: skip
    print(f"         {(seconds + more) / theirs:.2f} × the time of OpenCV's merging alone ({theirs:.1f} s)")


class Memory(threading.Thread):
    """The most anonymous memory of this process, while it is looked at."""

    def __init__(self) -> None:
        super().__init__(daemon=True)
        self.most, self.on = 0, True

    @staticmethod
    def now() -> int:
        """Kilobytes."""
        text = Path("/proc/self/status").read_text()
        return int(text.split("RssAnon:")[1].split()[0])

    def run(self) -> None:
        """Until told."""
        while self.on:
            self.most = max(self.most, self.now())
            time.sleep(0.02)


def large(folder: Path) -> None:
    """Six and twelve frames of 24 megapixels: time by number, and memory."""
    names = [f"large-{n}" for n in range(1, 13)]
    if not (folder / "large-12.dng").exists():
        subprocess.run(
            [sys.executable, "-m", "fieldworld.cli", "shoot", *names, "-o", str(folder)], check=True
        )
    took = {}
    for count in (6, 12):
        frames = Frames(folder, names[:count])
        engine = Engine(cache_bytes=256 << 20)
        idle, memory = Memory.now(), Memory()
        memory.start()

        def join(frames: Frames = frames, engine: Engine = engine) -> None:
            scene = scene_of(plan_sweep(frames.taken(), engine), frames.sources)
            assert len(scene.base.members) == len(frames.sources)
            JoinStore(Path(tempfile.mkdtemp(dir=folder))).whole(scene, frames.open, engine)

        took[count], _ = timed(join)
        memory.on = False
        print(f"{count} frames of 24 megapixels: {(memory.most - idle) / 2**20:.2f} GB above idle (bar 1.5)")
    print(f"twelve for six: {took[12] / took[6] / 2:.2f} × linear (bar 1.2); {took[12]:.0f} s")


def main() -> None:
    """Entry point."""
    wanted = sys.argv[1:] or ["sweep", "bracket"]
    with tempfile.TemporaryDirectory(dir=os.environ.get("SUNLATCH_BENCH")) as folder:
        for name in wanted:
            {"sweep": sweep, "bracket": bracket, "large": large}[name](Path(folder))


if __name__ == "__main__":
    main()
