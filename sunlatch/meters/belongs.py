"""Whether a new sky belongs: from which side its light comes, what colour it sheds, how far it lies above the land, and whether
it reaches as far as its place."""

from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..colour import LUMA
from ..errors import RenderError
from ..layers.skies import SkyIn, land_at
from ..layers.sky_proposal import MIRRORS
from ..ledger import NewSky, SpecksRepair, new_ingredient
from ..masking.reader import Reader
from ..mend import Dust, find_specks, specks_of
from ..moves.new_sky import NewSkyParams
from ..parameters import held, within
from ..render import Development
from ..running.cache import key_of

F32 = NDArray[np.float32]
JUDGED_PX: Final = 480
SLOPE: Final = 0.35
"""Stops from one side of the picture to the other from which light has a side."""
COLOUR: Final = 0.35
"""Stops of red against blue, over what the land follows, from which colours are said to part."""
APART: Final = (-0.3, 3.0)
"""Stops that a sky may lie above its land."""
BARE: Final = 0.004
"""The share of its place that a sky may leave uncovered."""
HIDDEN: Final = 0.02
"""The share of its place in which its own land may lie, without a word."""
LARGER: Final = 1.15
"""How much larger one that ends too soon is proposed."""
DARKEST_LIGHT: Final = 1e-5
GRAINS: Final = (0.7, 1.5)
"""Grain of a sky against the land's that is taken for the same."""
MISSED: Final = 0.02
"""The share of the picture from which on water is missed."""
LEVEL: Final = 0.03
"""Heights of the frame by which two horizons may miss each other."""
EDGES_AT: Final = 1600
"""Long edge, px, at which its edge is looked at."""
RIM: Final = 0.5
"""Stops from which a rim is one."""


class Belonging(BaseModel):
    """One thing about a new sky, in a sentence; fits: whether it does; remedy: settings that would help, ground: those of lines
    of its frame's own Ground; words: what that does."""

    what: str
    description: str
    fits: bool
    remedy: dict[str, Any] | None = None
    ground: dict[str, dict[str, float]] | None = None
    words: str = ""
    repairs: list[SpecksRepair] = []
    """What would be taken out of its frame."""


def read_belongs(development: Development) -> list[Belonging]:
    """How the new sky of a scene belongs, most telling first. Raises RenderError where there is none."""
    sky = development.sky
    if sky is None:
        raise RenderError("this scene has no new sky")
    view = development.geometry.look(JUDGED_PX)
    light = development.light_planes(view, 0)
    stops = np.log2(np.maximum(np.tensordot(np.asarray(LUMA, np.float32), light, 1), DARKEST_LIGHT))
    whole = development.latches.mask(sky.latch, view)
    above, land = whole > 0.9, whole < 0.1
    if above.sum() < 50 or land.sum() < 50:
        raise RenderError("there is too little of the sky, or of the land, to compare them")
    return [_side(stops, above, land, sky.line.params.mirror), _colour(sky.line), _apart(stops, above, land, sky.line),
            _reach(whole, sky.inside(view), sky.line.params.size), _own_land(whole, sky.own.lands(view)), _specks(sky), _horizon(sky), _water(development, sky), _grain(development, sky), _fringe(development, sky)]  # fmt: skip


def _grain(development: Development, sky: SkyIn) -> Belonging:
    full = development.geometry.fit(10**6)
    ours, theirs = sky.grains(full, development.geometry)
    times = theirs / max(ours, 1e-9)
    return grain_belongs(float(np.hypot(times, sky.line.params.grain * np.sqrt(max(1 - times * times, 0)))))


def _own_land(whole: F32, lands: F32) -> Belonging:
    """Whether its own land lies where it should be sky."""
    share = float((whole * lands).sum() / max(float(whole.sum()), 1.0))
    if share < HIDDEN:
        return Belonging(what="own land", description="None of its own land lies in its place.", fits=True)
    description = (
        f"Its own land lies in {100 * share:.0f} % of its place; the sky goes on there without clouds."
    )
    return Belonging(what="own land", description=description, fits=False)


