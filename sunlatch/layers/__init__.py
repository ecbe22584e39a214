"""Layers brought into a scene, each with its own map, its own falloff, its own alpha: what a second frame lends, and a new sky."""

from .lend import lend
from .lenders import Lender, lender, where_wanted
from .skies import WATER

__all__ = ["WATER", "Lender", "lend", "lender", "where_wanted"]
