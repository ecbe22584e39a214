"""What a scene is proofed on, put together from its paper: the way to print, the file, what the screen shows of it."""

from functools import lru_cache

from ..blobs import Blobs
from ..colour.printing import Printing, Profile
from ..errors import ProfileError
from ..ledger import Paper
from ..render import Output, Proof, Sharpness
from .paper import Layout


@lru_cache(maxsize=16)
def profile_in(blobs: Blobs, blob: str, name: str) -> Profile:
    """A paper's profile among a document's blobs. Raises ProfileError, DocumentError."""
    return Profile(blobs.get(blob), name)


def printing_of(paper: Paper | None, blobs: Blobs | None) -> Printing | None:
    """How a paper is printed on; None where it has no profile. Raises ProfileError, DocumentError."""
    if paper is None or paper.profile is None:
        return None
    if blobs is None:
        raise ProfileError(f"the profile of {paper.name} is not there")
    params = paper.params
    return Printing(
        profile_in(blobs, paper.profile.blob, paper.profile.name), params.intent, params.compensated
    )


def sharpness_of(layout: Layout | None, ppi: float | None = None) -> Sharpness | None:
    """What a print of a layout is sharpened by; None for nothing. ppi: of the file, where it is not the picture's own."""
    if layout is None or layout.params.sharpness == 0:
        return None
    p = layout.params
    return Sharpness(ppi or layout.ppi, p.surface, p.distance / 100, p.sharpness, p.spare)


def on_screen(
    printing: Printing | None,
    sharpness: Sharpness | None = None,
    *,
    white: bool = True,
    black: bool = True,
    missed: bool = False,
) -> Output:
    """What a screen shows of a print: through its profile where there is one."""
    if printing is None:
        return Output("srgb", 8, sharpness=sharpness)
    return Proof(printing=printing, sharpness=sharpness, paper_white=white, ink_black=black, missed=missed)
