"""A script for SQLite without what is not SQL, and what is not of tables that a sample keeps."""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.samples.scripts.pieces import LeaveOut, Pieces
from jentrow.core.samples.scripts.reasons import LINE, OF_NO_DATA, VIRTUAL
from jentrow.core.sql.tokens import each_token, name_of

_MAY_HOLD: Final = re.compile(
    r"^[ \t]*\.[a-z]|\bCREATE\s+VIRTUAL\b|\bsqlite_(?:schema|master)\b",
    re.IGNORECASE | re.MULTILINE,
)
"""What a script has that has anything to be left out: cutting a large one takes long."""

_SCHEMA: Final = re.compile(
    r"(?:DELETE\s+FROM|INSERT\s+INTO|UPDATE)\s+sqlite_(?:schema|master)\b", re.IGNORECASE
)
_VIRTUAL: Final = re.compile(
    r"CREATE\s+VIRTUAL\s+TABLE\s+(?:IF\s+NOT\s+EXISTS\s+)?(?=[\w\"\[`'])", re.IGNORECASE
)
_ROWS: Final = re.compile(r"(?:INSERT\s+(?:OR\s+\w+\s+)?|REPLACE\s+)INTO\s+", re.IGNORECASE)


def without_lines(script: str, leave_out: LeaveOut) -> str:
    """The script with nothing in it that a sample cannot take over; every line stays where it was.

    That are lines for the program that runs it, which begin with a dot, virtual tables, and changes
    of SQLite's own catalogue. They are told to ``leave_out``: the line, the text, and why.
    """
    if not _MAY_HOLD.search(script):
        return script
    pieces = Pieces(script, leave_out)
    virtual: set[str] = set()
    at = 0
    while at < len(script):
        begins = end = -1
        for token in each_token(script, "sqlite", at):
            if begins < 0 and token.word == "." and _begins_line(script, token.start):
                begins, end = token.start, _end_of_line(script, token.start)
                pieces.leave(begins, end, LINE)
                break
            if begins < 0 and token.word != ";":
                begins = token.start
            if token.word == ";":
                end = token.end
                if begins >= 0 and (why := _why(script, begins, virtual)):
                    pieces.leave(begins, end, why)
                break
        if end < 0:
            break
        at = end
    return pieces.text()


def _begins_line(script: str, at: int) -> bool:
    return not script[script.rfind("\n", 0, at) + 1 : at].strip()


def _end_of_line(script: str, at: int) -> int:
    end = script.find("\n", at)
    return len(script) if end < 0 else end


def _why(script: str, at: int, virtual: set[str]) -> str:
    """Why a statement is left out; empty where it is not."""
    if _SCHEMA.match(script, at):
        return OF_NO_DATA
    if made := _VIRTUAL.match(script, at):
        virtual.add(_named(script, made.end()))
        return VIRTUAL
    rows = _ROWS.match(script, at) if virtual else None
    return VIRTUAL if rows and _named(script, rows.end()) in virtual else ""


def _named(script: str, at: int) -> str:
    token = next(each_token(script, "sqlite", at))
    return (name_of(script, token) or "").lower()
