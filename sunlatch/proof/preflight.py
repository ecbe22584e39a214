"""Preflight: what will be seen on paper that is better seen before, worst first, each with its place and one remedy."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Final

import cv2
import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..colour.difference import lab_of_working
from ..errors import RenderError, SunLatchError
from ..mend.dust import find_specks
from ..mend.patches import SourceMap
from ..meters import read_belongs, read_ground, read_halos
from ..patience import go_on
from ..render import Development, Output
from .paper import Layout
from .tiles import LOOK, Tile, chosen, noise_of, overshoot, shown, tiles

F32 = NDArray[np.float32]
CLIPPED: Final = 0.002
"""The share of a picture that may print white in one piece, without a word: a sun, a glint."""
SEEN: Final = 3.0
"""ΔE2000 that a paper may miss without a word; and of how much of the picture it may."""
MISSED_SHARE: Final = 0.003
STEP: Final = 0.25
"""Spread of noise, in steps of the file, under which a slope shows as bands."""
GRAIN: Final = 0.9
"""Noise in a smooth place, L*, as an eye takes it in from where it stands, from which it is seen."""
RINGS: Final = 0.16
"""The share of its step by which an edge may ring on both sides."""
STRETCHED: Final = 1.6
"""How far a place may be stretched."""
CAST: Final = 5.0
"""Chroma (CIE Lab) that all near-greys together may lean by."""
REPEATS: Final = 0.12
"""The share of what was regrown that may stand twice in it."""


class NextStep(BaseModel):
    """What would help: words; station: where; line: which line of Ground is opened there; paper: settings of the paper; bits: of
    the file."""

    words: str
    station: str = ""
    line: str = ""
    paper: dict[str, Any] = {}
    bits: int = 0


class Finding(BaseModel):
    """One thing that will be seen. much: from 0 (just to be seen) on, to sort by; x, y: where (fractions of the picture), None for
    everywhere."""

    what: str
    said: str
    more: str = ""
    much: float
    x: float | None = None
    y: float | None = None
    remedy: NextStep | None = None


class Preflight(BaseModel):
    """to_look_at: worst first; well: what was looked at and is as it should be, a few words each; unknown: what could not be
    judged, and why."""

    to_look_at: list[Finding]
    well: list[str]
    unknown: list[str]


@dataclass(frozen=True)
class Job:
    """What is judged: a development, the file it is to become, the paper it is to lie on."""

    development: Development
    output: Output
    layout: Layout | None
    small: F32
    """Display light at LOOK."""


Check = Callable[[Job], list[Finding] | str]
"""Findings, or what is well in a few words."""


def preflight(development: Development, output: Output, layout: Layout | None = None) -> Preflight:
    """Judge a picture before it is made into a file. Raises CancelledError."""
    small = shown(development, development.geometry.fit(LOOK), output)
    job = Job(development, output, layout, small)
    done = Preflight(to_look_at=[], well=[], unknown=[])
    for check in (
        _clipped,
        _missed,
        _ends,
        _resolution,
        _tiles,
        _stretched,
        _halos,
        _specks,
        _ground,
        _cast,
        _sky,
        _repeats,
    ):
        go_on()
        try:
            told = check(job)
        except RenderError as error:
            done.unknown.append(str(error))
            continue
        for one in [told] if isinstance(told, str) else told:
            if isinstance(one, str):
                done.well += [one] if one else []
            else:
                done.to_look_at.append(one)
    done.to_look_at.sort(key=lambda f: -f.much)
    return done


def _largest(mask: NDArray[np.bool_]) -> tuple[float, float, float]:
    """The share of a picture that its largest piece has, and that piece's middle (fractions)."""
    count, _, stats, middles = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    if count < 2:
        return 0.0, 0.5, 0.5
    k = 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())
    x, y = middles[k]
    return float(stats[k, cv2.CC_STAT_AREA] / mask.size), float(x / mask.shape[1]), float(y / mask.shape[0])


def _clipped(job: Job) -> list[Finding] | str:
    """White without anything in it, in one piece."""
    white = job.small.min(0) >= 0.9995
    share, x, y = _largest(white)
    if share < CLIPPED:
        return "nothing clipped to white in one piece"
    remedy = NextStep(words="Move the white end", station="Ground", line="ends")
    said = f"{100 * share:.1f} % of the picture is bare paper in one piece"
    return [
        Finding(
            what="clipped",
            said=said,
            more="it has no detail left",
            much=share / CLIPPED,
            x=x,
            y=y,
            remedy=remedy,
        )
    ]


