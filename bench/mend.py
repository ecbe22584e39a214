"""Repairs: `python -m bench.mend`. Ratios against JPEG encodings of one screen, or OpenCV's inpainting of the same hole, in the
same run; and how far what was mended is from the world without the thing."""

import tempfile
from pathlib import Path

import cv2
import numpy as np

from fieldworld.camera import Shot, shoot, specks
from fieldworld.lent import find_any, without
from fieldworld.truth import truth_of
from sunlatch.blobs import Blobs
from sunlatch.colour.difference import delta_e
from sunlatch.frame import FrameStore, Raster, hash_file
from sunlatch.geometry import View
from sunlatch.ledger import Area, Scene, Source, sky_latch
from sunlatch.mend import circle, find_specks, heal_of, put_mask, regrow_of, specks_of, wire_of
from sunlatch.mend.patches import HALF
from sunlatch.render import Engine, picture_8
from sunlatch.render.output import SCREEN as SCREEN_OUT

from .join import DATA, timed

SCREEN = (1350, 900)


class Bench:
    """Frames of the coast as they are and without some things, and an engine."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.store = folder, FrameStore(folder / "pyramids")
        self.blobs = Blobs(folder / "blobs")
        self.engine = Engine(threads=2, blobs=self.blobs)
        noise = np.random.default_rng(1).integers(90, 140, (SCREEN[1], SCREEN[0], 3), np.uint8)
        smooth = cv2.GaussianBlur(noise, (0, 0), 3)
        self.jpeg = min(timed(lambda: cv2.imencode(".jpg", smooth))[0] for _ in range(9))

    def frame(self, shot: Shot, name: str = "") -> Raster:
        """A shot, decoded; from the demo outing where it is there."""
        path = DATA / "demo" / f"{shot.name}.dng"
        if name or not path.exists():
            path = self.folder / f"{name or shot.name}.dng"
            if not path.exists():
                shoot(shot, path)
        return self.store.whole(hash_file(path), path)

    def shown(self, raster: Raster, repairs: list[object], view: View | None = None) -> np.ndarray:
        """What a scene with repairs shows, at its own px where no view is named."""
        scene = Scene(sources=[Source(sha256="0" * 64)], repairs=repairs)  # type: ignore[arg-type]
        development = self.engine.develop(scene, raster)
        return picture_8(development, view or development.geometry.fit(10**6), True)

    def specks(self) -> None:
        """Thirty specks on 24 megapixels."""
        shot = find_any("specked")
        raster = self.frame(shot)
        find_specks(raster)
        seconds, found = timed(lambda: find_specks(raster))
        truth = specks(shot.exposure.f_number, shot.width, shot.height, shot.dust)
        hits = {n for n, (x, y, r, _) in enumerate(truth) for d in found if np.hypot(d.x - x, d.y - y) < r}
        print(
            f"specks: {len(hits)} of {len(truth)} found, {len(found) - len(hits)} false; {seconds / self.jpeg:.1f} x JPEG (25)"
        )
        repair = specks_of(raster, found)
        development = self.engine.develop(Scene(sources=[Source(sha256="0" * 64)]), raster)
        view = development.geometry.fit(SCREEN[0])
        picture_8(development, view, False)
        scene = Scene(sources=[Source(sha256="0" * 64)], repairs=[repair])
        first, _ = timed(lambda: picture_8(self.engine.develop(scene, raster), view, False))
        print(f"  mended and shown for the first time: {first / self.jpeg:.1f} x JPEG (10)")

    def heal(self) -> None:
        """A stroke of 200 px at 100 %, its source found, shown."""
        raster = self.frame(find_any("heath"))
        view = View((0.4, 0.5, 0.4 + SCREEN[0] / 6000, 0.5 + SCREEN[1] / 4000), SCREEN)
        self.shown(raster, [], view)
        took = []
        for n in range(4):
            area = circle(0.45 + 0.02 * n, 0.4, 100 / 6000)
            plan, repair = timed(lambda area=area: heal_of(raster, area))
            scene = Scene(sources=[Source(sha256="0" * 64)], repairs=[repair])
            development = self.engine.develop(scene, raster, aside=repair.id)
            shown, _ = timed(lambda development=development: picture_8(development, view, False))
            took.append((plan, shown))
        plan, shown = (sorted(v)[1] / self.jpeg for v in zip(*took, strict=True))
        print(f"Heal of 200 px at 100 %: source {plan:.1f} x JPEG, healed and shown {shown:.1f} x (10)")

    def regrow(self) -> None:
        """A hole of 490 px in 1960."""
        raster = self.frame(find_any("boulders"))
        side, left, top = 490, 1200, 1500
        h, w = raster.shape(0)
        corner = [(left + dx, top + dy) for dx, dy in ((0, 0), (side, 0), (side, side), (0, side))]
        area = Area(outline=[v / max(w, h) for p in corner for v in p])
        regrow_of(raster, area, self.blobs)
        seconds, _ = timed(lambda: regrow_of(raster, area, self.blobs, seed=1))
        view = View((400 / w, (h - 1960) / h, 2360 / w, 1.0), (1960, 1960))
        crop = np.ascontiguousarray(self.shown(raster, [], view))
        hole = np.zeros(crop.shape[:2], np.uint8)
        hole[top - (h - 1960) :, left - 400 :][:side, :side] = 255
        telea, _ = timed(lambda: cv2.inpaint(crop, hole, 5, cv2.INPAINT_TELEA))
        print(
            f"Regrow, a hole of 490 px: {seconds:.1f} s, {seconds / telea:.2f} x OpenCV's inpainting (Telea) of as many px"
        )
        try:
            from patchmatch import inpaint  # pypatchmatch: none of what is locked, measured where it is there
        except ImportError:
            return print(
                "  against a packaged patch-based fill (0.15): not measured, pypatchmatch is not installed"
            )
        packaged, _ = timed(lambda: inpaint(crop, hole, patch_size=HALF))
        print(f"  {seconds / packaged:.2f} x a packaged patch-based fill with patches as large (0.15)")

    def wire(self) -> None:
        """The heath's cable against the heath without it; half of a px's difference is its grain."""
        shot = find_any("heath")
        raster = self.frame(shot)
        bare = self.frame(without(shot, ["cable", "specks"]), "heath-bare")
        clicks = np.array([[0.0005, 0.2864], [0.9994, 0.2701]])
        seconds, repair = timed(lambda: wire_of(raster, clicks))
        path = np.array(repair.path).reshape(-1, 2) * 6000
        view = View((0, 0.35, 1, 0.5), (6000, 600))
        pictures = [self.shown(r, some, view) for r, some in ((raster, []), (raster, [repair]), (bare, []))]
        there = np.zeros(pictures[0].shape[:2], np.uint8)
        cv2.polylines(there, [np.rint(path - [0, 0.35 * 4000]).astype(np.int32)], False, 1, 5)
        before, after, truth = (p[there > 0][None] for p in pictures)
        even = [cv2.blur(p, (5, 5))[there > 0][None] for p in pictures]
        print(f"wire: followed in {seconds:.1f} s; dE2000 {delta_e(before, truth).mean():.1f} before, {delta_e(after, truth).mean():.1f}"
              f" after (2), {delta_e(even[1], even[2]).mean():.1f} over five px")  # fmt: skip

    def gone(self) -> None:
        """The tripod's leg and the walker, outlined and regrown, against the frames without them."""
        for name, thing in (("boulders", "tripod"), ("path", "walker")):
            shot = find_any(name)
            raster = self.frame(shot)
            bare = self.frame(without(shot, [thing]), f"{name}-bare")
            seen = truth_of(shot).subject
            there = cv2.dilate((seen > 0.02).astype(np.uint8), np.ones((25, 25)))
            rows, columns = np.nonzero(there)
            top, left, bottom, right = rows.min(), columns.min(), rows.max() + 1, columns.max() + 1
            box = tuple(float(v) / max(seen.shape) for v in (left, top, right, bottom))
            mask = put_mask(there[top:bottom, left:right].astype(np.float32), box, self.blobs)
            seconds, repair = timed(lambda mask=mask: regrow_of(raster, Area(mask=mask), self.blobs))  # noqa: B023
            before, after, truth = (
                self.shown(r, some) for r, some in ((raster, []), (raster, [repair]), (bare, []))
            )
            him = seen > 0.5
            apart = [delta_e(p[him][None], truth[him][None]).mean() for p in (before, after)]
            even = [cv2.blur(p, (25, 25))[him][None] for p in (after, truth)]
            print(f"{thing}: regrown in {seconds:.1f} s; dE2000 {apart[0]:.1f} before, {apart[1]:.1f} after (4), "
                  f"{delta_e(*even).mean():.1f} over 25 px; {_edge(after, truth, there):.2f} x the slope across its edge "
                  "that there is without it (1)")  # fmt: skip

    def sky_edges(self) -> None:
        """The heath with another sky, its land left alone, against what was there with the true share of the old sky's light
        taken for the new one's: the edge px of the birches."""
        shot = without(find_any("heath"), ["cable", "specks"])
        raster, lent = self.frame(shot, "heath-bare"), self.frame(find_any("sky-2"))
        sources = [Source(id="a", sha256="0" * 64), Source(id="b", sha256="1" * 64)]
        bare = self.engine.develop(Scene(sources=sources), raster)
        scene = Scene(sources=sources, latches=[sky_latch(bare.ground.read_at())])
        scene.sky = self.engine.develop(scene, raster).propose_sky(sources[1], lent, scene.latches[0])
        line = scene.sky.params
        line.haze = line.relight = line.grain = line.water = 0.0
        alpha = truth_of(shot).sky
        band = cv2.dilate(((alpha > 0.02) & (alpha < 0.98)).astype(np.uint8), np.ones((3, 3))) > 0
        view = bare.geometry.fit(6000)
        shown = self.engine.develop(scene, raster, lent=lambda _: lent)
        assert shown.sky is not None
        laid, before = shown.sky.lay(view), bare.light_planes(view)
        pictures = []
        for light in (
            before,
            shown.light_planes(view),
            before + alpha * (laid.new - laid.old),
        ):
            out = np.empty((*alpha.shape, 3), np.uint8)
            SCREEN_OUT.encode(np.ascontiguousarray(np.clip(light, 0, 1), np.float32), out)
            pictures.append(out)
        old, got, wanted = (p[band][None] for p in pictures)
        even = [cv2.blur(p, (3, 3))[band][None] for p in pictures[1:]]
        print(f"new sky: dE2000 in the edge band {delta_e(old, wanted).mean():.1f} before, {delta_e(got, wanted).mean():.1f} after"
              f" (4), {delta_e(*even).mean():.1f} over 3 px")  # fmt: skip

    def sky(self) -> None:
        """The matte of the birches against the truth."""
        shot = without(find_any("heath"), ["cable", "specks"])
        raster = self.frame(shot, "heath-bare")
        truth = truth_of(shot)
        engine = self.engine
        at = engine.develop(Scene(sources=[Source(sha256="0" * 64)]), raster).ground.read_at()
        scene = Scene(sources=[Source(sha256="0" * 64)], latches=[sky_latch(at)])
        development = engine.develop(scene, raster)
        matte = development.latches.mask(scene.latches[0], development.geometry.fit(6000))
        band = cv2.dilate(((truth.sky > 0.02) & (truth.sky < 0.98)).astype(np.uint8), np.ones((3, 3))) > 0
        print(
            f"new sky: the matte is off by {np.abs(matte - truth.sky)[band].mean():.3f} in the edge band (0.06)"
        )


