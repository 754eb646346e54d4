"""Which rows a column of a query can mean: sources, what they are called, and what is correlated."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import TypeAlias

from sqlglot import exp

TableColumns: TypeAlias = Mapping[str, tuple[str, ...]]
"""The columns of each table of the sample, by the table's name in lower case."""


def table_columns(columns: tuple[tuple[str, tuple[str, ...]], ...]) -> TableColumns:
    """Pairs of a table and its columns, as an engine tells them, for looking up."""
    return {name.lower(): names for name, names in columns}


def sources_of(select: exp.Select) -> list[exp.Expr]:
    """The tables and derived tables that a SELECT reads, left to right."""
    start = select.args.get("from_")
    if start is None:
        return []
    found: list[exp.Expr] = [start.this]
    found += [join.this for join in joins_of(select)]
    # A table with joins of its own, in parentheses, brings their tables along.
    for source in list(found):
        found += [join.this for join in source.args.get("joins") or ()]
    return found


def joins_of(select: exp.Select) -> list[exp.Join]:
    """The joins of a SELECT, left to right; a comma in FROM is one, too."""
    joins: list[exp.Join] = select.args.get("joins") or []
    return joins


def subqueries_in(tree: exp.Expr) -> Iterator[exp.Query]:
    """The queries inside a query that stand for a value or a table; operands and CTEs are none."""
    for node in tree.find_all(exp.Query, bfs=False):
        if node is tree or isinstance(node, exp.Subquery | exp.Values | exp.Table):
            continue
        above = node.parent
        while isinstance(above, exp.Subquery) and above.parent is not None:
            above = above.parent
        is_tree_itself = above is tree and isinstance(tree, exp.Subquery)
        if not isinstance(above, exp.SetOperation | exp.CTE) and not is_tree_itself:
            yield node


def outer_references(query: exp.Query, columns: TableColumns) -> list[exp.Column]:
    """The columns inside a query that mean a row of a query around it."""
    return [column for column in query.find_all(exp.Column) if _is_outer(column, query, columns)]


def _is_outer(column: exp.Column, query: exp.Query, columns: TableColumns) -> bool:
    if isinstance(column.this, exp.Star):
        return False
    inside: list[exp.Select] = []
    outside: list[exp.Select] = []
    passed = False
    for select in _selects_around(column):
        (outside if passed else inside).append(select)
        if select is query or _operand_of(select, query):
            passed = True
    if any(_binds(select, column, columns) is not False for select in inside):
        return False
    return any(_binds(select, column, columns) is True for select in outside)


def _operand_of(select: exp.Select, query: exp.Query) -> bool:
    """Whether the query is a set operation, and the SELECT one of its operands."""
    above: exp.Expr | None = select.parent
    while isinstance(above, exp.SetOperation | exp.Subquery):
        if above is query:
            return True
        above = above.parent
    return False


def _selects_around(column: exp.Column) -> Iterator[exp.Select]:
    """The SELECTs whose sources the column can see, the innermost first."""
    node: exp.Expr = column
    hidden = False
    while node.parent is not None:
        above = node.parent
        if isinstance(node, exp.From | exp.Join) and not isinstance(column.parent, exp.Table):
            # A derived table does not see the tables beside it; the condition of a join does.
            hidden = hidden or _is_derived(node, column)
        if isinstance(node, exp.With):
            hidden = True
        if isinstance(above, exp.Select):
            if not hidden:
                yield above
            hidden = False
        node = above


def _is_derived(node: exp.From | exp.Join, column: exp.Column) -> bool:
    above: exp.Expr | None = column
    while above is not None and above.parent is not node:
        above = above.parent
    return above is node.this


def _binds(select: exp.Select, column: exp.Column, columns: TableColumns) -> bool | None:
    """Whether one of a SELECT's sources has the column; None where that cannot be told."""
    unknown = False
    for source in sources_of(select):
        called = source.alias_or_name.lower()
        if column.table:
            if called == column.table.lower():
                return True
            continue
        names = output_names(source, columns)
        if names is None:
            unknown = True
        elif column.name.lower() in names:
            return True
    return None if unknown and not column.table else False


def output_names(source: exp.Expr, columns: TableColumns) -> frozenset[str] | None:
    """The names of the columns that a source has, in lower case; None where they are not known."""
    if isinstance(source, exp.Subquery):
        alias = source.args.get("alias")
        if alias is not None and alias.args.get("columns"):
            return frozenset(one.name.lower() for one in alias.args["columns"])
        return _names_of(source.unnest())
    if isinstance(source, exp.Table):
        body = cte_named(source)
        if body is not None:
            alias = body.args.get("alias")
            if alias is not None and alias.args.get("columns"):
                return frozenset(one.name.lower() for one in alias.args["columns"])
            return _names_of(body.this)
        found = columns.get(source.name.lower())
        return None if found is None else frozenset(name.lower() for name in found)
    return None


def _names_of(query: exp.Expr) -> frozenset[str] | None:
    items = query.selects if isinstance(query, exp.Query) else []
    if not items or any(item.is_star for item in items):
        return None
    return frozenset(item.alias_or_name.lower() for item in items)


def cte_named(table: exp.Table) -> exp.CTE | None:
    """The common table expression that a table's name means, if one is in sight."""
    if table.args.get("db") is not None:
        return None
    node: exp.Expr | None = table
    while node is not None:
        with_ = node.args.get("with_")
        for cte in with_.expressions if with_ is not None else ():
            if cte.alias.lower() == table.name.lower():
                found: exp.CTE = cte
                return found
        node = node.parent
    return None


def is_recursive(cte: exp.CTE) -> bool:
    """Whether a common table expression reads itself."""
    return any(cte_named(table) is cte for table in cte.this.find_all(exp.Table))
