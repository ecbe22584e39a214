"""Cancellation token: whether work is still wanted, asked in every long loop, answered by whoever had the work begun.

    with Patience(gone, seconds=20):
        develop and look            # loops inside say go_on()

It holds for what is called inside and for what that hands to the engine's threads, without being passed along.
Outside any, work goes on to its end.
"""

import math
import time
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager, nullcontext
from contextvars import ContextVar, Token
from types import TracebackType
from typing import Protocol, Self

from ..errors import CancelledError, SunLatchError, TooLongError


class Patience:
    """gone: says that nobody waits for the work any more. seconds: how long it may take in all; may be entered
    several times, one after another, and the time outside is not counted. rank: how urgent it is, 0 the most: the engine
    has threads of its own for each. pause: stands still while something more urgent runs, and says for how many seconds;
    they are not counted. yielding: gives up, inside, what others may need to finish."""

    def __init__(
        self,
        gone: Callable[[], bool],
        seconds: float = math.inf,
        rank: int = 0,
        pause: Callable[[], float] = lambda: 0.0,
        yielding: Callable[[], AbstractContextManager[None]] = nullcontext,
    ) -> None:
        self.gone = gone
        self.seconds = seconds
        self.rank = rank
        self.pause = pause
        self.yielding = yielding
        self.spent: dict[str, float] = {}
        """Seconds that went to each line of a document; all that wait for one thing share it."""
        self._since = math.inf
        self._before: Token[Patience | None] | None = None

    def __enter__(self) -> Self:
        self._since = time.monotonic()
        around = _held.get()
        if around is not None:
            self.spent = around.spent
        self._before = _held.set(self)
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        assert self._before is not None
        _held.reset(self._before)
        self.seconds = self.left()
        self._since = math.inf

    def left(self) -> float:
        """Seconds that are left; less than nothing when it is over."""
        return self.seconds - max(time.monotonic() - self._since, 0.0)

    def ask(self) -> None:
        """Raises CancelledError where nobody waits, TooLongError where the time is over."""
        self.seconds += self.pause()
        if self.gone():
            raise CancelledError("nobody waits for it any more")
        if self.left() < 0:
            error = TooLongError(
                "Took too long and was stopped; the scene is as it was. Switch off the last edit or simplify it."
            )
            error.line = self._dearest()
            raise error

    def _dearest(self) -> str:
        """The line that most of the time went to; "" where none was at work."""
        spent, now = dict(self.spent), time.monotonic()
        for line, since in _doing.get():
            spent[line] = spent.get(line, 0.0) + now - since
        return max(spent, key=lambda line: spent[line], default="")


_doing: ContextVar[tuple[tuple[str, float], ...]] = ContextVar("doing", default=())
"""Whose doing is under way here, and since when: the outermost first."""
_held: ContextVar[Patience | None] = ContextVar("patience", default=None)


def patience() -> Patience | None:
    """The one that holds here."""
    return _held.get()


def rank() -> int:
    """How urgent the work is that is done here."""
    held = _held.get()
    return held.rank if held else 0


class Lockable(Protocol):
    """What is taken like a lock of the standard library."""

    def acquire(self, blocking: bool = True, timeout: float = -1) -> bool:
        """Take it; whether it was."""

    def release(self) -> None:
        """Give it back."""


@contextmanager
def holding(lock: Lockable) -> Iterator[None]:
    """Hold a lock that somebody less urgent may hold, who then goes on. Raises CancelledError where nobody waits."""
    held = _held.get()
    if held is None:
        lock.acquire()
    elif not lock.acquire(blocking=False):
        with held.yielding():
            while not lock.acquire(timeout=0.1):
                if held.gone():
                    raise CancelledError("nobody waits for it any more")
    try:
        yield
    finally:
        lock.release()


@contextmanager
def uncounted() -> Iterator[None]:
    """Inside, something is waited for that has a time limit of its own (decoding): it is not the work's fault."""
    held, start = _held.get(), time.monotonic()
    try:
        yield
    finally:
        if held is not None:
            held.seconds += time.monotonic() - start


def go_on() -> None:
    """Said in long loops, every few milliseconds or so. Raises CancelledError or TooLongError."""
    held = _held.get()
    if held is not None:
        held.ask()


@contextmanager
def doing_of(line: str) -> Iterator[None]:
    """What is refused inside is the doing of a line of the document: its id, or the kind of a Ground line. The innermost
    counts; of what takes too long, the one that took the longest."""
    held, since = _held.get(), time.monotonic()
    before = _doing.set((*_doing.get(), (line, since)) if line else _doing.get())
    try:
        yield
    except SunLatchError as error:
        error.line = error.line or line
        raise
    finally:
        _doing.reset(before)
        if held is not None and line:
            held.spent[line] = held.spent.get(line, 0.0) + time.monotonic() - since
