"""Spaces, the camera's colour, the colour of light, the rendering, profiles."""

from .camera import CameraColour, camera_to_working, light_of_neutral
from .light import LightColour, kelvin_duv_to_xy, xy_to_kelvin_duv
from .oklab import ROOTS_TO_LAB, WORKING_TO_LMS, oklab
from .profiles import OutputSpace, output_profile, to_linear_working
from .spaces import LUMA, MIDDLE_GREY, OUTPUT_SPACES, working_to_output

__all__ = [
    "LUMA",
    "MIDDLE_GREY",
    "OUTPUT_SPACES",
    "ROOTS_TO_LAB",
    "WORKING_TO_LMS",
    "CameraColour",
    "LightColour",
    "OutputSpace",
    "camera_to_working",
    "kelvin_duv_to_xy",
    "light_of_neutral",
    "oklab",
    "output_profile",
    "to_linear_working",
    "working_to_output",
    "xy_to_kelvin_duv",
]
