"""Work done a little ahead of whoever takes it, in order."""

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future
from typing import Final, TypeVar

Given = TypeVar("Given")
Made = TypeVar("Made")
AHEAD: Final = 3
"""So many are under way or lie ready: no more has to be held."""


def ahead(work: Callable[[Given], Made], over: Iterable[Given], pool: Executor | None) -> Iterator[Made]:
    """What is made of each, in order, on the threads of a pool; one after the other without one."""
    if pool is None:
        yield from map(work, over)
        return
    waiting: deque[Future[Made]] = deque()
    try:
        for one in over:
            waiting.append(pool.submit(work, one))
            if len(waiting) >= AHEAD:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()
    finally:
        for left in waiting:
            left.cancel()
