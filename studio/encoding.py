"""Pictures for the screen, encoded: uint8, RGB (h, w, 3) or grey (h, w)."""

from typing import Any

import cv2

from sunlatch.errors import FrameError


def encode_jpeg(picture: Any, quality: int) -> bytes:
    """RGB to JPEG without chroma subsampling. Raises FrameError."""
    parameters = [cv2.IMWRITE_JPEG_QUALITY, quality, cv2.IMWRITE_JPEG_SAMPLING_FACTOR, 0x111111]
    ok, data = cv2.imencode(".jpg", cv2.cvtColor(picture, cv2.COLOR_RGB2BGR), parameters)
    if not ok:
        raise FrameError("the preview could not be encoded")
    return bytes(data)


def encode_png(picture: Any) -> bytes:
    """Grey or RGB to PNG, quickly rather than small: each px told by what is left of it, which takes little more than half of
    the time that trying every filter takes, and no more room."""
    shown = picture if picture.ndim == 2 else picture[..., ::-1]
    parameters = [cv2.IMWRITE_PNG_COMPRESSION, 1, cv2.IMWRITE_PNG_FILTER, cv2.IMWRITE_PNG_FILTER_SUB]
    return bytes(cv2.imencode(".png", shown, parameters)[1])
