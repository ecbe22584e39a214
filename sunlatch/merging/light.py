"""The light of scenes as one store: a frame's decoded pyramid, or the pyramid that a join's frames and solution give."""

from dataclasses import dataclass

from ..frame import FrameStore, Raster
from ..ledger import Scene
from ..running.context import RenderContext
from .plan import Progress, nothing
from .store import JoinStore, Open


@dataclass(frozen=True)
class LightStore:
    """Rasters by what scenes are made of. Safe to share between threads; the disk it takes is bounded by its parts."""

    frames: FrameStore
    joins: JoinStore

    def best(self, scene: Scene) -> Raster | None:
        """The best there is now: whole, else first, else none. It counts as used; nothing is made."""
        return self.joins.best(scene) if scene.base.members else self.frames.best(scene.anchor.sha256)

    def first_look(self, scene: Scene, open_frame: Open, context: RenderContext) -> Raster:
        """Something to look at as soon as possible. open_frame: a source's raster, the quickest will do."""
        if scene.base.members:
            return self.joins.first_look(scene, open_frame, context)
        return open_frame(scene.anchor)

    def whole(
        self, scene: Scene, open_frame: Open, context: RenderContext, progress: Progress = nothing
    ) -> Raster:
        """All of it. open_frame: a source's whole raster."""
        if scene.base.members:
            return self.joins.whole(scene, open_frame, context, progress)
        return open_frame(scene.anchor)
