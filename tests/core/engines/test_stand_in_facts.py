"""What the page says of a stand-in: of all that it calls undecided there is an answer without a verdict."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from jentrow.core.engines.dialects.facts import FACTS
from jentrow.core.engines.protocol import Engine, LoadedDataset
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.grader import Grader
from jentrow.core.samples.sources import DatasetSource, SampleSource
from tests.core.engines.stand_ins import stand_ins_over

WEIRS = DatasetSource(
    "weirs",
    """
    CREATE TABLE weirs (weir_no INTEGER PRIMARY KEY, name VARCHAR(20), code CHAR(5), height_cm INTEGER,
        toll DECIMAL(8, 2), built DATE, seen TIMESTAMP);
    INSERT INTO weirs VALUES
        (1, 'Oberau', 'ab', 310, 12.5, '1921-07-16', '2026-01-31 12:00:00'),
        (2, 'Brugg ', 'cde', 205, 0.5, '1950-01-31', '2026-02-01 06:30:00'),
        (3, 'Sarn', 'f', 420, NULL, '1999-12-05', NULL);
    """,
    keep_rows=True,
)

UNDECIDED: dict[str, list[tuple[str, str]]] = {
    "tsql": [
        ("TOP … PERCENT", "SELECT (SELECT TOP 50 PERCENT name FROM weirs ORDER BY name)"),
        ("TOP … PERCENT", "SELECT DISTINCT TOP 1 WITH TIES code FROM weirs ORDER BY code"),
        ("a division", "SELECT n / 2 / 2 FROM (SELECT height_cm AS n FROM weirs UNION ALL SELECT toll FROM weirs) x"),
        ("+ of a text", "SELECT name + height_cm FROM weirs"),
        ("casts that", "SELECT CAST(name AS VARCHAR(2)) FROM weirs"),
        ("fractions", "SELECT CAST(seen AS VARCHAR(30)) FROM weirs"),
        ("fractions", "SELECT CAST(toll / 3 AS VARCHAR(30)) FROM weirs"),
        ("the blanks", "SELECT code + '!' FROM weirs"),
        ("the blanks", "SELECT weir_no FROM weirs WHERE name = (SELECT MAX(name) FROM weirs)"),
        ("types that", "SELECT SOUNDEX(name) FROM weirs"),
        ("what the engine", "SELECT LENGTH(name) FROM weirs"),
        ("what the engine", "SELECT a.name FROM weirs a JOIN weirs b"),
        ("what the engine", "SELECT * FROM (SELECT name FROM weirs ORDER BY name) x"),
        ("what the engine", "SELECT name AS n FROM weirs WHERE n = 'x'"),
    ],
    "oracle": [
        ("other uses of ROWNUM", "SELECT name FROM weirs WHERE MOD(ROWNUM, 2) = 0"),
        ("other uses of ROWNUM", "SELECT ROWID FROM weirs"),
        (
            "ORDER SIBLINGS BY",
            "SELECT name FROM weirs CONNECT BY PRIOR weir_no = height_cm ORDER SIBLINGS BY 1 - 1",
        ),
        ("other aggregates", "SELECT SUM(toll) KEEP (DENSE_RANK FIRST ORDER BY built) FROM weirs"),
        ("the sign (+)", "SELECT a.name FROM weirs a, weirs b WHERE a.weir_no = b.height_cm (+) OR a.weir_no = 1"),
        ("the sign (+)", "SELECT weirs.name FROM weirs, weirs b WHERE height_cm = weir_no (+)"),
        ("formats of TO_CHAR", "SELECT TO_CHAR(built, 'J') FROM weirs"),
        ("fractions", "SELECT 'x' || built FROM weirs"),
        ("fractions", "SELECT toll / 3 || 'x' FROM weirs"),
        ("the blanks", "SELECT LENGTH(code) FROM weirs"),
        ("types that", "SELECT SOUNDEX(name) FROM weirs"),
        ("what the engine", "SELECT LEN(name) FROM weirs"),
        ("what the engine", "SELECT a.name FROM weirs a JOIN weirs b"),
        ("what the engine", "SELECT name AS n FROM weirs WHERE n = 'x'"),
        ("what the engine", "SELECT name FROM weirs AS w"),
    ],
    "db2": [
        ("durations", "SELECT built + (weir_no + 1) DAYS FROM weirs"),
        ("CHAR of a number", "SELECT CHAR(height_cm) FROM weirs"),
        ("CHAR of a number", "SELECT CAST(name AS VARCHAR(2)) FROM weirs"),
        ("CHAR of a number", "SELECT name FROM weirs MINUS SELECT code FROM weirs"),
        ("fractions", "SELECT CAST(seen AS VARCHAR(30)) FROM weirs"),
        ("fractions", "SELECT CAST(toll / 3 AS VARCHAR(40)) FROM weirs"),
        ("the blanks", "SELECT LENGTH(code) FROM weirs"),
        ("the blanks", "SELECT weir_no FROM weirs WHERE name = (SELECT MAX(name) FROM weirs)"),
        ("types that", "SELECT SOUNDEX(name) FROM weirs"),
        ("what the engine", "SELECT LEN(name) FROM weirs"),
        ("what the engine", "SELECT a.name FROM weirs a JOIN weirs b"),
        ("what the engine", "SELECT name AS n FROM weirs WHERE n = 'x'"),
    ],
}  # fmt: skip
"""By the dialect: how a fact begins, and an answer that it is about."""


@pytest.fixture(scope="module")
def running() -> Iterator[dict[str, tuple[Engine, LoadedDataset]]]:
    with stand_ins_over(WEIRS) as engines:
        yield engines


@pytest.mark.parametrize("dialect", sorted(FACTS))
def test_what_is_called_undecided_has_no_verdict(
    running: dict[str, tuple[Engine, LoadedDataset]], dialect: str
) -> None:
    engine, _ = running[dialect]
    exercise = Exercise("one", "One", "", "weirs", "SELECT name FROM weirs", engine=dialect)
    grader = Grader(engine, exercise, SampleSource("weirs", (WEIRS,)))
    graded = {sql: grader.grade(sql) for _, sql in UNDECIDED[dialect]}
    assert {sql for sql, one in graded.items() if one.undecided != "translation"} == set()


@pytest.mark.parametrize("dialect", sorted(FACTS))
def test_nothing_is_called_undecided_without_an_answer_that_is(dialect: str) -> None:
    begins = [begin for begin, _ in UNDECIDED[dialect]]
    untold = [one for one in FACTS[dialect].undecided if not one.startswith(tuple(begins))]
    unused = [
        begin
        for begin in begins
        if not any(one.startswith(begin) for one in FACTS[dialect].undecided)
    ]
    assert (untold, unused) == ([], [])
