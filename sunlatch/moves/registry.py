"""Finds the moves by looking through this folder."""

from importlib import import_module
from pkgutil import iter_modules
from typing import Final

from .base import MoveKind


def _found() -> dict[str, MoveKind]:
    package = __name__.rpartition(".")[0]
    home = import_module(package).__path__
    kinds: list[MoveKind] = []
    for module in iter_modules(home):
        move = getattr(import_module(f"{package}.{module.name}"), "MOVE", None)
        if move is not None:
            kinds.append(move)
    return {m.kind: m for m in sorted(kinds, key=lambda m: (m.place, m.kind))}


MOVE_KINDS: Final = _found()
"""Every move by its kind, in the order they are offered."""

GROUND_KINDS: Final = {k: m for k, m in MOVE_KINDS.items() if m.band == "ground" or m.once}
"""Those that exist once in a scene."""

LIGHT_KINDS: Final = {k: m for k, m in MOVE_KINDS.items() if m.band == "light"}
"""Those that may stand in the Light band, any number, any order."""
