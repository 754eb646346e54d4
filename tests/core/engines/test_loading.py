"""How a dataset comes into each engine: the same rows everywhere, whatever they hold."""

from __future__ import annotations

import datetime as dt
import hashlib
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from decimal import Decimal
from pathlib import Path
from typing import Any

import pytest

from jentrow.core.engines.embedded import EmbeddedEngine
from jentrow.core.engines.labels import RUNNING
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine
from jentrow.core.errors import InvalidSample
from jentrow.core.results import ResultSet
from jentrow.core.samples.making.database_build import build_database
from jentrow.core.samples.schema.view_texts import stand_in
from jentrow.core.samples.sources import DatasetSource
from jentrow.services.runtime.engines import engine_named

SCHEMA = """
    CREATE TABLE bays (bay_id INTEGER PRIMARY KEY, name VARCHAR(60), area_km2 DECIMAL(6,2), calm BOOLEAN, seen DATE);
    CREATE TABLE moorings (
        mooring_id INTEGER PRIMARY KEY, bay_id INTEGER REFERENCES bays (bay_id), mark BLOB, note VARCHAR(60)
    );
    CREATE VIEW calm_bays AS SELECT name FROM bays WHERE calm;
"""
BAYS = """bay_id,name,area_km2,calm,seen
1,"Gull, ""the"" bay",12.50,true,2026-01-31
2,,0.25,false,
3,"",7,true,2026-02-28
4,"two
lines\\and a\ttab",1.00,false,2026-03-01
5,Föhre 🌲,3.10,true,2026-03-29
"""
PLAIN = "bay_id,name,area_km2,calm,seen\n1,Gull,12.50,true,2026-01-31\n2,,,,\n3,Tern,,false,2026-02-01\n"
MOORINGS = "mooring_id,bay_id,mark,note\n1,1,x'00FF5C',left\n2,,,\n3,5,x'',''\n"

LOADED: list[tuple[Any, ...]] = [
    (1, 'Gull, "the" bay', Decimal("12.5"), True, dt.date(2026, 1, 31)),
    (2, None, Decimal("0.25"), False, None),
    (3, "", Decimal(7), True, dt.date(2026, 2, 28)),
    (4, "two\nlines\\and a\ttab", Decimal(1), False, dt.date(2026, 3, 1)),
    (5, "Föhre 🌲", Decimal("3.1"), True, dt.date(2026, 3, 29)),
]


@pytest.fixture(scope="module", params=RUNNING)
def any_engine(request: pytest.FixtureRequest) -> Iterator[Engine]:
    running = engine_named(request.param, workers=1)
    yield running
    running.close()


def files(folder: Path, **tables: str) -> tuple[tuple[str, Path], ...]:
    for name, content in tables.items():
        (folder / f"{name}.csv").write_text(content, encoding="utf-8", newline="")
    return tuple((name, folder / f"{name}.csv") for name in tables)


def rows(engine: Engine, source: DatasetSource, sql: str) -> list[tuple[Any, ...]]:
    outcome = engine.run(engine.load(source), sql, Limits())
    assert isinstance(outcome, ResultSet), outcome
    return list(outcome.rows)


def alike(engine: Engine, found: list[tuple[Any, ...]], due: list[tuple[Any, ...]]) -> None:
    if engine.name == "sqlite":  # which keeps dates as their texts
        due = [tuple(str(one) if isinstance(one, dt.date) else one for one in row) for row in due]
        found = [
            tuple(Decimal(str(one)) if isinstance(one, float) else one for one in row)
            for row in found
        ]
        # A schema's own CSV is read by affinity there: a boolean is the text that it is written as.
        words = {"true": True, "false": False}
        found = [tuple(words.get(one, one) if isinstance(one, str) else one for one in row) for row in found]  # fmt: skip
    assert found == due


ALL = "SELECT bay_id, name, area_km2, calm, seen FROM bays ORDER BY bay_id"


def test_files_are_loaded_with_all_that_texts_can_hold(any_engine: Engine, tmp_path: Path) -> None:
    # The table that refers to another comes first here: it waits.
    tables = files(tmp_path, moorings=MOORINGS, bays=BAYS)
    source = DatasetSource("bays", SCHEMA, tables=tuple(reversed(tables)))
    alike(any_engine, rows(any_engine, source, ALL), LOADED)
    found = rows(any_engine, source, "SELECT mark, note FROM moorings ORDER BY mooring_id")
    assert found == [(b"\x00\xff\x5c", "left"), (None, None), (b"", "''")]


