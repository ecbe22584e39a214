"""Which frames belong together: a sweep, a bracket, a twin; told from metadata and picture overlap.

Frames taken one after another with the same camera, lens and size are compared in pairs: matched
features (Lowe 2004, ratio test; RANSAC after Fischler & Bolles 1981) say whether the second looks at
the same thing or has turned on, the metadata say whether its exposure was stepped.
"""

from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cached_property
from itertools import pairwise
from typing import Final, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from .metadata import FrameInfo
from .pyramid import Pyramid

Kind = Literal["sweep", "bracket", "twin"]
LOOK_LONG_EDGE: Final = 640
GAP_S: Final = 20.0
"""Frames farther apart in time, after their exposure, do not belong together."""
COARSE_S: Final = 1.0
FINE_S: Final = 0.02
"""By how much a frame may seem to begin before the one before it has ended: where cameras write whole seconds, and where
they write parts of one."""
STEP_STOPS: Final = 0.8
"""From this difference on an exposure counts as stepped."""
STILL: Final = 0.06
TURNED: Final = 0.92
"""Shifts, in shares of the picture's side: up to the first it is the same view, up to the second it
still overlaps."""
FEW: Final = 12
SHARED: Final = 0.04
"""The share of a look that another must lie on to be compared…"""
SAME: Final = 0.45
"""…and how far what is fine must go along there (a correlation) to be the same thing."""
SAME_STOPS: Final = 0.3
"""Up to this difference an exposure is one that was made before."""


@dataclass(frozen=True)
class Trait:
    """What grouping looks at in a frame. look: (h, w) uint8, upright, tones stretched; taken in s, to parts of one where `fine`;
    exposure in stops over 1 s at f/1 and ISO 100; None where the file does not say."""

    name: str
    look: NDArray[np.uint8]
    size: tuple[int, int]
    camera: str
    taken: float | None
    exposure: float | None
    seconds: float
    focal: float | None
    fine: bool = False

    @cached_property
    def features(self) -> tuple[NDArray[np.float32], NDArray[np.uint8]]:
        """Places (n, 2) in px of the look, and their descriptors (n, 128); found once, as a frame is compared with several."""
        sift = cv2.SIFT.create(nfeatures=700, contrastThreshold=0.02)
        points, made = sift.detectAndCompute(self.look, None)
        if made is None:
            return np.empty((0, 2), np.float32), np.empty((0, 128), np.uint8)
        # whole numbers up to 255 all of them: a quarter of the memory
        return np.array([p.pt for p in points], np.float32), made.astype(np.uint8)


@dataclass
class Group:
    """Frames that belong together, by their index, in order; `said` is what could not be known."""

    kind: Kind
    members: list[int]
    reasons: list[str] = field(default_factory=list)


