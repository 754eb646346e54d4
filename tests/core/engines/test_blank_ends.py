"""Blanks at the end of texts on stand-ins: what comes to the same, and what gets no verdict."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource, SampleSource
from jentrow.core.sql.stand_ins.stand_in import stood_in
from tests.core.engines.stand_ins import stand_ins_over

LOCKS = DatasetSource(
    "locks",
    """
    CREATE TABLE locks (mark CHAR(6) PRIMARY KEY, canal CHAR(2), keeper VARCHAR(20), chambers INT);
    INSERT INTO locks VALUES ('L1', 'OC', 'Ines ', 1), ('L2', 'OC', 'ines', 2), ('LOCK-7', 'NC', 'Jaro', 1);
    """,
    keep_rows=True,
)


@pytest.fixture(scope="module")
def running() -> Iterator[dict[str, tuple[Engine, LoadedDataset]]]:
    with stand_ins_over(LOCKS) as running:
        yield running


@pytest.mark.parametrize(
    ("names", "sql", "count"),
    [
        ("tsql oracle db2", "SELECT mark FROM locks WHERE mark = 'L1'", 1),
        ("tsql oracle db2", "SELECT mark FROM locks WHERE mark = 'L1    '", 1),
        ("tsql oracle db2", "SELECT mark FROM locks WHERE mark IN ('L1 ', 'L2  ')", 2),
        ("tsql oracle db2", "SELECT mark FROM locks WHERE 'L1 ' = mark", 1),
        ("tsql oracle db2", "SELECT mark FROM locks WHERE UPPER(mark) BETWEEN 'L1 ' AND 'L2 '", 2),
        ("tsql oracle db2", "SELECT DISTINCT mark AS m FROM locks ORDER BY mark", 3),
        ("tsql oracle db2", "SELECT mark, COUNT(*) FROM locks GROUP BY mark", 3),
        ("tsql oracle db2", "SELECT a.mark FROM locks a JOIN locks b ON a.mark = b.mark", 3),
        ("tsql oracle db2", "SELECT RTRIM(mark) FROM locks WHERE mark IS NOT NULL", 3),
        ("tsql oracle db2", "SELECT mark FROM locks WHERE mark LIKE 'L%'", 3),
        ("tsql oracle db2", "SELECT COALESCE(mark, '-') FROM locks", 3),
        ("tsql oracle db2", "SELECT CONCAT(canal, '!') FROM locks WHERE canal LIKE '_C'", 3),
        ("tsql oracle db2", "SELECT keeper FROM locks WHERE chambers = 1", 2),
        ("tsql", "SELECT LEN(mark) FROM locks", 3),
        ("tsql db2", "SELECT canal FROM locks WHERE canal = 'OC  '", 2),
        ("oracle", "SELECT keeper FROM locks WHERE keeper = 'Ines'", 0),
        ("oracle", "SELECT keeper FROM locks WHERE keeper = 'Ines '", 1),
        ("oracle", "SELECT DISTINCT keeper FROM locks", 3),
        ("tsql db2", "SELECT RTRIM(keeper) FROM locks", 3),
        ("tsql db2", "SELECT keeper FROM locks UNION ALL SELECT keeper FROM locks", 6),
        ("db2", "SELECT a.keeper FROM locks a JOIN locks b USING (chambers)", 5),
        (
            "tsql db2",
            "SELECT x.keeper FROM (SELECT keeper FROM locks) x WHERE EXISTS (SELECT keeper FROM locks)",
            3,
        ),
    ],
)
def test_what_is_the_same(
    running: dict[str, tuple[Engine, LoadedDataset]], names: str, sql: str, count: int
) -> None:
    for name in names.split():
        engine, dataset = running[name]
        assert stood_in(name, sql, dataset.kinds).notes == ()
        found = engine.run(dataset, sql, Limits())
        assert isinstance(found, ResultSet), found
        assert len(found.rows) == count


@pytest.mark.parametrize(
    ("names", "sql", "note"),
    [
        ("oracle db2", "SELECT LENGTH(mark) FROM locks", "filled with blanks"),
        ("oracle db2", "SELECT mark || '!' FROM locks", "filled with blanks"),
        ("tsql", "SELECT mark + '!' FROM locks", "filled with blanks"),
        ("tsql oracle db2", "SELECT CONCAT(mark, '!') FROM locks", "filled with blanks"),
        ("tsql oracle db2", "SELECT mark FROM locks WHERE mark LIKE '%1'", "filled with blanks"),
        ("tsql oracle db2", "SELECT mark FROM locks WHERE mark LIKE 'L1_%'", "filled with blanks"),
        (
            "tsql oracle db2",
            "SELECT CONCAT(m, '!') FROM (SELECT mark AS m FROM locks) x",
            "filled with blanks",
        ),
        ("tsql oracle db2", "SELECT REPLACE(mark, 'L', '') FROM locks", "filled with blanks"),
        ("oracle", "SELECT mark FROM locks WHERE mark = keeper", "compared with what is none"),
        ("tsql db2", "SELECT keeper FROM locks WHERE keeper = 'Ines'", "end in blanks"),
        ("tsql db2", "SELECT DISTINCT keeper FROM locks", "end in blanks"),
        ("tsql db2", "SELECT DISTINCT * FROM locks", "end in blanks"),
        ("tsql db2", "SELECT keeper, COUNT(*) FROM locks GROUP BY keeper", "end in blanks"),
        ("tsql db2", "SELECT keeper FROM locks UNION SELECT canal FROM locks", "end in blanks"),
        ("tsql db2", "SELECT COUNT(DISTINCT keeper) FROM locks", "end in blanks"),
        (
            "tsql db2",
            "SELECT mark FROM locks WHERE 'Ines' IN (SELECT keeper FROM locks)",
            "end in blanks",
        ),
        (
            "tsql db2",
            "SELECT mark FROM locks WHERE 'Ines' = (SELECT MAX(keeper) FROM locks)",
            "end in blanks",
        ),
        (
            "tsql db2",
            "SELECT k FROM (SELECT keeper AS k FROM locks) x WHERE k = 'Ines'",
            "end in blanks",
        ),
        ("db2", "SELECT a.mark FROM locks a JOIN locks b USING (keeper)", "end in blanks"),
    ],
)
def test_what_gets_no_verdict(
    running: dict[str, tuple[Engine, LoadedDataset]], names: str, sql: str, note: str
) -> None:
    for name in names.split():
        assert note in " ".join(stood_in(name, sql, running[name][1].kinds).lost), name


def test_blanks_in_held_back_rows_leave_a_verdict_undecided_too(
    running: dict[str, tuple[Engine, LoadedDataset]],
) -> None:
    engine, _ = running["db2"]
    schema = "CREATE TABLE locks (keeper VARCHAR(20), chambers INT); INSERT INTO locks VALUES "
    datasets = (
        DatasetSource("open", schema + "('Ines', 1), ('Jaro', 2)", keep_rows=True),
        DatasetSource("spring", schema + "('Ines ', 1), ('Ines', 3)", keep_rows=True),
    )
    exercise = Exercise(
        "one", "One", "", "locks", "SELECT chambers FROM locks WHERE chambers < 2", engine="db2"
    )
    grader = Grader(engine, exercise, SampleSource("locks", datasets))
    assert grader.grade("SELECT chambers FROM locks WHERE chambers <= 1").standing == "correct"
    found = grader.grade("SELECT chambers FROM locks WHERE keeper = 'Ines'")
    assert (found.standing, found.undecided) == ("undecided", "translation")
