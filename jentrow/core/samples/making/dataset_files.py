"""Makes the file of a new dataset from CSV files, a script, or an SQLite file.

Runs in a process of its own (:mod:`jentrow.core.samples.making.worker`), which can be stopped at
any moment: what it makes counts only once it is whole.
"""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any, Final

import apsw

from jentrow.core.errors import JentrowError, UnusableInput
from jentrow.core.samples.making.database_build import (
    BuildProblem,
    StatementFails,
    create_tables,
    fresh_database,
    run_statements,
)
from jentrow.core.samples.making.filling import CSVTable, insert_checked, insert_into
from jentrow.core.samples.recipes import Carried, CSVSource, Made, Problem, RanTable, Recipe
from jentrow.core.samples.schema.coltypes import ColumnType, NotOfType, read_value
from jentrow.core.samples.schema.ddl import create_table
from jentrow.core.samples.schema.problems import name_problem
from jentrow.core.samples.schema.tables import TableSchema, read_schema
from jentrow.core.samples.scripts.ran_tables import (
    COMPUTED_OTHERWISE,
    computed_otherwise,
    put_right,
    rows_of,
)
from jentrow.core.samples.scripts.reading import PARSED_BYTES, read_script
from jentrow.core.samples.scripts.reasons import VIRTUAL
from jentrow.core.samples.scripts.script import ReadScript
from jentrow.core.samples.scripts.sqlite import without_lines
from jentrow.core.samples.scripts.statements import beginning
from jentrow.core.samples.scripts.tables import with_parent_keys
from jentrow.core.samples.scripts.views import ONLY_ELSEWHERE, drop_unread_views, make_views
from jentrow.core.samples.tablenotes import notes_mapping, notes_on
from jentrow.core.sql.text import quoted_name
from jentrow.core.textfiles import read_text

Report = Callable[[int, int], None]
"""Told how many bytes are done, and of how many."""

LISTED: Final = 200
"""How many problems are listed; the rest is counted."""

_STEPS: Final = 20_000_000_000
_PORTION: Final = 5_000


class CannotMake(UnusableInput):
    """Raised when a dataset cannot be made; lists every problem, up to ``LISTED``."""

    def __init__(self, problems: Sequence[Problem], count: int = 0) -> None:
        self.problems = tuple(problems)
        self.count = count or len(self.problems)
        first = self.problems[0]
        more = f" (and {self.count - 1} more)" if self.count > 1 else ""
        super().__init__(f"{_where(first)}{first.message}{more}")


def _where(problem: Problem) -> str:
    parts = [problem.file, f"line {problem.row}" if problem.row else "", problem.column]
    said = ", ".join(part for part in parts if part)
    return f"{said}: " if said else ""


def make_dataset(recipe: Recipe, target: Path, report: Report) -> Made:
    """Writes the dataset's database file. Raises :class:`CannotMake`; the file is then of no use.

    Foreign keys that rows break are told in the notes: whoever makes a sample may want such rows.
    """
    making = _Making(target, report)
    try:
        return making.make(recipe)
    finally:
        making.close()


