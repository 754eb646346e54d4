"""What a text holds that its dialect's own engine does not take, though the stand-in would.

The parser reads many dialects at once, and DuckDB takes much that others refuse: an answer would be
called right that the engine of the course rejects. Here it is told which words, forms and functions
are not the dialect's own. What newer versions of an engine have come to take is told too: whether the
course's has it, its instructor knows.

Sources: the SELECT and function references of SQL Server 2022
(https://learn.microsoft.com/sql/t-sql/), Oracle Database 19c
(https://docs.oracle.com/en/database/oracle/oracle-database/19/sqlrf/) and Db2 11.5
(https://www.ibm.com/docs/en/db2/11.5).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final

from sqlglot import exp

from jentrow.core.sql.stand_ins.refusals.calls import foreign_calls
from jentrow.core.sql.stand_ins.refusals.groups import foreign_groups
from jentrow.core.sql.stand_ins.refusals.names import foreign_names
from jentrow.core.sql.stand_ins.refusals.queries import foreign_queries
from jentrow.core.sql.stand_ins.refusals.sources import foreign_sources
from jentrow.core.sql.tokens import Token, tokens_of

_LABELS: Final = {"tsql": "T-SQL", "oracle": "Oracle SQL", "db2": "Db2 SQL"}

_OPERATORS: Final = frozenset(
    {"DIV", "MOD", "XOR", "REGEXP", "RLIKE", "GLOB", "SIMILAR", "ISNULL", "NOTNULL", "MATCH"}
)
"""Words that stand between or behind operands in other dialects; as functions some are known here."""
_SIGNS: Final = {
    "tsql": frozenset({"==", "<=>", "~", "&&", "->", "->>", "||"}),
    "oracle": frozenset({"==", "<=>", "~", "&&", "->", "->>", "%", "&", "|", "^"}),
    "db2": frozenset({"==", "<=>", "~", "&&", "->", "->>", "^"}),
}
_KINDS_OF_JOINS: Final = frozenset({"INNER", "LEFT", "RIGHT", "FULL", "OUTER"})
_WHO: Final = frozenset({"USER", "CURRENT_USER", "SESSION_USER", "SYSTEM_USER", "UID"})
_ZONES: Final = frozenset({"DBTIMEZONE", "SESSIONTIMEZONE"})
_UNITS: Final = frozenset({"YEAR", "MONTH", "DAY", "HOUR", "MINUTE", "SECOND"})
_CLAUSES: Final = frozenset({"FROM", "WHERE", "GROUP", "ORDER", "HAVING"})


def foreign_forms(tree: exp.Query, sql: str, dialect: str) -> list[str]:
    """What is not the dialect's own, each as a sentence; nothing where all of it is."""
    tokens = tokens_of(sql, dialect)
    found = [
        *_foreign_signs(tree, tokens, dialect),
        *foreign_calls(tree, tokens, dialect),
        *foreign_queries(tree, dialect),
        *foreign_sources(tree, dialect),
        *foreign_groups(tree, dialect),
        *foreign_names(tree, dialect),
        *(_aliases_after_as(tree, tokens) if dialect == "oracle" else ()),
        *(_quoted_names(tree) if dialect != "tsql" else ()),
    ]
    return [f"{_LABELS[dialect]} {said}" for said in dict.fromkeys(found)]


