"""What is true of a frame, for tests and judges; the application never reads it."""

from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .camera import Shot, specks
from .seen import Seen
from .world import Scenery


@dataclass
class Truth(Seen):
    """All that `Seen` holds of the upright picture (distorted, before glass and noise), and: specks as
    (x, y, radius px, depth) on the sensor as it was held; pose: heading, pitch, roll in degrees and
    focal length in mm."""

    specks: list[tuple[float, float, float, float]]
    pose: dict[str, float]


def _facts(shot: Shot) -> dict[str, Any]:
    view = shot.view
    return {
        "specks": specks(shot.exposure.f_number, shot.width, shot.height, shot.dust),
        "pose": {"heading": view.heading, "pitch": view.pitch, "roll": view.roll, "focal_mm": view.focal_mm},
    }


def truth_of(shot: Shot, threads: int = 2) -> Truth:
    """The truth of a shot, computed."""
    return with_facts(shot, Scenery(shot.view, shot.lens, threads).look())


def with_facts(shot: Shot, seen: Seen) -> Truth:
    """What was seen of a shot, with what else is true of it."""
    return Truth(**vars(seen), **_facts(shot))


def write_truth(shot: Shot, seen: Seen, path: Path) -> None:
    """Write the truth of a shot beside its frame, whole or not at all."""
    part = path.with_name(path.name + ".part")
    held = asdict(with_facts(shot, seen))
    pose = held.pop("pose")
    with part.open("wb") as out:
        np.savez_compressed(
            out, pose=np.array(list(pose.values())), **{k: _small(v) for k, v in held.items()}
        )
    part.replace(path)


def _small(value: Any) -> NDArray[Any]:
    array = np.asarray(value)
    return array.astype(np.float16) if array.ndim >= 2 and array.size > 1000 and array.max() < 6e4 else array


def read_truth(path: Path) -> Truth:
    """The truth written beside a frame."""
    with np.load(path) as held:
        fields = {k: held[k] for k in held.files}
    pose = dict(zip(("heading", "pitch", "roll", "focal_mm"), fields.pop("pose").tolist(), strict=True))
    marks = [tuple(row) for row in fields.pop("specks").tolist()]
    return Truth(**{k: v.astype(np.float32) for k, v in fields.items()}, specks=marks, pose=pose)  # type: ignore[arg-type]
