"""Engines in a running server: what waits while one does not answer, exercises moved between them."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import select

from jentrow.core.exercises.files.content import content_of
from jentrow.records.contents import core_exercise
from jentrow.records.models import Exercise, GradingTask
from jentrow.records.submissions import submissions_to
from jentrow.records.tasks import ANEW, WAITS_FOR_ENGINE, add_tasks
from jentrow.services.exercises.version_history import keep_content
from jentrow.services.runtime.runtime import Runtime
from tests.servers import POSTGRESQL, stoppable_postgresql

HIGH = "/exercises/01-high-huts"
GAUGES = "/samples/gauges/datasets/open/queries/engines"


@pytest.fixture
def runtime(
    tmp_path: Path, demo_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> Iterator[tuple[Runtime, object]]:
    """Demo data over a PostgreSQL server that can be stopped."""
    with stoppable_postgresql() as (url, start):
        monkeypatch.setenv(POSTGRESQL, url)
        running = Runtime(shutil.copytree(demo_folder, tmp_path / "data"))
        yield running, start
        running.close()


def test_answers_wait_for_a_server_that_does_not_answer(
    runtime: tuple[Runtime, object],
) -> None:
    running, start = runtime
    with start():  # type: ignore[operator]
        with running.records.writing() as session:
            exercise = session.scalars(
                select(Exercise).where(Exercise.slug == "01-high-huts")
            ).one()
            content = content_of(core_exercise(exercise)) | {"engine": "postgresql"}
            keep_content(session, exercise, content, "")
        assert running.engines.state("postgresql").answers
        version = running.engines.version("postgresql")
    with running.records.writing() as session:
        add_tasks(session, submissions_to(session, exercise.id), ANEW)
    running.queue.drain()
    with running.records.session() as session:
        waiting = session.scalars(select(GradingTask)).all()
        assert waiting
        assert {one.problem[: len(WAITS_FOR_ENGINE)] for one in waiting} == {WAITS_FOR_ENGINE}
        assert "does not answer" in waiting[0].problem
    assert running.engines.version("postgresql") == version, "the last that is known"
    running.queue.look_for_engines()
    running.queue.drain()
    with running.records.session() as session:
        assert session.scalars(select(GradingTask)).all(), "it still does not answer"
    with start():  # type: ignore[operator]
        running.engines.forget_states()
        running.queue.look_for_engines()
        running.queue.drain()
        with running.records.session() as session:
            assert not session.scalars(select(GradingTask)).all()
            graded = submissions_to(session, exercise.id)
            assert {one.grading.engine for one in graded if one.grading} == {
                f"postgresql {version}"
            }
            assert {one.grading.verdict for one in graded if one.grading} >= {
                "correct",
                "incorrect",
            }


def test_a_query_runs_on_every_engine(client: TestClient) -> None:
    sql = "SELECT name, length_km FROM rivers ORDER BY flows_into"
    runs = client.post(GAUGES, json={"sql": sql}).json()
    assert [one["engine"] for one in runs] == ["sqlite", "duckdb", "postgresql", "mariadb"]
    first, duckdb, postgresql, mariadb = runs
    assert first["same"] is None
    assert first["result"]["row_count"] == 6
    assert mariadb["same"] is True
    for one in (duckdb, postgresql):
        assert one["same"] is False
        assert one["woven"] is not None
        assert any("NULL sorts" in why for why in one["why"])
    broken = client.post(GAUGES, json={"sql": "SELECT nothing FROM rivers"}).json()
    assert all(one["message"] and not one["result"] for one in broken)


def test_an_exercise_is_looked_at_on_another_engine(client: TestClient) -> None:
    content = client.get(HIGH).json()["content"]
    moved = client.post(f"{HIGH}/engines/postgresql", json=content).json()
    assert moved["problem"] == ""
    assert moved["content"]["engine"] == "postgresql"
    assert {one["part"] for one in moved["texts"]} >= {"reference", "trial"}
    assert all(one["same"] for one in moved["datasets"])
    assert client.get(HIGH).json()["content"]["engine"] == "sqlite", "nothing is kept"
    nowhere = client.post(f"{HIGH}/engines/abacus", json=content)
    assert nowhere.status_code == 422
    assert "known are sqlite" in nowhere.json()["message"]


def test_what_differs_on_another_engine_is_shown(client: TestClient) -> None:
    content = client.get(HIGH).json()["content"] | {
        "reference": "SELECT name, beds / 4 AS rooms FROM huts",
        "alternatives": [],
        "trials": [],
    }
    moved = client.post(f"{HIGH}/engines/mariadb", json=content).json()
    assert not moved["holds"]
    assert any("Dividing whole numbers" in why for why in moved["why"])
    assert any(one["woven"] for one in moved["datasets"])


def test_a_sheet_is_moved_as_far_as_it_holds(fresh: TestClient) -> None:
    sheet = fresh.get("/sheets").json()[0]
    looked = fresh.get(f"/sheets/{sheet['slug']}/engines/duckdb").json()
    holding = {one["slug"] for one in looked if one["holds"]}
    assert holding
    assert len(holding) < len(looked)
    fresh.put(f"/sheets/{sheet['slug']}/engines/duckdb")
    for one in looked:
        engine = fresh.get(f"/exercises/{one['slug']}").json()["content"]["engine"]
        assert engine == ("duckdb" if one["slug"] in holding else "sqlite"), one["slug"]
