"""What a picture is made for: a screen, a file, and in time paper. Whoever renders is given one of these; targets
differ in nothing else."""

from dataclasses import dataclass
from functools import cache, cached_property
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from ..colour import OUTPUT_SPACES, output_profile
from ..colour.tones import Tone, render_coefficients
from ..errors import ExportError
from .kernels import bytes_table, encode_8, encode_16, encode_table

F32 = NDArray[np.float32]
_KINDS: Final = {8: np.uint8, 16: np.uint16, 32: np.float32}

_bytes = cache(bytes_table)
_table = cache(encode_table)


@dataclass(frozen=True)
class Output:
    """space: of OUTPUT_SPACES; "linear" is scene light, unrendered. bits: 8 or 16, or 32 for floats.

    Raises ExportError for a space or bits there are not.
    """

    space: str = "srgb"
    bits: int = 8

    def __post_init__(self) -> None:
        if self.space not in OUTPUT_SPACES:
            raise ExportError(
                f"there is no colour space {self.space!r}; known are {', '.join(OUTPUT_SPACES)}"
            )
        if self.bits not in _KINDS:
            raise ExportError(f"there are 8, 16 or 32 bits, not {self.bits}")

    @property
    def renders(self) -> bool:
        """False for scene light as it is."""
        return self.space != "linear"

    @property
    def dtype(self) -> Any:
        """What its px are made of."""
        return _KINDS[self.bits]

    @cached_property
    def profile(self) -> bytes:
        """The ICC profile that says what its numbers mean."""
        return output_profile(self.space)

    def coefficients(self, tone: Tone) -> F32:
        """How Rendering draws light into its gamut, for `render_tones`."""
        return render_coefficients(tone, self.space)

    def encode(self, light: F32, out: NDArray[Any]) -> None:
        """Display light (3, rows, w) into its px (rows, w, 3); what it cannot hold is cut."""
        if self.renders and self.bits == 8:
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


SCREEN: Final = Output("srgb", 8)
"""What is looked at."""
