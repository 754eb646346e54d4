"""What explains an answer, on the other engines that made-up rows are tried on."""

from __future__ import annotations

import pytest

from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grading import Grader
from jentrow.core.samples.sources import read_sample
from jentrow.services.runtime.engines import opened_engine
from tests.conftest import DEMO

REFERENCE = "SELECT h.name, COUNT(s.stay_id) AS stays FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id, h.name"


@pytest.mark.parametrize("name", ["duckdb", "oracle", "tsql", "db2"])
def test_a_wrong_answer_is_explained(name: str) -> None:
    exercise = Exercise("one", "One", "", "huts", REFERENCE, engine=name)
    with opened_engine(name, workers=1) as engine:
        grader = Grader(engine, exercise, read_sample(DEMO / "samples" / "huts"))
        found = grader.analyse(REFERENCE.replace("LEFT JOIN", "JOIN"), "explanation")
    assert found.without == ""
    assert "LEFT JOIN" in [one.new for one in found.near_misses]
    assert found.example is not None
    assert found.example.row_count == 1
    assert (len(found.example.expected.rows), len(found.example.actual.rows)) == (1, 0)


@pytest.mark.parametrize("name", ["postgresql", "mariadb"])
def test_where_made_up_rows_are_not_tried_that_is_said(name: str) -> None:
    exercise = Exercise("one", "One", "", "huts", REFERENCE, engine=name)
    with opened_engine(name, workers=1) as engine:
        grader = Grader(engine, exercise, read_sample(DEMO / "samples" / "huts"))
        found = grader.analyse(REFERENCE.replace("LEFT JOIN", "JOIN"), "explanation")
    assert found.outcome.verdict == "incorrect"
    assert "not tried on this engine" in found.without
    assert found.example is None
