"""A test strip: one piece of a picture in steps of one or two settings, labelled, to pick the winner from."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from ..colour import LUMA
from ..errors import DocumentError, RenderError
from ..geometry import View
from ..ledger import Scene, new_move, parse_scene
from ..moves import GROUND_KINDS, LIGHT_KINDS
from ..render import Development, Output
from ..running.patience import go_on

F32 = NDArray[np.float32]
NAMED: Final = {
    "exposure": ("Exposure", "stops"),
    "warmth": ("Colour of light", "K"),
    "contrast": ("Contrast", "%"),
    "sharpness": ("Output sharpness", "%"),
}
"""Settings with a name of their own: how they are labelled, and their unit."""
STEPS_MOST: Final = 12
"""Steps of a setting."""
GAP: Final = 0.02
"""White between two pieces, in widths of one."""


@dataclass(frozen=True)
class Setting:
    """What is changed in steps: of NAMED, a line of Light and its number ("2.ev"), or one of Ground ("haze.amount"). steps: added
    to what it is."""

    of: str
    steps: tuple[float, ...]

    def __post_init__(self) -> None:
        if not 1 <= len(self.steps) <= STEPS_MOST:
            raise DocumentError(f"a strip has 1 to {STEPS_MOST} steps of a setting, not {len(self.steps)}")
        if not all(np.isfinite(self.steps)):
            raise DocumentError("a step is not a number")

    def label(self, step: float) -> str:
        """For example "Exposure +0.25 stops"; "as it is" for none."""
        if step == 0:
            return "as it is"
        name, unit = NAMED.get(self.of, (self.of, ""))
        sign = "+" if step > 0 else "-"  # what every fount has
        return f"{name} {sign}{abs(step):.2f}".rstrip("0").rstrip(".") + f" {unit}".rstrip()


def stepped(scene: Scene, of: str, step: float, kelvin: float = 5500.0) -> Scene:
    """The scene with a setting changed by a step: on its paper alone where it is proofed on one and that is possible. kelvin: of
    its light now. Raises DocumentError where there is no such setting, or it cannot go so far."""
    if step == 0:
        return scene
    data = scene.model_dump(mode="json")
    paper = next((p for p in data["papers"] if p["id"] == data["paper"]), None)
    if of in ("exposure", "contrast"):
        field, value = ("ev", step) if of == "exposure" else ("amount", step / 100)
        line = new_move(of, params={field: value}).model_dump(mode="json")
        (paper or data)["moves"].append(line)
    elif of == "warmth":
        params = data["ground"]["colour_of_light"]["params"]
        params["kelvin"] = (params["kelvin"] or kelvin) + step
    elif of == "sharpness":
        if paper is None:
            raise DocumentError("output sharpness belongs to a paper; choose one first")
        paper["params"]["sharpness"] += step / 100
    else:
        which, _, name = of.partition(".")
        params = _params(data, which)
        if not isinstance(params.get(name), int | float) or isinstance(params.get(name), bool):
            raise DocumentError(
                f"there is no number {of!r}; say {', '.join(NAMED)}, or a line and its number, 1.ev"
            )
        params[name] += step
    return parse_scene(data)


def _params(data: dict[str, Any], which: str) -> dict[str, Any]:
    if which.isdigit() and 1 <= int(which) <= len(data["moves"]):
        return dict_of(data["moves"][int(which) - 1])
    for line in data["moves"]:
        if line["id"].startswith(which) and len(which) >= 4:
            return dict_of(line)
    if which in GROUND_KINDS:
        return dict_of(data["ground"][which])
    kinds = [line for line in data["moves"] if line["kind"] == which]
    if which in LIGHT_KINDS and kinds:
        return dict_of(kinds[0])
    raise DocumentError(f"there is no line {which!r} in this scene")


def dict_of(line: dict[str, Any]) -> dict[str, Any]:
    """A line's settings."""
    params: dict[str, Any] = line["params"]
    return params


