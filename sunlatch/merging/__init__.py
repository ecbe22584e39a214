"""Panorama and exposure merging: solutions of frames, and the rasters that are made of them whenever they are asked for."""

from .bracket import plan_bracket, scene_of_bracket
from .kinds import description_of, solved
from .light import LightStore
from .plan import coverage_share, order_of, plan_sweep, scene_of, wide
from .raster import Joined, key_of_join, seams_over
from .store import JoinStore, input_frames

__all__ = [
    "JoinStore",
    "Joined",
    "LightStore",
    "coverage_share",
    "description_of",
    "input_frames",
    "key_of_join",
    "order_of",
    "plan_bracket",
    "plan_sweep",
    "scene_of",
    "scene_of_bracket",
    "seams_over",
    "solved",
    "wide",
]
