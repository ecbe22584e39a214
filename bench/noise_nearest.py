"""How much smoothing of light leaves the coast's frames nearest to what they are without noise.

Each frame is shot at several speeds and once without noise; the fine contrast of the developed pictures, as it
prints, is compared block by block. This is where the numbers of `sunlatch/propose.py` come from.

    python -m bench.noise_nearest [frame …]
"""

import sys
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from fieldworld import camera
from fieldworld.outing import find
from sunlatch.frame import FrameStore, hash_file
from sunlatch.geometry import View
from sunlatch.ledger import Scene, Source
from sunlatch.meters.graininess import explained_by_noise
from sunlatch.propose import propose
from sunlatch.render import Development, Engine, picture_8

F32 = NDArray[np.float32]
FRAMES = ("path", "heath", "boulders", "pool", "blue-hour", "beacon", "stack-backlit")
SPEEDS = (100, 800, 3200)
LADDER = (0.0, 0.1, 0.2, 0.3, 0.4, 0.5, 0.7, 1.0)
WIDTH = 2400
SEES = (0.8, 1.6)
"""Scales of contrast that are seen on a print 60 cm wide from 40 cm, in px."""


def fine(picture: F32) -> list[F32]:
    """Fine contrast of L* (h, w), by 16-px blocks, at each scale."""
    h, w = (v // 16 * 16 for v in picture.shape)
    out = []
    for s in SEES:
        band = cv2.GaussianBlur(picture, (0, 0), s) - cv2.GaussianBlur(picture, (0, 0), 2 * s)
        out.append(np.sqrt(np.square(band[:h, :w]).reshape(h // 16, 16, w // 16, 16).mean((1, 3))))
    return out


def apart(one: list[F32], other: list[F32]) -> float:
    """How far two pictures' fine contrast is apart, in L*."""
    return float(sum(np.abs(a - b).mean() for a, b in zip(one, other, strict=True)))


def shot(name: str, iso: int, folder: Path, without_noise: bool = False, width: int = WIDTH) -> Path:
    """A frame of the outing at another speed and the same exposure, or as it would be without noise."""
    path = folder / f"{name}-{'clean' if without_noise else iso}.dng"
    at = camera.smaller(find(name), width)
    seconds = at.exposure.seconds * at.exposure.iso / iso
    held = camera.FULL_WELL, camera.READ_NOISE
    if without_noise:
        camera.FULL_WELL, camera.READ_NOISE = held[0] * 1e6, 0.0  # type: ignore[misc]
    try:
        camera.shoot(replace(at, exposure=replace(at.exposure, iso=iso, seconds=seconds)), path)
    finally:
        camera.FULL_WELL, camera.READ_NOISE = held  # type: ignore[misc]
    return path


class Looked:
    """A frame developed with so much smoothing, looked at in windows all over it."""

    def __init__(self, engine: Engine, store: FrameStore, path: Path) -> None:
        self.engine, sha256 = engine, hash_file(path)
        self.pyramid = store.whole(sha256, path)
        self.sha256 = sha256

    def development(self, **noise: Any) -> Development:
        """The scene with these settings of Noise."""
        scene = Scene(sources=[Source(sha256=self.sha256)])
        scene.ground.base_exposure.params.ev = 0.7
        scene.ground.noise.params = type(scene.ground.noise.params)(**noise)
        return self.engine.develop(scene, self.pyramid)

    def windows(self, **noise: Any) -> list[list[F32]]:
        """The fine contrast of each window."""
        made, out = self.development(**noise), []
        w, h = made.geometry.developed_size
        for v in (0.08, 0.3, 0.5, 0.7, 0.9):
            for u in (0.1, 0.4, 0.65, 0.9):
                x, y = round(u * (w - 320)), round(v * (h - 200))
                view = View((x / w, y / h, (x + 320) / w, (y + 200) / h), (320, 200))
                lab = cv2.cvtColor(picture_8(made, view, True), cv2.COLOR_RGB2LAB)
                out.append(fine(lab[..., 0].astype(np.float32) * (100 / 255)))
        return out

    def proposed(self) -> float:
        """What "start for me" takes of the light's noise here."""
        scene = Scene(sources=[Source(sha256=self.sha256)])
        made, _ = propose(self.engine.develop(scene, self.pyramid))
        return float(made.ground.noise.params.light)


def far(one: list[list[F32]], other: list[list[F32]]) -> float:
    """How far two lots of windows are apart, on the mean."""
    return float(np.mean([apart(a, b) for a, b in zip(one, other, strict=True)]))


def main(names: list[str]) -> None:
    """Print, for each frame and speed, how far each step of the ladder is from the truth."""
    engine = Engine()
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        store = FrameStore(folder / "pyramids")
        print(
            "frame, ISO, noise share, distance at "
            + " ".join(f"{v:.1f}" for v in LADDER)
            + ", nearest, proposed"
        )
        for name in names or FRAMES:
            truth = Looked(engine, store, shot(name, 100, folder, without_noise=True)).windows()
            for iso in SPEEDS:
                one = Looked(engine, store, shot(name, iso, folder))
                rows = [far(one.windows(light=v, colour=1.0), truth) for v in LADDER]
                given = one.proposed()
                at = far(one.windows(light=given, colour=1.0), truth)
                share = explained_by_noise(one.development())
                print(f"{name:14} {iso:5} {share:.2f}  " + " ".join(f"{v:.3f}" for v in rows), end="  ")
                print(
                    f"{LADDER[int(np.argmin(rows))]:.1f}  {given:.2f} ({at / min(rows):.2f} of the nearest)"
                )


if __name__ == "__main__":
    main(sys.argv[1:])
