"""What a learner hands in around a query that is for the program which runs it, and no SQL."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final

from jentrow.core.sql.text import Place, place_at, skip_blank
from jentrow.core.sql.tokens import statements_in

_BEGINS: Final = re.compile(
    r"(?P<fence>```[ \t]*\w*[ \t]*\n)|(?P<prompt>[\w.\[\]()-]+(?:[ ]\[[\w()]*\])?[=-]?[>#][ \t]+)|"
    r"(?P<line>(?:[.\\][a-z]\w*|DELIMITER\b|PROMPT\b)[^\n]*(?:\n|\Z)|GO[ \t]*\n)|"
    r"(?P<setting>(?:USE|SET)\b[^\n;]*(?:;|\n))",
    re.IGNORECASE,
)
_ENDS: Final = re.compile(
    r"(?P<fence>\n```)\s*\Z|(?P<line>(?:\A|\n)[ \t]*(?:GO|/)|\\[gGpx]\w*|(?<=\S)@)[ \t;]*\s*\Z",
    re.IGNORECASE,
)
_READS: Final = frozenset({"SELECT", "WITH", "VALUES", "(", "FROM", "TABLE"})


@dataclass(frozen=True, slots=True)
class ScriptWords:
    """Something that is no SQL, at the beginning or the end: what to do, the text, and where."""

    message: str
    near: str
    place: Place


def script_words(sql: str, dialect: str) -> ScriptWords | None:
    """What stands around a text's one query that is for another program; None where nothing does.

    It is told only where one query is left without it.
    """
    start, end = skip_blank(sql), len(sql)
    found: list[tuple[int, re.Match[str]]] = []
    while begun := _BEGINS.match(sql, start):
        found.append((start, begun))
        start = skip_blank(sql, begun.end())
    while ended := _ENDS.search(sql, max(start, end - 40), end):
        found.append((ended.start(), ended))
        end = ended.start()
    if not found:
        return None
    left = statements_in(sql[start:end], dialect)
    if len(left) != 1 or left[0][0].word not in _READS:
        return None
    at, first = found[0]
    near = first.group().strip()
    at += len(first.group()) - len(first.group().lstrip())
    return ScriptWords(_message(first, near), near, place_at(sql, at))


def _message(found: re.Match[str], near: str) -> str:
    match found.lastgroup:
        case "fence":
            return "``` is no SQL: it marks a text of code elsewhere. Write the query alone."
        case "prompt":
            return f"{near} is no SQL: a program writes it before what is typed. Write the query alone."
        case "setting":
            return f"{near} is no part of a query: it sets up a session, which is done here. Write the query alone."
    return f"{near} is no part of a query: it is for the program that runs a script. Write the query alone."
