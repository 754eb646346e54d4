"""Texts in the dialects of engines that cannot run here, translated for the engine that stands in.

Where the translation cannot keep what a text means, that is noted: no verdict rests on it. The
stand-in is DuckDB, with two functions of our own in each dataset: ``jentrow_div`` divides as the
dialect does, ``jentrow_join`` joins texts as Oracle does, where NULL is empty text.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from typing import Any, Final

from sqlglot import exp
from sqlglot.errors import ErrorLevel, UnsupportedError

from jentrow.core.sql.columnkinds import NOTHING_KNOWN, ColumnKinds
from jentrow.core.sql.parser_failures import PARSER_FAILURES, said_of
from jentrow.core.sql.parsing import parsed_statement
from jentrow.core.sql.stand_ins import functions
from jentrow.core.sql.stand_ins.db2.words import plain_db2
from jentrow.core.sql.stand_ins.oracle.hierarchies import TIE
from jentrow.core.sql.stand_ins.refusals.forms import foreign_forms
from jentrow.core.sql.stand_ins.steps import STEPS
from jentrow.core.sql.stand_ins.timed_values import kinds_in
from jentrow.core.sql.stand_ins.tsql import dates as tsql_dates
from jentrow.core.sql.stand_ins.tsql import formulas as tsql_formulas
from jentrow.core.sql.stand_ins.unread_forms import unread_form
from jentrow.core.sql.tokens import Token, tokens_of

RUNS_ON: Final = "duckdb"
"""The engine that stands in, and the parser's name for its dialect."""


@dataclass(frozen=True, slots=True)
class StoodIn:
    """What is run in place of a text; ``notes`` say what it may not mean any more, or not be.

    ``lost`` are those of them that are of the meaning: the others say what the engine itself may
    refuse, which is no matter for a text that was made here. ``sql`` is empty where the text cannot be read: then there is nothing to run.
    """

    sql: str
    notes: tuple[str, ...] = ()
    lost: tuple[str, ...] = ()


FOREIGN: Final = {
    "tsql": frozenset({"LIMIT", "ILIKE", "QUALIFY", "MINUS"}),
    "oracle": frozenset({"LIMIT", "ILIKE", "QUALIFY", "TOP"}),
    "db2": frozenset({"ILIKE", "QUALIFY", "TOP"}),
}
"""Words that the stand-in would read, and the dialect's own engine would not."""


def foreign_word(dialect: str, sql: str) -> Token | None:
    """The first word of a text that its dialect has not, in a place where it can be no name."""
    tokens = tokens_of(sql, dialect)
    for token, after in pairwise(tokens):
        is_followed = after.kind in ("number", "text", "word", "name") or after.word == "("
        if token.word in FOREIGN[dialect] and is_followed and after.word not in (",", "FROM", "AS"):
            return token
    return next((one for one, after in pairwise(tokens) if one.word == after.word == ":"), None)


_SAID_BY_IT: Final = re.compile(
    r"(?:invalid|Could not parse).*(?:date|timestamp|time) |Function with name|No function matches|best candidate function|Cannot (?:compare|mix) values"
    r"|[Cc]onver(?:t|sion)|not recognized|Unimplemented|Not implemented|Cannot extract field"
    rf"|{functions.DOES_NOT_FIT}|{functions.UNKNOWN_TEXT}|{TIE}|Collation with name|different collation|Unknown ordered aggregate|out of range|Circular reference|Type with name|ORDER BY non-integer",
)


def may_be_the_stand_in(engine_words: str) -> bool:
    """Whether the stand-in rejected a text for what the engine itself may take.

    It lacks functions that the other has, and changes no types by itself, where the others do.
    """
    return _SAID_BY_IT.search(engine_words) is not None


REJECTED_HERE: Final = (
    "The stand-in rejects this text, and its own engine may take it: there is no verdict, and an "
    "instructor decides."
)


def may_run_elsewhere(dialect: str, sql: str, made: StoodIn, code: str, engine_words: str) -> bool:
    """Whether a text that the stand-in rejected may be one that its own engine takes.

    ``code`` and ``engine_words`` are those of its failure. What cannot be read in the dialect itself
    is wrong on its engine too.
    """
    is_read = bool(made.sql) and foreign_word(dialect, sql) is None
    return is_read and (code == "sql.syntax" or may_be_the_stand_in(engine_words))


@lru_cache(maxsize=512)
def stood_in(dialect: str, sql: str, kinds: ColumnKinds = NOTHING_KNOWN) -> StoodIn:
    """What is run in place of a text in a dialect.

    ``kinds`` tells what the columns hold: ``+`` joins texts in T-SQL, and counts days on in Oracle.
    """
    plain, lost = plain_db2(sql) if dialect == "db2" else (sql, ())
    tree = parsed_statement(plain, dialect)
    if dialect == "db2" and isinstance(tree, exp.Values):
        tree = exp.select("*").from_(exp.alias_(tree, "jentrow_values", table=True))
    if not isinstance(tree, exp.Query):
        # Db2 reads VALUES 1, 2 too, which the parser does not.
        is_values = dialect == "db2" and plain.lstrip()[:6].upper() == "VALUES"
        said = "VALUES of single values is not kept." if is_values else unread_form(sql, dialect)
        return StoodIn("", (said,) if said else ())
    notes = list(lost)
    try:
        kinds = kinds_in(tree, kinds)
        changed: exp.Expr = tree.copy()
        if dialect == "tsql":
            tsql_formulas.squares_as_floats(changed, sql, notes)
            tsql_dates.named_parts(changed, sql, notes)
        for step in STEPS[dialect]:
            changed = step(changed, kinds, notes)
        made = _written(changed, notes)
    except PARSER_FAILURES as problem:
        return StoodIn("", (f"It could not be translated: {said_of(problem)}",))
    refused = foreign_forms(tree, sql, dialect)
    return StoodIn(made, tuple(dict.fromkeys([*refused, *notes])), tuple(dict.fromkeys(notes)))


def _written(tree: exp.Expr, notes: list[str]) -> str:
    options: dict[str, Any] = {"dialect": RUNS_ON, "pretty": True, "comments": False}
    try:
        return tree.sql(unsupported_level=ErrorLevel.RAISE, max_unsupported=20, **options)
    except UnsupportedError as problem:
        notes += [_in_words(line.strip()) for line in str(problem).splitlines() if line.strip()]
    return tree.sql(unsupported_level=ErrorLevel.IGNORE, **options)


_SAID_OF_AN_ARGUMENT: Final = re.compile(
    r"Argument '(\w+)' is not supported for expression '(\w+)'.*"
)


def _in_words(said: str) -> str:
    """What the parser cannot write for the stand-in, without the names of its own parts."""
    found = _SAID_OF_AN_ARGUMENT.fullmatch(said)
    if found is None:
        return said
    call = re.sub(r"(?<=[a-z])(?=[A-Z])", "_", found[2]).upper()
    return f"{call} with this {found[1].replace('_', ' ')} has no counterpart on the stand-in."
