"""What is done to the tree of a text in each dialect before the stand-in runs it."""

from __future__ import annotations

from typing import Final

from jentrow.core.sql.stand_ins import formulas, functions, number_formats
from jentrow.core.sql.stand_ins.blank_ends import blank_ends
from jentrow.core.sql.stand_ins.dates_in_texts import dates_in_texts, parts_of_texts
from jentrow.core.sql.stand_ins.db2 import functions as db2
from jentrow.core.sql.stand_ins.functions import Step
from jentrow.core.sql.stand_ins.limits import limits
from jentrow.core.sql.stand_ins.oracle import formulas as oracle_formulas
from jentrow.core.sql.stand_ins.oracle import functions as oracle
from jentrow.core.sql.stand_ins.oracle.formats import texts_by_format
from jentrow.core.sql.stand_ins.oracle.hierarchies import hierarchies
from jentrow.core.sql.stand_ins.oracle.keep import first_and_last
from jentrow.core.sql.stand_ins.oracle.outer_joins import outer_joins
from jentrow.core.sql.stand_ins.oracle.rownum import first_rows
from jentrow.core.sql.stand_ins.pattern_parts import parts_by_pattern
from jentrow.core.sql.stand_ins.tables import bare_tables
from jentrow.core.sql.stand_ins.texts_and_numbers import (
    divisions_by_zero,
    empty_texts,
    joins_of_texts,
    mixed_columns,
    nationals,
    sized_casts,
    texts_added,
)
from jentrow.core.sql.stand_ins.tsql import dates as tsql_dates
from jentrow.core.sql.stand_ins.tsql import formulas as tsql_formulas
from jentrow.core.sql.stand_ins.tsql import functions as tsql
from jentrow.core.sql.stand_ins.tsql.xml import texts_joined_by_xml
from jentrow.core.sql.stand_ins.value_texts import value_texts
from jentrow.core.sql.stand_ins.whole_numbers import whole_numbers

_LAST: Final[tuple[Step, ...]] = (
    formulas.within_domains,
    value_texts,
    limits,
    functions.cut_texts,
    functions.fitting_texts,
    functions.row_addresses,
    sized_casts,
)
"""What comes last in every dialect, when all calls are those of the stand-in."""

STEPS: Final[dict[str, tuple[Step, ...]]] = {
    "tsql": (
        texts_joined_by_xml,
        blank_ends("tsql"),
        bare_tables,
        tsql.sizes_by_default,
        functions.wide_types,
        nationals,
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
        mixed_columns,
        dates_in_texts("tsql"),
        tsql.days_on_dates,
        texts_added,
        whole_numbers,
        tsql.likes,
        formulas.nth_places,
        tsql.beginnings_before_the_text,
        formulas.rounds_that_cut,
        formulas.times_of_parts,
        *_LAST,
    ),
    "oracle": (
        blank_ends("oracle"),
        formulas.written_moments,
        hierarchies,
        outer_joins,
        bare_tables,
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
        mixed_columns,
        divisions_by_zero,
        empty_texts,
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
        joins_of_texts,
        formulas.rounded_dates,
        formulas.nth_places,
        formulas.buckets,
        formulas.common_bits,
        *_LAST,
    ),
    "db2": (
        blank_ends("db2"),
        bare_tables,
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
        mixed_columns,
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
        *_LAST,
    ),
}
"""What is done to a tree in each dialect, one after the other."""
