"""A syntax tree whose every node knows which stretch of the text it was read from.

The parser itself keeps places of names, literals and function names only. Here it is made to note,
for each of its steps, the tokens that the step took; what no step returned (the inner parts of a
chain) covers what its own parts cover.
"""

from __future__ import annotations

import threading
from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache, wraps
from typing import Any, Final, TypeAlias

import sqlglot
from sqlglot import exp
from sqlglot.tokenizer_core import Token, TokenType

from jentrow.core.sql.parser_failures import PARSER_FAILURES
from jentrow.core.sql.parser_source import interpreted
from jentrow.core.sql.parsing import dialect_named, is_short, parser_tokens, query_of

Span: TypeAlias = tuple[int, int]
"""Where a stretch of a text begins, and the index after its end."""

_DEEPEST: Final = 120
"""Trees of more levels are not followed: nobody writes them, and walking them takes a stack."""

_READING: Final = threading.local()


@dataclass(frozen=True)
class SpannedTree:
    """The tree of a text's only statement, and the span of each of its nodes.

    It is shared: nobody may change it.
    """

    sql: str
    dialect: str
    tree: exp.Query
    _spans: dict[int, Span]

    def span(self, node: exp.Expr) -> Span | None:
        """Which stretch of the text a node covers; None where that is not known."""
        return self._spans.get(id(node))

    def text(self, node: exp.Expr) -> str:
        """A node as its author wrote it; empty where its place is not known."""
        begin, end = self._spans.get(id(node), (0, 0))
        return self.sql[begin:end]


@lru_cache(maxsize=512)
def spanned(sql: str, dialect: str) -> SpannedTree | None:
    """The tree of a text with its spans; None where it is no query that can be read."""
    if not is_short(sql, dialect):
        return None
    tokens = parser_tokens(sql, dialect)
    if not tokens:
        return None
    reader = sqlglot.Dialect.get_or_raise(dialect_named(dialect))
    noted: dict[int, tuple[exp.Expr, int, int]] = {}
    _READING.noted = noted
    try:
        trees = _noting(reader.parser_class)(dialect=reader).parse(list(tokens), sql)
        tree = query_of(trees[0]) if len(trees) == 1 else None
        if tree is None:
            return None
        return SpannedTree(sql, dialect, tree, _spans(tree, noted, tokens))
    except PARSER_FAILURES:
        return None
    finally:
        del _READING.noted


@lru_cache(maxsize=16)
def _noting(compiled: type[Any]) -> type[Any]:
    """A parser of the same dialect that notes which tokens each of its steps took."""
    parser = interpreted(compiled)
    steps = {
        name: _noted(getattr(parser, name))
        for name in dir(parser)
        if name.startswith("_parse_") and callable(getattr(parser, name))
    }
    return type(f"Noting{parser.__name__}", (parser,), steps)


def _noted(step: Callable[..., Any]) -> Callable[..., Any]:
    @wraps(step)
    def noting(self: Any, *given: Any, **options: Any) -> Any:
        begin = self._index
        node = step(self, *given, **options)
        if isinstance(node, exp.Expr) and self._index > begin:
            noted: dict[int, tuple[exp.Expr, int, int]] = _READING.noted
            known = noted.get(id(node))
            if known is None or known[0] is not node or isinstance(node, exp.Query):
                # A query grows: its ORDER BY is read after its SELECT has been returned.
                noted[id(node)] = (node, begin, self._index - 1)
        return node

    return noting


def _spans(
    tree: exp.Expr, noted: dict[int, tuple[exp.Expr, int, int]], tokens: tuple[Token, ...]
) -> dict[int, Span]:
    spans: dict[int, Span] = {}

    def cover(node: exp.Expr, depth: int) -> Span | None:
        if depth > _DEEPEST:
            raise RecursionError
        begins: list[int] = []
        ends: list[int] = []
        for part in node.iter_expressions():
            found = cover(part, depth + 1)
            if found is not None:
                begins.append(found[0])
                ends.append(found[1])
        known = noted.get(id(node))
        if known is not None and known[0] is node:
            begins.append(tokens[known[1]].start)
            ends.append(tokens[known[2]].end + 1)
        if not begins:
            return None
        spans[id(node)] = _with_own_words(node, (min(begins), max(ends)), spans, places)
        return spans[id(node)]

    places = _Places(tokens)
    cover(tree, 0)
    return spans


