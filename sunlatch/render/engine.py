"""Renders scenes: binds them to the light they are made of."""

from ..frame import Raster
from ..layers.loans import OpenSource
from ..ledger import Scene
from ..running.context import RenderContext
from .develop import Development


class Engine(RenderContext):
    """One per process; safe to share between threads."""

    def develop(
        self,
        scene: Scene,
        raster: Raster,
        untrimmed: bool = False,
        lent: OpenSource | None = None,
        preview_edit: str = "",
    ) -> Development:
        """A scene bound to its raster, ready to be looked at; untrimmed: with what Trim cuts away; lent: gives the raster of
        a source that a loan brings; preview_edit: the id of a repair that is still being drawn."""
        return Development(self, scene, raster, untrimmed, lent, preview_edit)
