"""What a file says of itself: when and how it was taken, by whom, where; read and written by the exiv2 library."""

import io
import unicodedata
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import numpy as np
import pyexiv2
from PIL import Image

from ..errors import ExportError

CARRIED: Final = (
    "Exif.Image.Make", "Exif.Image.Model", "Exif.Photo.DateTimeOriginal", "Exif.Photo.OffsetTimeOriginal",
    "Exif.Photo.SubSecTimeOriginal", "Exif.Photo.ExposureTime", "Exif.Photo.FNumber", "Exif.Photo.ISOSpeedRatings",
    "Exif.Photo.FocalLength", "Exif.Photo.FocalLengthIn35mmFilm", "Exif.Photo.LensModel", "Exif.Photo.LensMake",
)  # fmt: skip
"""What goes on from a frame."""
PLACE: Final = "Exif.GPSInfo."
LONGEST: Final = 2000
"""Letters of a caption."""


@dataclass(frozen=True)
class About:
    """What is said in a file. frame: whose exposure it tells, if any; place: where it was taken, too. Raises ExportError for
    words that are none."""

    frame: Path | None = None
    caption: str = ""
    author: str = ""
    rights: str = ""
    place: bool = False

    def __post_init__(self) -> None:
        for name, words in (("caption", self.caption), ("author", self.author), ("copyright", self.rights)):
            if len(words) > LONGEST:
                raise ExportError(f"the {name} has {len(words)} letters; a file holds {LONGEST}")
            if any(unicodedata.category(c) in ("Cc", "Cs") and c not in "\n\t" for c in words):
                raise ExportError(f"the {name} holds control characters; take them out")

    def tags(self) -> dict[str, str]:
        """Exif tags that are written."""
        found = _read(self.frame) if self.frame is not None else {}
        tags: dict[str, str] = {str(name): found[name] for name in CARRIED if name in found}
        if self.place:
            tags |= {name: value for name, value in found.items() if name.startswith(PLACE)}
        tags["Exif.Image.Software"] = "Sun Latch"
        for name, words in (
            ("Exif.Image.ImageDescription", self.caption), ("Exif.Image.Artist", self.author), ("Exif.Image.Copyright", self.rights),
        ):  # fmt: skip
            if words:
                tags[name] = words
        return tags

    def lines(self) -> list[str]:
        """The same as it is told before a file is made."""
        tags = self.tags()
        lines = [words for name, words in _in_words(tags) if words]
        placed = self.frame is not None and any(n.startswith(PLACE) for n in _read(self.frame))
        if placed:
            lines.append("Place: kept" if self.place else "Place: left out")
        else:
            lines.append("Place: the frame says none")
        return lines

    def words(self) -> dict[str, str]:
        """What is said in words, by Dublin Core's names."""
        named = {"dc:description": self.caption, "dc:creator": self.author, "dc:rights": self.rights}
        return {name: words for name, words in named.items() if words}


def _in_words(tags: dict[str, str]) -> list[tuple[str, str]]:
    camera = " ".join(tags[n] for n in ("Exif.Image.Make", "Exif.Image.Model") if n in tags)
    exposure = []
    if "Exif.Photo.ExposureTime" in tags:
        exposure.append(f"{tags['Exif.Photo.ExposureTime']} s")
    if "Exif.Photo.FNumber" in tags:
        exposure.append(f"f/{_number(tags['Exif.Photo.FNumber']):g}")
    if "Exif.Photo.ISOSpeedRatings" in tags:
        exposure.append(f"ISO {tags['Exif.Photo.ISOSpeedRatings']}")
    if "Exif.Photo.FocalLength" in tags:
        exposure.append(f"{_number(tags['Exif.Photo.FocalLength']):g} mm")
    date = tags.get("Exif.Photo.DateTimeOriginal", "")
    return [
        ("date", f"Taken: {date.replace(':', '-', 2)}" if date else ""),
        ("exposure", f"Exposure: {', '.join(exposure)}" if exposure else ""),
        ("camera", f"Camera: {camera}" if camera else ""),
        ("lens", f"Lens: {tags['Exif.Photo.LensModel']}" if "Exif.Photo.LensModel" in tags else ""),
        (
            "caption",
            f"Caption: {tags['Exif.Image.ImageDescription']}"
            if "Exif.Image.ImageDescription" in tags
            else "",
        ),
        ("author", f"Author: {tags['Exif.Image.Artist']}" if "Exif.Image.Artist" in tags else ""),
        ("rights", f"Copyright: {tags['Exif.Image.Copyright']}" if "Exif.Image.Copyright" in tags else ""),
    ]


def _number(fraction: str) -> float:
    above, _, below = fraction.partition("/")
    return float(above) / float(below or 1)


def _read(frame: Path) -> dict[str, str]:
    """Exif of a frame; nothing where it cannot be read."""
    try:
        image = pyexiv2.Image(str(frame))
        try:
            return {str(k): str(v) for k, v in image.read_exif().items()}
        finally:
            image.close()
    except (RuntimeError, UnicodeError):
        return {}


def write(path: Path, about: About) -> None:
    """Into a finished TIFF, PNG, JPEG or WebP. Raises OSError where it cannot be written."""
    try:
        image = pyexiv2.Image(str(path))
        try:
            image.modify_exif(about.tags())
            words = about.words()
            if words:
                image.modify_xmp({f"Xmp.{name.replace(':', '.')}": text for name, text in words.items()})
        finally:
            image.close()
    except RuntimeError as error:
        raise OSError(f"its description could not be written ({error})") from error


def exif(about: About) -> bytes:
    """The same as bytes, for kinds that take them when they are written."""
    made = io.BytesIO()
    Image.fromarray(np.zeros((8, 8, 3), np.uint8)).save(made, "JPEG")
    with pyexiv2.ImageData(made.getvalue()) as image:
        image.modify_exif(about.tags())
        made = io.BytesIO(image.get_bytes())
    with Image.open(made) as read:
        return bytes(read.info.get("exif", b""))
