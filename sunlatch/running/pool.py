"""The thread pool that bands are rendered on."""

import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextvars import copy_context
from typing import ParamSpec, TypeVar

P = ParamSpec("P")
T = TypeVar("T")
_here = threading.local()


def in_pool() -> bool:
    """Whether this is a thread of a pool."""
    return getattr(_here, "pool", False)


class ThreadPool(ThreadPoolExecutor):
    """Work given to it from one of a pool's threads is done there and at once: none of them waits for another."""

    def __init__(self, threads: int) -> None:
        super().__init__(threads, "bands", initializer=lambda: setattr(_here, "pool", True))

    def submit(self, work: Callable[P, T], /, *args: P.args, **named: P.kwargs) -> Future[T]:
        """As every executor does."""
        if not in_pool():
            # what holds here, our patience above all, holds there too
            here = copy_context()
            return super().submit(lambda: here.run(work, *args, **named))
        done: Future[T] = Future()
        try:
            done.set_result(work(*args, **named))
        except BaseException as error:
            done.set_exception(error)
        return done
