"""Groups, aggregates and windows that a dialect's own engine does not take, though the stand-in would.

They are told by the syntax tree. Sources as in :mod:`jentrow.core.sql.stand_ins.refusals.forms`.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Final

from sqlglot import exp


def foreign_groups(tree: exp.Query, dialect: str) -> Iterator[str]:
    """What a query groups, aggregates and frames by that the dialect has not; each as the end of a sentence."""
    for look in _LOOKS:
        yield from look(tree, dialect)


def _groups(tree: exp.Query, dialect: str) -> Iterator[str]:
    for select in tree.find_all(exp.Select):
        group = select.args.get("group")
        if group is None:
            continue
        if group.args.get("all") is not None:
            yield "has no GROUP BY ALL."
        if any(isinstance(key.unnest(), exp.Query) for key in group.expressions):
            yield "groups by no query: work it out in FROM first."
        if any(isinstance(key, exp.Literal) for key in group.expressions):
            yield "groups by no position: GROUP BY names what it groups by."
    if tree.find(exp.Filter):
        yield "has no FILTER: CASE inside the aggregate does that."
    for select in tree.find_all(exp.Select):
        distinct = select.args.get("distinct")
        if distinct is not None and distinct.args.get("on") is not None:
            yield "has no DISTINCT ON."


_ORDERED_WINDOWS: Final = frozenset(
    ["ROW_NUMBER", "RANK", "DENSE_RANK", "NTILE", "LAG", "LEAD", "CUME_DIST", "PERCENT_RANK"]
)


def _windows(tree: exp.Query, dialect: str) -> Iterator[str]:
    for window in tree.find_all(exp.Window):
        name = getattr(window.this, "sql_name", lambda: "")()
        wanted = name in _ORDERED_WINDOWS or (
            dialect == "tsql" and name in ("FIRST_VALUE", "LAST_VALUE")
        )
        if dialect == "db2" and name == "ROW_NUMBER":
            continue
        if wanted and window.args.get("order") is None and not window.alias:
            yield f"wants ORDER BY in OVER behind {name}."
    if dialect != "tsql" and any(one.args.get("windows") for one in tree.find_all(exp.Select)):
        yield "has no WINDOW: what stands in OVER stands there each time."
    for spec in tree.find_all(exp.WindowSpec):
        if spec.args.get("kind") == "GROUPS":
            yield "has no GROUPS in OVER."
        if spec.args.get("exclude") is not None:
            yield "has no EXCLUDE in OVER."
        bounds = (spec.args.get("start"), spec.args.get("end"))
        if (
            dialect == "tsql"
            and spec.args.get("kind") == "RANGE"
            and any(isinstance(bound, exp.Expr) for bound in bounds)
        ):
            yield "frames by RANGE from the beginning, to the end or to the row itself alone."


def _aggregates(tree: exp.Query, dialect: str) -> Iterator[str]:
    for call in tree.find_all(exp.AggFunc):
        holder = call.parent.parent if isinstance(call.parent, exp.IgnoreNulls) else call.parent
        window = holder if isinstance(holder, exp.Window) else None
        if dialect != "oracle" and window is None and call.find(exp.Query):
            yield "takes an aggregate of no query: work it out in FROM first."
        is_sorted = window is not None and window.args.get("order") is not None
        if (
            window is not None
            and isinstance(call.this, exp.Distinct)
            and (dialect != "oracle" or is_sorted)
        ):
            yield "takes no DISTINCT in an aggregate with OVER."
    for within in tree.find_all(exp.WithinGroup):
        is_part = isinstance(within.this, exp.PercentileCont | exp.PercentileDisc)
        if dialect == "tsql" and is_part and not isinstance(within.parent, exp.Window):
            yield "wants OVER behind PERCENTILE_CONT and PERCENTILE_DISC."


_LOOKS: Final[tuple[Callable[[exp.Query, str], Iterator[str]], ...]] = (
    _groups,
    _windows,
    _aggregates,
)
