"""Queries and clauses that a dialect's own engine does not take, though the stand-in would.

They are told by the syntax tree. Sources as in :mod:`jentrow.core.sql.stand_ins.refusals.forms`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Final

from sqlglot import exp

from jentrow.core.sql.scopes import is_recursive
from jentrow.core.sql.stand_ins.oracle.hierarchies import NOT_KEPT, is_kept
from jentrow.core.sql.stand_ins.tsql.xml import is_kept as is_joined

_CONDITIONS: Final = (
    exp.EQ, exp.NEQ, exp.GT, exp.GTE, exp.LT, exp.LTE, exp.In, exp.Between, exp.Like, exp.Is,
    exp.Exists, exp.Not, exp.And, exp.Or,
)  # fmt: skip
_STAND_IN_ONLY: Final = (
    exp.Struct,
    exp.Array,
    exp.Columns,
    exp.TableSample,
    exp.Bracket,
    exp.Lambda,
)
_VALUES: Final = (exp.Column, exp.Literal, exp.Select)
_COMPARISONS: Final = (exp.EQ, exp.NEQ, exp.GT, exp.GTE, exp.LT, exp.LTE)


def foreign_queries(tree: exp.Query, dialect: str) -> Iterator[str]:
    """What a query holds that the dialect has not; each as the end of a sentence."""
    for look in _LOOKS:
        yield from look(tree, dialect)


def _aliases_used_early(tree: exp.Query, dialect: str) -> Iterator[str]:
    for select in tree.find_all(exp.Select):
        aliases = _names_given(select)
        if not aliases:
            continue
        parts = [
            *(select.args.get(name) for name in ("where", "group", "having")),
            *(item.unalias() for item in select.selects),
        ]
        for part in parts:
            for column in part.find_all(exp.Column) if part is not None else ():
                if column.table or column.name.lower() not in aliases:
                    continue
                if column.find_ancestor(exp.Select) is select:
                    yield f"knows {column.name}, a name that SELECT gives, in ORDER BY alone."


def _names_given(select: exp.Select) -> set[str]:
    """The names that SELECT gives, in small letters; but those of columns that are in them."""
    return {
        item.alias.lower()
        for item in select.selects
        if isinstance(item, exp.Alias) and not _mentions(item.this, item.alias)
    }


def _mentions(node: exp.Expr, name: str) -> bool:
    return any(column.name.lower() == name.lower() for column in node.find_all(exp.Column))


def _truth_values(tree: exp.Query, dialect: str) -> Iterator[str]:
    for choice in tree.find_all(exp.If):
        compared = choice.parent.this if isinstance(choice.parent, exp.Case) else None
        values = exp.Literal if dialect == "db2" else _VALUES
        if compared is None and isinstance(choice.this.unnest(), values):
            yield "wants a comparison for a condition."
    # Db2 has booleans, and still no numbers that are conditions.
    if dialect == "db2":
        for node in tree.find_all(exp.Where, exp.Having, exp.Connector, exp.Not):
            if any(
                isinstance(side, exp.Literal) for side in (node.this, node.args.get("expression"))
            ):
                yield "wants a comparison for a condition."
        for node in tree.find_all(*_COMPARISONS):
            compared = (node.this.unnest(), node.expression.unnest())
            if any(isinstance(one, _CONDITIONS) for one in compared) and any(
                isinstance(one, exp.Literal) for one in compared
            ):
                yield "compares no condition with a number."
        return
    if tree.find(exp.Boolean):
        yield "has no TRUE and FALSE."
    if any(map(_is_value, tree.find_all(*_CONDITIONS, exp.RegexpLike))):
        yield "gives no condition as a value: CASE WHEN … THEN … does."
    for node in tree.find_all(exp.Where, exp.Having, exp.And, exp.Or, exp.Not):
        sides = (node.this, node.expression) if isinstance(node, exp.Connector) else (node.this,)
        if any(isinstance(side.unnest(), _VALUES) for side in sides if side):
            yield "wants a comparison for a condition."
    for node in tree.find_all(*_COMPARISONS, exp.Is):
        if any(isinstance(side.unnest(), _CONDITIONS) for side in (node.this, node.expression)):
            yield "compares values, and no conditions."


def _joined_texts(tree: exp.Query, dialect: str) -> Iterator[str]:
    """The engines work || and + out from left to right; the parser, and DuckDB, + before ||."""
    for join in tree.find_all(exp.DPipe) if dialect != "tsql" else ():
        if isinstance(join.expression, exp.Add | exp.Sub):
            yield "works || and + out from left to right: parentheses say which is meant first."


def _is_value(condition: exp.Expr) -> bool:
    """Whether a condition stands where a value is due: in a list, in a function, among sort keys."""
    node, holder = condition, condition.parent
    while isinstance(holder, exp.Paren | exp.Alias | exp.Ordered):
        node, holder = holder, holder.parent
    if isinstance(holder, exp.Anonymous) and holder.name.upper() == "LNNVL":
        return False
    if isinstance(holder, exp.If):
        return node.arg_key != "this"
    if isinstance(holder, exp.Case):
        return node.arg_key == "default"
    return isinstance(holder, exp.Select | exp.Func | exp.Order | exp.Group | exp.Tuple) and (
        not isinstance(holder, exp.Connector | exp.Exists)
    )


def _inner_with(tree: exp.Query, dialect: str) -> Iterator[str]:
    if dialect != "oracle" and any(part.parent is not tree for part in tree.find_all(exp.With)):
        yield "takes WITH before the whole query alone."


def _lengths(tree: exp.Query, dialect: str) -> Iterator[str]:
    if dialect == "oracle":
        return
    for call in tree.find_all(exp.Left, exp.Right, exp.Substring):
        length = call.args.get("length" if isinstance(call, exp.Substring) else "expression")
        if isinstance(length, exp.Neg):
            yield "takes no length below 0."


def _set_operations(tree: exp.Query, dialect: str) -> Iterator[str]:
    if any(one.args.get("by_name") for one in tree.find_all(exp.SetOperation)):
        yield "has no BY NAME behind UNION."
    for one in tree.find_all(exp.Intersect, exp.Except):
        if dialect != "db2" and not one.args.get("distinct", True):
            yield f"has no ALL behind INTERSECT and {'EXCEPT' if dialect == 'tsql' else 'MINUS'}."
    for one in tree.find_all(exp.SetOperation):
        keys = one.args["order"].expressions if one.args.get("order") is not None else ()
        if any(not isinstance(key.this, exp.Column | exp.Literal) for key in keys):
            yield "sorts combined queries by what they give alone: by its name, or its place."


def _recursions(tree: exp.Query, dialect: str) -> Iterator[str]:
    for part in filter(is_recursive, tree.find_all(exp.CTE)):
        body = part.this
        if isinstance(body, exp.SetOperation):
            if not isinstance(body, exp.Union) or body.args.get("distinct"):
                yield "joins the parts of a query that calls itself by UNION ALL."
            if dialect != "tsql" and not part.alias_column_names:
                yield "wants names for the columns of a query that calls itself: WITH name (a, b) AS (…)."


def _orders(tree: exp.Query, dialect: str) -> Iterator[str]:
    with_clause = tree.args.get("with_")
    if with_clause is not None and with_clause.args.get("recursive"):
        yield "has no word RECURSIVE: an expression that calls itself is one."
    for select in tree.find_all(exp.Select):
        if select.args.get("distinct") is not None and select.args.get("order") is not None:
            yield from _orders_of_distinct(select)
    for query in tree.find_all(exp.Query):
        if query.parent is not None and query.args.get("order") is not None:
            yield from _inner_orders(query, dialect)
    if dialect == "tsql":
        for fetch in tree.find_all(exp.Fetch):
            if fetch.parent is not None and not fetch.parent.args.get("offset"):
                yield "has FETCH only behind OFFSET n ROWS: TOP n takes the first ones."
        for query in tree.find_all(exp.Query):
            if query.args.get("offset") is not None and query.args.get("order") is None:
                yield "takes OFFSET behind ORDER BY alone."
            if query.args.get("offset") is not None and isinstance(
                query.args.get("limit"), exp.Limit
            ):
                yield "takes TOP or OFFSET, and not both."
        yield from _aliases_inside_orders(tree)
        for order in tree.find_all(exp.Order):
            yield from _constant_keys(order)


def _constant_keys(order: exp.Order) -> Iterator[str]:
    """A key that is the same for every row, where T-SQL takes none; a query's may be a position."""
    in_window = isinstance(order.parent, exp.Window)
    for key in order.expressions:
        value = key.this.unnest()
        if isinstance(value, exp.Literal) and value.is_int and not in_window:
            continue
        if value.find(exp.Literal, exp.Null) and not value.find(
            exp.Column, exp.Query, exp.Func, exp.Parameter
        ):
            yield "sorts by no constant: (SELECT NULL) is taken where any order will do."


