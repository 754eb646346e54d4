"""Names that an engine does not know or cannot tell apart, in a learner's words.

What is advised could be written as it stands: with the aliases that the query gives, and only for
tables that it reads.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

from jentrow.core.engines.rejections.clauses import typographic_quotes
from jentrow.core.engines.rejections.joins import BEFORE_JOIN, comma_before_join
from jentrow.core.engines.rejections.kinds import kinds_in
from jentrow.core.engines.rejections.rejected import Explanation, Rejected, listed_names, nearest
from jentrow.core.engines.rejections.syntax import misspelt
from jentrow.core.sql.skeleton import Skeleton
from jentrow.core.sql.sources import NamedSource, sources_in
from jentrow.core.sql.spellings.functions import function_hint, other_meaning, pseudo_column
from jentrow.core.sql.spellings.keywords import KEYWORDS
from jentrow.core.sql.spellings.spellings import form_at, slip_in
from jentrow.core.sql.text import quoted_text

_TEXT_BEFORE: Final = frozenset(
    {"=", "<>", "!=", "<", ">", "<=", ">=", "==", "LIKE", "THEN", "ELSE", "WHEN", "IS", "BETWEEN"}
)
DISTINCT_OF_ONE: Final = (
    "DISTINCT inside an aggregate takes one column: to count different pairs, count the rows of "
    "SELECT DISTINCT a, b in FROM (…)."
)
_CHANGES: Final = {"UPDATE": "changes", "DELETE": "deletes from", "INSERT": "fills"}


def no_table(one: Rejected) -> Explanation:
    """A table that the sample has not."""
    written = one.found["name"]
    owner, _, name = written.rpartition(".")
    by_lower = {table.lower(): table for table in one.catalogue}
    place = _place_of(one, name)
    if name.upper() in BEFORE_JOIN:
        # FROM a, LEFT JOIN b: read as a table called so.
        comma = comma_before_join(one.skeleton, range(len(one.skeleton.tokens)))
        if comma:
            return Explanation("sql.syntax", comma, name)
    if name.lower() in _OF_ONE_ROW:
        message = f"There is no table {name}: a SELECT that reads no table has no FROM."
    elif owner and name.lower() in by_lower:
        message = f"Tables of the sample have no {owner} before them: write {by_lower[name.lower()]} alone."
    elif form := _form_around(one, name):
        message = form
    elif place is not None and one.skeleton.kind(place) == "text":
        message = f"IN wants a list in parentheses: IN ({one.skeleton.written(place)})."
    else:
        like = nearest(name, list(one.catalogue))
        known = listed_names(list(one.catalogue))
        hint = f"Did you mean {like}?" if like else f"The sample has {known}."
        message = f"There is no table {name}. {hint}"
    return Explanation("sql.object", message, name)


_OF_ONE_ROW: Final = frozenset({"dual", "sysdummy1"})
"""What other dialects read where there is no table."""


def _form_around(one: Rejected, name: str) -> str | None:
    """The form or function of another dialect that is read as a table."""
    words = one.skeleton
    for at in range(len(words.tokens)):
        if words.written(at).lower() != name.lower():
            continue
        hint = function_hint(name, one.engine) if words.word(at + 1) == "(" else None
        if hint:
            return f"{one.label} has no function {name.upper()}. {hint}"
        if words.word(at - 1) == "IN":  # POSITION(part IN text)
            return form_at(words, at, one.engine, one.engine_label)
    return None


def _place_of(one: Rejected, name: str) -> int | None:
    """Where a name stands that may be written as a text: IN 'x' is read as the name of a table."""
    for at in range(len(one.skeleton.tokens)):
        if one.skeleton.word(at - 1) == "IN" and one.skeleton.written(at) == f"'{name}'":
            return at
    return None


def no_owner(one: Rejected) -> Explanation:
    """A table before a column's name that does not stand in FROM: ``name``."""
    return no_column(one.of_missing_owner())


def no_column(one: Rejected) -> Explanation:
    """A column that no table of the query has."""
    written = one.found["name"]
    if one.found.get("quoted"):
        return _quoted(written.removeprefix('"').removesuffix('"').replace('""', '"'))
    written = written.strip('"')
    owner, _, name = written.rpartition(".")
    return Explanation("sql.object", _why_no_column(one, written, owner, name), written)


def _quoted(name: str) -> Explanation:
    return Explanation(
        "sql.object",
        f'There is no column "{name}". Double quotes mark a name; text stands in single quotes: '
        f"{quoted_text(name)}.",
        name,
    )


def _why_no_column(one: Rejected, written: str, owner: str, name: str) -> str:
    quotes = typographic_quotes(_around(one) or written)
    if quotes:
        return f"There is no column {written}. {quotes}"
    hint = pseudo_column(name, one.engine, one.engine_label) or _form_or_function_here(one)
    if hint:
        return hint
    if name.upper() in _CALLED and not owner and _is_before_name(one, name):
        return f"A function takes its values in parentheses: {name.upper()}(…)."
    sources = sources_in(one.skeleton, one.catalogue)
    if owner:
        return _no_column_of(one, written, owner, name, sources)
    return _no_bare_column(one, name, sources)


