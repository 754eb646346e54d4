"""What Oracle's functions mean, on the stand-in; sources as in :mod:`jentrow.core.sql.foreign_forms`."""

from __future__ import annotations

import re
from typing import Final

from sqlglot import exp

from jentrow.core.sql.stand_in_functions import Texts, called, cast_to, repeatable


def removals(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """REPLACE of two values takes a text out; nothing left is NULL in Oracle."""
    for call in list(tree.find_all(exp.Replace)):
        if call.args.get("replacement") is None:
            made = called("REPLACE", call.this, call.expression, "")
            call.replace(exp.Nullif(this=made, expression=exp.Literal.string("")))
    return tree


_UNITS: Final = {
    "MM": "month", "MON": "month", "MONTH": "month", "RM": "month", "Q": "quarter",
    "Y": "year", "YY": "year", "YYY": "year", "YYYY": "year", "YEAR": "year", "SYYYY": "year",
    "DD": "day", "DDD": "day", "J": "day", "IW": "week", "HH": "hour", "HH24": "hour", "MI": "minute",
}  # fmt: skip


def truncated_dates(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """TRUNC of a date goes back to the beginning of a unit that has a name of its own."""
    for call in list(tree.find_all(exp.DateTrunc)):
        said = call.args.get("unit")
        unit = _UNITS.get(said.name.upper()) if said is not None else None
        if unit is None:
            notes.append("TRUNC to this unit has no counterpart.")
        else:
            call.replace(cast_to(called("DATE_TRUNC", unit, call.this), "TIMESTAMP"))
    return tree


def numbers_without_size(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """NUMBER has as many places as its value: the stand-in's DECIMAL would cut some off."""
    for cast in tree.find_all(exp.Cast):
        if cast.to.is_type(exp.DataType.Type.DECIMAL) and not cast.to.expressions:
            cast.set("to", exp.DataType.build("DECIMAL(38, 10)", dialect="duckdb"))
    return tree


def parts_from_zero(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """SUBSTR takes 0 for the first place; INSTR looks backwards from a place below 0."""
    for part in tree.find_all(exp.Substring):
        start = part.args.get("start")
        if isinstance(start, exp.Literal) and start.name == "0":
            start.replace(exp.Literal.number(1))
    if any(isinstance(one.args.get("position"), exp.Neg) for one in tree.find_all(exp.StrPosition)):
        notes.append("INSTR from the end has no counterpart.")
    return tree


def joined_by_concat(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """CONCAT is the sign ||."""
    for call in list(tree.find_all(exp.Concat)):
        first, *others = call.expressions
        for other in others:
            first = exp.DPipe(this=first, expression=other)
        call.replace(exp.paren(first))
    return tree


def moments_taken_away(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """Two moments are a number of days apart, with its fraction; a number before one is a moment."""
    for minus in list(tree.find_all(exp.Sub)):
        sides = (minus.this, minus.expression)
        if not any(map(_is_moment, sides)) or any(map(_is_timestamp, sides)):
            continue
        taken = minus.expression.unnest()
        if isinstance(taken, exp.Interval):
            continue
        if isinstance(taken, exp.Literal):
            notes.append("A number of days before a moment is not taken off on the stand-in.")
            continue
        seconds = [called("EPOCH", cast_to(one.copy(), "TIMESTAMP")) for one in sides]
        apart = exp.paren(exp.Sub(this=seconds[0], expression=seconds[1]))
        minus.replace(exp.paren(exp.Div(this=apart, expression=exp.Literal.number("86400.0"))))
    return tree


def _is_moment(node: exp.Expr) -> bool:
    """Whether an expression surely gives a date, and on the stand-in one with its time of day."""
    match node.unnest():
        case exp.CurrentTimestamp() as now:
            return bool(now.args.get("sysdate"))
        case exp.DateTrunc() | exp.AddMonths():
            return True
        case exp.Add() | exp.Sub() as sum:
            return any(isinstance(one.unnest(), exp.Interval) for one in (sum.this, sum.expression))
    return False


def _is_timestamp(node: exp.Expr) -> bool:
    """Whether an expression gives a timestamp, which is an interval apart from another moment."""
    match node.unnest():
        case exp.CurrentTimestamp() as now:
            return not now.args.get("sysdate")
        case exp.Cast() as cast:
            return bool(cast.to.is_type("TIMESTAMP", "TIMESTAMPTZ"))
    return False


_ISO_DATE: Final = re.compile(r"\d{4}-\d{1,2}-\d{1,2}")


def dates_as_texts(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """A text beside a date is read by the session's format, which is hardly ever that of the standard."""
    for literal in tree.find_all(exp.Literal):
        beside = literal.parent
        if not literal.is_string or not _ISO_DATE.fullmatch(literal.name):
            continue
        column = beside.this.unnest() if isinstance(beside, exp.Predicate) else None
        if isinstance(column, exp.Column) and column.name.lower() not in texts:
            notes.append(
                "A date is written DATE '2026-01-31': a text is read by the session's format."
            )
    return tree


def of_one_row(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """STDDEV and VARIANCE of one row are 0."""
    for call in repeatable(tree.find_all(exp.Stddev, exp.Variance), notes):
        if isinstance(call.parent, exp.Window):
            notes.append("STDDEV and VARIANCE of one row are 0, and NULL on the stand-in.")
            continue
        alone = exp.EQ(this=exp.Count(this=call.this.copy()), expression=exp.Literal.number(1))
        zero = exp.If(this=alone, true=exp.Literal.number(0))
        call.replace(exp.Case(ifs=[zero], default=call.copy()))
    return tree
