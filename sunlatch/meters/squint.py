"""Squint: the picture small and blurred, and where the eye goes first in it."""

from typing import Final

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..colour import oklab
from ..colour.spaces import DISPLAY_LUMA, working_to_output
from ..geometry import View
from ..render import SCREEN, Development

F32 = NDArray[np.float32]
SMALL: Final = 96
"""Long edge, px, at which a picture is squinted at."""
BLUR: Final = 1.6
COLOUR: Final = 1.5
"""What colour weighs against lightness."""
LIGHT: Final = 0.35
"""How much more what is lighter than its surroundings draws than what is darker."""


class Drawn(BaseModel):
    """A place that draws the eye (fractions of the picture); pull: against the strongest, 0–1."""

    x: float
    y: float
    pull: float


class Squint(BaseModel):
    """Where the eye goes, first things first: in the picture as it is, and as it was before Light."""

    now: list[Drawn]
    start: list[Drawn]


def _display(development: Development, view: View) -> F32:
    """Display light of a view (3, h, w), linear sRGB."""
    out = np.empty((3, view.size[1], view.size[0]), np.float32)

    def take(band: F32, r: int, e: int) -> None:
        out[:, r:e] = band

    development.display(view, SCREEN, take, keep=False)
    return out


def squinted(development: Development, view: View, grey: bool) -> NDArray[np.uint8]:
    """A view as seen through nearly closed eyes, (h, w, 3) sRGB, 8 bit. grey: without its colour."""
    whole = development.geometry.fit(SMALL)
    light = _display(development, whole)
    if grey:
        light[:] = np.tensordot(DISPLAY_LUMA, light, 1)
    small = np.stack([cv2.GaussianBlur(p, (0, 0), BLUR) for p in light], -1)
    w, h = view.size
    x0, y0, x1, y1 = view.region
    full = (max(1, round(w / (x1 - x0))), max(1, round(h / (y1 - y0))))
    scale = np.array([whole.size[0] / full[0], whole.size[1] / full[1]])
    m = np.array([[scale[0], 0, x0 * whole.size[0] - 0.5], [0, scale[1], y0 * whole.size[1] - 0.5]])
    shown = cv2.warpAffine(
        small, m, (w, h), flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE
    )
    return np.asarray(np.rint(255 * np.clip(shown, 0, 1) ** (1 / 2.2)), np.uint8)


def places(light: F32, most: int = 3) -> list[Drawn]:
    """Where the eye goes in display light (3, h, w), linear sRGB: what differs most from its surroundings in
    lightness and colour, at three sizes (center against surround: Itti, Koch & Niebur 1998)."""
    working = np.linalg.solve(working_to_output("srgb"), light.reshape(3, -1).astype(float))
    lab = oklab(np.maximum(working.T, 0)).T.reshape(light.shape).astype(np.float32)
    h, w = light.shape[1:]
    pull = np.zeros((h, w), np.float32)
    for sigma in (1.5, 3.0, 6.0):
        off = [cv2.GaussianBlur(p, (0, 0), sigma) - cv2.GaussianBlur(p, (0, 0), 4 * sigma) for p in lab]
        tone = np.abs(off[0]) + np.float32(LIGHT) * np.maximum(off[0], 0)
        pull += tone + np.float32(COLOUR) * cv2.magnitude(off[1], off[2])
    y, x = np.mgrid[0:h, 0:w].astype(np.float32)
    aside = ((x / w - 0.5) / 0.75) ** 2 + ((y / h - 0.5) / 0.75) ** 2
    pull = np.asarray(pull * np.exp(-aside), np.float32)  # the eye begins near the middle
    found: list[Drawn] = []
    top = float(pull.max())
    while top > 0.02 and len(found) < most:
        r, c = np.unravel_index(int(pull.argmax()), pull.shape)
        much = float(pull[r, c])
        if much < 0.3 * top:
            break
        found.append(Drawn(x=float((c + 0.5) / w), y=float((r + 0.5) / h), pull=much / top))
        pull *= 1 - np.exp(
            -((x - np.float32(c)) ** 2 + (y - np.float32(r)) ** 2) / (2 * (0.09 * max(h, w)) ** 2)
        )
    return found


def read_squint(development: Development) -> Squint:
    """Where the eye goes now, and where it went before Light."""
    view = development.geometry.fit(SMALL)
    bare = development.scene.model_copy(update={"moves": []})
    start = development.again(bare)
    return Squint(now=places(_display(development, view)), start=places(_display(start, view)))
