"""A script cut into statements, and what stands around them in some dialects."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, Final

import sqlglot
from sqlglot.tokenizer_core import TokenType

from jentrow.core.samples.scripts.db2 import with_semicolons
from jentrow.core.samples.scripts.mariadb import with_versioned_comments, without_delimiters
from jentrow.core.samples.scripts.oracle import plain
from jentrow.core.samples.scripts.pieces import LeaveOut
from jentrow.core.samples.scripts.postgresql import COPY, insert_of_copy, without_lines
from jentrow.core.samples.scripts.reasons import CANNOT_BE_READ, PROGRAM
from jentrow.core.samples.scripts.tsql import separated
from jentrow.core.sql.parser_failures import PARSER_FAILURES, said_of
from jentrow.core.sql.parsing import dialect_named

SETTING_UP: Final = re.compile(
    r"(?:(?:SET|USE|GRANT|REVOKE|LOCK|UNLOCK|DELIMITER|"
    r"(?:CREATE|DROP|ALTER)\s+(?:SCHEMA|DATABASE|EXTENSION|ROLE|USER|SESSION|SYSTEM)|"
    r"ALTER\s[^;']{1,300}?\sOWNER\s+TO|COMMENT\s+ON\s+(?:SCHEMA|DATABASE|EXTENSION)|"
    r"SELECT\s+pg_catalog\.set_config|REFRESH\s+MATERIALIZED)\b|"
    r"ALTER\s+DEFAULT\s+PRIVILEGES)\b",
    re.IGNORECASE,
)
"""Statements that set up a server: the script has a place of its own here, and a login for it."""

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
        script, programs = without_delimiters(with_versioned_comments(script))
        for line, text in programs:
            leave_out(line, text, PROGRAM)
    at = 0
    for copy in COPY.finditer(script) if dialect == "postgres" else ():
        yield from _split(script[at : copy.start()], dialect, _line(script, at), leave_out)
        at = copy.end()
        yield _line(script, copy.start()), insert_of_copy(copy)
    yield from _split(script[at:], dialect, _line(script, at), leave_out)


def _line(script: str, at: int) -> int:
    return script.count("\n", 0, at) + 1


def _split(script: str, dialect: str, line: int, leave_out: LeaveOut) -> Iterator[tuple[int, str]]:
    if dialect == "postgres":
        script = without_lines(script, lambda at, *told: leave_out(at + line - 1, *told))
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