def test_files_without_a_quote_are_loaded_too(any_engine: Engine, tmp_path: Path) -> None:
    schema = SCHEMA.split("CREATE TABLE moorings")[0].replace("calm BOOLEAN", "calm VARCHAR(5)")
    source = DatasetSource("plain", schema, tables=files(tmp_path, bays=PLAIN))
    found = rows(
        any_engine, source, "SELECT bay_id, name, area_km2, calm FROM bays ORDER BY bay_id"
    )
    due = [(1, "Gull", Decimal("12.5"), "true"), (2, None, None, None), (3, "Tern", None, "false")]
    assert [(a, b, None if c is None else Decimal(str(c)), d) for a, b, c, d in found] == due


def test_a_sample_that_was_made_is_taken_over(any_engine: Engine, tmp_path: Path) -> None:
    database = tmp_path / "made.db"
    inserts = (
        "INSERT INTO bays VALUES (1, 'Gull, \"the\" bay', 12.5, 1, '2026-01-31'), (2, NULL, 0.25, 0, NULL), "
        "(3, '', 7, 1, '2026-02-28'), (4, 'two\nlines\\and a\ttab', 1, 0, '2026-03-01'), "
        "(5, 'Föhre 🌲', 3.1, 1, '2026-03-29'); "
        "INSERT INTO moorings VALUES (1, 1, x'00FF5C', 'left'), (2, NULL, NULL, NULL)"
    )
    build_database(str(database), f"{SCHEMA} {inserts}", True, "", ())
    source = DatasetSource("made", "", database=database)
    alike(any_engine, rows(any_engine, source, ALL), LOADED)
    assert rows(any_engine, source, "SELECT COUNT(*) FROM bays") == [(5,)]
    assert rows(any_engine, source, "SELECT mark FROM moorings ORDER BY 1")[-1] in (
        (b"\x00\xff\x5c",),
        (None,),
    )


PEAKS = {
    "tsql": """
        CREATE TABLE [dbo].[peaks] (
            [peak_id] INT IDENTITY(1,1) NOT NULL PRIMARY KEY, [name] NVARCHAR(40) NOT NULL, height_m DECIMAL(6,1)
        );
        GO
        INSERT INTO [dbo].[peaks] ([name], height_m) VALUES (N'Rotspitz', 3012.5), (N'Kahler Kopf', NULL);
        GO
    """,
    "oracle": """
        CREATE TABLE peaks (peak_id NUMBER(6) PRIMARY KEY, name VARCHAR2(40) NOT NULL, height_m NUMBER(6,1));
        INSERT INTO peaks (peak_id, name, height_m) VALUES (1, 'Rotspitz', 3012.5);
        INSERT INTO peaks (peak_id, name, height_m) VALUES (2, 'Kahler Kopf', NULL);
    """,
    "duckdb": """
        CREATE TABLE peaks (peak_id SERIAL PRIMARY KEY, name VARCHAR(40) NOT NULL, height_m NUMERIC(6,1));
        INSERT INTO peaks (name, height_m) VALUES ('Rotspitz', 3012.5), ('Kahler Kopf', NULL);
    """,
}


@pytest.mark.parametrize("name", list(PEAKS))
def test_a_script_in_another_dialect_is_read(name: str) -> None:
    """In the dialect that a stand-in is for, or in the one that it seems to be in."""
    with closing(engine_named(name, workers=1)) as engine:
        source = DatasetSource("peaks", PEAKS[name], keep_rows=True)
        found = rows(engine, source, "SELECT peak_id, name, height_m FROM peaks ORDER BY peak_id")
    assert found == [(1, "Rotspitz", Decimal("3012.5")), (2, "Kahler Kopf", None)]


