"""The way to the proof press: a device outside, asked as a process that answers with a line of JSON."""

import json
import os
import shlex
import subprocess
import sys
from pathlib import Path
from typing import Any, Final

from ..errors import ExportError

PRESS: Final = "SUNLATCH_PRESS"
"""How the press is reached; the one that ships with us unless somebody names another."""


def ask_press(*words: str) -> Any:
    """Have the press do something; what it says. Raises ExportError in its words."""
    way = shlex.split(os.environ.get(PRESS, "")) or [sys.executable, "-m", "fieldworld.press"]
    try:
        done = subprocess.run([*way, *words], capture_output=True, text=True, check=False)
    except OSError as error:
        raise ExportError(f"the proof press cannot be reached ({error.strerror})") from error
    if done.returncode:
        printed = done.stderr.strip().splitlines()
        raise ExportError(printed[-1] if printed else "the proof press stopped")
    return json.loads(done.stdout)


def press_papers() -> list[dict[str, str]]:
    """Its papers: {"name", "label", "surface"}. Raises ExportError."""
    papers: list[dict[str, str]] = ask_press("papers")
    return papers


def press_profile(paper: str, beside: Path) -> bytes:
    """The profile of one of its papers. beside: a folder to hand it over in. Raises ExportError."""
    beside.mkdir(parents=True, exist_ok=True)
    out = beside / f".{paper if paper.isalnum() else 'paper'}.{os.getpid()}.icc"
    try:
        ask_press("profile", paper, str(out))
        return out.read_bytes()
    finally:
        out.unlink(missing_ok=True)
