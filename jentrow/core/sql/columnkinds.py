"""What the columns of a dataset hold, as far as a translation has to know it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class ColumnKinds:
    """Columns by their names, in small letters; without any, nothing is known of them.

    ``texts`` are those that hold text in any table; ``dates``, ``moments`` (a date with its time of
    day) and ``floats`` those that hold nothing else wherever they stand. In any table, ``filled``
    are columns of CHAR (n) with a text that is shorter, and ``blank_ended`` those with a text that
    ends in blanks.
    """

    texts: frozenset[str] = frozenset()
    dates: frozenset[str] = frozenset()
    moments: frozenset[str] = frozenset()
    floats: frozenset[str] = frozenset()
    filled: frozenset[str] = frozenset()
    blank_ended: frozenset[str] = frozenset()


NOTHING_KNOWN: Final = ColumnKinds()
"""Where there is no dataset."""

_KINDS: Final = {"VARCHAR": "texts", "DATE": "dates", "DOUBLE": "floats", "FLOAT": "floats"}


FILLED: Final = "filled"
BLANK_ENDED: Final = "blank-ended"
"""What is noted on a column of a dataset's file."""


def column_kinds(columns: Iterable[tuple[str, str, str]]) -> ColumnKinds:
    """The kinds of columns, each given by its name, the stand-in's name of its type, and its notes."""
    found: dict[str, set[str]] = {}
    noted: dict[str, set[str]] = {FILLED: set(), BLANK_ENDED: set()}
    for name, type, notes in columns:
        kind = "moments" if type.startswith("TIMESTAMP") else _KINDS.get(type, "others")
        found.setdefault(name.lower(), set()).add(kind)
        for note in noted.keys() & set(notes.split()):
            noted[note].add(name.lower())
    return ColumnKinds(
        frozenset(name for name, kinds in found.items() if "texts" in kinds),
        *(
            frozenset(name for name, kinds in found.items() if kinds == {kind})
            for kind in ("dates", "moments", "floats")
        ),
        *map(frozenset, noted.values()),
    )
