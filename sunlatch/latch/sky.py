"""Sky: found in the frame, with twigs, cables and ridges before it left out."""

from ..parameters import Params, drawn
from .base import Finding, IngredientKind, Sight
from .found import corrected, matted_sky
from .stroke import Stroke
from .strokes import marked


class SkyParams(Params):
    """There is nothing to set: the sky is where it is. Marks set right what was found wrong."""

    marks: list[Stroke] = drawn("Marks", 400)


def find(params: SkyParams, sight: Sight) -> Finding:
    """The sky of the whole frame."""
    lab = sight.lab()
    if not params.marks:
        return Finding(matted_sky(lab))
    found = sight.found("sky")
    return Finding(corrected(lab, found, *marked(params.marks, sight, found.shape)))


INGREDIENT = IngredientKind(
    kind="sky",
    revision=8,
    label="Sky",
    group="What it is",
    sentence="Sky",
    params=SkyParams,
    find=find,
    nothing="No sky was found in this frame: mark some of it",
    place=60,
)
