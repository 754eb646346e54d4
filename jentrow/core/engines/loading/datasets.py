"""How a dataset comes into an engine that is not SQLite.

A schema that the engine takes is its own and is run whole, in its own dialect. Any other is read by
SQLite, as samples are, and taken from there table by table.
"""

from __future__ import annotations

import re
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Final, TypeAlias

from jentrow.core.engines.answers import Tables
from jentrow.core.engines.loading.loader import Loader, StatementFailed
from jentrow.core.engines.loading.neutral import NeutralDataset, neutral_dataset
from jentrow.core.engines.loading.tables import make_table
from jentrow.core.engines.loading.views import make_view
from jentrow.core.engines.protocol import DatasetParts
from jentrow.core.errors import EngineUnavailable, InvalidSample, JentrowError
from jentrow.core.samples.csvfiles import read_header, read_table
from jentrow.core.samples.making.database_build import BuildProblem, build_database
from jentrow.core.samples.schema.coltypes import bytes_or_text
from jentrow.core.samples.schema.ddl import create_table
from jentrow.core.samples.schema.view_texts import author_of
from jentrow.core.samples.scripts.dialects import guess_dialect
from jentrow.core.samples.scripts.own_place import for_a_place_of_its_own
from jentrow.core.samples.scripts.reading import read_script
from jentrow.core.samples.scripts.script import ReadScript
from jentrow.core.samples.scripts.tables import with_parent_keys
from jentrow.core.sql.text import first_word, place_at
from jentrow.core.sql.tokens import statements_in

_SCHEMA: Final = "the schema"


def load_parts(loader: Loader, parts: DatasetParts, *, own: bool = True) -> Tables:
    """Loads a dataset. Raises :class:`InvalidSample` and :class:`EngineUnavailable`.

    ``own`` tells that a schema may be in the engine's own dialect: it is tried so first.
    """
    with tempfile.TemporaryDirectory(prefix="jentrow-load-") as name:
        folder = Path(name)
        if parts.database:
            dataset = neutral_dataset(Path(parts.database), folder, loader.form)
            _load_neutral(loader, dataset, for_changing=parts.for_changing)
            return loader.tables()
        if not own:
            _load_read(loader, parts, folder)
            return loader.tables()
        try:
            _load_own(loader, parts)
        except InvalidSample as problem:
            if parts.as_written:
                raise
            loader.start_over()
            try:
                _load_read(loader, parts, folder)
            except EngineUnavailable:
                raise
            except JentrowError as second:
                # Whichever reading got further says what is wrong.
                if str(second).startswith(_SCHEMA):
                    raise problem from None
                raise InvalidSample(str(second)) from second
        return loader.tables()


def _load_own(loader: Loader, parts: DatasetParts) -> None:
    """The schema as it is written, in the engine's own dialect."""
    run_script(loader, for_a_place_of_its_own(parts.schema, loader.dialect), _SCHEMA)
    if not parts.keep_rows:
        loader.empty()
    run_script(loader, for_a_place_of_its_own(parts.script, loader.dialect), "the dataset")
    known = loader.columns()
    waiting = [(table, Path(path)) for table, path in parts.tables]
    while waiting:
        # A table may wait for one that it refers to.
        later: list[tuple[str, Path]] = []
        for table, path in waiting:
            problem = _copied(loader, known, table, path)
            if problem:
                later.append((table, path))
        if len(later) == len(waiting):
            raise InvalidSample(problem)
        waiting = later


def _copied(
    loader: Loader, known: dict[str, tuple[str, dict[str, bool]]], table: str, path: Path
) -> str:
    """Loads one CSV file; why it does not load, or empty."""
    if table.lower() not in known:
        names = ", ".join(name for name, _ in known.values())
        raise InvalidSample(f"{path}: the schema has no table {table!r}; it has {names}.")
    name, columns = known[table.lower()]
    by_lower = {column.lower(): column for column in columns}
    header = read_header(path)
    strange = [column for column in header if column.lower() not in by_lower]
    if strange:
        raise InvalidSample(
            f"{path}, line 1: the table has no column {strange[0]!r}; it has {', '.join(columns)}."
        )
    try:
        loader.copy(name, [by_lower[column.lower()] for column in header], path)
    except StatementFailed as problem:
        return f"{path}: {problem}."
    return ""


def run_script(loader: Loader, script: str, what: str) -> None:
    """Runs a script, statement by statement. Raises :class:`InvalidSample`, naming the line."""
    for tokens in statements_in(script, loader.dialect):
        start, end = tokens[0].start, tokens[-1].end
        sql = script[start:end]
        word = first_word(sql)
        if word in _TRANSACTIONS:
            continue
        try:
            # Rows may be long: only what may be a view is searched for its author's words.
            if word == "CREATE" and author_of(sql):
                make_view(loader, sql)
            else:
                loader.run(sql)
        except StatementFailed as problem:
            line = place_at(script, start).line
            raise InvalidSample(f"{what} does not load in line {line}: {problem}.") from problem


