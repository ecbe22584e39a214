"""Scene documents read, checked, written; what is wrong with one, in a sentence."""

import json
import os
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from ..blobs import Blobs
from ..errors import DocumentError
from ..latch import INGREDIENT_KINDS, Sheets
from ..moves import LIGHT_KINDS
from .document import Scene
from .migrations import SCHEMA_VERSION, migrate


def plainly(error: ValidationError, prefix: str = "") -> DocumentError:
    """The first fault of a validation as path and sentence."""
    first = error.errors(include_url=False)[0]
    where = prefix
    kinds = {*LIGHT_KINDS, *INGREDIENT_KINDS}
    for part in first["loc"]:
        if isinstance(part, int):
            where += f"[{part}]"
        elif part not in kinds or not where.endswith("]"):
            where += f".{part}" if where else str(part)
    message = first["msg"].removeprefix("Value error, ")
    if first["type"] == "extra_forbidden":
        message = "this field is not known"
    elif first["type"] == "union_tag_invalid":
        message = f"there is no kind {first['ctx']['tag']!r}; known are {first['ctx']['expected_tags']}"
    elif first["type"] == "finite_number":
        message = "this is not a finite number"
    else:
        message = message[0].lower() + message[1:]
    return DocumentError(message, where)


def _no_constant(name: str) -> float:
    raise DocumentError(f"{name} is not a number a scene document can hold")


def parse_scene(data: str | bytes | dict[str, Any]) -> Scene:
    """A scene from JSON text or from data. Raises DocumentError naming the field."""
    if not isinstance(data, dict):
        try:
            data = json.loads(data, parse_constant=_no_constant)
        except (json.JSONDecodeError, UnicodeDecodeError) as error:
            raise DocumentError(f"this is not JSON ({error})") from error
        if not isinstance(data, dict):
            raise DocumentError("a scene document is a JSON object")
    try:
        return Scene.model_validate(migrate(data))
    except ValidationError as error:
        raise plainly(error) from error


def load_scene(path: Path) -> Scene:
    """A scene from a file. Raises DocumentError."""
    try:
        raw = path.read_bytes()
    except OSError as error:
        raise DocumentError(f"{path} could not be read ({error.strerror})") from error
    return parse_scene(raw)


def save_scene(scene: Scene, path: Path) -> None:
    """Write a scene whole or not at all."""
    part = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        part.write_text(scene.model_dump_json(indent=1) + "\n", encoding="utf-8")
        part.replace(path)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise DocumentError(f"{path} could not be written ({error.strerror})") from error


def json_schema() -> dict[str, Any]:
    """The JSON Schema of the scene document."""
    schema = Scene.model_json_schema()
    schema["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    schema["title"] = f"Sun Latch scene, version {SCHEMA_VERSION}"
    return schema


def put_away(scene: Scene, blobs: Blobs) -> Scene:
    """The same, with what is painted on sheets once it is much. Raises StorageError."""
    sheets = Sheets(blobs)
    for latch in scene.latches:
        for line in latch.ingredients:
            if line.kind == "hand":
                line.params.strokes = sheets.put_away(line.params.strokes)
    return scene
