"""Where pixels are: source coordinates, the developed plane, and the one resampling."""

from .drawing import described, mesh_of
from .field import Field, held_back
from .filters import phase_table, taps
from .lattice import Lattice, spread
from .lens import LensShape, fit_even
from .map import Geometry
from .nudge import Stroke, nudged, unmoved
from .plumb import ANGLE_LIMIT, PlumbLine, homography, lies_on, residual, rotation, solve, solve_on_sphere
from .projection import PROJECTIONS
from .resample import resample, separable
from .reshape import Pulls, enlarged, filled, straightened, through
from .sphere import SECONDARY, Across, Lent, LentToSweep, Master, Member, Onto, Outline, Placed, Sphere
from .trim import Box
from .view import Trimmed, View, widened
from .warp import Drawn, source_map, warp

__all__ = [
    "ANGLE_LIMIT",
    "PROJECTIONS",
    "SECONDARY",
    "Across",
    "Box",
    "Drawn",
    "Field",
    "Geometry",
    "Lattice",
    "LensShape",
    "Lent",
    "LentToSweep",
    "Master",
    "Member",
    "Onto",
    "Outline",
    "Placed",
    "PlumbLine",
    "Pulls",
    "Sphere",
    "Stroke",
    "Trimmed",
    "View",
    "described",
    "enlarged",
    "filled",
    "fit_even",
    "held_back",
    "homography",
    "lies_on",
    "mesh_of",
    "nudged",
    "phase_table",
    "resample",
    "residual",
    "rotation",
    "separable",
    "solve",
    "solve_on_sphere",
    "source_map",
    "spread",
    "straightened",
    "taps",
    "through",
    "unmoved",
    "warp",
    "widened",
]
