"""Findings that a scene keeps: what was found in its frame when it was saved, as a grey picture among its blobs.

A finder that has become better would find something else. A scene that kept one of an earlier finder shows what
it kept instead, until it is asked to find anew or its marks change.
"""

import cv2
import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from ..blobs import NAME, Blobs
from ..errors import DocumentError
from .base import Finding

WHITE_16 = 65535


class KeptFinding(BaseModel):
    """A finding by its blob (PNG, 16 bits of grey). by: names the settings it was found with; finder: what found it,
    and what that looked at."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    mask: str = Field(pattern=NAME)
    region: list[float] = Field(min_length=4, max_length=4)
    by: str = Field(max_length=64)
    finder: str = Field(max_length=200)
    sure: float = Field(default=1.0, ge=0, le=1)


def keep(finding: Finding, by: str, finder: str, blobs: Blobs) -> KeptFinding:
    """Put a finding among a scene's blobs. Raises StorageError where it cannot be written."""
    grey = np.rint(np.clip(finding.mask, 0, 1) * WHITE_16).astype(np.uint16)
    data = cv2.imencode(".png", grey, [cv2.IMWRITE_PNG_COMPRESSION, 3])[1].tobytes()
    return KeptFinding(
        mask=blobs.put(data), region=list(finding.region), by=by, finder=finder, sure=finding.sure
    )


def kept(held: KeptFinding, blobs: Blobs) -> Finding:
    """What was put there. Raises DocumentError where it is not there, or no picture."""
    grey = cv2.imdecode(np.frombuffer(blobs.get(held.mask), np.uint8), cv2.IMREAD_UNCHANGED)
    if grey is None or grey.dtype != np.uint16 or grey.ndim != 2:
        raise DocumentError(f"a part of the scene is damaged ({held.mask[:8]})")
    x0, y0, x1, y1 = held.region
    return Finding(np.asarray(grey / np.float32(WHITE_16), np.float32), (x0, y0, x1, y1), held.sure)
