"""An Oracle script without what is not SQL: lines for the program that runs it, and blocks.

A line for that program begins with a word of its own where a statement would begin, and ends with
the line; a block of PL/SQL, which has semicolons inside, ends with a slash on a line of its own.
See https://docs.oracle.com/en/database/oracle/oracle-database/23/sqlrf/ for what is SQL.
"""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.samples.scripts.pieces import LeaveOut, Pieces
from jentrow.core.samples.scripts.reasons import LINE, PROGRAM
from jentrow.core.sql.text import skip_blank
from jentrow.core.sql.tokens import each_token

_LINE: Final = re.compile(
    r"(?:SET(?!\s+(?:TRANSACTION|ROLE|CONSTRAINTS?)\b)|PROMPT|PRO|REM|REMARK|SPOOL|EXIT|QUIT|WHENEVER|CONNECT|CONN|"
    r"DISCONNECT|DEFINE|UNDEFINE|COLUMN|COL|TTITLE|BTITLE|START|SHOW|SHO|DESCRIBE|DESC|EXECUTE|EXEC|"
    r"PAUSE|CLEAR|HOST|ACCEPT|VARIABLE|VAR|PRINT|TIMING)\b(?:[^\n]*-[ \t\r]*\n)*[^\n]*|@[^\n]*",
    re.IGNORECASE,
)
_BLOCK: Final = re.compile(
    r"(?:DECLARE|BEGIN)\b|CREATE\s+(?:OR\s+REPLACE\s+)?(?:(?:NON)?EDITIONABLE\s+)?"
    r"(?:TRIGGER|PROCEDURE|FUNCTION|PACKAGE|TYPE\s+BODY)\b",
    re.IGNORECASE,
)
_SLASH: Final = re.compile(r"^[ \t]*/[ \t\r]*$", re.MULTILINE)


def plain(script: str, leave_out: LeaveOut) -> str:
    """The script with nothing but SQL in it; every line stays where it was.

    What else there was is told to ``leave_out``: its line, its text, and why.
    """
    pieces = Pieces(script, leave_out)
    slashes = [found.span() for found in _SLASH.finditer(script)] + [(len(script), len(script))]
    at = following = 0
    while True:
        at = skip_blank(script, at)
        while slashes[following][0] < at and slashes[following][1] < len(script):
            following += 1
        slash, behind = slashes[following]
        if at == len(script):
            return pieces.text()
        if slash <= at:
            pieces.blank(slash, behind)
            at = behind
        elif line := _LINE.match(script, at):
            pieces.leave(at, line.end(), LINE)
            at = line.end()
        elif _BLOCK.match(script, at):
            pieces.leave(at, slash, PROGRAM)
            pieces.blank(slash, behind)
            at = behind
        else:
            at = _end(script, at, slash)
            if at == slash:  # which ends a statement as a semicolon does
                pieces.end_statement(at)
                pieces.blank(slash, behind)
                at = behind


def _end(script: str, at: int, slash: int) -> int:
    """The place behind the semicolon of the statement that begins here, or that of the slash."""
    for token in each_token(script, "oracle", at):
        if token.start >= slash:
            return slash
        if token.word == ";":
            return token.end
    return slash
