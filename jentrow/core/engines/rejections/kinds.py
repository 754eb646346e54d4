"""Types in an engine's words, as people say them."""

from __future__ import annotations

import re
from typing import Final


def kind_of(type: str) -> str:
    """An engine's name of a type, as people say it."""
    found = _ENUMERATED.sub("enumeration", type.strip().lower())
    return _KINDS.get(found, found)


_ENUMERATED: Final = re.compile(r"enum\([^()]*\)", re.IGNORECASE)
"""How DuckDB names the type of an enumeration: by all of its values."""

_KINDS: Final = {
    "string_literal": "text", "unknown": "text", "varchar": "text", "character varying": "text",
    "integer_literal": "integer", "timestamp without time zone": "timestamp", "int32": "integer",
    "int64": "integer", "time without time zone": "time", '"null"': "NULL",
}  # fmt: skip


def kinds_in(types: str) -> str:
    """The same of several types with commas between."""
    named = _ENUMERATED.sub("enumeration", types)
    return ", ".join(map(kind_of, filter(None, named.split(", "))))
