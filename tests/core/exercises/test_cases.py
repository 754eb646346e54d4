"""Questions with wordings that are right and wordings that are wrong, kept as data."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.files.rulefile import read_rules
from jentrow.core.exercises.grader import Grader
from jentrow.core.samples.sources import SampleSource, read_sample
from tests.cases import read_cases
from tests.demo_course import DEMO

FILES = sorted((Path(__file__).parent / "cases").glob("*.yaml"))
CASES: list[dict[str, Any]] = [
    case | {"sample": file.stem} for file in FILES for case in read_cases(file)
]


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["reference"][:60])
def test_right_wordings_are_right_and_wrong_ones_wrong(
    engine: SQLiteEngine, case: dict[str, Any]
) -> None:
    assert set(case) <= {"reference", "right", "wrong", "rules", "sample"}
    whole = read_sample(DEMO / "samples" / case["sample"])
    sample = SampleSource(whole.name, whole.datasets[:1])
    exercise = Exercise(
        "case", "", "", sample.name, case["reference"], rules=read_rules(case.get("rules"))
    )
    grader = Grader(engine, exercise, sample)
    for sql in [case["reference"], *case["right"]]:
        outcome = grader.grade(sql)
        assert outcome.verdict == "correct", (sql, [one.message for one in outcome.findings])
    for wrong in case["wrong"]:
        outcome = grader.grade(wrong["sql"])
        assert outcome.verdict == "incorrect", (wrong["sql"], outcome.findings)
        if "finds" in wrong:
            found = [one.code for one in outcome.findings]
            assert found == wrong["finds"], (
                wrong["sql"],
                [one.message for one in outcome.findings],
            )
