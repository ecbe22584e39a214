"""The fields of what a scene's lines of Reshape and Nudge do, and of the borders of a sweep that are stretched."""

import hashlib
import json
import threading
from collections import OrderedDict
from dataclasses import replace
from functools import lru_cache

import numpy as np

from ..geometry import (
    Field,
    Geometry,
    Lattice,
    Pulls,
    Sphere,
    Stroke,
    enlarged,
    filled,
    held_back,
    nudged,
    straightened,
    through,
    unmoved,
)
from ..ledger import AnyShape, NudgeLine, NudgeStroke, ReshapeLine
from ..running.patience import doing_of

SPACING = 0.25
"""Between handles along a line, in reaches."""
FIELDS = 8
"""Fields that strokes left, held: of each the one before the last stroke and the one after it."""
GRAIN = 6.0
"""Reaches, softnesses and radii in which a field may be asked so often, and nothing of it be missed."""


def shaped(geometry: Geometry, lines: list[AnyShape], stretch: float = 0.0) -> Geometry:
    """The same map with what lines do to the picture, one upon another. stretch: how far the borders of a sweep are
    stretched to the edges, 0 to 1."""
    if stretch > 0 and isinstance(geometry.sphere, Sphere):
        geometry = replace(geometry, fields=(_stretched(geometry.untrimmed, stretch),))
    for line in lines:
        if not line.on:
            continue
        held = line.model_dump_json(exclude={"name", "on"})
        with doing_of(line.id):
            made = _made(geometry.untrimmed, held, line.kind)
        if made is not None:
            geometry = replace(geometry, fields=(*geometry.fields, made))
    return geometry


@lru_cache(16)
def _stretched(geometry: Geometry, stretch: float) -> Field:
    nodes, share = filled(geometry.canvas, geometry.covered, stretch)
    return Field(_digest(geometry, f"stretch {stretch}"), nodes, 0.02, share)


def _digest(geometry: Geometry, text: str) -> str:
    return hashlib.sha256(json.dumps([geometry.canvas_key(), text]).encode()).hexdigest()[:24]


@lru_cache(64)
def _made(geometry: Geometry, held: str, kind: str) -> Field | None:
    """The field of one line over a map with those before it; None where it does nothing."""
    line = (ReshapeLine if kind == "reshape" else NudgeLine).model_validate_json(held)
    digest = _digest(geometry, held)
    if isinstance(line, NudgeLine):
        return _nudged(geometry, line, digest)
    return _reshaped(geometry, line, digest)


def _nudged(geometry: Geometry, line: NudgeLine, digest: str) -> Field | None:
    if not line.strokes or line.params.strength == 0:
        return None
    nodes, share = _after(geometry, line.strokes)
    if line.params.strength != 1:
        nodes = Lattice(nodes.values * line.params.strength, nodes.start, nodes.step)
    return Field(digest, nodes, min(s.radius for s in line.strokes) / GRAIN, share, line.id)


_fields: OrderedDict[tuple[str, ...], tuple[Lattice, float]] = OrderedDict()
"""Fields as rows of strokes leave them, the last asked for: while one stroke is drawn, those before it stand."""
_fields_lock = threading.Lock()


def _after(geometry: Geometry, strokes: list[NudgeStroke]) -> tuple[Lattice, float]:
    """The field that strokes leave, one after another, and the least share of what any of them asks."""
    key = (_digest(geometry, "nudged"), *(s.model_dump_json() for s in strokes))
    with _fields_lock:
        known = next((n for n in range(len(strokes), 0, -1) if key[: n + 1] in _fields), 0)
        nodes, share = _fields[key[: known + 1]] if known else (unmoved(geometry.canvas), 1.0)
    for n, stroke in enumerate(strokes[known:], known + 1):
        flat = np.array(stroke.points, float)
        points = flat[: len(flat) // 3 * 3].reshape(-1, 3)
        at = np.column_stack([geometry.to_turned(points[:, :2]), points[:, 2]])
        nodes, done = nudged(nodes, Stroke(stroke.verb, at, stroke.radius, stroke.strength))
        share = min(share, done)
        if n >= len(strokes) - 1:
            with _fields_lock:
                _fields[key[: n + 1]] = nodes, share
                _fields.move_to_end(key[: n + 1])
                while len(_fields) > FIELDS:
                    _fields.popitem(last=False)
    return nodes, share


def _reshaped(geometry: Geometry, line: ReshapeLine, digest: str) -> Field | None:
    reach = line.params.reach
    at, by = [], []
    interval = reach / GRAIN
    if line.pins:
        placed = geometry.to_turned(np.array([[p.x, p.y] for p in line.pins]))
        carried = np.array([[p.dx, p.dy] for p in line.pins])
        at.append(placed + carried)
        by.append(-carried)
    for bent in line.lines:
        flat = np.array(bent.points, float)
        points = geometry.to_turned(flat[: len(flat) // 2 * 2].reshape(-1, 2))
        if len(points) < 3 and bent.what == "straight":
            continue
        handles = straightened(points, bent.what, SPACING * reach)
        at.append(handles.at)
        by.append(handles.by)
    nodes: Lattice | None = None
    if sum(map(len, at)):
        nodes = through(
            geometry.canvas, Pulls(np.concatenate(at), np.concatenate(by)), reach, line.params.edges
        )
    for part in line.pulled:
        flat = np.array(part.outline, float)
        outline = geometry.to_turned(flat[: len(flat) // 2 * 2].reshape(-1, 2))
        if np.ptp(outline, axis=0).min() < 1e-4:  # nothing lies in it
            continue
        pulled = enlarged(geometry.canvas, outline, part.amount, part.soft)
        nodes = pulled if nodes is None else _upon(nodes, pulled)
        interval = min(interval, part.soft / GRAIN)
    if nodes is None or not nodes.values.any():
        return None
    nodes, share = held_back(nodes)
    return Field(digest, nodes, interval, share, line.id)


def _upon(lower: Lattice, upper: Lattice) -> Lattice:
    """One field upon another, at the nodes of the upper."""
    rows, columns = upper.values.shape[1:]
    xs = upper.start[0] + upper.step[0] * (np.arange(columns) - 1)
    ys = upper.start[1] + upper.step[1] * (np.arange(rows) - 1)
    points = np.stack(np.meshgrid(xs, ys), -1)
    through_ = Field("", upper).under(points)
    whole = Field("", lower).under(through_) - points
    return Lattice(np.ascontiguousarray(np.moveaxis(whole, -1, 0)), upper.start, upper.step)
