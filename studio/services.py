"""Services of this process: its engine, its frame store, and the lane in which pictures are rendered.

Interactive requests carry a view and a rising number. When a newer one for the same view is
waiting, older ones are dropped before work on them starts.
"""

import logging
import math
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from contextvars import copy_context
from functools import cache
from pathlib import Path
from typing import TypeVar

from django.conf import settings

from sunlatch.blobs import Blobs
from sunlatch.errors import CancelledError, FrameError, StorageError, SunLatchError
from sunlatch.frame import FrameStore, Raster
from sunlatch.latch import INGREDIENT_KINDS
from sunlatch.ledger import Latch, Source, new_ingredient
from sunlatch.ledger import Scene as Document
from sunlatch.ledger import put_away as strokes_put_away
from sunlatch.merging import JoinStore, LightStore, key_of_join
from sunlatch.render import Development, Engine
from sunlatch.running.cache import key_of
from sunlatch.running.patience import Patience, doing_of, go_on, patience

from .behind import Behind
from .slots import Rank, Slots

log = logging.getLogger(__name__)
Result = TypeVar("Result")


class SupersededError(Exception):
    """A newer request for the same view has arrived."""


class Lane:
    """Where pictures are rendered: the newest request of a view wins, and the most urgent goes first."""

    def __init__(self, slots: Slots | None = None) -> None:
        self._slots = slots or Slots()
        self._newest: dict[str, int] = {}
        self._lock = threading.Lock()

    @contextmanager
    def asked(self, view: str, number: int, rank: Rank = Rank.MEASURE) -> Iterator[None]:
        """Inside, work is wanted while no newer request of the view has come and whoever asked still waits; it stands
        still while anything more urgent runs. Raises SupersededError where it is not wanted."""
        with self._lock:
            if number < self._newest.get(view, -1):
                raise SupersededError
            self._newest[view] = number
            while len(self._newest) > 500:
                self._newest.pop(next(iter(self._newest)))

        def overtaken() -> bool:
            return number < self._newest.get(view, number)

        try:
            with self.wanted(rank, overtaken):
                yield
        except CancelledError as error:
            raise SupersededError from error

    @contextmanager
    def wanted(
        self, rank: Rank, gone: Callable[[], bool] = lambda: False, seconds: float | None = None
    ) -> Iterator[None]:
        """Inside, work is of this rank; as long as it is wanted by whoever asked. seconds: how long it may take, where that
        is not what a picture may."""
        around = patience()

        def nobody() -> bool:
            return gone() or (around is not None and around.gone())

        left = seconds or (around.left() if around else math.inf)
        with Patience(nobody, left, rank, lambda: self._slots.pause(rank, nobody)):
            yield

    def run(self, work: Callable[[], Result]) -> Result:
        """Run `work` in its turn, under the patience that holds here; the time spent waiting does not count. Raises
        CancelledError when it is not wanted any more."""
        held = patience()
        if held is None:
            return work()
        left = held.left()
        with self._slots.slot(held.rank, held.gone) as slot:
            inside = Patience(held.gone, left, held.rank, held.pause, slot.yielding)
            with inside:
                go_on()
                return work()


@cache
def blobs() -> Blobs:
    """Where documents keep what they are too large to hold."""
    return Blobs(settings.BLOB_FOLDER)


@cache
def engine() -> Engine:
    """The engine of this process."""
    return Engine(blobs=blobs())


@cache
def store() -> FrameStore:
    """The pyramids, shared by all processes through the disk."""
    return FrameStore(settings.PYRAMID_FOLDER, settings.PYRAMID_QUOTA)


@cache
def joins() -> JoinStore:
    """Joined pictures, shared by all processes through the disk."""
    return JoinStore(settings.JOIN_FOLDER, settings.PYRAMID_QUOTA)


def light() -> LightStore:
    """The light of scenes, whatever they are made of."""
    return LightStore(store(), joins())


@cache
def lane() -> Lane:
    """The rendering lane of this process."""
    return Lane()


def frame_path(sha256: str) -> Path:
    """Where a frame's file lies."""
    return Path(settings.FRAME_FOLDER) / sha256[:2] / sha256


_decoding: set[str] = set()
_decoding_lock = threading.Lock()


def develop_whole_later(sha256: str) -> None:
    """Decode the whole frame in the background; until then its first look serves."""
    with _decoding_lock:
        if sha256 in _decoding:
            return
        _decoding.add(sha256)

    def work() -> None:
        try:
            whole = store().whole(sha256, frame_path(sha256))
        finally:
            with _decoding_lock:
                _decoding.discard(sha256)
        find_sky_later(Document(sources=[Source(sha256=sha256)]), whole)

    threading.Thread(target=work, name=f"decode-{sha256[:8]}", daemon=True).start()


def bare(document: Document, mended: bool = False) -> Document:
    """What a document is made of, with nothing done to it; mended: but its repairs."""
    made = Document(
        sources=[s for s in document.sources if s.id not in document.layer_sources], base=document.base
    )
    made.ground.projection = document.ground.projection
    made.repairs = document.repairs if mended else []
    return made


