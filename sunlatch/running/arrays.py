"""Arrays from disk, by many threads at once: NumPy reads a file's header by building a syntax tree, which CPython 3.11 cannot do in
several threads without now and then failing with a SystemError. And arrays that take no room."""

import threading
from pathlib import Path
from typing import Any, Literal

import numpy as np
from numpy.lib.stride_tricks import as_strided
from numpy.typing import NDArray

_HEADERS = threading.Lock()


def load(path: Path, mapped: bool = False) -> NDArray[Any]:
    """An array of a file; mapped: read where it is asked for. Raises FileNotFoundError."""
    mode: Literal["r"] | None = "r" if mapped else None
    with _HEADERS:
        found: NDArray[Any] = np.load(path, mode, allow_pickle=False)
    return found


def evenly(value: float, shape: tuple[int, ...]) -> NDArray[np.float32]:
    """The same value at every place of a shape, which takes no room. Not to be written to."""
    return as_strided(np.full(1, value, np.float32), shape, (0,) * len(shape))
