"""A script's CREATE TABLE, ALTER TABLE and CREATE INDEX in words that the parser knows.

The programs that write scripts put behind every key and every column how a server stores it, checks
it and fills its pages. The parser knows little of that, so that a table would be lost for the sake of
what is of no effect here: such settings are taken out. What is left is put in the words of most.
"""

from __future__ import annotations

import re
from typing import Final, NamedTuple

from jentrow.core.sql.tokens import blanked, masked

_NESTED: Final = r"\([^()]*(?:\([^()]*\)[^()]*)*\)"
_FIRST: Final = r"(?<=[^\s(,])\s+"
"""What follows stands behind other words of a part: it is no name of a column."""

_TSQL: Final = rf"""
    \b(?:NON)?CLUSTERED\b(?:\s+COLUMNSTORE\b)?
  | \bWITH\s*{_NESTED} | \bWITH\s+FILLFACTOR\s*=\s*\d+ | \bWITH\s+(?:NO)?CHECK\b(?=\s+ADD\b)
  | {_FIRST}(?:TEXTIMAGE_|FILESTREAM_)?ON\s+(?!DELETE\b|UPDATE\b)\w+(?:\s*\(\s*\w+\s*\))?
  | {_FIRST}(?:SPARSE|ROWGUIDCOL|FILESTREAM|HIDDEN|NOT\s+FOR\s+REPLICATION)\b
  | {_FIRST}GENERATED\s+ALWAYS\s+AS\s+ROW\s+(?:START|END)\b
  | {_FIRST}INDEX\s+\w+(?:\s*\([^()]*\))?
  | ,\s*INDEX\s+\w+\s*(?:UNIQUE\s*)?(?:(?:NON)?CLUSTERED\s*)?(?:COLUMNSTORE\s*)?\([^()]*\)(?:\s*INCLUDE\s*\([^()]*\))?
  | ,\s*PERIOD\s+FOR\s+SYSTEM_TIME\s*\([^()]*\)
"""
_ORACLE: Final = rf"""
    {_FIRST}(?:NOT\s+)?DEFERRABLE\b | {_FIRST}INITIALLY\s+(?:IMMEDIATE|DEFERRED)\b
  | {_FIRST}(?:ENABLE|DISABLE)(?:\s+(?:NO)?VALIDATE)?\b | {_FIRST}(?:NO)?RELY\b
  | {_FIRST}(?:IN)?VISIBLE\b | {_FIRST}VIRTUAL\b | {_FIRST}ON\s+NULL\b
  | (?<=\bIDENTITY)(?:\s+(?:START\s+WITH|INCREMENT\s+BY|(?:NO)?(?:MIN|MAX)VALUE|(?:NO)?CACHE|
      (?:NO)?ORDER|(?:NO)?CYCLE|(?:NO)?KEEP|(?:NO)?SCALE)\b(?:\s+-?\d+)?)+
  | {_FIRST}USING\s+INDEX\b(?:[^(),]|{_NESTED})*
  | ,\s*SUPPLEMENTAL\s+LOG\b(?:[^(),]|{_NESTED})*
"""
_DB2: Final = rf"""
    {_FIRST}WITH\s+DEFAULT\b(?=\s*(?:[,)]|\Z)|\s+(?:NOT|CONSTRAINT|PRIMARY|UNIQUE|REFERENCES|CHECK)\b)
  | {_FIRST}(?:NOT\s+)?(?:LOGGED|COMPACT|ENFORCED)\b | {_FIRST}INLINE\s+LENGTH\s+\d+
  | {_FIRST}CCSID\s+\w+ | {_FIRST}IMPLICITLY\s+HIDDEN\b | {_FIRST}FOR\s+(?:SBCS|MIXED)\s+DATA\b
  | {_FIRST}(?:ENABLE|DISABLE)\s+QUERY\s+OPTIMIZATION\b
"""
_SETTINGS: Final = {
    dialect: re.compile(pattern, re.IGNORECASE | re.VERBOSE)
    for dialect, pattern in (("tsql", _TSQL), ("oracle", _ORACLE), ("db2", _DB2))
}
_TABLE: Final = re.compile(r"\s*(?:CREATE|ALTER)\b[\w\s]*?\bTABLE\b", re.IGNORECASE)
_INDEX: Final = re.compile(
    r"\s*CREATE\b[\w\s]*?\bINDEX\b[^()]*" + _NESTED + r"(?P<rest>.*)\Z", re.IGNORECASE | re.DOTALL
)
_CONDITION: Final = re.compile(rf"\bWHERE\b(?:(?!\bWITH\b|\bON\b)[^()]|{_NESTED})*", re.IGNORECASE)
_OF_AN_INDEX: Final = re.compile(
    r"\b(?:NON)?CLUSTERED\b|\bBITMAP\b|\bINDEX\s+(?P<schema>\w+\s*\.)", re.IGNORECASE
)
_OF_A_QUERY: Final = re.compile(r"\bAS\b", re.IGNORECASE)
_AS_QUERY: Final = re.compile(
    r"[^()]*\bTABLE\b[^()]+?\bAS\b\s*[(]*\s*(?:SELECT|WITH)\b", re.IGNORECASE
)
_QUOTED_TYPE: Final = re.compile(
    r"(?:[(,]|\bADD\b|\bCOLUMN\b)\s*\w+\s+(q{3,})(?=\s*[(\s,)]|\Z)", re.IGNORECASE
)
_ADDED: Final = re.compile(r"\bADD\s*(\()(?P<what>.*)(\))\s*\Z", re.IGNORECASE | re.DOTALL)

_IN_A_ZONE: Final = r"(?:\s*\(\s*\d+\s*\))?\s+WITH\s+TIME\s+ZONE\b"

