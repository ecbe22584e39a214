"""What a picture shows, found by looking at it: no models to download, only the picture itself."""

from .horizon import SteppedLine, find_line, lowest_edge, step_marks
from .marks import corrected
from .matte import followed, warm_matte
from .sky import find_sky, matted_sky
from .subject import find_subject, matted_again, salient_box, surroundings, tightened
from .sure import sure_of_sky, sure_of_water
from .water import find_water, matted_water, true_to_shores

__all__ = [
    "SteppedLine",
    "corrected",
    "find_line",
    "find_sky",
    "find_subject",
    "find_water",
    "followed",
    "lowest_edge",
    "matted_again",
    "matted_sky",
    "matted_water",
    "salient_box",
    "step_marks",
    "sure_of_sky",
    "sure_of_water",
    "surroundings",
    "tightened",
    "true_to_shores",
    "warm_matte",
]  # fmt: skip
