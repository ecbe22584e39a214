"""What is still open at Ground, said as a photographer would."""

from pydantic import BaseModel

from ..binding.lens_profile import known_lens
from ..moves import GROUND_KINDS
from ..render import SCREEN, Development
from .limits import BLACK_TO, WHITE_FROM
from .lines import SURE, find_horizon, plumb_residual

METER_LONG_EDGE = 640
FINE = 0.15
"""Degrees: what can be told from a found horizon or a drawn line."""

EMPTY = 0.05
"""Percent of a picture that shows nothing from which on its corners are said to be empty."""


class GroundState(BaseModel):
    """open: what is not yet as it should be, a few words each. lens: the database's name for the lens, ""
    where it knows none; tags: whether the file carries corrections of its own. stretched: length on
    the picture over length on the frame, in rows of places spread over it. plumb_off: degrees by
    which the worst drawn line is off, None without lines. horizon: degrees the found horizon is off,
    None where none can be trusted. frame, file: percent of the picture whose light clipped in the
    frame, and that prints white in the file. earlier: Ground moves that a newer way exists of."""

    open: list[str]
    about: list[str]
    """The Ground line that each of what is open is about."""
    lens: str
    tags: bool
    stretched: list[list[float]]
    plumb_off: float | None
    horizon: float | None
    frame: float
    file: float
    black: float
    earlier: list[str]
    empty: float
    """Percent of the picture that shows nothing."""
    size: tuple[int, int]
    focal: float


def read_ground(development: Development) -> GroundState:
    """See GroundState."""
    info, geometry = development.raster.info, development.geometry
    open_things: list[str] = []
    about: list[str] = []

    def tell(description: str, line: str) -> None:
        open_things.append(description)
        about.append(line)

    found = find_horizon(development)
    horizon = found.off if found is not None and found.share >= SURE else None
    if horizon is not None and abs(horizon) >= FINE:
        tell(f"horizon {abs(horizon):.1f}° off", "trim")
    off = plumb_residual(development)
    if off is not None and off > FINE:
        tell(f"lines {off:.1f}° off", "plumb")
    lens = development.scene.base.as_taken
    if lens and development.ground.settings("lens").known == "off" and (known_lens(info) or info.lens_tags):
        tell("lens left off", "lens")
    over, none = _printed(development)
    clipped = 100 * max(info.clipped) if info.clipped is not None else 0.0
    if over >= 0.1 and over > clipped + 0.1:
        tell(f"{over:.1f} % prints white, {clipped:.1f} % clipped in the frame", "ends")
    if none >= 0.5:
        tell(f"{none:.1f} % prints black", "ends")
    beyond = development.ground.beyond(development.geometry.fit(METER_LONG_EDGE))
    empty = 0.0 if beyond is None else 100 * float(beyond.mean())
    if empty >= EMPTY:
        tell("corners empty", "trim")
    earlier = [
        kind
        for kind, declared in GROUND_KINDS.items()
        if getattr(development.scene.ground, kind).revision < declared.revision
    ]
    return GroundState(
        open=open_things,
        about=about,
        lens=known_lens(info),
        tags=bool(info.lens_tags),
        stretched=[[round(float(v), 3) for v in row] for row in geometry.stretched()],
        plumb_off=off,
        horizon=horizon,
        frame=clipped,
        file=over,
        black=none,
        earlier=earlier,
        empty=empty,
        size=geometry.developed_size,
        focal=info.focal,
    )


def _printed(development: Development) -> tuple[float, float]:
    """Percent of the developed picture with a channel at full, and with all at nothing."""
    view = development.geometry.fit(METER_LONG_EDGE)
    over = none = 0

    def take(band, r, e):  # type: ignore[no-untyped-def]
        nonlocal over, none
        over += int((band.max(0) >= WHITE_FROM).sum())
        none += int((band.max(0) <= BLACK_TO).sum())

    # what shows nothing is neither
    development.display(view, SCREEN, take, keep=False, band_rows=view.size[1], nothing=0.5)
    count = view.size[0] * view.size[1]
    return 100 * over / count, 100 * none / count
