"""Mend: repairs as instructions, made on the raster beneath everything else."""

from .area import bounds_of, put_mask, shade
from .dust import Dust, find_specks
from .plan import checked, circle, clone_of, heal_of, regrow_of, serves, specks_of, spot_of, wire_of
from .raster import Mended

__all__ = [
    "Dust", "Mended", "bounds_of", "checked", "circle", "clone_of", "find_specks", "heal_of", "put_mask",
    "regrow_of", "serves", "shade", "specks_of", "spot_of", "wire_of",
]  # fmt: skip
