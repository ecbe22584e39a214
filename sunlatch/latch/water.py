"""Water: sea, lake and pool, found in the frame."""

from typing import Literal

from ..parameters import Params, drawn
from .base import Finding, IngredientKind, Sight, answer, judged
from .found import corrected, matted_water, sure_of_water, true_to_shores
from .stroke import Stroke
from .strokes import marked

MARK_REACH = 0.03
"""Short, for rocks are often like the shadows that lie on the water beside them."""


class WaterParams(Params):
    """There is nothing to set. Marks set right what was found wrong."""

    answer: Literal["found", "yes", "no"] = answer()
    marks: list[Stroke] = drawn("Marks", 400)


def find(params: WaterParams, sight: Sight) -> Finding:
    """The water of the whole frame."""
    lab = sight.lab()
    if not params.marks:
        sky = sight.found("sky")
        water = matted_water(lab, sky)
        return judged(water, sure_of_water(lab, water, sky))
    found = sight.found("water")
    belongs, not_ = marked(params.marks, sight, found.shape)
    return Finding(corrected(lab, found, belongs, not_, true_to_shores, MARK_REACH))


INGREDIENT = IngredientKind(
    kind="water",
    revision=7,
    label="Water",
    says="found, or said to be none",
    group="What it is",
    sentence="Water",
    params=WaterParams,
    find=find,
    looks_at=("sky",),
    asks="Is this water?",
    shaped=("answer",),
    nothing="No water was found in this frame: mark some of it",
    place=62,
)
