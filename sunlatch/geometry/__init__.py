"""Where pixels are: source coordinates, the developed plane, and the one resampling."""

from .drawing import described, mesh_of
from .field import Field, held_back
from .filters import phase_table, taps
from .lens import LensShape, fit_even
from .map import Geometry
from .nodes import Nodes, spread
from .nudge import Stroke, nudged, unmoved
from .plumb import ANGLE_LIMIT, PlumbLine, homography, lies_on, residual, rotation, solve, solve_on_sphere
from .projection import PROJECTIONS
from .resample import resample, separable
from .reshape import Pulls, enlarged, filled, straightened, through
from .sphere import SECOND, Across, Lent, LentToSweep, Master, Member, Onto, Outline, Placed, Sphere
from .trim import Box
from .view import Trimmed, View, widened
from .warp import Drawn, origins, warp

__all__ = [
    "ANGLE_LIMIT",
    "PROJECTIONS",
    "SECOND",
    "Across",
    "Box",
    "Drawn",
    "Field",
    "Geometry",
    "LensShape",
    "Lent",
    "LentToSweep",
    "Master",
    "Member",
    "Nodes",
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
    "origins",
    "phase_table",
    "resample",
    "residual",
    "rotation",
    "separable",
    "solve",
    "solve_on_sphere",
    "spread",
    "straightened",
    "taps",
    "through",
    "unmoved",
    "warp",
    "widened",
]
