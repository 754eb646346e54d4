"""What explains an answer, on every engine that made-up rows are tried on."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from jentrow.core.engines.labels import ENGINES, RUNNING
from jentrow.core.engines.protocol import Engine
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.samples.sources import read_sample
from jentrow.services.runtime.engines import opened_engine
from tests.demo_course import DEMO

REFERENCE = "SELECT h.name, COUNT(s.stay_id) AS stays FROM huts h LEFT JOIN stays s ON s.hut_id = h.hut_id GROUP BY h.hut_id, h.name"


@pytest.fixture(scope="module", params=ENGINES)
def engine(request: pytest.FixtureRequest) -> Iterator[Engine]:
    with opened_engine(request.param, workers=1) as running:
        yield running


def test_a_wrong_answer_is_explained(engine: Engine) -> None:
    exercise = Exercise("one", "One", "", "huts", REFERENCE, engine=engine.name)
    grader = Grader(engine, exercise, read_sample(DEMO / "samples" / "huts"))
    found = grader.analyse(REFERENCE.replace("LEFT JOIN", "JOIN"), "explanation")
    assert found.without == ""
    assert "LEFT JOIN" in [one.new for one in found.near_misses]
    assert found.example is not None
    assert found.example.row_count == 1
    assert (len(found.example.expected.rows), len(found.example.actual.rows)) == (1, 0)


VIEW = """
CREATE TABLE huts (hut_id INTEGER PRIMARY KEY, name VARCHAR(20) NOT NULL, beds INTEGER CHECK (beds > 0));
CREATE VIEW roomy AS SELECT name, beds FROM huts WHERE beds >= 20;
CREATE VIEW roomy_names AS SELECT name FROM roomy;
INSERT INTO huts VALUES (1, 'Alpenrose', 30), (2, 'Birkhaus', 24), (3, 'Cresta', 12);
"""


@pytest.mark.parametrize(
    ("reference", "wrong"),
    [
        ("SELECT name FROM roomy WHERE beds <= 30", "SELECT name FROM roomy WHERE beds < 30"),
        (
            "WITH few AS (SELECT name, beds FROM roomy) SELECT name FROM few WHERE beds < 26",
            "WITH few AS (SELECT name, beds FROM roomy) SELECT name FROM few WHERE beds < 31",
        ),
        (
            "SELECT name FROM roomy_names UNION ALL SELECT name FROM huts",
            "SELECT name FROM roomy_names UNION SELECT name FROM huts",
        ),
    ],
)
@pytest.mark.parametrize("engine", RUNNING, indirect=True)
def test_made_up_rows_are_seen_through_views(
    engine: Engine, reference: str, wrong: str, tmp_path: Path
) -> None:
    script = tmp_path / "huts.sql"
    script.write_text(VIEW, encoding="utf-8")
    exercise = Exercise("one", "One", "", "huts", reference, engine=engine.name)
    found = Grader(engine, exercise, read_sample(script)).analyse(wrong, "explanation")
    assert found.outcome.standing == "incorrect"
    assert found.example is not None
    tables = found.example.to_json()["tables"]
    # All that either query gives comes from the made-up rows, and not from the sample's.
    made = {row[1] for row in tables["huts"]["rows"]}
    given = [*found.example.expected.rows, *found.example.actual.rows]
    assert given
    assert {row[0] for row in given} <= made