def _specks(sky: SkyIn) -> Belonging:
    """Whether specks, or birds as small, stand in what is brought."""
    own = sky.frame.ground
    raster, base = own.raster, own.geometry.base

    def found() -> F32:
        dusts = find_specks(raster)
        return np.array([[d.x, d.y, d.radius] for d in dusts], np.float32).reshape(-1, 3)

    dusts = own.context.models.remember(key_of("specks of a sky", raster.identity), found)
    mask = Reader(own).finding(new_ingredient("sky")).mask
    places = base.to_developed(dusts[:, :2].astype(np.float64) / raster.info.long_edge)
    rows, columns = (
        np.clip((places[:, k] * mask.shape[1 - k]).astype(int), 0, mask.shape[1 - k] - 1) for k in (1, 0)
    )
    there = dusts[mask[rows, columns] > 0.9]
    if not len(there):
        return Belonging(what="specks", description="No specks are brought with it.", fits=True)
    line = specks_of(raster, [Dust(float(x), float(y), float(r), 0.0, 0.0) for x, y, r in there])
    count = len(there)
    description = (
        f"{count} specks, or birds as small, come with it."
        if count > 1
        else "A speck, or a bird as small, comes with it."
    )
    return Belonging(
        what="specks", description=description, fits=False, repairs=[line], words="Mend them in its frame"
    )


def _water(development: Development, sky: SkyIn) -> Belonging:
    """Whether water shows it."""
    view = development.geometry.look(JUDGED_PX)
    share = float((sky.water(view, development.geometry) > 0.5).mean())
    if share < MISSED:
        return Belonging(what="water", description="There is no water to show it.", fits=True)
    if sky.line.params.water > 0:
        return Belonging(what="water", description="Water shows it.", fits=True)
    if not sky.sure_of_water():
        description = f"Is this water? {100 * share:.0f} % of the picture may be; if so, it should show it."
        return Belonging(
            what="water",
            description=description,
            fits=True,
            remedy={"water": MIRRORS},
            words="It is: mirror it",
        )
    description = f"{100 * share:.0f} % of the picture looks like water, and does not show it."
    return Belonging(
        what="water", description=description, fits=False, remedy={"water": MIRRORS}, words="Reflect in water"
    )


def grain_belongs(given: float) -> Belonging:
    """What is to be said of a sky with so many times the grain of the land."""
    if GRAINS[0] <= given <= GRAINS[1]:
        return Belonging(what="grain", description="Its grain is that of the land.", fits=True)
    description = f"Its grain is {given:.1f} times that of the land."
    if given < GRAINS[0]:
        return Belonging(
            what="grain", description=description, fits=False, remedy={"grain": 1.0}, words="Give it grain"
        )
    smooth = {"noise": {"light": 1.0, "colour": 1.0}}
    return Belonging(what="grain", description=description, fits=False, ground=smooth, words="Smooth it")


def _horizon(sky: SkyIn) -> Belonging:
    """Where the new sky's own land begins, against the horizon it is put behind."""
    at = land_at(sky)
    if at is None:
        return Belonging(what="horizon", description="It has no horizon of its own.", fits=True)
    off, p = at - sky.line.horizon, sky.line.params
    if abs(off) < LEVEL:
        return Belonging(what="horizon", description="Its horizon lies on ours.", fits=True)
    w, h = sky.scene_ground.geometry.base.developed_size
    down = within(NewSkyParams, "down", p.down - off * h / max(w, h))
    where, words = ("above", "Lower it") if off < 0 else ("below", "Raise it")
    return Belonging(
        what="horizon", description=f"Its horizon lies {100 * abs(off):.0f} % of the height {where} ours.", fits=False,
        remedy={"down": down}, words=words,
    )  # fmt: skip


def rim_of(light: F32, new: F32, alpha: F32) -> float:
    """Stops by which the land is lighter along the edge of a sky than behind it, that sky's share taken out: light, and the
    light of the sky (h, w), and how much of it is let in; 0 where there is too little of an edge."""
    land = np.log2(np.maximum((light - alpha * new) / np.maximum(1 - alpha, 0.2), DARKEST_LIGHT))
    deep = (cv2.blur(alpha, (5, 5)) < 0.01).astype(np.float32)
    near = cv2.blur(deep, (25, 25))
    behind = cv2.blur(land * deep, (25, 25)) / np.maximum(near, 1e-6)
    band = (alpha > 0.04) & (alpha < 0.4) & (near > 0.15)
    return float(np.median((land - behind)[band])) if band.sum() > 100 else 0.0


