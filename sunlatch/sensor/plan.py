"""What Ground does on the sensor's raster, stage by stage, each on top of the last: "rescued" (as latches read it: always with
Rescue's own defaults), "light" (with the scene's Rescue), "smooth" (Noise), "refocused" (Refocus), "crisp" (Crispness)."""

from dataclasses import dataclass
from typing import Any, Final, Literal

from ..moves.crispness import CrispnessParams
from ..moves.noise import NoiseParams
from ..moves.refocus import RefocusParams
from ..moves.rescue import MOVE as RESCUE
from ..moves.rescue import RescueParams
from ..running.cache import key_of

Stage = Literal["rescued", "light", "smooth", "refocused", "crisp"]
STAGES: Final[tuple[Stage, ...]] = ("rescued", "light", "smooth", "refocused", "crisp")


@dataclass(frozen=True)
class SensorPlan:
    """What Ground does on the sensor's raster. rescued: Rescue's revision and settings."""

    rescue_revision: int
    rescue: RescueParams
    noise: NoiseParams
    refocus: RefocusParams
    crispness: CrispnessParams

    @classmethod
    def untouched(cls) -> "SensorPlan":
        """Of a frame to which nothing was done."""
        return cls(RESCUE.revision, RescueParams(), NoiseParams(), RefocusParams(), CrispnessParams())

    def key(self, stage: Stage) -> str:
        """Names what a stage depends on."""
        if stage == "rescued":
            return "rescued"
        parts: list[Any] = [self.rescue_revision, self.rescue.model_dump()]
        if stage in ("smooth", "refocused", "crisp"):
            parts.append(self.noise.model_dump())
        if stage in ("refocused", "crisp") and self.refocuses:
            parts.append(self.refocus.model_dump())
        if stage == "crisp":
            parts.append(self.crispness.model_dump())
        return key_of(stage, *parts)

    @property
    def smooths(self) -> bool:
        """True when Noise does anything."""
        return self.noise.light > 0 or self.noise.colour > 0

    @property
    def refocuses(self) -> bool:
        """True when Refocus does anything."""
        return self.refocus.amount > 0

    @property
    def crisps(self) -> bool:
        """True when Crispness does anything."""
        return self.crispness.amount > 0

    @property
    def rescues(self) -> bool:
        """True when the scene's Rescue differs from what latches read."""
        return self.rescue_revision != RESCUE.revision or self.rescue != RescueParams()

    def best(self, stage: Stage) -> Stage:
        """The lowest stage with the same result."""
        if stage == "crisp" and not self.crisps:
            stage = "refocused"
        if stage == "refocused" and not self.refocuses:
            stage = "smooth"
        if stage == "smooth" and not self.smooths:
            stage = "light"
        if stage == "light" and not self.rescues:
            stage = "rescued"
        return stage
