"""What our decoder does to white noise, scale by scale: the tables of sunlatch/sensor/noise.py.

`python -m bench.noise_scales` exposes a flat grey with the field camera's noise, decodes it, splits it
as Noise does, and prints each scale's spread over that of the same mixture of independent channels.
"""

import tempfile
from pathlib import Path

import numpy as np

from fieldworld.camera import BLACK, MATRIX_D65, WHITE, as_shot_neutral
from fieldworld.dng import write_dng
from sunlatch.frame import FrameStore, hash_file
from sunlatch.sensor.noise import WEIGHTS, NoiseModel, _blur


def shares(size: int = 1536) -> tuple[list[float], list[float]]:
    """Light's and colour's tables, as measured."""
    rng = np.random.default_rng(5)
    neutral = as_shot_neutral()
    white = neutral / neutral.max()
    grey = 0.25
    filters = np.array([[0, 1], [1, 2]])
    mean = np.tile((white * grey)[filters], (size // 2, size // 2))
    spread = 0.01
    mosaic = (mean + rng.standard_normal(mean.shape) * spread) * (WHITE - BLACK) + BLACK
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "flat.dng"
        write_dng(
            path, np.rint(mosaic).astype(np.uint16), maker="Ammerlin Works", model="Field One", black=BLACK,
            white=WHITE, matrices=[(21, MATRIX_D65)], neutral=neutral, noise_profile=(0.0, spread**2),
            orientation=1, taken="2026:10:03 10:00:00", exposure_s=0.01, f_number=8, iso=100, focal_mm=24,
            lens="",
        )  # fmt: skip
        store = FrameStore(Path(folder) / "pyramids")
        pyramid = store.whole(hash_file(path), path)
        store.decoder.close()
        picture = np.asarray(pyramid.levels[0], np.float32)[32:-32, 32:-32].transpose(2, 0, 1)
    balanced = picture / white[:, None, None].astype(np.float32)
    model = NoiseModel(0.0, spread**2, tuple(float(v) for v in white))
    tables = []
    for weights in (WEIGHTS, np.array([1, -1, 0])):
        plane = np.ascontiguousarray(np.tensordot(weights.astype(np.float32), balanced, 1))
        unit = np.sqrt(model.mixed(weights)[1])
        out = []
        for n in range(8):
            low = np.empty_like(plane)
            _blur(plane, 1 << n, low)
            out.append(float((plane - low)[200:-200, 200:-200].std() / unit))
            plane = low
        tables.append(out)
    return tables[0], tables[1]


if __name__ == "__main__":
    for name, table in zip(("light", "colour"), shares(), strict=True):
        print(name, [round(v, 4) for v in table])
