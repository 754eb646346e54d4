"""What the columns of a dataset hold, as far as a translation has to know it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Final


@dataclass(frozen=True, slots=True)
class ColumnKinds:
    """Columns by their names, in small letters; without any, nothing is known of them.

    ``texts`` are those that hold text in any table; ``dates``, ``moments`` (a date with its time of
    day) and ``floats`` those that hold nothing else wherever they stand.
    """

    texts: frozenset[str] = frozenset()
    dates: frozenset[str] = frozenset()
    moments: frozenset[str] = frozenset()
    floats: frozenset[str] = frozenset()


NOTHING_KNOWN: Final = ColumnKinds()
"""Where there is no dataset."""

_KINDS: Final = {"VARCHAR": "texts", "DATE": "dates", "DOUBLE": "floats", "FLOAT": "floats"}


def column_kinds(columns: Iterable[tuple[str, str]]) -> ColumnKinds:
    """The kinds of columns, each given by its name and the stand-in's name of its type."""
    found: dict[str, set[str]] = {}
    for name, type in columns:
        kind = "moments" if type.startswith("TIMESTAMP") else _KINDS.get(type, "others")
        found.setdefault(name.lower(), set()).add(kind)
    return ColumnKinds(
        frozenset(name for name, kinds in found.items() if "texts" in kinds),
        *(
            frozenset(name for name, kinds in found.items() if kinds == {kind})
            for kind in ("dates", "moments", "floats")
        ),
    )
