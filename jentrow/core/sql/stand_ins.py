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

from jentrow.core.sql import db2_functions as db2
from jentrow.core.sql import number_formats, oracle_formulas, tsql_dates, tsql_formulas
from jentrow.core.sql import oracle_functions as oracle
from jentrow.core.sql import stand_in_formulas as formulas
from jentrow.core.sql import stand_in_functions as functions
from jentrow.core.sql import tsql_functions as tsql
from jentrow.core.sql.blank_ends import blank_ends
from jentrow.core.sql.columnkinds import NOTHING_KNOWN, ColumnKinds
from jentrow.core.sql.dates_in_texts import dates_in_texts, parts_of_texts
from jentrow.core.sql.db2_words import plain_db2
from jentrow.core.sql.foreign_forms import foreign_forms
from jentrow.core.sql.oracle_formats import texts_by_format
from jentrow.core.sql.oracle_hierarchies import TIE, hierarchies
from jentrow.core.sql.oracle_keep import first_and_last
from jentrow.core.sql.oracle_outer_joins import outer_joins
from jentrow.core.sql.oracle_rownum import first_rows
from jentrow.core.sql.parser_failures import PARSER_FAILURES, said_of
from jentrow.core.sql.parsing import parsed_statement
from jentrow.core.sql.pattern_parts import parts_by_pattern
from jentrow.core.sql.stand_in_functions import Step, is_text
from jentrow.core.sql.stand_in_limits import limits
from jentrow.core.sql.stand_in_texts import unread_form
from jentrow.core.sql.timed_values import kinds_in
from jentrow.core.sql.tokens import Token, tokens_of
from jentrow.core.sql.tsql_xml import texts_joined_by_xml
from jentrow.core.sql.value_texts import value_texts
from jentrow.core.sql.whole_numbers import whole_numbers

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
        for step in _STEPS[dialect]:
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


