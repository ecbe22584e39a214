"""Where the things drawn for a move act: a rung's zone of light, what a steered hue has, and what two share."""

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from ..errors import RenderError
from ..geometry import View
from ..ledger import MoveLine
from ..moves import LIGHT_KINDS
from ..render import Development

F32 = NDArray[np.float32]
SMALL = 320
"""Long edge, px, at which shares are measured."""


class Shared(BaseModel):
    """Which other of a move's drawn things reaches most into one (-1: none does), and into how much of it, 0–1."""

    other: int
    much: float


def zone_of(development: Development, move: str, n: int, view: View) -> F32:
    """Where the n-th thing drawn for a move acts (h, w), 0–1, of the picture as it enters the move; of a Ground move
    by its kind, where that looks for edges. Raises RenderError where there is no such thing."""
    if move == "crispness":
        return _crisped(development, view)
    line, upto = _line(development, move)
    zone = LIGHT_KINDS[line.kind].zone
    drawn = _drawn(line)
    if zone is None or not 0 <= n < len(drawn):
        raise RenderError("there is nothing drawn of that number")
    return zone(line.params, development.light_planes(view, upto), n)


def _crisped(development: Development, view: View) -> F32:
    """Where Crispness acts: on its edges, within its latch."""
    line = development.scene.ground.crispness
    edges = development.ground.sensor.edge_mask(development.geometry, view)
    there = development.latches.where(line.latch, line.spare, view)
    return edges if there is None else np.asarray(edges * there, np.float32)


def shared(development: Development, move: str) -> list[Shared]:
    """For each thing drawn for a move, which other reaches most into where it acts."""
    line, upto = _line(development, move)
    zone, drawn = LIGHT_KINDS[line.kind].zone, _drawn(line)
    if zone is None:
        return []
    rgb = development.light_planes(development.geometry.fit(SMALL), upto)
    # each as if it were alone: what it would have, whether or not another has it too
    alone = [zone(line.params.model_copy(update={_field(line): [one]}), rgb, 0) for one in drawn]
    found = []
    for n, own in enumerate(alone):
        much = [
            float(np.minimum(own, other).sum() / max(float(own.sum()), 1e-6)) if k != n else -1.0
            for k, other in enumerate(alone)
        ]
        most = int(np.argmax(much))
        found.append(Shared(other=most, much=much[most]) if len(alone) > 1 else Shared(other=-1, much=0.0))
    return found


def _line(development: Development, move: str) -> tuple[MoveLine, int]:
    """A line, and how many of the plan's steps come before it."""
    lines = development.scene.moves
    for n, line in enumerate(lines):
        if line.id == move:
            before = {earlier.id for earlier in lines[:n]}
            return line, sum(step.line.id in before for step in development.steps)
    raise RenderError("that line is not in the ledger")


def _field(line: MoveLine) -> str:
    kinds = type(line.params).model_fields
    drawn = (name for name, f in kinds.items() if (f.json_schema_extra or {}).get("kind") == "drawn")  # type: ignore[union-attr]
    return next(drawn, "")


def _drawn(line: MoveLine) -> list[BaseModel]:
    name = _field(line)
    return list(getattr(line.params, name)) if name else []
