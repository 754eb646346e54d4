"""A script cut into statements, and what stands around them in some dialects."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, Final

import sqlglot
from sqlglot.tokenizer_core import TokenType

from jentrow.core.samples.scripts.db2 import with_semicolons
from jentrow.core.samples.scripts.oracle import plain
from jentrow.core.samples.scripts.pieces import LeaveOut
from jentrow.core.samples.scripts.reasons import CANNOT_BE_READ, PROGRAM
from jentrow.core.samples.scripts.tsql import separated
from jentrow.core.sql.parser_failures import PARSER_FAILURES, said_of
from jentrow.core.sql.parsing import dialect_named
from jentrow.core.sql.text import quoted_text

SETTING_UP: Final = re.compile(
    r"(?:SET|USE|GRANT|REVOKE|LOCK|UNLOCK|DELIMITER|"
    r"(?:CREATE|DROP|ALTER)\s+(?:SCHEMA|DATABASE|EXTENSION|ROLE|USER|SESSION|SYSTEM)|"
    r"ALTER\s+\w+\s+[\w.\"]+\s+OWNER\s+TO|COMMENT\s+ON\s+(?:SCHEMA|DATABASE|EXTENSION)|"
    r"SELECT\s+pg_catalog\.set_config)\b",
    re.IGNORECASE,
)
"""Statements that set up a server: the script has a place of its own here, and a login for it."""

_COPY: Final = re.compile(
    r"^COPY\s+(?P<table>[^\s(]+)\s*(?:\((?P<columns>[^)]*)\))?\s+FROM\s+stdin[^;\n]*;\n"
    r"(?P<rows>.*?)^\\\.$\n?",
    re.IGNORECASE | re.MULTILINE | re.DOTALL,
)
_MONEY: Final = re.compile(r"('(?:[^']|'')*')|\$(?=\d)")
"""A text, or the sign before an amount of money."""


def statements(script: str, dialect: str, leave_out: LeaveOut) -> Iterator[tuple[int, str]]:
    """The statements of a script with their lines; rows inside COPY become INSERTs.

    What cannot be cut into statements, or is none of a sample, is told to ``leave_out``: its line,
    its text, and why.
    """
    if dialect == "tsql":
        script = separated(script, leave_out)
        script = _MONEY.sub(r"\1", script)
    if dialect == "oracle":
        script = plain(script, leave_out)
    if dialect == "db2":
        script = with_semicolons(script, leave_out)
    if dialect == "mysql":
        script, programs = without_delimiters(script)
        for line, text in programs:
            leave_out(line, text, PROGRAM)
    at = 0
    for copy in _COPY.finditer(script) if dialect == "postgres" else ():
        yield from _split(script[at : copy.start()], dialect, _line(script, at), leave_out)
        at = copy.end()
        yield _line(script, copy.start()), _insert_of_copy(copy)
    yield from _split(script[at:], dialect, _line(script, at), leave_out)


def with_copied_rows(script: str) -> str:
    """A script for PostgreSQL in which rows inside COPY stand in INSERTs, and all in its line."""
    return _COPY.sub(lambda copy: _insert_of_copy(copy) + ";" + "\n" * copy[0].count("\n"), script)


_DELIMITER: Final = re.compile(
    r"^[ \t]*DELIMITER[ \t]+(\S+)[ \t\r]*$", re.IGNORECASE | re.MULTILINE
)
_DEFINES_PROGRAM: Final = re.compile(r"\b(?:TRIGGER|PROCEDURE|FUNCTION|EVENT)\b", re.IGNORECASE)


def without_delimiters(script: str) -> tuple[str, list[tuple[int, str]]]:
    """A script for MariaDB without its DELIMITER lines, in which a semicolon ends each statement.

    Programs, which have semicolons inside and are what DELIMITER is for, are taken out: they come
    beside it, each with its line. Everything else stays in its line.
    """
    parts: list[str] = []
    programs: list[tuple[int, str]] = []
    at, sign = 0, ";"
    for said in [*_DELIMITER.finditer(script), None]:
        end = len(script) if said is None else said.start()
        if sign == ";":
            parts.append(script[at:end])
        else:
            for piece in script[at:end].split(sign):
                text = piece.strip()
                before = piece[: len(piece) - len(piece.lstrip())]
                line = _line(script, at) + before.count("\n")
                at += len(piece) + len(sign)
                if text and (";" in text or _DEFINES_PROGRAM.search(text)):
                    programs.append((line, text))
                    parts.append("\n" * piece.count("\n"))
                else:
                    parts.append(f"{piece};" if text else piece)
        if said is not None:
            at, sign = said.end(), said[1]
    return "".join(parts), programs


def _line(script: str, at: int) -> int:
    return script.count("\n", 0, at) + 1


_ESCAPES: Final = {"n": "\n", "t": "\t", "r": "\r", "b": "\b", "f": "\f", "v": "\v"}


def _insert_of_copy(copy: re.Match[str]) -> str:
    def field(text: str) -> str:
        if text == "\\N":
            return "NULL"
        text = re.sub(r"\\(.)", lambda found: _ESCAPES.get(found[1], found[1]), text)
        return quoted_text(text)

    rows = [
        "(" + ", ".join(map(field, line.split("\t"))) + ")"
        for line in copy["rows"].removesuffix("\n").split("\n")
        if copy["rows"]
    ]
    columns = f" ({copy['columns']})" if copy["columns"] else ""
    if not rows:
        return "SELECT 1"
    return f"INSERT INTO {copy['table']}{columns} VALUES {', '.join(rows)}"


def _split(script: str, dialect: str, line: int, leave_out: LeaveOut) -> Iterator[tuple[int, str]]:
    try:
        tokens = sqlglot.tokenize(script, read=dialect_named(dialect))
    except PARSER_FAILURES as problem:
        leave_out(line, script, CANNOT_BE_READ.format(why=said_of(problem)))
        return
    start: Any = None
    for token in tokens:
        if token.token_type == TokenType.SEMICOLON:
            if start is not None:
                yield line + _line(script, start) - 1, script[start : token.start]
            start = None
        elif start is None:
            start = token.start
    if start is not None:
        yield line + _line(script, start) - 1, script[start:]


def beginning(text: str, at_most: int = 80) -> str:
    """The beginning of a statement on one line, at most so many characters."""
    words = " ".join(text.split())
    return words if len(words) <= at_most else words[: at_most - 1] + "…"