def _orders_of_distinct(select: exp.Select) -> Iterator[str]:
    if any(item.is_star for item in select.selects):
        return
    shown = {item.unalias().sql().lower() for item in select.selects}
    names = {item.alias_or_name.lower() for item in select.selects}
    for key in select.args["order"].expressions:
        sorted_by = key.this.unnest()
        is_shown = isinstance(sorted_by, exp.Literal) or sorted_by.sql().lower() in shown
        if not is_shown and not (
            isinstance(sorted_by, exp.Column) and sorted_by.name.lower() in names
        ):
            yield "sorts SELECT DISTINCT only by what it shows."


def _inner_orders(query: exp.Query, dialect: str) -> Iterator[str]:
    if any(query.args.get(name) is not None for name in ("limit", "offset", "options", "for_")):
        return
    holder = query.parent
    if dialect == "tsql" and isinstance(holder, exp.Subquery | exp.CTE | exp.In | exp.Exists):
        yield "sorts an inner query only behind TOP or OFFSET."
    if isinstance(holder, exp.Subquery):
        holder = holder.parent
    is_source = isinstance(holder, exp.From | exp.Join | exp.CTE | exp.Lateral | exp.SetOperation)
    if dialect == "oracle" and not is_source:
        yield "sorts no query inside a condition or beside values."


