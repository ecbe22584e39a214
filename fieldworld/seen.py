"""Where a camera stands, and what its lens sees there."""

from dataclasses import dataclass, field
from typing import Any, Protocol

import numpy as np
from numpy.typing import NDArray

from .optics import Lens
from .sky import Daylight

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]


@dataclass(frozen=True)
class Viewpoint:
    """Where the camera stands and looks. place: a key of PLACES. eye: metres over the ground there.
    heading, pitch, roll in degrees. when: seconds, which move the water."""

    place: str = "shore"
    eye: float = 1.75
    heading: float = 3.0
    pitch: float = 7.5
    roll: float = -0.5
    focal_mm: float = 26.0
    light: Daylight = field(default_factory=Daylight)
    when: float = 0.0
    water_s: float = 0.0
    """How long the water moves while the shutter is open, s."""
    figures: tuple[str, ...] = ()
    walked: float = 0.0
    """How far to the right of the path the walker is, metres."""


@dataclass
class Seen:
    """What the lens sees. radiance (h, w, 3); shares (h, w) in 0–1 of sky, water, land, subject,
    twigs and wires; depth along the ray in m (1e6 for sky)."""

    radiance: F32
    sky: F32
    water: F32
    land: F32
    subject: F32
    twigs: F32
    wires: F32
    depth: F32


class Stage(Protocol):
    """What figures need to know of the scenery they stand in."""

    view: Viewpoint
    full: Lens
    eye: float
    place: Any
    tex: Any
    turn: F64
    sun: F64

    def figure_light(self) -> F64:
        """Light on upright things facing the camera: (3) all over, then (3) the sun's on their lit side."""
