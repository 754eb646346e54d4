"""Which numbers of a query are whole, and what follows from it in T-SQL and Db2.

There a division of whole numbers, their average and their power are whole numbers again, cut off
(SQL Server 2022 and Db2 11.5, *Division*, *AVG*, *POWER*); on the stand-in all of these have their
fraction. Where the types are known they are written here; where they are not, functions of the
stand-in's look when it runs, and their result is a float: of a division of that nobody can tell.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_in_functions import called, cast_to, repeatable

_COUNTING: Final = (
    exp.Count, exp.Length, exp.StrPosition, exp.DateDiff, exp.Extract, exp.Year, exp.Month, exp.Day,
    exp.DayOfWeek, exp.DayOfYear, exp.Quarter, exp.RowNumber, exp.Rank, exp.DenseRank, exp.Ntile,
    exp.Unicode, exp.Ascii, exp.DayOfMonth, exp.Hour, exp.Minute, exp.Second,
)  # fmt: skip
_COUNTING_NAMES: Final = frozenset(
    [
        "COUNT_BIG",
        "DATEDIFF_BIG",
        "ROW_NUMBER",
        "RANK",
        "DENSE_RANK",
        "NTILE",
        "ROWNUMBER",
        "DENSERANK",
        "CHARINDEX",
        "STRPOS",
        "ASCII",
    ]
)
_LIKE_ITS_FIRST: Final = (
    exp.Sum, exp.Min, exp.Max, exp.Avg, exp.Abs, exp.Sign, exp.Neg, exp.Paren, exp.Round, exp.Floor, exp.Ceil,
    exp.Nullif, exp.Lag, exp.Lead, exp.FirstValue, exp.LastValue, exp.NthValue, exp.Pow, exp.Window,
    exp.IgnoreNulls, exp.RespectNulls, exp.WithinGroup,
)  # fmt: skip
_OF_BOTH: Final = (exp.Add, exp.Sub, exp.Mul, exp.Div, exp.Mod)
_FRACTIONS: Final = (
    exp.Sqrt, exp.Exp, exp.Ln, exp.Log, exp.Stddev, exp.StddevPop, exp.StddevSamp, exp.Variance,
    exp.VariancePop, exp.Rand, exp.CumeDist, exp.PercentRank,
)  # fmt: skip


def is_whole(node: exp.Expr | None, kinds: ColumnKinds) -> bool | None:
    """Whether a number is surely a whole one, or surely of a type with a fraction; None: unknown."""
    match node:
        case exp.Literal():
            return None if node.is_string else node.is_int
        case exp.Column():
            name = node.name.lower()
            return True if name in kinds.wholes else False if name in kinds.decimals else None
        case exp.Cast():
            if node.to.is_type(*exp.DataType.INTEGER_TYPES):
                return True
            return False if node.to.is_type(*exp.DataType.REAL_TYPES, "DECIMAL") else None
        case exp.Distinct():
            return _together(is_whole(one, kinds) for one in node.expressions)
        case exp.Case():
            branches = [one.args["true"] for one in node.args["ifs"]]
            return _together(_each([*branches, node.args.get("default")], kinds))
        case exp.If():
            return _together(_each([node.args["true"], node.args.get("false")], kinds))
        case exp.Coalesce() if node.args.get("is_null"):  # ISNULL has the type of its first value
            return is_whole(node.this, kinds)
        case exp.Coalesce() | exp.Greatest() | exp.Least():
            return _together(_each([node.this, *node.expressions], kinds))
        case exp.Subquery():
            selects = node.this.selects if isinstance(node.this, exp.Select) else []
            return is_whole(selects[0].unalias(), kinds) if len(selects) == 1 else None
        case exp.Anonymous():
            return True if node.name.upper() in _COUNTING_NAMES else None
    if isinstance(node, _OF_BOTH):
        return _together((is_whole(node.this, kinds), is_whole(node.expression, kinds)))
    if isinstance(node, _LIKE_ITS_FIRST):
        return is_whole(node.this, kinds)
    return True if isinstance(node, _COUNTING) else False if isinstance(node, _FRACTIONS) else None


NAMED_INSIDE_EACH_OTHER: Final = 4
"""So many times names of values are looked at that are made of others so named."""


def numbers_in(given: Sequence[tuple[str, exp.Expr]], kinds: ColumnKinds) -> ColumnKinds:
    """The same kinds with the names that a query gives to numbers, each with its value."""
    values: dict[str, list[exp.Expr]] = {}
    for name, value in given:
        if not isinstance(value, exp.Null):
            values.setdefault(name, []).append(value)
    for _ in range(NAMED_INSIDE_EACH_OTHER):
        told = {name: _told(name, of, kinds) for name, of in values.items()}
        wholes = kinds.wholes | {name for name, whole in told.items() if whole}
        decimals = kinds.decimals | {name for name, whole in told.items() if whole is False}
        if (wholes, decimals) == (kinds.wholes, kinds.decimals):
            break
        kinds = replace(kinds, wholes=wholes, decimals=decimals)
    return kinds


def _told(name: str, values: Sequence[exp.Expr], kinds: ColumnKinds) -> bool | None:
    """Whether all values of a name are whole, or all have a fraction.

    One that counts on from the name itself is what the others are, if it would be so then.
    """
    counting_on = [one for one in values if _mentions(one, name)]
    found = {is_whole(one, kinds) for one in values if one not in counting_on}
    if found == {True} and counting_on:
        kinds = replace(kinds, wholes=kinds.wholes | {name})
        found |= {is_whole(one, kinds) for one in counting_on}
    return found.pop() if len(found) == 1 else None


def _mentions(value: exp.Expr, name: str) -> bool:
    return any(column.name.lower() == name for column in value.find_all(exp.Column))


def _each(values: Iterable[exp.Expr | None], kinds: ColumnKinds) -> list[bool | None]:
    """Of values that stand for one; NULL stands for any."""
    given = [one for one in values if one is not None and not isinstance(one, exp.Null)]
    return [is_whole(one, kinds) for one in given]


def _together(sides: Iterable[bool | None]) -> bool | None:
    """Of numbers that are taken together: one with a fraction gives all of them theirs."""
    found = list(sides)
    if False in found:
        return False
    return None if None in found or not found else True


def _whole(value: exp.Expr) -> exp.Expr:
    return cast_to(called("TRUNC", value), "BIGINT")


_NOT_KNOWN: Final = "Whether a division, or an average, is one of whole numbers is not known here."
_LOOKING: Final = frozenset(
    {"JENTROW_DIV", "JENTROW_AVG", "JENTROW_AVG_OF_EACH", "JENTROW_AVG_OVER"}
)


def _looked_at(name: str, values: list[exp.Expr], notes: list[str]) -> exp.Expr:
    """A call of what looks at types when it runs: not at those of what did so itself."""
    inside = (one for value in values for one in value.find_all(exp.Anonymous))
    if any(one.name.upper() in _LOOKING for one in inside):
        notes.append(_NOT_KNOWN)
    return called(name, *values)


def whole_numbers(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Divisions, averages, powers and roundings of whole numbers; a division by zero is an error."""
    told = {id(one): is_whole(one, kinds) for one in tree.walk()}
    over = [one.parent for one in tree.find_all(exp.Avg) if isinstance(one.parent, exp.Window)]
    if over and not repeatable(over, notes):
        return tree
    for node in list(tree.walk())[::-1]:
        whole = told[id(node)]
        match node:
            case exp.Div():
                node.replace(_quotient(node, whole, notes))
            case exp.Window() if isinstance(node.this, exp.Avg):
                node.replace(_average_over(node, whole, notes))
            case exp.Avg() if not isinstance(node.parent, exp.Window):
                node.replace(_average(node, whole, notes))
            case exp.Pow() if whole:
                node.replace(_whole(node.copy()))
            case exp.Floor() | exp.Ceil() if whole:
                node.replace(exp.paren(node.this.copy()))
            case exp.Coalesce() if whole and node.args.get("is_null"):
                _of_the_first_type(node)
    return tree


