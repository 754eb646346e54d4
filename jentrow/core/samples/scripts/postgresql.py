"""What stands in a script for PostgreSQL that is not SQL: rows behind COPY, lines with a backslash."""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.samples.scripts.pieces import LeaveOut, Pieces
from jentrow.core.samples.scripts.reasons import LINE
from jentrow.core.sql.text import quoted_text
from jentrow.core.sql.tokens import each_token

COPY: Final = re.compile(
    r"^COPY\s+(?P<table>[^\s(]+)\s*(?:\((?P<columns>[^)]*)\))?\s+FROM\s+stdin[^;\n]*;\n"
    r"(?P<rows>.*?)^\\\.$\n?",
    re.IGNORECASE | re.MULTILINE | re.DOTALL,
)
_ESCAPES: Final = {"n": "\n", "t": "\t", "r": "\r", "b": "\b", "f": "\f", "v": "\v"}


def insert_of_copy(copy: re.Match[str], overriding: str = "") -> str:
    """The rows behind a COPY as one INSERT; ``overriding`` is what that says of numbered columns."""

    def field(text: str) -> str:
        if text == "\\N":
            return "NULL"
        text = re.sub(r"\\(.)", lambda found: _ESCAPES.get(found[1], found[1]), text)
        if "\n" in text:  # what follows stays in its line
            text = text.replace("\\", "\\\\").replace("\n", "\\n")
            return f"E{quoted_text(text)}"
        return quoted_text(text)

    rows = [
        "(" + ", ".join(map(field, line.split("\t"))) + ")"
        for line in copy["rows"].removesuffix("\n").split("\n")
        if copy["rows"]
    ]
    columns = f" ({copy['columns']})" if copy["columns"] else ""
    if not rows:
        return "SELECT 1"
    return f"INSERT INTO {copy['table']}{columns}{overriding} VALUES {', '.join(rows)}"


def with_copied_rows(script: str) -> str:
    """A script for PostgreSQL in which rows inside COPY stand in INSERTs, and all in its line."""

    def insert(copy: re.Match[str]) -> str:
        # COPY fills numbered columns as it fills any other.
        lines = copy[0].count("\n")
        return f"{insert_of_copy(copy, ' OVERRIDING SYSTEM VALUE')};" + "\n" * lines

    return COPY.sub(insert, script)


def without_lines(script: str, leave_out: LeaveOut) -> str:
    """The script without lines for the program that runs it, which begin with a backslash.

    Such a line stands where a statement would begin. Everything else stays in its line.
    """
    if "\\" not in script:
        return script
    pieces = Pieces(script, leave_out)
    at = 0
    is_first = True
    while at < len(script):
        for token in each_token(script, "postgres", at):
            if is_first and token.word == "\\":
                end = script.find("\n", token.start)
                at = len(script) if end < 0 else end
                pieces.leave(token.start, at, LINE)
                break
            is_first = token.word == ";"
        else:
            return pieces.text()
    return pieces.text()