_TRANSACTIONS: Final = frozenset({"BEGIN", "START", "COMMIT", "END", "PRAGMA"})
"""What a script says around its statements; the loading of a dataset is one piece of work anyway."""


def _load_read(loader: Loader, parts: DatasetParts, folder: Path) -> None:
    """The schema in the dialect that it seems to be in, as SQLite takes it."""
    tables = [(name, Path(path)) for name, path in parts.tables]

    def built(schema: str, script: str) -> NeutralDataset:
        database = folder / "read.db"
        database.unlink(missing_ok=True)
        build_database(str(database), schema, parts.keep_rows, script, tables)
        return neutral_dataset(database, folder, loader.form)

    dialect = loader.script_dialect or guess_dialect(parts.schema)
    try:
        # SQLite takes many a word of other dialects for a type, and means something else by it.
        dataset = _as_read(parts, dialect, built)
    except InvalidSample as problem:
        try:
            dataset = built(parts.schema, parts.script)
        except BuildProblem:
            raise problem from None
    _load_neutral(loader, dataset, for_changing=parts.for_changing)


_Build: TypeAlias = Callable[[str, str], NeutralDataset]
"""Makes a dataset of SQLite's scripts of the schema and of the rows. Raises :class:`BuildProblem`."""


def _as_read(parts: DatasetParts, dialect: str, built: _Build) -> NeutralDataset:
    """A dataset of what the parser reads. Raises :class:`InvalidSample`, naming the script's line."""
    if dialect == "sqlite":
        return built(parts.schema, parts.script)
    schema, script = (
        _InSQLite.of(read_script(text, dialect), what)
        for text, what in ((parts.schema, _SCHEMA), (parts.script, "the dataset"))
    )
    try:
        dataset = built(schema.text, script.text)
    except BuildProblem as problem:
        raise (schema if str(problem).startswith(_SCHEMA) else script).told(problem) from problem
    # A view need not be SQLite's, as this engine makes it in its own words.
    return replace(dataset, views=tuple((one.name, one.ddl) for one in schema.read.views))


@dataclass(frozen=True, slots=True)
class _InSQLite:
    """The tables and rows of a script as SQLite takes them; from which of its lines each line is."""

    read: ReadScript
    text: str
    lines: tuple[int, ...]

    @classmethod
    def of(cls, read: ReadScript, what: str) -> _InSQLite:
        """Raises :class:`InvalidSample` where a part of the script cannot be read."""
        unread = next((one for one in read.left_out if "cannot be read" in one.why), None)
        if unread is not None:
            raise InvalidSample(
                f"{what} does not load in line {unread.line}: {unread.why} ({unread.text})."
            )
        made = [(0, create_table(table)) for table in with_parent_keys(read.tables)]
        # An index gives no rows, and is the engine's own: what it takes, SQLite may not.
        made += read.statements
        lines: list[int] = []
        for line, sql in made:
            lines += [line] * (sql.count("\n") + 1)
        return cls(read, "".join(f"{sql};\n" for _, sql in made), tuple(lines))

    def told(self, problem: BuildProblem) -> InvalidSample:
        """What went wrong, with the line of the script instead of that of what was made of it."""
        found = _IN_LINE.search(str(problem))
        at = int(found[1]) - 1 if found else -1
        if found is None or not 0 <= at < len(self.lines):
            return InvalidSample(str(problem))
        line = self.lines[at]
        place = f" in line {line}" if line else ""
        return InvalidSample(_IN_LINE.sub(place, str(problem), count=1))


_IN_LINE: Final = re.compile(r" in line (\d+)")


def _load_neutral(loader: Loader, dataset: NeutralDataset, *, for_changing: bool) -> None:
    for table in dataset.tables:
        try:
            make_table(loader, table, for_changing=for_changing)
        except StatementFailed as problem:
            raise InvalidSample(f"the table {table.schema.name}: {problem}.") from problem
    for name, sql in dataset.views:
        try:
            make_view(loader, sql)
        except StatementFailed as problem:
            raise InvalidSample(f"the view {name}: {problem}.") from problem


def records_with_bytes(
    path: Path, binary: Sequence[bool]
) -> Sequence[Sequence[str | bytes | None]]:
    """The records of a CSV file, the cells of binary columns as bytes."""
    _, records = read_table(path)
    if not any(binary):
        return list(records)
    return [
        [
            bytes_or_text(cell) if is_binary else cell
            for cell, is_binary in zip(one, binary, strict=True)
        ]
        for one in records
    ]