def _bare_tables(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Tables of the sample have no owner here: dbo.huts is huts; DUAL and SYSDUMMY1 are nothing."""
    for table in list(tree.find_all(exp.Table)):
        if _is_of_the_catalogue(table):
            notes.append("The catalogue of the engine itself is not there.")
        table.set("db", None)
        table.set("catalog", None)
        table.set("hints", None)
        column = _OF_ONE_ROW.get(table.name.upper())
        if column is not None:
            _stand_for_one_row(table, *column)
    return tree


_CATALOGUES: Final = frozenset({"SYS", "INFORMATION_SCHEMA", "SYSCAT", "SYSIBM", "SYSSTAT"})
_OF_A_USER: Final = re.compile(
    r"(?:USER|ALL|DBA)_(?:TABLES|TAB_COLUMNS|VIEWS|CONSTRAINTS|CONS_COLUMNS|INDEXES|OBJECTS|SEQUENCES)"
)
"""Oracle's own views, whose schema nobody names."""


def _is_of_the_catalogue(table: exp.Table) -> bool:
    name = table.name.upper()
    is_named = table.db.upper() in _CATALOGUES and name not in _OF_ONE_ROW
    return is_named or _OF_A_USER.fullmatch(name) is not None


_OF_ONE_ROW: Final = {"DUAL": ("dummy", "X"), "SYSDUMMY1": ("ibmreqd", "Y")}
"""Tables of one row that the dialects have, with their only column and what it holds."""


def _stand_for_one_row(table: exp.Table, name: str, holds: str) -> None:
    start, select = table.parent, table.find_ancestor(exp.Select)
    assert select is not None
    is_read = any(item.is_star for item in select.selects) or any(
        column.name.lower() == name for column in select.find_all(exp.Column)
    )
    if isinstance(start, exp.From) and not select.args.get("joins") and not is_read:
        start.pop()
        return
    row = exp.Select().select(exp.alias_(exp.Literal.string(holds), name))
    table.replace(row.subquery(table.alias or table.name))


def _numbers(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A division has its fraction, and by zero there is none."""
    for division in list(tree.find_all(exp.Div)):
        division.set("expression", functions.called("JENTROW_NONZERO", division.expression))
    return tree


def _plus(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """``+`` joins two texts; of a text and a number it makes a sum, where that can be."""
    aliases = {one.alias.lower() for one in tree.find_all(exp.Alias)}
    for plus in list(tree.find_all(exp.Add))[::-1]:
        if is_text(plus.this, kinds) or is_text(plus.expression, kinds):
            if any(_is_number(one, kinds, aliases) for one in (plus.this, plus.expression)):
                notes.append("+ of a text and a number adds them, and the stand-in joins them.")
            plus.replace(exp.DPipe(this=plus.this, expression=plus.expression))
    return tree


_NUMBERS: Final = (exp.Sub, exp.Mul, exp.Div, exp.Count, exp.Sum, exp.Avg, exp.Length, exp.Neg)


def _is_number(node: exp.Expr, kinds: ColumnKinds, aliases: set[str]) -> bool:
    """Whether a value is surely no text: a column is where the texts are known, and it is no alias."""
    node = node.unnest()
    if isinstance(node, exp.Literal):
        return not node.is_string
    if isinstance(node, exp.Column):
        return bool(kinds.texts) and node.name.lower() not in kinds.texts | aliases
    return isinstance(node, _NUMBERS)


def _nationals(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """N'…' is a text."""
    for national in list(tree.find_all(exp.National)):
        national.replace(exp.Literal.string(national.name))
    return tree


def _mixed_columns(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Texts and numbers in one column of a set operation become texts on the stand-in alone."""
    for operation in tree.find_all(exp.SetOperation):
        sides = (operation.left, operation.right)
        if not all(isinstance(one, exp.Query) for one in sides):
            continue
        for pair in zip(*(one.selects for one in sides), strict=False):
            values = [one.unalias() for one in pair]
            for text, number in (values, values[::-1]):
                if is_text(text, kinds) and _is_number(number, kinds, set()):
                    notes.append(
                        "A set operation of texts and numbers gives texts on the stand-in."
                    )
    return tree


def _empty_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """Empty text is NULL."""
    for literal in list(tree.find_all(exp.Literal)):
        if literal.is_string and not literal.name:
            literal.replace(exp.Null())
    return tree


def _joins_of_texts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """``||`` takes NULL for empty text."""
    for join in list(tree.find_all(exp.DPipe))[::-1]:
        join.replace(functions.called("JENTROW_JOIN", join.this, join.expression))
    return tree


def _sized_casts(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
    """A cast to a text of a length cuts it off there, and the stand-in does not."""
    casts = (cast.to for cast in tree.find_all(exp.Cast))
    if any(to.is_type(*exp.DataType.TEXT_TYPES) and to.expressions for to in casts):
        notes.append("CAST to a text of a length is not cut off on the stand-in.")
    return tree


_STEPS: Final[dict[str, tuple[Step, ...]]] = {
    "tsql": (
        texts_joined_by_xml,
        blank_ends("tsql"),
        _bare_tables,
        tsql.sizes_by_default,
        functions.wide_types,
        _nationals,
        functions.recursions,
        formulas.tables_of_values,
        functions.applied,
        tsql_formulas.bits,
        functions.whole_casts,
        tsql_formulas.sums_of_groups,
        tsql_formulas.letters_taken,
        number_formats.formatted_numbers,
        tsql.without_hints,
        tsql.lengths_without_blanks,
        tsql.replacements_cut,
        tsql_dates.counted_units,
        tsql_dates.parts,
        functions.renamed,
        tsql.choices,
        tsql.texts_put_in,
        functions.weekdays_from_one,
        formulas.numbers_of_weeks,
        tsql_formulas.places_of_patterns,
        tsql_formulas.numeric_texts,
        tsql.searches_for_nothing,
        tsql.caseless_searches,
        tsql_formulas.quoted_names,
        tsql.powers,
        formulas.weeks_between,
        tsql.collations,
        functions.distinct_lists,
        _mixed_columns,
        dates_in_texts("tsql"),
        tsql.days_on_dates,
        _plus,
        whole_numbers,
        tsql.likes,
        formulas.nth_places,
        tsql.beginnings_before_the_text,
        formulas.rounds_that_cut,
        formulas.times_of_parts,
        formulas.within_domains,
        value_texts,
        limits,
        functions.cut_texts,
        functions.fitting_texts,
        functions.row_addresses,
        _sized_casts,
    ),
    "oracle": (
        blank_ends("oracle"),
        formulas.written_moments,
        hierarchies,
        outer_joins,
        _bare_tables,
        functions.wide_types,
        functions.recursions,
        functions.applied,
        oracle_formulas.names_of_columns,
        oracle_formulas.compared_with_lists,
        oracle_formulas.plain_texts,
        first_rows,
        first_and_last,
        oracle.constant_keys,
        oracle.parts_of_days,
        oracle.aggregates_of_aggregates,
        oracle.whole_casts,
        _mixed_columns,
        _numbers,
        _empty_texts,
        functions.null_of_all,
        oracle.parts_from_zero,
        oracle.joined_by_concat,
        oracle.dates_as_texts,
        oracle.truncated_dates,
        oracle.days_counted_on,
        oracle.moments_taken_away,
        oracle.units_of_dates,
        oracle.of_one_row,
        functions.numbers_of_texts,
        functions.distinct_lists,
        functions.lists_without_separator,
        formulas.remainders,
        oracle.nothing_left,
        functions.ratios,
        parts_by_pattern,
        oracle.not_true,
        oracle_formulas.years_of_two_digits,
        oracle_formulas.durations,
        texts_by_format,
        functions.formatted_dates,
        oracle.numbers_without_size,
        oracle.lengths_of_numbers,
        _joins_of_texts,
        formulas.rounded_dates,
        formulas.nth_places,
        formulas.buckets,
        formulas.common_bits,
        formulas.within_domains,
        value_texts,
        limits,
        functions.cut_texts,
        functions.fitting_texts,
        functions.row_addresses,
        _sized_casts,
    ),
    "db2": (
        blank_ends("db2"),
        _bare_tables,
        functions.wide_types,
        functions.recursions,
        db2.of_whole_populations,
        functions.renamed,
        functions.whole_casts,
        db2.arguments,
        db2.places_in_texts,
        db2.large_counts,
        db2.dates_of_numbers,
        db2.differences,
        db2.days_without_unit,
        db2.logarithms,
        parts_of_texts,
        dates_in_texts("db2"),
        _mixed_columns,
        functions.distinct_lists,
        functions.lists_without_separator,
        functions.ratios,
        parts_by_pattern,
        db2.decimals,
        db2.casts,
        db2.days,
        db2.ends_of_months,
        db2.beginnings,
        functions.read_dates,
        db2.powers,
        functions.numbers_of_texts,
        functions.weekdays_from_one,
        formulas.numbers_of_weeks,
        formulas.largest_of_several,
        functions.null_of_all,
        functions.formatted_dates,
        whole_numbers,
        formulas.nth_places,
        formulas.db2_functions,
        formulas.common_bits,
        formulas.within_domains,
        value_texts,
        limits,
        functions.cut_texts,
        functions.fitting_texts,
        functions.row_addresses,
        _sized_casts,
    ),
}
"""What is done to a tree in each dialect, one after the other."""
