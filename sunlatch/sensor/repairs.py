"""A scene's raster under its repairs: made once for as long as they are the same."""

from ..frame import Raster
from ..ledger import Scene
from ..mend import Mended
from ..running.cache import key_of
from ..running.context import RenderContext


def mended(context: RenderContext, scene: Scene, raster: Raster, preview_edit: str = "") -> Raster:
    """The raster as repairs leave it; itself where there are none. preview_edit: the id of one that is still being drawn."""
    if not scene.repairs:
        return raster
    parts = [repair.model_dump_json(exclude={"name", "note"}) for repair in scene.repairs]
    return context.mended(
        key_of(raster.identity, min(raster.levels), parts, preview_edit),
        lambda: Mended(raster, scene, context.models.remember, context.blobs, preview_edit),
    )