def _edge(shown: np.ndarray, truth: np.ndarray, place: np.ndarray) -> float:
    """How steep a picture is across the edge of a place, against the same in another; light evened over 2 px."""
    steep = []
    for picture in (shown, truth):
        light = cv2.GaussianBlur(picture.astype(np.float32).mean(2), (0, 0), 2)
        away = cv2.distanceTransform(place, cv2.DIST_L2, 3) - cv2.distanceTransform(1 - place, cv2.DIST_L2, 3)
        ax, ay = (cv2.Sobel(away.astype(np.float32), cv2.CV_32F, *d) for d in ((1, 0), (0, 1)))
        gx, gy = (cv2.Sobel(light, cv2.CV_32F, *d) for d in ((1, 0), (0, 1)))
        across = np.abs(gx * ax + gy * ay) / np.maximum(np.hypot(ax, ay), 1e-6)
        steep.append(float(across[np.abs(away) < 3].mean()))
    return steep[0] / max(steep[1], 1e-9)


def main() -> None:
    """All rows."""
    with tempfile.TemporaryDirectory() as folder:
        bench = Bench(Path(folder))
        bench.specks()
        bench.heal()
        bench.regrow()
        bench.wire()
        bench.gone()
        bench.sky()
        bench.sky_edges()


if __name__ == "__main__":
    main()