class _Making:
    def __init__(self, target: Path, report: Report) -> None:
        self._report = report
        self._db = fresh_database(str(target), _STEPS)
        self._problems: list[Problem] = []
        self._count = 0
        self._notes: list[str] = []
        self._left_out: list[tuple[int, str, str]] = []
        self._table_notes: dict[str, Any] = {}

    def close(self) -> None:
        self._db.authorizer = None
        self._db.close(True)

    def make(self, recipe: Recipe) -> Made:
        try:
            match recipe.kind:
                case "tables":
                    later = self._create(recipe.schema)
                    self._fill_from_csv(recipe.csv)
                    self._make_later(later)
                case "script":
                    self._run_script(recipe)
                case "database":
                    self._copy_database(recipe)
        except (BuildProblem, UnusableInput) as problem:
            self._note(Problem("", 0, "", str(problem)))
        except apsw.Error as problem:
            self._note(Problem("", 0, "", f"SQLite: {problem}."))
        self._raise_problems()
        if self._db.in_transaction:
            self._db.execute("COMMIT")
        return self._finish()

    def _note(self, problem: Problem) -> None:
        self._count += 1
        if len(self._problems) < LISTED:
            self._problems.append(problem)

    def _raise_problems(self) -> None:
        if self._problems:
            raise CannotMake(self._problems, self._count)

    def _create(self, schema: str) -> list[str]:
        later = create_tables(self._db, without_row_options(schema))
        self._db.execute("BEGIN")
        return later

    def _make_later(self, statements: Sequence[str]) -> None:
        for sql in statements:
            if re.match(r"\s*CREATE\s+(TEMP\w*\s+)?TRIGGER\b", sql, re.IGNORECASE):
                self._left_out.append((0, beginning(sql, 70), _TRIGGER))
                continue
            try:
                self._db.execute(sql)
            except apsw.Error as problem:
                self._note(Problem("the schema", 0, "", f"{beginning(sql, 70)}: {problem}."))

    # CSV

    def _fill_from_csv(self, sources: Sequence[CSVSource]) -> None:
        total = sum(os.path.getsize(source.path) for source in sources)
        before = 0
        for source in sources:
            size = os.path.getsize(source.path)
            try:
                CSVTable(self._db, source, self._note).fill(
                    lambda done, before=before: self._report(before + done, total)  # type: ignore[misc]
                )
            except JentrowError as problem:
                said = str(problem).replace(source.path, Path(source.path).name)
                self._note(Problem(Path(source.path).name, 0, "", said))
            before += size

    # scripts

    def _run_script(self, recipe: Recipe) -> None:
        script = read_text(Path(recipe.path))
        if recipe.schema:
            later = self._create(recipe.schema)
            self._run_whole(script, Path(recipe.path).name)
            self._make_later(later)
        elif recipe.dialect == "sqlite":
            script = without_lines(
                script,
                lambda line, text, why: self._left_out.append((line, beginning(text, 70), why)),
            )
            self._run_whole(script, Path(recipe.path).name)
            self._rebuild_if_needed()
        else:
            self._run_other(script, recipe)

    def _run_whole(self, script: str, file: str) -> None:
        total = len(script)
        try:
            run_statements(self._db, script, lambda done: self._report(done, total))
        except StatementFails as problem:
            self._note(Problem(file, problem.line, "", f"{problem}."))

    def _rebuild_if_needed(self) -> None:
        """Tables that are kept in another way are made anew; triggers are left out."""
        if self._db.in_transaction:
            self._db.execute("COMMIT")
        self._db.execute("PRAGMA foreign_keys = off")  # whatever the script has said
        for (name,) in list(
            self._db.execute("SELECT name FROM sqlite_schema WHERE type='trigger'")
        ):
            self._left_out.append((0, f"TRIGGER {name}", _TRIGGER))
            self._db.execute(f"DROP TRIGGER {quoted_name(name)}")
        for name, sql in list(
            self._db.execute("SELECT name, sql FROM sqlite_schema WHERE type = 'table'")
        ):
            plain = without_row_options(sql or "")
            if plain == (sql or ""):
                continue
            indexes = self._db.execute(
                "SELECT sql FROM sqlite_schema WHERE tbl_name = ? AND type = 'index' "
                "AND sql IS NOT NULL",
                (name,),
            )
            later = [text for (text,) in list(indexes)]
            rows = list(self._db.execute(f"SELECT * FROM {quoted_name(name)}"))
            self._db.execute(f"DROP TABLE {quoted_name(name)}")
            self._db.execute(plain)
            made = next(table for table in read_schema(self._db) if table.name == name)
            self._insert_all(made, rows)
            for text in later:
                self._db.execute(text)
            self._notes.append(
                f"{name} is kept by row numbers: WITHOUT ROWID and STRICT were left out."
            )

    def _insert_all(self, table: TableSchema, rows: Sequence[tuple[Any, ...]]) -> None:
        keep = [at for at, one in enumerate(table.columns) if one.generated is None]
        self._db.executemany(
            insert_into(table.name, [column.name for column in table.writable]),
            (tuple(row[at] for at in keep) for row in rows),
        )

    def _run_other(self, script: str, recipe: Recipe) -> None:
        file = Path(recipe.path).name
        if len(script) > PARSED_BYTES:
            self._note(
                Problem(
                    file,
                    0,
                    "",
                    f"a script in another dialect than SQLite's may have {PARSED_BYTES >> 20} MB; "
                    "import its rows as CSV files.",
                )
            )
            return
        read = read_script(script, recipe.dialect)
        if recipe.ran:
            put_right(read, recipe.ran)
        self._left_out += [(one.line, one.text, one.why) for one in read.left_out]
        self._table_notes = notes_mapping(notes_on(read.tables))
        self._db.execute("BEGIN")
        read.tables = with_parent_keys(read.tables)
        for table in read.tables:
            self._create_as_far_as_it_goes(table, file)
        if recipe.ran:
            self._fill_from_ran(read, recipe.ran)
        else:
            for at, (line, sql) in enumerate(read.statements, start=1):
                self._try(sql, file, line)
                self._report(at, len(read.statements))
        for line, sql in read.indexes:
            self._try_or_leave(sql, line)
        for left in make_views(self._db, read.views, recipe.ran):
            if left.stands_in:
                self._table_notes.setdefault(left.view.name, {"note": ONLY_ELSEWHERE})
                self._notes.append(f"The view {left.view.name}: {ONLY_ELSEWHERE}")
            else:
                self._left_out.append((left.view.line, f"VIEW {left.view.name}", left.why))
        if not read.tables:
            self._note(Problem(file, 0, "", "no CREATE TABLE that could be read."))

    def _create_as_far_as_it_goes(self, table: TableSchema, file: str) -> None:
        """Makes a table; conditions and defaults that SQLite does not know are left out."""
        try:
            self._db.execute(create_table(table))
            return
        except apsw.Error as problem:
            why = f"its conditions, defaults and computed columns, which SQLite does not take: {problem}"
        columns = tuple(replace(one, default=None, generated=None) for one in table.columns)
        self._try(create_table(replace(table, columns=columns, checks=())), file, 0)
        self._left_out.append((0, f"of the table {table.name}", why))

    def _fill_from_ran(self, read: ReadScript, ran: Sequence[RanTable]) -> None:
        """Rows as the script's own engine gave them."""
        for at, one in enumerate(ran):
            table = read.table(one.name)
            if one.path and table is not None:
                self._insert_ran(one, table, read.dialect)
                if any(column.generated is not None for column in table.columns):
                    self._check_computed(one, table, read)
            self._report(at + 1, len(ran))

    def _insert_ran(self, ran: RanTable, table: TableSchema, dialect: str) -> None:
        names, rows = rows_of(ran, table, dialect)
        self._db.executemany(insert_into(table.name, names), rows)

    def _check_computed(self, ran: RanTable, table: TableSchema, read: ReadScript) -> None:
        """Makes plain what SQLite computes otherwise than the script's own engine did."""
        otherwise = computed_otherwise(self._db, ran, table, read.dialect)
        if not otherwise:
            return
        columns = tuple(
            replace(one, generated=None) if one.name in otherwise else one for one in table.columns
        )
        plain = replace(table, columns=columns)
        self._db.execute(f"DROP TABLE {quoted_name(table.name)}")
        self._db.execute(create_table(plain))
        self._insert_ran(ran, plain, read.dialect)
        for name in otherwise:
            self._left_out.append((0, f"how {table.name}.{name} is computed", COMPUTED_OTHERWISE))

    def _try_or_leave(self, sql: str, line: int) -> None:
        try:
            self._db.execute(sql)
        except apsw.Error as problem:
            self._left_out.append((line, beginning(sql, 70), f"SQLite does not take it: {problem}"))

    def _try(self, sql: str, file: str, line: int) -> None:
        try:
            self._db.execute(sql)
        except apsw.Error as problem:
            self._note(Problem(file, line, "", f"{problem} ({beginning(sql, 70)})."))

    # SQLite files

    def _copy_database(self, recipe: Recipe) -> None:
        path = Path(recipe.path)
        source = apsw.Connection(
            f"file:{path}?immutable=1&mode=ro",
            flags=apsw.SQLITE_OPEN_READONLY | apsw.SQLITE_OPEN_URI,
        )
        source.config(apsw.SQLITE_DBCONFIG_DEFENSIVE, 1)
        source.config(apsw.SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0)
        try:
            objects = list(
                source.execute(
                    "SELECT type, name, sql FROM sqlite_schema WHERE sql IS NOT NULL ORDER BY rowid"
                )
            )
            virtual = [name for _, name, sql in objects if _VIRTUAL.match(sql)]
            self._left_out += [(0, name, VIRTUAL) for name in virtual]
            tables = [
                (name, sql)
                for kind, name, sql in objects
                if kind == "table"
                and not name.lower().startswith("sqlite_")
                and not any(name == one or name.startswith(one + "_") for one in virtual)
            ]
            if not tables:
                self._note(Problem(path.name, 0, "", "the file holds no table."))
                return
            later = self._create(
                recipe.schema or ";\n".join(without_row_options(sql) for _, sql in tables)
            )
            if recipe.carried:
                self._carry(source, recipe.carried)
                self._make_later(later)
                return
            names = [name for name, _ in tables]
            done, total = 0, max(1, _count_rows(source, names))
            made = {table.name: table for table in read_schema(self._db)}
            for name in names:
                for portion in _portions(source.execute(f"SELECT * FROM {quoted_name(name)}")):
                    self._insert_all(made[name], portion)
                    done += len(portion)
                    self._report(done, total)
            rest = [sql for kind, _, sql in objects if kind != "table"]
            self._make_later([*later, *(rest if not recipe.schema else ())])
        finally:
            source.close(True)

    def _carry(self, source: apsw.Connection, carried: Sequence[Carried]) -> None:
        """Rows of another sample's tables, into tables that were changed."""
        numbered = {table.name: table for table in read_schema(source)}
        total = _count_rows(source, [one.source for one in carried])
        done = 0
        for one in carried:
            row_name = numbered[one.source].row_name
            names = ", ".join(quoted_name(column.source) for column in one.columns)
            insert = insert_into(one.table, [column.name for column in one.columns])
            found = source.execute(f"SELECT {row_name}, {names} FROM {quoted_name(one.source)}")
            for portion in _portions(found):
                rows = [row for row in portion if self._fits(one, row)]
                values = [row[1:] for row in rows]

                def refused(at: int, column: str, words: str, rows: Any = rows) -> None:
                    self._note(Problem(one.source, rows[at][0], column, words))  # noqa: B023

                insert_checked(self._db, insert, values, refused)
                done += len(portion)
                self._report(done, total)

    def _fits(self, carried: Carried, row: tuple[Any, ...]) -> bool:
        """Whether a row's texts are of the types that their columns are to have now."""
        for column, value in zip(carried.columns, row[1:], strict=True):
            if column.type is None or not isinstance(value, str) or column.type.name == "text":
                continue
            try:
                read_value(value, ColumnType(column.type.name))
            except NotOfType as problem:
                self._note(Problem(carried.source, row[0], column.source, f"{problem}."))
                return False
        return True

    # the end

    def _finish(self) -> Made:
        for name, why in drop_unread_views(self._db).items():
            self._left_out.append((0, f"VIEW {name}", why))
        tables = read_schema(self._db)
        if not any(table.kind == "table" for table in tables):
            raise CannotMake([Problem("", 0, "", "there is no table in it.")])
        for table in tables:
            if said := name_problem(table.name):
                self._note(Problem("", 0, "", f"the table {table.name!r}: {said}."))
            self._refuse_empty_keys(table)
        self._raise_problems()
        self._tell_broken_keys()
        rows = tuple(
            (
                table.name,
                next(self._db.execute(f"SELECT count(*) FROM {quoted_name(table.name)}"))[0],
            )
            for table in tables
            if table.kind == "table"
        )
        return Made(
            schema_text(self._db),
            rows,
            tuple(self._notes),
            tuple(self._left_out),
            self._table_notes,
        )

    def _refuse_empty_keys(self, table: TableSchema) -> None:
        """A key column that is NULL names no row, though SQLite lets it pass."""
        for name in table.primary_key:
            found = list(
                self._db.execute(
                    f"SELECT {table.row_name} FROM {quoted_name(table.name)} "
                    f"WHERE {quoted_name(name)} IS NULL LIMIT 1"
                )
            )
            if found:
                self._note(
                    Problem("", 0, name, f"{table.name}: the key is NULL in row {found[0][0]}.")
                )

    def _tell_broken_keys(self) -> None:
        broken: dict[tuple[str, str], list[int]] = {}
        try:
            for table, row, parent, _ in self._db.execute("PRAGMA foreign_key_check"):
                broken.setdefault((table, parent), []).append(row)
        except apsw.Error as problem:
            self._note(Problem("the schema", 0, "", f"a foreign key cannot be checked: {problem}."))
        for (table, parent), rows in broken.items():
            count = len(rows)
            what = "1 row" if count == 1 else f"{count} rows"
            self._notes.append(
                f"{what} of {table} refer to a row of {parent} that is not there "
                f"(first: row {rows[0]})."
            )
        self._raise_problems()


