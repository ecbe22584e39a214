"""What is measured: the ladder, the meeting, what clips, a value at a place."""

from .ladder import Ladder, LatchLight, read_ladder
from .sharpness import sharpness_at
from .spot import Spot, light_at, read_spot

__all__ = ["Ladder", "LatchLight", "Spot", "light_at", "read_ladder", "read_spot", "sharpness_at"]
