"""The demo outing: which shots there are, and making them once into a folder."""

import sys
import time
from pathlib import Path

from .camera import Shot, shoot
from .coast import Viewpoint

OUTING = [Shot("stack-backlit", Viewpoint())]


def main() -> None:
    """`python -m fieldworld.demo FOLDER`: make what is not there yet."""
    folder = Path(sys.argv[1])
    folder.mkdir(parents=True, exist_ok=True)
    for n, shot in enumerate(OUTING, 1):
        path = folder / f"{shot.name}.dng"
        if path.exists():
            continue
        print(f"  making frame {n} of {len(OUTING)}: {shot.name} …", end="", flush=True)
        start = time.monotonic()
        shoot(shot, path)
        print(f" {time.monotonic() - start:.0f} s")


if __name__ == "__main__":
    main()
