"""What Db2's functions mean, on the stand-in; sources as in :mod:`jentrow.core.sql.foreign_forms`."""

from __future__ import annotations

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.db2_words import CAST_PREFIX
from jentrow.core.sql.oracle_functions import go_back
from jentrow.core.sql.stand_in_functions import NOT_THERE, called, cast_to, failing
from jentrow.core.sql.timed_values import is_number, is_timed
from jentrow.core.sql.tsql_functions import UNKNOWN_POWER
from jentrow.core.sql.whole_numbers import is_whole


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
        elif name in ("DECIMAL", "DEC", "NUMERIC") and sizes.replace(", ", "").isdigit():
            # What does not fit is cut off, and not rounded.
            places = int(size[1].name) if len(size) > 1 else 0
            cut = called("TRUNC", cast_to(value, "DECIMAL(38, 10)"), places)
            call.replace(cast_to(cut, f"DECIMAL({sizes})"))
        elif name == "TIME" and not size:
            call.replace(cast_to(value, "TIME"))
        elif name == "VARCHAR" and not size:
            call.replace(cast_to(value, "VARCHAR"))
        else:
            notes.append(f"{name}(…) has no counterpart that is sure.")
            call.replace(cast_to(value, "VARCHAR"))
    return tree


def days(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """DAYS counts from the first of January of the year 1, which is 1."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "DAYS" and len(call.expressions) == 1:
            first = cast_to(exp.Literal.string("0001-01-01"), "DATE")
            days = exp.Sub(this=cast_to(call.expressions[0], "DATE"), expression=first)
            call.replace(exp.paren(exp.Add(this=days, expression=exp.Literal.number(1))))
    return tree


def differences(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A date less a date is no number of days, but years, months and days in one number."""
    for minus in list(tree.find_all(exp.Sub)):
        sides = (minus.this.unnest(), minus.expression.unnest())
        if all(isinstance(one, exp.Column | exp.CurrentDate) for one in sides):
            of_time = exp.In(
                this=called("TYPEOF", sides[0].copy()),
                expressions=[exp.Literal.string(one) for one in ("DATE", "TIMESTAMP")],
            )
            problem = exp.If(this=of_time, true=failing(f"{NOT_THERE}: dates"))
            minus.replace(exp.Case(ifs=[problem], default=minus.copy()))
    return tree


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
