"""Older documents are brought forward, one version at a time, before they are validated."""

from collections.abc import Callable
from typing import Any, Final, Literal

from ..errors import DocumentError

SCHEMA_VERSION: Final[Literal[2]] = 2

Migration = Callable[[dict[str, Any]], dict[str, Any]]


def _rescue(data: dict[str, Any]) -> dict[str, Any]:
    """1 → 2: clipped channels had a fixed treatment, which is Rescue's first revision."""
    ground = data.get("ground", {})
    if isinstance(ground, dict):
        ground = {"rescue": {"revision": 1}} | ground
    return data | {"schema_version": 2, "ground": ground}


MIGRATIONS: Final[dict[int, Migration]] = {1: _rescue}
"""From version → a function that returns the document at version + 1."""


def migrate(data: dict[str, Any]) -> dict[str, Any]:
    """The document at the current version. Raises DocumentError for versions we cannot read."""
    version = data.get("schema_version")
    if not isinstance(version, int) or isinstance(version, bool):
        raise DocumentError("this must be a whole number", "schema_version")
    if version > SCHEMA_VERSION:
        raise DocumentError(
            f"version {version} is newer than this program reads ({SCHEMA_VERSION})", "schema_version"
        )
    while version < SCHEMA_VERSION:
        step = MIGRATIONS.get(version)
        if step is None:
            raise DocumentError(f"version {version} is not known", "schema_version")
        data = step(data)
        version += 1
    return data