def _foreign_signs(tree: exp.Query, tokens: Sequence[Token], dialect: str) -> Iterator[str]:
    for at, token in enumerate(tokens):
        after = tokens[at + 1] if at + 1 < len(tokens) else None
        before = tokens[at - 1] if at else None
        if token.word in _OPERATORS and _is_operator(before, after):
            yield f"has no operator {token.word}."
        pair = token.word + after.word if after is not None and after.start == token.end else ""
        if pair != "^=" and (token.word in _SIGNS[dialect] or pair in _SIGNS[dialect]):
            yield f"has no operator {pair if pair in _SIGNS[dialect] else token.word}."
        if token.word == "," and after is not None and after.word in _CLAUSES:
            yield "takes no comma before a clause."
        if token.word == "," and after is not None and after.word == ")":
            yield "takes no comma before a parenthesis that closes."
        yield from _foreign_words(tokens, at, dialect)
        if after is not None and after.word == "(":
            yield from _foreign_arguments(tokens, at)
    if _joins_without_condition(tree, tokens):
        yield "wants ON behind every JOIN."
    if tokens and tokens[0].word in ("FROM", "TABLE"):
        yield "begins a query with SELECT or WITH."


def _joins_without_condition(tree: exp.Query, tokens: Sequence[Token]) -> bool:
    """Whether a JOIN has no condition: the parser reads it as a comma."""
    wanting = 0
    for at, token in enumerate(tokens):
        if token.word == "JOIN" and token.kind == "word":
            before = at - 1
            while before > 0 and tokens[before].word in _KINDS_OF_JOINS:
                before -= 1
            wanting += tokens[before].word not in ("CROSS", "NATURAL")
    found = tree.find_all(exp.Join)
    return wanting > sum(bool(one.args.get("on") or one.args.get("using")) for one in found)


def _is_operator(before: Token | None, after: Token | None) -> bool:
    """Whether a word stands behind an operand: it is no name then, and calls nothing."""
    if before is None or before.word in ("SELECT", ",", ".", "AS"):
        return False
    if after is not None and after.word in (",", ".", "("):
        return False
    return before.kind != "mark" or before.word == ")"


def _foreign_arguments(tokens: Sequence[Token], at: int) -> Iterator[str]:
    """What stands in the parentheses of a call, which the parser takes in several ways."""
    name = tokens[at].word
    if name not in ("STRING_AGG", "LISTAGG", "TRIM"):
        return
    inside = tokens[at + 1].depth + 1
    for token in tokens[at + 2 :]:
        if token.depth < inside:
            return
        if token.depth > inside:
            continue
        if token.word == "ORDER" and name != "TRIM":
            yield f"sorts what {name} joins by WITHIN GROUP (ORDER BY …), behind the parenthesis."
        if token.word == "," and name == "TRIM":
            yield "names in TRIM first what is taken away: TRIM('x' FROM text)."


def _is_unpivoted(tokens: Sequence[Token], at: int) -> bool:
    """Whether a text behind AS is what UNPIVOT calls a column."""
    return any(token.word == "UNPIVOT" for token in tokens[:at])


def _makes_a_date(inside: Sequence[Token]) -> bool:
    """Whether what stands in the parentheses of CAST begins with a text that becomes a date."""
    words = [token.word for token in inside]
    return (
        bool(inside)
        and inside[0].kind == "text"
        and words[1:] in (["AS", "DATE"], ["AS", "TIMESTAMP"])
    )


