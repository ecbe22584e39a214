"""A scene bound to its frame: everything that can be seen of it, in the order of the pixels.

Camera RGB as Ground leaves it (sensor.py, ground.py) is turned into working RGB, taken through the
Light moves, and rendered. Steps over pixels run as kernels over bands of rows; what a step must know
about the whole picture it learns at a fixed small size. A result's key is the hash of all it depends on.
"""

import numpy as np
from numpy.typing import NDArray

from ..colour import camera_to_working
from ..colour.tones import render_tones, tone_table
from ..errors import RenderError
from ..frame import Raster
from ..geometry import View
from ..layers.loans import OpenSource, layer_alpha, layers_of
from ..layers.skies import sky_in
from ..layers.sky_proposal import propose_sky
from ..ledger import Latch, NewSky, Scene, Source
from ..masking.masks import Latches
from ..masking.reader import Reader
from ..running.cache import key_of
from ..running.context import RenderContext
from ..running.patience import doing_of
from ..sensor.ground import Ground
from ..sensor.kernels import blend, bound, push_colour, times, to_working
from ..sensor.repairs import mended
from .band import LightBand
from .output import Output
from .passes import BAND_ROWS, Band, Start, Step
from .seen import Seen, SeenReader

F32 = NDArray[np.float32]


class Development:
    """See the module. Cheap to make: one per request. It holds what Ground says, the reading picture, and the latches;
    each knows only those before it."""

    def __init__(
        self,
        context: RenderContext,
        scene: Scene,
        raster: Raster,
        untrimmed: bool = False,
        lent: OpenSource | None = None,
        preview_edit: str = "",
    ) -> None:
        self.context = context
        self.scene = scene
        self.under = raster
        """The light without its repairs."""
        raster = mended(context, scene, raster, preview_edit)
        self.ground = Ground(context, scene, raster, untrimmed)
        self.reader = Reader(self.ground)
        self.latches = bare = Latches(scene, self.reader)
        self.raster = raster
        self.geometry = self.ground.geometry
        matrix = camera_to_working(raster.info.colour, self.ground.light())
        self._matrix = (matrix * 2.0**self.ground.base_exposure).astype(np.float32).ravel()
        band = scene.ground
        self._frame_key = key_of(
            self.geometry.key(), self.ground.plan.key(self.ground.plan.best("crisp")),
            self.latches.where_key(band.noise.latch, band.noise.spare),
            self.latches.where_key(band.crispness.latch, band.crispness.spare),
            *([self.latches.where_key(band.refocus.latch, band.refocus.spare)] if self.ground.plan.refocuses else []),
        )  # fmt: skip
        self._lent, self._preview_edit = lent, preview_edit
        self.loans = layers_of(scene, self.ground, self.latches, lent)
        """What is brought from second frames."""
        with doing_of(scene.sky.id if scene.sky else ""):
            self.sky = sky_in(scene, self.ground, self.latches, self.reader, self._matrix, lent)
        """The sky that is put in place of the one that was there."""
        if self.loans or self.sky:
            # what is brought is let in by what the bare frame says; moves go by what is seen
            self.reader = SeenReader(self.reader, Seen(bare, self.loans, self.sky))
            self.latches = Latches(scene, self.reader, bare)
        self.bare = bare
        """The latches as they read the frame alone: by these it is smoothed and drawn together, and others are let in."""
        self.push = 1.0
        """How many times as vivid the picture is shown, to see casts; a way of looking only."""
        start = key_of(self._frame_key, [float(v) for v in self._matrix], *(loan.key for loan in self.loans),
                       self.sky.key if self.sky else "")  # fmt: skip
        self.band = LightBand(self.ground, scene, self.latches, start, self._frame_key, self._from_camera)
        """The Light band, ready to run."""

    def again(self, scene: Scene | None = None, untrimmed: bool = False) -> "Development":
        """The same light under another scene, or with what Trim cuts away."""
        return Development(
            self.context, scene or self.scene, self.under, untrimmed, self._lent, self._preview_edit
        )

    @property
    def steps(self) -> list[Step]:
        """The moves that are on, in their order."""
        return self.band.steps

    def light_planes(self, view: View, upto: int | None = None, keep: bool = False) -> F32:
        """Scene light (3, h, w), working RGB, after the first `upto` steps (all by default): what
        enters Rendering. keep: hold what the next answer to a drag will need."""
        return self.band.light(view, upto, keep)

    # camera RGB as Ground leaves it

    def camera(self, view: View) -> F32:
        """Camera RGB planes (3, h, w) of a view, upright, Noise, Refocus and Crispness where they are latched; the
        lens's falloff is still in it."""

        def make() -> F32:
            plan = self.ground.plan
            there, clear, sharp = (
                self._where(kind, view) if acts else None
                for kind, acts in (
                    ("noise", plan.smooths), ("refocus", plan.refocuses), ("crispness", plan.crisps)
                )
            )  # fmt: skip
            if there is None and clear is None and sharp is None:
                out = self.ground.staged(view, "crisp")
            else:
                smooth = self.ground.staged(view, "smooth")
                out = smooth if there is None else self.ground.staged(view, "light").copy()
                if there is not None:
                    self.ground.each(
                        out.shape[1], lambda a, b: blend(out[:, a:b], smooth[:, a:b], there[a:b])
                    )
                refocused = self.ground.staged(view, "refocused") if plan.refocuses else smooth
                if plan.refocuses:
                    drawn = refocused - smooth
                    out = out + (drawn if clear is None else drawn * clear)
                if plan.crisps:
                    crisped = self.ground.staged(view, "crisp") - refocused
                    out = out + (crisped if sharp is None else crisped * sharp)
            return out

        return self.ground.views.remember(
            self.ground.view_key("ground", view, self.geometry, self._frame_key), make
        )

    def _where(self, kind: str, view: View) -> F32 | None:
        """Where a line of Ground applies; None for everywhere."""
        line = getattr(self.scene.ground, kind)
        with doing_of(kind):
            return self.bare.where(line.latch, line.spare, view)

    def propose_sky(
        self, source: Source, raster: Raster, latch: Latch, horizon: float | None = None
    ) -> NewSky:
        """A new sky from another frame, let in through a latch (see `sky_proposal`)."""
        return propose_sky(
            self.ground, self.bare, self.bare.reader, self._matrix, source, raster, latch, horizon
        )

    def _from_camera(self, view: View) -> Start:
        """Bands of working light before the first step."""
        camera, gain = self.camera(view), self.ground.fall_gain(view)
        lent = [
            (loan.frame.light(view), layer_alpha(loan.line, loan.frame, self.bare, view))
            for loan in self.loans
        ]
        with doing_of(self.sky.line.id if self.sky else ""):
            sky = self.sky.lay(view) if self.sky else None

        def start(r: int, e: int) -> F32:
            rgb = np.empty((3, e - r, view.size[0]), np.float32)
            with self.context.clock.step("to working light"):
                to_working(camera[:, r:e], self._matrix, rgb)
                for light, mask in lent:
                    blend(rgb, light[:, r:e], mask[r:e])
                if sky is not None:
                    sky.band(rgb, r, e)
                if gain is not None:
                    times(rgb, gain[r:e])
                bound(rgb)
            return rgb

        return start

    def display(
        self, view: View, output: Output, take: Band, keep: bool = True, band_rows: int = BAND_ROWS,
        nothing: float = 1.0,
    ) -> None:  # fmt: skip
        """Rendered display light of a view for an output, handed on band by band: planes
        (3, rows, w), linear, 0–1. `keep` holds what the next answer to a drag will need. nothing: what stands where the
        picture shows nothing; the paper's white in a file."""
        if not output.renders:
            self.band.run(view, self.steps, take, keep, ahead=True, band_rows=band_rows)
            return
        black, white = self.ground.ends()
        try:
            table = tone_table(self.ground.tone(), black, white)
        except ValueError as error:
            with doing_of("rendering"):
                raise RenderError(str(error)) from error
        coef = output.coefficients(self.ground.tone())
        beyond = self.ground.beyond(view)

        def render(rgb: F32, r: int, e: int) -> None:
            out = np.empty_like(rgb)
            if self.push != 1:
                push_colour(rgb, np.float32(self.push))
            with self.context.clock.step("rendering"):
                render_tones(rgb, table, coef, out)
            if beyond is not None:
                out[:, beyond[r:e]] = nothing
            take(out, r, e)

        self.band.run(view, self.steps, render, keep, ahead=True, band_rows=band_rows)
