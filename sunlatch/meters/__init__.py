"""What is measured: the ladder, the meeting, what clips, a value at a place; lines, lights and borders."""

from .borders import BorderMark, read_borders
from .fringe import estimate_fringe
from .ground import GroundState, read_ground
from .ladder import Ladder, LatchLight, read_ladder
from .latches import ColourAt, colour_at, why, why_empty
from .lights import Estimate, estimate_lights
from .limits import find_ends, limits_picture
from .lines import SURE, Horizon, find_horizon, find_lines, level_by, plumb_lines, plumb_residual
from .sharpness import sharpness_at
from .spot import Spot, light_at, read_spot

__all__ = [
    "SURE",
    "BorderMark",
    "ColourAt",
    "Estimate",
    "GroundState",
    "Horizon",
    "Ladder",
    "LatchLight",
    "Spot",
    "colour_at",
    "estimate_fringe",
    "estimate_lights",
    "find_ends",
    "find_horizon",
    "find_lines",
    "level_by",
    "light_at",
    "limits_picture",
    "plumb_lines",
    "plumb_residual",
    "read_borders",
    "read_ground",
    "read_ladder",
    "read_spot",
    "sharpness_at",
    "why",
    "why_empty",
]
