"""What preflight judges close by, at the picture's own px: bands, grain, ringing."""

from typing import Any, Final

import cv2
import numpy as np

from ..render import Output
from .findings import Finding, Job, NextStep
from .tiles import Tile, chosen, noise_of, overshoot, tiles

STEP: Final = 0.25
"""Spread of noise, in steps of the file, under which a slope shows as bands."""
GRAIN: Final = 0.6
"""Noise in a smooth place, L*, as an eye takes it in from where it stands, from which it is seen."""
RINGS: Final = 0.16
"""The share of its step by which an edge may ring on both sides."""


def close_by(job: Job) -> list[Finding]:
    """What is judged at full size: bands, grain, ringing."""
    smooth, busy = chosen(job.small)
    findings: list[Any] = []
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
    bits = job.output.bits
    if "bands" in worst:
        steps, tile = worst["bands"]
        remedy = NextStep(words="Use 16 bits", bits=16) if bits == 8 else None
        description = f"A smooth slope may show as bands in {bits} bits"
        more = f"its steps are {steps:.0f} px wide and no noise hides them"
        findings.append(_there("bands", description, more, 1 + min(steps / 30, 2), tile, remedy))
    elif smooth:
        findings.append(f"no banding in {bits} bits")
    if worst.get("grain", (0.0,))[0] > GRAIN:
        grain, tile = worst["grain"]
        remedy = NextStep(words="Smooth its noise", station="Ground", line="noise")
        description = "Noise can be seen where it is smooth"
        findings.append(_there("grain", description, f"{grain:.1f} L*", grain / GRAIN, tile, remedy))
    elif smooth:
        findings.append("smooth places are smooth")
    if worst.get("rings", (0.0,))[0] > RINGS:
        ring, tile = worst["rings"]
        remedy = NextStep(words="Ease Crispness", station="Ground", line="crispness")
        more = f"they ring by {100 * ring:.0f} % of their step"
        findings.append(_there("sharpened", "Edges look over-sharpened", more, ring / RINGS, tile, remedy))
    elif "rings" in worst:
        findings.append("no edge over-sharpened")
    return findings


def _there(
    what: str, description: str, more: str, much: float, tile: Tile, remedy: NextStep | None
) -> Finding:
    """A finding at a place that was looked at closely."""
    return Finding(
        what=what, description=description, more=more, much=much, x=tile.x, y=tile.y, remedy=remedy
    )


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
