"""What preflight judges by how a picture was made: stretched, haloed, specks and corners left, a cast, a sky, repeats."""

from typing import Any, Final

import numpy as np

from ..colour.difference import lab_of_working
from ..errors import SunLatchError
from ..mend.dust import find_specks
from ..mend.patches import SourceMap
from ..meters import read_belongs, read_ground, read_halos
from .findings import Finding, Job, NextStep, largest
from .tiles import CHOSEN_PX

STRETCHED: Final = 1.6
"""How far a place may be stretched."""
CAST: Final = 5.0
"""Chroma (CIE Lab) that all near-greys together may lean by."""
REPEATS: Final = 0.12
"""The share of what was regrown that may stand twice in it."""


def stretched(job: Job) -> list[Finding] | str:
    far = job.development.geometry.stretched()
    plain = float(np.median(far))
    r, c = np.unravel_index(int(far.argmax()), far.shape)
    much = float(far[r, c])
    if much < STRETCHED or job.development.ground.plan.refocuses:
        return "nothing stretched until it is soft" if much < STRETCHED else ""
    remedy = NextStep(words="Refocus there", station="Mend", line="refocus")
    x, y = (c + 0.5) / far.shape[1], (r + 0.5) / far.shape[0]
    description = f"Stretched to {much:.1f} times its size, and soft there"
    return [
        Finding(
            what="stretched",
            description=description,
            more=f"elsewhere {plain:.1f} times",
            much=much / STRETCHED,
            x=float(x),
            y=float(y),
            remedy=remedy,
        )
    ]


def halos(job: Job) -> list[Finding] | str:
    rims = read_halos(job.development)
    if not rims:
        return "no halo over 0.12 stops"
    worst = rims[0]
    word = "light" if worst.stops > 0 else "dark"
    description = f"{len(rims)} halos along edges" if len(rims) > 1 else "A halo along an edge"
    remedy = NextStep(words="Find its line", station="Light")
    return [
        Finding(
            what="halos",
            description=description,
            more=f"the worst is {abs(worst.stops):.2f} stops too {word}",
            much=abs(worst.stops) / 0.12,
            x=worst.x,
            y=worst.y,
            remedy=remedy,
        )
    ]


def specks(job: Job) -> list[Finding] | str:
    raster, geometry = job.development.raster, job.development.geometry
    if not job.development.scene.base.as_taken:
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
    description = f"{len(found)} specks left" if len(found) > 1 else "A speck is left"
    remedy = NextStep(words="Mend them", station="Mend")
    return [
        Finding(
            what="specks",
            description=description,
            more=more,
            much=1 + len(found) / 5,
            x=float(at[0]),
            y=float(at[1]),
            remedy=remedy,
        )
    ]


def ground(job: Job) -> list[Finding]:
    findings: list[Any] = []
    state = read_ground(job.development)
    off = state.horizon
    if off is not None and abs(off) >= 0.15:
        remedy = NextStep(words="Level it", station="Ground", line="trim")
        findings.append(
            Finding(
                what="horizon",
                description=f"The horizon is {abs(off):.1f}° off",
                much=abs(off) / 0.15,
                remedy=remedy,
            )
        )
    else:
        findings.append("horizon level" if off is not None else "no horizon to be level")
    if state.empty >= 0.05:
        remedy = NextStep(words="Fill the empty corners", station="Mend")
        beyond = job.development.ground.beyond(job.development.geometry.fit(CHOSEN_PX))
        _, x, y = largest(beyond) if beyond is not None else (0.0, 0.5, 0.5)
        findings.append(
            Finding(
                what="corners",
                description=f"{state.empty:.1f} % of the picture is empty corners",
                much=2 + state.empty,
                x=x,
                y=y,
                remedy=remedy,
            )
        )
    else:
        findings.append("no empty corners")
    return findings


def cast(job: Job) -> list[Finding] | str:
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
    description = f"Near-greys lean to {lean}"
    return [
        Finding(
            what="cast",
            description=description,
            more=f"by {much:.0f} on average; it may be meant",
            much=0.3 * much / CAST,
            remedy=remedy,
        )
    ]


def sky(job: Job) -> list[Finding] | str:
    if job.development.sky is None:
        return ""
    odd = [one for one in read_belongs(job.development) if not one.fits]
    if not odd:
        return "the new sky belongs"
    description = "The new sky does not quite belong"
    return [
        Finding(
            what="sky",
            description=description,
            more=odd[0].description,
            much=1 + len(odd) / 2,
            x=0.5,
            y=0.1,
            remedy=NextStep(words="See Belongs", station="Mend"),
        )
    ]


def repeats(job: Job) -> list[Finding] | str:
    """What was regrown out of one place twice."""
    findings: list[Finding] = []
    blobs = job.development.context.blobs
    lines = [r for r in job.development.scene.repairs if r.kind == "regrow" and r.on] if blobs else []
    for line in lines:
        assert blobs is not None
        try:
            share = repeated(SourceMap.read(line.map, blobs))
        except SunLatchError:
            continue
        if share > REPEATS:
            description = f"{line.name or 'Regrow'} repeats itself"
            remedy = NextStep(words="Regrow it another way", station="Mend")
            findings.append(
                Finding(
                    what="repeats",
                    description=description,
                    more=f"{100 * share:.0f} % of it stands there twice",
                    much=share / REPEATS,
                    remedy=remedy,
                )
            )
    return findings or ("no repeats in what was regrown" if lines else "")


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
