"""Scripts in other dialects, read as far as the parser can: tables, rows, and what was left out."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

import sqlglot
from sqlglot import exp
from sqlglot.expressions import Expr

from jentrow.core.samples.schema.view_texts import author_of, kept
from jentrow.core.samples.scripts.calls import inserts_of, worked_out
from jentrow.core.samples.scripts.division import divide_fractions, fractional_columns
from jentrow.core.samples.scripts.merging import changes_of
from jentrow.core.samples.scripts.reasons import (
    CANNOT_BE_READ,
    NO_ROWS,
    NO_STATEMENT,
    OF_A_QUERY,
    OF_A_SERVER,
    PROGRAM,
    SETS_UP,
)
from jentrow.core.samples.scripts.row_changes import change_one_table, count_out, name_values
from jentrow.core.samples.scripts.script import ReadScript
from jentrow.core.samples.scripts.statements import SETTING_UP, statements
from jentrow.core.samples.scripts.table_settings import without_settings
from jentrow.core.samples.scripts.tables import OF_OTHERS, SQLITE, TableReader
from jentrow.core.samples.scripts.tables_of_queries import table_of_query
from jentrow.core.samples.scripts.types import simpler_types
from jentrow.core.samples.scripts.values import (
    with_plain_texts,
    written_for_sqlite,
)
from jentrow.core.samples.scripts.views import ScriptView
from jentrow.core.sql.parser_failures import PARSER_FAILURES, said_of
from jentrow.core.sql.parsing import dialect_named
from jentrow.core.sql.stand_ins.db2.words import plain_db2
from jentrow.core.sql.text import quoted_name
from jentrow.core.sql.tokens import masked

PARSED_BYTES: Final = 32 << 20
"""How long a script may be that is not SQLite's own: the parser holds all of it in memory."""


def read_script(script: str, dialect: str) -> ReadScript:
    """Reads a script statement by statement; one that cannot be read is left out, the rest kept."""
    read = ReadScript(dialect)
    for line, text in statements(script, dialect, read.leave_out):
        read_one(read, line, text)
    read.left_out.sort(key=lambda one: one.line)
    return read


def read_one(read: ReadScript, line: int, text: str) -> None:
    """Reads one statement of a script, which stands in a line of it."""
    plain, settings = without_settings(text, read.dialect)
    try:
        _Taking(read, line, text, plain).take(_parsed(plain, read.dialect))
        if settings:
            read.leave_out(line, settings, OF_A_SERVER)
    except PARSER_FAILURES as problem:
        why = _why_not_taken(text) or CANNOT_BE_READ.format(why=said_of(problem))
        read.leave_out(line, text, why)


def _why_not_taken(text: str) -> str:
    """What a statement's first words say of it: nobody would miss it, or it is a program."""
    begun = text.lstrip()
    if SETTING_UP.match(begun):
        return SETS_UP
    if _QUIET_WORDS.match(begun):
        return NO_ROWS
    return PROGRAM if _PROGRAM.match(begun) else ""


def _parsed(text: str, dialect: str) -> Expr:
    if dialect == "db2" and not _TABLE.match(text):
        text, _ = plain_db2(text)
    if dialect == "db2":
        text = _DEFINITION_ONLY.sub("", text)
    if dialect == "postgres":
        text = _plain_postgresql(text)
    if _OVERRIDING.search(text) and (said := _OVERRIDING.search(masked(text, dialect))):
        text = text[: said.start()] + text[said.end() :]
    if dialect == "mysql" and (replaced := _REPLACE.match(text)):
        inserted = sqlglot.parse_one(f"INSERT INTO{text[replaced.end() :]}", read=dialect)
        inserted.set("alternative", "REPLACE")
        return inserted
    try:
        return sqlglot.parse_one(text, read=dialect_named(dialect))
    except PARSER_FAILURES:
        if not _TABLE.match(text):
            raise
        return sqlglot.parse_one(simpler_types(text), read=dialect_named(dialect))


def _plain_postgresql(text: str) -> str:
    """A statement without what the parser does not know of kept views."""
    if found := _MATERIALIZED.search(text, 0, 60):
        text = text[: found.start()] + text[found.end() :]
        return _WITH_DATA.sub("", text)
    return text


_TABLE: Final = re.compile(r"\s*(?:CREATE|ALTER)\s[\w\s]*?\bTABLE\b", re.IGNORECASE)


_QUIET: Final = (exp.Set, exp.Use, exp.Transaction, exp.Commit, exp.Pragma)
"""Statements that set the stage for another server, and change no table."""


