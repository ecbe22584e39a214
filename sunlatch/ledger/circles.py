"""Latches made of latches."""

from typing import Any


def no_circle(latches: list[Any]) -> None:
    """Raises ValueError where a latch is made of itself, naming the circle, or of one that is not there."""
    known = {latch.id: latch for latch in latches}
    made_of = {
        latch.id: [i.params.latch for i in latch.ingredients if i.kind == "another" and i.params.latch]
        for latch in latches
    }
    for latch in latches:
        for other in made_of[latch.id]:
            if other not in known:
                raise ValueError(f"{latch.name} is made of a latch that is not in the document")

    sound: set[str] = set()

    def walk(way: list[str]) -> None:
        for other in made_of[way[-1]]:
            if other in way:
                circle = [known[key].name for key in [*way[way.index(other) :], other]]
                raise ValueError(f"a latch cannot be made of itself: {' → '.join(circle)}")
            if other not in sound:
                walk([*way, other])
        sound.add(way[-1])

    for key in made_of:
        walk([key])
