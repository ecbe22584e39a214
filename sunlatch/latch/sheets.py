"""Sheets: strokes kept beside a document, many to a sheet, each sheet named by what it holds.

A document of ten thousand strokes would be sent with every question and stored with every revision; it
names its sheets instead.
"""

import hashlib
import json
import os
from contextlib import suppress
from functools import lru_cache
from pathlib import Path
from typing import Final

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from ..errors import DocumentError
from .strokes import Stroke

LOOSE: Final = 48
"""A document holds so many strokes of a kind itself before they are put on a sheet."""
_STROKES: Final = TypeAdapter(tuple[Stroke, ...])


class Sheet(BaseModel):
    """Strokes by the sheet they are on. count: how many."""

    model_config = ConfigDict(extra="forbid")

    sheet: str = Field(pattern=r"^[0-9a-f]{64}$")
    count: int = Field(ge=1, le=20_000)


class Sheets:
    """A folder of sheets. A sheet is written whole or not at all, and never changed."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._read = lru_cache(400)(self._strokes)

    def put_away(self, strokes: list[Stroke | Sheet]) -> list[Stroke | Sheet]:
        """The same strokes in the same order, the loose ones at the end on a sheet once they are many.
        Raises DocumentError where it cannot be written."""
        first = len(strokes)
        while first > 0 and isinstance(strokes[first - 1], Stroke):
            first -= 1
        loose = [s for s in strokes[first:] if isinstance(s, Stroke)]
        if len(loose) < LOOSE:
            return strokes
        data = json.dumps([s.model_dump(mode="json") for s in loose], separators=(",", ":")).encode()
        name = hashlib.sha256(data).hexdigest()
        path = self._path(name)
        if not path.exists():
            part = path.with_name(f".{name}.{os.getpid()}.part")
            try:
                path.parent.mkdir(parents=True, exist_ok=True)
                with part.open("wb") as out:
                    out.write(data)
                    out.flush()
                    os.fsync(out.fileno())
                part.replace(path)
            except OSError as error:
                with suppress(OSError):
                    part.unlink(missing_ok=True)
                raise DocumentError(f"strokes could not be kept ({error.strerror})") from error
        return [*strokes[:first], Sheet(sheet=name, count=len(loose))]

    def strokes(self, sheet: Sheet) -> tuple[Stroke, ...]:
        """What is on a sheet. Raises DocumentError where it is not there, or not what its name says."""
        return self._read(sheet.sheet)

    def _path(self, name: str) -> Path:
        return self.folder / name[:2] / name

    def _strokes(self, name: str) -> tuple[Stroke, ...]:
        try:
            data = self._path(name).read_bytes()
        except OSError as error:
            raise DocumentError(f"a sheet of strokes is missing ({name[:8]})") from error
        if hashlib.sha256(data).hexdigest() != name:
            raise DocumentError(f"a sheet of strokes is damaged ({name[:8]})")
        try:
            return _STROKES.validate_json(data)
        except ValidationError as error:
            raise DocumentError(f"a sheet of strokes is damaged ({name[:8]})") from error
