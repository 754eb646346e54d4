"""What one text means on one engine and another: told where the text holds it and results differ.

Each case is tried on the engines themselves in tests/core/engines/test_differences.py.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from jentrow.core.sql.skeleton import Skeleton, skeleton_of

SQLITE, DUCKDB, POSTGRESQL, MARIADB = "sqlite", "duckdb", "postgresql", "mariadb"


@dataclass(frozen=True, slots=True)
class Difference:
    """Something that engines do differently: what it is, where a text holds it, what each does.

    ``example`` is a query of one value that shows it; ``does`` has, by engine, the words and what
    the example gives there.
    """

    name: str
    holds: Callable[[Skeleton], bool]
    example: str
    does: Mapping[str, tuple[str, object]]


def _has(pattern: str) -> Callable[[Skeleton], bool]:
    found = re.compile(pattern)
    return lambda skeleton: bool(skeleton.spans(found))


def _divides_by_zero(skeleton: Skeleton) -> bool:
    return any(
        skeleton.word(at) == "/" and skeleton.written(at + 1) in ("0", "0.0")
        for at in range(len(skeleton.tokens))
    )


_REST: Final = "leaves the rest off"
_FRACTION: Final = "gives a fraction"
_FIRST, _LAST = "puts NULL first", "puts NULL last"
_EXACT, _ANY_CASE = "tells upper from lower case", "does not tell upper from lower case"
_NUMBER, _TRUTH = "gives 1 or 0", "gives true or false"

DIFFERENCES: Final = (
    Difference(
        "Dividing whole numbers",
        _has(r" / "),
        "SELECT 7 / 2 > 3",
        {
            SQLITE: (_REST, 0), POSTGRESQL: (_REST, False), DUCKDB: (_FRACTION, True),
            MARIADB: (_FRACTION, 1),
        },
    ),
    Difference(
        "Where NULL sorts, rising",
        _has(r" ORDER BY "),
        "SELECT n FROM (SELECT NULL AS n UNION ALL SELECT 1) AS t ORDER BY n LIMIT 1",
        {SQLITE: (_FIRST, None), MARIADB: (_FIRST, None), POSTGRESQL: (_LAST, 1), DUCKDB: (_LAST, 1)},
    ),
    Difference(
        "Comparing texts",
        _has(r" (=|<>|IN|DISTINCT|GROUP) "),
        "SELECT 'auk' = 'Auk'",
        {
            SQLITE: (_EXACT, 0), DUCKDB: (_EXACT, False), POSTGRESQL: (_EXACT, False),
            MARIADB: (_ANY_CASE, 1),
        },
    ),
    Difference(
        "LIKE",
        _has(r" LIKE "),
        "SELECT 'Auk' LIKE 'a%'",
        {
            SQLITE: (_ANY_CASE, 1), MARIADB: (_ANY_CASE, 1), DUCKDB: (_EXACT, False),
            POSTGRESQL: (_EXACT, False),
        },
    ),
    Difference(
        "A condition as a value",
        _has(r" (SELECT|,) [^,]*(=|<|>|IS) "),
        "SELECT 1 = 1",
        {
            SQLITE: (_NUMBER, 1), MARIADB: (_NUMBER, 1), DUCKDB: (_TRUTH, True),
            POSTGRESQL: (_TRUTH, True),
        },
    ),
    Difference(
        "||",
        _has(r" \|\| "),
        "SELECT 'a' || 'b'",
        {
            SQLITE: ("joins texts", "ab"), DUCKDB: ("joins texts", "ab"),
            POSTGRESQL: ("joins texts", "ab"), MARIADB: ("means OR", 0),
        },
    ),
    Difference(
        "Double quotes",
        _has(r' " |" '),
        'SELECT "name" FROM (SELECT 1 AS name) AS t',
        {
            SQLITE: ("mark a name", 1), DUCKDB: ("mark a name", 1), POSTGRESQL: ("mark a name", 1),
            MARIADB: ("mark a text", "name"),
        },
    ),
    Difference(
        "Dividing by zero",
        _divides_by_zero,
        "SELECT 1.0 / 0",
        {
            SQLITE: ("gives NULL", None), MARIADB: ("gives NULL", None),
            DUCKDB: ("gives infinity", float("inf")), POSTGRESQL: ("is an error", "error"),
        },
    ),
    Difference(
        "The average of whole numbers",
        _has(r" AVG \( "),
        "SELECT AVG(n) FROM (SELECT 7 AS n UNION ALL SELECT 4 UNION ALL SELECT 9) AS t",
        {
            SQLITE: ("has all its places", 20 / 3), DUCKDB: ("has all its places", 20 / 3),
            POSTGRESQL: ("has sixteen places", Decimal("6.6666666666666667")),
            MARIADB: ("has four places", Decimal("6.6667")),
        },
    ),
    Difference(
        "A column beside an aggregate that is not grouped",
        _has(r" (COUNT|SUM|AVG|MIN|MAX) \( "),
        "SELECT MIN(a) + b FROM (SELECT 1 AS a, 2 AS b) AS t",
        {
            SQLITE: ("takes the value of some row", 3), MARIADB: ("takes the value of some row", 3),
            DUCKDB: ("is an error", "error"), POSTGRESQL: ("is an error", "error"),
        },
    ),
)  # fmt: skip
"""What engines do differently with the same words."""


def differences_in(sql: str, dialect: str, one: str, other: str) -> list[str]:
    """What a text holds that two engines do differently, a sentence each."""
    skeleton = skeleton_of(sql, dialect)
    return [
        f"{case.name}: {_label(one)} {case.does[one][0]}, {_label(other)} {case.does[other][0]}."
        for case in DIFFERENCES
        if one in case.does
        and other in case.does
        and case.does[one][0] != case.does[other][0]
        and case.holds(skeleton)
    ]


def _label(engine: str) -> str:
    return {SQLITE: "SQLite", DUCKDB: "DuckDB", POSTGRESQL: "PostgreSQL", MARIADB: "MariaDB"}[
        engine
    ]
