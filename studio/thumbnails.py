"""Thumbnails of frames, JPEG, kept on disk: made when a frame arrives, and read from then on, whatever became of its pyramid."""

import logging
import os
from contextlib import suppress
from pathlib import Path
from typing import Final

from django.conf import settings

from sunlatch.frame import Raster
from sunlatch.frame.store import shelf_name
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import Source
from sunlatch.render import picture_8

from . import services
from .encoding import encode_jpeg

log = logging.getLogger(__name__)
KEPT: Final = (160, 480)
"""Long edges, px, that are kept; others are made when they are asked for."""
TABLE: Final = 480
"""The long edge on Gather's table, px."""


def thumbnail(sha256: str, path: Path, long: int = TABLE) -> bytes:
    """A picture of a frame as it came, long px at most. path: the frame's file. Raises FrameError."""
    if long in KEPT:
        with suppress(OSError):
            return _home(sha256, long).read_bytes()
    return made_of(sha256, services.store().first_look(sha256, path)[1], long)


def made_of(sha256: str, raster: Raster, long: int = TABLE) -> bytes:
    """The same, of the frame's light."""
    bare = services.engine().develop(Document(sources=[Source(sha256=sha256)]), raster)
    data = encode_jpeg(picture_8(bare, bare.geometry.fit(long), full=False), 88)
    if long in KEPT:
        _keep(_home(sha256, long), data)
    return data


def forget(sha256: str) -> None:
    """Drop what is kept of a frame; it can be made again from its file."""
    for path in Path(settings.THUMBNAIL_FOLDER).glob(f"{sha256[:2]}/{sha256[:32]}-*"):
        path.unlink(missing_ok=True)


def _home(sha256: str, long: int) -> Path:
    return Path(settings.THUMBNAIL_FOLDER) / sha256[:2] / f"{shelf_name(sha256)}-{long}.jpg"


def _keep(home: Path, data: bytes) -> None:
    """Where it cannot be written, it is made again the next time."""
    part = home.with_name(f"{home.name}.part{os.urandom(6).hex()}")
    try:
        home.parent.mkdir(parents=True, exist_ok=True)
        part.write_bytes(data)
        part.replace(home)
    except OSError as error:
        log.info("a thumbnail was not kept: %s", error)
        with suppress(OSError):
            part.unlink()
