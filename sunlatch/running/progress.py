"""How far work is: told where it is done, heard by whoever had it begun.

    with telling(hear):             # hear(share), 0–1
        with phase(0, 0.6):
            report(0.5)               # hear(0.3)

Outside any, what is told is heard by nobody.
"""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

Hear = Callable[[float], None]
_hears: ContextVar[Hear | None] = ContextVar("progress", default=None)


@contextmanager
def telling(hear: Hear) -> Iterator[None]:
    """Inside, `hear` is told how far the work is."""
    before = _hears.set(hear)
    try:
        yield
    finally:
        _hears.reset(before)


@contextmanager
def phase(begin: float, end: float) -> Iterator[None]:
    """Inside, what is told is told of a part of the whole, which goes from one share of it to another; it ends told."""
    hear = _hears.get()
    if hear is None:
        yield
        return
    with telling(lambda share: hear(begin + (end - begin) * share)):
        report(0.0)
        yield
        report(1.0)


def report(share: float) -> None:
    """So much is done, 0–1, of the part that holds here."""
    hear = _hears.get()
    if hear is not None:
        hear(min(max(share, 0.0), 1.0))
