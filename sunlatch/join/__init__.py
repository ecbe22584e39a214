"""Several frames as one picture that stays editable: how they lie is solved once and kept in the document; their px are
made of frames and solution whenever they are asked for."""

from .bracket import plan_bracket, scene_of_bracket
from .inputs import InputFrame
from .kinds import laid, solved, told_of
from .lenders import Lender, lender, where_wanted
from .loan import lend
from .plan import coverage_share, order_of, plan_sweep, scene_of, wide
from .raster import Joined, facts_of, key_of_join, seams_over
from .store import JoinStore, input_frames

__all__ = [
    "InputFrame",
    "JoinStore",
    "Joined",
    "Lender",
    "coverage_share",
    "facts_of",
    "input_frames",
    "key_of_join",
    "laid",
    "lend",
    "lender",
    "order_of",
    "plan_bracket",
    "plan_sweep",
    "scene_of",
    "scene_of_bracket",
    "seams_over",
    "solved",
    "told_of",
    "where_wanted",
    "wide",
]  # fmt: skip
