"""Preflight: what will be seen on paper that is better seen before, worst first, each with its place and one remedy."""

from collections.abc import Callable
from typing import Final

import numpy as np

from ..colour.printing import MISSED
from ..errors import RenderError
from ..render import Development, Output
from ..running.patience import go_on
from . import made
from .close import close_by
from .findings import Finding, Job, NextStep, Preflight, largest
from .paper import Layout
from .tiles import CHOSEN_PX, shown

CLIPPED: Final = 0.002
"""The share of a picture that may print white in one piece, without a word: a sun, a glint."""
MISSED_SHARE: Final = 0.003
"""The share of a picture of which it may miss more."""


Check = Callable[[Job], list[Finding] | str]
"""Findings, or what is well in a few words."""


def preflight(development: Development, output: Output, layout: Layout | None = None) -> Preflight:
    """Judge a picture before it is made into a file. Raises CancelledError."""
    small = shown(development, development.geometry.fit(CHOSEN_PX), output)
    job = Job(development, output, layout, small)
    done = Preflight(to_look_at=[], well=[], unknown=[])
    for check in (
        _clipped,
        _missed,
        _ends,
        _resolution,
        close_by,
        made.stretched,
        made.halos,
        made.specks,
        made.ground,
        made.cast,
        made.sky,
        made.repeats,
    ):
        go_on()
        try:
            found_here = check(job)
        except RenderError as error:
            done.unknown.append(str(error))
            continue
        for one in [found_here] if isinstance(found_here, str) else found_here:
            if isinstance(one, str):
                done.well += [one] if one else []
            else:
                done.to_look_at.append(one)
    done.to_look_at.sort(key=lambda f: -f.much)
    return done


def _clipped(job: Job) -> list[Finding] | str:
    """White without anything in it, in one piece."""
    white = job.small.min(0) >= 0.9995
    share, x, y = largest(white)
    if share < CLIPPED:
        return "nothing clipped to white in one piece"
    remedy = NextStep(words="Move the white end", station="Ground", line="ends")
    description = f"{100 * share:.1f} % of the picture is bare paper in one piece"
    return [
        Finding(
            what="clipped",
            description=description,
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
    out = missed > MISSED
    share = float(out.mean())
    if share < MISSED_SHARE:
        return "all colours within what the paper holds"
    _, x, y = largest(out)
    worst = float(np.quantile(missed[out], 0.98))
    remedy = NextStep(words="Print it perceptually", paper={"intent": "perceptual"})
    description = f"{100 * share:.1f} % of the picture is out of gamut"
    more = f"by ΔE {worst:.0f} at most; colours there become alike"
    return [
        Finding(
            what="gamut",
            description=description,
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
    _, x, y0 = largest(dark)
    remedy = NextStep(words="Compensate the black point", paper={"compensated": True})
    description = f"{100 * share:.0f} % of the picture is darker than this ink"
    return [
        Finding(
            what="ink",
            description=description,
            more="it will run together",
            much=share * 20,
            x=x,
            y=y0,
            remedy=remedy,
        )
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
        Finding(
            what="ppi",
            description=f"Only {layout.ppi:.0f} ppi",
            more=layout.sentence,
            much=much,
            remedy=remedy,
        )
    ]
