"""Where joined light lies: made of frames and a solution when it is asked for, and dropped when there is no room."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..frame import Pyramid, Raster, write_pyramid
from ..ledger import Bracket, FrameBase, Scene, Source, Sweep, SweepMember
from ..registration.inputs import InputFrame
from ..running.context import RenderContext
from ..running.shelf import Shelf
from . import bracket, sweep
from .exposures import exposures_of
from .moved import decide as decide_moved
from .plan import Progress, nothing
from .projected import noises_of
from .raster import NOISES, SEAMS, Joined, JoinedBracket, JoinedSweep, key_of_join, merged_first, opened

F16 = NDArray[np.float16]
Open = Callable[[Source], Raster]

FIRST_LONG: Final = 2600
"""The first look of a sweep is joined at the first level no longer than this, px."""
OPEN: Final = 4
"""Joins that are held open."""


def first_level(size: Sequence[int]) -> int:
    """The level of a first look."""
    level = 1
    while max(size) / 2**level > FIRST_LONG:
        level += 1
    return level


class JoinStore:
    """Joined pyramids by their solution. Safe to share between threads; bounded by `quota_bytes` on disk."""

    def __init__(self, folder: Path, quota_bytes: int = 20 << 30) -> None:
        self.folder = folder
        self.shelf: Shelf[Joined] = Shelf(folder, quota_bytes, OPEN)

    def best(self, scene: Scene) -> Joined | None:
        """The best there is now: whole, else first, else none. It counts as used."""
        base = scene.base
        assert not isinstance(base, FrameBase)
        return self.shelf.best(
            key_of_join(scene), lambda folder, key: opened(Pyramid.open(folder, key), base)
        )

    def first_look(self, scene: Scene, open_frame: Open, context: RenderContext) -> Joined:
        """Something to look at as soon as possible. open_frame: a source's raster, the quickest will do."""
        return self._joined(scene, open_frame, context, "first", nothing)

    def whole(
        self, scene: Scene, open_frame: Open, context: RenderContext, progress: Progress = nothing
    ) -> Joined:
        """All of it. open_frame: a source's whole raster."""
        return self._joined(scene, open_frame, context, "whole", progress)

    def _joined(
        self, scene: Scene, open_frame: Open, context: RenderContext, stage: str, progress: Progress
    ) -> Joined:
        def there() -> Joined | None:
            found = self.best(scene)
            return found if found is not None and (stage == "first" or found.complete) else None

        found = there()
        if found is not None:
            return found
        key = key_of_join(scene)
        with self.shelf.making(key, stage):  # whoever makes it may stand still for us
            found = there()
            if found is None:
                self._make(scene, open_frame, context, self.folder / key / stage, progress)
                found = there()
        assert found is not None
        return found

    def _make(
        self, scene: Scene, open_frame: Open, context: RenderContext, folder: Path, progress: Progress
    ) -> None:
        base = scene.base
        assert not isinstance(base, FrameBase)
        frames: dict[str, InputFrame] = {}
        members = {m.source: m for m in base.members}
        wanted = {m.source for m in base.enabled} | {base.anchor}
        for n, key in enumerate(sorted(wanted)):
            source, member = scene.source(key), members[key]
            if isinstance(member, SweepMember) and member.bracket is not None:
                progress("merging exposures", 0.25 * n / len(wanted))
                raster: Raster = self._joined(
                    merged_first(scene, member.bracket), open_frame, context, folder.name, nothing
                )
            else:
                progress("opening frames", 0.25 * n / len(wanted))
                raster = open_frame(source)
            frames[key] = InputFrame(key, source.path or key, raster.info, raster)
        chief = frames[base.anchor]
        whole = folder.name == "whole"
        if isinstance(base, Sweep):
            made = self._of_sweep(base, frames, context, whole, progress)
            info = JoinedSweep.facts(base, chief.info)
        else:
            made = self._of_bracket(base, frames, context, whole, progress)
            info = JoinedBracket.facts(base, chief.info)

        def bands() -> Iterator[F16]:
            rows = 0
            for band in made.bands:
                progress("joining", 0.4 + 0.6 * rows / made.size[0])
                rows += len(band)
                yield band

        folder.parent.mkdir(parents=True, exist_ok=True)
        write_pyramid(
            folder, info, made.size, bands(), first_level=made.level, beside={SEAMS: made.seams, **made.more}
        )
        self.shelf.keep_quota(folder.parent.name)

    def _of_sweep(
        self,
        base: Sweep,
        frames: dict[str, InputFrame],
        context: RenderContext,
        whole: bool,
        progress: Progress,
    ) -> "_Made":
        progress("cutting seams", 0.25)
        all_projected = sweep.project_all(base, frames, context)
        joining = sweep.decide(all_projected, base, context.pool, sweep.SMALL if whole else sweep.SMALL // 2)
        level = 0 if whole else first_level(base.size)
        size = (-(-base.size[1] // 2**level), -(-base.size[0] // 2**level))
        owners = np.array([*joining.owners, -1])[joining.names].astype(np.int8)
        more = {NOISES: noises_of(all_projected)} if base.revision > 3 else {}
        px = sweep.bands(all_projected, joining, base.size, level, context.pool)
        return _Made(level, size, owners, px, more)

    def _of_bracket(
        self,
        base: Bracket,
        frames: dict[str, InputFrame],
        context: RenderContext,
        whole: bool,
        progress: Progress,
    ) -> "_Made":
        progress("looking for what moved", 0.25)
        chief = frames[base.anchor]
        level = 0 if whole else max(1, min(max(f.raster.levels) for f in frames.values()) - 2)
        level = max(level, max(min(f.raster.levels) for f in frames.values()))
        size = chief.raster.shape(level)
        exposures = exposures_of(base, frames, context)
        merging = decide_moved(exposures, base, level, (size[1], size[0]), context.pool)
        alone = np.where(merging.moved > 0.5, merging.chosen.argmax(0), -1).astype(np.int8)
        return _Made(
            level, size, alone, bracket.bands(exposures, merging, level, (size[1], size[0]), context.pool)
        )


@dataclass(frozen=True)
class _Made:
    """What a pyramid is written from: its first level, that one's (height, width), who is shown where, and its px; more: what
    else lies beside it."""

    level: int
    size: tuple[int, int]
    seams: NDArray[np.int8]
    bands: Iterator[F16]
    more: dict[str, NDArray[np.float64]] = field(default_factory=dict)


def input_frames(sources: list[Source], open_frame: Open) -> list[InputFrame]:
    """Frames as a join looks at them, in order."""
    out = []
    for source in sources:
        raster = open_frame(source)
        out.append(InputFrame(source.id, Path(source.path).name or source.id, raster.info, raster))
    return out
