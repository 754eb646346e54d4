"""A server that is ended, a disk that is full, a file that others hold: nothing acknowledged is lost."""

from __future__ import annotations

import shutil
import sqlite3
import subprocess
import sys
import threading
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import event
from typer.testing import CliRunner

import jentrow.records.database as database
from jentrow.cli import app
from jentrow.core.errors import UnusableFolder
from jentrow.records.models import Submission
from jentrow.services.runtime import data_folder
from jentrow.services.runtime.runtime import Runtime
from tests.api.classroom import BUSY, ENDLESS
from tests.api.classroom import hand_in as handed_in
from tests.api.server import LEARNER, NOON, app_of, person, runtime_of
from tests.api.test_exercises import content_of, got, idle
from tests.api.test_grading import HUTS, hand_in
from tests.servers import free_port
from tests.serving import Caller, Served


def test_a_server_that_is_told_to_end_does_so(demo_folder: Path, tmp_path: Path) -> None:
    """Whatever is being graded. (Ten seconds are the promise, on a machine that is not busy.)"""
    data = Path(shutil.copytree(demo_folder, tmp_path / "data"))
    runtime = Runtime(data)
    with runtime.records.writing() as session:
        from jentrow.records.models import Exercise

        for exercise in session.query(Exercise):
            exercise.rules = {"limits": {"seconds": 60}}
    hand_in(runtime, [ENDLESS + f" WHERE i > {at}" for at in range(40)])
    runtime.close()
    port = free_port()
    command = [Path(sys.executable).parent / "jentrow", "serve", "--data", data]
    server = subprocess.Popen([*command, "--port", str(port)], stdout=subprocess.PIPE, text=True)
    with server:
        assert server.stdout is not None
        assert "Jentrow is at" in server.stdout.readline()
        for state in Caller(port).events():
            assert state["waiting"] > 0
            break
        server.terminate()
        assert server.wait(timeout=60) is not None
    with sqlite3.connect(data / "records.db") as records:
        claimed = records.execute(
            "SELECT count(*) FROM grading_tasks WHERE claimed_by IS NOT NULL OR tries > 0"
        ).fetchone()
    assert claimed == (0,)
    assert not any((data / data_folder.ENGINES).glob(f"{server.pid}-*"))


def test_what_a_killed_server_left_is_cleared(demo_folder: Path, tmp_path: Path) -> None:
    data = Path(shutil.copytree(demo_folder, tmp_path / "data"))
    server = Served(data)
    for _ in server.events():
        break
    server.kill()
    left = list((data / data_folder.ENGINES).glob(f"{server.pid}-*"))
    assert left
    runtime = Runtime(data)
    assert not any(one.exists() for one in left)
    runtime.close()


class FullDisk:
    """Lets the records' file grow no further, as a full disk does, until there is room again."""

    def __init__(self, runtime: Runtime) -> None:
        self.full = True
        event.listen(runtime.records.engine, "checkout", self._bound)

    def _bound(self, connection: Any, *_: Any) -> None:
        pages = 1 if self.full else 2**30
        connection.execute(f"PRAGMA max_page_count = {pages}")


def test_a_full_disk_loses_nothing(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    ada = person(app_of(fresh), LEARNER)
    first = handed_in(ada, BUSY, "SELECT 1", "before-it-is-full")
    assert first.status_code == 201
    idle(fresh)
    disk = FullDisk(runtime)
    long = "SELECT '" + "x" * 15_000 + "{}'"
    statuses = [
        handed_in(ada, BUSY, long.format(at), f"while-it-is-full-{at}").status_code
        for at in range(2)
    ]
    refused = handed_in(ada, BUSY, long.format(7), "while-it-is-full-7")
    assert (refused.status_code, "disk of the server is full" in refused.text) == (503, True)
    assert got(fresh.get(HUTS))["slug"] == "01-high-huts"  # what is there can be read
    disk.full = False
    again = handed_in(ada, BUSY, long.format(7), "while-it-is-full-7")
    assert again.status_code == 201
    idle(fresh)
    attempts = ada.get(BUSY).json()["attempts"]
    assert len(attempts) == 2 + statuses.count(201)
    assert {one["verdict"] for one in attempts} == {"incorrect"}


def test_a_file_that_others_hold(fresh: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(database, "BUSY_MS", 50)
    runtime = runtime_of(fresh)
    idle(fresh)
    runtime.records.engine.dispose()  # connections from here on wait no longer than that
    with sqlite3.connect(runtime.folder / database.FILE, isolation_level=None) as other:
        other.execute("BEGIN IMMEDIATE")
        busy = fresh.put(HUTS, json=content_of(fresh) | {"prompt": "Meanwhile."})
        assert (busy.status_code, "in use by others" in busy.text) == (503, True)
        other.execute("ROLLBACK")
    # Waiting as long as ever again: the server itself writes, too.
    monkeypatch.undo()
    runtime.records.engine.dispose()
    assert fresh.put(HUTS, json=content_of(fresh) | {"prompt": "After."}).status_code == 200


def test_a_start_that_cannot_be_says_so_in_one_line(
    tmp_path: Path, demo_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(database, "BUSY_MS", 50)
    data = Path(shutil.copytree(demo_folder, tmp_path / "data"))
    with sqlite3.connect(data / database.FILE, isolation_level=None) as other:
        other.execute("BEGIN EXCLUSIVE")
        with pytest.raises(UnusableFolder, match=r"records\.db: .* in use by others"):
            Runtime(data)
    for place in ("/proc/nowhere", str(data / database.FILE)):
        said = CliRunner().invoke(app, ["serve", "--data", place, "--port", "0"])
        assert said.exit_code == 2
        assert len(said.stderr.strip().splitlines()) == 1


def test_a_disk_that_cannot_be_written_is_no_fault_of_the_request(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    runtime = runtime_of(fresh)

    def full(*_: Any) -> Any:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(runtime.import_jobs, "begin", full)
    refused = fresh.post("/imports")
    assert refused.status_code == 503
    assert "No space left on device" in refused.json()["message"]


def test_a_hand_in_counts_from_its_arrival(fresh: TestClient) -> None:
    """A deadline that passes while it waits to be written takes nothing from it."""
    runtime = runtime_of(fresh)
    idle(fresh)
    ada = person(app_of(fresh), LEARNER)
    answers: list[Any] = []
    with sqlite3.connect(runtime.folder / database.FILE, isolation_level=None) as other:
        other.execute("BEGIN IMMEDIATE")
        thread = threading.Thread(
            target=lambda: answers.append(handed_in(ada, BUSY, "SELECT 5", "waiting-to-be-kept"))
        )
        thread.start()
        while not runtime.rates.hand_ins._lanes:  # it has arrived, and waits for the file
            pass
        runtime.now = lambda: NOON.replace(year=2030)  # type: ignore[method-assign]
        other.execute("ROLLBACK")
    thread.join(60)
    assert answers[0].status_code == 201
    with runtime.records.session() as session:
        kept = session.query(Submission).filter(Submission.sql == "SELECT 5").one()
        assert kept.submitted_at == NOON
