"""How the engine itself is made to tell which rows of a reference answer tie.

The query runs twice more, its ORDER BY as its author wrote it and in its own place, so that names,
positions, collations and NULLs mean what they mean there. Behind the author's keys the first run
sorts by all columns rising, the second by all columns falling. Rows that the keys tell apart then
come in the same order in both; rows that tie come in opposite orders. So the tie groups are the
finest parts that hold the same rows in both runs.

With rows of one group sorted by all their columns, the first j of it and the last j hold the same
rows only where all are equal, so no group is parted but into equal rows, which any order suits.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Iterator, Sequence
from itertools import pairwise
from typing import Final

from sqlglot import exp

from jentrow.core.results import Row
from jentrow.core.sql.freedom.moments import CHANCE
from jentrow.core.sql.shape import QueryShape
from jentrow.core.sql.tokens import tokens_of

_EXACTLY: Final = {"sqlite": "{place} COLLATE BINARY", "mysql": "BINARY {name}"}
"""What makes a column sort by its very characters, whatever its own collation, by dialect.

Of those that are not named here, text sorts so already where it would tie otherwise.
"""


def ordered_probe(
    shape: QueryShape, names: Sequence[str], dialect: str, *, falling: bool, repeats: bool = False,
    limit: int | None = None,
) -> str:  # fmt: skip
    """The query with all its columns as further sort keys, and with another limit or none.

    ``names`` are theirs; one without a name, or of no text, has an empty one and sorts by its place.

    With ``repeats`` the DISTINCT of its outermost SELECT is left out.
    """
    direction = " DESC" if falling else ""
    further = "".join(f", {key}{direction}" for key in _exact_keys(names, dialect))
    body = shape.body_with_repeats if repeats else shape.body
    if shape.combined and dialect == "mysql":
        # A set operation sorts by its columns alone there, and not by what is made of them.
        body = f"SELECT * FROM (\n{body}\n) AS jentrow_combined"
    cut = "" if limit is None else f"\nLIMIT {limit}"
    return f"{body}\n{shape.order}\n{further}{cut}"


def _exact_keys(names: Sequence[str], dialect: str) -> Iterator[str]:
    """A sort key for each column, by its very characters; by its place where it has no name of its own."""
    times = Counter(name.casefold() for name in names)
    exactly = _EXACTLY.get(dialect, "{place}")
    for place, name in enumerate(names, 1):
        if "{name}" in exactly and (times[name.casefold()] > 1 or not name):
            yield str(place)
        else:
            quoted = "`" + name.replace("`", "``") + "`"
            yield exactly.format(place=place, name=quoted)


def unordered_probe(shape: QueryShape, limit: int) -> str:
    """The query with another limit: for one whose LIMIT takes any rows."""
    return f"{shape.body}\nLIMIT {limit}"


def offset_probe(shape: QueryShape) -> str:
    """A query for how many rows the query skips."""
    return f"{shape.opening}\nSELECT {shape.offset}"


def changes_by_itself(sql: str, dialect: str) -> bool:
    """Whether a text calls a function whose value changes from run to run."""
    return any(
        token.kind == "word" and token.word.lower() in CHANCE and after.word == "("
        for token, after in pairwise(tokens_of(sql, dialect))
    )


def tie_groups(rising: Sequence[Row], falling: Sequence[Row]) -> list[int] | None:
    """The number of each row's tie group, from 1, never falling; None where there is no telling."""
    ranks = whole_groups(rising, falling)
    return ranks if len(ranks) == len(rising) == len(falling) else None


def whole_groups(rising: Sequence[Row], falling: Sequence[Row]) -> list[int]:
    """The number of the tie group of each row, as far as the groups are whole on both sides.

    ``rising`` and ``falling`` are the rows of the two runs. Groups of rows that are equal but for
    their types (1 and 1.0) sort as equal, so that the runs cannot part them: they count as one.
    """
    ranks: list[int] = []
    rank = 1
    begun = 0
    open_rows: Counter[Hashable] = Counter()
    for at, (row, other) in enumerate(zip(rising, falling, strict=False)):
        ranks.append(rank)
        for one, change in ((identity(row), 1), (identity(other), -1)):
            open_rows[one] += change
            if not open_rows[one]:
                del open_rows[one]
        if open_rows:
            continue
        if not _may_go_on(rising, falling, begun, at):
            rank += 1
            begun = at + 1
    return ranks[:begun]


def _may_go_on(rising: Sequence[Row], falling: Sequence[Row], begun: int, at: int) -> bool:
    """Whether the group that ends at a row, and the next one, are equal but for their types."""
    if at + 1 >= min(len(rising), len(falling)):
        return False
    following = rising[at + 1]
    alike = rising[begun] == rising[at] == following == falling[at + 1]
    return alike and identity(rising[at]) != identity(following)


def repeats_probe(shape: QueryShape, width: int) -> str:
    """The query without its DISTINCT, and beside each row the number of the row that it would be.

    The engine numbers them as it would make them one, by the collations of the columns.
    """
    columns = ", ".join(f"c{at}" for at in range(width))
    return (
        f"WITH jentrow_repeats({columns}) AS (\n{shape.body_with_repeats}\n)\n"
        f"SELECT *, DENSE_RANK() OVER (ORDER BY {columns}) FROM jentrow_repeats"
    )


def stand_together(things: Sequence[Hashable], ranks: Sequence[int]) -> bool:
    """Whether equal things stand in one tie group, or with nothing else between them."""
    groups: dict[int, set[Hashable]] = {}
    places: dict[Hashable, set[int]] = {}
    for thing, rank in zip(things, ranks, strict=True):
        groups.setdefault(rank, set()).add(thing)
        places.setdefault(thing, set()).add(rank)
    return all(
        len(held) == 1
        or (max(held) - min(held) + 1 == len(held) and all(len(groups[at]) == 1 for at in held))
        for held in places.values()
    )


def identity(row: Row) -> Hashable:
    """A stand-in for a row that tells apart whatever the engine tells apart, types included."""
    return tuple((value.__class__, value) for value in row)


def keys_are_shown(tree: exp.Query | None) -> bool:
    """Whether each sort key of a DISTINCT query is surely one of the columns that it shows.

    If not, rows made one by DISTINCT may differ in their keys (also where a collation made them
    one): whether they do, the rows say.
    """
    order = tree.args.get("order") if isinstance(tree, exp.Select) else None
    if order is None:
        return False
    assert isinstance(tree, exp.Select)
    return all(_is_shown(key.this, tree) for key in order.expressions)


def _is_shown(key: exp.Expr, select: exp.Select) -> bool:
    key = key.unnest()
    items = select.selects
    if isinstance(key, exp.Literal) and key.is_int:
        return True
    if isinstance(key, exp.Column) and not key.table:
        aliases = [item.alias.lower() for item in items if isinstance(item, exp.Alias)]
        if key.name.lower() in aliases:
            return True
    shown = [item.unalias().unnest() for item in items]
    return any(one == key or _is_same_column(key, one) for one in shown)


def _is_same_column(column: exp.Expr, shown: exp.Expr) -> bool:
    if not (isinstance(column, exp.Column) and isinstance(shown, exp.Column)):
        return False
    if shown.name.lower() != column.name.lower():
        return False
    return not (column.table and shown.table) or column.table.lower() == shown.table.lower()
