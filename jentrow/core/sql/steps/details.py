"""What a step of a trace tells beyond its rows: parts of a condition, branches of a CASE, partners.

Each is told by further columns beside the rows, or by counting queries of its own, so that the rows
of the step itself stay what they are.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Final, Literal, TypeAlias

from sqlglot import exp

MOST_PARTS: Final = 6
"""Further columns of a step: more would hide its rows."""

PART: Final = "jentrow_part_"
_PARTNER: Final = "jentrow_partner"

Partners: TypeAlias = Literal["lonely_before", "lonely_joined"]
"""Rows without a partner: of what stood before a join, and of the table that is joined."""

_OUTER: Final = ("RIGHT", "FULL")


@dataclass(frozen=True, slots=True)
class Told:
    """What a further column tells of each row.

    ``truth``: whether the part ``text`` of a condition is true (1), false (0) or unknown (NULL).
    ``branch``: which of ``branches`` of the CASE ``text`` was taken, counted from 1; 0 for none of
    them, which is its ELSE where there is one (``otherwise``), else NULL.
    """

    what: Literal["truth", "branch"]
    text: str
    branches: tuple[str, ...] = ()
    otherwise: bool = False


def parts_of(condition: exp.Expr) -> list[exp.Expr]:
    """The parts that AND and OR join, where there are several; in the order of the text."""
    parts = list(_leaves(condition))
    return parts if 1 < len(parts) <= MOST_PARTS else []


def _leaves(node: exp.Expr) -> Iterator[exp.Expr]:
    inside = node
    while isinstance(inside, exp.Paren | exp.Not) and isinstance(
        inside.this, exp.Paren | exp.Not | exp.And | exp.Or
    ):
        inside = inside.this
    if isinstance(inside, exp.And | exp.Or):
        yield from _leaves(inside.this)
        yield from _leaves(inside.expression)
    else:
        yield node


def cases_of(select: exp.Select) -> list[exp.Case]:
    """The CASE expressions that a select list evaluates once for each of its rows."""
    return [
        case
        for item in select.expressions
        for case in item.find_all(exp.Case)
        if case.find_ancestor(exp.Select) is select
        and case.find_ancestor(exp.AggFunc, exp.Case, exp.Select) in (None, select)
    ][:MOST_PARTS]


def branch_taken(case: exp.Case) -> exp.Expr:
    """An expression for the number of the branch that a CASE takes: 0 where no WHEN holds."""
    counted = exp.Case(this=case.this.copy() if case.this is not None else None)
    for number, when in enumerate(case.args["ifs"], 1):
        counted.append("ifs", exp.If(this=when.this.copy(), true=exp.Literal.number(number)))
    counted.set("default", exp.Literal.number(0))
    return counted


def named_parts(parts: Sequence[exp.Expr]) -> list[exp.Expr]:
    """Expressions as columns, under names that no table has."""
    return [exp.alias_(part, f"{PART}{at}") for at, part in enumerate(parts, 1)]


def partner_counts(
    before: exp.Select, join: exp.Join, earlier: Sequence[exp.Join]
) -> dict[Partners, exp.Select]:
    """Queries that count the rows without a partner on each side of a join.

    ``before`` selects from what stands before it, ``earlier`` are the joins in there. Nothing where
    the join has no condition, or none that can stand elsewhere.
    """
    first = before.args["from_"].this
    condition = _condition(join, first, earlier)
    if condition is None or not _is_plain(join.this):
        return {}
    counts: dict[Partners, exp.Select] = {}
    counts["lonely_before"] = _lonely(before, "LEFT", _marked(join.this), condition, join.this)
    if _is_plain(first) and not any(one.side in _OUTER for one in earlier):
        # Only what every earlier row has can tell by its absence that none met.
        marked = before.copy()
        marked.set("from_", exp.From(this=_marked(first)))
        counts["lonely_joined"] = _lonely(marked, "RIGHT", join.this.copy(), condition, first)
    return counts


def _condition(join: exp.Join, first: exp.Expr, earlier: Sequence[exp.Join]) -> exp.Expr | None:
    if join.args.get("on") is not None and join.kind not in ("SEMI", "ANTI"):
        on: exp.Expr = join.args["on"]
        return None if on.find(exp.Subquery, exp.Exists, exp.Select) else on.copy()
    using = join.args.get("using")
    if not using or earlier or not first.alias_or_name:
        return None
    sides = (first.alias_or_name, join.this.alias_or_name)
    return exp.and_(
        *(
            exp.EQ(this=exp.column(key.name, sides[0]), expression=exp.column(key.name, sides[1]))
            for key in using
        )
    )


def _is_plain(source: exp.Expr) -> bool:
    """Whether a source is a table under a name, or a query under one."""
    if isinstance(source, exp.Table):
        return isinstance(source.this, exp.Identifier) and not source.args.get("joins")
    return isinstance(source, exp.Subquery) and bool(source.alias)


def _marked(source: exp.Expr) -> exp.Subquery:
    """A source under its own name, with a further column that is never NULL."""
    inside = source.copy()
    name = source.args.get("alias")
    inside.set("alias", None)
    if isinstance(inside, exp.Subquery):
        inside.set("alias", exp.TableAlias(this=exp.to_identifier(f"{_PARTNER}_of")))
    marker = exp.alias_(exp.Literal.number(1), _PARTNER)
    query = exp.Select(expressions=[exp.Star(), marker]).from_(inside)
    alias = name.copy() if name is not None else exp.TableAlias(this=source.this.copy())
    return exp.Subquery(this=query, alias=alias)


def _lonely(
    before: exp.Select, side: str, joined: exp.Expr, condition: exp.Expr, marked: exp.Expr
) -> exp.Select:
    query = before.copy()
    query.set("expressions", [exp.Count(this=exp.Star())])
    query.append("joins", exp.Join(this=joined, side=side, on=condition.copy()))
    absent = exp.Is(this=exp.column(_PARTNER, marked.alias_or_name), expression=exp.Null())
    query.set("where", exp.Where(this=absent))
    return query
