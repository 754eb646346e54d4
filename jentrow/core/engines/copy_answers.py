"""What a worker process answers to a script on a learner's own copy, as it crosses to whoever asked."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Final, TypeAlias

from jentrow.core.processes.crossing import packed
from jentrow.core.shownrows import ResultView

SHOWN_ROWS: Final = 500
"""Rows of a statement's result that are shown."""

LOOKED_TOO_LONG: Final = "Your copy was not read in time: look again in a moment. Where it stays so, begin again with a new one."
"""What is said where looking at a copy takes too long: a busy server is no fault of the copy."""

Place: TypeAlias = tuple[int, int, int]
"""The number of a statement in its script, counted from 1, and where it begins and ends; 0 for all."""

CopyAnswer: TypeAlias = tuple[Any, ...]
"""``("done", [(statement, shown rows packed or nothing, changed)…])``, or ``("failed", verdict, code,
engine's words, place of the statement, detail, [(table, columns)…], byte offset of the error in the
statement or -1)``; the columns are those of each table, for words about names that there are not."""

StatementAnswer: TypeAlias = tuple[str, bytes, int]

CopyPage: TypeAlias = tuple[list[list[Any]], int]
"""Rows of a table as they are shown, and how many there are."""


def done(statements: Sequence[StatementAnswer]) -> CopyAnswer:
    """A script of which all is done."""
    return ("done", list(statements))


def statement_done(sql: str, view: ResultView | None, changed: int) -> StatementAnswer:
    """A statement with the rows that it gave, where it gave any, and how many it changed."""
    return sql, b"" if view is None else packed(view), changed


def failed_copy(
    verdict: str,
    code: str,
    words: str,
    place: Place,
    detail: str = "",
    columns: Sequence[tuple[str, list[str]]] = (),
    offset: int = -1,
) -> CopyAnswer:
    """A script of which nothing is done."""
    return ("failed", verdict, code, words, place, detail, list(columns), offset)