_NUMBERED: Final = r"(?<=\bIDENTITY)\s*\([^()]*\)"


def _numbered(found: re.Match[str]) -> str:
    """How a column is numbered, without what a server does for it to be quick."""
    said = re.findall(r"\b(?:START\s+WITH|INCREMENT\s+BY)\s+-?\d+", found[0], re.IGNORECASE)
    return f" ({' '.join(said)})" if said else ""


_WORDS: Final = {
    dialect: tuple((re.compile(pattern, re.IGNORECASE), words) for pattern, words in pairs)
    for dialect, pairs in {
        "": (
            (rf"{_FIRST}(?:ASC|DESC)(?=\s*[,)])", ""),
            (r"\bADD\s+(?=CHECK\b)", "ADD CONSTRAINT checked "),
        ),
        "tsql": (
            (r"\bIDENTITY\b(?!\s*\()", "IDENTITY(1, 1)"),
            (rf"{_FIRST}FOREIGN\s+KEY(?=\s+REFERENCES\b)", ""),
            # There it is a row's version, which no script gives: one that gives values means a moment.
            (rf"{_FIRST}TIMESTAMP\b(?!{_IN_A_ZONE})", " DATETIME2"),
            (rf"{_FIRST}TIMESTAMP{_IN_A_ZONE}", " DATETIMEOFFSET"),
        ),
        "oracle": (
            (r"(?<=\bNUMBER)\s*\(\s*\*", "(38"),
            (_NUMBERED, _numbered),
            (r"(?<=\d)\s*(?:BYTE|CHAR)\b(?=\s*\))", ""),
            (r"\bLONG\s+RAW\b", "BLOB"),
            (rf"{_FIRST}LONG\b", " CLOB"),
        ),
        "mysql": (
            (r"\bPARTITION\s+BY\b[\s\S]*\Z", ""),
            (rf"{_FIRST}INET[46]\b", " TEXT"),
            (rf"{_FIRST}(?:MULTI)?(?:POINT|LINESTRING|POLYGON)\b|{_FIRST}GEOMETRY(?:COLLECTION)?\b", " TEXT"),
        ),
        "db2": (
            (rf"{_FIRST}WITH(?=\s+DEFAULT\b)", ""),
            (r"\bCURRENT\s+(?=(?:DATE|TIME|TIMESTAMP)\b)", "CURRENT_"),
            (_NUMBERED, _numbered),
            (r"\bSET\s+DATA\s+TYPE\b", "TYPE"),
            (r"\bLONG\s+VARCHAR\b", "CLOB"),
        ),
    }.items()
}  # fmt: skip
"""What is put otherwise, in every dialect and in one."""


class Plain(NamedTuple):
    """A statement without the settings of a server, and those, as they stood in it."""

    text: str
    settings: str = ""


def without_settings(statement: str, dialect: str) -> Plain:
    """What makes or changes a table or an index, in plain words; any other statement as it is."""
    text = masked(statement, dialect) if _SETTINGS.get(dialect) else ""
    if found := _INDEX.match(text):
        return _cut(statement, _behind_keys(found))
    if not _TABLE.match(text or statement):
        return Plain(statement)
    plain = _cut(statement, _settings(text, _SETTINGS[dialect])) if text else Plain(statement)
    text = masked(plain.text, dialect)
    changes = [
        (found.start(), found.end(), words if isinstance(words, str) else words(found))
        for pattern, words in (*_WORDS[""], *_WORDS.get(dialect, ()))
        for found in pattern.finditer(text)
    ]
    for found in _QUOTED_TYPE.finditer(text) if dialect == "tsql" else ():  # [int] is int
        changes += [(one, one + 1, " ") for one in (found.start(1), found.end(1) - 1)]
    if (added := _ADDED.search(text)) and not added["what"].lstrip().upper().startswith("SELECT"):
        changes += [(one, one + 1, " ") for one in (added.start(1), added.start(3))]
    changed = plain.text
    for start, end, words in sorted(changes, reverse=True):
        changed = changed[:start] + words + "\n" * changed.count("\n", start, end) + changed[end:]
    return Plain(changed, plain.settings)


def _cut(statement: str, spans: list[tuple[int, int]]) -> Plain:
    chars = list(statement)
    for start, end in spans:
        chars[start:end] = blanked(statement[start:end])
    said = " ".join(statement[start:end].strip(" ,\n\t\r") for start, end in spans)
    return Plain("".join(chars), " ".join(said.split()))


def _settings(text: str, pattern: re.Pattern[str]) -> list[tuple[int, int]]:
    found = [one.span() for one in pattern.finditer(text)]
    behind = _behind_columns(text)
    if text[behind:].strip():
        found = [one for one in found if one[0] < behind] + [(behind, len(text))]
    return found


def _behind_columns(text: str) -> int:
    """Where the list of a table's columns has ended; the end where it has none, or is a query's."""
    if not re.match(r"\s*CREATE\b", text, re.IGNORECASE) or _AS_QUERY.match(text):
        return len(text)
    depth = 0
    for at, char in enumerate(text):
        depth += (char == "(") - (char == ")")
        if char == ")" and not depth:
            return len(text) if _OF_A_QUERY.search(text, at) else at + 1
    return len(text)


def _behind_keys(index: re.Match[str]) -> list[tuple[int, int]]:
    """What stands behind an index's keys but a condition on its rows, and how it is kept."""
    text, rest = index.string, index.start("rest")
    kept = _CONDITION.search(text, rest)
    spans = [(rest, kept.start()), (kept.end(), len(text))] if kept else [(rest, len(text))]
    words = [
        found.span("schema" if found["schema"] else 0)
        for found in _OF_AN_INDEX.finditer(text, 0, rest)
    ]
    return [one for one in words + spans if text[one[0] : one[1]].strip()]
