"""Tables that a script makes of a query: ``CREATE TABLE … AS SELECT …``, ``SELECT … INTO …``.

Their columns are declared as those that the query takes them from, as far as it is plain what a
value is: a column, a count, a sum, a text, what arithmetic makes of numbers. The rows come as an
INSERT with the query.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import Final

from sqlglot import exp

from jentrow.core.samples.schema.coltypes import type_of_declaration
from jentrow.core.samples.schema.tables import ColumnSchema, TableSchema
from jentrow.core.samples.scripts.script import ReadScript

_TEXTS: Final = (
    exp.Upper, exp.Lower, exp.Trim, exp.Substring, exp.Concat, exp.ConcatWs, exp.DPipe, exp.Left,
    exp.Right, exp.Replace, exp.Initcap, exp.GroupConcat, exp.Pad,
)  # fmt: skip
_COUNTS: Final = (
    exp.Count, exp.Length, exp.Year, exp.Month, exp.Day, exp.Extract, exp.RowNumber, exp.Rank,
    exp.DenseRank, exp.DateDiff, exp.StrPosition,
)  # fmt: skip
_LIKE_ITS_FIRST: Final = (exp.Min, exp.Max, exp.Paren, exp.Abs, exp.Neg, exp.Nullif, exp.Window)
_DECIMAL: Final = re.compile(r"(?:DECIMAL|NUMERIC)\(\d+(?:,\s*(\d+))?\)", re.IGNORECASE)
_CUT_OFF: Final = frozenset({"tsql", "db2", "postgres", "sqlite"})
"""Where whole numbers divide to whole numbers."""


def table_of_query(
    read: ReadScript, name: str, query: exp.Expr, names: Sequence[str] = ()
) -> TableSchema | None:
    """The table of a query's rows, without any key; None where a column's type is not plain.

    ``names`` are its columns' where the statement gives them.
    """
    select = query
    while isinstance(select, exp.SetOperation | exp.Subquery):
        select = select.this
    if not isinstance(select, exp.Select):
        return None
    sources = _sources(read, select)
    if sources is None:
        return None
    columns: list[ColumnSchema] = []
    for item in select.selects:
        if item.is_star:
            columns += _all_of(item, sources)
        else:
            kind = _Kinds(read, sources).of(item.unalias(), item.output_name)
            if not kind or not (item.output_name or names):
                return None
            columns.append(ColumnSchema(item.output_name, kind))
    if names:
        if len(names) != len(columns):
            return None
        columns = [
            ColumnSchema(called, one.type) for called, one in zip(names, columns, strict=True)
        ]
    is_told_apart = len({one.name.lower() for one in columns}) == len(columns)
    return TableSchema(name, tuple(columns)) if columns and is_told_apart else None


def _sources(read: ReadScript, select: exp.Select) -> dict[str, TableSchema] | None:
    """The tables that a query reads, by what it calls them; None where one is no table of the script."""
    from_ = select.args.get("from_")
    read_from = [from_.this] if from_ is not None else []
    read_from += [one.this for one in select.args.get("joins") or ()]
    sources: dict[str, TableSchema] = {}
    for one in read_from:
        table = read.table(one.name) if isinstance(one, exp.Table) else None
        if table is None:
            return None
        sources[one.alias_or_name.lower()] = table
    return sources


def _all_of(star: exp.Expr, sources: Mapping[str, TableSchema]) -> list[ColumnSchema]:
    """The columns of ``*``, or of ``t.*``."""
    of = star.table.lower() if isinstance(star, exp.Column) else ""
    return [
        ColumnSchema(column.name, column.type)
        for called, table in sources.items()
        if of in ("", called)
        for column in table.columns
    ]


class _Kinds:
    """What the values of a query are declared as."""

    def __init__(self, read: ReadScript, sources: Mapping[str, TableSchema]) -> None:
        self._read, self._sources = read, sources

    def of(self, value: exp.Expr | None, column: str) -> str:
        """The declaration of a value; empty where it is not plain. ``column`` is its name."""
        match value:
            case exp.Column():
                return self._of_column(value)
            case exp.Literal():
                return _of_literal(value)
            case exp.Cast():
                declared = self._read.types.declared(value.to, column)
                return declared.type if declared.known else ""
            case exp.Sum():
                return _sum(self.of(value.this, column))
            case exp.Add() | exp.Sub() | exp.Mul() | exp.Div():
                return self._of_arithmetic(value, column)
            case exp.Case():
                branches = [one.args["true"] for one in value.args["ifs"]]
                return self._together([*branches, value.args.get("default")], column)
            case exp.Coalesce():
                return self._together([value.this, *value.expressions], column)
            case exp.CurrentDate():
                return "DATE"
        if isinstance(value, _LIKE_ITS_FIRST):
            return self.of(value.this, column)
        return (
            "TEXT" if isinstance(value, _TEXTS) else "INTEGER" if isinstance(value, _COUNTS) else ""
        )

    def _of_column(self, value: exp.Column) -> str:
        called = value.table.lower()
        found = {
            column.type
            for name, table in self._sources.items()
            if called in ("", name)
            for column in table.columns
            if column.name.lower() == value.name.lower()
        }
        return found.pop() if len(found) == 1 else ""

    def _of_arithmetic(self, value: exp.Binary, column: str) -> str:
        sides = [self.of(one, column) for one in (value.left, value.right)]
        if all(map(_is_whole, sides)):
            return "" if isinstance(value, exp.Div) and not self._cuts_off() else "INTEGER"
        places = [_places(one) for one in sides]
        if None in places or isinstance(value, exp.Div):
            return ""
        known = [one or 0 for one in places]
        return f"DECIMAL(38,{sum(known) if isinstance(value, exp.Mul) else max(known)})"

    def _together(self, values: Sequence[exp.Expr | None], column: str) -> str:
        found = {self.of(one, column) for one in values if one and not isinstance(one, exp.Null)}
        return found.pop() if len(found) == 1 else ""

    def _cuts_off(self) -> bool:
        return self._read.dialect in _CUT_OFF


def _of_literal(literal: exp.Literal) -> str:
    if literal.is_string:
        return "TEXT"
    whole, _, places = literal.name.partition(".")
    if not (whole + places).isdigit():
        return ""
    return f"DECIMAL({len(whole) + len(places)},{len(places)})" if places else "INTEGER"


def _is_whole(declared: str) -> bool:
    return type_of_declaration(declared) == "integer"


def _places(declared: str) -> int | None:
    """The places behind the point; None for what is no exact number."""
    found = _DECIMAL.fullmatch(declared)
    if found is not None:
        return int(found[1] or 0)
    return 0 if _is_whole(declared) else None


def _sum(of: str) -> str:
    places = _places(of)
    return of if _is_whole(of) or places is None else f"DECIMAL(38,{places})"
