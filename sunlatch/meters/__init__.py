"""What is measured: the ladder, the meeting, what clips, a value at a place; lines, lights and borders."""

from .belongs import Belonging, read_belongs
from .borders import BorderMark, read_borders
from .difference import difference, difference_picture
from .fringe import estimate_fringe
from .ground import GroundState, read_ground
from .halos import Rim, read_halos
from .ladder import Ladder, LatchLight, read_ladder
from .latches import ColourAt, colour_at, fan_rungs, in_doubt, why, why_empty
from .lights import Estimate, estimate_lights
from .limits import find_ends, limits_picture
from .lines import (
    SURE,
    Horizon,
    find_horizon,
    find_lines,
    find_uprights,
    level_by,
    plumb_lines,
    plumb_residual,
    plumbed,
)
from .meeting import Meeting, read_meeting
from .remedies import COMPLAINTS, Complaint, Remedy, read_remedies
from .sharpness import sharpness_at
from .skies import Fit, Glance, fit, glance
from .specks import specks_picture
from .spot import FINGERTIP, PickedAt, Spot, light_at, pick_at, read_spot
from .squint import Squint, read_squint, squinted
from .zones import Shared, shared, zone_of

__all__ = [
    "COMPLAINTS",
    "FINGERTIP",
    "SURE",
    "Belonging",
    "BorderMark",
    "ColourAt",
    "Complaint",
    "Estimate",
    "Fit",
    "Glance",
    "GroundState",
    "Horizon",
    "Ladder",
    "LatchLight",
    "Meeting",
    "PickedAt",
    "Remedy",
    "Rim",
    "Shared",
    "Spot",
    "Squint",
    "colour_at",
    "difference",
    "difference_picture",
    "estimate_fringe",
    "estimate_lights",
    "fan_rungs",
    "find_ends",
    "find_horizon",
    "find_lines",
    "find_uprights",
    "fit",
    "glance",
    "in_doubt",
    "level_by",
    "light_at",
    "limits_picture",
    "pick_at",
    "plumb_lines",
    "plumb_residual",
    "plumbed",
    "read_belongs",
    "read_borders",
    "read_ground",
    "read_halos",
    "read_ladder",
    "read_meeting",
    "read_remedies",
    "read_spot",
    "read_squint",
    "shared",
    "sharpness_at",
    "specks_picture",
    "squinted",
    "why",
    "why_empty",
    "zone_of",
]
