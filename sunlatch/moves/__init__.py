"""Moves: one file each. A file that defines MOVE is a move; nothing else needs to be told."""

from .base import MoveKind
from .registry import GROUND_KINDS, LIGHT_KINDS, MOVE_KINDS

__all__ = ["GROUND_KINDS", "LIGHT_KINDS", "MOVE_KINDS", "MoveKind"]
