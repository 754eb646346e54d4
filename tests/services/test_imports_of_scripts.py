"""What becomes of a script whose own engine runs it, is away, rejects it, or takes too long."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

import pytest

from jentrow.core.errors import EngineUnavailable, InvalidSample, JentrowError
from jentrow.core.samples.recipes import RanTable
from jentrow.services.runtime.import_jobs import Import, Imports

PLAIN = (
    "CREATE TABLE huts (id serial PRIMARY KEY, name text); INSERT INTO huts (name) VALUES ('Col');"
)
COMPUTED = PLAIN + "INSERT INTO huts (name) SELECT 'n' || i FROM generate_series(1, 3) AS i;"


def imported(
    folder: Path, script: str, run: Callable[[str, str, Path], tuple[RanTable, ...]]
) -> tuple[Imports, Import]:
    imports = Imports(folder, run)
    one = imports.begin()
    imports.place_for(one, "huts.sql").write_text(script, encoding="utf-8")
    imports.add(one, "huts.sql")
    imports.look(one)
    return imports, one


def ended(one: Import) -> Import:
    assert one.thread is not None
    one.thread.join()
    return one


def raising(problem: JentrowError) -> Callable[[str, str, Path], tuple[RanTable, ...]]:
    def run(dialect: str, script: str, folder: Path) -> tuple[RanTable, ...]:
        raise problem

    return run


@pytest.mark.parametrize(
    "problem", [EngineUnavailable("no server is named."), InvalidSample("line 1: no.")], ids=str
)
def test_what_can_be_read_is_made_all_the_same(tmp_path: Path, problem: JentrowError) -> None:
    _, one = imported(tmp_path, PLAIN, raising(problem))
    assert ended(one).phase == "made"
    (made,) = one.made
    assert made.made.table_rows == (("huts", 1),)
    assert made.made.notes[0] == f"PostgreSQL did not run the script: {problem}"


def test_where_nothing_can_be_made_the_engine_has_the_first_word(tmp_path: Path) -> None:
    _, one = imported(tmp_path, COMPUTED, raising(EngineUnavailable("no server is named.")))
    assert ended(one).phase == "failed"
    first, second = one.problems
    assert first.message == "PostgreSQL did not run the script: no server is named."
    assert "GENERATE_SERIES" in second.message.upper()
    assert one.problem_count == 2


def test_the_rows_come_from_the_engine(tmp_path: Path) -> None:
    def run(dialect: str, script: str, folder: Path) -> tuple[RanTable, ...]:
        assert (dialect, script) == ("postgres", COMPUTED)
        rows = folder / "rows.csv"
        rows.write_text("id,name\n1,Col\n2,n1\n", encoding="utf-8")
        return (RanTable("huts", (("id", "integer"), ("name", "text")), str(rows)),)

    _, one = imported(tmp_path, COMPUTED, run)
    assert ended(one).phase == "made"
    assert one.made[0].made.table_rows == (("huts", 2),)
    assert one.made[0].made.notes[0] == "PostgreSQL ran the script: the rows are as it gave them."


def test_whoever_stops_waits_for_no_engine(tmp_path: Path) -> None:
    begun, goes_on = threading.Event(), threading.Event()

    def run(dialect: str, script: str, folder: Path) -> tuple[RanTable, ...]:
        begun.set()
        goes_on.wait(60)
        return ()

    imports, one = imported(tmp_path, COMPUTED, run)
    assert begun.wait(30)
    imports.stop(one)
    assert (one.phase, one.made) == ("stopped", [])
    goes_on.set()
