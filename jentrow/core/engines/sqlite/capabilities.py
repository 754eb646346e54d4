"""What SQLite is called, what it has and what it lacks."""

from __future__ import annotations

from functools import cache
from typing import Final

from jentrow.core.engines.protocol import Capabilities, Lack

LACKS: Final = (
    Lack("INTERSECT ALL and EXCEPT ALL", "SELECT 1 INTERSECT ALL SELECT 1"),
    Lack("comparisons with ANY and ALL of a subquery", "SELECT 1 = ANY (SELECT 1)"),
    Lack(
        "ROLLUP, CUBE and GROUPING SETS", "SELECT COUNT(*) FROM (SELECT 1 AS a) GROUP BY ROLLUP (a)"
    ),
    Lack("QUALIFY", "SELECT 1 AS a QUALIFY ROW_NUMBER() OVER (ORDER BY a) = 1"),
    Lack("FETCH FIRST: it has LIMIT", "SELECT 1 FETCH FIRST 1 ROWS ONLY"),
    Lack("TOP: it has LIMIT", "SELECT TOP 1 1"),
    Lack("LATERAL", "SELECT * FROM (SELECT 1 AS a) AS one, LATERAL (SELECT one.a) AS other"),
    Lack("EXTRACT: it has strftime", "SELECT EXTRACT(YEAR FROM '2026-01-01')"),
    Lack("INTERVAL: it has modifiers such as date(day, '+1 day')", "SELECT INTERVAL '1 day'"),
    Lack("literals DATE '…' and TIMESTAMP '…': dates are text", "SELECT DATE '2026-01-01'"),
)


@cache
def capabilities() -> Capabilities:
    """What the SQLite that runs can do; its functions are read off it, without the refused ones."""
    import apsw

    from jentrow.core.engines.sqlite.hardening import REFUSED_FUNCTIONS

    db = apsw.Connection(":memory:")
    names = {name for (name,) in db.execute("SELECT DISTINCT name FROM pragma_function_list")}
    db.close()
    return Capabilities(
        "sqlite",
        "SQLite",
        "sqlite",
        tuple(sorted(name for name in names - REFUSED_FUNCTIONS if name.isidentifier())),
        LACKS,
    )
