"""Subject: the thing in a box, or the one the eye goes to; walker, boat, tower, tree."""

from typing import Final, Literal

import cv2
import numpy as np

from ..parameters import Box, Params, drawn, optional_box
from .base import F32, Finding, IngredientKind, Region, Sight, answer
from .found import find_subject, matted_again, salient_box, surroundings, tightened
from .stroke import Stroke
from .strokes import marked

SIDES = 1280
"""Long edge, px, at which the box and its surroundings are looked at."""
BOX_LEAST = 0.002
"""Shortest side of a box, in fractions of the frame: a click is no box."""
GUESSED: Final = 0.3
"""How sure it is that what the eye goes to is what a picture is of: of 33 frames, the coast's and photographs, it was in 4, a part
of it in 6. So it is asked, and never taken for granted; what is boxed or marked is there, as the photographer says so."""


class SubjectParams(Params):
    """The box need only be rough, but all of the thing must be in it."""

    answer: Literal["found", "yes", "no"] = answer()
    box: Box | None = optional_box("Box", "what the eye goes to")
    marks: list[Stroke] = drawn("Marks", 400)


def _box(params: SubjectParams, sight: Sight) -> Region | None:
    """Where to look, in fractions of the frame."""
    if params.box is not None:
        corners = [[params.box.one.x, params.box.one.y], [params.box.other.x, params.box.other.y]]
        at = sight.to_frame(np.array(corners)) / sight.aspect
        low, high = np.clip(at.min(0), 0, 1), np.clip(at.max(0), 0, 1)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])
    kept = [np.array(s.points[: len(s.points) // 3 * 3]).reshape(-1, 3) for s in params.marks if not s.erase]
    if kept:
        reach = max(s.radius for s in params.marks if not s.erase)
        at = np.concatenate([sight.to_frame(points[:, :2]) for points in kept])
        low, high = at.min(0) - reach, at.max(0) + reach
        pad = 0.6 * np.maximum(high - low, 0.5 * (high - low).max())  # strokes lie well within
        low, high = np.clip((low - pad) / sight.aspect, 0, 1), np.clip((high + pad) / sight.aspect, 0, 1)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])
    return salient_box(sight.lab())


def find(params: SubjectParams, sight: Sight) -> Finding:
    """The thing in the box; nothing where nothing in it differs from what lies around."""
    box = _box(params, sight)
    nothing = Finding(np.zeros((8, 8), np.float32))
    if box is None or min(box[2] - box[0], box[3] - box[1]) < BOX_LEAST:
        return nothing
    region = surroundings(box)
    lab = sight.lab(region, SIDES)
    loose = _into(box, region)
    tight = tightened(lab, loose, *marked(params.marks, sight, (lab.shape[1], lab.shape[2]), region))
    if tight != loose:
        box = _out_of(tight, region)
        region = surroundings(box)
        lab = sight.lab(region, SIDES)
    belongs, not_ = marked(params.marks, sight, (lab.shape[1], lab.shape[2]), region)
    mask = find_subject(lab, _into(box, region), belongs, not_)
    if not mask.any():
        return nothing
    pointed_at = params.box is not None or any(not s.erase for s in params.marks)
    return Finding(_at_full_size(lab, mask), region, 1.0 if pointed_at else GUESSED)


def _into(box: Region, region: Region) -> Region:
    """A box of the frame in fractions of a region of it."""
    x, y, w, h = region[0], region[1], region[2] - region[0], region[3] - region[1]
    return (box[0] - x) / w, (box[1] - y) / h, (box[2] - x) / w, (box[3] - y) / h


def _out_of(box: Region, region: Region) -> Region:
    """And back."""
    x, y, w, h = region[0], region[1], region[2] - region[0], region[3] - region[1]
    return x + box[0] * w, y + box[1] * h, x + box[2] * w, y + box[3] * h


def _at_full_size(lab: F32, mask: F32) -> F32:
    """A big thing is found on a small picture; its edge is then made true on the larger one."""
    h, w = lab.shape[1:]
    if mask.shape[0] >= h:
        return mask
    return matted_again(lab, np.asarray(cv2.resize(mask, (w, h), interpolation=cv2.INTER_LINEAR), np.float32))


INGREDIENT = IngredientKind(
    kind="subject",
    revision=5,
    label="Subject",
    says="in a box you draw",
    group="What it is",
    sentence="Subject, {box}",
    params=SubjectParams,
    find=find,
    asks="Is this what the picture is of?",
    shaped=("answer",),
    nothing="Nothing here stands out from what lies around it: draw the box a little larger, or mark the thing",
    place=64,
)
