"""The dialects that scripts are read in, and by what a script shows which one it is in."""

from __future__ import annotations

import re
from typing import Final, Literal, TypeAlias

from jentrow.core.samples.schema.view_texts import without_kept_texts

ScriptDialect: TypeAlias = Literal["sqlite", "postgres", "mysql", "tsql", "oracle", "db2", "duckdb"]
"""The dialects, by the parser's names for them."""

_HINTS: Final[tuple[tuple[ScriptDialect, re.Pattern[str]], ...]] = (
    ("mysql", re.compile(r"`\w+`|\bENGINE\s*=|\bAUTO_INCREMENT\b|\bUNSIGNED\b", re.IGNORECASE)),
    (
        "tsql",
        re.compile(
            r"^[ \t]*GO[ \t\r]*$|\bIDENTITY\s*\(\s*\d|\[dbo\]|\bdbo\.|\bNVARCHAR\b|\bUNIQUEIDENTIFIER\b|"
            r"\bDATETIME(?:2|OFFSET)\b|\bSET\s+(?:NOCOUNT|ANSI_NULLS|QUOTED_IDENTIFIER|IDENTITY_INSERT)\b",
            re.IGNORECASE | re.M,
        ),
    ),
    (
        "oracle",
        re.compile(
            r"\bN?VARCHAR2\b|\bNUMBER\s*\(|\bSYS(?:DATE|TIMESTAMP)\b|\bTO_DATE\s*\(|\bINSERT\s+ALL\b|"
            r"\bNUMBER\s+(?:NOT\s+NULL|PRIMARY|DEFAULT|GENERATED|CONSTRAINT|REFERENCES|UNIQUE)\b",
            re.IGNORECASE,
        ),
    ),
    (
        "db2",
        re.compile(
            r"--#SET\s+TERMINATOR\b|\bORGANIZE\s+BY\s+(?:ROW|COLUMN)\b|\bFOR\s+BIT\s+DATA\b|"
            r"\bWITH\s+DEFAULT\b|\bDECFLOAT\b|\bVARGRAPHIC\b|\bSYSIBM\.|\bSET\s+CURRENT\s+SCHEMA\b|"
            r"\b(?:CURRENT|DEFAULT\s+CURRENT)\s+(?:DATE|TIMESTAMP)\b",
            re.IGNORECASE,
        ),
    ),
    (
        "duckdb",
        re.compile(
            r"\bHUGEINT\b|\bU(?:BIG|SMALL|TINY)INT\b|\bUINTEGER\b|\bTIMESTAMP_(?:S|MS|NS)\b|"
            r"\bSTRUCT\s*\(|\bMAP\s*[({]|\bFROM\s+range\s*\(",
            re.IGNORECASE,
        ),
    ),
    (
        "postgres",
        re.compile(
            r"\b(?:BIG|SMALL)?SERIAL\b|\bFROM\s+stdin\b|::\s*\w|\bCHARACTER VARYING\b|"
            r"\bGENERATED\s+(?:ALWAYS|BY\s+DEFAULT)\s+AS\s+IDENTITY\b|\bnow\s*\(\s*\)|"
            r"\bJSONB\b|\bTIMESTAMPTZ\b|\bBYTEA\b|\bAS\s+ENUM\s*\(|\bCREATE\s+DOMAIN\b|\w\[\]",
            re.IGNORECASE,
        ),
    ),
)


def guess_dialect(script: str) -> ScriptDialect:
    """The dialect that a script is written in, by words that only one has; else SQLite's."""
    # The first 200,000 characters tell: what follows is mostly rows.
    head = without_kept_texts(script[:200_000])
    return next((name for name, pattern in _HINTS if pattern.search(head)), "sqlite")
