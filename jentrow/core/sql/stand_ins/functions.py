"""Functions of dialects whose engines cannot run here, as the stand-in has them.

Each step changes a tree in place of what a translation gets wrong, or notes what it cannot keep.
Sources: the function references of SQL Server 2022, Oracle Database 19c and Db2 11.5, as in
:mod:`jentrow.core.sql.stand_ins.refusals.forms`.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import Final, TypeVar

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds

T = TypeVar("T", bound=exp.Expr)
Step = Callable[[exp.Expr, ColumnKinds, list[str]], exp.Expr]


def called(name: str, *values: exp.Expr | str | int) -> exp.Expr:
    """A call of a function of the stand-in's."""
    given = [
        one if isinstance(one, exp.Expr)
        else exp.Literal.number(one) if isinstance(one, int) else exp.Literal.string(one)
        for one in values
    ]  # fmt: skip
    return exp.Anonymous(this=name, expressions=given)


def put_around(value: exp.Expr, made: Callable[[exp.Expr], exp.Expr]) -> None:
    """Puts what is made of a value, which stands in a tree, into the value's own place."""
    place = exp.Placeholder()
    value.replace(made(place))
    place.replace(value)


def cast_to(value: exp.Expr, type: str) -> exp.Expr:
    """A cast to a type of the stand-in's."""
    return exp.Cast(this=value, to=exp.DataType.build(type, dialect="duckdb"))


FAILS: Final = "jentrow: "
"""What stands before the words of a failure of our own, in the text that cannot be converted."""


def failing(words: str, type: str = "TINYINT") -> exp.Expr:
    """A value of a type that fails with these words where it is worked out.

    It is a text that is no number: of what calls the stand-in's own ERROR no window can be parted,
    as that is taken to be another value each time.
    """
    failed = cast_to(exp.Literal.string(FAILS + words), "TINYINT")
    return failed if type == "TINYINT" else cast_to(failed, type)


MOST_INSIDE: Final = 4
"""So many calls may stand inside each other where each is written twice: with each the text doubles."""


def repeatable(calls: Iterable[T], notes: list[str]) -> list[T]:
    """Calls that can be written twice, those inside others first; none where they stand too deep."""
    found = list(calls)
    known = {id(one) for one in found}
    for one in found:
        inside, above = 1, one.parent
        while above is not None and inside <= MOST_INSIDE:
            inside += id(above) in known
            above = above.parent
        if inside > MOST_INSIDE:
            notes.append("Calls stand too deep inside each other.")
            return []
    return found[::-1]


_RENAMED: Final = {
    "VAR": "VAR_SAMP", "VARP": "VAR_POP", "STDEVP": "STDDEV_POP", "POSSTR": "STRPOS",
    "VALUE": "COALESCE", "ABSVAL": "ABS", "NCHAR": "CHR", "WEEK_ISO": "WEEKOFYEAR",
    "ROWNUMBER": "ROW_NUMBER", "DENSERANK": "DENSE_RANK", "CORRELATION": "CORR",
    "COVARIANCE": "COVAR_POP", "COVARIANCE_SAMP": "COVAR_SAMP",
    "OCTET_LENGTH": "STRLEN",
}  # fmt: skip


