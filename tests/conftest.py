"""Shared frames: the invented coast, small, with its truth."""

import os
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
from hypothesis import settings

os.environ.setdefault("SUNLATCH_DATA", tempfile.mkdtemp(prefix="sunlatch-test-"))

from fieldworld.camera import Shot, shoot, smaller
from fieldworld.world import Seen, Viewpoint
from sunlatch.frame import FrameStore, Pyramid, hash_file
from sunlatch.ledger import Scene, Source
from sunlatch.render import Development, Engine

# tests are not timed: the machine may be busy
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")


@dataclass(frozen=True)
class Coast:
    """The backlit stack at a tenth of its pixels: the raw file, its pyramid, and the truth."""

    path: Path
    sha256: str
    pyramid: Pyramid
    truth: Seen

    def scene(self) -> Scene:
        """An untouched scene."""
        return Scene(sources=[Source(sha256=self.sha256)])


@pytest.fixture(scope="session")
def frames(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder for made frames."""
    return tmp_path_factory.mktemp("frames")


@pytest.fixture(scope="session")
def store(tmp_path_factory: pytest.TempPathFactory):
    """A frame store with its decoder."""
    made = FrameStore(tmp_path_factory.mktemp("pyramids"))
    yield made
    made.decoder.close()


@pytest.fixture(scope="session")
def coast(frames: Path, store: FrameStore) -> Coast:
    """One small shot for everybody."""
    path = frames / "stack.dng"
    truth = shoot(smaller(Shot("stack", Viewpoint()), 1272), path)
    sha256 = hash_file(path)
    return Coast(path, sha256, store.whole(sha256, path), truth)


@pytest.fixture(scope="session")
def engine() -> Engine:
    """One engine."""
    return Engine(threads=2)


@pytest.fixture
def development(coast: Coast, engine: Engine) -> Development:
    """The untouched frame, developed."""
    return engine.develop(coast.scene(), coast.pyramid)


def delta_e(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """CIEDE2000 between two arrays (..., 3) of linear sRGB display light (Sharma et al. 2005)."""
    return ciede2000(_lab(a), _lab(b))


def _lab(rgb: np.ndarray) -> np.ndarray:
    from sunlatch.colour.spaces import D65, rgb_to_xyz, xy_to_xyz

    xyz = rgb @ rgb_to_xyz("srgb").T / xy_to_xyz(D65)
    f = np.where(xyz > 216 / 24389, np.cbrt(np.maximum(xyz, 1e-9)), (24389 / 27 * xyz + 16) / 116)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], -1)


def ciede2000(one: np.ndarray, two: np.ndarray) -> np.ndarray:
    """The colour difference formula of CIE 142-2001."""
    l1, a1, b1 = np.moveaxis(one, -1, 0)
    l2, a2, b2 = np.moveaxis(two, -1, 0)
    c = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(c**7 / (c**7 + 25.0**7)))
    a1, a2 = a1 * (1 + g), a2 * (1 + g)
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    dl, dc = l2 - l1, c2 - c1
    dh = (h2 - h1 + 180) % 360 - 180
    dh = np.where(c1 * c2 == 0, 0, dh)
    dbig = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh) / 2)
    lm, cm = (l1 + l2) / 2, (c1 + c2) / 2
    hm = np.where(np.abs(h1 - h2) > 180, (h1 + h2 + 360) / 2 % 360, (h1 + h2) / 2)
    hm = np.where(c1 * c2 == 0, h1 + h2, hm)
    t = (
        1
        - 0.17 * np.cos(np.radians(hm - 30))
        + 0.24 * np.cos(np.radians(2 * hm))
        + 0.32 * np.cos(np.radians(3 * hm + 6))
        - 0.20 * np.cos(np.radians(4 * hm - 63))
    )
    sl = 1 + 0.015 * (lm - 50) ** 2 / np.sqrt(20 + (lm - 50) ** 2)
    sc, sh = 1 + 0.045 * cm, 1 + 0.015 * cm * t
    turn = -2 * np.sqrt(cm**7 / (cm**7 + 25.0**7))
    turn = turn * np.sin(np.radians(60 * np.exp(-(((hm - 275) / 25) ** 2))))
    return np.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dbig / sh) ** 2 + turn * (dc / sc) * (dbig / sh))
