"""What T-SQL counts and names of dates: the units of DATEADD, DATEDIFF, DATEPART and DATENAME.

Source: the reference of Transact-SQL, DATEPART, DATENAME, DATEADD and DATEDIFF.
"""

from __future__ import annotations

import re
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import cast_to

_UNITS: Final = {
    **dict.fromkeys(("YY", "YYYY"), "YEAR"), **dict.fromkeys(("QQ", "Q"), "QUARTER"),
    **dict.fromkeys(("MM", "M"), "MONTH"), **dict.fromkeys(("DD", "D"), "DAY"),
    **dict.fromkeys(("DY", "Y"), "DAYOFYEAR"), **dict.fromkeys(("DW", "W"), "WEEKDAY"),
    **dict.fromkeys(("WK", "WW"), "WEEK"), "HH": "HOUR", **dict.fromkeys(("MI", "N"), "MINUTE"),
    **dict.fromkeys(("SS", "S"), "SECOND"), "MS": "MILLISECOND", "MCS": "MICROSECOND",
}  # fmt: skip
"""The other names of units."""

_ARE_DAYS: Final = frozenset({"DAYOFYEAR", "WEEKDAY"})
"""What is counted on as days are: a day of a year, or of a week, is a day like any."""

_WITHIN_SECONDS: Final = {"MILLISECOND": 1_000, "MICROSECOND": 1_000_000}
"""How many there are of what the stand-in counts from the minute's beginning."""

_UNIT: Final = re.compile(r"\s*\(\s*\[?(\w+)")


def _unit(name: str) -> str:
    return _UNITS.get(name.upper(), name.upper())


def named_parts(tree: exp.Expr, sql: str, notes: list[str]) -> None:
    """DATENAME gives a part of a moment as a text; the name of the month and of the day of the week.

    The parser takes it for a format, which the names of units are none of: ``sql`` tells the unit.
    """
    for call in list(tree.find_all(exp.TimeToStr)):
        start, end = call.meta.get("start", 0), call.meta.get("end", -1)
        found = _UNIT.match(sql, end + 1)
        if sql[start : end + 1].upper() != "DATENAME" or found is None:
            continue
        unit = _unit(found[1])
        if unit in ("MONTH", "WEEKDAY"):
            call.set("format", exp.Literal.string("%B" if unit == "MONTH" else "%A"))
        else:
            part = exp.Extract(this=exp.Var(this=unit), expression=call.this)
            call.replace(cast_to(part, "VARCHAR"))


def counted_units(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """DATEADD and DATEDIFF count by units that have several names each."""
    for call in tree.find_all(exp.DateAdd, exp.DateDiff):
        if call.args.get("unit") is not None:
            unit = _unit(call.args["unit"].name)
            call.set("unit", exp.Var(this="DAY" if unit in _ARE_DAYS else unit))
    return tree


def parts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """DATEPART reads a text as a moment, and counts from the second's beginning what is below it."""
    for part in list(tree.find_all(exp.Extract)):
        if isinstance(part.expression, exp.Literal) and part.expression.is_string:
            part.set("expression", cast_to(part.expression, "TIMESTAMP"))
        whole = _WITHIN_SECONDS.get(part.this.name.upper())
        if whole is not None:
            rest = exp.Mod(this=part.copy(), expression=exp.Literal.number(whole))
            part.replace(exp.paren(rest))
    return tree
