"""Why an engine cannot read a query, in a learner's words: found in the text, where the engine stopped.

The engine says where it stopped, which is often a word or two after what is wrong. What is
proposed was tried: a word is called misspelt only where the query can be read with the right one.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from jentrow.core.engines.rejections.clauses import CLAUSE_HINTS, is_in_cast, subquery_without_name
from jentrow.core.engines.rejections.conditions import CONDITION_HINTS, bounds_in_parentheses
from jentrow.core.engines.rejections.joins import (
    JOIN_HINTS,
    join_without_condition,
    kind_without_join,
)
from jentrow.core.engines.rejections.rejected import Rejected
from jentrow.core.engines.rejections.reserved import reserved_name
from jentrow.core.engines.rejections.stop import Stop, stop_in
from jentrow.core.sql.parsing import parsed_statement
from jentrow.core.sql.skeleton import Skeleton
from jentrow.core.sql.spellings.keywords import KEYWORDS, nearest_keyword
from jentrow.core.sql.spellings.spellings import form_at, found_forms, slip_in

HINTED_LENGTH: Final = 4_000
"""Longer texts get no hint: trying one reads the whole text anew."""
_CLAUSE_ORDER: Final = "SELECT, FROM, WHERE, GROUP BY, HAVING, ORDER BY, LIMIT"
_CLAUSES: Final = frozenset({"SELECT", "FROM", "WHERE", "GROUP", "HAVING", "ORDER", "LIMIT"})
_AFTER_TABLES: Final = frozenset({"SELECT", "FROM", "WHERE", "HAVING", "LIMIT", "ON", "USING"})
_NAMES_AT_TIMES: Final = frozenset({"GROUP", "ORDER", "TABLE", "INDEX", "KEY", "ROW", "ROWS"})
"""Keywords that people call columns by."""
_MARKS: Final = frozenset({";", ",", "(", ")", ".", "=", "<", ">", "*", "+", "-", "/"})
_TEXT_BEFORE: Final = frozenset({"THEN", "ELSE", "WHEN", "=", "<>", "!=", "LIKE", "IN"})


def syntax_hint(one: Rejected, near: str) -> str:
    """What is wrong, as a sentence that begins with a blank; empty where nobody knows.

    ``near`` is what the engine read where it stopped.
    """
    if len(one.sql) > HINTED_LENGTH:
        return ""
    stop = stop_in(one, near)
    for hint in _HINTS:
        said = hint(stop)
        if said:
            return f" {said}"
    return ""


def token_hint(one: Rejected) -> str:
    """What a sign stands for that the engine has not, as a sentence that begins with a blank."""
    said = _form_here(stop_in(one, ""))
    return f" {said}" if said else ""


def unfinished_hint(one: Rejected) -> str:
    """What is missing at the end of a text that breaks off."""
    stop = Stop(one, one.skeleton, len(one.skeleton.tokens))
    said = (
        reserved_name(stop)
        or _open_case(stop)
        or _open_parentheses(stop)
        or join_without_condition(stop)
        or kind_without_join(stop)
        or subquery_without_name(stop)
        or bounds_in_parentheses(stop)
        or with_alone(stop)
        or slip_in(one.skeleton, one.engine, one.engine_label)
        or _form_anywhere(stop)
    )
    return f" {said}" if said else ""


def misspelt(one: Rejected) -> str | None:
    """The keyword that the word where the engine points most likely is.

    Only where the query can be read with it.
    """
    if len(one.sql) > HINTED_LENGTH:
        return None
    stop = stop_in(one, "")
    return _keyword_at(stop, stop.at)


def _form_here(stop: Stop) -> str:
    """A form of another dialect that the engine stopped in, or directly after."""
    return form_at(stop.skeleton, stop.at, stop.one.engine, stop.one.engine_label) or ""


def _keyword_as_name(stop: Stop) -> str:
    """A keyword where only a name can stand; said where the query can be read with it quoted."""
    words, sql = stop.skeleton, stop.skeleton.sql
    quote = "`" if stop.one.dialect == "mysql" else '"'
    for at in (stop.at, stop.at - 1):
        # Engines have more keywords than others, and stop at the one that they have.
        is_other = at == stop.at and words.kind(at) == "word"
        is_keyword = words.word(at) in KEYWORDS or (
            is_other and words.word(at).lower() not in stop.one.names
        )
        if not is_keyword or not _is_place_of_name(words, at):
            continue
        token, written = words.tokens[at], words.written(at)
        name = f"{quote}{written}{quote}"
        patched = f"{sql[: token.start]}{name}{sql[token.end :]}"
        if parsed_statement(patched, stop.one.dialect) is not None:
            quotes = "backticks" if quote == "`" else "double quotes"
            return f"{written} is a word of SQL: as a name it stands in {quotes}, {name}."
    return ""


def _is_place_of_name(words: Skeleton, at: int) -> bool:
    word, before, after = words.word(at), words.word(at - 1), words.word(at + 1)
    if before == "AS":
        return not is_in_cast(words, at)
    if before in ("FROM", "JOIN", "TABLE", "INTO", "UPDATE"):
        return word not in _AFTER_TABLES
    if before in ("SELECT", ","):
        return word in _NAMES_AT_TIMES and after in ("FROM", ",")
    return before == "." or (before == "WITH" and after == "AS")


def _form_anywhere(stop: Stop) -> str:
    for form, _, _ in found_forms(stop.skeleton, stop.one.engine):
        if form.right_in:
            return form.says(stop.one.engine, stop.one.engine_label)
    return ""


def _open_case(stop: Stop) -> str:
    words = [token.word for token in stop.skeleton.tokens]
    missing = words.count("CASE") - words.count("END")
    if missing <= 0:
        return ""
    return "A CASE is closed by END, which is missing." if missing == 1 else (
        f"A CASE is closed by END: {missing} of them are missing."
    )  # fmt: skip


def _open_parentheses(stop: Stop) -> str:
    words = [token.word for token in stop.skeleton.tokens]
    # What is open here may be closed further on.
    missing = min(part.count("(") - part.count(")") for part in (words[: stop.at], words))
    if missing <= 0:
        return ""
    return f"{missing} closing parenthes{'is is' if missing == 1 else 'es are'} missing."


def _parentheses_before_clause(stop: Stop) -> str:
    if stop.skeleton.word(stop.at) not in _CLAUSES:
        return ""
    said = _open_parentheses(stop)
    return f"Before it, {said}" if said else ""


def with_alone(stop: Stop) -> str:
    """WITH x AS (…), and no query behind it."""
    words = stop.skeleton
    behind = [token.word for token in words.tokens if not token.depth]
    if words.word(0) != "WITH" or "SELECT" in behind or words.word(len(words.tokens) - 1) != ")":
        return ""
    name = words.written(2) if words.word(1) == "RECURSIVE" else words.written(1)
    return f"WITH only names a query: behind it stands the one that reads it, SELECT … FROM {name}."


def _name_missing(stop: Stop) -> str:
    """AS with a clause behind it instead of a name."""
    words = stop.skeleton
    for at in (stop.at, stop.at - 1):
        if words.word(at - 1) == "AS" and words.word(at) in ("FROM", "WHERE"):
            return f"AS wants a name before {words.written(at)}."
    return ""


def _offset_before_limit(stop: Stop) -> str:
    words = [token.word for token in stop.skeleton.tokens]
    if "OFFSET" not in words[max(stop.at - 2, 0) : stop.at + 1]:
        return ""
    at = words.index("OFFSET")
    if words[at + 2 : at + 3] != ["LIMIT"]:
        return ""
    return "LIMIT stands before OFFSET: LIMIT n OFFSET m."


def _misplaced_distinct(stop: Stop) -> str:
    if stop.skeleton.word(stop.at) != "DISTINCT":
        return ""
    return (
        "DISTINCT stands directly after SELECT, or inside an aggregate such as COUNT(DISTINCT x)."
    )


def _misspelt_keyword(stop: Stop) -> str:
    for at in (stop.at, stop.at - 1, stop.at - 2):
        keyword = _keyword_at(stop, at)
        if keyword:
            return f"Did you mean {keyword} instead of {stop.skeleton.written(at)}?"
    return ""


def _keyword_at(stop: Stop, at: int) -> str | None:
    word = stop.skeleton.word(at)
    if stop.skeleton.kind(at) != "word" or word in KEYWORDS or word.lower() in stop.one.names:
        return None
    keyword = nearest_keyword(word)
    if keyword is None:
        return None
    token = stop.skeleton.tokens[at]
    sql = stop.skeleton.sql
    patched = sql[: token.start] + keyword + sql[token.end :]
    return keyword if parsed_statement(patched, stop.one.dialect) is not None else None


def _alias_of_several_words(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if words.word(at - 2) != "AS" or words.kind(at - 1) != "word" or words.kind(at) != "word":
        return ""
    if words.word(at - 1) == "OF":  # AS OF a time
        return ""
    end = at
    while words.kind(end + 1) == "word" and words.word(end + 1) not in KEYWORDS:
        end += 1
    name = " ".join(words.written(place) for place in range(at - 1, end + 1))
    return f'A name of several words stands in double quotes: AS "{name}".'


def _text_of_several_words(stop: Stop) -> str:
    words, at = stop.skeleton, stop.at
    if words.kind(at) != "word" or words.kind(at - 1) != "word":
        return ""
    if words.word(at - 2) not in _TEXT_BEFORE or words.word(at - 1) in KEYWORDS:
        return ""
    text = f"{words.written(at - 1)} {words.written(at)}"
    return f"Text stands in single quotes: {words.written(at - 2)} '{text}'."


def _comma_too_many(stop: Stop) -> str:
    if stop.skeleton.word(stop.at - 1) != "," or stop.skeleton.word(stop.at) not in _CLAUSES:
        return ""
    return f"The comma before {stop.near} is one too many, or something is missing after it."


def _comma_missing(stop: Stop) -> str:
    """A column without its comma is taken for the alias of the one before it."""
    words, sql = stop.skeleton, stop.skeleton.sql
    for at in (stop.at, stop.at - 1):
        if words.kind(at) not in ("word", "name") or words.word(at) in KEYWORDS:
            continue
        # A word that no engine here knows may begin a clause of another dialect.
        is_known = words.written(at).strip('"`').lower() in stop.one.names
        is_call = words.word(at + 1) == "(" and words.nearest_before(at, _CLAUSES) == "SELECT"
        if not is_known and not is_call:
            continue
        if words.kind(at - 1) in ("word", "name", "text") and words.word(at - 1) not in KEYWORDS:
            start = words.tokens[at].start
            if parsed_statement(f"{sql[:start]}, {sql[start:]}", stop.one.dialect) is not None:
                return f"A comma is missing before {words.written(at)}."
    return ""


def _clause_in_wrong_place(stop: Stop) -> str:
    if stop.skeleton.word(stop.at) not in _CLAUSES:
        return ""
    return (
        "A clause may be in the wrong place, or something before it unfinished: the order is "
        f"{_CLAUSE_ORDER}."
    )


def _late_on(stop: Stop) -> str:
    if stop.skeleton.word(stop.at) not in ("ON", "USING"):
        return ""
    return f"{stop.near.upper()} stands directly after the table that its JOIN names, before WHERE."


def _mark(stop: Stop) -> str:
    mark = stop.skeleton.word(stop.at)
    if mark in (")", ","):
        return "Something is missing before it, or it is one too many."
    if mark == "=":
        return "A comparison has one = between two values."
    return ""


_HINTS: Final[tuple[Callable[[Stop], str], ...]] = (
    reserved_name,
    *CLAUSE_HINTS,
    *CONDITION_HINTS,
    *JOIN_HINTS,
    with_alone,
    _name_missing,
    _offset_before_limit,
    _keyword_as_name,
    _form_here,
    _misspelt_keyword,
    _alias_of_several_words,
    _text_of_several_words,
    _open_case,
    _misplaced_distinct,
    _comma_too_many,
    _parentheses_before_clause,
    _comma_missing,
    _form_anywhere,
    _clause_in_wrong_place,
    _late_on,
    _mark,
)
"""What may be wrong, the surest first."""
