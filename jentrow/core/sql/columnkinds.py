"""What the columns of a dataset hold, as far as a translation has to know it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class ColumnKinds:
    """Columns by their names, in small letters; without any, nothing is known of them.

    ``texts`` are those that hold text in any table; ``dates``, ``moments`` (a date with its time of
    day), ``floats``, ``truths``, ``wholes`` (whole numbers) and ``decimals`` (numbers with a fraction,
    floats too) those that hold nothing else wherever they stand. In any table, ``filled`` are
    columns of CHAR (n) with a text that is shorter, and ``blank_ended`` those with a text that ends
    in blanks. ``names`` are those of all columns; ``lengths`` has the most letters that a column takes,
    0 where there is no bound or it holds no texts, once for each table in which it has another one.
    """

    texts: frozenset[str] = frozenset()
    dates: frozenset[str] = frozenset()
    moments: frozenset[str] = frozenset()
    floats: frozenset[str] = frozenset()
    truths: frozenset[str] = frozenset()
    wholes: frozenset[str] = frozenset()
    decimals: frozenset[str] = frozenset()
    filled: frozenset[str] = frozenset()
    blank_ended: frozenset[str] = frozenset()
    names: frozenset[str] = frozenset()
    lengths: frozenset[tuple[str, int]] = frozenset()


NOTHING_KNOWN: Final = ColumnKinds()
"""Where there is no dataset."""

_KINDS: Final = {
    "VARCHAR": "texts", "DATE": "dates", "DOUBLE": "floats", "FLOAT": "floats", "BOOLEAN": "truths",
    **dict.fromkeys(("TINYINT", "SMALLINT", "INTEGER", "BIGINT", "HUGEINT"), "wholes"),
}  # fmt: skip


FILLED: Final = "filled"
BLANK_ENDED: Final = "blank-ended"
LENGTH: Final = "length="
"""What is noted on a column of a dataset's file; a length has its number behind it."""


def column_kinds(columns: Iterable[tuple[str, str, str]]) -> ColumnKinds:
    """The kinds of columns, each given by its name, the stand-in's name of its type, and its notes."""
    found: dict[str, set[str]] = {}
    noted: dict[str, set[str]] = {FILLED: set(), BLANK_ENDED: set()}
    lengths: set[tuple[str, int]] = set()
    for name, type, notes in columns:
        found.setdefault(name.lower(), set()).add(_kind_of(type))
        for note in noted.keys() & set(notes.split()):
            noted[note].add(name.lower())
        said = next((one for one in notes.split() if one.startswith(LENGTH)), f"{LENGTH}0")
        lengths.add((name.lower(), int(said.removeprefix(LENGTH))))

    def only(*kinds: str) -> frozenset[str]:
        return frozenset(name for name, of in found.items() if of <= set(kinds))

    return ColumnKinds(
        frozenset(name for name, of in found.items() if "texts" in of),
        only("dates"),
        only("moments"),
        only("floats"),
        only("truths"),
        only("wholes"),
        only("decimals", "floats"),
        frozenset(noted[FILLED]),
        frozenset(noted[BLANK_ENDED]),
        frozenset(found),
        frozenset(lengths),
    )


def _kind_of(type: str) -> str:
    if type.startswith("TIMESTAMP"):
        return "moments"
    return "decimals" if type.startswith("DECIMAL") else _KINDS.get(type, "others")
