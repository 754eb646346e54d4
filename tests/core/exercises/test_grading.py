from __future__ import annotations

from typing import Any

import pytest

from jentrow.core.engines.sqlite import SQLiteEngine
from jentrow.core.errors import ReferenceFails
from jentrow.core.exercises.exercise import Exercise, NamedQuery
from jentrow.core.exercises.grading import Grader, Outcome
from jentrow.core.exercises.rulefile import read_rules
from jentrow.core.samples.sources import DatasetSource, SampleSource

SCHEMA = "CREATE TABLE gauges (name TEXT, level REAL, basin INTEGER);"
OPEN = DatasetSource(
    "open", SCHEMA + "INSERT INTO gauges VALUES ('Auwehr', 1, 1), ('Brugg', 2, 2)", keep_rows=True
)
HELD_BACK = DatasetSource(
    "flood", SCHEMA, script="INSERT INTO gauges VALUES ('Secretwehr', 9, NULL), ('Brugg', 2, 2)"
)


def grader(engine: SQLiteEngine, reference: str, **more: Any) -> Grader:
    datasets = more.pop("datasets", (OPEN, HELD_BACK))
    rules = read_rules(more.pop("rules", None))
    alternatives = tuple(NamedQuery(name, sql) for name, sql in more.pop("also", {}).items())
    exercise = Exercise(
        "gauges", "Gauges", "", "gauges", reference, rules=rules, alternatives=alternatives, **more
    )
    return Grader(engine, exercise, SampleSource("gauges", datasets))


def graded(engine: SQLiteEngine, reference: str, sql: str, **more: Any) -> Outcome:
    return grader(engine, reference, **more).grade(sql)


ALL = "SELECT name FROM gauges"


def test_right_on_every_dataset(engine: SQLiteEngine) -> None:
    outcome = graded(engine, ALL, "SELECT name AS gauge FROM gauges ORDER BY 1 DESC", points=4)
    assert (outcome.verdict, outcome.mark, outcome.findings) == ("correct", 4.0, ())
    assert [one.dataset for one in outcome.datasets] == ["open", "flood"]


def test_right_by_accident_on_the_open_data_is_wrong(engine: SQLiteEngine) -> None:
    outcome = graded(engine, ALL, "SELECT name FROM gauges WHERE basin > 0")
    assert (outcome.verdict, outcome.mark) == ("incorrect", 0.0)
    (finding,) = outcome.findings
    assert (finding.code, finding.dataset) == ("held_back.differs", "flood")
    assert finding.evidence == {"kinds": ["rows.missing"]}


@pytest.mark.parametrize(
    "sql",
    [
        "SELECT name FROM gauges WHERE level < 5",
        "SELECT json_extract(name, '$') FROM gauges WHERE level > 5 UNION SELECT name FROM gauges WHERE level < 5",
        "SELECT lower(name) FROM gauges",
        "SELECT CASE WHEN level > 5 THEN abs(-9223372036854775808) ELSE name END FROM gauges",
    ],
)
def test_nothing_of_a_held_back_dataset_leaves_the_core(engine: SQLiteEngine, sql: str) -> None:
    outcome = graded(engine, ALL, sql)
    assert outcome.verdict in ("incorrect", "error")
    assert "secretwehr" not in str(outcome.to_json()).lower()


def test_failing_on_a_held_back_dataset_is_an_error(engine: SQLiteEngine) -> None:
    sql = "SELECT CASE WHEN level > 5 THEN json(name) ELSE name END FROM gauges"
    outcome = graded(engine, ALL, sql)
    assert outcome.verdict == "error"
    (finding,) = outcome.findings
    assert (finding.code, finding.dataset, finding.evidence) == ("sql.runtime", "flood", {})
    assert outcome.to_json()["actual"] is None


def test_the_best_outcome_over_alternatives_stands(engine: SQLiteEngine) -> None:
    also = {"levels": "SELECT level FROM gauges", "basins": "SELECT basin FROM gauges"}
    assert graded(engine, ALL, "SELECT basin FROM gauges", also=also).answer == "basins"
    near = graded(engine, ALL, "SELECT level + (level = 2) FROM gauges", also=also)
    assert (near.verdict, near.answer) == ("incorrect", "levels")
    assert (near.findings[0].count, near.findings[0].evidence) == (1, {})


def test_an_answer_must_match_one_and_the_same_answer_everywhere(engine: SQLiteEngine) -> None:
    also = {"levels": "SELECT level FROM gauges"}
    mixed = (
        "SELECT CASE WHEN (SELECT COUNT(*) FROM gauges WHERE level > 5) THEN name ELSE level END "
        "FROM gauges"
    )
    assert graded(engine, ALL, mixed, also=also).verdict == "incorrect"


def test_an_alternative_is_held_to_its_own_keys(engine: SQLiteEngine) -> None:
    reference = "SELECT name FROM gauges ORDER BY level"
    also = {"by name, backwards": "SELECT name FROM gauges ORDER BY name DESC"}
    answers = {
        "SELECT name FROM gauges ORDER BY level": "reference",
        "SELECT name FROM gauges ORDER BY name DESC": "by name, backwards",
    }
    prepared = grader(engine, reference, also=also)
    for sql, name in answers.items():
        outcome = prepared.grade(sql)
        assert (outcome.verdict, outcome.answer) == ("correct", name)


@pytest.mark.parametrize(
    ("reference", "more", "words"),
    [
        ("SELECT nome FROM gauges", {}, "gauges: the reference answer does not run .line 1.*name"),
        ("DELETE FROM gauges", {}, "Not a query"),
        (ALL, {"also": {"bad": "SELECT"}}, "the accepted alternative bad does not run"),
        (ALL, {"rules": {"row_order": "required"}}, "row_order is required"),
        (
            ALL + " ORDER BY 1",
            {"also": {"loose": ALL}},
            "alternative loose: the order of rows counts",
        ),
        (
            "SELECT json(CASE WHEN level > 5 THEN name END) FROM gauges",
            {},
            "on the dataset flood",
        ),
    ],
)
def test_a_measure_that_cannot_be_used_says_why(
    engine: SQLiteEngine, reference: str, more: dict[str, Any], words: str
) -> None:
    with pytest.raises(ReferenceFails, match=words):
        grader(engine, reference, **more)


def test_limits_of_the_exercise_hold(engine: SQLiteEngine) -> None:
    outcome = graded(
        engine,
        "SELECT 1 FROM gauges",
        "SELECT 1 FROM gauges, gauges AS more",
        rules={"limits": {"rows": 3}},
    )
    assert outcome.verdict == "stopped"
    assert [finding.code for finding in outcome.findings] == ["limit.rows"]
    assert outcome.to_json()["actual"] is None


def test_equal_texts_get_one_and_the_same_outcome(engine: SQLiteEngine) -> None:
    answers = [ALL, "SELECT 1", ALL, "nonsense", ALL]
    outcomes = dict(grader(engine, ALL).grade_many(answers))
    assert [outcomes[at].verdict for at in range(5)] == [
        "correct",
        "incorrect",
        "correct",
        "error",
        "correct",
    ]
    assert outcomes[0] is outcomes[4]


def test_equal_rows_under_other_names_keep_their_names(engine: SQLiteEngine) -> None:
    answers = [f"SELECT lower(name) AS n{at} FROM gauges" for at in range(5)]
    outcomes = dict(grader(engine, ALL).grade_many(answers))
    alone = grader(engine, ALL)
    for at, sql in enumerate(answers):
        assert outcomes[at].to_json() == alone.grade(sql).to_json()
        assert outcomes[at].to_json()["actual"]["columns"] == [f"n{at}"]
