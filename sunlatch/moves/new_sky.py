"""New sky: the sky of another frame, placed behind what stands before it; the land follows as far as one likes."""

from ..parameters import Params, number, switch
from .base import MoveKind


class NewSkyParams(Params):
    """How it lies, and how what is before it follows."""

    stops: float = number(
        "Light", default=0.0, low=-5.0, high=5.0, step=0.05, unit="stops", signed=True, decimals=1,
        hint="Lighter or darker than the sky that was there",
    )  # fmt: skip
    across: float = number(
        "Across", default=0.0, low=-2.0, high=2.0, step=0.002, unit="%", signed=True, decimals=1, shown_times=100.0,
        hint="How far to the right it lies, in % of the long edge",
    )  # fmt: skip
    down: float = number(
        "Down", default=0.0, low=-2.0, high=2.0, step=0.002, unit="%", signed=True, decimals=1, shown_times=100.0,
        hint="How far down it lies, in % of the long edge",
    )  # fmt: skip
    size: float = number(
        "Size", default=1.0, low=0.2, high=6.0, step=0.01, unit="%", decimals=0, shown_times=100.0,
        hint="Its long edge against the picture's",
    )  # fmt: skip
    turn: float = number(
        "Turned", default=0.0, low=-45.0, high=45.0, step=0.1, unit="°", signed=True, decimals=1
    )
    mirror: bool = switch("Mirrored", False, hint="So that its light comes from the other side")
    relight: float = number(
        "Relight", default=0.5, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="How far the land before it takes its colour and its level",
    )  # fmt: skip
    haze: float = number(
        "Haze", default=0.1, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="How much of its light hangs before what lies far away, at the horizon",
    )  # fmt: skip
    water: float = number(
        "In water", default=0.0, low=0.0, high=1.0, step=0.02, unit="%", decimals=0, shown_times=100.0,
        hint="How far water mirrors it, the most near the horizon; a latch named Water says where it is",
    )  # fmt: skip
    grain: float = number(
        "Grain", default=0.0, low=0.0, high=1.0, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="How far it takes the grain of the sky that was there, where it is cleaner",
    )  # fmt: skip
    edge: float = number(
        "Edge", default=0.0, low=-1.0, high=1.0, step=0.05, unit="%", signed=True, decimals=0, shown_times=100.0,
        hint="How far it goes into edges and twigs; negative values leave them more of what was there",
    )  # fmt: skip


MOVE = MoveKind(
    kind="new_sky",
    revision=3,
    band="mend",
    label="New sky",
    question="Which sky belongs?",
    sentence="New sky {stops}",
    params=NewSkyParams,
    first="stops",
    place=60,
)
