"""Mend: repairs as instructions, made on the raster beneath everything else."""

from .area import bounds_of, put_mask, reach_of, shade
from .dust import Dust, find_specks
from .patches import SourceMap
from .plan import checked, circle, clone_of, heal_of, regrow_of, serves, specks_of, spot_of, wire_of
from .raster import Mended
from .wider import room_for

__all__ = [
    "Dust", "Mended", "SourceMap", "bounds_of", "checked", "circle", "clone_of", "find_specks", "heal_of", "put_mask",
    "reach_of", "regrow_of", "room_for", "serves", "shade", "specks_of", "spot_of", "wire_of",
]  # fmt: skip