def _aliases_inside_orders(tree: exp.Query) -> Iterator[str]:
    for select in tree.find_all(exp.Select):
        order = select.args.get("order")
        made = _names_given(select)
        for key in order.expressions if order is not None and made else ():
            if not isinstance(key.this, exp.Column):
                for column in key.this.find_all(exp.Column):
                    if not column.table and column.name.lower() in made:
                        yield f"knows {column.name} in ORDER BY alone, and not inside an expression."


_KNOWN_PARTS: Final = frozenset(
    [
        "with_",
        "expressions",
        "from_",
        "joins",
        "laterals",
        "where",
        "group",
        "having",
        "windows",
        "order",
        "limit",
        "offset",
        "distinct",
        "options",
        "hint",
        "pivots",
        "kind",
    ]
)
"""The parts of a query that are translated; others would be left out without a word."""


def _parts(tree: exp.Query, dialect: str) -> Iterator[str]:
    for select in tree.find_all(exp.Select):
        for part, held in select.args.items():
            if part == "connect" and dialect == "oracle" and held:
                if not is_kept(select):
                    yield NOT_KEPT
            elif part == "for_" and held and dialect == "tsql" and is_joined(select):
                continue
            elif held and part not in _KNOWN_PARTS:
                name = "CONNECT BY" if part == "connect" else part.rstrip("_").upper()
                yield f"{name} is not kept in translation."
        group = select.args.get("group")
        if group is not None and group.args.get("totals"):
            yield "TOTALS is not kept in translation."
    for call in tree.find_all(exp.Count):
        if isinstance(call.this, exp.Column) and isinstance(call.this.this, exp.Star):
            yield "counts rows by COUNT(*), without a table's name."
    if dialect == "oracle" and tree.find(exp.NullSafeEQ, exp.NullSafeNEQ):
        yield "has no IS DISTINCT FROM."
    if any(one.args.get("symmetric") is not None for one in tree.find_all(exp.Between)):
        yield "has no SYMMETRIC and no ASYMMETRIC behind BETWEEN."
    for like in tree.find_all(exp.Like):
        if isinstance(like.expression, exp.Any | exp.All):
            yield "compares LIKE with one pattern."


def _stand_in_alone(tree: exp.Query, dialect: str) -> Iterator[str]:
    if tree.find(*_STAND_IN_ONLY):
        yield "has no lists, structures, samples and functions of columns as DuckDB has them."
    for star in tree.find_all(exp.Star):
        if star.args.get("except_") or star.args.get("replace"):
            yield "has no * with columns left out."


_LOOKS: Final[tuple[Callable[[exp.Query, str], Iterator[str]], ...]] = (
    _aliases_used_early,
    _truth_values,
    _joined_texts,
    _inner_with,
    _lengths,
    _set_operations,
    _recursions,
    _orders,
    _parts,
    _stand_in_alone,
)