def sky_of(document: Document, raster: Raster) -> None:
    """Look for the sky of what a document is made of."""
    engine().develop(bare(document, mended=True), raster).reader.finding(new_ingredient("sky"))


_looking = Behind("sky-behind")


def find_sky_later(document: Document, raster: Raster) -> None:
    """Look for the sky in the background, so that a Sky latch is there when it is asked for; one at a time, the newest that
    was opened. Where the light is still being decoded or joined, that goes on to the sky by itself."""
    if not raster.complete or not settings.SKY_AHEAD:
        return

    def work(gone: Callable[[], bool]) -> None:
        with lane().wanted(Rank.BEHIND, gone):
            sky_of(document, raster)

    _looking.ask("sky", key_of(raster.identity, bare(document, mended=True).model_dump_json()), work)


def later(name: str, work: Callable[[], object]) -> None:
    """Do something in the background that nobody waits for. What cannot be done is said when it is asked for."""

    def done() -> None:
        try:
            work()
        except (SunLatchError, OSError) as error:
            log.info("%s was not done behind: %s", name, error)

    threading.Thread(target=done, name=name, daemon=True).start()


@contextmanager
def beside(work: Callable[[], object]) -> Iterator[None]:
    """Something is done on another core while what is inside goes on, under the patience that holds here; it ends with it."""
    with ThreadPoolExecutor(1, "beside") as pool:
        doing = pool.submit(copy_context().run, work)
        yield
        doing.result()


def found(asked: Development, latches: list[Latch]) -> Development:
    """The same, once what some latches (and those they are made of) look for in the frame has been found.
    Called outside the lane: finding takes seconds, and other pictures need not wait for it."""
    for latch in asked.scene.made_of(latches):
        with doing_of(asked.scene.holder(latch)):
            for line in latch.ingredients:
                if line.on and INGREDIENT_KINDS[line.kind].find is not None:
                    asked.reader.finding(line)
            if latch.fine_edges and any(line.on for line in latch.ingredients):
                asked.latches.fine_model(latch)
    return asked


def put_away(document: Document) -> Document:
    """The same, with what it is too large to hold itself among its blobs: strokes, and what was found by now. Decodes
    nothing, looks for nothing. Raises StorageError."""
    raster = light().best(document)
    if raster is not None:
        try:
            engine().develop(document, raster, lent=_held_source).latches.keep_findings()
        except StorageError:
            raise
        except SunLatchError:
            pass  # where something of it cannot be opened now, there is nothing found to keep; it is saved all the same
    return strokes_put_away(document, blobs())


def whole_source(source: Source) -> Raster:
    """A source's light, all of it."""
    return store().whole(source.sha256, frame_path(source.sha256))


def _held_source(source: Source) -> Raster:
    """A source's light, where it is there by now. Raises FrameError."""
    found = store().best(source.sha256)
    if found is None:
        raise FrameError(f"{source.path or source.sha256[:8]} is not decoded yet")
    return found


def quick_source(source: Source) -> Raster:
    """A source's light, as much as there is soon."""
    return store().first_look(source.sha256, frame_path(source.sha256))[1]


_joining = Behind("join-behind")


def join_whole_later(document: Document) -> None:
    """Join the whole in the background; until then its first look serves. One at a time: where a scene is joined another way
    meanwhile, the way before is given up."""

    def work(gone: Callable[[], bool]) -> None:
        with lane().wanted(Rank.BEHIND, gone):
            whole = joins().whole(document, whole_source, engine())
        find_sky_later(document, whole)

    _joining.ask(document.anchor.id, key_of_join(document), work)


def light_of(document: Document, later: bool = True) -> Raster:
    """The light of a document, the best there is now; what is not there yet is made in the background, unless a first look
    is enough."""
    raster = light().first_look(document, quick_source, engine())
    if later and not raster.complete:
        if document.base.members:
            join_whole_later(document)
        else:
            develop_whole_later(document.anchor.sha256)
    return raster


def development(document: Document, untrimmed: bool = False, preview_edit: str = "") -> Development:
    """A document bound to its light, the best there is now. preview_edit: the id of a repair that is still being drawn."""
    return engine().develop(document, light_of(document), untrimmed, quick_source, preview_edit)


def first_development(document: Document) -> Development:
    """The same for a look that the half-size pyramid is good enough for."""
    return engine().develop(document, light_of(document, later=False), lent=quick_source)


def whole_development(document: Document) -> Development:
    """The same on the whole of it, waiting for it to be decoded."""
    whole = light().whole(document, whole_source, engine())
    return engine().develop(document, whole, lent=whole_source)


def development_for_file(document: Document) -> Development:
    """The same on the whole of it, with an engine of its own: a file is made once, band by band,
    so there is little worth keeping."""
    context = Engine(cache_bytes=256 << 20, blobs=blobs())
    whole = light().whole(document, whole_source, context)
    return context.develop(document, whole, lent=whole_source)
