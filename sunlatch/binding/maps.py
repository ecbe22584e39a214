"""What a document says of where px lie, bound to a frame: its coordinate maps, its lens, the raster of a sweep."""

from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ..errors import GeometryError
from ..frame import FrameInfo
from ..geometry import (
    Geometry,
    LensShape,
    Master,
    Member,
    Outline,
    Sphere,
    Trimmed,
    homography,
    rotation,
)  # fmt: skip
from ..ledger import Scene, Sweep, SweepMember
from ..moves import GROUND_KINDS
from .lens_profile import from_database, from_opcodes
from .shapes import shaped


def settings_of(scene: Scene, kind: str, off: dict[str, Any] | None = None) -> Any:
    """The settings of a Ground line in force: its defaults (with `off`) when it is switched off."""
    line = getattr(scene.ground, kind)
    return line.params if line.on else GROUND_KINDS[kind].params(**(off or {}))


def lens_by(known: str, info: FrameInfo) -> LensShape | None:
    """What a lens did, by the "database" or by the "frame"'s own tags; None where they do not say. Raises GeometryError."""
    if known == "database":
        return from_database(info)
    if known == "frame" and info.lens_tags:
        return from_opcodes(bytes.fromhex(info.lens_tags), info.width, info.height)
    return None


def lens_as_it_is(info: FrameInfo) -> LensShape:
    """What is known of a lens, whatever a scene undoes of it: by the database, else by the file's own tags."""
    for known in ("database", "frame"):
        try:
            shape = lens_by(known, info)
        except GeometryError:
            shape = None
        if shape is not None:
            return shape
    return LensShape()


def lens_of(scene: Scene, info: FrameInfo) -> LensShape:
    """The lens's faults as they are undone. Raises GeometryError."""
    if not scene.base.as_taken:
        return LensShape()  # its frames were freed of their lens's faults when they were joined
    p = settings_of(scene, "lens")
    if p.known == "off":
        return LensShape()
    shape = lens_by(p.known, info)
    share = (p.distortion, p.vignetting, p.lateral)
    by_hand = LensShape(
        (0.0, p.radial, 0.0, 0.0),
        (p.red / 1000, 0.0),
        (p.blue / 1000, 0.0),
        (2.0**-p.corners - 1, 0.0, 0.0),
    )
    return (shape or LensShape()).times(*share).plus(by_hand).check()


def map_of(scene: Scene, info: FrameInfo) -> Geometry:
    """The coordinate map of a scene on a frame, of which only its facts are needed. Raises GeometryError."""
    trimmed = _trimmed(scene, info)
    if isinstance(scene.base, Sweep):
        stretch = settings_of(scene, "projection").stretch
        return shaped(_map_of_sweep(scene, scene.base, trimmed), scene.shapes, stretch)
    return shaped(_map_of_frame(scene, info, trimmed), scene.shapes, 0.0)


def _trimmed(scene: Scene, info: FrameInfo) -> Trimmed:
    trim = settings_of(scene, "trim")
    size = info.developed_size
    centre = None if trim.centre is None else (trim.centre.x, trim.centre.y)
    own = size[0] / size[1]
    free = trim.format == "free"
    placed = centre is not None or trim.width is not None
    return Trimmed(
        centre, trim.width, trim.height if free else None,
        None if trim.format == "frame" and not placed else trim.aspect(own),
        (trim.across, trim.down), trim.empty,
    )  # fmt: skip


def _map_of_frame(scene: Scene, info: FrameInfo, trimmed: Trimmed) -> Geometry:
    plumb, trim = settings_of(scene, "plumb"), settings_of(scene, "trim")
    h = homography(plumb.lean, plumb.swing, plumb.roll, trim.stretch, info.focal)
    straight = np.allclose(h, np.eye(3), atol=1e-12)
    return Geometry(
        info.width, info.height, info.orientation, lens_of(scene, info),
        (1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0) if straight else tuple(float(v) for v in h.ravel()),
        float(trim.level), trimmed,
    )  # fmt: skip


def _map_of_sweep(scene: Scene, base: Sweep, trimmed: Trimmed) -> Geometry:
    """The map of a sweep: Plumb and Trim's level turn it on its sphere, Projection lays it flat."""
    plumb, trim, shown = (settings_of(scene, kind) for kind in ("plumb", "trim", "projection"))
    facing = rotation(0.0, -shown.facing, 0.0)
    turned = rotation(0.0, 0.0, trim.level) @ rotation(plumb.lean, plumb.swing, plumb.roll) @ facing
    sphere = Sphere(
        master_of(base), outline_of(base), base.unit, shown.kind, float(shown.squeeze),
        tuple(float(v) for v in turned.ravel()),
    )  # fmt: skip
    width, height = base.size
    return Geometry(width, height, trim=trimmed, sphere=sphere, unit=base.unit)


def master_of(base: Sweep) -> Master:
    """The raster that a sweep's light lies on."""
    return Master(base.corner[0], base.corner[1], (base.size[0], base.size[1]), base.density)


def outline_of(base: Sweep) -> Outline:
    """What a sweep covers."""
    return Outline(tuple(member_of(base, m) for m in base.enabled))


def member_of(base: Sweep, member: SweepMember) -> Member:
    """How one of a sweep looks out; a sweep solved before revision 2 is covered as if its lens had bent nothing."""
    looks, focal = (
        tuple(rotation_matrix(member.rotation).ravel().tolist()),
        base.focal * max(member.size) / base.unit,
    )
    k0, k1, k2, k3 = member.lens
    lens = LensShape(distortion=(k0, k1 + base.distortion, k2, k3)) if base.revision > 1 else LensShape()
    return Member(looks, focal, member.size[0], member.size[1], lens)


def rotation_matrix(vector: Sequence[float]) -> NDArray[np.float64]:
    """A rotation vector as 3×3 (Rodrigues)."""
    return np.asarray(cv2.Rodrigues(np.array(vector, float))[0])
