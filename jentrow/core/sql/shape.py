"""The outermost clauses of a query: where its ORDER BY and LIMIT stand, whether it is DISTINCT.

Read from the tokens alone, so that it holds for every text that the engine runs, whether or not the
parser can read it. ORDER, LIMIT, SELECT, DISTINCT and the words of set operations are reserved:
outside all parentheses they cannot be anything else. OFFSET and FETCH are reserved on every engine
but SQLite, where OFFSET stands only after LIMIT.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Final

from jentrow.core.sql.tokens import Token, statements_in

_COMBINING: Final = frozenset({"UNION", "EXCEPT", "INTERSECT", "MINUS"})
_LIMITING: Final = {"sqlite": frozenset({"LIMIT"})}
_ALL_LIMITING: Final = frozenset({"LIMIT", "OFFSET", "FETCH"})
_AFTER_NUMBER: Final = frozenset({"ROW", "ROWS", "LIMIT", "FETCH"})


@dataclass(frozen=True)
class QueryShape:
    """What can be said of a query without running it; all places are indexes into ``sql``.

    ``start`` and ``end`` enclose the only statement, without comments around it or a semicolon.
    ``body_end`` is where its ORDER BY or LIMIT begins, or its end. ``order`` is the whole ORDER BY
    clause, empty where there is none. ``offset`` is how many rows it skips, as SQL. ``distinct`` is
    the word itself, where it stands in a SELECT that is no part of a set operation. ``opening`` is
    what stands before that SELECT: WITH and its common table expressions. ``combined`` tells that
    it is a set operation.
    """

    sql: str
    start: int
    end: int
    body_end: int
    order: str
    limited: bool
    offset: str
    distinct: tuple[int, int] | None
    opening: str
    combined: bool = False

    @property
    def ordered(self) -> bool:
        """Whether the outermost query has an ORDER BY."""
        return bool(self.order)

    @property
    def body(self) -> str:
        """The query as its author wrote it, without ORDER BY and LIMIT."""
        return self.sql[self.start : self.body_end]

    @property
    def body_with_repeats(self) -> str:
        """The same without the DISTINCT of its outermost SELECT."""
        if self.distinct is None:
            return self.body
        begin, end = self.distinct
        return f"{self.sql[self.start : begin]} {self.sql[end : self.body_end]}"


@lru_cache(maxsize=256)
def shape_of(sql: str, dialect: str) -> QueryShape:
    """The shape of a text's only statement. Never fails: of anything else it says nothing."""
    statements = statements_in(sql, dialect)
    if len(statements) != 1:
        return QueryShape(sql, 0, len(sql), len(sql), "", False, "0", None, "")
    tokens = statements[0]
    start, end = tokens[0].start, tokens[-1].end
    outer = [token for token in tokens if token.depth == 0]
    order = next(
        # ORDER SIBLINGS BY sorts a hierarchy.
        (
            one.start
            for one, after in pairwise(outer)
            if one.word == "ORDER" and after.word in ("BY", "SIBLINGS")
        ),
        None,
    )
    limiting = _LIMITING.get(dialect, _ALL_LIMITING)
    limit = next((at for at, token in enumerate(outer) if token.word in limiting), None)
    limit_start = end if limit is None else outer[limit].start
    select = next((at for at, one in enumerate(outer) if one.word in ("SELECT", "VALUES")), None)
    is_combined = any(token.word in _COMBINING for token in outer)
    return QueryShape(
        sql,
        start,
        end,
        limit_start if order is None else order,
        "" if order is None else sql[order:limit_start].rstrip(),
        limit is not None,
        "0" if limit is None else _offset(sql, outer[limit:], end),
        None if is_combined or select is None else _distinct(outer[select + 1 :]),
        "" if select is None else sql[start : outer[select].start],
        is_combined,
    )


def _offset(sql: str, limiting: list[Token], end: int) -> str:
    """``LIMIT n OFFSET skipped``, ``LIMIT skipped, n`` or ``OFFSET skipped ROWS FETCH …``."""
    for at, token in enumerate(limiting):
        if token.word == "OFFSET":
            after = (one.start for one in limiting[at + 1 :] if one.word in _AFTER_NUMBER)
            return sql[token.end : next(after, end)].strip()
        if token.word == ",":
            return sql[limiting[0].end : token.start].strip()
    return "0"


def _distinct(after_select: list[Token]) -> tuple[int, int] | None:
    if after_select and after_select[0].word == "DISTINCT":
        return after_select[0].start, after_select[0].end
    return None