def _missed(job: Job) -> list[Finding] | str:
    """Colours that the paper cannot hold."""
    printing = job.output.printing
    if printing is None:
        return ""
    if printing.intent in ("perceptual", "saturation"):
        return "colours beyond the paper drawn in"
    missed = printing.missed(np.ascontiguousarray(np.clip(job.small, 0, 1).transpose(1, 2, 0)))
    out = missed > SEEN
    share = float(out.mean())
    if share < MISSED_SHARE:
        return "all colours within what the paper holds"
    _, x, y = _largest(out)
    worst = float(np.quantile(missed[out], 0.98))
    remedy = NextStep(words="Print it perceptually", paper={"intent": "perceptual"})
    said = f"{100 * share:.1f} % of the picture is out of gamut"
    more = f"by ΔE {worst:.0f} at most; colours there become alike"
    return [
        Finding(
            what="gamut",
            said=said,
            more=more,
            much=0.5 + share * worst,
            x=x,
            y=y,
            remedy=remedy,
        )
    ]


def _ends(job: Job) -> list[Finding] | str:
    """Darks that the ink cannot hold."""
    printing = job.output.printing
    if printing is None or printing.compensated or printing.intent == "perceptual":
        return ""
    paper, ink = printing.profile.ends
    y = np.tensordot(np.array([0.2627, 0.678, 0.0593], np.float32), job.small, 1)
    dark = y < ink / paper
    share = float(dark.mean())
    if share < 0.01:
        return "darks within what the ink holds"
    _, x, y0 = _largest(dark)
    remedy = NextStep(words="Compensate the black point", paper={"compensated": True})
    said = f"{100 * share:.0f} % of the picture is darker than this ink"
    return [
        Finding(what="ink", said=said, more="it will run together", much=share * 20, x=x, y=y0, remedy=remedy)
    ]


def _resolution(job: Job) -> list[Finding] | str:
    if job.layout is None:
        return ""
    layout = job.layout
    if layout.ppi >= layout.asked:
        return f"{layout.ppi:.0f} ppi, enough from {layout.params.distance:.0f} cm"
    across = int(layout.size[0] * layout.ppi / layout.asked)
    remedy = NextStep(
        words=f"Print it {across} mm wide", paper={"fit": "exact", "across": float(max(across, 20))}
    )
    much = layout.asked / layout.ppi
    return [
        Finding(what="ppi", said=f"Only {layout.ppi:.0f} ppi", more=layout.sentence, much=much, remedy=remedy)
    ]


def _tiles(job: Job) -> list[Finding]:
    """What is judged at full size: bands, grain, ringing."""
    smooth, busy = chosen(job.small)
    told: list[Any] = []
    worst: dict[str, tuple[float, Tile]] = {}

    def note(what: str, much: float, tile: Tile) -> None:
        if what not in worst or much > worst[what][0]:
            worst[what] = (much, tile)

    eye = 0.0
    if job.layout is not None:
        eye = job.layout.ppi / job.layout.asked / 2
    for tile in tiles(job.development, smooth, job.output):
        tone = tile.tone
        bands = _bands(tile, job.output)
        if bands is not None:
            note("bands", bands, tile)
        seen = cv2.GaussianBlur(tone, (0, 0), eye) if eye > 0.3 else tone
        smoother = cv2.GaussianBlur(seen, (0, 0), 6)
        note("grain", 100 * float(np.median(np.abs(seen - smoother))) / 0.6745, tile)
    for tile in tiles(job.development, busy, job.output):
        ring, count = overshoot(tile.tone)
        if count:
            note("rings", ring, tile)
    if "bands" in worst:
        steps, tile = worst["bands"]
        remedy = NextStep(words="Use 16 bits", bits=16) if job.output.bits == 8 else None
        told.append(
            Finding(what="bands", said=f"A smooth slope may show as bands in {job.output.bits} bits", more=f"its steps are {steps:.0f} px wide and no noise hides them", much=1 + min(steps / 30, 2), x=tile.x, y=tile.y, remedy=remedy)
        )  # fmt: skip
    elif smooth:
        told.append(f"no banding in {job.output.bits} bits")
    grain, where = worst.get("grain", (0.0, None))
    if where is not None and grain > GRAIN:
        remedy = NextStep(words="Smooth its noise", station="Ground", line="noise")
        said = "Noise can be seen where it is smooth"
        told.append(
            Finding(
                what="grain",
                said=said,
                more=f"{grain:.1f} L*",
                much=grain / GRAIN,
                x=where.x,
                y=where.y,
                remedy=remedy,
            )
        )
    elif smooth:
        told.append("smooth places are smooth")
    ring, there = worst.get("rings", (0.0, None))
    if there is not None and ring > RINGS:
        remedy = NextStep(words="Ease Crispness", station="Ground", line="crispness")
        said = "Edges look over-sharpened"
        told.append(
            Finding(
                what="sharpened",
                said=said,
                more=f"they ring by {100 * ring:.0f} % of their step",
                much=ring / RINGS,
                x=there.x,
                y=there.y,
                remedy=remedy,
            )
        )
    elif there is not None:
        told.append("no edge over-sharpened")
    return told


