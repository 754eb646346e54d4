"""What Db2's functions mean, on the stand-in; sources as in :mod:`jentrow.core.sql.foreign_forms`."""

from __future__ import annotations

from sqlglot import exp

from jentrow.core.sql.db2_words import CAST_PREFIX
from jentrow.core.sql.stand_in_functions import NOT_THERE, Texts, called, cast_to


def of_whole_populations(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """In Db2, STDDEV and VARIANCE are those of the whole population."""
    for call in list(tree.find_all(exp.Stddev, exp.Variance)):
        call.replace(
            (exp.StddevPop if isinstance(call, exp.Stddev) else exp.VariancePop)(this=call.this)
        )
    for other in tree.find_all(exp.Anonymous):
        if other.name.upper() == "VAR":
            other.set("this", "VAR_POP")
    return tree


def casts(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
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
        elif name == "VARCHAR" and not size:
            call.replace(cast_to(value, "VARCHAR"))
        else:
            notes.append(f"{name}(…) has no counterpart that is sure.")
            call.replace(cast_to(value, "VARCHAR"))
    return tree


def days(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """DAYS counts from the first of January of the year 1, which is 1."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "DAYS" and len(call.expressions) == 1:
            first = cast_to(exp.Literal.string("0001-01-01"), "DATE")
            days = exp.Sub(this=cast_to(call.expressions[0], "DATE"), expression=first)
            call.replace(exp.paren(exp.Add(this=days, expression=exp.Literal.number(1))))
    return tree


def differences(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """A date less a date is no number of days, but years, months and days in one number."""
    for minus in list(tree.find_all(exp.Sub)):
        sides = (minus.this.unnest(), minus.expression.unnest())
        if all(isinstance(one, exp.Column | exp.CurrentDate) for one in sides):
            kinds = exp.In(
                this=called("TYPEOF", sides[0].copy()),
                expressions=[exp.Literal.string(one) for one in ("DATE", "TIMESTAMP")],
            )
            problem = exp.If(this=kinds, true=called("ERROR", f"{NOT_THERE}: dates"))
            minus.replace(exp.Case(ifs=[problem], default=minus.copy()))
    return tree


def arguments(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """TRANSLATE names first what letters become, and MAX and MIN take several values."""
    for call in tree.find_all(exp.Translate):
        become, given = call.args.get("from_"), call.args.get("to")
        call.set("from_", given)
        call.set("to", become)
    if any(call.expressions for call in tree.find_all(exp.Max, exp.Min)):
        notes.append("MAX and MIN of several values have no counterpart.")
    return tree


def ends_of_months(tree: exp.Expr, texts: Texts, notes: list[str]) -> exp.Expr:
    """ADD_MONTHS of a month's last day gives a last day (SQL reference, ADD_MONTHS)."""
    for call in tree.find_all(exp.AddMonths):
        call.set("preserve_end_of_month", True)
    return tree
