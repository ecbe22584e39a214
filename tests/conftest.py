"""Shared frames: the invented coast, small, with its truth."""

import os
from dataclasses import dataclass
from pathlib import Path

import pytest
from hypothesis import settings

import sunlatch  # noqa: F401  (before NumPy: it says how many threads that may start)

# isort: split

from fieldworld.camera import Shot, smaller
from fieldworld.seen import Seen, Viewpoint
from sunlatch.colour.difference import ciede2000, delta_e
from sunlatch.frame import FrameStore, Pyramid, hash_file
from sunlatch.ledger import Scene, Source
from sunlatch.render import Development, Engine
from tests.coast import shoot

# tests are not timed: the machine may be busy; and what lands is not left to dice. `HYPOTHESIS_PROFILE=search` throws them
settings.register_profile("same", deadline=None, derandomize=True)
settings.register_profile("search", deadline=None, max_examples=400)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "same"))


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
    """A frame store with its decoder, shared by all who test in this run: a frame is decoded once, and its sky found once."""
    shared = os.environ.get("SUNLATCH_PYRAMIDS")
    made = FrameStore(Path(shared) if shared else tmp_path_factory.mktemp("pyramids"))
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


__all__ = ["Coast", "ciede2000", "delta_e"]
