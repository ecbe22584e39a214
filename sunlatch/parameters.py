"""One parameter, one declaration.

A move's or ingredient's settings are a pydantic model whose fields are declared with the helpers
below. Range, unit, step, default and wording live there and nowhere else: validation, the JSON
Schema, the API, the generated types, the controls, the command line and the docs read them.
"""

from typing import Annotated, Any, Final, Literal

from pydantic import BaseModel, ConfigDict, Field


class Params(BaseModel):
    """Base of all settings: unknown fields, NaN and infinity are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, validate_default=True)


def number(
    label: str,
    *,
    default: float,
    low: float,
    high: float,
    step: float,
    unit: str = "",
    signed: bool = False,
    decimals: int = 1,
    shown_times: float = 1.0,
    hint: str = "",
    bygone: bool = False,
) -> Any:
    """A number with its range and unit. `bygone`: asked only where an older scene has set it. `shown_times` turns the stored value into the shown one
    (a length stored as a fraction and shown in %, say); `signed` shows a plus sign."""
    extra: dict[str, Any] = {
        "kind": "number", "label": label, "unit": unit, "step": step, "signed": signed,
        "decimals": decimals, "shown_times": shown_times, "hint": hint,
    } | ({"bygone": True} if bygone else {})  # fmt: skip
    return Field(default=default, ge=low, le=high, json_schema_extra=extra)


def held(params: type[BaseModel], name: str, value: float) -> float:
    """A value brought into the declared range of a number."""
    bounds = {type(m).__name__: m for m in params.model_fields[name].metadata}
    return float(min(max(value, bounds["Ge"].ge), bounds["Le"].le))


def within(params: type[BaseModel], name: str, value: float) -> float:
    """The same, and to its decimals."""
    extra: Any = params.model_fields[name].json_schema_extra
    return round(held(params, name, value), int(extra["decimals"]))


def optional_number(label: str, *, low: float, high: float, step: float, unit: str = "",
                    signed: bool = False, decimals: int = 1, automatic: str = "automatic") -> Any:  # fmt: skip
    """A number that may be left to the program (None); `automatic` says what that means."""
    extra: dict[str, Any] = {
        "kind": "number", "label": label, "unit": unit, "step": step, "signed": signed,
        "decimals": decimals, "shown_times": 1.0, "hint": "", "automatic": automatic,
    }  # fmt: skip
    return Field(default=None, ge=low, le=high, json_schema_extra=extra)


def choice(label: str, default: str, words: dict[str, str], or_else: str | None = None) -> Any:
    """One of a few named things; `words` gives each its wording. or_else: a pattern of what else it may be, which reads
    as it is."""
    extra: dict[str, Any] = {"kind": "choice", "label": label, "words": words}
    return Field(default=default, pattern=or_else, json_schema_extra=extra)


FARTHEST: Final = 40.0
"""How far from a picture's first corner anything may lie, in long edges: all round the horizon with a long lens is a good
dozen."""
Place = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)]
"""Across or down, in source coordinates; a way from one place to another, too."""


class Point(BaseModel):
    """A place in source coordinates: pixel centres of the as-captured active area, both axes
    divided by its long edge (see docs/architecture.md)."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    x: Place
    y: Place


def point(label: str, x: float, y: float) -> Any:
    """A handle on the picture."""
    return Field(default_factory=lambda: Point(x=x, y=y), json_schema_extra={"kind": "point", "label": label})


def optional_point(label: str, automatic: str) -> Any:
    """A handle that may be left to the program (None)."""
    extra: dict[str, Any] = {"kind": "point", "label": label, "automatic": automatic}
    return Field(default=None, json_schema_extra=extra)


class Picked(BaseModel):
    """A colour picked in the scene's light, and where (source coordinates). u, v: OKLab's a and b over its
    L, which more or less light does not change; stops: its light."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    at: Point
    u: float = Field(ge=-2, le=2)
    v: float = Field(ge=-2, le=2)
    stops: float = Field(ge=-20, le=20)


class Box(BaseModel):
    """Two opposite corners of a box on the frame."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    one: Point
    other: Point


def optional_box(label: str, automatic: str) -> Any:
    """A box drawn on the picture, or left to the program (None)."""
    return Field(default=None, json_schema_extra={"kind": "box", "label": label, "automatic": automatic})


def typed_colour(label: str, default: str) -> Any:
    """A colour, as "#rrggbb" in sRGB: typed, or picked in the picture."""
    extra: dict[str, Any] = {"kind": "colour", "label": label}
    return Field(default=default, pattern=r"^#[0-9a-f]{6}$", json_schema_extra=extra)


def switch(label: str, default: bool, *, hint: str = "") -> Any:
    """Something that is on or off."""
    return Field(default=default, json_schema_extra={"kind": "switch", "label": label, "hint": hint})


def drawn(label: str, most: int) -> Any:
    """Things drawn on the picture, a list of them; their editor knows their shape."""
    extra: dict[str, Any] = {"kind": "drawn", "label": label}
    return Field(default_factory=list, max_length=most, json_schema_extra=extra)


def latch_choice(label: str) -> Any:
    """One of the scene's other latches, by id; "" for none yet."""
    return Field(default="", max_length=64, json_schema_extra={"kind": "latch", "label": label})


PartKind = Literal["text", "param"]


def sentence_parts(template: str) -> list[tuple[PartKind, str]]:
    """Split "Exposure {ev}" into text and parameter parts, for showing and for formatting."""
    parts: list[tuple[PartKind, str]] = []
    rest = template
    while rest:
        before, brace, after = rest.partition("{")
        if before:
            parts.append(("text", before))
        if not brace:
            break
        name, _, rest = after.partition("}")
        parts.append(("param", name))
    return parts


def _how_many(item: Any) -> int:
    count = getattr(item, "count", 1)  # of a sheet of them
    return count if isinstance(count, int) else 1


def shown(params: Params, name: str) -> str:
    """A parameter's value as it reads in a sentence: sign, decimals, unit and true minus."""
    value = getattr(params, name)
    declared: Any = type(params).model_fields[name].json_schema_extra
    extra: dict[str, Any] = declared
    if extra["kind"] == "choice":
        return str(extra["words"].get(value, value))
    if extra["kind"] == "switch":
        return "on" if value else "off"
    if extra["kind"] == "latch":
        return str(value) or "no latch yet"
    if extra["kind"] == "colour":
        return str(value)
    if extra["kind"] == "drawn":
        return str(sum(_how_many(item) for item in value))
    if extra["kind"] == "point" and value is not None:
        return f"{value.x:.2f}, {value.y:.2f}"
    if extra["kind"] == "box" and value is not None:
        return "in its box"
    if value is None:
        return str(extra.get("automatic", "automatic"))
    number_shown = float(value) * float(extra["shown_times"])
    text = f"{abs(number_shown):.{int(extra['decimals'])}f}"
    zero = float(text) == 0
    sign = "−" if number_shown < 0 and not zero else "+" if extra["signed"] and not zero else ""
    unit = str(extra["unit"])
    return f"{sign}{text}{unit}" if unit == "°" else f"{sign}{text} {unit}".rstrip()


def read(template: str, params: Params) -> str:
    """A template with its values filled in."""
    return "".join(
        shown(params, value) if kind == "param" else value for kind, value in sentence_parts(template)
    )
