"""Files for paper and for others."""

from .files import FORMATS, write_mask, write_picture

__all__ = ["FORMATS", "write_mask", "write_picture"]
