"""New lines of a document: moves, ingredients, latches as they come."""

from typing import Any

from pydantic import TypeAdapter, ValidationError

from ..moves import LIGHT_KINDS
from .document import Latch, Scene
from .parts import SPARE_EDGES, IngredientLine, MoveLine, ReadAt, Spare
from .reading import plainly


def new_move(kind: str, **fields: Any) -> MoveLine:
    """A Light line of a kind, validated. Raises DocumentError."""
    return _made("moves", Scene.model_fields["moves"].annotation, {"kind": kind, **fields})  # type: ignore[no-any-return]


def doubts_shown(scene: Scene) -> Scene:
    """The same with all that is in doubt taken to be there: to be looked at, for nothing of it is applied."""
    shown = scene.model_copy(deep=True)
    for line in (i for latch in shown.latches for i in latch.ingredients):
        if getattr(line.params, "answer", "") == "found":
            line.params.answer = "yes"
    return shown


def sky_latch(at: ReadAt) -> Latch:
    """A latch on the sky with fine edges, as a matte has them."""
    return Latch(name="Sky", ingredients=[new_ingredient("sky")], read_at=at, fine_edges=True)


def spared_by(kind: str, read_at: ReadAt) -> list[Spare]:
    """What a fresh line of a kind spares, so that it does no harm."""
    return [Spare(what=w, edge=SPARE_EDGES[w], read_at=read_at) for w in LIGHT_KINDS[kind].spares]  # type: ignore[arg-type]


def new_ingredient(kind: str, **fields: Any) -> IngredientLine:
    """An ingredient of a kind, validated. Raises DocumentError."""
    annotation = Latch.model_fields["ingredients"].annotation
    return _made("ingredients", annotation, {"kind": kind, **fields})  # type: ignore[no-any-return]


def _made(where: str, list_type: Any, data: dict[str, Any]) -> Any:
    try:
        return TypeAdapter(list_type).validate_python([data])[0]
    except ValidationError as error:
        raise plainly(error, where) from error
