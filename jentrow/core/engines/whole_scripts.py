"""A script of tables and rows run whole by the engine that it is written for.

What only that engine can work out (its functions, sequences, defaults, queries that give rows) is
in the rows then. They come as texts, as the engine writes each value, and are read as such.
"""

from __future__ import annotations

import re
from pathlib import Path
from typing import Final

from jentrow.core.engines.labels import DIALECTS, RUNNING
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.errors import InvalidSample
from jentrow.core.results import ResultSet
from jentrow.core.samples.csvfiles import write_record
from jentrow.core.samples.recipes import RanTable
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.text import quoted_name

ENGINE_OF: Final = {DIALECTS[name]: name for name in RUNNING if name != "sqlite"}
"""The engine that runs scripts of a dialect whole; SQLite's are run where the sample is made."""

LIMITS: Final = Limits(seconds=120, rows=1_000_000, memory_mb=2_048, cell_kb=16_384)
"""What reading a table may take: of rows and values, as much as a sample may have."""

_NAME: Final = "script"
_NESTED: Final = re.compile(r"\]\Z|\A(?:STRUCT|MAP|UNION|JSON)\b", re.IGNORECASE)
_SHAPES: Final = re.compile(
    r"(?:multi)?(?:point|linestring|polygon)|geometry|geometrycollection", re.IGNORECASE
)
_BYTES: Final = re.compile(r"(?:tiny|medium|long)?blob|(?:var)?binary", re.IGNORECASE)


def run_whole(engine: Engine, script: str, folder: Path) -> tuple[RanTable, ...]:
    """Runs a script on its engine; its tables, with files of their rows in ``folder``, and views.

    Raises :class:`InvalidSample` where the engine does not take it, and
    :class:`EngineUnavailable`.
    """
    try:
        dataset = engine.load(DatasetSource(_NAME, script, keep_rows=True, as_written=True))
    except InvalidSample as problem:
        words = str(problem).removeprefix(f"the dataset {_NAME}: ")
        raise InvalidSample(words.removeprefix("the schema does not load in ")) from problem
    tables = [
        _table(engine, dataset, name, folder / f"ran-{at}.csv")
        for at, (name, _) in enumerate(dataset.table_rows)
    ]
    known = {one.name for one in tables}
    views = [
        RanTable(name, tuple((column, "") for column in columns), "")
        for name, columns in dataset.columns
        if name not in known
    ]
    return (*tables, *views)


def _table(engine: Engine, dataset: LoadedDataset, name: str, path: Path) -> RanTable:
    quoted = quoted_name(name, engine.dialect)
    columns = _columns(engine, dataset, name)
    asked = ", ".join(_as_text(engine, column, declared) for column, declared in columns)
    found = _read(engine, dataset, f"SELECT {asked} FROM {quoted}", name)
    with path.open("w", encoding="utf-8", newline="") as out:
        write_record(out, [column for column, _ in columns])
        for row in found.rows:
            write_record(out, [None if cell is None else str(cell) for cell in row])
    return RanTable(name, columns, str(path))


def _columns(engine: Engine, dataset: LoadedDataset, name: str) -> tuple[tuple[str, str], ...]:
    """The columns of a table, with what they are declared as."""
    match engine.name:
        case "postgresql":
            place = quoted_name(name, engine.dialect).replace("'", "''")
            sql = (
                "SELECT attname, format_type(atttypid, atttypmod) FROM pg_catalog.pg_attribute "
                f"WHERE attrelid = '{place}'::regclass AND attnum > 0 AND NOT attisdropped ORDER BY attnum"
            )
        case "mariadb":
            literal = name.replace("\\", "\\\\").replace("'", "''")
            sql = (
                "SELECT column_name, column_type FROM information_schema.columns "
                f"WHERE table_schema = DATABASE() AND table_name = '{literal}' ORDER BY ordinal_position"
            )
        case _:
            none = f"SELECT * FROM {quoted_name(name, engine.dialect)} WHERE 1 = 0"
            found = _read(engine, dataset, none, name).columns
            return tuple((one.name, one.declared) for one in found)
    return tuple((str(row[0]), str(row[1])) for row in _read(engine, dataset, sql, name).rows)


def _read(engine: Engine, dataset: LoadedDataset, sql: str, name: str) -> ResultSet:
    outcome = engine.run(dataset, sql, LIMITS)
    if isinstance(outcome, QueryFailure):
        raise InvalidSample(
            f"the rows of {name} cannot be read: {outcome.engine_words or outcome.message}"
        )
    return outcome


def _as_text(engine: Engine, column: str, declared: str) -> str:
    """A column as the engine writes its values."""
    quoted = quoted_name(column, engine.dialect)
    match engine.name:
        case "postgresql":
            return f"CAST({quoted} AS text)"
        case "duckdb" if _NESTED.search(declared):
            return f"CAST(to_json({quoted}) AS VARCHAR)"
        case "mariadb" if _SHAPES.match(declared):
            return f"ST_AsText({quoted})"
        case "mariadb" if _BYTES.match(declared):
            return f"CONCAT('\\\\x', HEX({quoted}))"
        case "mariadb" if declared.lower().startswith("bit"):
            return f"CAST({quoted} + 0 AS CHAR)"
        case "mariadb":
            return f"CAST({quoted} AS CHAR)"
    return f"CAST({quoted} AS VARCHAR)"
