"""Conditions of a query that are neither true nor false where a column is NULL, and texts that mind it.

Which rows a condition leaves out so depends on the data; each guarded text is therefore run.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from sqlglot import exp

from jentrow.core.sql.spans import SpannedTree, spanned
from jentrow.core.sql.text import Place, place_at

COMPARISONS = (
    exp.EQ, exp.NEQ, exp.LT, exp.LTE, exp.GT, exp.GTE, exp.Between, exp.In, exp.Like, exp.ILike,
    exp.Glob,
)  # fmt: skip
"""What is unknown where one of its sides is NULL."""


@dataclass(frozen=True, slots=True)
class NullGuard:
    """One part of WHERE with ``OR column IS NULL``: ``guarded`` is the whole text with it."""

    column: str
    condition: str
    place: Place
    guarded: str

    @property
    def words(self) -> str:
        """What leaves the rows out; what takes them in is for the hints to say."""
        return (
            f"Where {self.column} is NULL, {self.condition} is neither true nor false: WHERE leaves "
            "the row out."
        )


@lru_cache(maxsize=256)
def null_guards(sql: str, dialect: str) -> tuple[NullGuard, ...]:
    """The guards of the outermost query's WHERE; none where the text cannot be read."""
    if "where" not in sql.lower():
        return ()
    reading = spanned(sql, dialect)
    if reading is None or not isinstance(reading.tree, exp.Select):
        return ()
    where = reading.tree.args.get("where")
    if where is None:
        return ()
    try:
        return tuple(_guards(reading, where.this))
    except RecursionError:  # nested deeper than anybody writes
        return ()


def _guards(reading: SpannedTree, condition: exp.Expr) -> Iterator[NullGuard]:
    for part in _conjuncts(condition):
        span = reading.span(part)
        if span is None:
            continue
        begin, end = span
        written = reading.sql[begin:end]
        for column in dict.fromkeys(_unknown_columns(reading, part)):
            guarded = f"({written} OR {column} IS NULL)"
            yield NullGuard(
                column,
                " ".join(written.split()),
                place_at(reading.sql, begin),
                reading.sql[:begin] + guarded + reading.sql[end:],
            )


def _conjuncts(condition: exp.Expr) -> Iterator[exp.Expr]:
    if isinstance(condition, exp.And):
        yield from _conjuncts(condition.this)
        yield from _conjuncts(condition.expression)
    elif isinstance(condition, exp.Paren):
        yield from _conjuncts(condition.this)
    else:
        yield condition


def _unknown_columns(reading: SpannedTree, part: exp.Expr) -> Iterator[str]:
    for comparison in part.find_all(*COMPARISONS):
        for column in comparison.find_all(exp.Column):
            if null_reaches(column, comparison):
                yield reading.text(column)


def null_reaches(column: exp.Column, comparison: exp.Expr) -> bool:
    """Whether a NULL of the column reaches the comparison: nothing between puts a value in its place."""
    above = column.parent
    while above is not None and above is not comparison:
        if isinstance(above, exp.Coalesce | exp.Case | exp.If | exp.Is | exp.Query):
            return False
        above = above.parent
    return True
