"""A Db2 script with a semicolon behind each statement, whatever sign the script ends them with.

``--#SET TERMINATOR @`` on a line of its own says what ends a statement from there on: it is for
programs, which have semicolons inside. Sources: the command line processor's options in the
references of Db2 11.5 (https://www.ibm.com/docs/en/db2/11.5).
"""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.samples.scripts.pieces import LeaveOut, Pieces
from jentrow.core.samples.scripts.reasons import LINE, PROGRAM
from jentrow.core.sql.tokens import each_token

_TERMINATOR: Final = re.compile(r"^[ \t]*--#SET[ \t]+TERMINATOR[ \t]+(\S)", re.I | re.MULTILINE)
_LINE: Final = re.compile(
    r"^[ \t]*(?:CONNECT\s+(?:TO|RESET)|TERMINATE|QUIT|ECHO|DISCONNECT|UPDATE\s+COMMAND\s+OPTIONS|"
    r"CREATE\s+BUFFERPOOL|RUNSTATS|REORG)\b[^\n;@]*[;@]?",
    re.IGNORECASE | re.MULTILINE,
)
_PROGRAM: Final = re.compile(
    r"CREATE\s+(?:OR\s+REPLACE\s+)?(?:TRIGGER|PROCEDURE|FUNCTION|MODULE|TYPE)\b|BEGIN\b", re.I
)


def with_semicolons(script: str, leave_out: LeaveOut) -> str:
    """The script with semicolons behind its statements; every line stays where it was.

    What no sample can take over is blank in it, and told to ``leave_out``: its line, its text, why.
    """
    signs = [(0, ";"), *((one.end(), one[1]) for one in _TERMINATOR.finditer(script))]
    lines = Pieces(script, leave_out)
    for line in _LINE.finditer(script):
        lines.leave(line.start(), line.end(), LINE)
    script = lines.text()
    pieces = Pieces(script, leave_out)
    start = end = at = 0
    for token in each_token(script, "db2"):
        while at + 1 < len(signs) and signs[at + 1][0] <= token.start:
            at += 1
        if token.word != signs[at][1]:
            start, end = (start if start < end else token.start), token.end
            continue
        _take(script, pieces, start, end)
        if token.word != ";":
            pieces.blank(token.start, token.end)
        start = end = token.end
    _take(script, pieces, start, end)
    return pieces.text()


def _take(script: str, pieces: Pieces, start: int, end: int) -> None:
    if start >= end:
        return
    if _PROGRAM.match(script, start):
        pieces.leave(start, end, PROGRAM)
    else:
        pieces.end_statement(end)
