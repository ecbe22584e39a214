"""What clips: found ends, and a picture that shows which channels print at nothing or at full."""

from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..colour.spaces import DISPLAY_LUMA
from ..geometry import View
from ..render import SCREEN, Development
from ..sensor.kernels import read_stops

F32 = NDArray[np.float32]
WHITE_FROM: Final = 0.9995
BLACK_TO: Final = 0.0005
ENDS_LONG_EDGE: Final = 900


def find_ends(development: Development, share: float) -> tuple[float, float]:
    """(black, white) in stops such that a share (0–1) of the developed picture lies beyond each."""
    rgb = development.light_planes(development.geometry.fit(ENDS_LONG_EDGE))
    stops = np.empty(rgb.shape[1:], np.float32)
    read_stops(rgb, np.array([0.2627, 0.6780, 0.0593], np.float32), stops)
    # white by the fullest channel, black by the emptiest light: what would clip first
    top = np.log2(np.maximum(rgb.max(0), 1e-5) / 0.18)
    white = float(np.quantile(top, 1 - share))
    black = float(np.quantile(stops, share))
    return float(np.clip(round(black, 1), -14, -1)), float(np.clip(round(white, 1), 0.5, 12))


def limits_picture(development: Development, view: View) -> NDArray[np.uint8]:
    """A view (h, w, 3) in 8 bits: grey and flat where nothing clips; where channels print at full, light
    in those channels; where they print at nothing, dark in those."""
    out = np.empty((view.size[1], view.size[0], 3), np.uint8)

    def take(band: F32, r: int, e: int) -> None:
        full, none = band >= WHITE_FROM, band <= BLACK_TO
        y = np.tensordot(DISPLAY_LUMA, band, 1)
        flat = 96 + 64 * np.sqrt(np.clip(y, 0, 1))
        shown = np.broadcast_to(flat, band.shape).copy()
        some = full.any(0)
        shown[:, some] = np.where(full[:, some], 255, 70)
        some = none.any(0) & ~some  # saturated colour may do both; the full channel is the one that is lost
        shown[:, some] = np.where(none[:, some], 0, 150)
        out[r:e] = shown.transpose(1, 2, 0).astype(np.uint8)

    development.display(view, SCREEN, take, keep=False)
    return out
