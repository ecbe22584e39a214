"""Compiling for speed. A kernel is called from Python and is compiled for one signature, when it is first
called or by `warm`, whichever comes first; a part is called from kernels and is compiled with them.

What is compiled is kept on disk (Numba's cache): a machine compiles once.
"""

import hashlib
import platform
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

import llvmlite.binding
import numba
from numba import njit
from numba.core.caching import FunctionCache
from numba.core.runtime import rtsys

FAST = {"nsz", "arcp", "contract", "afn", "reassoc"}
"""What kernels may take for granted: that sums and products may be taken in any order, but not that there is no NaN
or infinity. A compiler told so drops the very clamps that keep a look-up inside its table."""
_OPTIONS: dict[str, Any] = {"nogil": True, "cache": True, "fastmath": FAST, "error_model": "numpy"}
_EVERY: list["Compiled"] = []
_ONE_AT_A_TIME = threading.Lock()


class _Kept(FunctionCache):  # type: ignore[misc]
    """What was compiled of a kernel, on disk. To run it, nothing is needed of what compiling would need: Numba reads all that
    first, which takes two thirds of a second. Where nothing is kept, or it is spoiled, the compiler reads it itself."""

    def load_overload(self, sig: Any, target_context: Any) -> Any:
        rtsys.initialize(target_context)
        try:
            return self._load_overload(sig, target_context)
        except Exception:
            return None


class Compiled:
    """A kernel. Arguments that do not fit its signature raise TypeError; nothing is compiled for them."""

    def __init__(self, function: Callable[..., Any], signature: str, options: dict[str, Any]) -> None:
        self._dispatcher = njit(**options)(function)
        self._dispatcher._cache = _Kept(function)
        self._signature = signature
        self._ready = False
        self.__doc__ = function.__doc__
        _EVERY.append(self)

    def compile(self) -> None:
        """Compile, or read what was compiled before; done once."""
        with _ONE_AT_A_TIME:
            if not self._ready:
                self._dispatcher.compile(self._signature)
                self._dispatcher.disable_compile()
                self._ready = True

    def __call__(self, *arguments: Any) -> Any:
        if not self._ready:
            self.compile()
        return self._dispatcher(*arguments)


def kernel(signature: str, **options: Any) -> Callable[[Callable[..., Any]], Compiled]:
    """A function of arrays, called from Python: `signature` as Numba writes it, and what differs from our options
    (no lock held, kept on disk, `FAST` mathematics, division as NumPy does it). A clamp is written
    min(max(low, x), high): in that order it gives `low` where x is no number."""
    return lambda function: Compiled(function, signature, _OPTIONS | options)


def part(function: Callable[..., Any]) -> Callable[..., Any]:
    """A function that kernels call."""
    return njit(**_OPTIONS)(function)  # type: ignore[no-any-return]


def inlined(function: Callable[..., Any]) -> Callable[..., Any]:
    """A small part, written out where it is called so that loops around it run in vector registers."""
    return njit(**_OPTIONS, inline="always")(function)  # type: ignore[no-any-return]


def warm() -> None:
    """Compile every kernel declared so far that is not compiled yet."""
    for compiled in list(_EVERY):
        compiled.compile()


def warmed() -> Path:
    """A note on disk that everything was compiled, as the core stands now on this machine: beside what was compiled, and
    named by all it depends on."""
    here = Path(__file__).parent
    parts = [numba.__version__, llvmlite.binding.get_host_cpu_name(), platform.python_version()]
    for path in sorted(here.rglob("*.py")):
        stat = path.stat()
        parts.append(f"{path.relative_to(here)} {stat.st_size} {stat.st_mtime_ns}")
    return here / "__pycache__" / f"warmed-{hashlib.sha256(repr(parts).encode()).hexdigest()[:16]}.nbi"
