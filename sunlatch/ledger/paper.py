"""Papers: what a scene is to be printed on, and how it will be looked at."""

from typing import Any, Final

from pydantic import BaseModel, ConfigDict, Field

from ..parameters import Params, choice, number, switch

PAPERS: Final = 24
"""The most papers of a scene."""


class ProfileRef(BaseModel):
    """A paper's profile, kept among the blobs of the document. channels: how many numbers a px of it has."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(max_length=120)
    blob: str = Field(pattern=r"^[0-9a-f]{64}$")
    channels: int = Field(ge=1, le=4)


class PaperParams(Params):
    """A sheet and a picture on it, in mm; and how it is seen."""

    width: float = number("Width", default=600, low=30, high=5000, step=1, unit="mm", decimals=0)
    height: float = number("Height", default=400, low=30, high=5000, step=1, unit="mm", decimals=0)
    border: float = number(
        "Border", default=40, low=0, high=1000, step=1, unit="mm", decimals=0,
        hint="White left around the picture, at least",
    )  # fmt: skip
    raised: float = number(
        "Raised", default=0, low=0, high=10, step=0.5, unit="%", decimals=1,
        hint="How far above the middle the picture stands, in % of the paper's height; about 3 is the optical centre",
    )  # fmt: skip
    mat: float = number(
        "Mat", default=0, low=0, high=500, step=1, unit="mm", decimals=0,
        hint="Board around the sheet when it hangs; it is not printed",
    )  # fmt: skip
    foot: float = number(
        "Lower mat", default=0, low=0, high=200, step=1, unit="mm", decimals=0,
        hint="How much wider the board is below than above",
    )  # fmt: skip
    fit: str = choice(
        "Picture",
        "fit",
        {
            "fit": "whole",
            "fill": "cropped to fill",
            "exact": "exact width",
        },
    )
    across: float = number(
        "Picture width",
        default=500,
        low=20,
        high=5000,
        step=1,
        unit="mm",
        decimals=0,
        hint="Where it is exactly so wide",
    )
    line: float = number(
        "Line", default=0, low=0, high=5, step=0.1, unit="mm", decimals=1, hint="A line around the picture"
    )
    gap: float = number("Line's distance", default=3, low=0, high=50, step=0.5, unit="mm", decimals=1)
    surface: str = choice(
        "Surface", "matte", {"matte": "matte", "lustre": "lustre", "gloss": "gloss", "metallic": "metallic"}
    )
    distance: float = number(
        "Seen from", default=60, low=10, high=1000, step=5, unit="cm", decimals=0,
        hint="From how far away the print is looked at",
    )  # fmt: skip
    intent: str = choice(
        "Intent", "relative",
        {"relative": "relative colorimetric", "perceptual": "perceptual", "saturation": "saturation", "absolute": "absolute colorimetric"},
    )  # fmt: skip
    compensated: bool = switch(
        "Black-point compensation", True, hint="The darkest tone is printed as the darkest ink"
    )
    sharpness: float = number(
        "Output sharpness", default=1.0, low=0, high=2, step=0.05, unit="%", decimals=0, shown_times=100.0,
        hint="100 % makes up for what ink, paper and distance blur",
    )  # fmt: skip
    spare: bool = switch("Spare sky and mist", True, hint="Leave what is smooth unsharpened")


class Kept(BaseModel):
    """A keep, as it travels with a document: a state of it by name."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=120)
    state: dict[str, Any]
