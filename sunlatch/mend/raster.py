"""A raster under repairs. They are made on its finest level, as what is to be added there, and halved as it is: so all levels
agree, and a block costs what it touches."""

import hashlib
from collections.abc import Callable, Collection
from functools import cached_property
from pathlib import Path
from typing import Final

import numpy as np
from numpy.typing import NDArray

from ..blobs import Blobs
from ..blocks import Block, Fetch, inside, repeat_edges
from ..frame import FrameInfo, Raster, per_of, span_of
from ..ledger import Scene
from ..running.patience import doing_of
from .units import GrownUnit, units_of

F32 = NDArray[np.float32]
Keep = Callable[[str, Callable[[], F32]], F32]
"""(name, how it is made) → it, made if it is not held."""
REVISION: Final = "m2"


def _hash(*parts: str) -> str:
    return hashlib.blake2b("\n".join(parts).encode(), digest_size=12).hexdigest()


class Mended:
    """See the module. preview_edit: the id of a repair that is still being drawn: its own blocks show it, and what is learned of the
    whole picture stays what it was without it."""

    def __init__(
        self,
        under: Raster,
        scene: Scene,
        keep: Keep,
        blobs: Blobs | None = None,
        preview_edit: str = "",
    ) -> None:
        self.under, self._keep = under, keep
        self._base = min(under.levels)
        self.units, self._of = units_of(
            scene.repairs, per_of(under), span_of(under), blobs, under.coverage(self._base)
        )
        self._seen = _seen(self._of, scene)
        settled = [r for r in scene.repairs if r.id != preview_edit] if preview_edit else scene.repairs
        parts = [r.model_dump_json(exclude={"id", "name", "note"}) for r in settled if r.on]
        self._whole = _hash(REVISION, *parts) if parts else ""

    @property
    def info(self) -> FrameInfo:
        """As what lies beneath."""
        return self.under.info

    @property
    def levels(self) -> Collection[int]:
        """The levels there are."""
        return self.under.levels

    @property
    def wraps(self) -> bool:
        """As beneath."""
        return self.under.wraps

    @property
    def complete(self) -> bool:
        """False while finer levels are still to come."""
        return self.under.complete

    @property
    def identity(self) -> str:
        """What lies beneath, and every repair."""
        return f"{self.under.identity} {self._whole}" if self._whole else self.under.identity

    def identity_of(self, level: int, block: Block) -> str:
        """What lies beneath, and the repairs that touch the block."""
        own = self.under.identity_of(level, block)
        touched = self._touching(self._windows, self._up(block, level))
        return f"{own} {_hash(*(self.names[n] for n in touched))}" if len(touched) else own

    def shape(self, level: int) -> tuple[int, int]:
        """(height, width) of a level."""
        return self.under.shape(level)

    def coverage(self, level: int) -> Fetch | None:
        """As beneath, and where something was grown."""
        under = self.under.coverage(level)
        grown = [unit for unit in self.units if isinstance(unit, GrownUnit)]
        if under is None or not grown:
            return under
        per, span = per_of(self.under, level), span_of(self.under, level)

        def fetch(top: int, bottom: int, left: int, right: int) -> F32:
            out = under(top, bottom, left, right)
            here = Block(top, bottom, left, right)
            for unit in grown:
                if len(self._touching(np.array([unit.window], np.int64), self._up(here, level))):
                    np.maximum(out[0], unit.covers(here, per, span) > 0.5, out=out[0])
            return out

        return fetch

    @property
    def clipped(self) -> NDArray[np.uint8] | None:
        """As beneath."""
        return self.under.clipped

    def noise(self, level: int, block: Block) -> tuple[float, float] | None:
        """As beneath."""
        return self.under.noise(level, block)

    @property
    def home(self) -> Path | None:
        """As beneath: what is kept there is named by the identity."""
        return self.under.home

    # the repairs

    @cached_property
    def _windows(self) -> NDArray[np.int64]:
        return np.array([u.window for u in self.units], np.int64).reshape(-1, 4)

    def _touching(self, windows: NDArray[np.int64], block: Block) -> NDArray[np.int64]:
        """Which windows share px with a block, of the finest level."""
        top, bottom, left, right = windows.T
        hit = (top < block.bottom) & (block.top < bottom)
        beside = (left < block.right) & (block.left < right)
        if self.wraps:
            width = self.under.shape(self._base)[1]
            for turn in (-width, width):
                beside |= (left + turn < block.right) & (block.left < right + turn)
        return np.flatnonzero(hit & beside)

    def _up(self, block: Block, level: int) -> Block:
        """A block of a level on the finest."""
        k = 1 << (level - self._base)
        return Block(*(v * k for v in block))

    @cached_property
    def names(self) -> list[str]:
        """Every unit by what it does and by what it finds: those before it that it looks at."""
        out: list[str] = []
        windows = self._windows
        under = f"{REVISION} {self.under.identity} {self._base}"
        for n, unit in enumerate(self.units):
            before: set[int] = set()
            for block in unit.reads:
                before.update(self._touching(windows[: self._seen[n]], block).tolist())
            out.append(_hash(under, unit.identity, *(out[m] for m in sorted(before))))
        return out

    def _window(self, n: int, level: int) -> Block:
        top, bottom, left, right = (int(v) for v in self._windows[n])
        k = 1 << (level - self._base)
        return Block(top // k, -(-bottom // k), left // k, -(-right // k))

    def _added(self, n: int, level: int) -> F32:
        """What the n-th unit adds to its window of a level (3, h, w)."""

        def make() -> F32:
            if level == self._base:
                with doing_of(self._of[n]):
                    return self.units[n].make(self._reader(level, self._seen[n]))
            finer, at, here = self._added(n, level - 1), self._window(n, level - 1), self._window(n, level)
            height, width = self.shape(level - 1)
            wide = np.zeros((3, 2 * (here.bottom - here.top), 2 * (here.right - here.left)), np.float32)
            top, left = at.top - 2 * here.top, at.left - 2 * here.left
            wide[:, top : top + finer.shape[1], left : left + finer.shape[2]] = finer
            # an odd last row or column is its own neighbour
            if at.bottom == height and height % 2:
                wide[:, -1] = wide[:, -2]
            if at.right == width and width % 2:
                wide[:, :, -1] = wide[:, :, -2]
            even = wide.reshape(3, wide.shape[1] // 2, 2, wide.shape[2] // 2, 2)
            return np.ascontiguousarray(even.mean((2, 4), dtype=np.float32))

        return self._keep(f"repair {self.names[n]} {level}", make)

    def fetch(self, level: int) -> Fetch:
        """Reads blocks of a level, mended."""
        return self._reader(level, len(self.units))

    def _reader(self, level: int, count: int) -> Fetch:
        """Reads blocks of a level as the first `count` units leave them."""
        read = self.under.fetch(level)
        if count == 0:
            return read
        height, width = self.shape(level)

        def fetch(top: int, bottom: int, left: int, right: int) -> F32:
            out = read(top, bottom, left, right)
            # beyond its edges a picture repeats them, mended as they are; one that goes all the way round goes on
            y0, y1, a, b = inside(top, bottom, height)
            x0, x1, c, d = (left, right, 0, right - left) if self.wraps else inside(left, right, width)
            here = Block(y0, y1, x0, x1)
            touched = self._touching(self._windows[:count], self._up(here, level))
            for n in touched.tolist():
                at, added = self._window(n, level), self._added(n, level)
                for turn in (-width, 0, width) if self.wraps else (0,):
                    moved = Block(at.top, at.bottom, at.left + turn, at.right + turn)
                    _add(out[:, a:b, c:d], here, added, moved)
            if len(touched):
                repeat_edges(out, a, b, c, d)
            return out

        return fetch


def _seen(of: list[str], scene: Scene) -> list[int]:
    """How many of the units are done before each looks: all before it; of Heal and Clone no tile looks at another."""
    whole = {r.id for r in scene.repairs if r.kind in ("heal", "clone")}
    first = {key: of.index(key) for key in whole & set(of)}
    return [first.get(key, n) for n, key in enumerate(of)]


def _add(out: F32, here: Block, added: F32, at: Block) -> None:
    """Add what lies in a window to planes of a block, where they meet."""
    top, bottom = max(at.top, here.top), min(at.bottom, here.bottom)
    left, right = max(at.left, here.left), min(at.right, here.right)
    if bottom > top and right > left:
        out[:, top - here.top : bottom - here.top, left - here.left : right - here.left] += added[
            :, top - at.top : bottom - at.top, left - at.left : right - at.left
        ]
