"""What could be done about a place that is wrong: for each complaint the fitting moves, each on the ways of
holding the place that suit it."""

from collections.abc import Iterator
from typing import Any, Final, Literal

import numpy as np
from pydantic import BaseModel, SerializeAsAny

from ..colour import LUMA
from ..geometry import View
from ..latch.base import stop_axis
from ..latch.colour import ColourSample
from ..latch.fan import FanParams
from ..ledger import (
    IngredientLine,
    Latch,
    MoveLine,
    Spare,
    free_name,
    move_sentence,
    new_ingredient,
    new_move,
)
from ..moves.contrast import ContrastParams
from ..moves.rungs import Rung
from ..parameters import Picked, Point, within
from ..render import Development
from .latches import colour_at
from .spot import patch, pick_at

Complaint = Literal["bright", "dark", "flat", "veiled", "loud", "grey", "hue", "eye"]
COMPLAINTS: Final[dict[Complaint, str]] = {
    "bright": "Too bright",
    "dark": "Too dark",
    "flat": "Too flat",
    "veiled": "Hazy",
    "loud": "Too colourful",
    "grey": "Too grey",
    "hue": "The wrong colour",
    "eye": "Distracting",
}
HELD: Final = 0.5
"""A latch holds a place from here on."""
SURROUNDINGS: Final = 0.3
"""How far what lies around a place reaches, in long edges."""
STOPS_LEAST, STOPS_MOST = 0.5, 1.2
"""Stops an Exposure is proposed with, at least and at most."""
POOL: Final = 0.12
"""How far a proposed Pool reaches, in long edges."""
HUES: Final = {29: "red", 110: "yellow", 142: "green", 195: "cyan", 264: "blue", 328: "magenta", 389: "red"}
"""Where the corners of the colour cube lie in OKLab, in degrees."""
TAKES, NARROWEST = 0.7, 8.0
"""How much of the place a proposed Fan takes, if it need not be narrower than this."""
SHELF: Final = 2
"""Latches of the shelf that are offered at most, the tightest first."""


class Remedy(BaseModel):
    """One line that may help, and the latch that has to be made for it, if it is not on the shelf."""

    line: SerializeAsAny[MoveLine]
    latch: Latch | None
    description: str


class _Place:
    """What is known of the place pointed at, and the ways to hold it."""

    def __init__(self, development: Development, x: float, y: float) -> None:
        self.development, self.x, self.y = development, x, y
        self.read_at = development.ground.read_at()
        self.picked = pick_at(development, x, y).picked
        view = patch(development, x, y, 0.004)
        reading = development.latches.reading(view, self.read_at)
        self.lightness = float(np.interp(reading.stops.mean(), stop_axis(), reading.lightness))
        self.small, self.whole = view, development.geometry.fit(320)
        self.around = self._around()

    def _around(self) -> float:
        """Median stops of what lies around, as it is now."""
        view = patch(self.development, self.x, self.y, 2 * SURROUNDINGS)
        rgb = self.development.light_planes(View(view.region, (48, 48)))
        return float(np.log2(max(float(np.median(np.tensordot(LUMA, rgb, 1))), 1e-6) / 0.18))

    def latch(self, name: str, *lines: IngredientLine, edge_true: bool = True) -> Latch:
        free = free_name(name, {latch.name for latch in self.development.scene.latches})
        made = Latch(name=free, ingredients=list(lines), read_at=self.read_at)
        made.edge_true.on = edge_true
        return made

    def holds(self, latch: Latch) -> float:
        return float(self.development.latches.mask(latch, self.small).mean())

    def shelf(self) -> list[Latch]:
        """Latches there are that hold the place, the tightest first."""
        holding = [latch for latch in self.development.scene.latches if self.holds(latch) >= HELD]
        wide = {latch.id: float(self.development.latches.mask(latch, self.whole).mean()) for latch in holding}
        return sorted(holding, key=lambda latch: wide[latch.id])[:SHELF]

    def sky(self) -> list[Latch]:
        """The sky, where the place lies in it and no latch of the shelf is made of it."""
        skies = [i for latch in self.development.scene.latches for i in latch.ingredients if i.kind == "sky"]
        made = self.latch("Sky", new_ingredient("sky"), edge_true=False)
        return [made] if not skies and self.holds(made) >= HELD else []

    def light(self) -> Latch:
        """What is as light as the place: the Fan that takes so much of it."""
        light = min(max(self.lightness, 0.02), 0.98)
        leaning, base = "midtones", 4 * light * (1 - light)
        if light > 0.6:
            leaning, base = "lights", light
        elif light < 0.4:
            leaning, base = "darks", 1 - light
        narrow = within(FanParams, "narrowness", min(np.log(TAKES) / np.log(base), NARROWEST))
        name = {"lights": "The lights", "darks": "The darks", "midtones": "The midtones"}[leaning]
        return self.latch(name, new_ingredient("fan", params={"leaning": leaning, "narrowness": narrow}))

    def pool(self) -> Latch:
        w, h = self.development.geometry.developed_size
        centre = np.array([self.x * w, self.y * h]) / self.development.geometry.long_edge
        # toward the middle, so that the handle lies on the picture
        beside = centre + np.array([POOL if self.x < 0.5 else -POOL, 0.0])
        ends = [self.development.geometry.to_source(p) for p in (centre, beside)]
        places = {
            name: Point(x=float(p[0]), y=float(p[1]))
            for name, p in zip(("centre", "edge"), ends, strict=True)
        }
        return self.latch("This place", new_ingredient("pool", params=places), edge_true=False)

    def colour(self) -> Latch:
        seen = colour_at(self.development, self.read_at, self.x, self.y)
        sample = ColourSample(at=seen.at, l=seen.l, a=seen.a, b=seen.b)
        return self.latch("This colour", new_ingredient("colour", params={"samples": [sample.model_dump()]}))