def _fringe(development: Development, sky: SkyIn) -> Belonging:
    """How much lighter than the land behind it the land is along its edge, the new sky's share taken out."""
    view = development.geometry.fit(EDGES_AT)
    alpha = sky.matte(view)
    light = np.tensordot(np.asarray(LUMA, np.float32), development.light_planes(view, 0), 1)
    new = np.tensordot(np.asarray(LUMA, np.float32), sky.light(view), 1)
    gain = development.ground.fall_gain(view)
    new = new if gain is None else new * gain
    rim = rim_of(light, new, alpha)
    if abs(rim) < RIM:
        return Belonging(what="fringe", description="No rim is left along its edge.", fits=True)
    edge = sky.line.params.edge + (0.4 if rim > 0 else -0.4)
    word, words = ("lighter", "Extend edge") if rim > 0 else ("darker", "Hold it back")
    return Belonging(
        what="fringe", description=f"A rim {abs(rim):.1f} stops {word} than the land is left along its edge.", fits=False,
        remedy={"edge": within(NewSkyParams, "edge", edge)}, words=words,
    )  # fmt: skip


def slope(stops: F32, where: NDArray[np.bool_]) -> float:
    """Stops by which it becomes lighter from the left to the right side."""
    x = np.linspace(-0.5, 0.5, stops.shape[1])
    columns = where.sum(0) > 3
    mean = np.array([stops[where[:, c], c].mean() for c in np.flatnonzero(columns)])
    return float(np.polyfit(x[columns], mean, 1)[0]) if columns.sum() > 8 else 0.0


def _side(stops: F32, above: NDArray[np.bool_], land: NDArray[np.bool_], mirror: bool) -> Belonging:
    ours, theirs = slope(stops, land), slope(stops, above)
    name = {True: "right", False: "left"}
    if abs(theirs) < SLOPE or abs(ours) < SLOPE:
        even = "sky" if abs(theirs) < SLOPE else "land"
        return Belonging(what="side", description=f"The {even} is lit alike on both sides.", fits=True)
    if (ours > 0) == (theirs > 0):
        return Belonging(what="side", description=f"Both are lit from the {name[theirs > 0]}.", fits=True)
    description = f"The sky is lighter on the {name[theirs > 0]}, the land on the {name[ours > 0]}."
    return Belonging(
        what="side", description=description, fits=False, remedy={"mirror": not mirror}, words="Mirror it"
    )


def _colour(line: NewSky) -> Belonging:
    warmer = (line.shed[0] - line.shed[2]) * (1 - line.params.relight)
    if abs(warmer) < COLOUR:
        return Belonging(what="colour", description="The land already matches the sky's colour.", fits=True)
    word = "warmer" if warmer > 0 else "cooler"
    description = f"The sky sheds light {abs(warmer):.1f} stops {word} than the land shows."
    share = held(NewSkyParams, "relight", 1 - 0.8 * COLOUR / abs(line.shed[0] - line.shed[2]))
    return Belonging(
        what="colour",
        description=description,
        fits=False,
        remedy={"relight": round(share, 2)},
        words="Relight the land",
    )


def _apart(stops: F32, above: NDArray[np.bool_], land: NDArray[np.bool_], line: NewSky) -> Belonging:
    apart = float(np.median(stops[above]) - np.median(stops[land]))
    description = (
        f"The sky lies {apart:.1f} stops above the land."
        if apart >= 0
        else f"The sky lies {-apart:.1f} stops under the land."
    )
    low, high = APART
    if low <= apart <= high:
        return Belonging(what="stops", description=description, fits=True)
    wanted = line.params.stops + (min(max(apart, low), high) - apart)
    remedy = {"stops": within(NewSkyParams, "stops", wanted)}
    return Belonging(
        what="stops",
        description=description,
        fits=False,
        remedy=remedy,
        words="Darken it" if apart > high else "Lighten it",
    )


def _reach(whole: F32, inside: F32, size: float) -> Belonging:
    bare = float((whole * (1 - inside)).sum() / max(float(whole.sum()), 1.0))
    if bare < BARE:
        return Belonging(what="reach", description="It reaches over all of its place.", fits=True)
    description = (
        f"It leaves {100 * bare:.0f} % of its place uncovered."
        if bare > 0.01
        else "It ends a little short of its place."
    )
    return Belonging(
        what="reach",
        description=description,
        fits=False,
        remedy={"size": round(held(NewSkyParams, "size", size * LARGER), 2)},
        words="Enlarge it",
    )
