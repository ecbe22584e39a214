"""What moves and ingredients there are: their wording, ranges and sentences, from the core."""

from functools import cache
from typing import Any, get_args

from django.http import HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import BaseModel

from sunlatch.latch import INGREDIENT_KINDS, JOINS, finder
from sunlatch.ledger import (
    SPARE_EDGES,
    BentLine,
    Brush,
    EdgeTrue,
    Latch,
    MoveLine,
    NudgeBrush,
    PaperParams,
    PulledPart,
    Spare,
    Take,
)
from sunlatch.meters import COMPLAINTS
from sunlatch.moves import MOVE_KINDS

router = Router(tags=["vocabulary"])


class Field(Schema):
    """One declared parameter."""

    name: str
    kind: str
    label: str
    unit: str = ""
    low: float | None = None
    high: float | None = None
    step: float | None = None
    default: Any = None
    signed: bool = False
    decimals: int = 1
    shown_times: float = 1.0
    hint: str = ""
    bygone: bool = False
    """True for what is asked only where an older scene has set it."""
    automatic: str = ""
    words: dict[str, str] = {}
    items: list["Field"] = []
    """For things that are drawn: what each of them declares."""


class Kind(Schema):
    """A move or an ingredient."""

    kind: str
    revision: int
    label: str
    group: str
    band: str
    sentence: str
    says: str = ""
    """What it does or takes, in a few words."""
    fields: list[Field]
    verbs: list[str] = []
    signs: dict[str, float] = {}
    first: str = ""
    spares: list[str] = []
    """What a fresh line of it spares."""
    latched: bool = False
    """True for a Ground move that may be latched."""
    found: bool = False
    """True for an ingredient that is found in the frame."""
    finder: str = ""
    """What finds it now, and what that looks at."""


class Vocabulary(Schema):
    """Everything that can be said about a scene."""

    moves: list[Kind]
    ingredients: list[Kind]
    joins: dict[str, str]
    edge_true: list[Field]
    spare: list[Field]
    spare_edges: dict[str, float]
    """Where a fresh spare clause begins, in stops."""
    move_strength: Field
    latch_finish: list[Field]
    """How a latch as a whole is finished: grown, feathered, weakened."""
    take: list[Field]
    """How a place that light is taken from is turned and scaled."""
    brush: list[Field]
    """The brush that repairs are painted with."""
    nudge_brush: list[Field]
    """The brush that nudges."""
    bent_line: list[Field]
    """A line that is made straight."""
    pulled: list[Field]
    """A foreground that is pulled nearer."""
    paper: list[Field]
    """What a paper declares."""
    complaints: dict[str, str]
    """What may be wrong with a place that is pointed at."""


def fields_of(params: type[BaseModel]) -> list[Field]:
    """The declared parameters of a settings model."""
    schema = params.model_json_schema()
    fields = []
    for name, entry in schema["properties"].items():
        if "kind" not in entry:
            continue
        declared: Any = params.model_fields[name].json_schema_extra
        # the schema sorts its keys; the order of words is part of the declaration
        entry["words"] = declared.get("words", {})
        one = next((t for t in get_args(params.model_fields[name].annotation) if isinstance(t, type)), None)
        items = fields_of(one) if entry["kind"] == "drawn" and one and issubclass(one, BaseModel) else []
        numeric = next((e for e in entry.get("anyOf", [entry]) if e.get("type") != "null"), entry)
        fields.append(
            Field(
                name=name,
                low=numeric.get("minimum"),
                high=numeric.get("maximum"),
                default=entry.get("default"),
                items=items,
                **{
                    k: entry[k]
                    for k in Field.model_fields
                    if k in entry and k not in ("name", "default", "items")
                },
            )
        )
    return fields


@router.get("/vocabulary", response=Vocabulary)
def vocabulary(request: HttpRequest) -> HttpResponse:
    """Moves and ingredients with their declarations."""
    return HttpResponse(_written(), content_type="application/json; charset=utf-8")


@cache
def _written() -> bytes:
    """The vocabulary as it is sent: what the core declares stays as it is while it runs."""
    return _vocabulary().model_dump_json().encode()


def _vocabulary() -> Vocabulary:
    return Vocabulary(
        moves=[
            Kind(
                kind=m.kind, revision=m.revision, label=m.label, group=m.question, band=m.band,
                sentence=m.sentence, fields=fields_of(m.params), verbs=list(m.verbs), signs=m.signs,
                says=m.says, first=m.first, latched=m.latched, spares=list(m.spares),
            )
            for m in MOVE_KINDS.values()
        ],
        ingredients=[
            Kind(
                kind=i.kind, revision=i.revision, label=i.label, group=i.group, band="latch",
                sentence=i.sentence, says=i.says, fields=fields_of(i.params),
                found=i.find is not None, finder=finder(i.kind) if i.find is not None else "",
            )
            for i in INGREDIENT_KINDS.values()
        ],
        joins=dict(JOINS),
        edge_true=fields_of(EdgeTrue),
        spare=fields_of(Spare),
        spare_edges=dict(SPARE_EDGES),
        move_strength=next(f for f in fields_of(MoveLine) if f.name == "strength"),
        latch_finish=[f for n in ("grow", "feather", "strength") for f in fields_of(Latch) if f.name == n],
        nudge_brush=fields_of(NudgeBrush),
        bent_line=fields_of(BentLine),
        pulled=fields_of(PulledPart),
        take=fields_of(Take),
        brush=fields_of(Brush),
        paper=fields_of(PaperParams),
        complaints={str(key): label for key, label in COMPLAINTS.items()},
    )  # fmt: skip
