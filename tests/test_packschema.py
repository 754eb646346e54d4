"""The JSON Schemas in docs/formats say what reading a pack says."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest
import yaml
from jsonschema import Draft202012Validator

from jentrow.core.exercises.files.content import exercise_from
from jentrow.core.exercises.files.sheetfile import sheet_from
from jentrow.core.exercises.packs.schema import schemas
from tests.demo_course import DEMO, ROOT

SCHEMAS = {name.split(".")[0]: Draft202012Validator(made) for name, made in schemas().items()}
FILES = [
    *(("pack", path) for path in [DEMO / "pack.yaml"]),
    *(("exercise", path) for path in sorted(DEMO.glob("exercises/*/exercise.yaml"))),
    *(("sheet", path) for path in sorted(DEMO.glob("sheets/*.yaml"))),
]


def test_the_files_are_not_stale() -> None:
    for name, made in schemas().items():
        text = (ROOT / "docs" / "formats" / name).read_text(encoding="utf-8")
        assert json.loads(text) == made, f"{name} is stale; run: make format"
        Draft202012Validator.check_schema(made)


@pytest.mark.parametrize(("kind", "path"), FILES, ids=lambda one: getattr(one, "parent", one))
def test_the_demo_follows_the_schemas(kind: str, path: Path) -> None:
    SCHEMAS[kind].validate(yaml.safe_load(path.read_text(encoding="utf-8")))


HEADS: list[tuple[dict[str, Any], bool]] = [
    ({}, True),
    ({"points": 0.25, "tags": ["NULL"]}, True),
    ({"points": 0}, False),
    ({"points": 1.001}, False),
    ({"engine": "other"}, False),
    ({"level": 1}, False),
    ({"rules": {"row_order": "as_listed", "limits": {"rows": 10}}}, True),
    ({"rules": {"row_order": "sorted"}}, False),
    ({"rules": {"limits": {"rows": 1.5}}}, False),
    ({"rules": {"number_tolerance": {}}}, False),
    ({"constructs": [{"require": "case", "points": 1, "message": "Use it."}]}, True),
    ({"constructs": [{"forbid": "function", "name": "iif"}]}, True),
    ({"constructs": [{"forbid": "function"}]}, False),
    ({"constructs": [{"forbid": "case", "name": "x"}]}, False),
    ({"constructs": [{"forbid": "case", "require": "in"}]}, False),
    ({"layout": {"keyword_case": "lower", "spacing": True, "points": 1}}, True),
    ({"layout": {"spacing": "yes"}}, False),
    ({"marks": {"scheme": "by_parts", "weights": {"rows": 3}}}, True),
    ({"marks": {"scheme": "by_parts", "weights": {"row": 3}}}, False),
    ({"feedback": {"expected": {"rows": "first", "first": 3}}}, True),
    ({"feedback": {"expected": {"rows": "first", "first": 0}}}, False),
]


@pytest.mark.parametrize(("head", "fits"), HEADS, ids=lambda one: str(one)[:60])
def test_schema_and_reader_agree_on_exercises(head: dict[str, Any], fits: bool) -> None:
    whole = {"title": "High", "sample": "huts"} | head
    problems: list[str] = []
    exercise_from("high", whole | {"prompt": "", "reference": ""}, ["huts"], problems)
    assert (problems == []) is fits, problems
    assert SCHEMAS["exercise"].is_valid(whole) is fits


SHEETS: list[tuple[dict[str, Any], bool]] = [
    ({}, True),
    ({"opens": "2026-11-23 08:00", "attempts": 3}, True),
    ({"exercises": [{"exercise": "one", "points": 2}]}, True),
    ({"exercises": "one"}, False),
    ({"attempts": 0}, False),
    ({"late": {"rule": "reduce", "percent_a_day": 20, "days": 3}}, True),
    ({"late": {"rule": "never"}}, False),
    ({"late": {"days": 0}}, False),
    ({"close": "2026-11-23"}, False),
]


@pytest.mark.parametrize(("sheet", "fits"), SHEETS, ids=lambda one: str(one)[:60])
def test_schema_and_reader_agree_on_sheets(sheet: dict[str, Any], fits: bool) -> None:
    whole = {"title": "Week 1", "exercises": ["one"]} | sheet
    problems: list[str] = []
    sheet_from("week-1", whole, {"one": 1.0}, problems)
    assert (problems == []) is fits, problems
    assert SCHEMAS["sheet"].is_valid(whole) is fits
