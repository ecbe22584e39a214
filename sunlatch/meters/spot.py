"""The value at a place, and the light that would make it neutral."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..colour import LUMA, LightColour, from_oklab, leading_colour, light_of_neutral, oklab
from ..colour.spaces import encode_srgb, working_to_output
from ..colour.tones import lightness
from ..errors import RenderError
from ..geometry import View
from ..parameters import Picked, Point
from ..render import Development, Output

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]

_WORDS = ((0.02, "black"), (0.15, "nearly black"), (0.4, "dark"), (0.6, "in the middle"),
          (0.85, "light"), (0.98, "nearly white"), (2.0, "paper white"))  # fmt: skip


class Spot(BaseModel):
    """A small place. start, now: stops as the frame had it and as it enters Rendering; printed:
    L*/100; words: how that prints."""

    start: float
    now: float
    printed: float
    words: str


def patch(development: Development, x: float, y: float, size: float) -> View:
    """A square view around (x, y), fractions of the developed picture; `size`: share of the long
    edge. Raises RenderError outside the picture."""
    if not (0 <= x <= 1 and 0 <= y <= 1):
        raise RenderError("that place lies outside the picture")
    w, h = development.geometry.developed_size
    pixels = max(3, round(size * max(w, h)))
    pw, ph = min(pixels / w, 1.0), min(pixels / h, 1.0)
    x0, y0 = min(max(x - pw / 2, 0), 1 - pw), min(max(y - ph / 2, 0), 1 - ph)
    side = min(pixels, 48)
    return View((x0, y0, x0 + pw, y0 + ph), (side, side))


def read_spot(development: Development, x: float, y: float, size: float = 0.002) -> Spot:
    """Read the place (x, y), in fractions of the developed picture."""
    view = patch(development, x, y, size)
    luma = np.array([0.2627, 0.6780, 0.0593])
    start = development.light_planes(view, 0).mean((1, 2)) @ luma
    now = development.light_planes(view).mean((1, 2)) @ luma
    shown: list[float] = []

    def take(band: np.ndarray, r: int, e: int) -> None:  # type: ignore[type-arg]
        shown.append(float(np.tensordot(luma, band.mean((1, 2)), 1)))

    development.display(view, Output("rec2020"), take, keep=False, band_rows=view.size[1])
    printed = float(lightness(np.array(shown[0])))
    words = next(word for limit, word in _WORDS if printed <= limit)
    floor = 0.18 * 2.0**-14
    return Spot(
        start=float(np.log2(max(float(start), floor) / 0.18)),
        now=float(np.log2(max(float(now), floor) / 0.18)),
        printed=printed,
        words=words,
    )


FINGERTIP = 0.004
"""How wide a patch is read where nothing else is said, in long edges."""


def in_round(planes: F32) -> F64:
    """The px (n, 3) of the disc in a square patch (3, h, w)."""
    h, w = planes.shape[1:]
    y, x = np.mgrid[:h, :w]
    inside = ((x + 0.5) / w - 0.5) ** 2 + ((y + 0.5) / h - 0.5) ** 2 <= 0.25
    return planes[:, inside].T.astype(np.float64)


class PickedAt(BaseModel):
    """A colour of the scene's light, as a move sees it, and how it looks."""

    picked: Picked
    shown: str


def pick_at(
    development: Development, x: float, y: float, upto: int | None = None, across: float = FINGERTIP
) -> PickedAt:
    """The leading colour of a round patch (fractions of the developed picture; `across`: long edges) after the first
    `upto` Light moves that are on (all by default). Raises RenderError outside the picture."""
    px = np.maximum(in_round(development.light_planes(patch(development, x, y, across), upto)), 0)
    lab = leading_colour(oklab(px))
    rgb = from_oklab(lab)
    u, v = (float(np.clip(c / max(float(lab[0]), 1e-4), -2, 2)) for c in lab[1:])
    stops = float(np.log2(max(float(rgb @ LUMA), 0.18 * 2.0**-14) / 0.18))
    level = from_oklab(np.array([1.0, u, v]) * 0.7)
    srgb = np.rint(encode_srgb(np.clip(working_to_output("srgb") @ level, 0, 1)) * 255).astype(int)
    w, h = development.geometry.developed_size
    source = development.geometry.to_source(np.array([x * w, y * h]) / development.geometry.long_edge)
    at = Point(x=float(source[0]), y=float(source[1]))
    return PickedAt(picked=Picked(at=at, u=u, v=v, stops=stops), shown="#{:02x}{:02x}{:02x}".format(*srgb))


def light_at(development: Development, x: float, y: float) -> LightColour:
    """The light that makes the place neutral. Raises RenderError where nothing can be read."""
    size = float(development.scene.ground.colour_of_light.params.patch)
    view = patch(development, x, y, size)
    camera = development.ground.reading_camera(view).mean((1, 2)).astype(float)
    colour = development.raster.info.colour
    if camera.max() > 0.97:
        raise RenderError("that place is clipped; its colour cannot be read. Nothing was changed")
    try:
        return light_of_neutral(colour, camera)
    except ValueError as error:
        raise RenderError(f"{error}. Nothing was changed") from error