_TRIGGER: Final = "a trigger: rows of a sample change only as you change them"
_VIRTUAL: Final = re.compile(r"\s*CREATE\s+VIRTUAL\s+TABLE", re.IGNORECASE)
_ROW_OPTIONS: Final = re.compile(
    r"\)\s*(?:WITHOUT\s+ROWID|STRICT)(?:\s*,\s*(?:WITHOUT\s+ROWID|STRICT))?\s*(?=;|$)",
    re.IGNORECASE,
)


def without_row_options(sql: str) -> str:
    """DDL without what says how rows are stored, which makes no difference to what they are."""
    return _ROW_OPTIONS.sub(")", sql)


def schema_text(db: apsw.Connection) -> str:
    """The whole schema of a database as a script, tables first, as its authors wrote it."""
    found = db.execute(
        "SELECT sql FROM sqlite_schema WHERE sql IS NOT NULL AND type != 'trigger' "
        "AND name NOT LIKE 'sqlite\\_%' ESCAPE '\\' ORDER BY type != 'table', rowid"
    )
    return "".join(f"{sql};\n\n" for (sql,) in found).rstrip("\n") + "\n"


def _count_rows(db: apsw.Connection, tables: Sequence[str]) -> int:
    counts = (db.execute(f"SELECT count(*) FROM {quoted_name(name)}") for name in tables)
    return sum(next(count)[0] for count in counts)


def _portions(rows: Iterator[Any]) -> Iterator[list[Any]]:
    portion: list[Any] = []
    for row in rows:
        portion.append(row)
        if len(portion) == _PORTION:
            yield portion
            portion = []
    if portion:
        yield portion
