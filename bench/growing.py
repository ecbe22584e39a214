"""One export of a frame tiled to a width, timed; prints seconds, peak anonymous memory in GB, and MP.

`python -m bench.growing WIDTH FRAME PYRAMIDS`: a 24-megapixel frame, halved, as it is, or four times over.
"""

import sys
import tempfile
import threading
import time
from pathlib import Path

import numpy as np

from bench.__main__ import rendered, scene_of_twelve
from sunlatch.frame import FrameStore, Pyramid, hash_file
from sunlatch.frame.pyramid import in_bands, write_pyramid

GROUND = {
    "lens": {"known": "database"}, "noise": {"light": 1.0, "colour": 1.0}, "crispness": {"amount": 0.7},
}  # fmt: skip


def anonymous_gb() -> float:
    """This process's anonymous memory now: what is not backed by a file."""
    with open("/proc/self/smaps_rollup") as file:
        for line in file:
            if line.startswith("Anonymous:"):
                return int(line.split()[1]) / 1e6
    return 0.0


def frame_of(width: int, folder: Path) -> Pyramid:
    """A pyramid of the demo frame at about this width."""
    path = Path(sys.argv[2])
    store = FrameStore(Path(sys.argv[3]))
    pyramid = store.whole(hash_file(path), path)
    store.decoder.close()
    if width == pyramid.info.width:
        return pyramid
    info = pyramid.info
    if width < info.width:
        pixels = np.array(pyramid.levels[1])
    else:
        pixels = np.tile(np.asarray(pyramid.levels[0]), (2, 2, 1))
    info = info.model_copy(update={"width": pixels.shape[1], "height": pixels.shape[0]})
    write_pyramid(folder / "whole", info, pixels.shape[:2], in_bands(pixels))
    return Pyramid.open(folder / "whole", f"bench-{width}")


def main() -> None:
    """Render twice (the first time compiles), watch memory the second time."""
    with tempfile.TemporaryDirectory() as folder:
        pyramid = frame_of(int(sys.argv[1]), Path(folder))
        scene = scene_of_twelve("0" * 64, "exposure", **GROUND)
        small = frame_of(3000, Path(folder) / "warm") if int(sys.argv[1]) > 6000 else pyramid
        rendered(scene, small)
        start_gb, peak, done = anonymous_gb(), [0.0], threading.Event()

        def watch() -> None:
            while not done.wait(0.02):
                peak[0] = max(peak[0], anonymous_gb())

        watcher = threading.Thread(target=watch)
        watcher.start()
        start = time.perf_counter()
        rendered(scene, pyramid)
        seconds = time.perf_counter() - start
        done.set()
        watcher.join()
    print(seconds, peak[0] - start_gb, pyramid.info.width * pyramid.info.height / 1e6)


if __name__ == "__main__":
    main()
