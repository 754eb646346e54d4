"""What stands around the statements of a script for MariaDB or MySQL: delimiters, comments that run."""

from __future__ import annotations

import re
from typing import Final

from jentrow.core.sql.tokens import blanks_of

_DELIMITER: Final = re.compile(
    r"^[ \t]*DELIMITER[ \t]+(\S+)[ \t\r]*$", re.IGNORECASE | re.MULTILINE
)
_DEFINES_PROGRAM: Final = re.compile(r"\b(?:TRIGGER|PROCEDURE|FUNCTION|EVENT)\b", re.IGNORECASE)


def without_delimiters(script: str) -> tuple[str, list[tuple[int, str]]]:
    """A script for MariaDB without its DELIMITER lines, in which a semicolon ends each statement.

    Programs, which have semicolons inside and are what DELIMITER is for, are taken out: they come
    beside it, each with its line. Everything else stays in its line.
    """
    parts: list[str] = []
    programs: list[tuple[int, str]] = []
    at, sign = 0, ";"
    for said in [*_DELIMITER.finditer(script), None]:
        end = len(script) if said is None else said.start()
        if sign == ";":
            parts.append(script[at:end])
        else:
            for piece in script[at:end].split(sign):
                text = piece.strip()
                before = piece[: len(piece) - len(piece.lstrip())]
                line = script.count("\n", 0, at) + 1 + before.count("\n")
                at += len(piece) + len(sign)
                if text and (";" in text or _DEFINES_PROGRAM.search(text)):
                    programs.append((line, text))
                    parts.append("\n" * piece.count("\n"))
                else:
                    parts.append(f"{piece};" if text else piece)
        if said is not None:
            at, sign = said.end(), said[1]
    return "".join(parts), programs


_VERSIONED: Final = re.compile(r"/\*M?!(\d{5,6})?")
_OF_ANOTHER_SERVER: Final = range(50_700, 100_000)
"""Versions that only MySQL has: https://mariadb.com/kb/en/comment-syntax/."""

_NEWEST: Final = 120_000
_OWNER: Final = re.compile(
    r"\b(?:ALGORITHM\s*=\s*\w+|DEFINER\s*=\s*\S+|SQL\s+SECURITY\s+(?:DEFINER|INVOKER))\s+"
    r"(?=(?:[^;]*?\s)?(?:VIEW|SQL\s+SECURITY|DEFINER)\b)",
    re.IGNORECASE,
)


def with_versioned_comments(script: str) -> str:
    """The script with what stands in comments that servers of some version run: dumps are full of it.

    Whose a view is on a server is left out. Everything stays in its line.
    """
    if "/*" not in script:
        return script
    parts, at = [], 0
    for start, end in blanks_of(script, "mysql"):
        found = _VERSIONED.match(script, start, end)
        if found is None:
            continue
        version = int(found[1] or 0)
        if version in _OF_ANOTHER_SERVER or version > _NEWEST:
            continue
        inside = script[found.end() : end].removesuffix("*/")
        parts += [script[at:start], " ", _OWNER.sub(" ", inside), " "]
        at = end
    return "".join([*parts, script[at:]])
