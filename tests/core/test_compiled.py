"""Kernels: compiled once, read from the disk after that, without what only compiling needs."""

import subprocess
import sys

import pytest

KERNEL = '''
import sys
import numpy as np
from sunlatch.compiled import kernel

@kernel("void(float64[::1], float64[::1])")
def doubled(given, out):
    """Twice as much."""
    held = np.empty(given.size)
    for i in range(given.size):
        held[i] = 2.0 * given[i]
    for i in range(given.size):
        out[i] = held[i]

if __name__ == "__main__":
    out = np.empty(3)
    doubled(np.arange(3.0), out)
    print(out.tolist(), "numba.np.npyimpl" in sys.modules)
    try:
        doubled(np.arange(3), out)
    except TypeError:
        print("TypeError")
'''


def _run(path):
    done = subprocess.run(
        [sys.executable, str(path)], capture_output=True, text=True, check=True, timeout=300
    )
    return done.stdout.splitlines()


@pytest.fixture
def kept(tmp_path):
    """A kernel of its own, called twice by two processes; what each of them said."""
    path = tmp_path / "of_its_own.py"
    path.write_text(KERNEL)
    return path, _run(path), _run(path)


def test_a_kernel_is_compiled_once_and_read_without_the_compiler_after_that(kept):
    _, first, again = kept
    assert first == ["[0.0, 2.0, 4.0] True", "TypeError"]
    assert again == ["[0.0, 2.0, 4.0] False", "TypeError"]


def test_a_kernel_that_was_written_anew_is_compiled_anew(kept):
    path, _, _ = kept
    path.write_text(KERNEL.replace("2.0 * given", "3.0 * given"))
    assert _run(path)[0] == "[0.0, 3.0, 6.0] True"
    assert _run(path)[0] == "[0.0, 3.0, 6.0] False"


def test_what_is_kept_and_cannot_be_read_is_compiled_anew(kept):
    path, _, _ = kept
    for spoiled in (path.parent / "__pycache__").glob("*.nbc"):
        spoiled.write_bytes(spoiled.read_bytes()[:50])
    assert _run(path)[0] == "[0.0, 2.0, 4.0] True"