_NOTING: Final = re.compile(
    r"EXEC(?:UTE)?\s+(?:\[?sys\]?\.)?\[?sp_(?:add|update)extendedproperty\]?\b", re.IGNORECASE
)
_PARAMETER: Final = re.compile(r"@(?P<name>\w+)\s*=\s*N?'(?P<value>(?:[^']|'')*)'")
_QUIET_WORDS: Final = re.compile(
    r"(?:PRINT|RAISERROR|DECLARE|ANALYZE|VACUUM|DO|LABEL\s+ON|ALTER\s+(?:SEQUENCE|FUNCTION|PROCEDURE|TRIGGER|INDEX))\b",
    re.IGNORECASE,
)
_PROGRAM: Final = re.compile(
    r"CREATE\s+(?:OR\s+REPLACE\s+)?(?:DEFINER\s*=\s*\S+\s+)?(?:CONSTRAINT\s+)?"
    r"(?:FUNCTION|PROCEDURE|TRIGGER|EVENT|RULE|AGGREGATE|OPERATOR|CAST|POLICY|PACKAGE|MACRO)\b",
    re.IGNORECASE,
)
_OVERRIDING: Final = re.compile(r"\bOVERRIDING\s+(?:SYSTEM|USER)\s+VALUE\b", re.IGNORECASE)
_MATERIALIZED: Final = re.compile(r"(?<=CREATE)\s+MATERIALIZED(?=\s+VIEW\b)", re.IGNORECASE)
_WITH_DATA: Final = re.compile(r"\bWITH\s+(?:NO\s+)?DATA\s*\Z", re.IGNORECASE)
_REPLACE: Final = re.compile(r"REPLACE\b(?:\s+INTO\b)?", re.IGNORECASE)