def _bands(tile: Tile, output: Output) -> float | None:
    """How wide, in px, the steps are in which a smooth place would be written; None where noise hides them, or it is even."""
    if output.bits != 8 and output.bits != 16:
        return None
    fine = Output(output.space, 16)
    coded = np.empty((*tile.light.shape[1:], fine.channels), np.uint16)
    fine.encode(np.ascontiguousarray(tile.light), coded)
    plane = np.asarray(coded[..., coded.shape[2] // 2] / (257 if output.bits == 8 else 1), np.float32)
    if noise_of(plane) > STEP:
        return None
    span = float(np.quantile(plane, 0.98) - np.quantile(plane, 0.02))
    wide = min(plane.shape) / max(span, 1e-3)
    return wide if span > 3 and wide > 6 else None


def _stretched(job: Job) -> list[Finding] | str:
    far = job.development.geometry.stretched()
    plain = float(np.median(far))
    r, c = np.unravel_index(int(far.argmax()), far.shape)
    much = float(far[r, c])
    if much < STRETCHED or job.development.ground.plan.refocuses:
        return "nothing stretched until it is soft" if much < STRETCHED else ""
    remedy = NextStep(words="Refocus there", station="Mend", line="refocus")
    x, y = (c + 0.5) / far.shape[1], (r + 0.5) / far.shape[0]
    said = f"Stretched to {much:.1f} times its size, and soft there"
    return [
        Finding(
            what="stretched",
            said=said,
            more=f"elsewhere {plain:.1f} times",
            much=much / STRETCHED,
            x=float(x),
            y=float(y),
            remedy=remedy,
        )
    ]


def _halos(job: Job) -> list[Finding] | str:
    rims = read_halos(job.development)
    if not rims:
        return "no halo over 0.12 stops"
    worst = rims[0]
    word = "light" if worst.stops > 0 else "dark"
    said = f"{len(rims)} halos along edges" if len(rims) > 1 else "A halo along an edge"
    remedy = NextStep(words="Find its line", station="Light")
    return [
        Finding(
            what="halos",
            said=said,
            more=f"the worst is {abs(worst.stops):.2f} stops too {word}",
            much=abs(worst.stops) / 0.12,
            x=worst.x,
            y=worst.y,
            remedy=remedy,
        )
    ]


def _specks(job: Job) -> list[Finding] | str:
    raster, geometry = job.development.raster, job.development.geometry
    if job.development.scene.base.kind == "sweep":
        return ""
    per = raster.info.long_edge
    found = []
    for dust in find_specks(raster):
        at = geometry.to_developed(np.array([[dust.x / per, dust.y / per]]))[0]
        if 0 <= at[0] <= 1 and 0 <= at[1] <= 1:
            found.append((dust, at))
    if not found:
        return "no specks left"
    dust, at = max(found, key=lambda f: f[0].radius)
    more = ""
    if job.layout is not None:
        more = f"the largest will be {2 * dust.radius / job.layout.ppi * 25.4:.1f} mm wide"
    said = f"{len(found)} specks left" if len(found) > 1 else "A speck is left"
    remedy = NextStep(words="Mend them", station="Mend")
    return [
        Finding(
            what="specks",
            said=said,
            more=more,
            much=1 + len(found) / 5,
            x=float(at[0]),
            y=float(at[1]),
            remedy=remedy,
        )
    ]


def _ground(job: Job) -> list[Finding]:
    told: list[Any] = []
    state = read_ground(job.development)
    off = state.horizon
    if off is not None and abs(off) >= 0.15:
        remedy = NextStep(words="Level it", station="Ground", line="trim")
        told.append(
            Finding(
                what="horizon",
                said=f"The horizon is {abs(off):.1f}° off",
                much=abs(off) / 0.15,
                remedy=remedy,
            )
        )
    else:
        told.append("horizon level" if off is not None else "no horizon to be level")
    if state.empty >= 0.05:
        remedy = NextStep(words="Fill the empty corners", station="Mend")
        beyond = job.development.ground.beyond(job.development.geometry.fit(LOOK))
        _, x, y = _largest(beyond) if beyond is not None else (0.0, 0.5, 0.5)
        told.append(
            Finding(
                what="corners",
                said=f"{state.empty:.1f} % of the picture is empty corners",
                much=2 + state.empty,
                x=x,
                y=y,
                remedy=remedy,
            )
        )
    else:
        told.append("no empty corners")
    return told


def _cast(job: Job) -> list[Finding] | str:
    """Near-greys that all lean one way."""
    lab = lab_of_working(np.clip(job.small, 0, 1).transpose(1, 2, 0).astype(np.float64))
    chroma = np.hypot(lab[..., 1], lab[..., 2])
    grey = (chroma < 14) & (lab[..., 0] > 20) & (lab[..., 0] < 95)
    if grey.mean() < 0.05:
        return "no greys to have a cast"
    a, b = float(lab[grey][:, 1].mean()), float(lab[grey][:, 2].mean())
    much = float(np.hypot(a, b))
    spread = float(np.hypot(lab[grey][:, 1] - a, lab[grey][:, 2] - b).mean())
    if much < CAST or spread > much:
        return "greys are grey"
    towards = ("yellow", "green", "cyan", "blue", "magenta", "red")
    angle = np.degrees(np.arctan2(b, a)) % 360
    names = {"red": 20, "yellow": 90, "green": 150, "cyan": 210, "blue": 275, "magenta": 330}
    lean = min(towards, key=lambda n: abs((angle - names[n] + 180) % 360 - 180))
    remedy = NextStep(words="Look at the light's colour", station="Ground", line="colour_of_light")
    said = f"Near-greys lean to {lean}"
    return [
        Finding(
            what="cast",
            said=said,
            more=f"by {much:.0f} on average; it may be meant",
            much=0.3 * much / CAST,
            remedy=remedy,
        )
    ]


def _sky(job: Job) -> list[Finding] | str:
    if job.development.sky is None:
        return ""
    odd = [one for one in read_belongs(job.development) if not one.fits]
    if not odd:
        return "the new sky belongs"
    said = "The new sky does not quite belong"
    return [
        Finding(
            what="sky",
            said=said,
            more=odd[0].said,
            much=1 + len(odd) / 2,
            x=0.5,
            y=0.1,
            remedy=NextStep(words="See Belongs", station="Mend"),
        )
    ]


def _repeats(job: Job) -> list[Finding] | str:
    """What was regrown out of one place twice."""
    told: list[Finding] = []
    blobs = job.development.shop.blobs
    lines = [r for r in job.development.scene.repairs if r.kind == "regrow" and r.on] if blobs else []
    for line in lines:
        assert blobs is not None
        try:
            share = repeated(SourceMap.read(line.map, blobs))
        except SunLatchError:
            continue
        if share > REPEATS:
            said = f"{line.name or 'Regrow'} repeats itself"
            remedy = NextStep(words="Regrow it another way", station="Mend")
            told.append(
                Finding(
                    what="repeats",
                    said=said,
                    more=f"{100 * share:.0f} % of it stands there twice",
                    much=share / REPEATS,
                    remedy=remedy,
                )
            )
    return told or ("no repeats in what was regrown" if lines else "")


CELL: Final = 12
"""Px of a regrown map: pieces of this size that were taken over whole are compared."""


def repeated(regrown: SourceMap) -> float:
    """The share of a regrown place whose pieces stand in it twice, apart from each other."""
    away = regrown.away.astype(np.int64)
    h, w = away.shape[:2]
    corners = []
    for top in range(0, h - CELL + 1, CELL):
        for left in range(0, w - CELL + 1, CELL):
            part = away[top : top + CELL, left : left + CELL].reshape(-1, 2)
            if part.any() and not (part != part[0]).any():
                corners.append((top + int(part[0, 0]), left + int(part[0, 1])))
    if len(corners) < 8:
        return 0.0
    at = np.array(corners) - np.min(corners, axis=0)
    used = np.zeros(at.max(0) + CELL, np.int32)
    for top, left in at:
        used[top : top + CELL, left : left + CELL] += 1
    return float((used > 1).sum() / (used > 0).sum())
