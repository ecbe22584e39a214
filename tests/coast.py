"""Frames of the coast for tests: each is cast once, and shared by all files, workers and runs.

They lie in a folder named by the code of the world that made them: where that changes, they are made anew. In place of
`fieldworld.camera.shoot`, but for tests of that itself.
"""

import fcntl
import hashlib
import os
import shutil
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import fields
from functools import cache
from pathlib import Path

import numpy as np

from fieldworld import camera, lent, truth
from fieldworld.camera import Shot
from fieldworld.optics import Lens
from fieldworld.seen import Seen, Viewpoint
from fieldworld.truth import Truth
from fieldworld.world import Scenery

ROOT = Path(__file__).resolve().parents[1]
PARTS = tuple(field.name for field in fields(Seen))


@cache
def kept_in() -> Path:
    """Where frames made by the world as it is now are kept; what an earlier one made is gone. SUNLATCH_COAST: elsewhere
    than in the checkout."""
    world = hashlib.sha256()
    for path in sorted((ROOT / "fieldworld").glob("*.py")):
        world.update(path.name.encode() + path.read_bytes())
    root = Path(os.environ.get("SUNLATCH_COAST", ROOT / ".coast"))
    folder = root / world.hexdigest()[:16]
    folder.mkdir(parents=True, exist_ok=True)
    for other in root.iterdir():
        if other != folder:
            shutil.rmtree(other, ignore_errors=True)
    return folder


@contextmanager
def _alone(name: str) -> Iterator[Path]:
    """Inside, nobody else makes what is called so; where it lies, or is to lie."""
    place = kept_in() / hashlib.sha256(name.encode()).hexdigest()[:32]
    with place.with_suffix(".lock").open("w") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        yield place


def _kept(name: str, make: Callable[[Path], object]) -> Path:
    """A folder filled by `make`, whole or not at all; made once."""
    with _alone(name) as place:
        if not place.exists():
            part = place.with_suffix(f".part{os.getpid()}")
            shutil.rmtree(part, ignore_errors=True)
            part.mkdir()
            make(part)
            part.rename(place)
    return place


def looked(view: Viewpoint, lens: Lens) -> Seen:
    """What a lens sees from a place. Arrays may be changed: what is kept does not change with them."""

    def make(folder: Path) -> None:
        seen = Scenery(view, lens, 2).look()
        for part in PARTS:
            np.save(folder / f"{part}.npy", getattr(seen, part))

    place = _kept(f"look {view!r} {lens!r}", make)
    return Seen(**{part: np.asarray(np.load(place / f"{part}.npy", mmap_mode="c")) for part in PARTS})


def shoot(shot: Shot, path: Path) -> Seen:
    """As `camera.shoot`: write the raw file, and return what the lens saw, upright."""
    shot.check()
    seen = looked(shot.view, shot.lens)

    def make(folder: Path) -> None:
        camera.develop(shot, seen, Scenery(shot.view, shot.lens, 2), folder / "frame.dng")

    shutil.copyfile(_kept(f"shoot {shot!r}", make) / "frame.dng", path)
    return seen


def truth_of(shot: Shot) -> Truth:
    """As `truth.truth_of`."""
    return truth.with_facts(shot, looked(shot.view, shot.lens))


def ideal(view: Viewpoint, size: tuple[int, int]) -> Seen:
    """As `lent.ideal`."""
    return looked(view, lent.faultless(view, size))
