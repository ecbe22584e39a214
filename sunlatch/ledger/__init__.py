"""The scene document: schema, validation, migrations, and the sentence each line reads as."""

from .document import (
    SPARE_EDGES,
    EdgeTrue,
    Ground,
    Group,
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
from .habit import habit_of, habit_of_moves, latch_of, moves_of
from .migrations import SCHEMA_VERSION
from .sentence import ground_sentences, ingredient_sentence, move_sentence

__all__ = [
    "SCHEMA_VERSION",
    "SPARE_EDGES",
    "EdgeTrue",
    "Ground",
    "Group",
    "IngredientLine",
    "Latch",
    "MoveLine",
    "ReadAt",
    "Scene",
    "Source",
    "Spare",
    "ground_sentences",
    "habit_of",
    "habit_of_moves",
    "ingredient_sentence",
    "json_schema",
    "latch_of",
    "load_scene",
    "move_sentence",
    "moves_of",
    "new_ingredient",
    "new_move",
    "parse_scene",
    "put_away",
    "save_scene",
]
