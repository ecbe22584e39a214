"""What files are called: a pattern of words and of what is known of a picture."""

import re
from typing import Final

from ..errors import ExportError

KNOWN: Final = ("scene", "outing", "paper", "date", "width", "height", "space", "number")
"""What stands in braces."""
LONGEST: Final = 200
"""Bytes of a name; a disk takes 255 with its ending."""
PLAIN: Final = "{scene}"
_FIELD: Final = re.compile(r"\{([^{}]*)\}")


def checked(pattern: str) -> str:
    """A pattern that can be used. Raises ExportError where it leads out of its folder, or asks for what is not known."""
    for name in _FIELD.findall(pattern):
        if name not in KNOWN:
            raise ExportError(
                f"the name asks for {{{name}}}; known are {', '.join(f'{{{k}}}' for k in KNOWN)}"
            )
    rest = _FIELD.sub("", pattern)
    if "{" in rest or "}" in rest:
        raise ExportError("a brace of the name is not closed")
    if "/" in rest or "\\" in rest or pattern.strip().startswith("."):
        raise ExportError("the name leads out of its folder; leave out / and \\, and a dot at its beginning")
    if any(ord(c) < 32 for c in pattern):
        raise ExportError("the name holds control characters; take them out")
    if not pattern.strip():
        raise ExportError("a file needs a name")
    return pattern


def file_name(pattern: str, facts: dict[str, str], ending: str, taken: set[str] | None = None) -> str:
    """A file's name after a pattern. taken: names that are there already. Raises ExportError where it would be one of these."""
    stem = _FIELD.sub(lambda m: facts.get(m[1], ""), checked(pattern))
    stem = "".join(c if c.isalnum() or c in "-_ .,()" else "-" for c in stem).strip(" .") or "scene"
    stem = stem.encode(errors="ignore")[:LONGEST].decode(errors="ignore").strip(" .") or "scene"
    name = f"{stem}{ending}"
    if taken is not None and name.casefold() in {t.casefold() for t in taken}:
        raise ExportError(
            f"two files would be called {name}; put {{paper}}, {{width}} or {{number}} into the name"
        )
    return name
