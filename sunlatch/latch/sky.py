"""Sky: found in the frame, with twigs, cables and ridges before it left out."""

from typing import Literal

from ..parameters import Params, drawn
from .base import Finding, IngredientKind, Sight, answer, judged
from .found import corrected, matted_sky, sure_of_sky
from .stroke import Stroke
from .strokes import marked


class SkyParams(Params):
    """There is nothing to set: the sky is where it is. Marks set right what was found wrong."""

    answer: Literal["found", "yes", "no"] = answer()
    marks: list[Stroke] = drawn("Marks", 400)


def find(params: SkyParams, sight: Sight) -> Finding:
    """The sky of the whole frame."""
    lab = sight.lab()
    if not params.marks:
        sky = matted_sky(lab)
        return judged(sky, sure_of_sky(lab, sky))
    found = sight.found("sky")
    return Finding(corrected(lab, found, *marked(params.marks, sight, found.shape)))


INGREDIENT = IngredientKind(
    kind="sky",
    revision=10,
    label="Sky",
    says="found, or said to be none",
    group="What it is",
    sentence="Sky",
    params=SkyParams,
    find=find,
    asks="Is this sky?",
    shaped=("answer",),
    nothing="No sky was found in this frame: mark some of it",
    place=60,
)
