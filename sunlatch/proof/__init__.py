"""Proof: paper, what it will look like on it, what is better seen before, and the file."""

from .files import write_mask, write_picture, write_pixels
from .findings import Finding, NextStep, Preflight
from .kinds import FORMATS, KINDS, bits_for, check
from .metadata import About
from .naming import checked, file_name
from .paper import Layout, Sheet, laid_out
from .preflight import preflight
from .strip import NAMED, Setting, stepped, strip
from .target import on_screen, printing_of, sharpness_of

__all__ = [
    "FORMATS",
    "KINDS",
    "NAMED",
    "About",
    "Finding",
    "Layout",
    "NextStep",
    "Preflight",
    "Setting",
    "Sheet",
    "bits_for",
    "check",
    "checked",
    "file_name",
    "laid_out",
    "on_screen",
    "preflight",
    "printing_of",
    "sharpness_of",
    "stepped",
    "strip",
    "write_mask",
    "write_picture",
    "write_pixels",
]  # fmt: skip