def telling(
    development: Development, output: Output, share: float = 0.3
) -> tuple[float, float, float, float]:
    """The piece of a picture with the most in it: from its darks to its lights, and detail. It is square, so that several
    stand side by side large enough to be judged. share: its side, of the geometric mean of the picture's."""
    view = development.geometry.fit(480)
    out = np.empty((3, view.size[1], view.size[0]), np.float32)

    def take(band: F32, r: int, e: int) -> None:
        out[:, r:e] = band

    development.display(view, output, take, keep=False)
    tone = np.cbrt(np.maximum(np.tensordot(LUMA.astype(np.float32), out, 1), 0))
    h, w = tone.shape
    side = max(8, int(share * (h * w) ** 0.5))
    th, tw = min(side, h), min(side, w)
    kernel = (tw, th)
    mean, square = cv2.blur(tone, kernel), cv2.blur(tone * tone, kernel)
    spread = np.sqrt(np.maximum(square - mean * mean, 0))
    detail = cv2.blur(np.abs(tone - cv2.GaussianBlur(tone, (0, 0), 2)), kernel)
    worth = spread / max(float(spread.max()), 1e-6) + 0.5 * detail / max(float(detail.max()), 1e-6)
    inside = worth[th // 2 : h - th // 2, tw // 2 : w - tw // 2]
    r, c = np.unravel_index(int(inside.argmax()), inside.shape)
    return (float(c / w), float(r / h), float(min((c + tw) / w, 1)), float(min((r + th) / h, 1)))


def strip(
    development: Development,
    settings: Sequence[Setting],
    output: Output,
    *,
    region: tuple[float, float, float, float] | None = None,
    width: int = 320,
) -> tuple[NDArray[Any], list[dict[str, Any]]]:
    """The strip as px (h, w, channels) of an output, and its pieces: {"at": x, y, w, h in px, "steps": […], "label"}. One setting
    runs across, a second one down. width: px of a piece. Raises DocumentError, RenderError."""
    if not 1 <= len(settings) <= 2:
        raise RenderError("a strip is of one or two settings")
    scene = development.scene
    kelvin = development.ground.light().kelvin
    place = region or telling(development, output)
    w, h = development.geometry.developed_size
    height = max(16, round(width * (place[3] - place[1]) * h / ((place[2] - place[0]) * w)))
    down = settings[1] if len(settings) > 1 else Setting("exposure", (0.0,))
    gap = max(4, round(width * GAP))
    font = ImageFont.load_default(size=max(11, width // 18))
    foot = max(18, width // 9)
    columns, rows = len(settings[0].steps), len(down.steps)
    size = (gap + columns * (width + gap), gap + rows * (height + foot + gap))
    light = np.ones((3, size[1], size[0]), np.float32)
    letters = Image.new("L", size, 0)
    pen = ImageDraw.Draw(letters)
    pieces: list[dict[str, Any]] = []
    for r, second in enumerate(down.steps):
        for c, first in enumerate(settings[0].steps):
            go_on()
            tried = stepped(stepped(scene, settings[0].of, first, kelvin), down.of, second, kelvin)
            made = development.again(tried.for_paper(tried.on_paper))
            x, y = gap + c * (width + gap), gap + r * (height + foot + gap)
            light[:, y : y + height, x : x + width] = _piece(
                made, tried, View(place, (width, height)), output
            )
            label = settings[0].label(first)
            if len(settings) > 1:
                label = f"{label}, {down.label(second)}" if second or first else "as it is"
            pen.text((x + width / 2, y + height + foot / 2), label, fill=255, font=font, anchor="mm")
            steps = [first, second] if len(settings) > 1 else [first]
            pieces.append({"at": [x, y, width, height], "steps": steps, "label": label})
    light *= 1 - np.asarray(letters, np.float32) / 255 * 0.95
    out = np.empty((size[1], size[0], output.channels), output.dtype)
    output.encode(light, out)
    return out, pieces


def _piece(made: Development, tried: Scene, view: View, output: Output) -> F32:
    out = np.empty((3, view.size[1], view.size[0]), np.float32)

    def take(band: F32, r: int, e: int) -> None:
        out[:, r:e] = band

    made.display(view, output, take, keep=False)
    if output.sharpness is not None and tried.on_paper is not None:
        out = output.sharpness.by(tried.on_paper.params.sharpness).sharpened(out)
    return out
