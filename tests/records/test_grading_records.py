"""What waits, who grades it, and what it comes to, as the records have it."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import event, select

from jentrow.records.claims import (
    SET_ASIDE,
    TRIES,
    Batch,
    begin,
    claim_batch,
    drop_tasks,
    is_any_waiting,
    note_lost,
    release,
    release_stale,
)
from jentrow.records.database import Records
from jentrow.records.marks import texts_of
from jentrow.records.models import (
    Course,
    Exercise,
    Grading,
    GradingTask,
    Learner,
    Sample,
    Submission,
)
from jentrow.records.numbers import among
from jentrow.records.submissions import gradings_of, keep_gradings, standing_gradings
from jentrow.records.tasks import (
    ANEW,
    HANDED_IN,
    SLOW,
    TAKEN_IN,
    add_tasks,
    count_tasks,
    pause_all,
    paused_courses,
    renew_tasks,
)

NOON = datetime(2026, 11, 20, 12, tzinfo=UTC)
EVERY = (HANDED_IN, TAKEN_IN, ANEW)
COUNT = 8


@pytest.fixture
def records(tmp_path: Path) -> Iterator[Records]:
    """Two exercises with submissions of two learners: 1 to 8 to the first, 9 to the second."""
    opened = Records(tmp_path)
    with opened.writing() as session:
        course = Course(slug="rivers", title="Rivers")
        session.add(course)
        session.flush()
        session.add(Sample(course_id=course.id, name="gauges", folder="x"))
        session.add_all(
            Learner(course_id=course.id, code=code, name=code) for code in ("ada", "tom")
        )
        session.flush()
        session.add_all(
            Exercise(
                course_id=course.id, sample_id=1, slug=slug, position=0, title=slug, prompt="",
                engine="sqlite", points=1, reference="SELECT 1", rules={},
            )
            for slug in ("levels", "floods")
        )  # fmt: skip
        session.flush()
        session.add_all(
            Submission(
                exercise_id=1 if at < COUNT else 2, learner_id=1 + at % 2, sql=f"SELECT {at}",
                submitted_at=NOON + timedelta(minutes=at),
            )
            for at in range(COUNT + 1)
        )  # fmt: skip
    yield opened
    opened.close()


def wait(records: Records, ids: list[int], priority: int = TAKEN_IN) -> None:
    with records.writing() as session:
        found = session.scalars(select(Submission).where(among(Submission.id, ids))).all()
        add_tasks(session, found, priority)


def claimed(records: Records, claimer: str = "one", most: int = 100) -> Batch | None:
    with records.writing() as session:
        return claim_batch(session, claimer, most, EVERY)


def numbers(batch: Batch | None) -> list[int]:
    return [one.submission_id for one in batch.claimed] if batch else []


def grading(**values: Any) -> dict[str, Any]:
    return {
        "verdict": "correct", "mark": 1.0, "answer": "reference", "findings": [], "ledger": [],
        "engine": "sqlite 3", "graded_at": NOON, "undecided": "", "exercise_version": 1,
        "dataset_versions": {"open": "x.1"}, "measure": "m", "datasets": [], "outcome": "correct",
        "wording": "", "codes": "", "explained": False,
    } | values  # fmt: skip


def test_more_rows_are_named_than_a_statement_takes_parameters(records: Records) -> None:
    many = range(1, 250_000)
    with records.session() as session:
        assert len(texts_of(session, many)) == COUNT + 1
        assert texts_of(session, []) == {}
        assert texts_of(session, iter([2, 2, 77])) == {2: "SELECT 1"}
        assert set(standing_gradings(session, list(many))) == set(range(1, COUNT + 2))


def test_a_batch_is_of_one_exercise_in_its_order_and_no_larger_than_wanted(
    records: Records,
) -> None:
    assert claimed(records) is None
    wait(records, [9, 4, 2, 1])
    with records.session() as session:
        assert is_any_waiting(session, EVERY)
        assert not is_any_waiting(session, (HANDED_IN,))
    first = claimed(records, most=2)
    assert first is not None
    assert (numbers(first), first.exercise_id, first.priority) == ([1, 2], 1, TAKEN_IN)
    assert [one.sql for one in first.claimed] == ["SELECT 0", "SELECT 1"]
    assert [numbers(claimed(records)) for _ in range(3)] == [[4], [9], []]


def test_whoever_comes_next_is_found_without_a_look_at_all_that_waits(records: Records) -> None:
    """Each hand-in asks this, also while thousands of answers of an import wait."""
    wait(records, list(range(1, COUNT + 1)))
    asked: list[tuple[str, Any]] = []

    def note(
        connection: Any, cursor: Any, statement: str, parameters: Any, context: Any, many: bool
    ) -> None:
        if "FROM grading_tasks" in statement and "LIMIT" in statement:
            asked.append((statement, parameters))

    event.listen(records.engine, "before_cursor_execute", note)
    with records.writing() as session:
        assert is_any_waiting(session, EVERY)
        assert claim_batch(session, "one", 100, EVERY) is not None
    event.remove(records.engine, "before_cursor_execute", note)
    assert len(asked) == 3
    with records.session() as session:
        for statement, parameters in asked:
            plan = session.connection().exec_driver_sql(
                f"EXPLAIN QUERY PLAN {statement}", parameters
            )
            steps = [row[3] for row in plan]
            assert any("ix_grading_tasks_in_order" in step for step in steps), steps
            assert not any("SCAN grading_tasks" in step for step in steps), steps
            assert not any("TEMP B-TREE" in step for step in steps), steps


def test_few_of_what_takes_long_are_claimed_together(
    records: Records, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("jentrow.records.claims.MOST_SLOW", 1)
    wait(records, [1, 2], SLOW)
    wait(records, [3, 4, 6], TAKEN_IN)
    with records.writing() as session:
        sizes = []
        while batch := claim_batch(session, "one", 100, (SLOW, TAKEN_IN)):
            sizes.append((batch.priority, len(batch.claimed)))
    assert sizes == [(SLOW, 1), (SLOW, 1), (TAKEN_IN, 3)]


def test_no_more_texts_are_claimed_than_may_be_in_memory_at_once(
    records: Records, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("jentrow.records.claims.READ_AT_ONCE", 2)
    monkeypatch.setattr("jentrow.records.claims.BATCH_CHARACTERS", 3 * len("SELECT 0"))
    wait(records, [1, 2, 3, 4, 5, 6, 7, 8])
    assert [numbers(claimed(records)) for _ in range(3)] == [[1, 2, 3, 4], [5, 6, 7, 8], []]
    monkeypatch.setattr("jentrow.records.claims.BATCH_CHARACTERS", 1)
    monkeypatch.setattr("jentrow.records.claims.READ_AT_ONCE", 1)
    wait(records, [9])
    assert numbers(claimed(records)) == [9], "one at least"


def test_what_is_wanted_anew_meanwhile_is_not_dropped(records: Records) -> None:
    wait(records, [1, 2, 3])
    batch = claimed(records)
    assert batch is not None
    with records.writing() as session:
        begin(session, batch.generations)
        add_tasks(session, [session.get_one(Submission, 2)], ANEW)
    with records.writing() as session:
        drop_tasks(session, batch.generations)
    assert numbers(claimed(records)) == [2], "and it is free again"


def test_a_changed_exercise_renews_what_is_being_graded(records: Records) -> None:
    wait(records, [1, 9])
    batch = claimed(records)
    assert numbers(batch) == [1]
    assert batch is not None
    with records.writing() as session:
        renew_tasks(session, [1])
        drop_tasks(session, batch.generations)
    assert numbers(claimed(records)) == [1]


def test_claims_of_a_server_that_is_no_more_are_taken_over_one_by_one(records: Records) -> None:
    wait(records, [1, 2, 3])
    batch = claimed(records, "gone", most=2)
    assert batch is not None
    with records.writing() as session:
        begin(session, [1])
        release_stale(session, "here")
    # 1 was at work when it ended: it may have been its doing, and is graded alone, and last.
    assert [numbers(claimed(records, "here")) for _ in range(3)] == [[2, 3], [1], []]
    with records.writing() as session:
        release(session, [2])
    assert numbers(claimed(records, "here")) == [2]


def test_what_takes_its_process_with_it_each_time_is_set_aside(records: Records) -> None:
    wait(records, [1])
    for _ in range(TRIES):
        assert numbers(claimed(records)) == [1]
        with records.writing() as session:
            note_lost(session, [1])
            note_lost(session, [])
        with records.session() as session:
            problem = session.get_one(GradingTask, 1).problem
        if problem:
            break
    assert problem == SET_ASIDE
    assert claimed(records) is None
    with records.session() as session:
        assert [(one.all, one.blocked) for one in count_tasks(session).values()] == [(1, 1)]


def test_nothing_is_claimed_while_grading_is_stopped(records: Records) -> None:
    wait(records, [1])
    with records.writing() as session:
        pause_all(session, paused=True)
        pause_all(session, paused=True)
        assert paused_courses(session) == (True, frozenset())
    assert claimed(records) is None
    with records.writing() as session:
        pause_all(session, paused=False)
        session.get_one(Course, 1).grading_paused = True
    assert claimed(records) is None
    with records.writing() as session:
        assert paused_courses(session) == (False, {1})
        session.get_one(Course, 1).grading_paused = False
    assert numbers(claimed(records)) == [1]


def test_gradings_that_say_the_same_are_kept_for_each_submission(records: Records) -> None:
    findings = [{"code": "rows.missing", "message": "One row is missing: „Wehr“.", "count": 1}]
    with records.writing() as session:
        keep_gradings(session, [])
        keep_gradings(session, [
            ([1, 3, 5], grading()),
            ([2], grading(verdict="incorrect", mark=0.5, findings=findings, codes="rows.missing")),
        ])  # fmt: skip
    with records.session() as session:
        standing = standing_gradings(session, [1, 2, 3, 4, 99])
        assert sorted(standing) == [1, 2, 3, 4]
        assert {id: found and found.verdict for id, (_, found) in standing.items()} == {
            1: "correct", 2: "incorrect", 3: "correct", 4: None,
        }  # fmt: skip
        assert [learner for learner, _ in standing.values()] == [1, 2, 1, 2]
        wrong = standing[2][1]
        assert wrong is not None
        assert (wrong.findings, wrong.graded_at, wrong.explained) == (findings, NOON, False)
        assert wrong.dataset_versions == {"open": "x.1"}
    with records.writing() as session:
        keep_gradings(session, [([2], grading(measure="other"))])
    with records.session() as session:
        assert [one.measure for one in gradings_of(session, 2)] == ["other", "m"]
        found = standing_gradings(session, [2])[2][1]
        assert found is not None
        assert found.measure == "other", "the last one stands"
        assert session.query(Grading).count() == 5


@settings(suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.lists(st.integers(1, COUNT), unique=True, min_size=1, max_size=4), max_size=5))
def test_the_last_grading_of_each_stands(records: Records, rounds: list[list[int]]) -> None:
    # What earlier examples kept lies below.
    last: dict[int, str] = {}
    for at, ids in enumerate(rounds):
        with records.writing() as session:
            keep_gradings(session, [(ids, grading(measure=f"{rounds} {at}"))])
        last |= dict.fromkeys(ids, f"{rounds} {at}")
    with records.session() as session:
        standing = standing_gradings(session, list(last))
        assert {id: one.measure for id, (_, one) in standing.items() if one} == last
