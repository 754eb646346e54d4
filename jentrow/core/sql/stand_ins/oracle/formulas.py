"""Functions and clauses of Oracle that the stand-in lacks, written with what it has.

Source: the SQL language reference 19c.
"""

from __future__ import annotations

from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.formulas import formula
from jentrow.core.sql.stand_ins.functions import cast_to, repeatable

_COMPARISONS: Final = (exp.EQ, exp.NEQ, exp.LT, exp.LTE, exp.GT, exp.GTE)


def compared_with_lists(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A comparison with ANY, SOME or ALL of some values is one with each of them."""
    found = (one for one in tree.find_all(*_COMPARISONS) if _listed(one.expression) is not None)
    for comparison in repeatable(found, notes):
        how, values = _listed(comparison.expression) or ("", [])
        each = [type(comparison)(this=comparison.this.copy(), expression=one) for one in values]
        joined = exp.and_(*each) if how == "ALL" else exp.or_(*each)
        comparison.replace(exp.paren(joined))
    return tree


def _listed(side: exp.Expr) -> tuple[str, list[exp.Expr]] | None:
    """ANY or ALL, and the values that stand behind it; None where it is a query, or neither."""
    if isinstance(side, exp.Any) and isinstance(side.this, exp.Tuple | exp.Paren):
        inner = side.this
        values = inner.expressions if isinstance(inner, exp.Tuple) else [inner.this]
        how = "ANY"
    elif isinstance(side, exp.Anonymous) and side.name.upper() in ("ANY", "SOME", "ALL"):
        how, values = side.name.upper(), side.expressions
    else:
        return None
    return None if any(isinstance(one, exp.Query) for one in values) else (how, values)


_SECONDS: Final = {"DAY": 86_400, "HOUR": 3_600, "MINUTE": 60, "SECOND": 1}
_MONTHS: Final = {"YEAR": 12, "MONTH": 1}


def durations(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """NUMTODSINTERVAL and NUMTOYMINTERVAL make durations of numbers."""
    for call in list(tree.find_all(exp.Anonymous))[::-1]:
        name, values = call.name.upper(), call.expressions
        if name not in ("NUMTODSINTERVAL", "NUMTOYMINTERVAL") or len(values) != 2:
            continue
        is_days = name == "NUMTODSINTERVAL"
        each = (_SECONDS if is_days else _MONTHS).get(values[1].name.upper())
        if each is not None:
            made = (
                "TO_SECONDS(CAST(x AS DOUBLE) * n)"
                if is_days
                else "TO_MONTHS(CAST(x * n AS INTEGER))"
            )
            call.replace(formula(made, x=values[0], n=exp.Literal.number(each)))
    return tree


def plain_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TO_CLOB gives the text itself; LENGTHB counts bytes."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "TO_CLOB" and len(call.expressions) == 1:
            call.replace(cast_to(call.expressions[0], "VARCHAR"))
        elif call.name.upper() == "LENGTHB":
            call.set("this", "STRLEN")
    return tree


def names_of_columns(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """UNPIVOT gives the names of columns as texts, in capitals as they are kept."""
    for pivot in tree.find_all(exp.Pivot):
        for field in pivot.args.get("fields") or () if pivot.args.get("unpivot") else ():
            for column in list(field.expressions):
                if isinstance(column, exp.Column) and not column.this.args.get("quoted"):
                    name = exp.Literal.string(column.name.upper())
                    column.replace(exp.PivotAlias(this=column.copy(), alias=name))
    return tree


_CENTURY: Final = {
    # The year is of this century.
    "YY": "CASE WHEN YEAR(d) < 2000 THEN CAST(d + INTERVAL 100 YEAR AS t) ELSE d END",
    # 50 to 99 are of the last one.
    "RR": "CASE WHEN YEAR(d) > 2049 THEN CAST(d - INTERVAL 100 YEAR AS t) ELSE d END",
}
"""What is made of a date that the stand-in read with a year of two digits, where 69 is 1969."""


def years_of_two_digits(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TO_DATE by YY and RR: of which century a year is."""
    found = (one for one in tree.find_all(exp.StrToDate, exp.StrToTime) if _century(one))
    for call in repeatable(found, notes):
        century = _century(call)
        format = call.args["format"]
        format.replace(exp.Literal.string(format.name.replace("RR", "%y")))
        type = "DATE" if isinstance(call, exp.StrToDate) else "TIMESTAMP"
        made = formula(_CENTURY[century].replace(" AS t)", f" AS {type})"), d=call)
        call.replace(made)
    return tree


def _century(call: exp.Expr) -> str:
    format = call.args.get("format")
    said = format.name if isinstance(format, exp.Literal) else ""
    return "YY" if "%y" in said else "RR" if "RR" in said and "RRRR" not in said else ""
