"""Papers as their profiles know them: what numbers a printer is sent, and what will be seen on paper.

Colours go through LittleCMS (by imagecodecs). ICC.1:2001-04 and ICC.1:2022 name the tags; black-point compensation is
ISO 18619's.
"""

import hashlib
import struct
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any, Final

import imagecodecs
import numpy as np
from numpy.typing import NDArray

from ..errors import ProfileError
from .difference import ciede2000, lab_of_working
from .profiles import output_profile
from .spaces import decode, encode, encode_srgb, working_to_output

F32 = NDArray[np.float32]
INTENTS: Final = {"perceptual": 0, "relative": 1, "saturation": 2, "absolute": 3}
LARGEST: Final = 16 << 20
"""The most bytes a profile may have; tables of four inks come to some millions."""
SPACES: Final = {b"RGB ": ("rgb", 3), b"CMYK": ("cmyk", 4), b"GRAY": ("gray", 1)}
OTHERS: Final = {
    b"scnr": "it says how a scanner or a camera sees; a paper needs an output profile",
    b"link": "it leads from one device straight to another; a paper needs an output profile",
    b"abst": "it changes colours and describes no paper",
    b"nmcl": "it names single colours and describes no paper",
}
_COMPENSATED, _AS_IT_IS, _FINE = 0x2000, 0x0100, 0x0400
SIDE: Final = 49
"""Nodes of a side of the table for the screen."""
MISSED: Final = 3.0
"""What a paper misses by more ΔE2000 than this is seen in the print; less is told by nobody who has not both before him."""
_LAB: Final = imagecodecs.cms_profile("lab4")


@dataclass(frozen=True)
class Profile:
    """An output profile that holds. Raises ProfileError where it does not. name: how files are called in sentences."""

    data: bytes
    file: str = "the profile"

    def __post_init__(self) -> None:
        raw = self.data
        if len(raw) > LARGEST:
            raise ProfileError(f"{self.file} has {len(raw) >> 20} MB; a profile has {LARGEST >> 20} at most")
        if len(raw) < 132 or raw[36:40] != b"acsp" or struct.unpack(">I", raw[:4])[0] > len(raw):
            raise ProfileError(f"{self.file} is no ICC profile, or a damaged one")
        if raw[12:16] in OTHERS:
            raise ProfileError(f"{self.file} cannot be printed with: {OTHERS[raw[12:16]]}")
        if raw[16:20] not in SPACES:
            raise ProfileError(
                f"{self.file} is for {raw[16:20].decode('latin-1').strip()}; known are RGB, CMYK and grey"
            )
        try:
            self._lab(np.zeros((1, 1, self.channels), np.uint16), 1)
            self._codes(np.full((1, 1, 3), 0.5, np.float32), 1, 0)
        except Exception as error:
            raise ProfileError(f"{self.file} is damaged, or does not lead both ways") from error

    @cached_property
    def sha256(self) -> str:
        """What it is known by."""
        return hashlib.sha256(self.data).hexdigest()

    @property
    def channels(self) -> int:
        """How many numbers a px has: 3, 4 inks, or 1."""
        return SPACES[self.data[16:20]][1]

    @property
    def kind(self) -> str:
        """ "rgb", "cmyk" or "gray"."""
        return SPACES[self.data[16:20]][0]

    @cached_property
    def name(self) -> str:
        """What it calls itself."""
        count = struct.unpack(">I", self.data[128:132])[0]
        for n in range(min(count, 200)):
            name, at, size = struct.unpack(">4sII", self.data[132 + 12 * n : 144 + 12 * n])
            if name == b"desc":
                return _words_of(self.data[at : at + size])[:120] or self.file
        return self.file

    def _codes(self, light: F32, intent: int, flags: int) -> NDArray[np.uint16]:
        out = imagecodecs.cms_transform(
            light, output_profile("linear"), self.data, colorspace="rgb", outcolorspace=self.kind,
            outdtype=np.uint16, intent=intent, flags=flags,
        )  # fmt: skip
        return np.asarray(out).reshape(*light.shape[:2], self.channels)

    def _lab(self, codes: NDArray[Any], intent: int) -> F32:
        given = codes[..., 0] if self.channels == 1 else codes
        out = imagecodecs.cms_transform(
            np.ascontiguousarray(given), self.data, _LAB, colorspace=self.kind, outcolorspace="lab",
            outdtype=np.float32, intent=intent, flags=_AS_IT_IS,
        )  # fmt: skip
        return np.asarray(out, np.float32)

    @cached_property
    def ends(self) -> tuple[float, float]:
        """Light of the paper and of the darkest ink on it, 1 for a perfect white: Y of XYZ."""
        light = np.array([[[1, 1, 1], [0, 0, 0]]], np.float32)
        seen = self._lab(self._codes(light, INTENTS["relative"], _COMPENSATED), INTENTS["absolute"])
        paper, ink = (float(v) for v in luminance(seen[0, :, 0]))
        return paper, ink


