"""An exercise as it is written: what ``exercise.yaml`` may hold, and a version or a draft."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Final, Literal

from annotated_types import Ge, Gt, Le, MaxLen
from pydantic import AfterValidator, BeforeValidator, Field

from jentrow.core.declared import (
    Declared,
    OrAlone,
    OrOne,
    by_name,
    list_of,
    mapping_of,
    names,
    wrong,
)
from jentrow.core.engines.labels import ENGINES
from jentrow.core.exercises.exercise import NamedQuery, Trial, Verdict
from jentrow.core.exercises.files.rulefile import RULES
from jentrow.core.exercises.markscheme import MOST_WEIGHT, PARTS, MarkScheme, Part, SchemeKind
from jentrow.core.exercises.showing import LONGEST_HINT, Feedback, ShownResult
from jentrow.core.exercises.textrules import DEMANDS, ConstructRule, Demand
from jentrow.core.mappings import MOST_POINTS
from jentrow.core.sql.constructs import CONSTRUCTS
from jentrow.core.sql.layout import LayoutRules

MOST_TAGS: Final = 20
MOST_WORDS: Final = 3
"""Hints of one trial, each stronger than the one before."""


def _hundredths(points: float) -> float:
    if round(points, 2) != points:
        raise wrong(f"{points!r} must have at most two decimals")
    return points


def _without_nul(text: str) -> str:
    if "\0" in text:
        raise wrong("it holds a NUL character; remove it")
    return text


_EXACT: Final = (AfterValidator(_hundredths), Field(json_schema_extra={"multipleOf": 0.01}))
POINTS: Final = Annotated[float, Ge(0), Le(MOST_POINTS), *_EXACT]
WORTH: Final = Annotated[float, Gt(0), Le(MOST_POINTS), *_EXACT]
TITLE: Final = Annotated[str, Field(json_schema_extra={"minLength": 1})]
TEXT: Final = Annotated[str, AfterValidator(_without_nul)]
_WORDS: Final = Annotated[
    list[Annotated[str, MaxLen(LONGEST_HINT)]],
    MaxLen(MOST_WORDS),
    OrOne(),
    Field(description="hints for learners whose answer behaves the same, the weakest first"),
]


def _weighed(weights: dict[Part, float]) -> dict[Part, float]:
    whole = dict.fromkeys(PARTS, 0.0) | {part: float(one) for part, one in weights.items()}
    if not whole["rows"] + whole["columns"]:
        raise wrong("columns or rows must have a weight")
    return whole


_WEIGHT: Final = Annotated[float, Ge(0), Le(MOST_WEIGHT)]
_MARKS: Final = mapping_of(
    MarkScheme,
    lambda scheme="all_or_nothing", **more: MarkScheme(scheme, **more),
    leaving_out=("kind",),
    scheme=SchemeKind,
    weights=Annotated[names("Weights", dict.fromkeys(PARTS, _WEIGHT)), AfterValidator(_weighed)],
)
_NAMED: Final = [name for name, one in CONSTRUCTS.items() if one.named]


def _rule_of(written: dict[str, Any]) -> ConstructRule:
    demands: list[Demand] = [demand for demand in DEMANDS if demand in written]
    if len(demands) != 1:
        raise wrong("expected either require or forbid")
    construct = written.pop(demands[0])
    name = written.pop("name", "").strip()
    if CONSTRUCTS[construct].named and not name:
        raise wrong(f"{construct} needs a name: which {construct}")
    if name and not CONSTRUCTS[construct].named:
        raise wrong(f"{construct} takes no name")
    message = written.pop("message", "").strip()
    return ConstructRule(demands[0], construct, name, written.pop("points", 0.0), message)


_CONSTRUCT: Final = Annotated[Literal[tuple(CONSTRUCTS)], Field(description="construct")]
_NEEDS_A_NAME: Final[Any] = {
    "anyOf": [
        {"required": [demand], "properties": {demand: {"enum": _NAMED}}} for demand in DEMANDS
    ]
}
_CONSTRUCT_RULE: Final = Annotated[
    names(
        "ConstructRule",
        {
            "require": _CONSTRUCT,
            "forbid": _CONSTRUCT,
            "name": str,
            "points": POINTS,
            "message": str,
        },
    ),
    AfterValidator(_rule_of),
    Field(
        json_schema_extra={
            "oneOf": [{"required": [demand]} for demand in DEMANDS],
            "if": _NEEDS_A_NAME,
            "then": {"required": ["name"]},
            "else": {"properties": {"name": {"maxLength": 0}}},
        }
    ),
]


def _feedback(expected: ShownResult | None = None, **more: Any) -> tuple[ShownResult, Feedback]:
    return expected or ShownResult(), Feedback(**more)


_FEEDBACK: Final = mapping_of(
    Feedback,
    _feedback,
    hint=Annotated[str, MaxLen(LONGEST_HINT), AfterValidator(_without_nul)],
    expected=mapping_of(ShownResult),
)
_SHARED: Final = {
    "title": TITLE,
    "sample": Annotated[str, Field(description="the name of a sample of the pack")],
    "engine": Literal[ENGINES],
    "points": WORTH,
    "tags": Annotated[list[str], MaxLen(MOST_TAGS)],
    "rules": RULES,
    "constructs": list_of(_CONSTRUCT_RULE),
    "layout": mapping_of(LayoutRules, points=POINTS),
    "marks": _MARKS,
    "feedback": _FEEDBACK,
}

_VERDICT: Final = Annotated[Verdict, Field(description="what the answer ought to get")]
_TRIAL: Final = names(
    "Trial",
    {"name": str, "sql": TEXT, "expected": _VERDICT, "mark": float | None, "words": _WORDS},
    "name",
    "expected",
)
_TRIAL_HEAD: Final = names(
    "TrialHead", {"verdict": _VERDICT, "mark": float | None, "words": _WORDS}, "verdict"
)


def _by_text(trials: Any) -> Any:
    """YAML reads names such as 1 and yes as other values."""
    return {str(name): one for name, one in trials.items()} if isinstance(trials, dict) else trials


def trial_of(name: str, sql: str, head: Mapping[str, Any]) -> Trial:
    """A trial with what is said of it: a ``verdict``, and more."""
    words = tuple(said for text in head.get("words", ()) if (said := text.strip()))
    return Trial(name.strip(), sql, head["verdict"], head.get("mark"), words)


def _trial(written: dict[str, Any]) -> Trial:
    return trial_of(
        written["name"], written.get("sql", ""), written | {"verdict": written["expected"]}
    )


def _alternative(written: dict[str, Any]) -> NamedQuery:
    return NamedQuery(written["name"].strip(), written.get("sql", ""))


_WRITTEN_HEAD: Final = names(
    "Exercise",
    _SHARED
    | {
        "trials": Annotated[
            by_name(Annotated[_TRIAL_HEAD, OrAlone("verdict")]),
            BeforeValidator(_by_text),
            Field(description="for each file in trials/, what the answer ought to get"),
        ]
    },
)
_WRITTEN: Final = names(
    "Content",
    _SHARED
    | {
        "prompt": TEXT,
        "reference": TEXT,
        "alternatives": list_of(
            Annotated[
                names("Alternative", {"name": str, "sql": TEXT}, "name"),
                AfterValidator(_alternative),
            ]
        ),
        "trials": list_of(Annotated[_TRIAL, AfterValidator(_trial)]),
    },
)

HEAD: Final = Declared[dict[str, Any]](
    Annotated[_WRITTEN_HEAD, Field(json_schema_extra={"required": ["sample"]})], dict
)
"""What ``exercise.yaml`` of a pack may hold; the rest of an exercise lies in files beside it."""

CONTENT: Final = Declared[dict[str, Any]](_WRITTEN, dict)
"""Everything of an exercise but its id, as versions and drafts keep it."""
