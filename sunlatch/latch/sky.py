"""Sky: found in the frame, with twigs, cables and ridges before it left out."""

from ..parameters import Params
from .base import Finding, IngredientKind, Look
from .found import matted_sky


class SkyParams(Params):
    """There is nothing to set: the sky is where it is."""


def find(params: SkyParams, look: Look) -> Finding:
    """The sky of the whole frame."""
    return Finding(matted_sky(look.lab()))


INGREDIENT = IngredientKind(
    kind="sky",
    revision=1,
    label="Sky",
    group="What it is",
    sentence="Sky",
    params=SkyParams,
    find=find,
    place=60,
)
