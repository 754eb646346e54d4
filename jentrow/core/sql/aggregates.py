"""Which calls in a query are aggregates: those that make one row of many."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from sqlglot import exp

_UNKNOWN_TO_THE_PARSER: Final = frozenset(
    {"total", "jsonb_group_array", "jsonb_group_object", "percentile", "geopoly_group_bbox"}
)
"""Aggregates of the engine that the parser reads as some function or other."""


def is_aggregate(node: exp.Expr) -> bool:
    """Whether a node is the call of an aggregate, be it over a window."""
    if isinstance(node, exp.Anonymous):
        return node.name.lower() in _UNKNOWN_TO_THE_PARSER
    # MIN and MAX of several values are no aggregates in every dialect.
    several = isinstance(node, exp.Min | exp.Max) and bool(node.expressions)
    return isinstance(node, exp.AggFunc) and not several


def has_aggregate(select: exp.Select) -> bool:
    """Whether a SELECT shows an aggregate of its own."""
    return any(True for item in select.expressions for _ in aggregates_in(item))


def aggregates_in(node: exp.Expr) -> Iterator[exp.Expr]:
    """The aggregates of this very query: not those of windows, nor of queries inside."""
    # By hand, not by recursion: a sum of a thousand terms is a thousand nodes deep.
    waiting = [node]
    while waiting:
        one = waiting.pop()
        if isinstance(one, exp.Window | exp.Query):
            continue
        if is_aggregate(one):
            yield one
        else:
            waiting += reversed(list(one.iter_expressions()))
