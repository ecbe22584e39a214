"""What a latch reads at a place, and why the place is in it."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..colour import leading_colour
from ..colour.oklab import ROOTS_TO_LAB, WORKING_TO_LMS
from ..colour.spaces import encode_srgb, working_to_output
from ..errors import RenderError
from ..geometry import View
from ..latch import INGREDIENT_KINDS, combine
from ..latch.base import stop_axis
from ..latch.fan import half_at
from ..ledger import Latch, ReadAt, ingredient_sentence
from ..parameters import Point
from ..render import Development
from .spot import FINGERTIP, in_round, patch

F32 = NDArray[np.float32]
SURVEY, NOTHING = 640, 0.02
"""Long edge, px, of the picture in which it is seen whether a latch holds anything, and what is nothing."""
PATCH = 0.004
"""Side of the patch that is averaged, in widths of the picture."""


class ColourAt(BaseModel):
    """A colour in OKLab, where it was picked (source coordinates), and how it looks on screen."""

    at: Point
    l: float  # noqa: E741 (the axis is called l)
    a: float
    b: float
    shown: str


def _patch(development: Development, x: float, y: float, px: int) -> View:
    if not (0 <= x <= 1 and 0 <= y <= 1):
        raise RenderError("that place lies outside the picture")
    w, h = development.geometry.developed_size
    half = PATCH / 2
    tall = half * w / h
    return View((x - half, y - tall, x + half, y + tall), (px, px))


def colour_at(
    development: Development, at: ReadAt, x: float, y: float, across: float = FINGERTIP
) -> ColourAt:
    """The leading colour of the reading picture at that light in a round patch, `across` long edges wide, of the
    developed picture. Raises RenderError outside of it."""
    lab = leading_colour(in_round(development.reader.lab(patch(development, x, y, across), at)))
    light = np.linalg.solve(WORKING_TO_LMS, np.linalg.solve(ROOTS_TO_LAB, lab) ** 3)
    srgb = np.rint(encode_srgb(np.clip(working_to_output("srgb") @ light, 0, 1)) * 255).astype(int)
    w, h = development.geometry.developed_size
    unit = development.geometry.long_edge
    source = development.geometry.to_source(np.array([x * w / unit, y * h / unit]))
    return ColourAt(
        at=Point(x=float(source[0]), y=float(source[1])), l=float(lab[0]), a=float(lab[1]), b=float(lab[2]),
        shown="#{:02x}{:02x}{:02x}".format(*srgb),
    )  # fmt: skip


def fan_rungs(development: Development, at: ReadAt, leaning: str, narrow: list[float]) -> list[float]:
    """For masks of the Fan so narrow, the rung (stops) at which each takes half, of the reading picture at that
    light."""
    reading = development.latches.reading(development.geometry.fit(16), at)
    halves = [half_at(leaning, n) for n in narrow]
    return [float(v) for v in np.interp(halves, reading.lightness, stop_axis())]


def why(development: Development, latch: Latch, x: float, y: float) -> tuple[dict[str, float], float]:
    """Each ingredient's value at a place of the developed picture by id, and the latch's own. Raises
    RenderError outside the picture."""
    view = _patch(development, x, y, 3)
    values = {
        line.id: float(development.latches.term(latch, line.id, view)[1, 1])
        for line in latch.ingredients
        if line.on
    }
    return values, float(development.latches.mask(latch, view)[1, 1])


def in_doubt(development: Development, latch: Latch) -> dict[str, str]:
    """What is to be asked of a latch's ingredients, by id: of those that were found, but not surely, and not answered for."""
    asks: dict[str, str] = {}
    for line in latch.ingredients:
        kind = INGREDIENT_KINDS[line.kind]
        if not line.on or not kind.asks or line.params.answer != "found":
            continue
        finding = development.reader.finding(line)
        if finding.verdict == "doubtful":
            x0, y0, x1, y1 = finding.region
            share = float((finding.mask > 0.5).mean()) * (x1 - x0) * (y1 - y0)
            much = f"{100 * share:.0f}\u00a0%" if share >= 0.01 else "Less than 1\u00a0%"
            asks[line.id] = f"{kind.asks} {much} of the frame may be."
    return asks


def why_empty(development: Development, latch: Latch) -> str:
    """Where a latch that holds nothing loses what it held, as a sentence; "" where it holds something."""
    lines = [line for line in latch.ingredients if line.on]
    if not lines:
        return "it is empty: all its ingredients are off" if latch.ingredients else "it has no ingredient yet"
    view = development.geometry.fit(SURVEY)
    if float(development.latches.mask(latch, view).max()) >= NOTHING:
        return ""
    if latch.strength < NOTHING:
        return "it is empty: its strength is nothing"
    running: F32 | None = None
    for line in lines:
        kind = INGREDIENT_KINDS[line.kind]
        if kind.find is not None and kind.nothing:
            finding = development.reader.finding(line)
            if finding.verdict == "none":
                return kind.nothing
            if not finding.held(line.params):
                return (
                    f"{kind.asks} Say so, and it is held"
                    if line.params.answer == "found"
                    else f"{kind.label} is said not to be there"
                )
        term = development.latches.term(latch, line.id, view)
        sentence = ingredient_sentence(line)
        if running is None:
            running = 1 - term if line.join == "take_away" else term
            if float(running.max()) < NOTHING:
                return f"it is empty from the first: “{sentence}” holds nothing here"
            continue
        running = combine(running, term, line.join)
        if float(running.max()) < NOTHING:
            what = "keeping only" if line.join == "keep_only" else "taking away"
            return f"it is empty: {what} “{sentence}” leaves nothing of what stands above it"
    return (
        "it is empty: inverted, it holds all, and that is turned into nothing"
        if latch.invert
        else ("it is almost empty: what is left is too faint or too small to be seen whole")
    )
