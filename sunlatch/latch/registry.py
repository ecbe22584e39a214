"""Finds the ingredients by looking through this folder."""

from importlib import import_module
from pkgutil import iter_modules
from typing import Final

from .base import IngredientKind


def _found() -> dict[str, IngredientKind]:
    package = __name__.rpartition(".")[0]
    home = import_module(package).__path__
    kinds: list[IngredientKind] = []
    for module in iter_modules(home):
        ingredient = getattr(import_module(f"{package}.{module.name}"), "INGREDIENT", None)
        if ingredient is not None:
            kinds.append(ingredient)
    return {i.kind: i for i in sorted(kinds, key=lambda i: (i.place, i.kind))}


INGREDIENT_KINDS: Final = _found()
"""Every ingredient by its kind, in the order they are offered."""


def finder(kind: str) -> str:
    """Names a finder by its revision and those of all that it looks at: "5 sky 8"."""
    declared = INGREDIENT_KINDS[kind]
    return " ".join([str(declared.revision), *(f"{other} {finder(other)}" for other in declared.looks_at)])