def read_remedies(development: Development, x: float, y: float, wrong: Complaint) -> list[Remedy]:
    """What could be done about a place (fractions of the developed picture), the likeliest first. Finds the sky
    if it is not found yet, which takes seconds. Raises RenderError outside the picture."""
    place = _Place(development, x, y)
    remedies = []
    for kind, params, latch, spare in _answers(place, wrong):
        line = new_move(kind, params=params, latch=latch.id if latch else None, spare=spare)
        fresh = latch is not None and latch not in development.scene.latches
        scene = development.scene.model_copy(
            update={"latches": [*development.scene.latches, latch]} if fresh else {}
        )
        description = move_sentence(line, scene)
        if kind == "hue_steer":
            description += f": {_toward(place.picked, line.params.anchors[0].turn)}"
        elif kind == "rungs":
            by = line.params.rungs[0].by
            description = f"Rungs: what is as light as this, wherever it is, {'−' if by < 0 else '+'}{abs(by):.1f} stops"
        remedies.append(Remedy(line=line, latch=latch if fresh else None, description=description))
    return remedies


def _toward(picked: Picked, turn: float) -> str:
    """Which colour a turned hue comes nearer to."""
    hue = float(np.degrees(np.arctan2(picked.v, picked.u))) % 360
    corners = list(HUES)
    after = next((at for at in corners if at > hue + 1), corners[1])
    before = next((at for at in reversed(corners) if at < hue - 1), corners[-2])
    return f"{abs(turn):.0f}° toward {HUES[after if turn > 0 else before]}"


_Answer = tuple[str, dict[str, Any], Latch | None, list[Spare]]


def _answers(place: _Place, wrong: Complaint) -> Iterator[_Answer]:
    held: list[Latch | None] = [*place.shelf(), *place.sky()]
    if wrong in ("bright", "dark"):
        yield from _brightness(place, held, wrong)
    elif wrong == "flat":
        about = within(ContrastParams, "pivot", place.picked.stops)
        for latch in held or [None]:
            yield "relief", {"coarse": 0.2, "middle": 0.35}, latch, []
            yield "contrast", {"amount": 0.2, "pivot": about}, latch, []
        yield "relief", {"coarse": 0.2, "middle": 0.35}, place.pool(), []
    elif wrong == "veiled":
        distance = place.latch("Far away", new_ingredient("distance"), edge_true=False)
        for latch in [*held, distance if place.holds(distance) >= HELD else None, place.pool()]:
            yield "haze", {"amount": -0.3}, latch, []
    elif wrong in ("loud", "grey"):
        more = -0.3 if wrong == "loud" else 0.25
        for latch in [place.colour(), *held, None]:
            yield "vividness", {"amount": more}, latch, []
    elif wrong == "hue":
        anchor = {"picked": place.picked.model_dump()}
        for turn in (15.0, -15.0):
            yield "hue_steer", {"anchors": [anchor | {"turn": turn}]}, None, []
        yield "vividness", {"amount": -0.6}, place.colour(), []
    else:
        pool = place.pool()
        yield "exposure", {"ev": -0.5}, pool, []
        yield "vividness", {"amount": -0.35}, place.colour(), []
        yield "contrast", {"amount": -0.25, "pivot": within(ContrastParams, "pivot", place.around)}, pool, []


def _brightness(place: _Place, held: list[Latch | None], wrong: Complaint) -> Iterator[_Answer]:
    """A quarter of the way to the light that lies around it: enough to see whether that is it."""
    way = (place.around - place.picked.stops) / 4
    stops = round(float(np.clip(abs(way), STOPS_LEAST, STOPS_MOST)), 1) * (-1 if wrong == "bright" else 1)
    deep = min(place.picked.stops, place.around) - 2.0
    spare = (
        [Spare(what="shadows", edge=within(Spare, "edge", deep), soft=2.0, read_at=place.read_at)]
        if stops > 0
        else []
    )
    for latch in [*held, place.light()]:
        yield "exposure", {"ev": stops}, latch, spare
    yield "exposure", {"ev": stops}, place.pool(), []
    rung = {"at": within(Rung, "at", place.picked.stops), "by": stops}
    yield "rungs", {"rungs": [rung]}, None, []
