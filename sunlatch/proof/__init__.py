"""Files for paper and for others."""

from .files import FORMATS, bits_for, write_mask, write_picture

__all__ = ["FORMATS", "bits_for", "write_mask", "write_picture"]
