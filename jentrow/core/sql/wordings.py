"""Wordings: texts that say the same thing in the same way, whatever they look like.

White space, comments, the case of keywords and names, aliases, and the order of parts that may
change places are evened out; everything else tells two wordings apart.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from hashlib import sha256
from typing import Final, TypeAlias

import sqlglot
from sqlglot import exp

from jentrow.core.sql.parser_failures import PARSER_FAILURES
from jentrow.core.sql.parsing import dialect_named, parsed
from jentrow.core.sql.scopes import sources_of
from jentrow.core.sql.tokens import tokens_of

_Print: TypeAlias = Callable[..., str]

_LENGTH: Final = 16
_COMMUTING: Final = (exp.And, exp.Or, exp.Add, exp.Mul)
"""Chains of these say the same in any order of their parts."""

_MIRRORED: Final[dict[type[exp.Expr], type[exp.Expr]]] = {
    exp.EQ: exp.EQ, exp.NEQ: exp.NEQ, exp.GT: exp.LT, exp.GTE: exp.LTE, exp.LT: exp.GT,
    exp.LTE: exp.GTE,
}  # fmt: skip
"""What a comparison becomes whose two sides change places."""


def wording(sql: str, dialect: str) -> str:
    """A short digest that is equal for texts of one wording.

    A text that cannot be parsed is told apart by its words, without comments and white space.
    """
    try:
        tree = parsed(sql, dialect)
        print_part = sqlglot.Dialect.get_or_raise(dialect_named(dialect)).generator().generate
        said = print_part(_evened_out(tree, print_part), copy=False) if tree is not None else ""
    except PARSER_FAILURES:
        said = ""
    return sha256((said or _bare(sql, dialect)).encode(errors="surrogatepass")).hexdigest()[
        :_LENGTH
    ]


def wording_unread(sql: str) -> str:
    """The digest of a text by its letters alone, for one that cannot be read in time."""
    return sha256(sql.encode(errors="surrogatepass")).hexdigest()[:_LENGTH]


def _bare(sql: str, dialect: str) -> str:
    words = [token.word or sql[token.start : token.end] for token in tokens_of(sql, dialect)]
    return " ".join(word for word in words if word != ";")


def _evened_out(tree: exp.Query, print_part: _Print) -> exp.Query:
    tree = tree.copy()
    for node in tree.walk():
        node.comments = None
    for name in tree.find_all(exp.Identifier):
        name.set("this", name.this.lower())
        name.set("quoted", False)
    for select in tree.find_all(exp.Select):
        _rename_columns(select)
    for select in tree.find_all(exp.Select):
        _rename_tables(select)
        for join in select.args.get("joins") or ():
            if join.args.get("kind") == "INNER":
                join.set("kind", None)
    for node in list(tree.find_all(exp.Paren)):
        _drop_parentheses(node)
    # From the inside out: what stands in a part decides where the part goes.
    for node in reversed(list(tree.find_all(*_COMMUTING, *_MIRRORED, exp.In))):
        _put_in_order(node, print_part)
    return tree


def _rename_columns(select: exp.Select) -> None:
    """Calls output columns of an outermost query by their place: their aliases say nothing."""
    if isinstance(select.parent, exp.Subquery | exp.CTE):
        return  # somebody asks for them by their names
    places: dict[str, str] = {}
    items = []
    for at, one in enumerate(select.expressions):
        if isinstance(one, exp.Alias):
            places[one.alias] = f"column_{at}"
            one.set("alias", exp.to_identifier(f"column_{at}"))
            items.append(one)
        else:
            items.append(exp.Alias(this=one, alias=exp.to_identifier(f"column_{at}")))
    # All at once: replacing one looks at all others.
    select.set("expressions", items)
    for clause in ("order", "group", "having"):
        part = select.args.get(clause)
        for column in part.find_all(exp.Column) if part is not None else ():
            if not column.table and column.name in places:
                column.set("this", exp.to_identifier(places[column.name]))


def _rename_tables(select: exp.Select) -> None:
    """Calls sources by their place; with one source only, columns need not say whose they are."""
    sources = sources_of(select)
    columns: dict[str, list[exp.Column]] = {}
    for column in select.find_all(exp.Column):
        columns.setdefault(column.table, []).append(column)
    for at, source in enumerate(sources):
        called = source.alias_or_name
        if not called:
            continue
        known = f"source_{at}" if len(sources) > 1 else ""
        for column in columns.pop(called, ()):
            column.set("table", exp.to_identifier(known) if known else None)
        if source.args.get("alias") is not None and not source.args["alias"].args.get("columns"):
            source.set("alias", None)


def _drop_parentheses(node: exp.Paren) -> None:
    """Parentheses that change nothing: around one value, or a part of a chain of its own kind."""
    inside, around = node.this, node.parent
    if (
        not isinstance(inside, exp.Binary | exp.Connector)
        or isinstance(around, exp.Paren)
        or (isinstance(inside, _COMMUTING) and type(inside) is type(around))
        or (isinstance(inside, tuple(_MIRRORED)) and isinstance(around, exp.Connector))
        or not isinstance(around, exp.Binary | exp.Unary)
    ):
        node.replace(inside)


def _put_in_order(node: exp.Expr, print_part: _Print) -> None:
    def said(part: exp.Expr) -> str:
        return print_part(part, copy=False)

    if isinstance(node, exp.In):
        if node.args.get("expressions"):
            node.set("expressions", sorted(node.expressions, key=said))
    elif type(node) in _MIRRORED:
        if said(node.this) > said(node.expression):
            node.replace(_MIRRORED[type(node)](this=node.expression, expression=node.this))
    elif type(node.parent) is not type(node):
        _sort_chain(node, said)


def _sort_chain(top: exp.Expr, said: Callable[[exp.Expr], str]) -> None:
    kind = type(top)
    parts = sorted(_parts(top, kind), key=said)
    chain = parts[0].copy()
    for part in parts[1:]:
        chain = kind(this=chain, expression=part.copy())
    top.replace(chain)


def _parts(node: exp.Expr, kind: type[exp.Expr]) -> Iterator[exp.Expr]:
    waiting = [node]
    while waiting:
        one = waiting.pop()
        if type(one) is kind:
            waiting += [one.expression, one.this]
        else:
            yield one
