"""Functions that the stand-in lacks, written with those that it has.

Sources: the function references of SQL Server 2022, Oracle Database 19c and Db2 11.5.
"""

from __future__ import annotations

from typing import Final

import sqlglot
from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import called, cast_to, repeatable
from jentrow.core.sql.stand_ins.oracle.functions import UNITS_OF_DATES
from jentrow.core.sql.stand_ins.timed_values import is_timed


def formula(text: str, **values: exp.Expr) -> exp.Expr:
    """A formula in the words of the stand-in, with values in the places of the columns so named."""

    def put(node: exp.Expr) -> exp.Expr:
        value = values.get(node.name) if isinstance(node, exp.Column) else None
        if value is None:
            return node
        is_whole = isinstance(value, exp.Column | exp.Literal | exp.Func | exp.Paren)
        return value.copy() if is_whole else exp.paren(value)

    return sqlglot.parse_one(text, dialect="duckdb").transform(put)


def rounds_that_cut(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """ROUND with a third value that is not 0 cuts off (T-SQL)."""
    for call in list(tree.find_all(exp.Round)):
        cut = call.args.get("truncate")
        if isinstance(cut, exp.Literal):
            call.set("truncate", None)
            if cut.name != "0":
                call.replace(called("TRUNC", call.this, call.args["decimals"]))
        elif cut is not None:
            notes.append("ROUND that cuts off or not, as a value says, is not kept.")
    return tree


def times_of_parts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TIMEFROMPARTS of whole seconds."""
    for call in list(tree.find_all(exp.TimeFromParts)):
        below = call.args.get("fractions")
        if isinstance(below, exp.Literal) and below.name == "0":
            parts = (call.args[name] for name in ("hour", "min", "sec"))
            call.replace(called("MAKE_TIME", *parts))
        else:
            notes.append("TIMEFROMPARTS with parts of a second is not kept.")
    return tree


def numbers_of_weeks(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Weeks begin on Sunday, the first one on the first of January; after days of the week are counted."""
    parts = (one for one in tree.find_all(exp.Extract) if one.this.name.upper() in _WEEKS)
    for call in repeatable([*parts, *tree.find_all(exp.Week)], notes):
        moment = call.expression if isinstance(call, exp.Extract) else call.this
        call.replace(exp.paren(formula(_WEEK, moment=moment)))
    return tree


_WEEKS: Final = frozenset({"WEEK", "WK", "WW"})
_WEEK: Final = "(DAYOFYEAR(moment) - DAYOFWEEK(moment) + 12) // 7"
"""The Sundays of the year up to a moment, and one more but where the year begins with one."""


def weeks_between(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """DATEDIFF counts the Sundays between two moments as weeks (T-SQL)."""
    found = [one for one in tree.find_all(exp.DateDiff) if _counts_weeks(one)]
    for call in repeatable(found, notes):
        later, earlier = (formula(_SUNDAYS, moment=one) for one in (call.this, call.expression))
        call.replace(exp.paren(exp.Sub(this=exp.paren(later), expression=exp.paren(earlier))))
    return tree


_SUNDAYS: Final = "DATE_DIFF('day', CAST('0001-01-07' AS DATE), CAST(moment AS DATE)) // 7"
"""How many there were since the first."""


def _counts_weeks(call: exp.DateDiff) -> bool:
    unit = call.args.get("unit")
    return unit is not None and unit.name.upper() == "WEEK"


def tables_of_values(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """STRING_SPLIT gives the parts of a text as rows, and GENERATE_SERIES numbers, as ``value``."""
    given = (one for one in tree.find_all(exp.Table, exp.Lateral) if _gives_rows(one.this))
    for table in repeatable(given, notes):
        rows = exp.Select(expressions=_rows_of(table.this))
        if isinstance(table, exp.Lateral):
            table.set("this", exp.Subquery(this=rows))
            continue
        made = rows.subquery("jentrow_values")
        if table.args.get("alias") is not None:
            made.set("alias", table.args["alias"])
        table.replace(made)
    return tree


def _gives_rows(call: exp.Expr) -> bool:
    if isinstance(call, exp.Anonymous):
        return call.name.upper() == "STRING_SPLIT" and len(call.expressions) in (2, 3)
    return isinstance(call, exp.GenerateSeries)


def _rows_of(call: exp.Expr) -> list[exp.Expr]:
    """What is selected for the rows of a call that gives some."""
    if isinstance(call, exp.GenerateSeries):
        start, end = call.args["start"], call.args["end"]
        down = formula("CASE WHEN a > z THEN -1 ELSE 1 END", a=start, z=end)
        step = call.args.get("step") or down
        return [formula("UNNEST(GENERATE_SERIES(a, z, n)) AS value", a=start, z=end, n=step)]
    text, separator, *numbered = call.expressions
    parts = formula("STRING_SPLIT(x, y)", x=text, y=separator)
    rows = [formula("UNNEST(x) AS value", x=parts)]
    if numbered and numbered[0].name == "1":
        rows.append(formula("GENERATE_SUBSCRIPTS(x, 1) AS ordinal", x=parts))
    return rows


def nth_places(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A search from a place on, or for the n-th place of a part: see ``jentrow_place``."""
    for search in list(tree.find_all(exp.StrPosition)):
        start, nth = search.args.get("position"), search.args.get("occurrence")
        if start is not None or nth is not None:
            values = (search.this, search.args["substr"], start or 1, nth or 1)
            search.replace(called("JENTROW_PLACE", *values))
    return tree


_ROUNDED: Final = {
    "year": "DATE_TRUNC('year', x + INTERVAL 6 MONTH)",
    "month": "DATE_TRUNC('month', x) + "
    "CASE WHEN EXTRACT(DAY FROM x) >= 16 THEN INTERVAL 1 MONTH ELSE INTERVAL 0 MONTH END",
    "day": "DATE_TRUNC('day', x + INTERVAL 12 HOUR)",
}
"""A date rounded: up from 1 July, from the 16th, from noon."""


def rounded_dates(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """ROUND of a date goes to the nearer beginning of a unit (Oracle)."""
    dates = (one for one in tree.find_all(exp.Round) if _rounds_a_date(one, kinds))
    for call in repeatable(dates, notes):
        said = call.args.get("decimals")
        unit = "day" if said is None else UNITS_OF_DATES.get(said.name.upper(), "")
        if unit in _ROUNDED:
            call.replace(cast_to(formula(_ROUNDED[unit], x=call.this), "TIMESTAMP"))
        else:
            notes.append("ROUND of a date to this unit is not kept.")
    return tree


def buckets(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """WIDTH_BUCKET is the number of the part of a range that a value falls into."""
    for call in repeatable(tree.find_all(exp.WidthBucket), notes):
        call.replace(
            formula(
                "CASE WHEN x < a THEN 0 WHEN x >= z THEN n + 1 "
                "ELSE CAST(FLOOR(FDIV((x - a) * n, z - a)) AS BIGINT) + 1 END",
                x=call.this,
                a=call.args["min_value"],
                z=call.args["max_value"],
                n=call.args["num_buckets"],
            )
        )
    return tree


def common_bits(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """BITAND is an operator on the stand-in."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() == "BITAND" and len(call.expressions) == 2:
            one, other = call.expressions
            call.replace(exp.paren(formula("x & y", x=one, y=other)))
    return tree


def remainders(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """MOD by zero is the number itself (Oracle)."""
    for call in repeatable(tree.find_all(exp.Mod), notes):
        made = formula("CASE WHEN y = 0 THEN x ELSE x % y END", x=call.this, y=call.expression)
        call.replace(made)
    return tree


def within_domains(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Roots and logarithms of numbers that have none are errors, and no numbers on the stand-in."""
    for call in tree.find_all(exp.Sqrt, exp.Ln, exp.Log):
        check = "jentrow_not_below_0" if isinstance(call, exp.Sqrt) else "jentrow_above_0"
        for side in ("this", "expression"):
            if call.args.get(side) is not None:
                call.set(side, called(check, call.args[side]))
    return tree


_WITH_FRACTION: Final = "%Y-%m-%d %H:%M:%S.%f"


def written_moments(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TIMESTAMP '…' may be without parts of a second, which its form would want.

    SYSTIMESTAMP is the time now with its zone, as CURRENT_TIMESTAMP is.
    """
    for now in list(tree.find_all(exp.Systimestamp)):
        now.replace(exp.CurrentTimestamp())
    for moment in list(tree.find_all(exp.StrToTime)):
        if moment.args["format"].name == _WITH_FRACTION and isinstance(moment.this, exp.Literal):
            moment.replace(exp.cast(moment.this, "TIMESTAMP"))
    return tree


def _rounds_a_date(call: exp.Round, kinds: ColumnKinds) -> bool:
    said = call.args.get("decimals")
    if said is None:
        return is_timed(call.this, kinds)
    return isinstance(said, exp.Literal) and said.is_string


_STRIPPED: Final = {
    "B": "TRIM", "BOTH": "TRIM", "L": "LTRIM", "LEADING": "LTRIM", "T": "RTRIM", "TRAILING": "RTRIM",
}  # fmt: skip

_WHOLE_UNITS_BETWEEN: Final = {
    f"{unit.upper()}S_BETWEEN": unit for unit in ("year", "week", "day", "hour", "minute", "second")
}


def largest_of_several(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """MAX and MIN of several values are GREATEST and LEAST (Db2)."""
    for call in [one for one in tree.find_all(exp.Max, exp.Min) if one.expressions][::-1]:
        of_all = exp.Greatest if isinstance(call, exp.Max) else exp.Least
        # As the parser has them: NULL is minded by a step of its own.
        made = of_all(this=call.this, expressions=call.expressions, ignore_nulls=True)
        call.replace(made)
    return tree


def db2_functions(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """STRIP, MIDNIGHT_SECONDS, and what counts whole units between two moments."""
    for call in list(tree.find_all(exp.Anonymous)):
        name, values = call.name.upper(), call.expressions
        if name == "STRIP" and 1 <= len(values) <= 3:
            where = values[1].name.upper() if len(values) > 1 else "BOTH"
            if where in _STRIPPED:
                call.replace(called(_STRIPPED[where], values[0], *(values[2:] or [" "])))
        elif name in _WHOLE_UNITS_BETWEEN and len(values) == 2:
            call.replace(called("DATE_SUB", _WHOLE_UNITS_BETWEEN[name], values[1], values[0]))
        elif name == "MIDNIGHT_SECONDS" and len(values) == 1:
            midnight = cast_to(exp.Literal.string("00:00:00"), "TIME")
            call.replace(called("DATE_DIFF", "second", midnight, cast_to(values[0], "TIME")))
    return tree
