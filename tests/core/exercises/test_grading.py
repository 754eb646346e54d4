from __future__ import annotations

from typing import Any

import pytest

from jentrow.core.engines.protocol import Judging
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.errors import ReferenceFails
from jentrow.core.exercises.exercise import Exercise, NamedQuery
from jentrow.core.exercises.files.rulefile import read_rules
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.outcomes import Outcome
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


@pytest.mark.parametrize("rules", [{"column_order": "any"}, {"column_names": "exact"}])
def test_names_of_equal_rows_are_looked_at_where_they_count(
    engine: SQLiteEngine, rules: dict[str, Any]
) -> None:
    held = grader(engine, "SELECT name, level FROM gauges", rules=rules)
    texts = [
        "SELECT name AS level, level AS name FROM gauges",
        "SELECT name, level FROM gauges",
        "SELECT name AS level, level AS name FROM gauges WHERE 1",
    ]
    found = dict(held.grade_many(texts))
    assert [found[at].verdict for at in range(3)] == ["incorrect", "correct", "incorrect"]


def test_what_only_repeats_the_open_data_is_not_said_of_other_data(engine: SQLiteEngine) -> None:
    missing = graded(engine, ALL, ALL + " WHERE name = 'Auwehr'")
    assert [one.code for one in missing.findings] == ["rows.missing"]
    both = graded(
        engine, ALL, "SELECT name || CASE WHEN level > 5 THEN ' ' ELSE '!' END FROM gauges"
    )
    assert [(one.code, one.dataset) for one in both.findings] == [
        ("rows.missing", "open"), ("rows.extra", "open"), ("held_back.differs", "flood"),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("reference", "answer", "words", "never"),
    [
        # Said only where the text bears it out.
        ("SELECT DISTINCT basin FROM t", "SELECT basin FROM t", "Nothing in the query removes", "UNION"),
        ("SELECT basin FROM t", "SELECT DISTINCT basin FROM t", "DISTINCT makes repeated rows one", "GROUP"),
        ("SELECT basin FROM t", "SELECT basin FROM t GROUP BY 1", "GROUP BY makes one row", "DISTINCT"),
        ("SELECT basin FROM t", "SELECT basin FROM t WHERE n < 4", "too seldom", "DISTINCT"),
        ("SELECT n FROM t ORDER BY n", "SELECT n FROM t ORDER BY n DESC", "ASC and DESC", "no ORDER BY"),
        ("SELECT n FROM t ORDER BY n", "SELECT n FROM (SELECT n FROM t ORDER BY n DESC)", "no ORDER BY", "ASC"),
        ("SELECT n FROM t", "SELECT a.n FROM t a, t b", "6 x 6: every row of t", "too many partners"),
        ("SELECT n FROM t", "SELECT a.n FROM t a JOIN t b ON a.basin >= b.basin", "too often", " x "),
        ("SELECT n FROM t", "SELECT n FROM t UNION ALL SELECT n + 30 FROM t", "not asked for", " x "),
        ("SELECT level FROM t", "SELECT ROUND(level) FROM t", "differ only by rounding", "another"),
        ("SELECT level FROM t", "SELECT CAST(level AS INT) FROM t", "another value", "rounding"),
        ("SELECT n / 2.0 FROM t WHERE n IN (1, 3)", "SELECT n / 2 FROM t WHERE n IN (1, 3)",
         "Dividing whole numbers", "rounding"),
        ("SELECT n, level FROM t WHERE n = 2", "SELECT n, level + 1 FROM t WHERE n = 2", "another value", "rounding"),
        ("SELECT n FROM t", "SELECT n FROM t WHERE level > 0", "Where level is NULL, level > 0 is neither", "join"),
        ("SELECT n FROM t WHERE n > 1", "SELECT n FROM t WHERE n > 1 AND (basin > 0 AND NOT (level < 0))",
         "NOT (level < 0) is neither true nor false: WHERE leaves the row out.", "basin"),
        ("SELECT n FROM t x", "SELECT n FROM t x WHERE x.level BETWEEN 0 AND 9", "Where x.level is NULL, x.level BETWEEN 0 AND 9", "IS NULL"),
        # NULL is not why: rows that have a level are missing too.
        ("SELECT n FROM t", "SELECT n FROM t WHERE level > 3", "are missing", "NULL"),
        ("SELECT n FROM t", "SELECT n FROM t WHERE COALESCE(level, -1) > 0", "is missing", "neither"),
        # Chance is not the engine's choice of a row.
        ("SELECT basin, 1 FROM t GROUP BY basin", "SELECT basin, place, random() FROM t WHERE n = basin GROUP BY basin",
         "column", "picked"),
        ("SELECT n, level FROM t", "SELECT n, level FROM t WHERE level > 0", "comparison with NULL", "join"),
        ("SELECT n, level FROM t", "SELECT n, level FROM t WHERE COALESCE(level, 0) > 0", "NULL in level", "never true"),
        ("SELECT n, level FROM t", "SELECT n, level FROM t WHERE n < 6", "NULL in level", "never true"),
        ("SELECT place, n FROM t", "SELECT upper(place), n FROM t", "upper and lower case", "missing"),
        ("SELECT place, n FROM t WHERE n = 1", "SELECT upper(place), 9 FROM t WHERE n = 1", "upper and lower", "x"),
        ("SELECT place, n FROM t WHERE n < 3", "SELECT upper(place), n + 7 FROM t WHERE n < 3", "missing", "case"),
    ],
)  # fmt: skip
def test_a_cause_is_named_where_rows_and_text_agree(
    engine: SQLiteEngine, reference: str, answer: str, words: str, never: str
) -> None:
    rows = "(1, 'au', 1, 1.5), (2, 'bad', 1, 2.7), (3, 'cham', 2, 3.2), (4, 'dorf', 2, 4.9), (5, 'elm', 3, 5.5), (6, 'fels', 3, NULL)"
    schema = f"CREATE TABLE t (n INTEGER, place TEXT, basin INTEGER, level REAL); INSERT INTO t VALUES {rows}"
    dataset = DatasetSource("open", schema, keep_rows=True)
    found = graded(engine, reference, answer, datasets=(dataset,))
    said = " ".join(one.message for one in found.findings)
    assert found.verdict == "incorrect"
    assert words in said
    assert never not in said


