"""The scene document: schema, validation, migrations, and the sentence each line reads as."""

from .document import (
    SPARE_EDGES,
    EdgeTrue,
    Ground,
    IngredientLine,
    Latch,
    MoveLine,
    ReadAt,
    Scene,
    Source,
    Spare,
    json_schema,
    load_scene,
    new_ingredient,
    new_move,
    parse_scene,
    put_away,
    save_scene,
)
from .habit import habit_of, latch_of
from .migrations import SCHEMA_VERSION
from .sentence import ground_sentences, ingredient_sentence, move_sentence

__all__ = [
    "SCHEMA_VERSION",
    "SPARE_EDGES",
    "EdgeTrue",
    "Ground",
    "IngredientLine",
    "Latch",
    "MoveLine",
    "ReadAt",
    "Scene",
    "Source",
    "Spare",
    "ground_sentences",
    "habit_of",
    "ingredient_sentence",
    "json_schema",
    "latch_of",
    "load_scene",
    "move_sentence",
    "new_ingredient",
    "new_move",
    "parse_scene",
    "put_away",
    "save_scene",
]
