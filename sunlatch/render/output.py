"""What a picture is made for: a screen, a file, paper, or a screen that shows what paper will. Whoever renders is given one of
these; targets differ in nothing else."""

from dataclasses import dataclass, field
from functools import cache, cached_property, lru_cache
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from ..colour import LUMA, OUTPUT_SPACES, output_profile
from ..colour.printing import MISSED, Printing, screen_table
from ..colour.tones import Tone, render_coefficients
from ..errors import ExportError
from ..sensor.kernels import bytes_table, encode_8, encode_16, encode_table, proof_8, through_table
from .sharpening import Sharpness

F32 = NDArray[np.float32]
_KINDS: Final = {8: np.uint8, 16: np.uint16, 32: np.float32}

_bytes = cache(bytes_table)
_table = cache(encode_table)


@dataclass(frozen=True)
class Output:
    """space: of OUTPUT_SPACES; "linear" is scene light, unrendered. bits: 8 or 16, or 32 for floats. printing: the way to a
    paper's own numbers, from the widest space. sharpness: for paper.

    Raises ExportError for a space or bits there are not.
    """

    space: str = "srgb"
    bits: int = 8
    printing: Printing | None = None
    sharpness: Sharpness | None = None

    def __post_init__(self) -> None:
        if self.space not in OUTPUT_SPACES:
            raise ExportError(
                f"there is no colour space {self.space!r}; known are {', '.join(OUTPUT_SPACES)}"
            )
        if self.bits not in _KINDS:
            raise ExportError(f"there are 8, 16 or 32 bits, not {self.bits}")
        if self.printing is not None and self.bits == 32:
            raise ExportError("a file for a paper has 8 or 16 bits")
        if self.printing is not None:
            object.__setattr__(self, "space", "rec2020")

    @property
    def renders(self) -> bool:
        """False for scene light as it is."""
        return self.space != "linear"

    @property
    def dtype(self) -> Any:
        """What its px are made of."""
        return _KINDS[self.bits]

    @property
    def channels(self) -> int:
        """How many numbers a px has."""
        if self.printing is not None:
            return self.printing.profile.channels
        return 1 if self.space == "grey" else 3

    @property
    def gathers(self) -> bool:
        """Whether px are made of many rows at a time: what is sharpened looks around itself, and a paper's numbers are not
        made a few at a time."""
        return self.sharpness is not None or self.printing is not None

    @cached_property
    def profile(self) -> bytes:
        """The ICC profile that says what its numbers mean."""
        return self.printing.profile.data if self.printing is not None else output_profile(self.space)

    @cached_property
    def white(self) -> NDArray[Any]:
        """A px (channels,) of bare paper, or of white."""
        out = np.empty((1, 1, self.channels), self.dtype)
        self.encode(np.ones((3, 1, 1), np.float32), out)
        return np.asarray(out[0, 0])

    def coefficients(self, tone: Tone) -> F32:
        """How Rendering draws light into its gamut, for `render_tones`."""
        return render_coefficients(tone, self.space)

    def encode(self, light: F32, out: NDArray[Any]) -> None:
        """Display light (3, rows, w) into its px (rows, w, channels); what it cannot hold is cut."""
        if self.printing is not None:
            held = np.clip(light, 0, 1).transpose(1, 2, 0)
            codes = self.printing.codes(np.ascontiguousarray(held), quick=True)
            out[:] = codes if self.bits == 16 else (codes.astype(np.uint32) * 255 + 32767) // 65535
        elif self.space == "grey":
            y = np.clip(np.tensordot(LUMA.astype(np.float32), light, 1), 0, 1)
            table = _table("srgb")
            coded = np.interp(y, np.linspace(0, 1, table.size), table)
            most = 1 if self.bits == 32 else np.iinfo(self.dtype).max
            out[..., 0] = coded if self.bits == 32 else np.rint(coded * most)
        elif self.renders and self.bits == 8:
            encode_8(light, _bytes(self.space), out)
        elif self.renders and self.bits == 16:
            encode_16(light, _table(self.space), out)
        elif self.renders:
            table = _table(self.space)
            held = np.clip(light, 0, 1)
            out[:] = np.interp(held, np.linspace(0, 1, table.size), table).transpose(1, 2, 0)
        elif self.bits == 32:
            out[:] = light.transpose(1, 2, 0)
        else:
            out[:] = (np.clip(light, 0, 1) * np.iinfo(self.dtype).max + 0.5).transpose(1, 2, 0)


WORST: Final = 12.0
"""From so much on it is marked in full."""


@dataclass(frozen=True)
class Proof(Output):
    """A screen that shows what will be seen on paper: `printing` by its table. paper_white, ink_black: as they are on paper,
    else the screen's own. missed: what the paper cannot hold is marked, the rest is grey."""

    paper_white: bool = field(default=True, kw_only=True)
    ink_black: bool = field(default=True, kw_only=True)
    missed: bool = field(default=False, kw_only=True)

    @property
    def channels(self) -> int:
        """As the screen has."""
        return 3

    @cached_property
    def profile(self) -> bytes:
        """The screen's."""
        return output_profile("srgb")

    def through(self, light: F32) -> F32:
        """Display light (3, rows, w) as it will look, coded for the screen, and what of it is missed in ΔE2000 (rows, w, 4)."""
        assert self.printing is not None
        seen = np.empty((*light.shape[1:], 4), np.float32)
        table = screen_table(self.printing, self.paper_white, self.ink_black)
        through_table(np.ascontiguousarray(light), _table("srgb"), table.reshape(-1), len(table), seen)
        return seen

    def encode(self, light: F32, out: NDArray[Any]) -> None:
        """Display light (3, rows, w) into what the screen shows (rows, w, 3)."""
        assert self.printing is not None
        if self.bits == 8 and not self.missed:
            table = _in_bytes(self.printing, self.paper_white, self.ink_black)
            proof_8(np.ascontiguousarray(light), _places(_side(table)), table, _side(table), out)
            return
        seen = self.through(light)
        if self.missed:
            seen[..., :3] = _marked(seen)
        top = 255 if self.bits == 8 else 65535
        out[:] = np.rint(np.clip(seen[..., :3], 0, 1) * top)


def _side(table: F32) -> int:
    """Nodes of a side of a flat table."""
    return int(float(table.size / 4) ** (1 / 3) + 0.5)


@lru_cache(maxsize=4)
def _places(side: int) -> F32:
    """Where among so many nodes light lies, at ENCODE_SIZE places."""
    return np.ascontiguousarray(_table("srgb") * np.float32(side - 1))


@lru_cache(maxsize=12)
def _in_bytes(printing: Printing, white: bool, black: bool) -> F32:
    """The table for the screen, flat, its colours 0–255."""
    return np.ascontiguousarray(screen_table(printing, white, black) * np.float32(255)).reshape(-1)


def _marked(seen: F32) -> F32:
    """Flat grey where the paper holds what is asked for; where not, from ochre to dark red the more is missed."""
    grey = 0.45 + 0.3 * seen[..., :3].mean(2, keepdims=True)
    t = np.clip((seen[..., 3:] - MISSED) / (WORST - MISSED), 0, 1)
    mark = np.array([0.86, 0.66, 0.24], np.float32) * (1 - t) + np.array([0.55, 0.10, 0.08], np.float32) * t
    return np.asarray(np.where(seen[..., 3:] > MISSED, mark, grey), np.float32)


SCREEN: Final = Output("srgb", 8)
"""What is looked at."""
