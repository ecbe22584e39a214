"""Settings at the ends of their ranges, drawn from their own declarations."""

import typing
from types import UnionType

from hypothesis import reject
from hypothesis import strategies as st
from pydantic import BaseModel, ValidationError


def _bounds(metadata, fallback):
    low = next((m.ge for m in metadata if hasattr(m, "ge")), fallback[0])
    low = next((m.gt + 1e-6 for m in metadata if hasattr(m, "gt")), low)
    return low, next((m.le for m in metadata if hasattr(m, "le")), fallback[1])


def _of(annotation, metadata, extra):
    origin, inside = typing.get_origin(annotation), typing.get_args(annotation)
    if origin in (typing.Union, UnionType):
        return st.one_of(
            *(
                st.none() if a is type(None) else _of(a, metadata, extra)
                for a in inside
                if a.__name__ != "Sheet"
            )
        )
    if origin is typing.Annotated:
        return _of(inside[0], [*metadata, *inside[1:]], extra)
    if origin is typing.Literal:
        return st.sampled_from(inside)
    if origin is list:
        return st.lists(_of(inside[0], [], {}), max_size=3)
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return extremes(annotation)
    if annotation is bool:
        return st.booleans()
    if annotation in (float, int):
        low, high = _bounds(metadata, (-1e3, 1e3))
        return st.sampled_from([annotation(low), annotation(high), annotation((low + high) / 2)])
    if extra.get("kind") == "colour":
        return st.sampled_from(["#000000", "#ffffff", "#ff0000", "#0000ff"])
    if extra.get("kind") == "choice":
        return st.sampled_from(list(extra["words"]))
    return st.just("")


@typing.no_type_check
def extremes(model: type[BaseModel]):
    """A strategy for one model: every number lowest, highest or half way, every choice any, lists of up to three."""
    drawn = {}
    for name, field in model.model_fields.items():
        extra = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
        drawn[name] = _of(field.annotation, field.metadata, extra)

    def built(**values):
        try:
            return model.model_validate(values)
        except ValidationError:  # what rules out one another is no document
            reject()

    return st.builds(built, **drawn)
