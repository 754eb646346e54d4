"""What DuckDB is called, what it has and what it lacks."""

from __future__ import annotations

from functools import cache
from typing import Final

from jentrow.core.engines.protocol import Capabilities, Lack

LACKS: Final = (
    Lack("TOP: it has LIMIT", "SELECT TOP 1 1"),
    Lack("CONNECT BY: it has WITH RECURSIVE", "SELECT 1 AS a CONNECT BY a < 2"),
)
COPIES_LACK: Final = "A copy on DuckDB, without foreign keys."

BUILT_IN: Final = (
    "coalesce",
    "nullif",
    "cast",
    "try_cast",
    "extract",
    "position",
    "trim",
    "ifnull",
)
"""What the grammar has, and its list of functions has not."""


@cache
def capabilities() -> Capabilities:
    """What the DuckDB that runs can do; its functions are read off it, without the refused ones."""
    import duckdb

    from jentrow.core.engines.duckdb.policy import REFUSED

    with duckdb.connect(":memory:") as db:
        found = db.execute(
            "SELECT DISTINCT lower(function_name) FROM duckdb_functions()"
        ).fetchall()
    names = {name for (name,) in found if name.isidentifier() and not REFUSED.fullmatch(name)}
    return Capabilities(
        "duckdb",
        "DuckDB",
        "duckdb",
        tuple(sorted({*names, *BUILT_IN})),
        LACKS,
        copies_lack=COPIES_LACK,
    )