def _of_the_first_type(call: exp.Coalesce) -> None:
    """ISNULL of a whole number cuts off what stands in for it."""
    for other in list(call.expressions):
        if isinstance(other, exp.Literal) and not (other.is_string or other.is_int):
            other.replace(_whole(other.copy()))


def _quotient(division: exp.Div, whole: bool | None, notes: list[str]) -> exp.Expr:
    if whole is None:
        return _looked_at("JENTROW_DIV", [division.this, division.expression], notes)
    checked = called("JENTROW_NONZERO", division.expression.copy())
    if whole:
        return exp.paren(exp.IntDiv(this=division.this.copy(), expression=checked))
    return exp.paren(exp.Div(this=division.this.copy(), expression=checked))


def _average(average: exp.Avg, whole: bool | None, notes: list[str]) -> exp.Expr:
    if whole is None:
        of = average.this
        is_each = isinstance(of, exp.Distinct)
        name = "JENTROW_AVG_OF_EACH" if is_each else "JENTROW_AVG"
        return _looked_at(name, [of.expressions[0] if is_each else of], notes)
    return _whole(average.copy()) if whole else average.copy()


def _average_over(window: exp.Window, whole: bool | None, notes: list[str]) -> exp.Expr:
    if whole is None:
        value = window.this.this
        if isinstance(value, exp.Distinct):
            notes.append(_NOT_KNOWN)
            return window.copy()
        return _looked_at("JENTROW_AVG_OVER", [value.copy(), window.copy()], notes)
    return _whole(window.copy()) if whole else window.copy()
