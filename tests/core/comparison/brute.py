"""An independent, slow comparison to hold the real one against: it tries everything."""

from __future__ import annotations

from itertools import combinations, permutations, product
from typing import Any

Row = tuple[Any, ...]


def equal(one: Any, other: Any, absolute: float) -> bool:
    """Plain cell equality for None, int, float and str; tolerance only where given."""
    if one is None or other is None:
        return one is other
    if isinstance(one, str) or isinstance(other, str):
        return one == other
    if one == other:
        return True
    if absolute:
        return abs(one - other) <= absolute
    if isinstance(one, float) or isinstance(other, float):
        return abs(one - other) <= max(1e-12, 1e-9 * max(abs(one), abs(other)))
    return False


def allowed_results(rows: list[Row], ranks: list[int] | None, spare: dict[int, list[Row]]) -> Any:
    """Every sequence that is right: ties in any order, any choice where a limit cut a tie."""
    ranks = ranks if ranks is not None else [0] * len(rows)
    groups: list[list[Any]] = []
    for rank in dict.fromkeys(ranks):
        kept = [row for row, at in zip(rows, ranks, strict=True) if at == rank]
        pool = kept + spare.get(rank, [])
        groups.append([p for c in combinations(pool, len(kept)) for p in permutations(c)])
    for parts in product(*groups):
        yield [row for part in parts for row in part]


def same(
    rows: list[Row],
    given: list[Row],
    *,
    ranks: list[int] | None = None,
    spare: dict[int, list[Row]] | None = None,
    absolute: float = 0.0,
) -> bool:
    """Whether the given rows are one of the allowed results."""
    return any(
        len(result) == len(given)
        and all(
            all(equal(a, b, absolute) for a, b in zip(one, other, strict=True))
            for one, other in zip(result, given, strict=True)
        )
        for result in allowed_results(rows, ranks, spare or {})
    )


def same_with_columns_in_any_order(rows: list[Row], given: list[Row], width: int) -> bool:
    """Whether some permutation of the columns makes the bags equal."""
    return any(
        same(rows, [tuple(row[at] for at in order) for row in given])
        for order in permutations(range(width))
    )
