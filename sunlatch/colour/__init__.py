"""Spaces, the camera's colour, the colour of light, the rendering, profiles."""

from .camera import CameraColour, camera_to_working, light_of_neutral
from .leading import leading_colour
from .light import LightColour, kelvin_duv_to_xy, xy_to_kelvin_duv
from .oklab import LAB_TO_ROOTS, LMS_TO_WORKING, ROOTS_TO_LAB, WORKING_TO_LMS, from_oklab, oklab
from .profiles import output_profile, to_linear_working
from .spaces import (
    LUMA,
    MIDDLE_GREY,
    OUTPUT_SPACES,
    rgb_to_xyz,
    working_of_srgb,
    working_to_output,
    xy_to_xyz,
)

__all__ = [
    "LAB_TO_ROOTS",
    "LMS_TO_WORKING",
    "LUMA",
    "MIDDLE_GREY",
    "OUTPUT_SPACES",
    "ROOTS_TO_LAB",
    "WORKING_TO_LMS",
    "CameraColour",
    "LightColour",
    "camera_to_working",
    "from_oklab",
    "kelvin_duv_to_xy",
    "leading_colour",
    "light_of_neutral",
    "oklab",
    "output_profile",
    "rgb_to_xyz",
    "to_linear_working",
    "working_of_srgb",
    "working_to_output",
    "xy_to_kelvin_duv",
    "xy_to_xyz",
]
