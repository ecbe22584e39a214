"""The decoding child: reads requests as JSON lines, writes pyramids, answers as JSON lines.

Started fresh (never forked) with limits on memory and on the size of what it may write, because
the libraries that read foreign files can crash on hostile ones. Nothing else runs in here.
"""

import json
import os
import resource
import sys
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from ..errors import FrameError

MEMORY_LIMIT = int(os.environ.get("SUNLATCH_DECODER_MEMORY", 2560 << 20))
"""Bytes that decoding may hold; what is mapped beside it (libraries, files) may be as much again and more."""


def _answer(**message: Any) -> None:
    sys.stdout.write(json.dumps(message) + "\n")
    sys.stdout.flush()


def _magic(path: Path) -> str:
    with path.open("rb") as file:
        head = file.read(16)
    if not head:
        raise FrameError("it is empty (0 bytes)")
    if head.startswith((b"\xff\xd8\xff", b"\x89PNG\r\n\x1a\n")):
        return "plain"
    if head[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
        return "tiff"
    return "raw"


def _check_strips(path: Path) -> None:
    """Refuse a TIFF-like file whose picture data lie beyond its end (LibRaw would fill in grey)."""
    import tifffile

    size = path.stat().st_size
    try:
        with tifffile.TiffFile(path) as tif:
            page: Any = tif.pages[0]
            pages = [page, *(page.pages or [])]
            ends = [o + c for p in pages for o, c in zip(p.dataoffsets, p.databytecounts, strict=False)]
    except Exception as error:
        raise FrameError(f"its TIFF structure is damaged ({error})") from error
    if any(end > size for end in ends):
        missing = max(ends) - size
        raise FrameError(f"it is cut short: {missing:,} bytes of picture data are missing")


def _decode(path: Path, out: Path, stages: list[str]) -> None:
    from .pyramid import in_bands, write_pyramid
    from .raw import RawFile
    from .rendered import read_rendered

    kind = _magic(path)
    raw: RawFile | None = None
    if kind in ("tiff", "raw"):
        if kind == "tiff":
            _check_strips(path)
        try:
            raw = RawFile(path)
        except FrameError as error:
            if kind == "raw" or "claims" in str(error):
                raise
    if raw is None:
        info, bands = read_rendered(path, kind == "tiff")
        info.check()
        _answer(stage="facts", info=info.model_dump(mode="json"))
        if "whole" in stages:
            write_pyramid(out / "whole", info, (info.height, info.width), bands)
        _answer(stage="whole")
        return
    raw.info.check()
    _answer(stage="facts", info=raw.info.model_dump(mode="json"))
    if "first" in stages:
        pixels = raw.first_pixels()
        height, width = pixels.shape[:2]
        write_pyramid(out / "first", raw.info, (height, width), in_bands(pixels), first_level=1)
        _answer(stage="first")
        if raw.spent:
            raw = RawFile(path)
    if "whole" in stages:
        clipped = raw.clipped()
        size = (raw.info.height, raw.info.width)
        write_pyramid(out / "whole", raw.info, size, raw.bands(), lambda: clipped)
        _answer(stage="whole")


def main() -> None:
    """Serve requests {"path", "out", "stages"} until standard input closes."""
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY_LIMIT, MEMORY_LIMIT))
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_LIMIT + (4 << 30), MEMORY_LIMIT + (4 << 30)))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    from . import pyramid, raw, rendered  # noqa: F401  (warm before the first request)

    # LibRaw prints to standard output when it meets damage; keep that out of the answers
    answers = os.dup(1)
    os.dup2(2, 1)
    sys.stdout = os.fdopen(answers, "w")
    _answer(stage="ready")
    for line in sys.stdin:
        request = json.loads(line)
        try:
            _decode(Path(request["path"]), Path(request["out"]), request["stages"])
            _answer(stage="done")
        except FrameError as error:
            _answer(error=str(error))
        except ValidationError:
            _answer(error="what it says of itself cannot be")
        except MemoryError:
            _answer(error="it needs more memory than a frame is allowed")
        except OSError as error:
            _answer(error=f"it could not be read ({error.strerror or error})")
        except Exception as error:
            _answer(error=f"its contents are damaged ({type(error).__name__}: {error})")


if __name__ == "__main__":
    main()
