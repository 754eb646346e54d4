"""Values that an engine picks where a query leaves several possible.

A column beside an aggregate that is neither grouped nor determined by its group, and a subquery
that stands for one value and gives several rows: some engines reject them, others pick a row. Which
it is depends on the rows; so two variants of the author's own text are made, one that asks for the
least of the possible values and one for the greatest. Where they give the same, nothing was left
to the engine.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Final

from sqlglot import exp

from jentrow.core.sql.aggregates import aggregates_in, has_aggregate, is_aggregate
from jentrow.core.sql.freedom.settled_lists import all_settled, holds_aggregate
from jentrow.core.sql.parser_failures import PARSER_FAILURES
from jentrow.core.sql.parsing import parsed
from jentrow.core.sql.skeleton import Skeleton, skeleton_of
from jentrow.core.sql.text import Place, place_at
from jentrow.core.words import listed


@dataclass(frozen=True, slots=True)
class Choice:
    """Something that may be left to the engine: in words, and the two variants that tell.

    The words end with no stop. The variants replace NULL by a value that no text or number is.
    """

    words: str
    place: Place
    near: str
    least: str
    greatest: str


_PICKING: Final = frozenset({"sqlite", "mysql"})
"""The dialects whose engines pick a row where others reject the query."""


@lru_cache(maxsize=256)
def choices_in(sql: str, dialect: str) -> tuple[Choice, ...]:
    """What a query may leave to its engine. Empty where the text cannot be read.

    And where the engine leaves nothing open: it rejects such a query.
    """
    if dialect not in _PICKING:
        return ()
    if "(" not in sql and "group" not in sql.lower():
        return ()  # neither an aggregate nor a subquery: most texts need not be read for that
    skeleton = skeleton_of(sql, dialect)
    subqueries = tuple(_of_subqueries(skeleton))
    if all_settled(skeleton):
        return subqueries
    tree = parsed(sql, dialect)
    if tree is None:
        return ()
    try:
        found = [_of_columns(sql, columns) for columns in _ungrouped(tree)]
    except PARSER_FAILURES:  # it cannot be printed for comparing: nobody can tell
        found = []
    return (*found, *subqueries)


def ungrouped_columns(tree: exp.Expr) -> Iterator[exp.Column]:
    """The columns beside an aggregate, or of a grouped query, that no grouping key is."""
    try:
        found = [column for columns in _ungrouped(tree) for column in columns]
    except PARSER_FAILURES:  # as above
        found = []
    yield from found


def _ungrouped(tree: exp.Expr) -> Iterator[list[exp.Column]]:
    for select in tree.find_all(exp.Select, bfs=False):
        group = select.args.get("group")
        keys = {_printed(key) for key in group.expressions} if group else set()
        if not group and not has_aggregate(select):
            continue
        if _follows_an_extreme(select):
            continue
        shown = [item.unalias() for item in select.selects]
        aliases = {item.alias.casefold() for item in select.selects if item.alias}
        places = {str(at) for at in range(1, len(shown) + 1)} & keys
        names = keys | {_printed(shown[int(at) - 1]) for at in places}
        # A key may be called with or without its table: then the same name is the same column.
        bare = {name.rpartition(".")[2] for name in names}
        free = [
            column
            for item in shown
            if _printed(item) not in names and not (aliases & keys & {_alias_of(item)})
            for column in _bare_columns(item)
            if _printed(column) not in names and column.name.casefold() not in bare
        ]
        if free and all("start" in column.this.meta for column in free):
            yield free


def _printed(node: exp.Expr) -> str:
    """What is the same for two expressions that differ in letter case and blanks alone."""
    # Printing in the parser's own dialect changes no tree, so that none is copied for it.
    return node.sql(copy=False).casefold()


def _alias_of(item: exp.Expr) -> str:
    parent = item.parent
    return parent.alias.casefold() if isinstance(parent, exp.Alias) else ""


def _follows_an_extreme(select: exp.Select) -> bool:
    """Whether a lone MIN or MAX decides from which row the others come, as SQLite promises."""
    found = [one for item in select.selects for one in aggregates_in(item)]
    return len(found) == 1 and isinstance(found[0], exp.Min | exp.Max)


def _bare_columns(node: exp.Expr) -> Iterator[exp.Column]:
    waiting = [node]
    while waiting:
        one = waiting.pop()
        if isinstance(one, exp.Query | exp.Window) or is_aggregate(one):
            continue
        if not isinstance(one, exp.Column):
            waiting += reversed(list(one.iter_expressions()))
        elif not one.is_star:
            yield one


_NULL_STANDS: Final = "COALESCE({}, x'')"


def _of_columns(sql: str, columns: list[exp.Column]) -> Choice:
    spans = sorted({_span(column) for column in columns})
    first_start, first_end = spans[0]
    names = list(dict.fromkeys(column.name for column in columns))
    words = (
        f"{listed(names)} {'are' if len(names) > 1 else 'is'} neither grouped nor the same in the whole group: the "
        "engine picked the value of some row"
    )
    return Choice(
        words,
        place_at(sql, first_start),
        sql[first_start:first_end],
        _wrapped(sql, spans, "MIN"),
        _wrapped(sql, spans, "MAX"),
    )


def _span(column: exp.Column) -> tuple[int, int]:
    table = column.args.get("table")
    start = table.meta.get("start") if table is not None else None
    return column.this.meta["start"] if start is None else start, column.this.meta["end"] + 1


def _wrapped(sql: str, spans: list[tuple[int, int]], function: str) -> str:
    for start, end in reversed(spans):
        value = _NULL_STANDS.format(sql[start:end])
        sql = f"{sql[:start]}{function}({value}){sql[end:]}"
    return sql


_NO_VALUE_AFTER: Final = frozenset(
    {"IN", "EXISTS", "FROM", "JOIN", "AS", "ANY", "ALL", "SOME", "UNION"}
)
_CLAUSE: Final = frozenset({"FROM", "JOIN", "SELECT", "WHERE", "HAVING", "ON", "BY"})


def _of_subqueries(skeleton: Skeleton) -> Iterator[Choice]:
    sql = skeleton.sql
    for at in range(1, len(skeleton.tokens) - 1):
        if skeleton.word(at) == "(" and skeleton.word(at + 1) == "SELECT":
            found = _value_of(skeleton, at)
            if found is not None:
                start, end = found
                yield Choice(
                    "A subquery that stands for one value gives several rows: the engine picked one",
                    place_at(sql, skeleton.tokens[at].start),
                    "(SELECT",
                    f"{sql[:start]} MIN({_NULL_STANDS.format(sql[start:end])}) {sql[end:]}",
                    f"{sql[:start]} MAX({_NULL_STANDS.format(sql[start:end])}) {sql[end:]}",
                )


def _value_of(skeleton: Skeleton, at: int) -> tuple[int, int] | None:
    """Where in the text the value of a subquery stands that is used as one value.

    None for other subqueries, and for those that choose their row themselves.
    """
    before = skeleton.word(at - 1)
    if before in _NO_VALUE_AFTER or (
        before == "," and skeleton.nearest_before(at, _CLAUSE) != "SELECT"
    ):
        return None
    if before == "(" and skeleton.word(at - 2) in _NO_VALUE_AFTER:
        return None
    depth = skeleton.tokens[at].depth + 1
    inside = []
    for place in range(at + 1, len(skeleton.tokens)):
        if skeleton.tokens[place].depth < depth:
            break
        inside.append(place)
    own = {
        skeleton.word(place): place
        for place in reversed(inside)
        if skeleton.tokens[place].depth == depth
    }
    if {"LIMIT", "GROUP", "UNION", "INTERSECT", "EXCEPT", "HAVING"} & set(own) or "FROM" not in own:
        return None
    first = at + 2 if skeleton.word(at + 2) not in ("DISTINCT", "ALL") else at + 3
    last = own["FROM"] - 1
    if last < first or holds_aggregate(skeleton, first, last):
        return None  # an aggregate without groups gives one row
    return skeleton.tokens[first].start, skeleton.tokens[last].end
