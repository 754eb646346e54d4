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
from jentrow.core.sql.stand_ins.functions import called, cast_to, put_around, repeatable

_COUNTING: Final = (
    exp.Count, exp.Length, exp.StrPosition, exp.DateDiff, exp.Extract, exp.Year, exp.Month, exp.Day,
    exp.DayOfWeek, exp.DayOfYear, exp.Quarter, exp.RowNumber, exp.Rank, exp.DenseRank, exp.Ntile,
    exp.Unicode, exp.Ascii, exp.DayOfMonth, exp.Hour, exp.Minute, exp.Second,
)  # fmt: skip
_COUNTING_NAMES: Final = {
    "COUNT_BIG", "DATEDIFF_BIG", "ROW_NUMBER", "RANK", "DENSE_RANK", "NTILE", "ROWNUMBER", "DENSERANK",
    "CHARINDEX", "STRPOS", "ASCII",
}  # fmt: skip
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


Known = dict[int, bool | None]
"""What is known of nodes already, by their ``id``: a long sum is not looked through again and again."""


def is_whole(node: exp.Expr | None, kinds: ColumnKinds, known: Known | None = None) -> bool | None:
    """Whether a number is surely a whole one, or surely of a type with a fraction; None: unknown."""
    known = {} if known is None else known
    if node is None:
        return None
    if id(node) not in known:
        known[id(node)] = _is_whole(node, kinds, known)
    return known[id(node)]


def _is_whole(node: exp.Expr, kinds: ColumnKinds, known: Known) -> bool | None:
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
        case exp.Subquery():
            selects = node.this.selects if isinstance(node.this, exp.Select) else []
            return is_whole(selects[0].unalias(), kinds, known) if len(selects) == 1 else None
        case exp.Anonymous():
            return True if node.name.upper() in _COUNTING_NAMES else None
    if isinstance(node, _LIKE_ITS_FIRST) or _is_of_its_first_type(node):
        return is_whole(node.this, kinds, known)
    if values := _standing_for(node):
        return _together(is_whole(one, kinds, known) for one in values)
    return True if isinstance(node, _COUNTING) else False if isinstance(node, _FRACTIONS) else None


def _is_of_its_first_type(node: exp.Expr) -> bool:
    """Whether it is ISNULL, which has the type of its first value."""
    return isinstance(node, exp.Coalesce) and bool(node.args.get("is_null"))


def _standing_for(node: exp.Expr) -> list[exp.Expr]:
    """The values that a number is made or chosen from; NULL stands for any."""
    match node:
        case exp.Distinct():
            values = node.expressions
        case exp.Case():
            values = [*(one.args["true"] for one in node.args["ifs"]), node.args.get("default")]
        case exp.If():
            values = [node.args["true"], node.args.get("false")]
        case exp.Coalesce() | exp.Greatest() | exp.Least():
            values = [node.this, *node.expressions]
        case _ if isinstance(node, _OF_BOTH):
            values = [node.this, node.expression]
        case _:
            values = []
    return [one for one in values if one is not None and not isinstance(one, exp.Null)]


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
    alone: list[exp.Expr] = []
    counting_on: list[exp.Expr] = []
    for one in values:
        (counting_on if _mentions(one, name) else alone).append(one)
    found = {is_whole(one, kinds) for one in alone}
    if found == {True} and counting_on:
        kinds = replace(kinds, wholes=kinds.wholes | {name})
        found |= {is_whole(one, kinds) for one in counting_on}
    return found.pop() if len(found) == 1 else None


def _mentions(value: exp.Expr, name: str) -> bool:
    return any(column.name.lower() == name for column in value.find_all(exp.Column))


def _together(sides: Iterable[bool | None]) -> bool | None:
    """Of numbers that are taken together: one with a fraction gives all of them theirs."""
    found = list(sides)
    if False in found:
        return False
    return None if None in found else True


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
    nodes, known = list(tree.walk())[::-1], Known()
    for node in nodes:  # the innermost first, and all before anything is changed
        is_whole(node, kinds, known)
    over = [one.parent for one in tree.find_all(exp.Avg) if isinstance(one.parent, exp.Window)]
    if over and not repeatable(over, notes):
        return tree
    for node in nodes:
        whole = known[id(node)]
        match node:
            case exp.Div():
                node.replace(_quotient(node, whole, notes))
            case exp.Window() if isinstance(node.this, exp.Avg):
                _average_over(node, whole, notes)
            case exp.Avg() if not isinstance(node.parent, exp.Window):
                _average(node, whole, notes)
            case exp.Pow() if whole:
                _make_whole(node)
            case exp.Floor() | exp.Ceil() if whole:
                node.replace(exp.paren(node.this, copy=False))
            case exp.Coalesce() if whole and _is_of_its_first_type(node):
                _of_the_first_type(node)
    return tree


def _make_whole(node: exp.Expr) -> None:
    """Puts a cut off value into a node's place."""
    put_around(node, lambda value: cast_to(called("TRUNC", value), "BIGINT"))


def _of_the_first_type(call: exp.Coalesce) -> None:
    """ISNULL of a whole number cuts off what stands in for it."""
    for other in list(call.expressions):
        if isinstance(other, exp.Literal) and not (other.is_string or other.is_int):
            _make_whole(other)


def _quotient(division: exp.Div, whole: bool | None, notes: list[str]) -> exp.Expr:
    if whole is None:
        return _looked_at("JENTROW_DIV", [division.this, division.expression], notes)
    divided, checked = division.this, called("JENTROW_NONZERO", division.expression)
    if whole:
        return exp.Paren(this=exp.IntDiv(this=divided, expression=checked))
    return exp.Paren(this=exp.Div(this=divided, expression=checked))


def _average(average: exp.Avg, whole: bool | None, notes: list[str]) -> None:
    if whole:
        _make_whole(average)
    elif whole is None:
        of = average.this
        is_each = isinstance(of, exp.Distinct)
        name = "JENTROW_AVG_OF_EACH" if is_each else "JENTROW_AVG"
        average.replace(_looked_at(name, [of.expressions[0] if is_each else of], notes))


def _average_over(window: exp.Window, whole: bool | None, notes: list[str]) -> None:
    value = window.this.this
    if whole:
        _make_whole(window)
    elif whole is None and isinstance(value, exp.Distinct):
        notes.append(_NOT_KNOWN)
    elif whole is None:
        window.replace(_looked_at("JENTROW_AVG_OVER", [value.copy(), window.copy()], notes))
