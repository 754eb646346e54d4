"""Functions and types that a dialect's own engine has not, or calls with other arguments.

They are told by the words of the text: the parser calls many alike. Sources as in
:mod:`jentrow.core.sql.stand_ins.refusals.forms`.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final

from sqlglot import exp

from jentrow.core.sql.spellings.functions import function_hint
from jentrow.core.sql.stand_ins.refusals.function_names import ARGUMENTS, FUNCTIONS, NO_FUNCTIONS
from jentrow.core.sql.tokens import Token

_TYPES: Final = {
    "tsql": """
        BIT TINYINT SMALLINT INT INTEGER BIGINT DECIMAL DEC NUMERIC MONEY SMALLMONEY FLOAT REAL DATE TIME
        DATETIME DATETIME2 SMALLDATETIME DATETIMEOFFSET CHAR CHARACTER VARCHAR NCHAR NVARCHAR NATIONAL
        TEXT NTEXT BINARY VARBINARY UNIQUEIDENTIFIER XML SQL_VARIANT
    """,
    "oracle": """
        NUMBER NUMERIC DECIMAL DEC INTEGER INT SMALLINT FLOAT REAL BINARY_FLOAT BINARY_DOUBLE DATE
        TIMESTAMP INTERVAL CHAR CHARACTER NCHAR NATIONAL VARCHAR VARCHAR2 NVARCHAR2 RAW ROWID
    """,
    "db2": """
        SMALLINT INTEGER INT BIGINT DECIMAL DEC NUMERIC NUM DECFLOAT REAL FLOAT DOUBLE CHAR CHARACTER
        VARCHAR CLOB GRAPHIC VARGRAPHIC DBCLOB NCHAR NVARCHAR NCLOB BINARY VARBINARY BLOB DATE TIME
        TIMESTAMP BOOLEAN XML
    """,
}
_OWN_TYPES: Final = {dialect: frozenset(names.split()) for dialect, names in _TYPES.items()}
_SIZED: Final = {
    "oracle": frozenset({"VARCHAR", "VARCHAR2", "NVARCHAR2", "RAW", "CHAR", "NCHAR", "CHARACTER"})
}
"""Types that want a size, or hold a single letter without one."""
_OF_ONE: Final = frozenset({"AVG", "COUNT", "MAX", "MIN", "SUM"})
_CASTS: Final = frozenset({"CAST", "TRY_CAST"})
_OF_XML: Final = (("XML", "PATH"), (".", "VALUE"))
"""What stands before a parenthesis where texts are joined by FOR XML."""


def foreign_calls(tree: exp.Query, tokens: Sequence[Token], dialect: str) -> Iterator[str]:
    """What a text calls that the dialect has not, or not in this way; each as the end of a sentence."""
    named = {
        one.alias.upper()
        for one in tree.find_all(exp.CTE, exp.Subquery, exp.Values, exp.Lateral)
        if one.alias
    }
    for at, token in enumerate(tokens[:-1]):
        if token.kind != "word" or tokens[at + 1].word != "(":
            continue
        before = tokens[at - 1].word if at else ""
        if token.word in named or before in ("AS", "WITH"):
            continue
        if dialect == "oracle" and [one.word for one in tokens[at + 2 : at + 4]] == ["+", ")"]:
            continue  # the sign of an outer join
        yield from _foreign_types(tokens, at, dialect)
        if token.word in NO_FUNCTIONS or (dialect == "db2" and token.word == "TABLE"):
            continue
        if dialect == "tsql" and (before, token.word) in _OF_XML:
            continue
        if before == ".":
            yield "calls no function of a value by a dot."
        elif token.word not in FUNCTIONS[dialect]:
            hint = function_hint(token.word, dialect)
            yield f"has no function {token.word} that is known here.{f' {hint}' if hint else ''}"
        else:
            yield from _foreign_arguments(tokens, at, dialect)


def _foreign_arguments(tokens: Sequence[Token], at: int, dialect: str) -> Iterator[str]:
    name = tokens[at].word
    inside = _inside(tokens, at)
    depth = tokens[at + 1].depth + 1
    commas = sum(one.word == "," and one.depth == depth for one in inside)
    # FROM, AS and USING stand between the parts of calls that have no commas.
    if any(one.word in ("FROM", "AS", "USING", "PLACING") and one.depth == depth for one in inside):
        return
    count = commas + 1 if inside else 0
    if name == "CONCAT" and dialect != "tsql" and count != 2:
        yield "joins two texts with CONCAT, and more with ||."
        return
    least, most = ARGUMENTS[dialect].get(name, (0, count))
    if name in _OF_ONE and commas and inside[0].word == "DISTINCT":
        yield f"takes one value behind DISTINCT in {name}."
    elif not least <= count <= (count if most is None else most):
        yield f"calls {name} with {_numbers(least, most)}."


def _numbers(least: int, most: int | None) -> str:
    if most == least:
        return "no value" if least == 0 else "one value" if least == 1 else f"{least} values"
    return f"{least} values or more" if most is None else f"{least} to {most} values"


def _inside(tokens: Sequence[Token], at: int) -> list[Token]:
    """What stands in the parentheses of a call."""
    opened = tokens[at + 1]
    found = []
    for token in tokens[at + 2 :]:
        if token.word == ")" and token.depth == opened.depth:
            break
        found.append(token)
    return found


def _foreign_types(tokens: Sequence[Token], at: int, dialect: str) -> Iterator[str]:
    inside = _inside(tokens, at)
    depth = tokens[at + 1].depth + 1
    if tokens[at].word in _CASTS:
        places = [
            spot for spot, one in enumerate(inside) if one.word == "AS" and one.depth == depth
        ]
        start = places[-1] + 1 if places else len(inside)
    elif dialect == "tsql" and tokens[at].word in ("CONVERT", "TRY_CONVERT"):
        start = 0
    else:
        return
    name, after = [*(one.word for one in inside[start : start + 2]), "", ""][:2]
    if not name or (name, after) == ("DOUBLE", "PRECISION"):
        return
    if name not in _OWN_TYPES[dialect]:
        yield f"has no type {name} that is known here."
    elif name in _SIZED.get(dialect, ()) and after != "(":
        yield f"wants a size behind {name}."