_NAMES: Final[dict[type[exp.Expr], Sequence[str]]] = {
    exp.Cast: ("CAST",),
    exp.TryCast: ("TRY_CAST",),
    exp.Trim: ("TRIM", "LTRIM", "RTRIM", "BTRIM"),
    exp.StrPosition: ("POSITION", "INSTR", "LOCATE", "CHARINDEX", "STRPOS"),
    exp.GroupConcat: ("STRING_AGG", "GROUP_CONCAT", "LISTAGG"),
}
"""What functions are called that a parser reads in a way of their own, where it is not their name."""


class _Places:
    """Tokens by where they stand."""

    def __init__(self, tokens: tuple[Token, ...]) -> None:
        self._tokens = tokens
        self._starts = [token.start for token in tokens]

    def index_before(self, at: int) -> int:
        """The index of the last token that begins before an index of the text; -1 for none."""
        return bisect_left(self._starts, at) - 1

    def index_from(self, at: int) -> int:
        """The index of the first token that begins at an index of the text, or after it."""
        return bisect_left(self._starts, at)

    def word(self, index: int) -> str:
        """A token in capitals; empty outside the text."""
        return self._tokens[index].text.upper() if 0 <= index < len(self._tokens) else ""

    def start(self, index: int) -> int:
        """Where a token begins."""
        return self._starts[index]

    def end(self, index: int) -> int:
        """The index after a token's end."""
        return self._tokens[index].end + 1

    def is_call(self, first: int, last: int, names: Sequence[str]) -> bool:
        """Whether these tokens are one call of a function with one of these names."""
        is_named = self.word(first) in names and self.word(first + 1) == "("
        return is_named and self.word(last) == ")" and self.opening(last) == first + 1

    def opening(self, index: int) -> int:
        """The index of the parenthesis that the one at ``index`` closes; -1 for none."""
        depth = 0
        for at in range(index, -1, -1):
            kind = self._tokens[at].token_type
            depth += (kind == TokenType.R_PAREN) - (kind == TokenType.L_PAREN)
            if not depth:
                return at
        return -1


def _with_own_words(node: exp.Expr, span: Span, spans: dict[int, Span], places: _Places) -> Span:
    """A node's span with the words around its parts that no step of the parser took for it."""
    begin, end = span
    before, after = places.index_before(begin), places.index_from(end)
    if isinstance(node, exp.Case) and places.word(before) == "CASE":
        begin = places.start(before)
        end = places.end(after) if places.word(after) == "END" else end
    elif isinstance(node, exp.Select) and places.word(places.index_from(begin)) != "SELECT":
        while before >= 0 and places.word(before) in ("DISTINCT", "ALL"):
            before -= 1
        if places.word(before) == "SELECT":
            begin = places.start(before)
    elif isinstance(node, exp.Func):
        names = _NAMES.get(type(node)) or type(node).sql_names()
        is_inside = places.word(before) == "(" and places.word(after) == ")"
        has_own = places.is_call(places.index_from(begin), after - 1, names) and not any(
            spans.get(id(part)) == span for part in node.iter_expressions()
        )
        if is_inside and not has_own and places.word(before - 1) in names:
            begin, end = places.start(before - 1), places.end(after)
    elif isinstance(node, exp.Window):
        first = places.index_from(begin)
        while places.word(first) not in ("OVER", ""):
            first += 1
        opened = places.opening(first - 1) if places.word(first - 1) == ")" else -1
        if opened > 0:
            begin = places.start(opened - 1)
            spans[id(node.this)] = begin, places.end(first - 1)
    return begin, end