def luminance(lightness: F32) -> NDArray[np.float64]:
    """CIE L* to Y, 0–1."""
    f = (np.asarray(lightness, np.float64) + 16) / 116
    return np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29))


def _words_of(tag: bytes) -> str:
    if tag[:4] == b"desc" and len(tag) > 12:
        size = struct.unpack(">I", tag[8:12])[0]
        return tag[12 : 12 + size].split(b"\0")[0].decode("latin-1").strip()
    if tag[:4] == b"mluc" and len(tag) > 28:
        size, at = struct.unpack(">II", tag[20:28])
        return tag[at : at + size].decode("utf-16-be", "replace").strip("\0 ")
    return ""


@dataclass(frozen=True)
class Printing:
    """A way to print: a paper's profile, which rendering intent, whether black-point compensation. What is to be printed is
    linear light of the working space."""

    profile: Profile
    intent: str = "relative"
    compensated: bool = True

    def __post_init__(self) -> None:
        if self.intent not in INTENTS:
            raise ProfileError(f"there is no intent {self.intent!r}; known are {', '.join(INTENTS)}")

    @property
    def key(self) -> str:
        """What makes it what it is."""
        return f"{self.profile.sha256}/{self.intent}/{self.compensated}"

    def codes(self, light: F32, quick: bool = False) -> NDArray[np.uint16]:
        """What the printer is sent (h, w, channels), for linear light (h, w, 3) within 0–1. quick: through 16 bits and the
        library's own fine table, for files: ΔE2000 .02 off on average, in a third of the time."""
        flags = _COMPENSATED if self.compensated and self.intent != "absolute" else 0
        if not quick:
            return self.profile._codes(light, INTENTS[self.intent], flags | _AS_IT_IS)
        coded = np.rint(encode(light.astype(np.float64), "rec2020") * 65535).astype(np.uint16)
        out = imagecodecs.cms_transform(
            coded, output_profile("rec2020"), self.profile.data, colorspace="rgb", outcolorspace=self.profile.kind,
            outdtype=np.uint16, intent=INTENTS[self.intent], flags=flags | _FINE,
        )  # fmt: skip
        return np.asarray(out).reshape(*light.shape[:2], self.profile.channels)

    def lab(self, light: F32, absolute: bool = False) -> F32:
        """What will be seen on paper, as CIE Lab (h, w, 3): against the paper's white, or as it is."""
        return self.profile._lab(self.codes(light), INTENTS["absolute" if absolute else "relative"])

    def seen(self, light: F32, white: bool = True, black: bool = True) -> F32:
        """The same as linear light of the working space, to be shown on a screen. white: the paper's white as it is, else the
        screen's; black: the ink's black as it is, else the screen's."""
        flags = _AS_IT_IS if white or black else _AS_IT_IS | _COMPENSATED
        codes = self.codes(light)
        out = imagecodecs.cms_transform(
            codes[..., 0] if self.profile.channels == 1 else codes, self.profile.data, output_profile("linear"),
            colorspace=self.profile.kind, outcolorspace="rgb", outdtype=np.float32,
            intent=INTENTS["absolute" if white else "relative"], flags=flags,
        )  # fmt: skip
        return np.asarray(out, np.float32)

    def missed(self, light: F32) -> F32:
        """How far what is printed lies from what was asked for (h, w), ΔE2000, both against the paper's white. Where black is
        compensated, what is asked for is lifted to the ink's own black, as that does: then only colour is missed."""
        asked = light.astype(np.float64)
        if self.compensated:
            ink = self.seen(np.zeros((1, 1, 3), np.float32), white=False)[0, 0].astype(np.float64)
            asked = ink + (1 - ink) * asked
        asked = lab_of_working(asked)
        plain = Printing(self.profile, "relative", self.compensated)
        return np.asarray(ciede2000(asked, plain.lab(light).astype(np.float64)), np.float32)


@lru_cache(maxsize=12)
def _table(printing: Printing, white: bool, black: bool) -> F32:
    axis = decode(np.linspace(0, 1, SIDE), "srgb").astype(np.float32)
    light = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1).reshape(SIDE, SIDE * SIDE, 3)
    seen = printing.seen(light, white, black)
    shown = np.einsum("ij,hwj->hwi", working_to_output("srgb"), seen.astype(np.float64))
    out = np.empty((SIDE, SIDE, SIDE, 4), np.float32)
    # beyond the screen's own range the curve goes on straight, so that what lies between two nodes is right
    coded = np.where(shown < 0, 12.92 * shown, encode_srgb(np.maximum(shown, 0)))
    out[..., :3] = coded.reshape(SIDE, SIDE, SIDE, 3)
    out[..., 3] = printing.missed(light).reshape(SIDE, SIDE, SIDE)
    return out


def screen_table(printing: Printing, white: bool = True, black: bool = True) -> F32:
    """What will be seen, for drags (SIDE, SIDE, SIDE, 4): for working light coded as sRGB codes it, sRGB as coded, and what is
    missed in ΔE2000. Kept by what made it."""
    return _table(printing, white, black)
