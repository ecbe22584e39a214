"""What the commands share: finding a scene's frame, reading settings, saving."""

import json
import os
from pathlib import Path
from typing import Annotated, Any

import typer

from ..blobs import Blobs
from ..errors import DocumentError, JoinError, SunLatchError
from ..frame import FrameStore, Raster, hash_file
from ..ledger import SPARE_EDGES, Latch, Scene, Source, Spare, load_scene, parse_scene, save_scene
from ..merging import JoinStore, LightStore
from ..parameters import Params
from ..render import Development, Engine

SceneFile = Annotated[Path, typer.Argument(help="A scene document")]
FrameOption = Annotated[Path | None, typer.Option("--frame", help="The frame, if it has moved")]
Settings = Annotated[list[str] | None, typer.Argument(help="name=value, e.g. ev=-0.9 full.x=0.5")]


def there(path: Path) -> Path:
    """A file that has to be there. Raises SunLatchError."""
    if not path.is_file():
        raise SunLatchError(f"{path} is not there")
    return path


def store() -> FrameStore:
    """The pyramids of the command line."""
    return FrameStore(_home() / "pyramids")


def _home() -> Path:
    return Path(os.environ.get("SUNLATCH_CACHE") or str(Path.home() / ".cache" / "sunlatch"))


def joins() -> JoinStore:
    """The joined pictures of the command line."""
    return JoinStore(_home() / "joins")


def sources_of(frames: list[Path], document: Path) -> list[Source]:
    """Frames as sources of a document. Raises JoinError where one is not there."""
    sources = []
    for path in frames:
        if not path.is_file():
            raise JoinError(f"{path} is not there; go on without it, or bring it back")
        hint = os.path.relpath(path.resolve(), document.resolve().parent)
        sources.append(Source(sha256=hash_file(path), path=hint))
    return sources


def parts_of(document: Path) -> Blobs:
    """What a scene is too large to hold itself: in a folder beside its document."""
    return Blobs(document.with_name(document.name + ".parts"))


def source_raster(source: Source, document: Path, frame: Path | None = None) -> Raster:
    """A source of a scene, whole. Raises DocumentError when it is another one, or gone."""
    path = frame or (document.parent / source.path)
    if not path.is_file():
        raise DocumentError(f"the frame {path} is not there; give it with --frame", "sources[0].path")
    found = hash_file(path)
    if found != source.sha256:
        raise DocumentError(f"{path} is a different frame than the scene was made from", "sources[0].sha256")
    return store().whole(found, path)


def raster_of(scene: Scene, document: Path, frame: Path | None, engine: Engine) -> Raster:
    """The light of a scene: of its frame, or joined from its frames. Raises DocumentError."""

    def open_frame(source: Source) -> Raster:
        return source_raster(source, document, frame if source.id == scene.anchor.id else None)

    return LightStore(store(), joins()).whole(scene, open_frame, engine)


def open_scene(
    document: Path, frame: Path | None = None, scene: Scene | None = None
) -> tuple[Scene, Development]:
    """A scene document, or `scene` in its place, bound to its frame."""
    scene = scene or load_scene(document)
    engine = Engine(blobs=parts_of(document))
    raster = raster_of(scene, document, frame, engine)
    return scene, engine.develop(scene, raster, lent=lambda source: source_raster(source, document))


def assigned(settings: list[str] | None) -> dict[str, Any]:
    """name=value pairs into nested data; values are JSON where they can be, else words."""
    data: dict[str, Any] = {}
    for setting in settings or []:
        name, sign, raw = setting.partition("=")
        if not sign or not name:
            raise DocumentError(f"{setting!r} is not of the form name=value")
        try:
            value = json.loads(raw)
        except json.JSONDecodeError:
            value = raw
        *outer, last = name.split(".")
        place = data
        for part in outer:
            place = place.setdefault(part, {})
        place[last] = value
    return data


def merged(old: dict[str, Any], new: dict[str, Any]) -> dict[str, Any]:
    """Data with some of it replaced, however deep."""
    return old | {
        k: merged(old[k], v) if isinstance(v, dict) and isinstance(old.get(k), dict) else v
        for k, v in new.items()
    }


def from_defaults(params: type[Params], settings: list[str] | None) -> dict[str, Any]:
    """Settings given, over a kind's defaults."""
    return merged(params().model_dump(mode="json"), assigned(settings))


def spares_of(words: list[str] | None, development: Development) -> list[Spare]:
    """Spare clauses by their words."""
    for word in words or []:
        if word not in SPARE_EDGES:
            raise DocumentError(f"{word!r} cannot be spared; known are {', '.join(SPARE_EDGES)}")
    at = development.ground.read_at()
    return [Spare(what=w, edge=SPARE_EDGES[w], read_at=at) for w in words or []]  # type: ignore[arg-type]


def find_latch(scene: Scene, which: str) -> Latch:
    """A latch by id or name. Raises DocumentError."""
    found = scene.latch(which)
    if found is None:
        raise DocumentError(f"there is no latch {which!r} in this scene")
    return found


def keep(scene: Scene, document: Path) -> None:
    """Save a changed scene once it is known to be valid."""
    save_scene(parse_scene(scene.model_dump(mode="json")), document)
