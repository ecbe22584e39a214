"""Sheets: strokes kept beside a document, many to a sheet, each sheet named by what it holds.

A document of ten thousand strokes would be sent with every question and stored with every revision; it
names its sheets instead.
"""

import json
from functools import lru_cache
from typing import Final

from pydantic import TypeAdapter, ValidationError

from ..blobs import Blobs
from ..errors import DocumentError
from .stroke import Sheet, Stroke

LOOSE: Final = 48
"""A document holds so many strokes of a kind itself before they are put on a sheet."""
_STROKES: Final = TypeAdapter(tuple[Stroke, ...])


class Sheets:
    """The sheets among a document's blobs."""

    def __init__(self, blobs: Blobs) -> None:
        self._blobs = blobs
        self._read = lru_cache(400)(self._strokes)

    def put_away(self, strokes: list[Stroke | Sheet]) -> list[Stroke | Sheet]:
        """The same strokes in the same order, the loose ones at the end on a sheet once they are many.
        Raises StorageError where it cannot be written."""
        first = len(strokes)
        while first > 0 and isinstance(strokes[first - 1], Stroke):
            first -= 1
        loose = [s for s in strokes[first:] if isinstance(s, Stroke)]
        if len(loose) < LOOSE:
            return strokes
        data = json.dumps([s.model_dump(mode="json") for s in loose], separators=(",", ":")).encode()
        return [*strokes[:first], Sheet(sheet=self._blobs.put(data), count=len(loose))]

    def strokes(self, sheet: Sheet) -> tuple[Stroke, ...]:
        """What is on a sheet. Raises DocumentError where it is not there, or not what its name says."""
        return self._read(sheet.sheet)

    def _strokes(self, name: str) -> tuple[Stroke, ...]:
        try:
            return _STROKES.validate_json(self._blobs.get(name))
        except ValidationError as error:
            raise DocumentError(f"a sheet of strokes is damaged ({name[:8]})") from error
