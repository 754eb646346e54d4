"""Blanks at the end of texts, where a dialect minds them otherwise than the stand-in does.

T-SQL and Db2 compare texts as if the shorter one were filled with blanks, and Oracle does so with
texts of CHAR; a column of CHAR (n) is filled with them in its rows. The stand-in fills nothing, and
compares letter by letter. (SQL-92, 8.2; Oracle Database 19c, *Data Type Comparison Rules*.)
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.functions import Step

_COMPARISONS: Final = (
    exp.EQ, exp.NEQ, exp.LT, exp.LTE, exp.GT, exp.GTE, exp.In, exp.Between, exp.NullSafeEQ, exp.NullSafeNEQ,
)  # fmt: skip
_FILLED: Final = (
    "{name} is a CHAR column that is filled with blanks, and more than comparing is done with it: "
    "the stand-in fills nothing."
)
_OF_TWO_KINDS: Final = (
    "{name} is a CHAR column that is filled with blanks, and is compared with what is none."
)
_ENDS: Final = "{name} has texts that end in blanks, which count on the stand-in alone."


def blank_ends(dialect: str) -> Step:
    """Texts beside a comparison lose their blanks; what else minds blanks is noted."""
    minds_no_blanks = dialect != "oracle"
    of_nothing = "" if minds_no_blanks else " "  # in Oracle empty text would be NULL

    def step(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
        filled = _with_other_names(tree, kinds.filled)
        ended = _with_other_names(tree, kinds.blank_ended) if minds_no_blanks else frozenset()
        for comparison in tree.find_all(*_COMPARISONS):
            compared = list(_compared(comparison))
            columns = [_column_in(one) for one in compared]
            of_char = [one for one in columns if one is not None and one.name.lower() in filled]
            if minds_no_blanks or of_char:
                for one in compared:
                    if isinstance(one, exp.Literal) and one.is_string:
                        one.set("this", one.name.rstrip(" ") or of_nothing)
            if of_char and not minds_no_blanks:
                others = (
                    one
                    for one in compared
                    if not isinstance(one, exp.Literal) and _name_in(one) not in filled
                )
                if any(others):
                    notes.append(_OF_TWO_KINDS.format(name=of_char[0].name))
        for column in tree.find_all(exp.Column):
            name = column.name.lower()
            if name in filled and not _is_only_compared(column, dialect):
                notes.append(_FILLED.format(name=column.name))
            if name in ended and not _is_only_shown(column):
                notes.append(_ENDS.format(name=column.name))
        if ended and _compares_without_naming(tree, ended):
            notes.append(_ENDS.format(name=min(ended)))
        return tree

    return step


def _with_other_names(tree: exp.Expr, filled: frozenset[str]) -> frozenset[str]:
    """The names of such columns, with those that a query gives them."""
    known = filled
    for _ in range(len(filled) and 3):  # a name of a name of a name
        known |= {
            one.alias.lower() for one in tree.find_all(exp.Alias) if _name_in(one.this) in known
        }
    return known


_SAME_BLANKS: Final = (exp.Paren, exp.Upper, exp.Lower, exp.Min, exp.Max, exp.Coalesce)


def _keeps_blanks(node: exp.Expr | None) -> bool:
    """Whether this gives a text with the blanks that it was given."""
    if isinstance(node, exp.Cast):
        return node.to.is_type(*exp.DataType.TEXT_TYPES) and not node.to.expressions
    return isinstance(node, _SAME_BLANKS)


def _column_in(node: exp.Expr) -> exp.Column | None:
    """The column whose text this is, blanks and all."""
    while _keeps_blanks(node):
        node = node.this
    return node if isinstance(node, exp.Column) else None


def _name_in(node: exp.Expr) -> str:
    column = _column_in(node)
    return column.name.lower() if column is not None else ""


def _compared(comparison: exp.Expr) -> Iterator[exp.Expr]:
    """What is compared with each other."""
    yield comparison.this
    match comparison:
        case exp.In():
            yield from comparison.expressions
        case exp.Between():
            yield from (comparison.args["low"], comparison.args["high"])
        case _:
            yield comparison.expression


_HOLDERS: Final = (
    *_COMPARISONS, exp.Alias, exp.Select, exp.Ordered, exp.Group, exp.Is, exp.Count, exp.Distinct, exp.Tuple,
    exp.Window, exp.Rollup, exp.Cube, exp.GroupingSets,
)  # fmt: skip
"""Where the blanks that a column is filled with come to nothing, or stay where they are."""


def _is_only_compared(column: exp.Column, dialect: str) -> bool:
    """Whether nothing is made of a column's text that depends on the blanks at its end."""
    node: exp.Expr = column
    while node.parent is not None and _keeps_blanks(node.parent):
        node = node.parent
    holder = node.parent
    if isinstance(holder, exp.Length):
        return dialect == "tsql"
    if isinstance(holder, exp.Case | exp.If):
        return node.arg_key == "this"
    return _drops_blanks(holder) or isinstance(holder, _HOLDERS)


def _drops_blanks(holder: exp.Expr | None) -> bool:
    """Whether blanks at the end of a text come to nothing in this, on every engine."""
    if isinstance(holder, exp.Trim):
        return str(holder.args.get("position") or "").upper() != "LEADING"
    if isinstance(holder, exp.Like):
        pattern = holder.expression
        return (
            isinstance(pattern, exp.Literal)
            and pattern.name.endswith("%")
            and "_" not in pattern.name
        )
    return False


def _is_only_shown(column: exp.Column) -> bool:
    """Whether a column's text is shown as it is, or without its blanks."""
    node: exp.Expr = column
    while isinstance(node.parent, exp.Alias | exp.Paren):
        node = node.parent
    holder = node.parent
    if _drops_blanks(holder) or isinstance(
        holder, exp.Is | exp.Length | exp.DPipe | exp.Concat | exp.Add | exp.Count
    ):
        return True
    return isinstance(holder, exp.Select) and not _compares_rows(holder)


def _compares_rows(select: exp.Select) -> bool:
    """Whether rows that are the same are one, or are compared with something outside."""
    if select.args.get("distinct"):
        return True
    node: exp.Expr = select
    while isinstance(node.parent, exp.SetOperation | exp.Subquery):
        node = node.parent
        if isinstance(node, exp.Union) and not node.args.get("distinct"):
            continue
        if isinstance(node, exp.SetOperation):
            return True
    return not (node.parent is None or isinstance(node.parent, _TABLES | exp.Exists))


_TABLES: Final = exp.From | exp.Join | exp.CTE | exp.Lateral


def _compares_without_naming(tree: exp.Expr, names: frozenset[str]) -> bool:
    """Whether columns may be compared that are not written as such: by a star, NATURAL or USING."""
    stars = (
        select
        for select in tree.find_all(exp.Select)
        if any(item.is_star for item in select.selects)
    )
    if any(map(_compares_rows, stars)):
        return True
    return any(
        join.args.get("method") == "NATURAL"
        or any(one.name.lower() in names for one in join.args.get("using") or ())
        for join in tree.find_all(exp.Join)
    )
