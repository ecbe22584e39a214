"""Where pixels are: source coordinates, the developed plane, and the one resampling."""

from .filters import phase_table, taps
from .lens import LensShape, fit_even
from .map import Geometry
from .nodes import Nodes, spread
from .plumb import ANGLE_LIMIT, PlumbLine, homography, lies_on, residual, rotation, solve, solve_on_sphere
from .projection import PROJECTIONS
from .resample import resample, separable
from .sphere import Across, Lent, Master, Member, Onto, Outline, Placed, Sphere
from .trim import Box
from .view import Trimmed, View, widened
from .warp import Drawn, origins, warp

__all__ = [
    "ANGLE_LIMIT",
    "PROJECTIONS",
    "Across",
    "Box",
    "Drawn",
    "Geometry",
    "LensShape",
    "Lent",
    "Master",
    "Member",
    "Nodes",
    "Onto",
    "Outline",
    "Placed",
    "PlumbLine",
    "Sphere",
    "Trimmed",
    "View",
    "fit_even",
    "homography",
    "lies_on",
    "origins",
    "phase_table",
    "resample",
    "residual",
    "rotation",
    "separable",
    "solve",
    "solve_on_sphere",
    "spread",
    "taps",
    "warp",
    "widened",
]
