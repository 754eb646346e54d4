"""The closed list of constructs that an exercise may ask for or forbid, found in the syntax tree.

A word in a text, a comment or a name is none of them: what the parser did not read as the
construct does not count. Each one is declared once, in :data:`CONSTRUCTS`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from itertools import combinations, pairwise, product
from typing import Final, TypeAlias

from sqlglot import exp
from sqlglot.tokenizer_core import Token, TokenType

from jentrow.core.sql.aggregates import is_aggregate
from jentrow.core.sql.freedom.arbitrary import ungrouped_columns
from jentrow.core.sql.parsing import parsed_statement, parser_tokens
from jentrow.core.sql.scopes import (
    TableColumns,
    cte_named,
    is_recursive,
    joins_of,
    outer_references,
    output_names,
    sources_of,
    subqueries_in,
)
from jentrow.core.sql.text import Place, place_at


@dataclass(frozen=True)
class Reading:
    """A query as the parser read it, for looking for constructs."""

    sql: str
    tree: exp.Expr
    tokens: tuple[Token, ...]
    columns: TableColumns = field(default_factory=dict)
    name: str = ""


@dataclass(frozen=True, slots=True)
class Spot:
    """Where a construct stands: its place, and how many characters to point at."""

    place: Place
    length: int


_T = TokenType
_BARE: Final = frozenset({_T.CURRENT_DATE, _T.CURRENT_TIME, _T.CURRENT_TIMESTAMP})

Find: TypeAlias = Callable[[Reading], Iterator[exp.Expr]]


@dataclass(frozen=True)
class Construct:
    """One construct: what it is called, how it is found, and by which keyword it is pointed at.

    ``leads`` says that the keyword stands before all else of the construct. ``named`` constructs
    need a name beside them: which function, which table.
    """

    words: str
    find: Find
    keywords: tuple[TokenType, ...] = ()
    leads: bool = True
    named: bool = False


def read_query(sql: str, dialect: str, columns: TableColumns | None = None) -> Reading | None:
    """Reads a query for looking for constructs; None where the parser cannot read it."""
    tree = parsed_statement(sql, dialect)
    if not isinstance(tree, exp.Query | exp.Values):
        return None
    return Reading(sql, tree, parser_tokens(sql, dialect), columns or {})


def find_construct(reading: Reading, construct: str, name: str = "") -> list[Spot]:
    """Where a construct stands in a query, in the order of the text."""
    kind = CONSTRUCTS[construct]
    reading = Reading(reading.sql, reading.tree, reading.tokens, reading.columns, name.lower())
    spots = {_spot(reading, kind, node) for node in kind.find(reading)}
    return sorted(spots, key=lambda spot: (spot.place.line, spot.place.column))


def _spot(reading: Reading, kind: Construct, node: exp.Expr) -> Spot:
    starts = [(one.meta["start"], one.meta["end"]) for one in node.walk() if "start" in one.meta]
    start, end = min(starts) if starts else (0, 0)
    words = [token for token in reading.tokens if token.token_type in kind.keywords]
    if kind.leads:
        before = [token for token in words if token.start <= start]
        chosen = before[-1] if before else next(iter(words), None)
    else:
        after = [token for token in words if token.start >= start]
        chosen = after[0] if after else next(iter(reversed(words)), None)
    if chosen is not None:
        start, end = chosen.start, chosen.end
    return Spot(place_at(reading.sql, start), end - start + 1)


def _all(*kinds: type[exp.Expr]) -> Find:
    return lambda reading: reading.tree.find_all(*kinds, bfs=False)


def _with_part(part: str) -> Find:
    def found(reading: Reading) -> Iterator[exp.Expr]:
        for query in reading.tree.find_all(exp.Query, bfs=False):
            if (node := query.args.get(part)) is not None:
                yield node

    return found


def _distinct(reading: Reading) -> Iterator[exp.Expr]:
    for node in reading.tree.find_all(exp.Distinct, bfs=False):
        select = node.parent
        # The word itself has no place: what stands after it has.
        yield select.selects[0] if isinstance(select, exp.Select) and select.selects else node


def _ungrouped_columns(reading: Reading) -> Iterator[exp.Expr]:
    yield from ungrouped_columns(reading.tree)


def _joins(reading: Reading) -> Iterator[exp.Join]:
    for join in reading.tree.find_all(exp.Join, bfs=False):
        if not _by_comma(reading, join):
            yield join


def _by_comma(reading: Reading, join: exp.Join) -> bool:
    starts = [one.meta["start"] for one in join.this.walk() if "start" in one.meta]
    if not starts:
        return False
    before = [token.token_type for token in reading.tokens if token.start < min(starts)]
    while before and before[-1] in (TokenType.L_PAREN, TokenType.SELECT):
        before.pop()
    return bool(before) and before[-1] == TokenType.COMMA


def _inner_join(reading: Reading) -> Iterator[exp.Expr]:
    for join in _joins(reading):
        if not join.side and join.kind in ("", "INNER"):
            yield join


def _outer_join(reading: Reading) -> Iterator[exp.Expr]:
    yield from (join for join in _joins(reading) if join.side in ("LEFT", "RIGHT", "FULL"))
    # Oracle's older way: the sign (+).
    yield from (one for one in reading.tree.find_all(exp.Column) if one.args.get("join_mark"))


def _old_join(reading: Reading) -> Iterator[exp.Expr]:
    """A comma in FROM, and a comparison in WHERE that ties the tables together."""
    for select in reading.tree.find_all(exp.Select, bfs=False):
        where = select.args.get("where")
        if where is None or not any(_by_comma(reading, one) for one in joins_of(select)):
            continue
        for comparison in where.find_all(*_COMPARISONS):
            sides = [
                {_table_of(column, select, reading) for column in _own_columns(side, select)}
                for side in comparison.iter_expressions()
            ]
            if any(
                one != other
                for left, right in combinations(sides, 2)
                for one, other in product(left, right)
            ):
                yield comparison


_COMPARISONS: Final = (
    exp.EQ, exp.NEQ, exp.LT, exp.LTE, exp.GT, exp.GTE, exp.Is, exp.NullSafeEQ, exp.NullSafeNEQ,
    exp.Between, exp.In, exp.Like, exp.Glob,
)  # fmt: skip


def _own_columns(side: exp.Expr, select: exp.Select) -> Iterator[exp.Column]:
    for column in side.find_all(exp.Column):
        if column.find_ancestor(exp.Select) is select:
            yield column


def _table_of(column: exp.Column, select: exp.Select, reading: Reading) -> str:
    """Which source a column belongs to; one that nobody knows is a source by itself."""
    if column.table:
        return column.table.lower()
    owners = [
        source.alias_or_name.lower()
        for source in sources_of(select)
        if column.name.lower() in (output_names(source, reading.columns) or ())
    ]
    return owners[0] if len(owners) == 1 else f"?{column.name.lower()}"


def _subqueries(reading: Reading) -> Iterator[exp.Expr]:
    return subqueries_in(reading.tree)


def _correlated(reading: Reading) -> Iterator[exp.Expr]:
    for query in subqueries_in(reading.tree):
        if outer_references(query, reading.columns):
            yield query


def _recursive(reading: Reading) -> Iterator[exp.Expr]:
    return (cte for cte in reading.tree.find_all(exp.CTE, bfs=False) if is_recursive(cte))


def _set_operations(reading: Reading) -> Iterator[exp.Expr]:
    # The keyword stands before the right operand.
    return (node.expression for node in reading.tree.find_all(exp.SetOperation, bfs=False))


def _wildcards(reading: Reading) -> Iterator[exp.Expr]:
    for select in reading.tree.find_all(exp.Select, bfs=False):
        if not isinstance(select.parent, exp.Exists):
            yield from (item for item in select.expressions if item.is_star)


def _null_comparisons(reading: Reading) -> Iterator[exp.Expr]:
    kinds = (exp.EQ, exp.NEQ, exp.LT, exp.LTE, exp.GT, exp.GTE)
    for node in reading.tree.find_all(*kinds, bfs=False):
        if isinstance(node.this, exp.Null) or isinstance(node.expression, exp.Null):
            yield node
    for case in reading.tree.find_all(exp.Case, bfs=False):
        if case.this is not None:  # CASE x WHEN NULL compares, too
            yield from (one for one in case.args["ifs"] if isinstance(one.this, exp.Null))


def _is_null(reading: Reading) -> Iterator[exp.Expr]:
    for node in reading.tree.find_all(exp.Is, bfs=False):
        if isinstance(node.expression, exp.Null):
            yield node


def written_name(reading: Reading, function: exp.Func) -> str:
    """The very name that a function was called by; empty where the parser keeps no place of it."""
    if "start" not in function.meta:
        return ""
    return reading.sql[function.meta["start"] : function.meta["end"] + 1]


def _functions(reading: Reading) -> Iterator[exp.Expr]:
    written = {
        word.text.lower()
        for word, after in pairwise((*reading.tokens, None))
        if word is not None
        and word.token_type not in (_T.STRING, _T.IDENTIFIER)
        and ((after is not None and after.token_type == _T.L_PAREN) or word.token_type in _BARE)
    }
    for node in reading.tree.find_all(exp.Func, bfs=False):
        if isinstance(node, exp.Connector | exp.Case | exp.Predicate):
            continue
        if name := written_name(reading, node):
            called = {name.lower()}
        else:
            # What the parser made of an operator or of a WHEN is no function that was written.
            called = written & {one.lower() for one in (*type(node).sql_names(), node.name)}
        if reading.name in called:
            yield node


def _tables(reading: Reading) -> Iterator[exp.Expr]:
    for table in reading.tree.find_all(exp.Table, bfs=False):
        if table.name.lower() == reading.name and cte_named(table) is None:
            yield table


def _aliases(reading: Reading) -> Iterator[exp.Expr]:
    for select in reading.tree.find_all(exp.Select, bfs=False):
        for item in select.expressions:
            if isinstance(item, exp.Alias):
                yield item.args["alias"]


def _positions(reading: Reading) -> Iterator[exp.Expr]:
    for query in reading.tree.find_all(exp.Query, bfs=False):
        for part in ("group", "order"):
            node = query.args.get(part)
            for key in node.expressions if node is not None else ():
                plain = key.this if isinstance(key, exp.Ordered) else key
                if isinstance(plain, exp.Literal) and plain.is_int:
                    yield plain


def _literal_rows(reading: Reading) -> Iterator[exp.Expr]:
    yield from reading.tree.find_all(exp.Values, bfs=False)
    for select in reading.tree.find_all(exp.Select, bfs=False):
        if isinstance(select.parent, exp.Exists) or not select.expressions:
            continue
        where = select.args.get("where")
        depends = where is not None and where.find(exp.Query) is not None
        given = all(_is_constant(item) for item in select.expressions) and not _is_anchor(select)
        given = given and not depends
        if given and (not sources_of(select) or select is reading.tree):
            yield select


def _is_constant(item: exp.Expr) -> bool:
    if any(item.find_all(exp.Column, exp.Query, exp.Star)):
        return False
    return not any(map(is_aggregate, item.walk()))


def _is_anchor(select: exp.Select) -> bool:
    """Whether a SELECT without tables is where a recursion begins."""
    cte = select.find_ancestor(exp.CTE)
    return cte is not None and is_recursive(cte)


CONSTRUCTS: Final[dict[str, Construct]] = {
    "case": Construct("CASE", _all(exp.Case), (_T.CASE,)),
    "in": Construct("IN", _all(exp.In), (_T.IN,), leads=False),
    "between": Construct("BETWEEN", _all(exp.Between), (_T.BETWEEN,), leads=False),
    "like": Construct("LIKE", _all(exp.Like, exp.ILike), (_T.LIKE, _T.ILIKE), leads=False),
    "is_null": Construct("IS NULL", _is_null, (_T.IS, _T.ISNULL, _T.NOTNULL), leads=False),
    "distinct": Construct("DISTINCT", _distinct, (_T.DISTINCT,)),
    "inner_join": Construct("an inner join", _inner_join, (_T.JOIN,)),
    "outer_join": Construct("an outer join", _outer_join, (_T.JOIN, _T.JOIN_MARKER)),
    "subquery": Construct("a subquery", _subqueries, (_T.SELECT, _T.WITH)),
    "correlated_subquery": Construct("a correlated subquery", _correlated, (_T.SELECT, _T.WITH)),
    "exists": Construct("EXISTS", _all(exp.Exists), (_T.EXISTS,)),
    "group_by": Construct("GROUP BY", _with_part("group"), (_T.GROUP_BY,)),
    "having": Construct("HAVING", _with_part("having"), (_T.HAVING,)),
    "window": Construct("a window function", _all(exp.Window), (_T.OVER,), leads=False),
    "cte": Construct("a common table expression", _all(exp.With), (_T.WITH,)),
    "recursive_cte": Construct("a recursive common table expression", _recursive, (_T.WITH,)),
    "set_operation": Construct(
        "a set operation", _set_operations, (_T.UNION, _T.EXCEPT, _T.INTERSECT)
    ),
    "order_by": Construct("ORDER BY", _with_part("order"), (_T.ORDER_BY,)),
    "limit": Construct("LIMIT", _with_part("limit"), (_T.LIMIT, _T.FETCH)),
    "wildcard": Construct("a wildcard select list", _wildcards),
    "null_comparison": Construct(
        "a comparison with NULL by =",
        _null_comparisons,
        (_T.EQ, _T.NEQ, _T.LT, _T.LTE, _T.GT, _T.GTE),
        leads=False,
    ),
    "ungrouped_column": Construct(
        "a column beside an aggregate that is not grouped", _ungrouped_columns
    ),
    "function": Construct("the function", _functions, named=True),
    "table": Construct("the table", _tables, named=True),
    "column_alias": Construct("a column alias", _aliases),
    "by_position": Construct("grouping or ordering by position", _positions),
    "old_join": Construct("a join by comma and WHERE", _old_join),
    "literal_rows": Construct(
        "literal rows in place of data", _literal_rows, (_T.SELECT, _T.VALUES)
    ),
}
"""All constructs, by the name that they have in packs."""