def _foreign_words(tokens: Sequence[Token], at: int, dialect: str) -> Iterator[str]:
    word = tokens[at].word
    after = [token.word for token in tokens[at + 1 : at + 3]]
    if (
        word == "OFFSET"
        and dialect != "db2"
        and tokens[at + 1 :]
        and after[1:] not in (["ROW"], ["ROWS"])
    ):
        yield "counts OFFSET in ROWS: OFFSET n ROWS."
    kind = tokens[at + 1].kind if at + 1 < len(tokens) else ""
    if word == "FETCH" and after[:1] in (["FIRST"], ["NEXT"]):
        behind = [token.word for token in tokens[at + 2 : at + 12]]
        if not {"ONLY", "WITH"}.intersection(behind):
            yield "ends FETCH by ONLY, or by WITH TIES: FETCH FIRST n ROWS ONLY."
    if word == "AS" and kind == "text" and dialect != "tsql" and not _is_unpivoted(tokens, at):
        yield "writes another name of a column without quotation marks, or in double ones."
    if tokens[at].kind == kind == "text":
        yield "puts no text behind another."
    is_duration = kind == "text" and not _UNITS.isdisjoint(after[1:])
    if (
        word == "INTERVAL"
        and dialect == "oracle"
        and kind in ("number", "text")
        and not is_duration
    ):
        yield "writes INTERVAL '1' DAY, the number in quotation marks and the unit behind them."
    if word == "CAST" and dialect == "oracle" and _makes_a_date(tokens[at + 2 : at + 5]):
        yield "reads a text as a date by the session's format: DATE '2026-01-31' says which."
    if word == "EXCEPT" and dialect == "oracle":
        yield "has MINUS; EXCEPT came with a later version."
    if word == "INTERVAL" and dialect == "db2" and kind in ("text", "number"):
        yield "counts days and months on by + 1 DAY and + 2 MONTHS."
    if word in _WHO:
        yield f"tells by {word} who asks, and the stand-in somebody else."
    if word in _ZONES and dialect == "oracle":
        yield f"tells by {word} of its own place, and the stand-in of another."
    if dialect == "tsql":
        yield from _words_that_tsql_lacks(tokens, at)


def _words_that_tsql_lacks(tokens: Sequence[Token], at: int) -> Iterator[str]:
    word = tokens[at].word
    after = [token.word for token in tokens[at + 1 : at + 2]]
    kind = tokens[at + 1].kind if at + 1 < len(tokens) else ""
    if word == "NULLS" and after in (["FIRST"], ["LAST"]):
        yield "has no NULLS FIRST and no NULLS LAST: NULL sorts first."
    if word in ("DATE", "TIME", "TIMESTAMP") and kind == "text":
        yield f"writes no {word} before a text: CAST('…' AS DATE) makes a date of one."
    if word == "INTERVAL" and kind in ("text", "number"):
        yield "has no INTERVAL: DATEADD counts days and months on."
    if word in ("CURRENT_DATE", "CURRENT_TIME"):
        yield f"has no {word}: CAST(GETDATE() AS DATE) is the day."
    if word == "SUBSTRING" and after == ["("]:
        inside = [one for one in tokens[at + 2 :] if one.depth == tokens[at + 1].depth + 1]
        if any(one.word == "FROM" for one in inside[:4]):
            yield "writes SUBSTRING(text, start, length)."


def _aliases_after_as(tree: exp.Query, tokens: Sequence[Token]) -> Iterator[str]:
    before = {token.start: tokens[at - 1].word for at, token in enumerate(tokens) if at}
    for alias in tree.find_all(exp.TableAlias):
        name = alias.this
        if isinstance(alias.parent, exp.CTE) or not isinstance(name, exp.Identifier):
            continue
        if before.get(name.meta.get("start", -1)) == "AS":
            yield f"has no AS before {name.name}, another name of a table."


def _quoted_names(tree: exp.Query) -> Iterator[str]:
    """A name in quotation marks is taken letter by letter, and one without is in capitals."""
    given = {
        name.name
        for one in tree.find_all(exp.Alias, exp.TableAlias)
        for name in (one.args.get("alias"), one.this, *(one.args.get("columns") or ()))
        if isinstance(name, exp.Identifier) and name.quoted
    }
    for column in tree.find_all(exp.Column):
        for name in (column.this, column.args.get("table")):
            if not isinstance(name, exp.Identifier):
                continue
            if name.quoted and name.name != name.name.upper() and name.name not in given:
                yield f'takes "{name.name}" letter by letter: without the marks, a name is in capitals.'
            elif not name.quoted and name.name not in given and _in_other_case(name.name, given):
                yield f"knows {name.name} as it was named, in its quotation marks, alone."


def _in_other_case(name: str, given: set[str]) -> bool:
    """Whether a name was given in quotation marks, so that it is not this one, in capitals."""
    return any(one.upper() == name.upper() and one != one.upper() for one in given)
