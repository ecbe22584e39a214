"""Habits: settings of a latch, or of moves and what they are latched to, kept to be used on another frame.

What was drawn on one frame (strokes, samples, places, boxes) is left behind; what is found, measured or laid
by its numbers comes along. A latch made of other latches comes with what those hold, as nothing else of the
scene does: they are left behind too.
"""

from typing import Any

from pydantic import TypeAdapter, ValidationError

from ..errors import DocumentError
from ..latch import INGREDIENT_KINDS
from .document import Latch, Scene
from .lines import new_move
from .parts import MoveLine, ReadAt

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
        del line["id"], line["found"]
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


def free_name(base: str, taken: set[str]) -> str:
    """The name, with a number after it if it is taken."""
    name, n = base, 1
    while name in taken:
        n += 1
        name = f"{base} {n}"
    return name


def latch_of(habit: dict[str, Any], read_at: ReadAt, taken: set[str]) -> Latch:
    """A habit on a frame: a fresh latch under a name that is not taken. Raises DocumentError."""
    base = str(habit.get("name", ""))
    name = free_name(base, taken)
    try:
        return TypeAdapter(Latch).validate_python(habit | {"name": name, "read_at": read_at.model_dump()})
    except ValidationError as error:
        raise DocumentError(
            f"the habit {base} does not fit this version ({error.errors()[0]['msg']})"
        ) from error


def habit_of_moves(scene: Scene, ids: list[str]) -> dict[str, Any]:
    """Lines of Light as a habit, in the order they stand, with the latches they need. A line whose latch is made
    by hand is left behind: all over the picture it would be another move. Raises DocumentError if none is left."""
    latches: dict[str, dict[str, Any]] = {}
    moves = []
    for move in scene.moves:
        if move.id not in ids:
            continue
        if move.latch is not None and move.latch not in latches:
            held = scene.latch(move.latch)
            try:
                latches[move.latch] = habit_of(held) if held else {}
            except DocumentError:
                continue
        kept = move.model_dump(mode="json", exclude={"id", "group"})
        for spare in kept["spare"]:
            del spare["read_at"]
        moves.append(kept | {"latch": list(latches).index(move.latch) if move.latch else None})
    if not moves:
        raise DocumentError(
            "nothing here can be used on another frame: what it is latched to is made by hand"
        )
    return {"moves": moves, "latches": list(latches.values())}


def moves_of(habit: dict[str, Any], scene: Scene, read_at: ReadAt) -> tuple[list[MoveLine], list[Latch]]:
    """A habit's lines for a scene, and the latches to be made for them: a latch of the scene that has the name
    already is used as it is. Raises DocumentError."""
    made: list[Latch] = []
    held = []
    for kept in habit["latches"]:
        there = scene.latch(str(kept.get("name", "")))
        if there is None:
            there = latch_of(kept, read_at, {latch.name for latch in made})
            made.append(there)
        held.append(there.id)
    moves = []
    for kept in habit["moves"]:
        spare = [s | {"read_at": read_at.model_dump()} for s in kept["spare"]]
        latch = held[kept["latch"]] if kept["latch"] is not None else None
        fields = {name: value for name, value in kept.items() if name != "kind"}
        moves.append(new_move(kept["kind"], **fields | {"spare": spare, "latch": latch}))
    return moves, made


def _extra(field: Any) -> dict[str, Any]:
    extra: dict[str, Any] = field.json_schema_extra or {}
    return extra
