"""The Light band of a scene: its moves in their order, what each must know of the whole picture, and bands taken through them.

A step's key is the hash of all it depends on. The picture before the first step that differs from the last answer's is kept, so
that the next answer to a drag begins there.
"""

from collections.abc import Callable
from concurrent.futures import Future, wait
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry import View
from ..ledger import MoveLine, Scene
from ..masking.masks import Latches
from ..moves import LIGHT_KINDS
from ..moves.base import NO_AUX, Lay
from ..running.cache import key_of
from ..running.patience import doing_of, go_on
from ..sensor.ground import Ground
from .passes import BAND_ROWS, Band, Pass, Start, Step

F32 = NDArray[np.float32]


class LightBand:
    """See the module. start: names the light before the first step, frame: that of the camera; starting: bands of it over
    a view."""

    def __init__(
        self,
        ground: Ground,
        scene: Scene,
        latches: Latches,
        start: str,
        frame: str,
        starting: Callable[[View], Start],
    ) -> None:
        self.ground, self.scene, self.latches = ground, scene, latches
        self.start, self._frame_key, self._starting = start, frame, starting
        self.steps = self._plan()

    def _plan(self) -> list[Step]:
        key = self.start
        steps = []
        for line in self.scene.working():
            if line.strength == 0:
                continue
            declared = LIGHT_KINDS[line.kind]
            assert declared.coefficients is not None
            coef = declared.coefficients(line.params, line.strength)
            if declared.located is not None:
                coef = np.concatenate([coef, declared.located(line.params, self._lay)])
            key = key_of(
                key,
                line.kind,
                line.revision,
                np.asarray(coef, np.float32).tobytes().hex(),
                self.latches.where_key(line.latch, line.spare),
            )
            steps.append(Step(line, coef, key))
        return steps

    def move_mask(self, line: MoveLine, view: View) -> F32 | None:
        """Where a move applies, latch and spare clauses together; None for everywhere."""
        with doing_of(line.id):
            return self.latches.where(line.latch, line.spare, view)

    # running the steps

    def _aux(self, index: int) -> F32:
        """What step `index` must know about the whole picture as it enters that step."""
        line = self.steps[index].line
        declared = LIGHT_KINDS[line.kind]
        survey = declared.survey
        if survey is None:
            return NO_AUX
        before = self.steps[index - 1].key if index else self.start

        def make() -> F32:
            go_on()
            whole = self.light(self.ground.geometry.whole(declared.survey_edge), index)
            return np.ascontiguousarray(survey(whole, line.params), np.float32)

        asked = line.params.model_dump(mode="json", include=set(declared.surveyed))
        key = key_of("survey", self.ground.raster.identity, before, line.kind, line.revision, asked)
        with doing_of(line.id):
            return self.ground.context.models.remember(key, make)

    @cached_property
    def _lay(self) -> Lay:
        """How the picture lies, for moves that have a place on it."""
        canvas, box = self.ground.geometry.canvas, self.ground.trimmed.box
        crop = (box.x0 - canvas.x0, box.y0 - canvas.y0, box.x1 - canvas.x0, box.y1 - canvas.y0)
        return Lay((canvas.width, canvas.height), crop, self.ground.geometry.to_canvas)

    def light(self, view: View, upto: int | None = None, keep: bool = False) -> F32:
        """Scene light (3, h, w), working RGB, after the first `upto` steps (all by default): what
        enters Rendering. keep: hold what the next answer to a drag will need."""
        steps = self.steps if upto is None else self.steps[:upto]
        last = steps[-1].key if steps else self.start
        key = self._light_key(view, last)
        found = self.ground.context.views.get(key)
        if found is not None:
            return found
        out = np.empty((3, view.size[1], view.size[0]), np.float32)

        def take(band: F32, r: int, e: int) -> None:
            out[:, r:e] = band

        self.run(view, steps, take, keep)
        self.ground.context.views.put(key, out)
        return out

    def _known(self, first: int, last: int, ahead: bool) -> list[Future[F32]]:
        """What each step from `first` to before `last` must know. ahead: the surveys this takes are made on one
        of the threads while on the others bands go as far as they can."""
        known: list[Future[F32]] = [Future() for _ in range(first, last)]

        def learn() -> None:
            for i, one in enumerate(known, first):
                if one.set_running_or_notify_cancel():
                    try:
                        one.set_result(self._aux(i))
                    except BaseException as error:
                        one.set_exception(error)

        if ahead and any(LIGHT_KINDS[s.line.kind].survey for s in self.steps[first:last]):
            self.ground.context.pool.submit(learn)
        else:
            learn()
        return known

    def _light_key(self, view: View, key: str) -> str:
        return self.ground.view_key("light", view, self.ground.geometry, key)

    def _resumed(self, view: View, chain: list[str]) -> tuple[int, F32 | None]:
        """How many steps are behind a picture of the view that is still held, and it."""
        for n in range(len(chain) - 1, 0, -1):
            held = self.ground.context.views.get(self._light_key(view, chain[n]))
            if held is not None:
                return n, held
        return 0, None

    def _worth_keeping(self, view: View, chain: list[str], begin: int) -> int:
        """Before which step of the chain the picture is worth keeping for the next answer to a drag; −1 for none."""
        view_key = self.ground.view_key("view", view, self.ground.geometry, self._frame_key)
        same, count = self.ground.context.changed_at(view_key, chain) - 1, len(chain) - 1
        return same if begin < same < count or (begin < same == count and same > 0) else -1

    def run(
        self, view: View, steps: list[Step], take: Band, keep: bool = False, ahead: bool = False,
        band_rows: int = BAND_ROWS,
    ) -> None:  # fmt: skip
        """Take working RGB through `steps`, the first so many, band by band, and hand each band on. keep: hold what
        the next answer to a drag will need. ahead: see `_known`; for pictures that are shown, not for those that
        are surveyed."""
        chain = [self.start, *(s.key for s in steps)]
        begin, held = self._resumed(view, chain)
        kept_at = self._worth_keeping(view, chain, begin) if keep else -1
        known = self._known(begin, len(steps), ahead)
        try:
            start = self._starting(view) if held is None else (lambda r, e: held[:, r:e].copy())
            masks = [self.move_mask(step.line, view) for step in steps[begin:]]
            light = Pass(
                self.ground.context, view.size, self.ground.geometry.place(view), steps[begin:], masks, known,
                kept_at - begin if kept_at >= 0 else -1, band_rows,
            )  # fmt: skip
            light.run(start, take)
        finally:
            for one in known:
                one.cancel()
            wait(known)
        if light.kept is not None:
            self.ground.context.views.put(self._light_key(view, chain[kept_at]), light.kept)
