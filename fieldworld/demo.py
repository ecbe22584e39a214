"""Make the demo outing once into a folder: every frame whole or not at all, two at a time."""

import os
import sys
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, as_completed
from multiprocessing import get_context
from pathlib import Path

from .camera import Shot, develop
from .outing import OUTING
from .seen import Viewpoint
from .truth import write_truth
from .world import Scenery, warm

Told = Callable[[int, int, str], None]
"""Told how many frames are made, of how many, and which came last."""


def _made(shots: list[Shot], folder: Path, truth: bool) -> list[str]:
    """Make shots of one and the same view: the world is looked at once, exposed as often as asked."""
    scenery = Scenery(shots[0].view, shots[0].lens, 1)
    seen = scenery.look()
    for shot in shots:
        develop(shot, seen, scenery, folder / f"{shot.name}.dng")
        if truth:
            write_truth(shot, seen, folder / f"{shot.name}.truth.npz")
    return [shot.name for shot in shots]


def _together(shots: list[Shot]) -> list[list[Shot]]:
    """Shots grouped by what they look at, the largest first so that both hands finish together."""
    groups: dict[tuple[Viewpoint, int, int], list[Shot]] = {}
    for shot in shots:
        groups.setdefault((shot.view, shot.lens.width, shot.lens.height), []).append(shot)
    return sorted(groups.values(), key=lambda g: -g[0].width * g[0].height)


def make(
    folder: Path, shots: list[Shot], told: Told | None = None, truth: bool = False, hands: int = 2
) -> None:
    """Make what is not there yet into a folder."""
    for shot in shots:
        shot.check()
    folder.mkdir(parents=True, exist_ok=True)
    wanted = [s for s in shots if not (folder / f"{s.name}.dng").exists()]
    if not wanted:
        return
    done = len(shots) - len(wanted)
    with ProcessPoolExecutor(hands, mp_context=get_context("spawn")) as pool:
        # compile first, each half in a process of its own; from then on it comes from the cache
        list(pool.map(warm, ("land", "water")))
        jobs = [pool.submit(_made, group, folder, truth) for group in _together(wanted)]
        for job in as_completed(jobs):
            for name in job.result():
                done += 1
                if told is not None:
                    told(done, len(shots), name)


def main() -> None:
    """`python -m fieldworld.demo FOLDER`: the whole outing, with a line that says how far it is."""
    start = time.monotonic()

    def told(done: int, of: int, name: str) -> None:
        line = f"  the coast: {done} of {of} frames, {time.monotonic() - start:.0f} s ({name})"
        print(
            f"\r{line:<70}" if sys.stdout.isatty() else line,
            end="" if sys.stdout.isatty() else "\n",
            flush=True,
        )

    make(Path(sys.argv[1]), OUTING, told, hands=max(1, min(os.cpu_count() or 2, 4)))
    if sys.stdout.isatty():
        print()


if __name__ == "__main__":
    main()
