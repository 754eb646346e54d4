from __future__ import annotations

from datetime import UTC, datetime, timedelta, timezone
from pathlib import Path

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from sqlalchemy import text

from jentrow.records.database import Records
from jentrow.records.errors import RecordsConflict
from jentrow.records.models import Base, Course, Exercise, Learner, Sample, Submission


def test_the_migrations_make_what_the_models_say(tmp_path: Path) -> None:
    records = Records(tmp_path)
    with records.engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": True})
        assert compare_metadata(context, Base.metadata) == []
    records.close()


def test_records_open_again_as_they_were(tmp_path: Path) -> None:
    for round_ in range(2):
        records = Records(tmp_path)
        with records.writing() as session:
            assert session.query(Course).count() == round_
            session.add(Course(slug=f"rivers-{round_}", title="Rivers"))
        records.close()


def test_the_log_is_written_ahead_and_foreign_keys_hold(tmp_path: Path) -> None:
    records = Records(tmp_path)
    with records.writing() as session:
        assert session.execute(text("PRAGMA journal_mode")).scalar() == "wal"
    with pytest.raises(RecordsConflict, match="at the same time"), records.writing() as session:
        session.add(Learner(course_id=7, code="ada", name="Ada"))
    records.close()


def test_only_what_is_worked_out_again_does_not_wait_for_the_disk(tmp_path: Path) -> None:
    records = Records(tmp_path)
    waits = []
    for on_disk in (True, False, True):
        with records.writing(on_disk=on_disk) as session:
            waits.append(session.execute(text("PRAGMA synchronous")).scalar())
    full, normal = 2, 1  # https://sqlite.org/pragma.html#pragma_synchronous
    assert waits == [full, normal, full]
    records.close()


def test_an_instant_keeps_its_moment(tmp_path: Path) -> None:
    records = Records(tmp_path)
    moment = datetime(2026, 11, 20, 18, 30, tzinfo=timezone(timedelta(hours=2)))
    with records.writing() as session:
        course = Course(slug="rivers", title="Rivers")
        session.add(course)
        session.flush()
        sample = Sample(course_id=course.id, name="gauges", folder="x")
        learner = Learner(course_id=course.id, code="ada", name="Ada")
        session.add_all([sample, learner])
        session.flush()
        exercise = Exercise(
            course_id=course.id, sample_id=sample.id, slug="a", position=0, title="A", prompt="",
            engine="sqlite", points=1, reference="SELECT 1", rules={},
        )  # fmt: skip
        session.add(exercise)
        session.flush()
        session.add(
            Submission(exercise_id=exercise.id, learner_id=learner.id, sql="", submitted_at=moment)
        )
    with records.writing() as session:
        kept = session.query(Submission).one().submitted_at
    assert kept == moment
    assert kept.tzinfo == UTC
    records.close()


def test_exercises_of_an_older_version_are_taken_over(tmp_path: Path) -> None:
    from alembic import command
    from alembic.config import Config
    from sqlalchemy import create_engine

    from jentrow.records.contents import core_exercise
    from jentrow.records.database import FILE, MIGRATIONS

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    old = create_engine(f"sqlite:///{tmp_path / FILE}")
    with old.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0002")
        for statement in (
            "INSERT INTO courses (id, title) VALUES (1, 'Rivers')",
            "INSERT INTO samples (id, course_id, name, folder) VALUES (1, 1, 'gauges', 'x')",
            "INSERT INTO exercises (id, course_id, sample_id, slug, position, title, prompt, engine,"
            " points, reference, rules) VALUES (1, 1, 1, 'a', 0, 'A', '', 'sqlite', 2, 'SELECT 1',"
            """ '{"row_order": "ignore"}')""",
            "INSERT INTO trials (exercise_id, position, name, sql, expected)"
            " VALUES (1, 0, 'one', 'SELECT 1', 'correct')",
        ):
            connection.execute(text(statement))
    old.dispose()
    records = Records(tmp_path)
    with records.writing() as session:
        exercise = core_exercise(session.query(Exercise).one())
    records.close()
    assert (exercise.points, exercise.rules.comparison.row_order) == (2.0, "ignore")
    assert (exercise.constructs, exercise.tags, exercise.trials[0].mark) == ((), (), None)


def test_records_that_are_up_to_date_are_opened_while_somebody_writes(tmp_path: Path) -> None:
    ours = Records(tmp_path)
    with ours.writing():
        Records(tmp_path).close()  # whoever had to wait for the writer would get RecordsBusy
    ours.close()