_CALLED: Final = frozenset(
    {"UPPER", "LOWER", "LENGTH", "ROUND", "ABS", "TRIM", "SUM", "AVG", "MIN", "MAX", "COUNT"}
)


def _is_before_name(one: Rejected, name: str) -> bool:
    """Whether a word is followed by a column or table, as if that were its argument."""
    words = one.skeleton
    return any(
        words.word(at) == name.upper() and words.written(at + 1).lower() in one.names
        for at in range(len(words.tokens))
    )


def _around(one: Rejected) -> str:
    """The word where the engine points, as it is written."""
    at = one.skeleton.token_holding(one.index)
    return "" if at is None else one.skeleton.written(at)


def _form_or_function_here(one: Rejected) -> str | None:
    """What stands around a name that has no meaning here: the form or function of another dialect."""
    words = one.skeleton
    at = words.token_holding(one.index)
    if at is None:
        return None
    function = _function_around(words, at)
    if meaning := other_meaning(function, one.engine, one.engine_label):
        return meaning
    hint = function_hint(function, one.engine)
    if hint and function not in one.functions:
        return f"{one.label} has no function {function.upper()}. {hint}"
    return form_at(words, at, one.engine, one.engine_label)


def _function_around(words: Skeleton, at: int) -> str:
    """The function in whose parentheses a token stands, in small letters; empty where in none."""
    depth = 0
    for before in range(at - 1, 0, -1):
        if words.word(before) == ")":
            depth += 1
        elif words.word(before) == "(":
            if not depth:
                return words.word(before - 1).lower()
            depth -= 1
    return ""


def _no_column_of(
    one: Rejected, written: str, owner: str, name: str, sources: Sequence[NamedSource]
) -> str:
    source = next((it for it in sources if it.name.lower() == owner.lower()), None)
    if source is None:
        renamed = next((it for it in sources if it.table.lower() == owner.lower()), None)
        if renamed:
            return f"The query calls {renamed.table} {renamed.name}: write {renamed.name}.{name}."
        if owner.lower() in map(str.lower, one.catalogue):
            return f"{owner} does not stand in FROM here, so {written} cannot be seen."
        like = nearest(owner, [it.name for it in sources])
        return f"There is no table or alias {owner} in FROM." + (
            f" Did you mean {like}?" if like else ""
        )
    like = nearest(name, one.catalogue[source.table])
    elsewhere = _holders(one, name, sources, but=source)
    if elsewhere:
        has = f"{source.name} has no column {name}"
        return f"{has}, but there is {elsewhere[0]}." if "." in elsewhere[0] else (
            f"{has}; it is a column of {listed_names(elsewhere)}."
        )  # fmt: skip
    hint = f" Did you mean {source.name}.{like}?" if like else (
        f" {source.table} has {listed_names(one.catalogue[source.table])}."
    )  # fmt: skip
    return f"There is no column {written}.{hint}"


def _holders(
    one: Rejected, name: str, sources: Sequence[NamedSource], but: NamedSource | None = None
) -> list[str]:
    """Who has a column of this very name: sources of the query as ``alias.column``, else tables."""
    here = [
        f"{it.name}.{column}"
        for it in sources
        for column in one.catalogue[it.table]
        if it != but and column.lower() == name.lower()
    ]
    return here or [
        table
        for table, columns in one.catalogue.items()
        if name.lower() in map(str.lower, columns) and (but is None or table != but.table)
    ]


def _no_bare_column(one: Rejected, name: str, sources: Sequence[NamedSource]) -> str:
    if _is_alias(one, name):
        return (
            f"{name} is a name that SELECT gives, and this part of the query does not know it: write "
            "the expression itself here, or put the query into FROM (…)."
        )
    in_reach = [column for it in sources for column in one.catalogue[it.table]]
    holders = _holders(one, name, sources)
    if holders:
        return _out_of_reach(one, name, holders)
    keyword = misspelt(one)
    if keyword:
        return f"There is no column {name}. Did you mean {keyword}?"
    like = nearest(name, in_reach)
    if like:
        return f"There is no column {name}. Did you mean {like}?"
    at = one.skeleton.token_holding(one.index)
    if at and (one.skeleton.word(at - 1) in _TEXT_BEFORE or _in_list(one, at)):
        return f"There is no column {name}. If it is meant as text, it stands in single quotes: '{name}'."
    like = nearest(name, [column for columns in one.catalogue.values() for column in columns])
    if like:
        tables = [table for table, columns in one.catalogue.items() if like in columns]
        return (
            f"There is no column {name}. {like} is a column of {listed_names(tables)}, which the query "
            "does not read."
        )
    return f"There is no column {name}."


def _is_alias(one: Rejected, name: str) -> bool:
    """Whether SELECT gives this name to a column, with AS or without."""
    return alias_place(one.skeleton, name) is not None


