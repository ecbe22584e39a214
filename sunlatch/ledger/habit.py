"""Habits: a latch's settings kept, to be found anew on another frame.

What was drawn on one frame (strokes, samples, places, boxes) is left behind; what is found, measured or laid
by its numbers comes along. A latch made of other latches comes with what those hold, as nothing else of the
scene does: they are left behind too.
"""

from typing import Any

from pydantic import TypeAdapter, ValidationError

from ..errors import DocumentError
from ..latch import INGREDIENT_KINDS
from .document import Latch, ReadAt

OF_ONE_FRAME = ("drawn", "box")
"""Kinds of parameters that say where something is in one frame."""
NEEDS_DRAWING = ("hand", "outline", "kin", "another")
"""Ingredients that are nothing without what was drawn, or without their scene."""


def habit_of(latch: Latch) -> dict[str, Any]:
    """A latch as a habit. Raises DocumentError where nothing of it can be found on another frame."""
    held = latch.model_dump(mode="json", exclude={"id", "read_at"})
    lines = []
    for line in held["ingredients"]:
        if line["kind"] in NEEDS_DRAWING:
            continue
        del line["id"]
        declared = INGREDIENT_KINDS[line["kind"]].params.model_fields
        # a colour that was picked is a colour anywhere; a place that was marked is not
        line["params"] = {
            name: value
            for name, value in line["params"].items()
            if _extra(declared[name]).get("kind") not in OF_ONE_FRAME or name == "samples"
        }
        lines.append(line)
    if not lines:
        raise DocumentError(
            f"{latch.name} is made by hand on this frame alone; there is nothing in it to find on another"
        )
    return held | {"ingredients": lines}


def latch_of(habit: dict[str, Any], read_at: ReadAt, taken: set[str]) -> Latch:
    """A habit on a frame: a fresh latch under a name that is not taken. Raises DocumentError."""
    base = str(habit.get("name", ""))
    name, n = base, 1
    while name in taken:
        n += 1
        name = f"{base} {n}"
    try:
        return TypeAdapter(Latch).validate_python(habit | {"name": name, "read_at": read_at.model_dump()})
    except ValidationError as error:
        raise DocumentError(
            f"the habit {base} does not fit this version ({error.errors()[0]['msg']})"
        ) from error


def _extra(field: Any) -> dict[str, Any]:
    extra: dict[str, Any] = field.json_schema_extra or {}
    return extra
