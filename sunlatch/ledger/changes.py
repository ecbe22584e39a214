"""What is different between two states of a scene, in sentences; and one state in the shape of another."""

from typing import Any, Final

from ..moves import GROUND_KINDS
from .document import Scene
from .sentence import ground_sentences, move_sentence, repair_sentence, shape_sentence

SHAPE: Final = ("lens", "plumb", "trim", "projection")
"""Lines of Ground that say where things lie."""


def shaped_like(scene: Scene, other: Scene) -> Scene:
    """A state with the lens, plumb, trim, projection and shapes of another, so that only light is compared."""
    ground = scene.ground.model_copy(update={kind: getattr(other.ground, kind) for kind in SHAPE})
    return scene.model_copy(update={"ground": ground, "shapes": other.shapes})


def before_light(scene: Scene) -> Scene:
    """A state without its Light band, its crop kept."""
    return scene.model_copy(update={"moves": [], "groups": []})


def untouched(scene: Scene) -> Scene:
    """What a scene is made of, with nothing done to it."""
    made = Scene(sources=[s for s in scene.sources if s.id not in scene.layer_sources], base=scene.base)
    made.ground.projection = scene.ground.projection
    return made


def changes(before: Scene, after: Scene) -> list[str]:
    """What was done from one state to another, a sentence to a line of the ledger, in computing order."""
    sentences = _base(before, after)
    sentences += _ground(before, after)
    sentences += _lines("repairs", before, after, lambda line, scene: repair_sentence(line))
    if (before.sky is None) != (after.sky is None):
        sentences.append("New sky added" if after.sky is not None else "New sky removed")
    elif before.sky is not None and after.sky is not None and before.sky != after.sky:
        sentences.append("New sky changed")
    sentences += _lines("shapes", before, after, lambda line, scene: shape_sentence(line))
    sentences += _latches(before, after)
    sentences += _moves(before, after)
    return sentences + _papers(before, after)


def _papers(before: Scene, after: Scene) -> list[str]:
    was, now = ({paper.id: paper for paper in scene.papers} for scene in (before, after))
    sentences = [f"Paper {paper.name} added" for key, paper in now.items() if key not in was]
    sentences += [f"Paper {paper.name} removed" for key, paper in was.items() if key not in now]
    for key, paper in now.items():
        if key not in was or was[key] == paper:
            continue
        if was[key].params != paper.params or was[key].profile != paper.profile:
            sentences.append(f"Paper {paper.name} changed")
        ours, theirs = {m.id: m for m in was[key].moves}, {m.id: m for m in paper.moves}
        sentences += [
            f"Added for {paper.name}: {move_sentence(m, after)}" for k, m in theirs.items() if k not in ours
        ]
        sentences += [
            f"Removed for {paper.name}: {move_sentence(m, before)}"
            for k, m in ours.items()
            if k not in theirs
        ]
        sentences += [
            f"Changed for {paper.name}: {move_sentence(m, after)}"
            for k, m in theirs.items()
            if k in ours and ours[k] != m
        ]
    return sentences


def _base(before: Scene, after: Scene) -> list[str]:
    sentences = [] if before.base == after.base else ["The join changed"]
    gone = len(before.loans) - len(after.loans)
    if gone:
        sentences.append(
            f"{abs(gone)} loan{'s' if abs(gone) > 1 else ''} {'removed' if gone > 0 else 'added'}"
        )
    elif before.loans != after.loans:
        sentences.append("A loan changed")
    return sentences


def _ground(before: Scene, after: Scene) -> list[str]:
    was, now = ground_sentences(before), ground_sentences(after)
    sentences = []
    for kind, declared in GROUND_KINDS.items():
        one, other = getattr(before.ground, kind), getattr(after.ground, kind)
        if one.on != other.on:
            sentences.append(f"{declared.label} {'on' if other.on else 'off'}")
        elif one.params != other.params:
            sentences.append(
                now[kind] if was[kind] == now[kind] else f"{now[kind]} (was: {_rest(was[kind], now[kind])})"
            )
        elif one.model_dump(exclude={"why"}) != other.model_dump(exclude={"why"}):
            sentences.append(f"{declared.label} changed")
    return sentences


def _rest(was: str, now: str) -> str:
    """The earlier sentence without what both begin with."""
    a, b = was.split(" "), now.split(" ")
    n = 0
    while n < min(len(a), len(b)) - 1 and a[n] == b[n]:
        n += 1
    return " ".join(a[n:])


def _lines(name: str, before: Scene, after: Scene, sentence: Any) -> list[str]:
    was = {line.id: line for line in getattr(before, name)}
    now = {line.id: line for line in getattr(after, name)}
    sentences = [f"Added: {sentence(line, after)}" for key, line in now.items() if key not in was]
    sentences += [f"Removed: {sentence(line, before)}" for key, line in was.items() if key not in now]
    for key, line in now.items():
        if key in was and was[key] != line:
            sentences.append(_switched(was[key], line) + sentence(line, after))
    return sentences


def _switched(was: Any, now: Any) -> str:
    if was.on != now.on:
        return "Switched on: " if now.on else "Switched off: "
    return "Changed: "


def _latches(before: Scene, after: Scene) -> list[str]:
    was, now = ({latch.id: latch for latch in scene.latches} for scene in (before, after))
    sentences = [f"Latch {latch.name} added" for key, latch in now.items() if key not in was]
    sentences += [f"Latch {latch.name} removed" for key, latch in was.items() if key not in now]
    for key, latch in now.items():
        if key in was and _asked(was[key]) != _asked(latch):
            sentences.append(f"Latch {latch.name} changed")
    return sentences


def _asked(latch: Any) -> Any:
    """A latch without what was found for it."""
    data = latch.model_dump()
    for line in data["ingredients"]:
        line.pop("found", None)
    return data


def _moves(before: Scene, after: Scene) -> list[str]:
    was, now = {m.id: m for m in before.moves}, {m.id: m for m in after.moves}
    sentences = [f"Added: {move_sentence(m, after)}" for key, m in now.items() if key not in was]
    sentences += [f"Removed: {move_sentence(m, before)}" for key, m in was.items() if key not in now]
    for key, line in now.items():
        if key not in was or was[key] == line:
            continue
        one, other = move_sentence(was[key], before), move_sentence(line, after)
        if was[key].on != line.on:
            sentences.append(f"Switched {'on' if line.on else 'off'}: {other}")
        elif one != other:
            sentences.append(f"{other} (was: {_rest(one, other)})")
        else:
            sentences.append(f"Changed: {other}")
    kept = [key for key in was if key in now]
    if kept != [key for key in now if key in was]:
        sentences.append("The order of the lines changed")
    return sentences