def alias_place(words: Skeleton, name: str) -> int | None:
    """Which token is the name that SELECT gives to a column; None where it gives no such name."""
    for at in range(2, len(words.tokens)):
        if words.written(at).strip('"`').lower() != name.lower():
            continue
        if words.word(at + 1) not in (",", "FROM") or words.kind(at) not in ("word", "name"):
            continue
        before = words.word(at - 1)
        is_behind_value = before in ("AS", ")", "END") or (
            words.kind(at - 1) != "mark" and before not in KEYWORDS
        )
        if is_behind_value and words.nearest_before(at, _CLAUSES) == "SELECT":
            return at
    return None


_CLAUSES: Final = frozenset({"SELECT", "FROM", "WHERE", "GROUP", "HAVING", "ORDER"})


def _in_list(one: Rejected, at: int) -> bool:
    """Whether a word stands in the list of an IN."""
    while at > 1 and one.skeleton.word(at - 1) == "," and one.skeleton.kind(at - 2) != "mark":
        at -= 2
    return one.skeleton.word(at - 1) == "(" and one.skeleton.word(at - 2) == "IN"


def _out_of_reach(one: Rejected, name: str, holders: Sequence[str]) -> str:
    verb = _CHANGES.get(one.skeleton.word(0))
    if verb and "." not in holders[0]:
        return (
            f"{name} is a column of {listed_names(holders)}, and not of the table that this "
            f"{one.skeleton.word(0)} {verb}: a subquery can look there."
        )
    if "." in holders[0]:
        return (
            f"{name} cannot be seen here: {holders[0]} stands in FROM of another part of the query, or "
            "further on."
        )
    return (
        f"{name} cannot be seen here: it is a column of {listed_names(holders)}, which must stand in "
        "FROM for this part of the query."
    )


def named_aggregate_in_where(one: Rejected) -> Explanation | None:
    """A name that SELECT gives to an aggregate, in WHERE; None where no such name stands there."""
    words = one.skeleton
    for at in range(len(words.tokens)):
        if words.kind(at) not in ("word", "name") or words.word(at - 1) == ".":
            continue
        if words.nearest_before(at, _CLAUSES) != "WHERE":
            continue
        name = words.written(at)
        given = alias_place(words, name.strip('"`'))
        if given is None or name.strip('"`').lower() in one.names:
            continue
        opened = given - 2 if words.word(given - 1) == "AS" else given - 1
        if words.word(opened) == ")" and words.word(words.opening(opened - 1) - 1) in _AGGREGATES:
            return Explanation(
                "sql.runtime",
                f"{name} is a name that SELECT gives to an aggregate, and WHERE chooses rows before there "
                "are groups: a condition on it belongs in HAVING.",
                name,
                words.tokens[at].start,
            )
    return None


_AGGREGATES: Final = frozenset({"SUM", "AVG", "MIN", "MAX", "COUNT"})


def ambiguous(one: Rejected) -> Explanation:
    """A column that several tables of the query have."""
    name = one.found["name"]
    sources = sources_in(one.skeleton, one.catalogue)
    ways = list(
        dict.fromkeys(
            f"{it.name}.{column}"
            for it in sources
            for column in one.catalogue[it.table]
            if column.lower() == name.lower()
        )
    )
    how = f", as in {' or '.join(ways[:2])}" if ways else ": put the name of its table before it"
    return Explanation(
        "sql.object",
        f"{name} is ambiguous: more than one table of this query has a column of that name. Say "
        f"which one you mean{how}.",
        name,
    )


def no_function(one: Rejected) -> Explanation:
    """A function that the engine has not."""
    name = one.found["name"]
    at = one.skeleton.token_holding(one.index)
    if not name.isidentifier() and at is not None:  # a sign that is read as an operator
        form = form_at(one.skeleton, at, one.engine, one.engine_label)
        form = form or slip_in(one.skeleton, one.engine, one.engine_label)
        return Explanation("sql.object", form or f"{one.label} has no operator {name}.", name)
    meaning = other_meaning(name, one.engine, one.engine_label)
    if meaning:
        return Explanation("sql.object", meaning, name)
    if at is not None and name.upper() in _SIZED_TYPES:  # CONVERT(VARCHAR(10), x)
        form = form_at(one.skeleton, at, one.engine, one.engine_label)
        if form:
            return Explanation("sql.object", form, name)
    hint = function_hint(name, one.engine)
    types = kinds_in(one.found.get("types", ""))
    taking = f" that takes {types}" if types and not hint else ""
    return Explanation(
        "sql.object",
        f"{one.label} has no function {name.upper()}{taking}.{f' {hint}' if hint else ''}",
        name,
    )


_SIZED_TYPES: Final = frozenset({"VARCHAR", "CHAR", "NVARCHAR", "NCHAR", "DECIMAL", "NUMERIC"})
"""Types with a length or places, which look like a function."""


def function_arguments(one: Rejected) -> Explanation:
    """A function that takes other arguments."""
    name = one.found["name"]
    if f" {name.upper()} ( DISTINCT " in one.skeleton.text:
        return Explanation("sql.object", DISTINCT_OF_ONE, name)
    hint = function_hint(name, one.engine)
    return Explanation(
        "sql.object",
        f"{name.upper()} takes another number of arguments.{f' {hint}' if hint else ''}",
        name,
    )
