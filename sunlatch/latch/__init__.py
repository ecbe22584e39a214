"""Latches: ingredients (one file each), their algebra, edge-true refinement."""

from .algebra import JOINS, combine, inverted
from .base import IngredientKind, Reading
from .kept import KeptFinding
from .registry import INGREDIENT_KINDS, finder
from .sheets import Sheets
from .stroke import Stroke
from .strokes import laid

__all__ = [
    "INGREDIENT_KINDS",
    "JOINS",
    "IngredientKind",
    "KeptFinding",
    "Reading",
    "Sheets",
    "Stroke",
    "combine",
    "finder",
    "inverted",
    "laid",
]
