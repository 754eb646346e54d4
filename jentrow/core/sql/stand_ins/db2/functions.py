"""What Db2's functions mean, on the stand-in; sources as in :mod:`jentrow.core.sql.stand_ins.refusals.forms`."""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.db2.words import CAST_PREFIX
from jentrow.core.sql.stand_ins.functions import NOT_THERE, called, cast_to, failing, repeatable
from jentrow.core.sql.stand_ins.oracle.functions import go_back
from jentrow.core.sql.stand_ins.timed_values import is_number, is_timed
from jentrow.core.sql.stand_ins.tsql.functions import UNKNOWN_POWER
from jentrow.core.sql.stand_ins.whole_numbers import is_whole


def of_whole_populations(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """In Db2, STDDEV and VARIANCE are those of the whole population."""
    for call in list(tree.find_all(exp.Stddev, exp.Variance)):
        call.replace(
            (exp.StddevPop if isinstance(call, exp.Stddev) else exp.VariancePop)(this=call.this)
        )
    for other in tree.find_all(exp.Anonymous):
        if other.name.upper() == "VAR":
            other.set("this", "VAR_POP")
    return tree


def casts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Functions that are called like types."""
    for call in list(tree.find_all(exp.Anonymous)):
        if not call.name.lower().startswith(CAST_PREFIX):
            continue
        name = call.name[len(CAST_PREFIX) :].upper()
        value, *size = call.expressions or [exp.Null()]
        sizes = ", ".join(one.name for one in size)
        if name in ("INTEGER", "INT", "BIGINT", "SMALLINT") and not size:
            whole = called("TRUNC", cast_to(value, "DOUBLE"))
            call.replace(cast_to(whole, "BIGINT" if name == "BIGINT" else "INTEGER"))
        elif name in ("DOUBLE", "FLOAT", "REAL") and not size:
            call.replace(cast_to(value, "DOUBLE"))
        elif name in ("DECIMAL", "DEC", "NUMERIC") and (
            not size or sizes.replace(", ", "").isdigit()
        ):
            # What does not fit is cut off, and not rounded; without sizes there are no places.
            places = int(size[1].name) if len(size) > 1 else 0
            cut = called("TRUNC", cast_to(value, "DECIMAL(38, 10)"), places)
            call.replace(cast_to(cut, f"DECIMAL({sizes or '31, 0'})"))
        elif name == "TIME" and not size:
            call.replace(cast_to(value, "TIME"))
        elif (name == "VARCHAR" and not size) or (
            name == "CHAR" and not size and is_whole(value, kinds) and _loses_blanks(call)
        ):
            call.replace(cast_to(value, "VARCHAR"))
        else:
            notes.append(f"{name}(…) has no counterpart that is sure.")
            call.replace(cast_to(value, "VARCHAR"))
    return tree


def _loses_blanks(text: exp.Expr) -> bool:
    """Whether the blanks at the end of a text are taken off at once."""
    match text.parent:
        case exp.Trim() as trim:
            return not trim.expression and trim.args.get("position") != "LEADING"
        case exp.Anonymous() as call:
            return bool(call.name.upper() == "STRIP") and len(call.expressions) == 1
    return False


def days(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """DAYS counts from the first of January of the year 1, which is 1."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "DAYS" and len(call.expressions) == 1:
            first = cast_to(exp.Literal.string(_FIRST_DAY), "DATE")
            days = exp.Sub(this=cast_to(call.expressions[0], "DATE"), expression=first)
            call.replace(exp.paren(exp.Add(this=days, expression=exp.Literal.number(1))))
    return tree


_FIRST_DAY: Final = "0001-01-01"
"""The day whose number is 1."""


def dates_of_numbers(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """DATE of a number is the day with that number, as DAYS counts them."""
    for call in list(tree.find_all(exp.Date)):
        if call.this is not None and _counts_days(call.this):
            before = exp.Sub(this=exp.paren(call.this), expression=exp.Literal.number(1))
            first = cast_to(exp.Literal.string(_FIRST_DAY), "DATE")
            made = exp.Add(this=first, expression=cast_to(before, "INTEGER"))
            call.replace(cast_to(exp.paren(made), "DATE"))
    return tree


def _counts_days(value: exp.Expr) -> bool:
    match value.unnest():
        case exp.Literal() as literal:
            return literal.is_int
        case exp.Anonymous() as call:
            return bool(call.name.upper() == "DAYS")
        case exp.Add() | exp.Sub() as sum:
            return _counts_days(sum.this) or _counts_days(sum.expression)
        case exp.Min() | exp.Max() as call:
            return _counts_days(call.this)
    return False


def differences(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A date less a date is no number of days, but years, months and days in one number."""
    found = []
    for minus in tree.find_all(exp.Sub):
        sides = (minus.this.unnest(), minus.expression.unnest())
        if any(isinstance(one, exp.Interval) or is_number(one, kinds) for one in sides):
            continue
        if any(_is_moment(one, kinds) for one in sides):
            notes.append(_NO_DAYS)
        elif not any(isinstance(one, _NO_DATES) for one in sides):
            found.append(minus)
    for minus in repeatable(found, notes):
        of_time = exp.In(
            this=called("TYPEOF", minus.this.copy()),
            expressions=[exp.Literal.string(one) for one in ("DATE", "TIMESTAMP")],
        )
        problem = exp.If(this=of_time, true=failing(f"{NOT_THERE}: dates"))
        minus.replace(exp.Case(ifs=[problem], default=minus.copy()))
    return tree


def _is_moment(value: exp.Expr, kinds: ColumnKinds) -> bool:
    if isinstance(value, exp.Add | exp.Sub):
        return isinstance(value.expression, exp.Interval)
    return isinstance(value, exp.Timestamp) or is_timed(value, kinds)


_NO_DAYS: Final = (
    "A date less a date is no number of days in Db2 SQL, and it is not worked out here."
)
_NO_DATES: Final = (
    exp.Literal, exp.Sum, exp.Avg, exp.Mul, exp.Div, exp.Mod, exp.Neg, exp.Add, exp.Sub, exp.Round,
)  # fmt: skip
"""What is a number wherever it is no moment already."""


def days_without_unit(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """What is added to a date is a duration with its unit, and no number."""
    for sum in tree.find_all(exp.Add, exp.Sub):
        for moment, other in ((sum.this, sum.expression), (sum.expression, sum.this)):
            if is_timed(moment, kinds) and is_number(other, kinds):
                notes.append("Db2 SQL counts days on by + n DAYS.")
    return tree


def powers(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A power of whole numbers is one; every other is a float."""
    for power in list(tree.find_all(exp.Pow))[::-1]:
        sides = (power.this, power.expression)
        whole = [is_whole(one, kinds) for one in sides]
        if False in whole:
            power.set("this", cast_to(power.this, "DOUBLE"))
        elif isinstance(power.expression, exp.Neg) or (
            whole[0] is None and not isinstance(power.expression, exp.Literal)
        ):
            notes.append(UNKNOWN_POWER)
    return tree


def logarithms(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """LOG is the natural logarithm."""
    for call in list(tree.find_all(exp.Log)):
        if call.args.get("expression") is None:
            call.replace(exp.Ln(this=call.this))
    return tree


def decimals(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """DECIMAL has five digits and no places where nothing else is said; what does not fit is cut off."""
    for cast in list(tree.find_all(exp.Cast)):
        if cast.to.is_type("DECIMAL"):
            sizes = [one.name for one in cast.to.expressions] or ["5", "0"]
            places = int(sizes[1]) if len(sizes) > 1 else 0
            cast.set("this", called("TRUNC", cast_to(cast.this, "DECIMAL(38, 10)"), places))
            cast.set("to", exp.DataType.build(f"DECIMAL({', '.join(sizes)})", dialect="duckdb"))
    return tree


def arguments(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TRANSLATE names first what letters become."""
    for call in tree.find_all(exp.Translate):
        become, given = call.args.get("from_"), call.args.get("to")
        call.set("from_", given)
        call.set("to", become)
    return tree


def places_in_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """LOCATE_IN_STRING is INSTR's other name."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "LOCATE_IN_STRING" and 2 <= len(call.expressions) <= 4:
            given = zip(
                ("this", "substr", "position", "occurrence"), call.expressions, strict=False
            )
            call.replace(exp.StrPosition(**dict(given)))
    return tree


def large_counts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """COUNT_BIG counts as COUNT does, which is large here."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "COUNT_BIG" and len(call.expressions) == 1:
            call.replace(exp.Count(this=call.expressions[0]))
    return tree


def beginnings(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TRUNC of a date by a unit goes back to the unit's beginning."""
    for call in list(tree.find_all(exp.Trunc)):
        said = call.args.get("decimals")
        if isinstance(said, exp.Literal) and said.is_string:
            go_back(call, said, notes)
    return tree


def ends_of_months(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """ADD_MONTHS of a month's last day gives a last day (SQL reference, ADD_MONTHS)."""
    for call in tree.find_all(exp.AddMonths):
        call.set("preserve_end_of_month", True)
    return tree
