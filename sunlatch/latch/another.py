"""Another latch, as an ingredient."""

from ..parameters import Params, latch_choice
from .base import F32, IngredientKind, Reading


class AnotherParams(Params):
    """Which latch."""

    latch: str = latch_choice("Which")


def evaluate(params: AnotherParams, reading: Reading) -> F32:
    """The other latch's mask (h, w)."""
    return reading.latch(params.latch)


INGREDIENT = IngredientKind(
    kind="another",
    revision=1,
    label="Another latch",
    says="taken as it is",
    group="By hand",
    sentence="{latch}",
    params=AnotherParams,
    evaluate=evaluate,
    place=90,
)