def renamed(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Functions that the stand-in has under another name."""
    for call in list(tree.find_all(exp.Anonymous)):
        name = _RENAMED.get(call.name.upper())
        if name:
            call.set("this", name)
    return tree


def numbers_of_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TO_NUMBER without a format reads a number as it is written in SQL."""
    for call in list(tree.find_all(exp.ToNumber)):
        if call.args.get("format") is None:
            call.replace(cast_to(call.this, "DOUBLE"))
    return tree


def weekdays_from_one(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Days of the week are counted from 1, for Sunday."""
    for part in list(tree.find_all(exp.Extract))[::-1]:
        if part.this.name.upper() in ("DAYOFWEEK", "DOW"):
            part.replace(exp.paren(exp.Add(this=part.copy(), expression=exp.Literal.number(1))))
    for day in list(tree.find_all(exp.DayOfWeek))[::-1]:
        day.replace(exp.paren(exp.Add(this=day.copy(), expression=exp.Literal.number(1))))
    return tree


def null_of_all(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """GREATEST and LEAST are NULL where one of their values is."""
    for call in repeatable(tree.find_all(exp.Greatest, exp.Least), notes):
        values = [call.this, *call.expressions]
        unknown = exp.or_(*(exp.Is(this=one.copy(), expression=exp.Null()) for one in values))
        call.replace(exp.Case(ifs=[exp.If(this=unknown, true=exp.Null())], default=call.copy()))
    return tree


_FORMATS: Final = {
    "YYYY": "%Y", "YY": "%y", "MM": "%m", "DD": "%d", "DDD": "%j", "HH24": "%H", "MI": "%M", "SS": "%S",
}  # fmt: skip
_FORMAT_PIECE: Final = re.compile(r'YYYY|YY|MM|DDD|DD|HH24|MI|SS|[-/.,;: ]|"[^"]*"', re.IGNORECASE)


_CODE: Final = re.compile(r"%[YymdHMSj]")
_SIGNS: Final = "-/.,;: "
_NO_FORMAT: Final = "This format of a date has no counterpart."


def as_strftime(format: str) -> str | None:
    """A format of dates as the stand-in has it; None where a piece of it has no counterpart."""
    made, at = "", 0
    while at < len(format):
        piece = _FORMAT_PIECE.match(format, at)
        if piece is None:
            return None
        made += _FORMATS.get(piece[0].upper(), piece[0].strip('"'))
        at = piece.end()
    return made


def formatted_dates(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """TO_CHAR of a date, by a format of numbers and signs; names of months and days are not kept."""
    # The parser has read some formats already, letter by letter where it knows no word.
    read = (call.args["format"].name for call in tree.find_all(exp.TimeToStr))
    if any(_CODE.sub("", format).strip(_SIGNS) for format in read):
        notes.append(_NO_FORMAT)
    for call in list(tree.find_all(exp.ToChar)):
        made = _formatted(call.this, call.args.get("format"))
        if made is not None:
            call.replace(made)
    for other in list(tree.find_all(exp.Anonymous)):
        if other.name.upper() == "VARCHAR_FORMAT" and len(other.expressions) == 2:
            made = _formatted(*other.expressions)
            if made is not None:
                other.replace(made)
            else:
                notes.append(_NO_FORMAT)
    return tree


def read_dates(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A text becomes a moment by a format of numbers and signs."""
    for call in list(tree.find_all(exp.Anonymous)):
        if call.name.upper() in _READ_BY_FORMAT and len(call.expressions) == 2:
            text, said = call.expressions
            format = as_strftime(said.name) if isinstance(said, exp.Literal) else None
            if format is None:
                notes.append(_NO_FORMAT)
            else:
                call.replace(called("STRPTIME", text, format))
    return tree


_READ_BY_FORMAT: Final = frozenset({"TO_DATE", "TO_TIMESTAMP", "TIMESTAMP_FORMAT"})


def _formatted(value: exp.Expr, said: exp.Expr | None) -> exp.Expr | None:
    format = as_strftime(said.name) if isinstance(said, exp.Literal) else None
    if format is None or "%" not in format:
        return None
    return called("STRFTIME", cast_to(value, "TIMESTAMP"), format)


def _length(to: exp.DataType) -> str:
    """The length of a type of texts; empty where it has none, or pads with blanks up to it."""
    if not to.is_type(exp.DataType.Type.VARCHAR, exp.DataType.Type.NVARCHAR) or not to.expressions:
        return ""
    length = to.expressions[0].name
    return length if length.isdigit() else ""


def _cut(value: exp.Expr, length: str) -> exp.Expr:
    return exp.Left(this=value, expression=exp.Literal.number(length))


def cut_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """VARCHAR(n) cuts a text off, and what CONVERT makes of a date by a style."""
    for call in list(tree.find_all(exp.Convert)):
        length = _length(call.this) if call.args.get("style") is not None else ""
        if length:
            whole = call.copy()
            whole.set("this", exp.DataType.build("VARCHAR", dialect="tsql"))
            call.replace(_cut(whole, length))
    for cast in list(tree.find_all(exp.Cast)):
        if _length(cast.to) and is_text(cast.this, kinds):
            cast.replace(_cut(cast_to(cast.this, "VARCHAR"), _length(cast.to)))
    return tree


_TEXT_FUNCTIONS: Final = (
    exp.Upper, exp.Lower, exp.Trim, exp.Substring, exp.Concat, exp.DPipe, exp.Left, exp.Right,
    exp.Replace,
)  # fmt: skip


def is_text(node: exp.Expr | None, kinds: ColumnKinds) -> bool:
    """Whether a value is surely a text."""
    node = node.unnest() if node is not None else None
    match node:
        case exp.Literal():
            return node.is_string
        case exp.National():
            return True
        case exp.Column():
            return node.name.lower() in kinds.texts
        case exp.Add():
            return is_text(node.this, kinds) or is_text(node.expression, kinds)
        case exp.Cast():
            return node.to.is_type(*exp.DataType.TEXT_TYPES)
        case exp.Coalesce() | exp.Nullif():
            return is_text(node.this, kinds)
        case _:
            return isinstance(node, _TEXT_FUNCTIONS)


NOT_THERE: Final = "Not implemented"
"""What the stand-in says of what it would do otherwise."""

DOES_NOT_FIT: Final = "The text does not fit"
"""What the stand-in says of a value that is longer as a text than its type holds."""

NO_SUCH_VALUE: Final = "There is no such root or logarithm"
"""What it says of a root or a logarithm of a number that has none."""

TEXT_OF: Final = "jentrow_text"
"""The function of the stand-in's that makes a text of what may be none."""

UNKNOWN_TEXT: Final = "The text is not known"
"""What it says of a value of which nobody can tell here what it is as a text."""


def fitting_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """What is no text becomes one of a length, where it fits; where it does not, nobody can tell."""
    for cast in repeatable((one for one in tree.find_all(exp.Cast) if _length(one.to)), notes):
        length = _length(cast.to)
        value = cast.this.unnest()
        if isinstance(value, exp.Anonymous) and value.name == TEXT_OF:
            value = value.expressions[0]
        is_unknown = isinstance(value.unnest(), exp.Column) and not kinds.texts
        if not length or is_unknown:
            continue
        made = cast_to(cast.this, "VARCHAR")
        too_long = exp.GT(this=called("LENGTH", made.copy()), expression=exp.Literal.number(length))
        problem = exp.If(this=too_long, true=failing(DOES_NOT_FIT, "VARCHAR"))
        cast.replace(exp.Case(ifs=[problem], default=made))
    return tree


def wide_types(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """FLOAT has the places of a DOUBLE, and VARCHAR(MAX) no length."""
    for to in list(tree.find_all(exp.DataType)):
        if to.is_type(exp.DataType.Type.FLOAT):
            to.replace(exp.DataType.build("DOUBLE", dialect="duckdb"))
        elif to.expressions and to.expressions[0].name.upper() == "MAX":
            to.set("expressions", [])
    return tree


_WHOLE: Final = exp.DataType.INTEGER_TYPES


def whole_casts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A number that becomes a whole one is cut off, and not rounded."""
    for call in list(tree.find_all(exp.Convert)):
        if call.args.get("style") is None:
            kind = exp.TryCast if call.args.get("safe") else exp.Cast
            call.replace(kind(this=call.expression, to=call.this))
    for cast in tree.find_all(exp.Cast):
        value = cast.this.unnest()
        is_whole = isinstance(value, exp.Literal) and (value.is_string or value.is_int)
        is_whole = is_whole or is_truth(value, kinds)
        if cast.to.is_type(exp.DataType.Type.BIT):
            notes.append("BIT is another type on the stand-in.")
        elif cast.to.is_type(*_WHOLE) and not is_whole and not is_text(value, kinds):
            cast.set("this", called("TRUNC", cast.this))
    return tree


def is_truth(node: exp.Expr, kinds: ColumnKinds) -> bool:
    """Whether a value is surely true, false, or unknown."""
    match node.unnest():
        case exp.Column() as column:
            return column.name.lower() in kinds.truths
        case exp.Cast() as cast:
            return bool(cast.to.is_type("BOOLEAN", "BIT"))
        case exp.Boolean() | exp.Predicate() | exp.Connector() | exp.Not():
            return True
    return False


def recursions(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """An expression that calls itself needs no word for it; on the stand-in it does."""
    for clause in tree.find_all(exp.With):
        for one in clause.expressions:
            if any(
                table.name.lower() == one.alias.lower() for table in one.this.find_all(exp.Table)
            ):
                clause.set("recursive", True)
    return tree


def row_addresses(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """The stand-in numbers its rows under a name that other engines give another meaning, or none."""
    if any(column.name.lower() == "rowid" for column in tree.find_all(exp.Column)):
        notes.append("ROWID is another one on the stand-in.")
    return tree


def lists_without_separator(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """LISTAGG of values alone, or with NULL between them, puts nothing between them."""
    for call in tree.find_all(exp.GroupConcat):
        if isinstance(call.args.get("separator"), exp.Null | None):
            call.set("separator", exp.Literal.string(""))
    for other in tree.find_all(exp.Anonymous):
        if other.name.upper() == "LISTAGG" and other.expressions:
            value, *said = other.expressions
            if not said or isinstance(said[0], exp.Null):
                other.set("expressions", [value, exp.Literal.string("")])
    return tree


def distinct_lists(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """LISTAGG of DISTINCT values is kept where it is of texts, sorted by themselves."""
    for group in list(tree.find_all(exp.WithinGroup)):
        call, order = group.this, group.expression
        first = (
            call.expressions[0] if isinstance(call, exp.Anonymous) and call.expressions else None
        )
        if isinstance(first, exp.Distinct) and call.name.upper() == "LISTAGG":
            value, *separator = first.expressions  # the parser takes both for the list's
            sorted_ = exp.Order(
                this=exp.Distinct(expressions=[value]), expressions=order.expressions
            )
            said = separator[0] if separator else exp.Literal.string("")
            group.replace(exp.GroupConcat(this=sorted_, separator=said))
    lists = (one for one in tree.find_all(exp.Anonymous, exp.GroupConcat) if one.find(exp.Distinct))
    if not all(_is_sorted_by_itself(one, kinds) for one in lists):
        notes.append("A list of DISTINCT values is not kept.")
    return tree


def _is_sorted_by_itself(call: exp.Expr, kinds: ColumnKinds) -> bool:
    order = call.this
    if not isinstance(order, exp.Order) or not isinstance(order.this, exp.Distinct):
        return False
    (value,) = order.this.expressions
    return is_text(value, kinds) and [one.this for one in order.expressions] == [value]


def applied(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """APPLY joins without a condition; the stand-in wants one."""
    for join in tree.find_all(exp.Join):
        lateral = join.this
        if isinstance(lateral, exp.Lateral) and lateral.args.get("cross_apply") is not None:
            join.set("side", None if lateral.args["cross_apply"] else "LEFT")
            join.set("on", exp.true())
            lateral.set("cross_apply", None)
    return tree


def ratios(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """RATIO_TO_REPORT is a value's share of the sum over its window; NULL where that is 0."""
    for window in repeatable(filter(_is_ratio, tree.find_all(exp.Window)), notes):
        (value,) = window.this.expressions
        total = window.copy()
        total.set("this", exp.Sum(this=value.copy()))
        whole = exp.Nullif(this=total, expression=exp.Literal.number(0))
        window.replace(exp.paren(exp.Div(this=cast_to(value.copy(), "DOUBLE"), expression=whole)))
    return tree


def _is_ratio(window: exp.Window) -> bool:
    call = window.this
    return (
        isinstance(call, exp.Anonymous)
        and call.name.upper() == "RATIO_TO_REPORT"
        and len(call.expressions) == 1
    )
