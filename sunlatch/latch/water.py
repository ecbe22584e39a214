"""Water: sea, lake and pool, found in the frame."""

from ..parameters import Params, drawn
from .base import Finding, IngredientKind, Look
from .found import corrected, matted_water
from .strokes import Stroke, marked


class WaterParams(Params):
    """There is nothing to set. Marks set right what was found wrong."""

    marks: list[Stroke] = drawn("Marks", 400)


def find(params: WaterParams, look: Look) -> Finding:
    """The water of the whole frame."""
    lab = look.lab()
    found = matted_water(lab, look.sky())
    return Finding(corrected(lab, found, *marked(params.marks, look, found.shape)))


INGREDIENT = IngredientKind(
    kind="water",
    revision=1,
    label="Water",
    group="What it is",
    sentence="Water",
    params=WaterParams,
    find=find,
    nothing="No water was found in this frame: mark some of it",
    place=62,
)
