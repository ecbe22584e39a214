"""Older documents are brought forward, one version at a time, before they are validated."""

from collections.abc import Callable
from copy import deepcopy
from typing import Any, Final, Literal

from ..errors import DocumentError

SCHEMA_VERSION: Final[Literal[9]] = 9

Migration = Callable[[dict[str, Any]], dict[str, Any]]


def _rescue(data: dict[str, Any]) -> dict[str, Any]:
    """1 → 2: clipped channels had a fixed treatment, which is Rescue's first revision."""
    ground = data.get("ground", {})
    if isinstance(ground, dict):
        ground = {"rescue": {"revision": 1}} | ground
    return data | {"schema_version": 2, "ground": ground}


def _place(data: dict[str, Any]) -> dict[str, Any]:
    """2 → 3: stretch and place went from Plumb to Trim; an Edge fall that does not say so kept half of the highlights."""
    data = deepcopy(data) | {"schema_version": 3}
    ground: Any = data.get("ground")
    plumb: Any = ground.get("plumb") if isinstance(ground, dict) else None
    held: Any = plumb.get("params") if isinstance(plumb, dict) else None
    if isinstance(held, dict):
        moved = {name: held.pop(name) for name in ("stretch", "across", "down") if name in held}
        trim = ground.setdefault("trim", {})
        if any(moved.values()) and plumb.get("on", True) and isinstance(trim, dict):
            # a Trim that was off did nothing to them; what it would have cut it does not
            params = trim.get("params", {}) if trim.get("on", True) else {}
            ground["trim"] = trim | {"on": True, "params": params | moved}
    for line in data.get("moves") or []:
        if isinstance(line, dict) and line.get("kind") == "edge_fall":
            line["params"] = {"keep": 0.5} | (line.get("params") or {})
    return data


def _base(data: dict[str, Any]) -> dict[str, Any]:
    """3 → 4: a scene says what it is made of; until then that was one frame."""
    return data | {"schema_version": 4, "base": {"kind": "frame"}}


def _repairs(data: dict[str, Any]) -> dict[str, Any]:
    """4 → 5: a scene may have repairs; until then it had none."""
    return data | {"schema_version": 5}


def _shapes(data: dict[str, Any]) -> dict[str, Any]:
    """5 → 6: a picture may be reshaped and nudged; until then it was not."""
    return data | {"schema_version": 6}


def _grown_from(data: dict[str, Any]) -> dict[str, Any]:
    """6 → 7: a Regrow remembers what it may be grown from and what not; until then it did not."""
    return data | {"schema_version": 7}


def _papers(data: dict[str, Any]) -> dict[str, Any]:
    """7 → 8: a scene has papers; until then it had none."""
    return data | {"schema_version": 8}


def _words(data: dict[str, Any]) -> dict[str, Any]:
    """8 → 9: rotations, radial distortion and vignetting are called by what they are."""

    def renamed(of: Any, names: dict[str, str]) -> Any:
        return {names.get(k, k): v for k, v in of.items()} if isinstance(of, dict) else of

    def rotated(lines: Any) -> Any:
        return [renamed(line, {"turn": "rotation"}) for line in lines] if isinstance(lines, list) else lines

    def joined(base: Any) -> Any:
        if not isinstance(base, dict) or base.get("kind") not in ("sweep", "bracket"):
            return base
        base = renamed(base, {"bend": "distortion", "fall": "vignetting"})
        members = rotated(base.get("members"))
        for member in members if isinstance(members, list) else []:
            if isinstance(member, dict) and "bracket" in member:
                member["bracket"] = joined(member["bracket"])
        return base | {"members": members}

    data = data | {"schema_version": 9}
    if "base" in data:
        data["base"] = joined(data["base"])
    if "loans" in data:
        data["loans"] = rotated(data["loans"])
    ground = data.get("ground")
    if isinstance(ground, dict) and isinstance(ground.get("lens"), dict):
        lens = ground["lens"]
        data["ground"] = ground | {
            "lens": lens | {"params": renamed(lens.get("params", {}), {"bend": "radial"})}
        }
    return data


MIGRATIONS: Final[dict[int, Migration]] = {
    1: _rescue,
    2: _place,
    3: _base,
    4: _repairs,
    5: _shapes,
    6: _grown_from,
    7: _papers,
    8: _words,
}
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
