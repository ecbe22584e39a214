"""What latches are called, for the cache: all that a latch depends on, and what of it is kept with the document."""

from typing import Self

import numpy as np
from numpy.typing import NDArray

from ..latch import INGREDIENT_KINDS
from ..ledger import Latch, Scene
from ..running.cache import key_of
from .reader import Reader, found_by, pinned_of

F32 = NDArray[np.float32]


class LatchKeys:
    """Identities of a scene's latches."""

    def __init__(self, scene: Scene, reader: Reader, bare: Self | None = None) -> None:
        self.scene = scene
        self.reader = reader
        self._bare = bare
        """Where latches are held that read no light and no colour, if the reader's picture is not the bare frame."""
        self.ground = reader.ground
        self._latch_keys: dict[str, str] = {}
        self._latch_placed: dict[str, bool] = {}

    def latch_key(self, latch: Latch) -> str:
        """Names all that a latch depends on but the map."""
        if self._bare is not None and not self._reads(latch):
            return self._bare.latch_key(latch)
        known = self._latch_keys.get(latch.id)
        if known is None:
            held = latch.model_dump(mode="json", exclude={"id": True, "name": True})
            for line, written in zip(latch.ingredients, held["ingredients"], strict=True):
                del written["id"], written["found"]
                if INGREDIENT_KINDS[line.kind].find is not None:
                    written["revision"] = self.reader.finding_key(line)
            others = [self.scene.latch(i.params.latch) for i in latch.ingredients if i.kind == "another"]
            held["others"] = [self.latch_key(other) for other in others if other is not None]
            known = self._latch_keys[latch.id] = key_of(self.ground.raster.identity, self.reader.own, held)
        return known

    def keep_findings(self) -> None:
        """Put among the scene's blobs what has been found for its latches by now, and note it in their lines, so that
        later finders change nothing of them. Looks for nothing. Raises StorageError where it cannot be written."""
        if self.ground.context.blobs is None or not self.ground.raster.complete:
            return
        for line in (i for latch in self.scene.latches for i in latch.ingredients):
            newest = INGREDIENT_KINDS[line.kind].revision
            if INGREDIENT_KINDS[line.kind].find is None or pinned_of(line):
                continue
            if line.found is not None and line.found.by == found_by(line):
                continue
            line.found, line.revision = self.reader.kept_now(line), newest

    def _reads(self, latch: Latch) -> bool:
        """Whether a latch reads light or colour, of itself or by another."""
        for line in latch.ingredients:
            kind = INGREDIENT_KINDS[line.kind]
            if line.kind == "another":
                other = self.scene.latch(line.params.latch) if line.params.latch else None
                if line.on and other is not None and self._reads(other):
                    return True
            elif line.on and kind.reads:
                return True
        return False

    def _placed(self, latch: Latch) -> bool:
        """Whether a latch is, in part, a shape on the developed plane."""
        known = self._latch_placed.get(latch.id)
        if known is None:
            others = [self.scene.latch(i.params.latch) for i in latch.ingredients if i.kind == "another"]
            known = any(INGREDIENT_KINDS[i.kind].placed for i in latch.ingredients if i.on) or any(
                self._placed(other) for other in others if other is not None
            )
            self._latch_placed[latch.id] = known
        return known
