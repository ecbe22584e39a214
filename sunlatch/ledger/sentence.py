"""How a line of the ledger reads."""

from ..latch import INGREDIENT_KINDS
from ..moves import GROUND_KINDS, MOVE_KINDS
from ..parameters import read
from .document import Scene
from .parts import IngredientLine, MoveLine
from .repairs import AnyRepair
from .shapes import AnyShape


def move_sentence(move: MoveLine, scene: Scene) -> str:
    """For example "Exposure −0.9 stops, latched to Sky, sparing highlights"."""
    text = read(MOVE_KINDS[move.kind].sentence, move.params)
    if move.strength != 1:
        text += f" at {move.strength * 100:.0f} %"
    latch = scene.latch(move.latch) if move.latch else None
    if latch is not None:
        text += f" on {latch.name}"
    if move.spare:
        text += ", sparing " + " and ".join("a colour" if s.what == "colour" else s.what for s in move.spare)
    return text


def ingredient_sentence(line: IngredientLine) -> str:
    """For example "Fan leaning to the lights, narrowness 2.0"."""
    text = read(INGREDIENT_KINDS[line.kind].sentence, line.params)
    return f"{text}, inverted" if line.invert else text


def ground_sentences(scene: Scene) -> dict[str, str]:
    """Each Ground move by its kind."""
    return {
        kind: read(declared.sentence, getattr(scene.ground, kind).params)
        for kind, declared in GROUND_KINDS.items()
    }


def repair_sentence(repair: AnyRepair) -> str:
    """For example "31 specks", "Heal" or "Regrow: foot of a tripod"."""
    if repair.kind == "specks":
        count = sum(spot.on for spot in repair.spots)
        text = f"{count} speck{'' if count == 1 else 's'}"
    else:
        declared = MOVE_KINDS[repair.kind]
        plain = repair.params == declared.params()
        text = declared.label if plain else read(declared.sentence, repair.params)
    return f"{text}: {repair.name}" if repair.name else text


def shape_sentence(shape: AnyShape) -> str:
    """For example "Reshape: 2 lines, 1 pin" or "Nudge: 3 strokes"."""
    if shape.kind == "nudge":
        parts = [(len(shape.strokes), "stroke")]
    else:
        parts = [
            (len(shape.lines), "line"),
            (len(shape.pulled), "part pulled nearer"),
            (len(shape.pins), "pin"),
        ]
    counts = [f"{n} {_more(what) if n > 1 else what}" for n, what in parts if n]
    text = f"{MOVE_KINDS[shape.kind].label}: {', '.join(counts) or 'nothing yet'}"
    return f"{text}: {shape.name}" if shape.name else text


def _more(what: str) -> str:
    return what.replace("part", "parts") if what.startswith("part") else what + "s"