class _Taking:
    """Takes one statement over."""

    def __init__(self, read: ReadScript, line: int, text: str, plain: str) -> None:
        self._read, self._line, self._text = read, line, text
        self._dialect = read.dialect
        self._tables = TableReader(read, line, plain)

    def take(self, statement: Expr | None) -> None:
        if self._read.types.add(self._text):
            return
        match statement:
            case exp.Create(kind="TABLE", expression=exp.Query()):
                self._make_of_query(statement)
            case exp.Select(args={"into": exp.Into()}):
                into = statement.args["into"].this
                statement.set("into", None)
                self._fill_of_query(into, statement)
            case exp.Create(kind="TABLE") if isinstance(
                statement.this, exp.Schema
            ) or statement.find(*OF_OTHERS):
                self._tables.make(statement)
            case exp.Create(kind="VIEW"):
                self._view(statement)
            case exp.Create(kind="INDEX"):
                self._index(statement)
            case exp.Create(kind="SEQUENCE"):
                self._read.sequences.made(statement)
                self._leave(NO_ROWS)
            case exp.Insert():
                self._insert(statement)
            case exp.MultitableInserts() if rows := inserts_of(statement):
                for row in rows:
                    self._insert(row)
            case exp.Alter():
                self._tables.alter(statement)
            case exp.TruncateTable():
                for table in statement.expressions:
                    self._read.statements.append(
                        (self._line, f"DELETE FROM {quoted_name(table.name)}")
                    )
            case exp.Update() | exp.Delete():
                self._change(statement)
            case exp.Merge() if changes := changes_of(statement):
                for change in changes:
                    self.take(change)
            case exp.Comment() if self._noted(statement):
                pass
            case exp.Create(kind="TABLE"):
                self._leave(OF_A_QUERY)
            case exp.Drop() | exp.Select() | exp.Comment() | None:
                self._leave(NO_ROWS)
            case _ if isinstance(statement, _QUIET):
                self._leave(SETS_UP)
            case exp.Command() if self._tables.alter_unread():
                pass
            case exp.Command() | exp.Execute() if self._noted_by_procedure():
                pass
            case _:
                self._leave(_why_not_taken(self._text) or NO_STATEMENT)

    def _change(self, statement: exp.Update | exp.Delete) -> None:
        unqualified(statement)
        with_plain_texts(statement, self._dialect, self._read.tables)
        worked_out(statement, self._read.sequences, self._dialect)
        change_one_table(statement)
        divide_fractions(statement, fractional_columns(self._read.tables))
        self._read.statements.append((self._line, statement.sql(**SQLITE)))

    def _index(self, statement: exp.Create) -> None:
        unqualified(statement)
        statement.set("replace", None)
        sql = _INDEX_OPTIONS.sub("", statement.sql(**SQLITE))
        self._read.indexes.append((self._line, sql))

    def _leave(self, why: str, text: str = "") -> None:
        self._read.leave_out(self._line, text or self._text, why)

    def _noted(self, statement: exp.Comment) -> bool:
        """Takes over what is noted on a table or a column; false where there is no such."""
        kind, about, text = statement.args.get("kind"), statement.this, statement.expression.name
        if kind == "TABLE":
            return self._tables.note(about.name, "", text)
        return kind == "COLUMN" and self._tables.note(about.table, about.name, text)

    def _noted_by_procedure(self) -> bool:
        """The same where T-SQL calls a procedure for it."""
        said = {
            found["name"].lower(): found["value"].replace("''", "'")
            for found in _PARAMETER.finditer(self._text)
        }
        return (
            _NOTING.match(self._text.lstrip()) is not None
            and said.get("level1type", "").upper() == "TABLE"
            and self._tables.note(
                said.get("level1name", ""), said.get("level2name", ""), said.get("value", "")
            )
        )

    def _view(self, statement: exp.Create) -> None:
        """Takes a view over as SQLite may read it, with its author's words."""
        whole = statement.this
        name = whole.this.name if isinstance(whole, exp.Schema) else whole.name
        if author_of(self._text):
            self._read.views.append(ScriptView(self._line, name, self._text))
            return
        options = statement.args.get("properties")
        # Who owns it on a server, and how it is worked out there, is not of the sample.
        statement.set("properties", None)
        is_plain = not (unqualified(statement) or options or statement.args.get("replace"))
        statement.set("replace", None)
        written = self._text if is_plain else statement.sql(self._dialect, comments=False)
        divide_fractions(statement, fractional_columns(self._read.tables))
        with_plain_texts(statement, self._dialect, self._read.tables)
        ddl = statement.sql(**SQLITE)
        if self._dialect != "sqlite":
            ddl = kept(ddl, self._dialect, written)
        self._read.views = [one for one in self._read.views if one.name.lower() != name.lower()]
        self._read.views.append(ScriptView(self._line, name, ddl))

    def _make_of_query(self, statement: exp.Create) -> None:
        """Takes over ``CREATE TABLE t AS SELECT …``, with names for its columns or without."""
        whole, query = statement.this, statement.expression
        table = whole.this if isinstance(whole, exp.Schema) else whole
        names = [one.name for one in whole.expressions] if isinstance(whole, exp.Schema) else []
        settings = statement.args.get("properties")
        is_empty = _DEFINITION_ONLY.search(self._text) is not None or any(
            isinstance(one, exp.WithDataProperty) and one.args.get("no")
            for one in (settings.expressions if settings else ())
        )
        self._fill_of_query(table, query, names, is_empty=is_empty)

    def _fill_of_query(
        self, table: exp.Expr, query: Expr, names: Sequence[str] = (), *, is_empty: bool = False
    ) -> None:
        """Makes a table of a query's rows, which an INSERT of the same query brings."""
        while isinstance(query, exp.Subquery) and not query.alias:
            query = query.this
        unqualified(query)
        made = table_of_query(self._read, table.name, query, names)
        if made is None or self._read.table(table.name) is not None:
            self._leave(OF_A_QUERY)
            return
        self._read.tables.append(made)
        if not is_empty:
            into = exp.Schema(
                this=exp.to_table(table.name, quoted=True),
                expressions=[exp.to_identifier(one.name, quoted=True) for one in made.columns],
            )
            self._insert(exp.Insert(this=into, expression=query))

    def _insert(self, statement: exp.Insert) -> None:
        if not isinstance(statement.expression, exp.Values):
            count_out(statement)
            name_values(statement)
        worked_out(statement, self._read.sequences, self._dialect)
        unqualified(statement)
        table = self._read.table(_target(statement))
        if table is not None:
            self._read.numberings.complete(statement, table)
        with_plain_texts(statement, self._dialect, self._read.tables)
        written_for_sqlite(statement, table, self._dialect)
        if not isinstance(statement.expression, exp.Values):
            divide_fractions(statement, fractional_columns(self._read.tables))
        self._read.statements.append((self._line, statement.sql(**SQLITE)))


def _target(statement: exp.Insert) -> str:
    into = statement.this
    return str(into.this.name if isinstance(into, exp.Schema) else into.name)


_DEFINITION_ONLY: Final = re.compile(r"\bDEFINITION\s+ONLY\s*\Z", re.IGNORECASE)
_INDEX_OPTIONS: Final = re.compile(
    r"\bUSING\s+\w+(?=\s*\()|\s+NULLS\s+(?:FIRST|LAST)\b", re.IGNORECASE
)


def unqualified(statement: Expr) -> bool:
    """Takes away the schemas that tables are named with; whether there were any."""
    found = [one for one in statement.find_all(exp.Table) if one.args.get("db")]
    for one in found:
        one.set("db", None)
        one.set("catalog", None)
    return bool(found)
