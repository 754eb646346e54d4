"""The JSON Schemas of a pack's files, made of the very lists that reading them uses."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, Final, get_args

from jentrow.core.comparison.rules import CHOICES
from jentrow.core.engines.labels import ENGINES
from jentrow.core.exercises.content import MOST_TAGS, MOST_WORDS
from jentrow.core.exercises.exercise import VERDICTS
from jentrow.core.exercises.markscheme import MOST_WEIGHT, PARTS, SchemeKind
from jentrow.core.exercises.sheets import COUNTING_WORDS, MOST_ATTEMPTS, MOST_DAYS, LateRule
from jentrow.core.exercises.sheets import MOST_WEIGHT as MOST_SHEET_WEIGHT
from jentrow.core.exercises.showing import (
    LONGEST_HINT,
    MOST_FIRST,
    MOST_WRONG,
    FeedbackLevel,
    FeedbackTime,
    NearMissHint,
    ShownRows,
)
from jentrow.core.mappings import MOST_POINTS
from jentrow.core.samples.exports import PACK_FORMAT
from jentrow.core.sql.constructs import CONSTRUCTS
from jentrow.core.sql.layout import LAYOUT_WORDS, KeywordCase

DIALECT: Final = "https://json-schema.org/draft/2020-12/schema"
_POINTS: Final = {"type": "number", "minimum": 0, "maximum": MOST_POINTS, "multipleOf": 0.01}
_TEXT: Final = {"type": "string"}
_TITLE: Final = {"type": "string", "minLength": 1}


def _object(properties: dict[str, Any], *required: str, **more: Any) -> dict[str, Any]:
    found: dict[str, Any] = {
        "type": "object",
        "properties": properties,
        "additionalProperties": False,
    }
    return found | ({"required": list(required)} if required else {}) | more


def _pack() -> dict[str, Any]:
    return _object({"format": {"const": PACK_FORMAT}, "title": _TEXT, "licence": _TEXT}, "format")


def _exercise() -> dict[str, Any]:
    return _object(
        {
            "title": _TITLE,
            "sample": {"type": "string", "description": "the name of a sample of the pack"},
            "engine": {"enum": list(ENGINES)},
            "points": _POINTS | {"exclusiveMinimum": 0},
            "tags": {"type": "array", "items": _TEXT, "maxItems": MOST_TAGS},
            "rules": _rules(),
            "constructs": {"type": "array", "items": _construct()},
            "layout": _layout(),
            "marks": _marks(),
            "feedback": _feedback(),
            "trials": {
                "type": "object",
                "description": "for each file in trials/, what the answer ought to get",
                "additionalProperties": {
                    "anyOf": [
                        {"enum": list(VERDICTS)},
                        _object(
                            {
                                "verdict": {"enum": list(VERDICTS)},
                                "mark": {"type": "number"},
                                "words": _words(),
                            },
                            "verdict",
                        ),
                    ]
                },
            },
        },
        "sample",
    )


def _words() -> dict[str, Any]:
    text = {"type": "string", "maxLength": LONGEST_HINT}
    return {
        "description": "hints for learners whose answer behaves the same, the weakest first",
        "anyOf": [text, {"type": "array", "items": text, "maxItems": MOST_WORDS}],
    }


def _rules() -> dict[str, Any]:
    bound = {"type": "number", "minimum": 0}
    limits = _object(
        {
            "seconds": {"type": "number", "exclusiveMinimum": 0, "maximum": 600},
            "rows": {"type": "integer", "minimum": 1, "maximum": 1_000_000},
            "memory_mb": {"type": "integer", "minimum": 8, "maximum": 4_096},
            "cell_kb": {"type": "integer", "minimum": 1, "maximum": 1_024},
        }
    )
    return _object(
        {name: {"enum": list(values)} for name, values in CHOICES.items()}
        | {
            "number_tolerance": _object({"absolute": bound, "relative": bound}, minProperties=1),
            "limits": limits,
        }
    )


def _construct() -> dict[str, Any]:
    named = [name for name, one in CONSTRUCTS.items() if one.named]
    plain = [name for name in CONSTRUCTS if name not in named]
    common = {"points": _POINTS, "message": _TEXT}
    return {
        "oneOf": [
            _object({demand: {"enum": plain}} | common, demand) for demand in ("require", "forbid")
        ]
        + [
            _object({demand: {"enum": named}, "name": _TITLE} | common, demand, "name")
            for demand in ("require", "forbid")
        ]
    }


def _layout() -> dict[str, Any]:
    rules: dict[str, Any] = {rule: {"type": "boolean"} for rule in LAYOUT_WORDS}
    rules["keyword_case"] = {"enum": [*get_args(KeywordCase), None]}
    return _object(rules | {"points": _POINTS})


def _marks() -> dict[str, Any]:
    weight = {"type": "number", "minimum": 0, "maximum": MOST_WEIGHT}
    return _object(
        {
            "scheme": {"enum": list(get_args(SchemeKind))},
            "weights": _object(dict.fromkeys(PARTS, weight)),
            "one_edit": {"type": "number", "minimum": 0, "exclusiveMaximum": 1},
            "two_edits": {"type": "number", "minimum": 0, "exclusiveMaximum": 1},
        }
    )


def _feedback() -> dict[str, Any]:
    return _object(
        {
            "expected": _shown(),
            "level": {"enum": list(get_args(FeedbackLevel))},
            "when": {"enum": list(get_args(FeedbackTime))},
            "hint": {"type": "string", "maxLength": LONGEST_HINT},
            "hint_after": {"type": "integer", "minimum": 1, "maximum": MOST_WRONG},
            "steps": {"type": "boolean"},
            "example": {"type": "boolean"},
            "near_miss": {"enum": list(get_args(NearMissHint))},
            "near_miss_after": {"type": "integer", "minimum": 1, "maximum": MOST_WRONG},
            "borrowed": {"type": "boolean"},
        }
    )


def _shown() -> dict[str, Any]:
    return _object(
        {
            "columns": {"type": "boolean"},
            "row_count": {"type": "boolean"},
            "rows": {"enum": list(get_args(ShownRows))},
            "first": {"type": "integer", "minimum": 1, "maximum": MOST_FIRST},
        }
    )


def _sheet() -> dict[str, Any]:
    time = {"type": "string", "description": "a time of the course, such as 2026-11-23 18:00"}
    entry = _object({"exercise": _TEXT, "points": _POINTS}, "exercise")
    late = _object(
        {
            "rule": {"enum": list(get_args(LateRule))},
            "percent_a_day": {"type": "number", "exclusiveMinimum": 0, "maximum": 100},
            "days": {"type": "integer", "minimum": 1, "maximum": MOST_DAYS},
        }
    )
    return _object(
        {
            "title": _TITLE,
            "opens": time,
            "closes": time,
            "attempts": {"type": ["integer", "null"], "minimum": 1, "maximum": MOST_ATTEMPTS},
            "late": late,
            "counting": {"enum": list(COUNTING_WORDS)},
            "best_of": {"type": "integer", "minimum": 1},
            "weight": {"type": "number", "minimum": 0, "maximum": MOST_SHEET_WEIGHT},
            "exercises": {"type": "array", "items": {"anyOf": [_TEXT, entry]}},
        },
        "title",
        "exercises",
    )


def schemas() -> dict[str, dict[str, Any]]:
    """The schema of each file of a pack, by the name of the file that holds the schema."""
    made = {"pack": _pack(), "exercise": _exercise(), "sheet": _sheet()}
    return {
        f"{name}.schema.json": {"$schema": DIALECT, "title": f"{name}.yaml of a pack"} | schema
        for name, schema in made.items()
    }


def write_schemas(folder: Path) -> None:
    """Writes the schemas as files."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, schema in schemas().items():
        text = json.dumps(schema, indent=2, ensure_ascii=False) + "\n"
        (folder / name).write_text(text, encoding="utf-8")


if __name__ == "__main__":
    write_schemas(Path(__file__).resolve().parents[3] / "docs" / "formats")
