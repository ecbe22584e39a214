"""The kinds of file there are, and what each can hold."""

from dataclasses import dataclass
from pathlib import Path
from typing import Final

from ..errors import ExportError
from ..render import Output


@dataclass(frozen=True)
class Kind:
    """bits: of a channel; channels: numbers of a px; longest: px of a side at most; spaces: those it is written in, where not in
    any."""

    label: str
    bits: tuple[int, ...]
    channels: tuple[int, ...] = (1, 3)
    longest: int = 300_000
    spaces: tuple[str, ...] = ()


_TIFF: Final = Kind("TIFF", (8, 16, 32), (1, 3, 4))
_JPEG: Final = Kind(
    "JPEG", (8,), longest=65_500
)  # ITU-T T.81 leaves 16 bits for a side, its library a little less
KINDS: Final = {
    ".tif": _TIFF,
    ".tiff": _TIFF,
    ".png": Kind("PNG", (8, 16)),
    ".jpg": _JPEG,
    ".jpeg": _JPEG,
    ".jxl": Kind("JPEG XL", (8,), spaces=("srgb", "grey")),
    ".webp": Kind("WebP", (8,), (3,), 16_383),
    ".exr": Kind("OpenEXR", (32,), (3,), spaces=("linear",)),
    ".pdf": Kind("PDF", (8, 16), (1, 3, 4)),
}
"""By the file's ending."""
FORMATS: Final = {ending: kind.bits for ending, kind in KINDS.items()}
"""Endings we write, and the bits each can hold."""


def kind_of(path: Path) -> Kind:
    """By its ending. Raises ExportError."""
    ending = path.suffix.lower()
    if ending not in KINDS:
        known = ", ".join(KINDS)
        raise ExportError(
            f"{path.name}: files ending in {ending or 'nothing'} are not written here; use one of {known}"
        )
    return KINDS[ending]


def bits_for(path: Path, bits: int | None = None) -> int:
    """The bits of a channel in a file, by its ending; those asked for where it can hold them. Raises ExportError."""
    held = kind_of(path).bits
    if bits is None:
        return 16 if 16 in held else held[-1]
    if bits not in held:
        can = " or ".join(str(b) for b in held)
        raise ExportError(f"{path.name}: a {path.suffix.lower()} file holds {can} bits, not {bits}")
    return bits


def check(path: Path, output: Output, size: tuple[int, int]) -> None:
    """Raises ExportError where a kind of file cannot hold what is asked."""
    kind = kind_of(path)
    bits_for(path, output.bits)
    if output.channels not in kind.channels:
        asked = {1: "grey alone", 3: "three colours", 4: "four inks"}[output.channels]
        use = "; use .tif or .pdf" if output.channels == 4 else "; use .tif"
        raise ExportError(f"{path.name}: a {kind.label} file does not hold {asked}{use}")
    if kind.spaces and (output.printing is not None or output.space not in kind.spaces):
        raise ExportError(
            f"{path.name}: {kind.label} is written in {' or '.join(kind.spaces)} here, not in a paper's or another space"
        )
    if max(size) > kind.longest:
        raise ExportError(f"a {kind.label} holds {kind.longest} px a side at most; use .tif or .png")
