"""Lens: what the lens bent, darkened and set apart, undone. The forms are in geometry/lens.py."""

from typing import Literal

from ..parameters import Params, choice, number
from .base import MoveKind


class LensParams(Params):
    """Where the lens's faults are known from, how much of each is undone, and what is added by hand.
    A wide foreground is sometimes better left as the lens drew it."""

    known: Literal["off", "frame", "database", "hand"] = choice(
        "Known", "off",
        {"off": "left off", "frame": "by the embedded profile", "database": "by the lens profile",
         "hand": "by hand"},
    )  # fmt: skip
    distortion: float = number(
        "Distortion", default=1.0, low=0.0, high=1.5, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How much of the known distortion is undone",
    )  # fmt: skip
    vignetting: float = number(
        "Vignetting", default=1.0, low=0.0, high=1.5, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How much of the known darkening of the corners is undone",
    )  # fmt: skip
    lateral: float = number(
        "Lateral colour", default=1.0, low=0.0, high=1.5, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How much of the known colour fringe is undone",
    )  # fmt: skip
    radial: float = number(
        "Bend by hand", default=0.0, low=-0.25, high=0.25, step=0.002, unit="%", signed=True, decimals=1,
        shown_times=100.0, hint="What the lens added to a corner's distance: below 0 for a barrel",
    )  # fmt: skip
    corners: float = number(
        "Corners by hand", default=0.0, low=-2.0, high=3.0, step=0.05, unit="stops", signed=True, decimals=2,
        hint="How much lighter the corners become",
    )  # fmt: skip
    red: float = number(
        "Red by hand", default=0.0, low=-4.0, high=4.0, step=0.05, unit="‰", signed=True, decimals=2,
        hint="How much larger the lens drew red than green",
    )  # fmt: skip
    blue: float = number(
        "Blue by hand", default=0.0, low=-4.0, high=4.0, step=0.05, unit="‰", signed=True, decimals=2,
        hint="How much larger the lens drew blue than green",
    )  # fmt: skip


MOVE = MoveKind(
    kind="lens",
    revision=1,
    band="ground",
    label="Lens",
    question="What shape?",
    sentence="Lens {known}",
    params=LensParams,
    first="known",
    place=12,
)