def trait_of(name: str, info: FrameInfo, pyramid: Pyramid) -> Trait:
    """A frame's trait, from its facts and a small level of its pyramid."""
    large = [k for k, v in pyramid.levels.items() if max(v.shape[:2]) >= LOOK_LONG_EDGE // 2]
    level = max(large, default=min(pyramid.levels))
    light = np.asarray(pyramid.levels[level], np.float32)[..., 1]
    stops = np.log2(np.maximum(light, 1e-4))
    low, high = np.percentile(stops, (1, 99))
    grey = np.clip((stops - low) / max(float(high - low), 0.5) * 255, 0, 255).astype(np.uint8)
    scale = LOOK_LONG_EDGE / max(grey.shape)
    grey = cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    turns = {3: 2, 6: 3, 8: 1}.get(info.orientation, 0)
    return Trait(
        name=name,
        look=np.ascontiguousarray(np.rot90(grey, turns)),
        size=info.developed_size,
        camera=f"{info.maker} {info.model}".strip(),
        taken=_clock(info.taken),
        fine="." in info.taken,
        exposure=_exposure(info),
        seconds=info.exposure_s or 0.0,
        focal=info.focal_mm,
    )


def _clock(taken: str) -> float | None:
    """Seconds of a time as Exif writes it ("2026:10:03 18:21:40", or with parts of a second)."""
    whole, _, parts = taken.partition(".")
    try:
        at = datetime.strptime(whole[:19], "%Y:%m:%d %H:%M:%S").timestamp()
    except ValueError:
        return None
    return at + (float(f"0.{parts}") if parts.isdigit() else 0.0)


def _exposure(info: FrameInfo) -> float | None:
    if info.exposure_s is None or info.exposure_s <= 0:
        return None
    return float(np.log2(info.exposure_s * (info.iso or 100) / 100 / (info.f_number or 1.0) ** 2))


def shift_between(a: Trait, b: Trait) -> tuple[float, float, int]:
    """How far the view moved from a to b, in shares of the picture's sides, and how many features
    agree on it."""
    (ka, da), (kb, db) = a.features, b.features
    if len(ka) < FEW or len(kb) < FEW:
        return 0.0, 0.0, 0
    pairs = cv2.BFMatcher().knnMatch(da.astype(np.float32), db.astype(np.float32), k=2)
    good = [p[0] for p in pairs if len(p) == 2 and p[0].distance < 0.78 * p[1].distance]
    if len(good) < FEW:
        return 0.0, 0.0, len(good)
    one, two = ka[[m.queryIdx for m in good]], kb[[m.trainIdx for m in good]]
    model, held = cv2.findHomography(one, two, cv2.RANSAC, 4.0)
    if model is None:
        return 0.0, 0.0, 0
    moved = (two - one)[held.ravel() > 0]
    if len(moved) == 0 or not _the_same(a, b, model):
        return 0.0, 0.0, 0
    h, w = a.look.shape
    dx, dy = np.median(moved, axis=0)
    return float(dx / w), float(dy / h), len(moved)


def _the_same(a: Trait, b: Trait, model: NDArray[np.float64]) -> bool:
    """Whether what two looks share shows the same thing, laid on each other by a homography: pictures that merely resemble each
    other have features that match, here and there, but not what lies between them."""
    h, w = b.look.shape
    if not np.isfinite(model).all() or not 0.5 < float(np.linalg.det(model[:2, :2])) < 2.0:
        return False
    there = cv2.warpPerspective(np.ones_like(a.look), model, (w, h), flags=cv2.INTER_NEAREST) > 0
    there = cv2.erode(there.astype(np.uint8), np.ones((9, 9), np.uint8), borderValue=1) > 0
    if there.mean() < SHARED:
        return False
    laid = cv2.warpPerspective(a.look, model, (w, h), borderMode=cv2.BORDER_REPLICATE)
    one, other = (_fine(x)[there] for x in (laid, b.look))
    size = float(np.sqrt(np.square(one).sum() * np.square(other).sum()))
    return size > 0 and float((one * other).sum()) / size > SAME


def _fine(look: NDArray[np.uint8]) -> NDArray[np.float32]:
    even = cv2.GaussianBlur(look.astype(np.float32), (0, 0), 1.5)
    return np.asarray(even - cv2.GaussianBlur(even, (0, 0), 12), np.float32)


def _alike(a: Trait, b: Trait, gap: float = GAP_S) -> bool:
    """Whether two frames could belong together at all, by what their files say. gap: s between them at most."""
    if a.size != b.size or a.camera != b.camera:
        return False
    if a.focal is not None and b.focal is not None and abs(a.focal - b.focal) > 0.02 * a.focal:
        return False
    if a.taken is not None and b.taken is not None:
        # most cameras write whole seconds: the next frame of a burst has the same, or seems to begin too soon
        slack = FINE_S if a.fine and b.fine else COARSE_S
        return -slack <= b.taken - a.taken - a.seconds <= gap
    return True


def _pair(a: Trait, b: Trait, reasons: list[str], gap: float = GAP_S) -> str:
    """How b follows a: "stepped", "turned" or ""."""
    if not _alike(a, b, gap):
        return ""
    dx, dy, agree = shift_between(a, b)
    far = max(abs(dx), abs(dy))
    stepped = abs(b.exposure - a.exposure) >= STEP_STOPS if None not in (a.exposure, b.exposure) else None  # type: ignore[operator]
    if agree >= FEW and STILL < far < TURNED and not stepped:
        return "turned"
    if stepped and (agree < FEW or far <= STILL):
        if agree < FEW:
            if a.taken is None or b.taken is None:
                return ""
            reasons.append(
                f"{b.name} is too dark or too bright to be compared; it was put here by its exposure alone."
            )
        return "stepped"
    if stepped is None and agree >= FEW and far <= STILL:
        reasons.append(
            f"{b.name} does not say how it was exposed; whether it is a step of a bracket could not be known."
        )
    return ""


def _again(traits: list[Trait], group: Group, j: int) -> bool:
    """Whether a bracket has a frame exposed as this one is."""
    own = traits[j].exposure
    others = [traits[k].exposure for k in group.members]
    return own is not None and any(e is not None and abs(e - own) < SAME_STOPS for e in others)


def _turned_on(traits: list[Trait], groups: list[Group]) -> list[Group]:
    """Brackets of the same exposures, one after another, each of which looks farther on: a sweep of all their frames."""
    out: list[Group] = []
    last: list[int] = []
    for group in groups:
        before = out[-1] if out else None
        if before is not None and group.kind == "bracket" and _goes_on(traits, last, group.members):
            before.kind, before.members = "sweep", before.members + group.members
            before.reasons += group.reasons
        else:
            out.append(group)
        last = group.members if group.kind == "bracket" else []
    return out


def _goes_on(traits: list[Trait], one: list[int], other: list[int]) -> bool:
    """Whether a bracket is another's, exposure by exposure, turned on."""
    if len(one) != len(other) or not _alike(traits[one[-1]], traits[other[0]]):
        return False
    steps = [(traits[a].exposure, traits[b].exposure) for a, b in zip(one, other, strict=True)]
    if any(a is None or b is None or abs(a - b) > SAME_STOPS for a, b in steps):
        return False
    return any(
        _pair(traits[a], traits[b], [], GAP_S * len(one)) == "turned" for a, b in zip(one, other, strict=True)
    )


def group_frames(traits: list[Trait]) -> list[Group]:
    """Groups among frames. Those without a time are compared with their neighbours by name only; where all carry the same one,
    it says nothing, and they go by exposure and picture."""
    if len(traits) > 2 and len({t.taken for t in traits}) == 1:
        traits = [replace(t, taken=None) for t in traits]
    order = sorted(
        range(len(traits)), key=lambda i: (traits[i].taken is None, traits[i].taken or 0.0, traits[i].name)
    )
    groups: list[Group] = []
    current: Group | None = None
    for i, j in pairwise(order):
        reasons: list[str] = []
        how = _pair(traits[i], traits[j], reasons)
        kind: Kind | None = {"turned": "sweep", "stepped": "bracket"}.get(how)  # type: ignore[assignment]
        if kind is None:
            current = None
            continue
        if reasons and current is not None and _again(traits, current, j):
            # what cannot be compared, and is exposed as one of them was: the next bracket begins
            current = None
            continue
        if current is None or current.kind != kind:
            if current is not None and current.members[-1] == i and len(current.members) > 1:
                current = None
                continue
            current = Group(kind, [i])
            groups.append(current)
        current.members.append(j)
        current.reasons += reasons
    groups = _turned_on(traits, groups)
    for group in groups:
        if group.kind == "bracket" and len(group.members) == 2:
            group.kind = "twin"
        for k in group.members:
            if traits[k].taken is None:
                group.reasons.append(
                    f"{traits[k].name} does not say when it was taken; it was placed by its name and its picture."
                )
    return groups
