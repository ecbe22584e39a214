"""How a picture lies on a sheet of paper, and what that means for whoever stands before it."""

from dataclasses import dataclass
from typing import Final

from ..errors import ExportError
from ..ledger import PaperParams
from ..render.sharpening import ARC_MINUTE

MM: Final = 25.4
"""Of an inch."""
SHARP: Final = 0.8
"""Arc minutes that a good eye tells apart."""
SHEET_PX_MOST: Final = 400_000_000
"""Px of a sheet that is asked about before it is made."""


@dataclass(frozen=True)
class Layout:
    """A picture on a sheet, mm from the sheet's upper left. region: what of the picture is seen (fractions), px: how many of its
    own px that is."""

    sheet: tuple[float, float]
    at: tuple[float, float]
    size: tuple[float, float]
    region: tuple[float, float, float, float]
    px: tuple[float, float]
    params: PaperParams

    @property
    def ppi(self) -> float:
        """Px of the picture to an inch of paper."""
        return self.px[0] / self.size[0] * MM

    @property
    def asked(self) -> float:
        """What an eye can tell apart from where the print is seen, in px to an inch."""
        return MM / (SHARP * ARC_MINUTE * self.params.distance * 10)

    @property
    def sentence(self) -> str:
        """For example "293 ppi. From 60 cm the eye asks for 182: it holds." """
        asked, distance = self.asked, f"{self.params.distance:.0f} cm"
        begins = f"{self.ppi:.0f} ppi. From {distance} the eye asks for {asked:.0f}: "
        if self.ppi >= asked:
            return begins + "it holds."
        nearest = MM / (SHARP * ARC_MINUTE * self.ppi) / 10
        wide = self.size[0] * self.ppi / asked
        return begins + f"it will look soft. It holds from {nearest:.0f} cm on, or {wide:.0f} mm wide."

    def at_density(self, ppi: float | None) -> "Sheet":
        """The same in px, as many as the picture has where none are said. Raises ExportError where that is too many."""
        density = ppi or self.ppi
        across = density / MM
        w, h = (max(1, round(mm * across)) for mm in self.size)
        whole = tuple(max(1, round(mm * across)) for mm in self.sheet)
        if whole[0] * whole[1] > SHEET_PX_MOST:
            raise ExportError(
                f"a sheet of {self.sheet[0]:.0f} × {self.sheet[1]:.0f} mm at {density:.0f} ppi is {whole[0]} × {whole[1]} px, "
                f"{whole[0] * whole[1] / 1e6:.0f} megapixels; {self.asked:.0f} ppi are all the eye asks for from there. "
                f"Say a density of {density * (SHEET_PX_MOST / (whole[0] * whole[1])) ** 0.5:.0f} ppi or less"
            )
        x, y = (
            min(round(mm * across), side - size)
            for mm, side, size in zip(self.at, whole, (w, h), strict=True)
        )
        line, gap = round(self.params.line * across), round(self.params.gap * across)
        return Sheet((whole[0], whole[1]), (max(0, x), max(0, y)), (w, h), line, gap, density)


@dataclass(frozen=True)
class Sheet:
    """A sheet in px: where the picture lies on it, a line so thick, so far from it."""

    size: tuple[int, int]
    at: tuple[int, int]
    picture: tuple[int, int]
    line: int
    gap: int
    ppi: float


def laid_out(params: PaperParams, size: tuple[int, int]) -> Layout:
    """A developed picture (width, height in px) on paper. Raises ExportError where nothing of the paper is left for it."""
    w, h = size
    sheet = (params.width, params.height)
    room = (params.width - 2 * params.border, params.height - 2 * params.border)
    if min(room) < 5:
        raise ExportError(
            f"a border of {params.border:.0f} mm leaves nothing of a sheet of {params.width:.0f} × {params.height:.0f} mm"
        )
    region = (0.0, 0.0, 1.0, 1.0)
    shown = (float(w), float(h))
    if params.fit == "fill":
        shape = room[0] / room[1]
        if w / h > shape:
            part = h * shape / w
            region, shown = ((1 - part) / 2, 0.0, (1 + part) / 2, 1.0), (h * shape, float(h))
        else:
            part = w / shape / h
            region, shown = (0.0, (1 - part) / 2, 1.0, (1 + part) / 2), (float(w), w / shape)
        placed = room
    elif params.fit == "exact":
        placed = (params.across, params.across * h / w)
        if placed[0] > sheet[0] + 0.01 or placed[1] > sheet[1] + 0.01:
            raise ExportError(
                f"a picture of {placed[0]:.0f} × {placed[1]:.0f} mm is larger than the sheet of {sheet[0]:.0f} × {sheet[1]:.0f} mm"
            )
    else:
        scale = min(room[0] / w, room[1] / h)
        placed = (w * scale, h * scale)
    x, y = (sheet[0] - placed[0]) / 2, (sheet[1] - placed[1]) / 2
    y = max(0.0, y - params.raised / 100 * sheet[1])
    return Layout(sheet, (x, y), placed, region, shown, params)
