"""What a wrong answer's own text says of why it is wrong, and values that the engine picked."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import LoadedDataset, QueryFailure
from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.engine_choices import (
    MOST_CHOICES,
    chosen_by_engine,
    variant_limits,
)
from jentrow.core.exercises.grading.outcomes import Outcome
from jentrow.core.exercises.warnings import warnings_of
from jentrow.core.results import Column, ResultSet
from jentrow.core.samples.sources import SampleSource, read_sample
from jentrow.core.sql.constructs import find_construct, read_query
from jentrow.core.sql.freedom.arbitrary import choices_in
from jentrow.core.sql.remarks import remarks_on
from tests.cases import read_cases
from tests.demo_course import DEMO, ROOT

CASES = read_cases(ROOT / "tests" / "data" / "remarks.yaml")


@pytest.fixture(scope="module")
def sample() -> SampleSource:
    return read_sample(DEMO / "samples" / "huts")


def grader_of(engine: SQLiteEngine, sample: SampleSource, reference: str) -> Grader:
    return Grader(engine, Exercise("one", "One", "huts", "", reference), sample)


def graded(engine: SQLiteEngine, sample: SampleSource, reference: str, given: str) -> Outcome:
    return grader_of(engine, sample, reference).grade(given)


@pytest.mark.parametrize(
    ("reference", "given", "cause", "words"), CASES, ids=[given for _, given, _, _ in CASES]
)
def test_a_cause_is_named_where_text_and_rows_agree(
    engine: SQLiteEngine,
    sample: SampleSource,
    reference: str,
    given: str,
    cause: str,
    words: str,
) -> None:
    outcome = graded(engine, sample, reference, given)
    assert outcome.verdict == "incorrect"
    causes = [one.evidence.get("cause") for one in outcome.findings]
    codes = {remark.code for remark in remarks_on(given, "sqlite")}
    if cause == "none":
        assert not codes & set(causes)
        return
    assert causes.count(cause) == 1
    (said,) = [one for one in outcome.findings if one.evidence.get("cause") == cause]
    assert words in said.message
    assert (said.evidence["line"], said.evidence["column"]) > (1, 1)


def test_rows_and_their_sequence_have_causes_of_their_own(
    engine: SQLiteEngine, sample: SampleSource
) -> None:
    reference = "SELECT name FROM huts WHERE beds > 20 ORDER BY name DESC"
    given = "SELECT name FROM huts WHERE 'beds' > 20 ORDER BY 'name' DESC"
    found = graded(engine, sample, reference, given).findings
    assert {one.code: one.evidence.get("cause") for one in found} == {
        "rows.extra": "texts_compared",
        "rows.order": "text_as_key",
    }


@given(st.text(alphabet="SELECT NULL=<>'%*()-0123456789 ORANDBETWEENLIKE+.,\n", max_size=80))
def test_remarks_never_fail(text: str) -> None:
    remarks_on(text, "sqlite")
    choices_in(text, "sqlite")


ARBITRARY = [
    ("SELECT name, COUNT(*) FROM huts GROUP BY region", "name is neither grouped"),
    ("SELECT region, name, SUM(beds) FROM huts GROUP BY region", "name is neither grouped"),
    ("SELECT h.name, s.guest, COUNT(*) FROM huts h JOIN stays s USING (hut_id) GROUP BY h.name", "guest is neither"),
    ("SELECT name, COUNT(*) FROM huts", "name is neither grouped"),
    ("SELECT name, (SELECT guest FROM stays s WHERE s.hut_id = h.hut_id) FROM huts h", "A subquery that stands for one value"),
    ("SELECT name FROM huts WHERE beds = (SELECT beds FROM huts)", "A subquery that stands for one value"),
]  # fmt: skip
DETERMINED = [
    "SELECT region, COUNT(*) FROM huts GROUP BY region",
    "SELECT h.region, COUNT(*) FROM huts AS h GROUP BY region",
    "SELECT region AS r, COUNT(*) FROM huts GROUP BY r",
    "SELECT region, COUNT(*) FROM huts GROUP BY 1",
    "SELECT h.hut_id, h.name, COUNT(*) FROM huts h JOIN stays s USING (hut_id) GROUP BY h.hut_id",
    "SELECT name, MAX(beds) FROM huts",
    "SELECT name, RANK() OVER (ORDER BY beds) FROM huts",
    "SELECT name, (SELECT COUNT(*) FROM stays s WHERE s.hut_id = h.hut_id) FROM huts h",
    "SELECT name FROM huts WHERE beds = (SELECT beds FROM huts ORDER BY beds DESC LIMIT 1)",
    "SELECT name FROM huts WHERE hut_id IN (SELECT hut_id FROM stays)",
    "SELECT name FROM huts, (SELECT hut_id FROM stays) AS s WHERE s.hut_id = huts.hut_id",
]


@pytest.mark.parametrize(("sql", "words"), ARBITRARY)
def test_a_value_that_the_engine_picked_is_said(
    engine: SQLiteEngine, sample: SampleSource, sql: str, words: str
) -> None:
    outcome = graded(engine, sample, sql, sql)
    assert outcome.verdict == "correct", "it changes no verdict by itself"
    (finding,) = outcome.findings
    assert finding.code == "cells.arbitrary"
    assert finding.message.startswith(words)
    codes = [one.code for one in warnings_of(grader_of(engine, sample, sql))]
    assert "reference.arbitrary" in codes


@pytest.mark.parametrize("sql", DETERMINED)
def test_what_the_group_determines_is_not(
    engine: SQLiteEngine, sample: SampleSource, huts: LoadedDataset, sql: str
) -> None:
    assert not isinstance(engine.run(huts, sql, Limits()), QueryFailure)
    assert graded(engine, sample, sql, sql).findings == ()


def test_an_ungrouped_column_is_a_construct() -> None:
    reading = read_query("SELECT region,\n  name, COUNT(*) FROM huts GROUP BY region", "sqlite")
    assert reading is not None
    (spot,) = find_construct(reading, "ungrouped_column")
    assert (spot.place.line, spot.place.column, spot.length) == (2, 3, 4)


def test_a_division_of_whole_numbers_is_warned_of(engine: SQLiteEngine, tmp_path: Path) -> None:
    (tmp_path / "sample.sql").write_text(
        "CREATE TABLE boats (name TEXT, price DECIMAL(6, 2), length_m INTEGER);"
        "INSERT INTO boats VALUES ('Auk', 25.00, 8), ('Tern', 24.00, 6);"
    )
    boats = read_sample(tmp_path / "sample.sql")

    def codes(reference: str) -> list[str]:
        exercise = Exercise("one", "One", "boats", "", reference)
        return [one.code for one in warnings_of(Grader(engine, exercise, boats))]

    assert "reference.whole_division" in codes("SELECT name, price / 2 FROM boats")
    assert "reference.whole_division" not in codes("SELECT name, length_m / 2 FROM boats")
    assert "reference.whole_division" not in codes("SELECT name, price / 2.0 FROM boats")
    assert "reference.whole_division" not in codes("SELECT name, '1/2' FROM boats -- a / b")


@pytest.mark.parametrize(
    "sql",
    [
        "SELECT COUNT(*), " + "+".join(["beds"] * 990) + " FROM huts",
        "SELECT region, " + "+".join(["COUNT(beds)"] * 990) + " FROM huts GROUP BY region",
        "SELECT name FROM huts WHERE " + " OR ".join(["beds = NULL"] * 990),
    ],
    ids=["columns", "aggregates", "conditions"],
)
def test_what_is_nested_as_deep_as_the_engine_allows_is_graded(
    engine: SQLiteEngine, sample: SampleSource, sql: str
) -> None:
    outcome = graded(engine, sample, "SELECT region, COUNT(*) FROM huts GROUP BY region", sql)
    assert outcome.verdict == "incorrect"


def test_looking_into_choices_is_bounded() -> None:
    """However many subqueries a text has: explaining never takes the time that judges it."""
    ran = ResultSet((Column("one"),), [(1,)])
    asked: list[str] = []

    def run(sql: str) -> ResultSet:
        asked.append(sql)
        return ran

    sql = "SELECT " + ", ".join(["(SELECT beds FROM huts)"] * 40)
    assert len(choices_in(sql, "sqlite")) == 40
    assert chosen_by_engine(run, sql, ran, "sqlite") == ()
    assert len(asked) == 2 * MOST_CHOICES
    assert variant_limits(Limits(seconds=5.0)).seconds < 1 < Limits().seconds


@pytest.mark.parametrize(
    ("sql", "said"),
    [
        ("SELECT 1 FROM t WHERE a = NULL AND b = 2", "a = NULL"),
        ("SELECT SUM(CASE WHEN a = NULL THEN 1 END) FROM t", "a = NULL"),
        ("SELECT 1 FROM t WHERE a LIKE 'x' ORDER BY a", "LIKE 'x'"),
        ("SELECT 1 FROM t WHERE a = '%x' OR b = 1", "= '%x'"),
    ],
)
def test_a_remark_points_at_its_own_words_whatever_follows(sql: str, said: str) -> None:
    assert said in [one.near for one in remarks_on(sql, "sqlite")]


def test_a_group_without_parentheses_may_leave_a_value_open() -> None:
    (choice,) = choices_in("SELECT region, name FROM huts\nGroup By region", "sqlite")
    assert choice.near == "name"
    assert choices_in("SELECT region, name FROM huts ORDER BY region", "sqlite") == ()
