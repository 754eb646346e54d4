"""What a query's text says that hardly anybody means: true of the text, whatever the rows are.

Each remark says under which evidence it may explain a difference; without it, it is not said.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache
from typing import Final, Literal, TypeAlias

from sqlglot import exp

from jentrow.core.sql.aggregates import aggregates_in
from jentrow.core.sql.parser_failures import PARSER_FAILURES
from jentrow.core.sql.parsing import parsed
from jentrow.core.sql.skeleton import Skeleton, skeleton_of
from jentrow.core.sql.text import Place, place_at

Evidence: TypeAlias = Literal[
    "differs", "fewer", "no_rows", "sequence", "less", "null_given", "near", "name_given"
]
"""What must have been found: any difference in rows or cells; rows that are missing; no rows at
all; rows in another sequence; in one column, whole numbers that are too small, NULL in place of a
value, numbers close by, in each row the name of a column that is due."""


@dataclass(frozen=True, slots=True)
class Remark:
    """One remark: what it is called, its words, its place in the text, the evidence that it needs.

    ``column`` is the output column, counted from 0, that the evidence is about.
    """

    code: str
    words: str
    place: Place
    near: str
    evidence: Evidence = "differs"
    column: int | None = None


@lru_cache(maxsize=256)
def remarks_on(sql: str, dialect: str) -> tuple[Remark, ...]:
    """The remarks on a query, those that are surely mistakes first."""
    skeleton = skeleton_of(sql, dialect)
    found = [remark for case in _CASES for remark in case(skeleton, dialect)]
    tree = parsed(sql, dialect)
    if tree is not None:
        with suppress(*PARSER_FAILURES):  # what cannot be printed stands in no remark
            found += _on_columns(sql, tree)
    return tuple(found)


def _remark(
    skeleton: Skeleton, code: str, words: str, start: int, end: int, evidence: Evidence = "differs"
) -> Remark:
    first, last = skeleton.tokens[start], skeleton.tokens[end - 1]
    return Remark(
        code,
        words,
        place_at(skeleton.sql, first.start),
        skeleton.sql[first.start : last.end],
        evidence,
    )


def _written(skeleton: Skeleton, start: int, end: int) -> str:
    return skeleton.sql[skeleton.tokens[start].start : skeleton.tokens[end - 1].end]


_COMPARED_WITH_NULL: Final = re.compile(r" [\w\")]+ (=|==|<>|!=|<|>|<=|>=) NULL ")
_NULL_COMPARED: Final = re.compile(r" NULL (=|==|<>|!=|<|>|<=|>=) \S+ ")
_WHEN_NULL: Final = re.compile(r" WHEN NULL THEN ")
_NULL_LISTED: Final = re.compile(r" (NOT )?IN \( (?!SELECT )[^()]*NULL [^()]*\) ")
_NOT_IN_QUERY: Final = re.compile(r" NOT IN \( (SELECT|WITH) ")


def _null_comparisons(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    for pattern in (_COMPARED_WITH_NULL, _NULL_COMPARED):
        for start, end in skeleton.spans(pattern):
            written = _written(skeleton, start, end)
            asks = "IS NOT NULL" if re.search(r"<>|!=", written) else "IS NULL"
            words = f"{written} is never true, whatever it is compared with: {asks} asks for it."
            yield _remark(skeleton, "null_comparison", words, start, end)
    for start, end in skeleton.spans(_WHEN_NULL):
        words = "WHEN NULL is never met: WHEN x IS NULL, after a CASE with nothing behind it, is."
        yield _remark(skeleton, "null_comparison", words, start, end)


def _null_in_list(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    for start, end in skeleton.spans(_NULL_LISTED):
        if skeleton.word(start) == "NOT":
            words = "NOT IN is never true where NULL stands in its list."
            yield _remark(skeleton, "null_in_list", words, start, end)
        else:
            words = "NULL in the list of IN finds no row: OR x IS NULL does."
            yield _remark(skeleton, "null_in_list", words, start, end, "fewer")
    for start, end in skeleton.spans(_NOT_IN_QUERY):
        words = (
            "NOT IN gives no row at all where its subquery gives a NULL: keep NULLs out of the "
            "subquery, or write NOT EXISTS."
        )
        yield _remark(skeleton, "null_in_subquery", words, start, end, "no_rows")


def _text(skeleton: Skeleton, at: int) -> str:
    """What a literal in quotes holds."""
    return skeleton.written(at)[1:-1].replace("''", "'")


_LIKE: Final = re.compile(r" LIKE ' ")
_EQUALS_TEXT: Final = re.compile(r" (=|==|<>|!=) ' ")


def _wildcards(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    for start, end in skeleton.spans(_LIKE):
        text = _text(skeleton, end - 1)
        if "%" in text or "_" in text or (dialect == "tsql" and "[" in text):
            continue
        if "*" in text:
            words = f"* is no wildcard of LIKE: % is, as in '{text.replace('*', '%')}'."
        else:
            words = f"LIKE '{text}' has no wildcard and asks for this very text: % stands for any."
        yield _remark(skeleton, "like_without_wildcard", words, start, end, "fewer")
    for start, end in skeleton.spans(_EQUALS_TEXT):
        text = _text(skeleton, end - 1)
        if len(text) > 1 and (text.startswith("%") or text.endswith("%")):
            words = f"{skeleton.word(start)} compares with the very text '{text}': % is a wildcard of LIKE alone."
            yield _remark(skeleton, "wildcard_without_like", words, start, end)


_LONE_TEXT: Final = re.compile(
    r" OR ' (?=(AND|OR|\)|ORDER|GROUP|HAVING|LIMIT|UNION|INTERSECT|EXCEPT|THEN|;) |$)"
)


def _conditions(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    for start, end in skeleton.spans(_LONE_TEXT):
        written = skeleton.written(end - 1)
        words = (
            f"OR {written} alone compares nothing: the column stands on each side of OR, or the values "
            "in IN (…)."
        )
        yield _remark(skeleton, "or_without_comparison", words, start, end)


_TEXT_KEY: Final = re.compile(
    r" (ORDER|GROUP) BY ' (?=(ASC|DESC|NULLS|,|\)|HAVING|ORDER|LIMIT|OFFSET|FETCH|UNION|;) |$)"
)
_TEXTS_COMPARED: Final = re.compile(
    r" (?:WHERE|AND|OR|NOT|ON|HAVING|WHEN|\() ' "
    r"(?:(?:=|==|<>|!=|<|>|<=|>=) ['#]|(?:NOT )?LIKE '|(?:NOT )?IN \( ['#]|(?:NOT )?BETWEEN ['#]|IS (?:NOT )?NULL) "
)


def _texts_for_names(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    """A text where a column is meant: it is the same for every row."""
    for start, end in skeleton.spans(_TEXT_KEY) if dialect in _TEXTS_AS_KEYS else ():
        if skeleton.tokens[start].depth:
            continue
        written = _written(skeleton, start, end)
        if skeleton.word(start) == "ORDER":
            words = f"{written} sorts nothing, as the text is the same for every row: a column's name stands without quotes."
            yield _remark(skeleton, "text_as_key", words, start, end, "sequence")
        else:
            words = f"{written} makes one group of all rows: a column's name stands without quotes."
            yield _remark(skeleton, "text_as_key", words, start, end)
    for start, end in skeleton.spans(_TEXTS_COMPARED):
        text = skeleton.written(start + 1)
        words = f"{text} is a text here, and the same for every row: a column's name stands without quotes."
        yield _remark(skeleton, "texts_compared", words, start + 1, end)


_TEXTS_AS_KEYS: Final = ("sqlite", "mysql", "oracle", "db2")
"""The dialects whose engines take a text as a key; the others refuse it."""

_BETWEEN: Final = re.compile(r" BETWEEN (['#]) AND \1 ")


def _bounds(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    for start, end in skeleton.spans(_BETWEEN):
        low, high = skeleton.written(start + 1), skeleton.written(end - 1)
        numbers = skeleton.kind(start + 1) == "number"
        if (_number(low) > _number(high)) if numbers else _comes_after(low, high, dialect):
            words = f"BETWEEN {low} AND {high} is never true: the lower bound stands first."
            yield _remark(skeleton, "bounds_reversed", words, start, end)


def _comes_after(low: str, high: str, dialect: str) -> bool:
    """Whether a text surely sorts after another: elsewhere collations decide of letters."""
    if dialect in ("sqlite", "duckdb"):
        return low > high
    return low > high and all(map(_DIGITS.fullmatch, (low, high))) and len(low) == len(high)


_DIGITS: Final = re.compile(r"'[\d:. -]*'")


def _number(written: str) -> float:
    try:
        return float(written.replace("_", ""))
    except ValueError:
        return 0.0


_DATE_SUM: Final = re.compile(r" # - # - # ")
_DATE_TEXT: Final = re.compile(r" (=|==|<>|!=|<|>|<=|>=|BETWEEN|AND) ' ")
_ONE_DIGIT: Final = re.compile(r"(\d{4})-(\d{1,2})-(\d{1,2})")
_DAY_FIRST: Final = re.compile(r"\d{1,2}([./-])\d{1,2}\1\d{4}")
_CAST_DATE: Final = re.compile(r" AS (DATE|DATETIME|TIMESTAMP) \) ")


def _dates(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    for start, end in skeleton.spans(_DATE_SUM):
        parts = [_number(skeleton.written(at)) for at in (start, start + 2, start + 4)]
        year, month, day = parts
        if 1000 <= year <= 2999 and 1 <= month <= 12 and 1 <= day <= 31:
            written = _written(skeleton, start, end).replace(" ", "")
            words = (
                f"{written} without quotes is a subtraction, {year - month - day:g}: a date stands in "
                "quotes."
            )
            yield _remark(skeleton, "date_without_quotes", words, start, end)
    if dialect != "sqlite":
        return  # everywhere else dates are values of a type of their own
    for _, end in skeleton.spans(_DATE_TEXT):
        text = _text(skeleton, end - 1)
        parted = _ONE_DIGIT.fullmatch(text)
        if parted and len(text) < 10:
            full = f"{parted[1]}-{parted[2]:0>2}-{parted[3]:0>2}"
            words = f"A date is compared as text: '{text}' is not '{full}', which has two digits for each."
            yield _remark(skeleton, "date_as_text", words, end - 1, end)
        elif _DAY_FIRST.fullmatch(text):
            words = (
                f"A date is compared as text, letter by letter: '{text}' begins with its day, and "
                "'2026-01-31' with its year."
            )
            yield _remark(skeleton, "date_as_text", words, end - 1, end)
    for start, end in skeleton.spans(_CAST_DATE):
        words = "CAST to a date gives the number that the text begins with: DATE(x) gives the date."
        yield _remark(skeleton, "cast_as_date", words, start, end)


_PLUS: Final = re.compile(r" (' \+|\+ ') ")


def _joined_texts(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    joined = {"sqlite": "||", "mysql": "CONCAT(a, b)"}.get(dialect)
    if joined is None:
        return  # elsewhere it is an error, or joins them
    for start, end in skeleton.spans(_PLUS):
        at = start if skeleton.kind(start) == "text" else end - 1
        if not re.fullmatch(r"\s*[+-]?[\d.]+\s*", _text(skeleton, at)):
            words = f"+ adds numbers, and a text counts as 0: texts are joined by {joined}."
            yield _remark(skeleton, "plus_for_text", words, start, end)


_FULL_JOIN: Final = re.compile(r" [\w`)]+ FULL JOIN ")


def _joins(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    if dialect != "mysql":
        return
    for start, end in skeleton.spans(_FULL_JOIN):
        words = (
            "There is no FULL JOIN here: FULL is read as another name of the table before it, and rows "
            "without a partner are left out."
        )
        yield _remark(skeleton, "full_as_name", words, start + 1, end)


_USER: Final = re.compile(r"(?<! \.)(?<! AS) USER (?![(.])")


def _signed_in(skeleton: Skeleton, dialect: str) -> Iterator[Remark]:
    if dialect != "postgres":
        return
    for start, end in skeleton.spans(_USER):
        words = (
            "user without quotes is the name of whoever is signed in to the database: as a name of a "
            'table or column it stands in double quotes, "user".'
        )
        yield _remark(skeleton, "user_as_value", words, start, end)


_CASES: Final[tuple[Callable[[Skeleton, str], Iterator[Remark]], ...]] = (
    _null_comparisons,
    _null_in_list,
    _conditions,
    _texts_for_names,
    _dates,
    _bounds,
    _wildcards,
    _joined_texts,
    _joins,
    _signed_in,
)


def _on_columns(sql: str, tree: exp.Query) -> Iterator[Remark]:
    """Remarks on what an output column is worked out from."""
    select = tree
    while isinstance(select, exp.SetOperation | exp.Subquery):
        select = select.this
    if not isinstance(select, exp.Select):
        return
    for at, item in enumerate(select.selects):
        shown = item.unalias()
        if isinstance(shown, exp.Star) or (isinstance(shown, exp.Column) and shown.is_star):
            return  # the places of what follows are not known
        place = _place_of(sql, shown)
        for aggregate in aggregates_in(shown):
            counted = aggregate.this
            if isinstance(aggregate, exp.Count) and isinstance(counted, exp.Column):
                words = (
                    f"COUNT({counted.sql()}) leaves out the rows in which {counted.name} is NULL; "
                    "COUNT(*) counts all."
                )
                yield Remark("count_of_column", words, place, "", "less", at)
            if isinstance(aggregate, exp.Sum | exp.Avg) and isinstance(counted, exp.Round):
                name = type(aggregate).__name__.upper()
                words = (
                    f"ROUND inside {name} rounds each value first: ROUND({name}(…)) rounds once."
                )
                yield Remark("rounded_before", words, place, "", "near", at)
        if isinstance(shown, exp.Literal) and shown.is_string:
            words = (
                f"'{shown.name}' in quotes is this very text, in each row: a column's name stands "
                "without quotes."
            )
            yield Remark("text_for_column", words, place, shown.name, "name_given", at)
        if isinstance(shown, exp.Case) and shown.args.get("default") is None:
            words = "A CASE without ELSE gives NULL where none of its conditions is true."
            yield Remark("case_without_else", words, place, "", "null_given", at)


def _place_of(sql: str, node: exp.Expr) -> Place:
    starts = [one.meta["start"] for one in node.walk() if "start" in one.meta]
    return place_at(sql, min(starts, default=0))
