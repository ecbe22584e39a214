"""How frames lie to one another (registration): features, matching, adjustment, the horizon. Solutions only, no px."""

from .inputs import InputFrame

__all__ = ["InputFrame"]
