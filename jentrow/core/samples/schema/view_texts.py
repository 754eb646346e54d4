"""The text of a view as its author wrote it, kept beside what SQLite reads in its place.

A sample is an SQLite file, and a view written for another engine is a translation there, or stands
empty where SQLite cannot read it. The author's words stay in a comment behind AS, where SQLite keeps
them; an engine of their dialect makes the view of them.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Final

from jentrow.core.sql.text import quoted_name
from jentrow.core.sql.tokens import tokens_of

_HEADING: Final = "-- as written for {dialect}:"
_ALONE: Final = "-- only for {dialect}, as written:"
_LINE: Final = "--   "
_KEPT: Final = re.compile(
    r"^--[ ](?:as[ ]written[ ]for[ ](?P<for>\w+)|(?P<alone>only)[ ]for[ ](?P<only>\w+),[ ]as[ ]written):"
    r"[ \t\r]*\n(?P<text>(?:--(?:[ ]{3}[^\n]*|[ \t\r]*)(?:\n|\Z))+)",
    re.MULTILINE | re.VERBOSE,
)


def kept(view: str, dialect: str, written: str) -> str:
    """DDL of a view for SQLite that also says how its author wrote it, in another dialect."""
    behind = next(one.end for one in tokens_of(view, "sqlite") if one.word == "AS")
    return f"{view[:behind]}\n{_lines(_HEADING, dialect, written)}{view[behind:].lstrip()}"


def stand_in(name: str, columns: Sequence[str], dialect: str, written: str) -> str:
    """DDL of a view that SQLite cannot read: its columns, no row, and how its author wrote it."""
    cells = ", ".join(f"NULL AS {quoted_name(column)}" for column in columns)
    text = _lines(_ALONE, dialect, written)
    return f"CREATE VIEW {quoted_name(name)} AS\n{text}SELECT {cells} WHERE 0"


def _lines(heading: str, dialect: str, written: str) -> str:
    lines = "".join(f"{_LINE}{line}\n" for line in written.strip().split("\n"))
    return f"{heading.format(dialect=dialect)}\n{lines}"


def author_of(view: str) -> tuple[str, str] | None:
    """The dialect and the words in which a view was written; None where SQLite reads those."""
    found = _KEPT.search(view)
    if found is None:
        return None
    lines = found["text"].removesuffix("\n").split("\n")
    written = "\n".join(line.removeprefix(_LINE).removeprefix("--") for line in lines)
    return found["for"] or found["only"], written


def is_stand_in(view: str) -> bool:
    """Whether SQLite has only the columns of a view, and no row of it."""
    found = _KEPT.search(view)
    return found is not None and found["alone"] is not None


def without_kept_texts(script: str) -> str:
    """A script without what it keeps of other dialects."""
    return _KEPT.sub("", script)
