"""What Ground says of a scene on its frame: light, base exposure, rendering, ends."""

import numpy as np

from ..colour import LightColour
from ..colour.tones import SETTINGS, Tone
from ..frame import Pyramid
from ..ledger import ReadAt, Scene


class Grounded:
    """The Ground band in force, read from a scene and the frame it is bound to."""

    def __init__(self, scene: Scene, pyramid: Pyramid) -> None:
        self.scene = scene
        self.pyramid = pyramid

    @property
    def base_exposure(self) -> float:
        """Stops."""
        return float(self.scene.ground.base_exposure.params.ev)

    def light(self) -> LightColour:
        """The colour of light in force."""
        chosen = self.scene.ground.colour_of_light.params
        shot = self.pyramid.info.colour.as_shot()
        return LightColour(
            shot.kelvin if chosen.kelvin is None else chosen.kelvin,
            shot.duv if chosen.tint is None else chosen.tint / 1000,
        )

    def read_at(self) -> ReadAt:
        """What a latch made now should remember of Ground."""
        light = self.light()
        return ReadAt(kelvin=light.kelvin, duv=light.duv, base_exposure=self.base_exposure)

    def tone(self) -> Tone:
        """The rendering curve's shape in force."""
        chosen = self.scene.ground.rendering.params
        base = SETTINGS[chosen.setting]
        return Tone(
            base.slope,
            base.toe if chosen.toe is None else chosen.toe,
            base.shoulder if chosen.shoulder is None else chosen.shoulder,
            base.hue_keeping if chosen.hue_keeping is None else chosen.hue_keeping,
            base.straight,
        )

    def ends(self) -> tuple[float, float]:
        """(black, white) in stops; white by default where the frame clips."""
        chosen = self.scene.ground.ends.params
        clip = float(np.log2(1 / 0.18)) + self.base_exposure
        white = chosen.white if chosen.white is not None else max(clip, 0.5)
        return float(chosen.black), float(white)