def test_columns_that_change_places_are_named_beside_a_wrong_order(engine: SQLiteEngine) -> None:
    found = graded(engine, "SELECT name, level FROM gauges ORDER BY name",
                   "SELECT level, name FROM gauges ORDER BY name DESC", datasets=(OPEN,))  # fmt: skip
    assert [one.code for one in found.findings] == ["columns.order", "rows.order"]


def test_what_is_stopped_in_a_hurry_has_not_come_to_its_verdict(engine: SQLiteEngine) -> None:
    patient = grader(engine, ALL)
    hurried = patient.elsewhere(engine, Judging(seconds=0.3))
    slow = (
        ALL
        + " WHERE (WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 4000000) SELECT max(i) FROM n) > 0"
    )
    assert hurried.grade(slow).verdict == "stopped"
    assert not hurried.is_settled(hurried.grade(slow))
    assert patient.grade(slow).verdict == "correct"
    assert hurried.is_settled(hurried.grade("SELECT nothing"))
    # Few steps of the engine, and much to take up: that is its time too.
    large = "SELECT name, zeroblob(12000000) FROM gauges"
    hurried = patient.elsewhere(engine, Judging(seconds=0.01))
    assert not hurried.is_settled(hurried.grade(large))
    assert patient.grade(large).verdict == "incorrect"
    # Where there was no hurry, what is stopped is stopped.
    short = grader(engine, ALL, rules={"limits": {"seconds": 0.01}})
    assert short.grade(slow).verdict == "stopped"
    assert short.is_settled(short.grade(slow))


@pytest.fixture
def asked(engine: SQLiteEngine, monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The texts that worker processes are asked to judge, from here on."""
    texts: list[str] = []
    judge = engine.judge

    def counted(measure: Any, path: Any, more: Any, how: Any) -> Any:
        texts.extend(more)
        return judge(measure, path, more, how)

    monkeypatch.setattr(engine, "judge", counted)
    return texts


def test_a_text_that_was_graded_is_not_judged_again(engine: SQLiteEngine, asked: list[str]) -> None:
    one = grader(engine, ALL)
    first = one.grade(ALL)
    mixed = dict(one.grade_many(["SELECT 2", ALL, "nonsense", ALL]))
    assert [mixed[at].verdict for at in range(4)] == ["incorrect", "correct", "error", "correct"]
    assert mixed[1] is mixed[3] is first
    assert asked == [ALL, "SELECT 2", "nonsense"]
    assert grader(engine, ALL, points=3).grade(ALL).mark == 3


def test_what_was_stopped_is_judged_again(engine: SQLiteEngine, asked: list[str]) -> None:
    one = grader(engine, "SELECT 1 FROM gauges", rules={"limits": {"rows": 3}})
    many, few = "SELECT 1 FROM gauges, gauges AS more", "SELECT 1 FROM gauges"
    verdicts = [one.grade(sql).verdict for sql in (many, many, few, few)]
    assert verdicts == ["stopped", "stopped", "correct", "correct"]
    assert asked == [many, many, few]


@pytest.mark.parametrize(
    "what", ["random()", '"random"()', "strftime('%f') || random()", "hex(randomblob(8))"]
)
def test_what_hangs_on_the_moment_runs_whenever_it_is_graded(
    engine: SQLiteEngine, what: str
) -> None:
    one = grader(engine, ALL)
    sql = f"SELECT name, {what} FROM gauges"
    digests = {one.grade(sql).datasets[0].digest for _ in range(4)}
    assert len(digests) == 4
    looks = [one.look(sql) for _ in range(3)]
    assert {look.outcome.datasets[0].digest for look in looks} <= digests, "as it was judged"
    assert len({str(look.woven) for look in looks}) == 1


def test_what_is_due_is_measured_again_where_it_hangs_on_the_moment(
    engine: SQLiteEngine, monkeypatch: pytest.MonkeyPatch
) -> None:
    fixed, moving = grader(engine, ALL), grader(engine, ALL + " WHERE 'now' < 'x'")
    assert not fixed.is_outdated
    assert not moving.is_outdated
    monkeypatch.setattr("jentrow.core.exercises.grader.MEASURE_SECONDS", -1)
    assert not fixed.is_outdated
    assert moving.is_outdated
