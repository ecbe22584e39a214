"""How far work is that somebody waits for: by the name that he gave it."""

from collections.abc import Iterator
from contextlib import contextmanager

from sunlatch.running.progress import telling

_shares: dict[str, float] = {}


@contextmanager
def known_as(name: str | None) -> Iterator[None]:
    """Inside, what work tells of itself can be asked for by the name; not at all where there is none."""
    if not name:
        yield
        return

    def hear(share: float) -> None:
        _shares[name] = max(share, _shares.get(name, 0.0))

    try:
        with telling(hear):
            yield
    finally:
        _shares.pop(name, None)


def share_of(name: str) -> float | None:
    """How much of it is done, 0–1; None where nothing of that name is under way, or nothing is told of it yet."""
    return _shares.get(name)