VIEWS = {
    "tsql": "SELECT TOP 1 name, LEN(name) AS letters FROM [dbo].[peaks] ORDER BY height_m DESC",
    "oracle": "SELECT name, LENGTH(name) AS letters FROM peaks WHERE height_m IS NOT NULL",
    # A script that seems to be PostgreSQL's, with what SQLite has no words for.
    "duckdb": "SELECT name, length(name)::int AS letters FROM peaks WHERE name ILIKE 'rot%'",
    "mariadb": "SELECT name, length(name)::int AS letters FROM peaks WHERE name ILIKE 'rot%'",
}


@pytest.mark.parametrize("name", list(VIEWS))
def test_a_view_of_such_a_script_is_made_in_the_words_of_the_engine(name: str) -> None:
    script = f"{PEAKS.get(name, PEAKS['duckdb'])} CREATE VIEW tall AS {VIEWS[name]};"
    with closing(engine_named(name, workers=1)) as engine:
        source = DatasetSource("peaks", script, keep_rows=True)
        assert rows(engine, source, "SELECT name, letters FROM tall") == [("Rotspitz", 8)]


@pytest.mark.parametrize("name", ["duckdb", "postgresql", "mariadb"])
@pytest.mark.parametrize(
    "kept",
    ["DROP TABLE bays", "CREATE VIEW calm_bays AS SELECT 1 AS name; DELETE FROM bays", "VIEW"],
)
def test_only_a_view_is_made_of_the_words_kept_of_one(name: str, kept: str, tmp_path: Path) -> None:
    dialect = {"postgresql": "postgres", "mariadb": "mysql"}.get(name, name)
    view = stand_in("calm_bays", ["name"], dialect, kept)
    schema = f"{SCHEMA.partition('CREATE VIEW')[0]} INSERT INTO bays (bay_id) VALUES (1); {view};"
    database = tmp_path / f"{hashlib.sha256(schema.encode()).hexdigest()[:32]}.db"
    build_database(str(database), schema, True, "", ())
    with closing(engine_named(name, workers=1)) as engine:
        source = DatasetSource("kept", "", database=database)
        assert rows(engine, source, "SELECT COUNT(*) FROM bays") == [(1,)]


@pytest.mark.parametrize(
    ("schema", "bays", "words"),
    [
        ("CREATE TABLE bays (bay_id INTEGR PRIMARY", BAYS, "line 1"),
        (SCHEMA, "bay_id,nmae\n1,Gull\n", "nmae"),
        (SCHEMA, "bay_id,name\n1,Gull\n1,Tern\n", "bays"),
        (SCHEMA.replace("WHERE calm", "WHERE quiet"), BAYS, "quiet"),
        (SCHEMA.replace("SELECT name", "SELECT nofunc(name) AS name"), BAYS, "(?i)nofunc"),
    ],
)
def test_what_does_not_load_says_why(
    any_engine: Engine, tmp_path: Path, schema: str, bays: str, words: str
) -> None:
    with pytest.raises(InvalidSample, match=words):
        any_engine.load(DatasetSource("bays", schema, tables=files(tmp_path, bays=bays)))


@pytest.mark.parametrize("name", ["sqlite", "duckdb", "oracle"])
def test_engines_that_share_a_folder_load_a_dataset_once(
    name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    built: list[Path] = []
    build = EmbeddedEngine._built_file

    def counted(engine: EmbeddedEngine, path: Path, *parts: Any) -> Any:
        built.append(path)
        return build(engine, path, *parts)

    monkeypatch.setattr(EmbeddedEngine, "_built_file", counted)
    source = DatasetSource("bays", SCHEMA, tables=files(tmp_path, bays=BAYS))
    folder = tmp_path / "engines"
    engines = [engine_named(name, folder, workers=1) for _ in range(3)]
    with ThreadPoolExecutor(3) as pool:
        loaded = list(pool.map(lambda one: one.load(source), engines))
    for engine in engines:
        assert rows(engine, source, "SELECT COUNT(*) FROM bays") == [(5,)]
        engine.close()
    assert len(built) == 1
    assert loaded[0] == loaded[1] == loaded[2]
    # What broke off is begun anew.
    (tmp_path / "engines" / f"{source.key}.unfinished").write_bytes(b"half")
    Path(loaded[0].location).unlink()
    with closing(engine_named(name, folder, workers=1)) as engine:
        assert rows(engine, source, "SELECT COUNT(*) FROM bays") == [(5,)]
    assert len(built) == 2
