"""What Oracle's functions mean, on the stand-in; sources as in :mod:`jentrow.core.sql.stand_ins.refusals.forms`."""

from __future__ import annotations

import re
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import TEXT_OF, called, cast_to, is_text, repeatable
from jentrow.core.sql.stand_ins.timed_values import (
    count_days_on,
    is_date,
    is_moment,
    is_number,
    is_timed,
)

_MAY_LEAVE_NOTHING: Final = (exp.Replace, exp.RegexpReplace, exp.Trim, exp.Substring, exp.Translate)


def nothing_left(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Nothing left of a text is NULL; what replaces takes a text out where it gets nothing in its place."""
    for call in list(tree.find_all(*_MAY_LEAVE_NOTHING))[::-1]:
        if isinstance(call, exp.Replace):
            said = [call.expression, call.args.get("replacement")]
            of_nothing = [
                exp.Coalesce(this=one, expressions=[_EMPTY.copy()]) for one in said if one
            ]
            made = called(
                "REPLACE", call.this, *of_nothing, *[_EMPTY.copy()] * (2 - len(of_nothing))
            )
        else:
            made = call.copy()
            if isinstance(call, exp.RegexpReplace) and (by := made.args.get("replacement")):
                made.set("replacement", exp.Coalesce(this=by, expressions=[_EMPTY.copy()]))
        call.replace(exp.Nullif(this=made, expression=_EMPTY.copy()))
    return tree


_EMPTY: Final = exp.Literal.string("")


def lengths_of_numbers(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """LENGTH of what is no text counts the letters of it as one."""
    for length in list(tree.find_all(exp.Length)):
        if not is_text(length.this, kinds):
            length.set("this", called(TEXT_OF, length.this))
    return tree


def not_true(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """LNNVL is true where its condition is false or unknown."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "LNNVL" and len(call.expressions) == 1:
            made = exp.Is(this=exp.paren(call.expressions[0]), expression=exp.Boolean(this=True))
            call.replace(exp.Not(this=made))
    return tree


UNITS_OF_DATES: Final = {
    "MM": "month", "MON": "month", "MONTH": "month", "RM": "month", "Q": "quarter",
    "Y": "year", "YY": "year", "YYY": "year", "YYYY": "year", "YEAR": "year", "SYYYY": "year",
    "DD": "day", "DDD": "day", "J": "day", "IW": "week", "HH": "hour", "HH24": "hour", "MI": "minute",
}  # fmt: skip


def truncated_dates(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TRUNC of a date alone goes back to the beginning of its day."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "TRUNC" and [is_timed(one, kinds) for one in call.expressions] == [
            True
        ]:
            made = exp.DateTrunc(this=call.expressions[0], unit=exp.Literal.string("DD"))  # type: ignore[no-untyped-call]
            call.replace(made)
    return tree


def units_of_dates(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TRUNC of a date goes back to the beginning of a unit that has a name of its own."""
    for call in list(tree.find_all(exp.DateTrunc)):
        go_back(call, call.args.get("unit"), notes)
    return tree


def go_back(call: exp.Expr, said: exp.Expr | None, notes: list[str]) -> None:
    """Makes a call give the beginning of the unit that is said, of the date that it is of."""
    unit = UNITS_OF_DATES.get(said.name.upper()) if said is not None else None
    if unit is None:
        notes.append("TRUNC to this unit has no counterpart.")
    else:
        call.replace(cast_to(called("DATE_TRUNC", unit, call.this), "TIMESTAMP"))


def whole_casts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A number that becomes a whole one is rounded, a half away from zero."""
    for cast in tree.find_all(exp.Cast):
        value = cast.this.unnest()
        is_whole = isinstance(value, exp.Literal) and (value.is_string or value.is_int)
        if (
            cast.to.is_type(*exp.DataType.INTEGER_TYPES)
            and not is_whole
            and not is_text(value, kinds)
        ):
            cast.set("this", called("ROUND", cast.this))
    return tree


def aggregates_of_aggregates(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """MAX(COUNT(*)) with GROUP BY takes the outer one of what the inner one gives for each group."""
    grouped = (one for one in tree.find_all(exp.Select) if one.args.get("group") is not None)
    for select in list(grouped):
        inner = [
            one for one in select.find_all(exp.AggFunc)
            if one.find_ancestor(exp.Select) is select and _outer_aggregate(one, select) is not None
        ]  # fmt: skip
        if not inner:
            continue
        plain = [one for item in select.selects for one in item.find_all(exp.Column, exp.AggFunc)]
        if select.args.get("order") is not None or any(
            not _is_inside(one, inner, select) for one in plain
        ):
            notes.append("An aggregate of aggregates stands beside nothing else.")
            continue
        by_group = exp.Select()
        for part in ("from_", "joins", "laterals", "where", "group", "having"):
            by_group.set(part, select.args.get(part))
            select.set(part, None)
        for at, one in enumerate(inner):
            by_group.append("expressions", exp.alias_(one.copy(), f"jentrow_{at}"))
            one.replace(exp.column(f"jentrow_{at}"))
        select.set("from_", exp.From(this=by_group.subquery("jentrow_groups")))
    return tree


def _outer_aggregate(node: exp.Expr, select: exp.Select) -> exp.Expr | None:
    above = node.parent
    while above is not None and above is not select:
        if isinstance(above, exp.AggFunc) and not isinstance(above.parent, exp.Window):
            return above
        above = above.parent
    return None


def _is_inside(node: exp.Expr, inner: list[exp.AggFunc], select: exp.Select) -> bool:
    """Whether a node is one of the inner aggregates, stands in one, or has one inside it."""
    if any(one is node for one in inner):
        return True
    outer = _outer_aggregate(node, select)
    if outer is not None and any(one is outer for one in inner):
        return True
    return any(one is within for one in inner for within in node.find_all(exp.AggFunc))


def numbers_without_size(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """NUMBER has as many places as its value: the stand-in's DECIMAL would cut some off."""
    for cast in tree.find_all(exp.Cast):
        if cast.to.is_type(exp.DataType.Type.DECIMAL) and not cast.to.expressions:
            cast.set("to", exp.DataType.build("DECIMAL(38, 10)", dialect="duckdb"))
    return tree


def parts_from_zero(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """SUBSTR takes 0 for the first place."""
    for part in tree.find_all(exp.Substring):
        start = part.args.get("start")
        if isinstance(start, exp.Literal) and start.name == "0":
            start.replace(exp.Literal.number(1))
    return tree


def joined_by_concat(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """CONCAT is the sign ||."""
    for call in list(tree.find_all(exp.Concat)):
        first, *others = call.expressions
        for other in others:
            first = exp.DPipe(this=first, expression=other)
        call.replace(exp.paren(first))
    return tree


def days_counted_on(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A number beside a date or a moment counts days, with their fraction."""
    for sum in list(tree.find_all(exp.Add, exp.Sub))[::-1]:
        moment, days = sum.this, sum.expression
        if isinstance(sum, exp.Add) and is_number(moment, kinds) and _is_timed(days, kinds):
            moment, days = days, moment
            sum.set("this", moment)
            sum.set("expression", days)
        if not _is_timed(moment, kinds) or not is_number(days, kinds):
            continue
        is_whole = isinstance(days.unnest(), exp.Literal) and days.unnest().is_int
        if not (is_whole and is_date(moment, kinds)):
            count_days_on(sum)
    return tree


def moments_taken_away(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Two dates are a number of days apart, with its fraction; two timestamps an interval."""
    for minus in list(tree.find_all(exp.Sub)):
        sides = (minus.this, minus.expression)
        if any(map(_is_timestamp, sides)) or not all(_is_timed(one, kinds) for one in sides):
            continue
        if any(isinstance(one.unnest(), exp.Column) and is_moment(one, kinds) for one in sides):
            notes.append(
                "A moment less another is a number of days where both are DATE, and else an interval."
            )
        if any(_is_moment(one, kinds) for one in sides):
            seconds = [called("EPOCH", cast_to(one.copy(), "TIMESTAMP")) for one in sides]
            apart = exp.paren(exp.Sub(this=seconds[0], expression=seconds[1]))
            minus.replace(exp.paren(exp.Div(this=apart, expression=exp.Literal.number("86400.0"))))
    return tree


def _is_timed(node: exp.Expr, kinds: ColumnKinds) -> bool:
    return is_date(node, kinds) or _is_moment(node, kinds)


def _is_moment(node: exp.Expr, kinds: ColumnKinds) -> bool:
    """Whether an expression surely gives a date, and on the stand-in one with its time of day."""
    match node.unnest():
        case exp.DateTrunc() | exp.AddMonths():
            return True
        case exp.Add() | exp.Sub() as sum if isinstance(sum.expression.unnest(), exp.Interval):
            return True
    return is_moment(node, kinds)


def _is_timestamp(node: exp.Expr) -> bool:
    """Whether an expression gives a timestamp, which is an interval apart from another moment."""
    match node.unnest():
        case exp.CurrentTimestamp() as now:
            return not now.args.get("sysdate")
        case exp.Cast() as cast:
            return bool(cast.to.is_type("TIMESTAMP", "TIMESTAMPTZ"))
    return False


_LIKE_A_DATE: Final = re.compile(
    r"(?:\d{4}[-/.]\d{1,2}[-/.]\d{1,2}|\d{1,2}[-/.](?:\d{1,2}|[a-z]{3})[-/.]\d{2,4})(?:[ T].*)?",
    re.IGNORECASE,
)


def dates_as_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A text beside a date is read by the session's format, which is hardly ever that of the standard."""
    for literal in tree.find_all(exp.Literal):
        beside = literal.parent
        if not literal.is_string or not isinstance(beside, exp.Predicate):
            continue
        sides = (beside.this, beside.args.get("expression"))
        if _LIKE_A_DATE.fullmatch(literal.name) and any(
            _may_be_a_date(side, kinds) for side in sides if isinstance(side, exp.Expr)
        ):
            notes.append(
                "A date is written DATE '2026-01-31': a text is read by the session's format."
            )
    return tree


def _may_be_a_date(node: exp.Expr, kinds: ColumnKinds) -> bool:
    value = node.unnest()
    if isinstance(value, exp.Column):
        return value.name.lower() not in kinds.texts
    cut = isinstance(value, exp.Trunc | exp.DateTrunc | exp.TimestampTrunc)
    return is_timed(value.this if cut else value, kinds)


def parts_of_days(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """EXTRACT takes no hour of a date: ORA-30076."""
    parts = (one for one in tree.find_all(exp.Extract) if one.this.name.upper() in _OF_TIMES)
    if any(is_date(part.expression, kinds) for part in parts):
        notes.append(
            "EXTRACT takes hours, minutes and seconds of a TIMESTAMP alone: CAST(d AS TIMESTAMP)."
        )
    return tree


_OF_TIMES: Final = ("HOUR", "MINUTE", "SECOND")


def constant_keys(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """ORDER BY takes texts and NULL as keys, which sort nothing; the stand-in takes none."""
    for order in list(tree.find_all(exp.Order)):
        if isinstance(order.parent, exp.Query):
            keys = [one for one in order.expressions if not _is_constant(one.this.unnest())]
            if keys:
                order.set("expressions", keys)
            else:
                order.pop()
    return tree


def _is_constant(key: exp.Expr) -> bool:
    return isinstance(key, exp.Null) or (isinstance(key, exp.Literal) and key.is_string)


def of_one_row(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """STDDEV and VARIANCE of one row are 0."""
    for call in repeatable(tree.find_all(exp.Stddev, exp.Variance), notes):
        if isinstance(call.parent, exp.Window):
            notes.append("STDDEV and VARIANCE of one row are 0, and NULL on the stand-in.")
            continue
        alone = exp.EQ(this=exp.Count(this=call.this.copy()), expression=exp.Literal.number(1))
        zero = exp.If(this=alone, true=exp.Literal.number(0))
        call.replace(exp.Case(ifs=[zero], default=call.copy()))
    return tree
