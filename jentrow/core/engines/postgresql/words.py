"""PostgreSQL's rejections in a learner's words.

Found by what the server says in English, and by its codes where those say more
(https://www.postgresql.org/docs/15/errcodes-appendix.html).
"""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.rejections.changes import (
    A_VIEW,
    BREAKS_A_RULE,
    HOW_MANY_VALUES,
    NEEDS_A_VALUE,
    NO_SUCH,
    NO_WAY_TO_CONVERT,
    NOT_UNIQUE,
    OTHER_KIND,
    REFERS_TO_NOTHING,
    STILL_NEEDED,
    STILL_REFERRED_TO,
    STILL_WAITING,
    THERE_ALREADY,
    TOO_LONG,
    TWICE_A_COLUMN,
    WORKED_OUT,
)
from jentrow.core.engines.rejections.common import (
    COUNTS_NOTHING,
    DIVISION_BY_ZERO,
    LIMIT_BELOW_ZERO,
    MISSING_IN_USING,
    NO_DEFAULT,
    NO_KEY,
    NO_SUCH_WINDOW,
    NO_WHOLE_NUMBER,
    NOT_LISTED,
    OUT_OF_RANGE,
    PLACE_FOR_A_VALUE,
    TOO_DEEP,
    TOO_MANY_PARTS,
    UNEQUAL_NAMES,
    UNEQUAL_ROWS,
    WHOLE_ROW,
    aggregate_in,
    compiled,
    first_of,
    incomplete,
    nested_aggregate,
    no_list,
    no_type,
    no_value_of,
    not_a_condition,
    not_grouped,
    one_sided,
    operands,
    plain,
    position,
    scalar_columns,
    scalar_rows,
    syntax,
    types_differ,
    unclosed,
    window_in,
    window_without_over,
    wrong_arguments,
)
from jentrow.core.engines.rejections.names import (
    ambiguous,
    no_column,
    no_function,
    no_owner,
    no_table,
)
from jentrow.core.engines.rejections.rejected import Explanation, Rejected
from jentrow.core.sql.sources import Catalogue

_TAKEN: Final = frozenset(
    """
    abs age array_agg array_append array_length array_position array_to_string ascii avg bit_and bit_or
    bit_length bool_and bool_or btrim cardinality cbrt ceil ceiling char_length chr coalesce concat
    concat_ws corr cos count covar_pop covar_samp date_bin date_part date_trunc decode degrees div encode
    every exp extract floor format generate_series greatest initcap json_agg json_build_array
    json_build_object json_object json_object_agg jsonb_agg justify_days justify_hours justify_interval
    least left length ln log log10 lower lpad ltrim make_date make_interval make_time make_timestamp max
    md5 min mod mode nullif octet_length overlay percentile_cont percentile_disc pi position power
    quote_literal radians random regexp_count regexp_instr regexp_like regexp_match regexp_matches
    regexp_replace regexp_split_to_array regexp_substr regr_slope repeat replace reverse right round rpad
    rtrim sign sin split_part sqrt starts_with stddev stddev_pop stddev_samp string_agg string_to_array
    strpos substr substring sum tan to_char to_date to_hex to_number to_timestamp translate trim
    trim_array trunc unnest upper var_pop var_samp variance width_bucket
    """.split()  # noqa: SIM905
)
"""Functions that are there: where one "does not exist", it gets what it does not take."""


def explained(
    words: str, detail: str, index: int | None, sql: str, catalogue: Catalogue
) -> Explanation:
    """What PostgreSQL's words mean; ``detail`` is its code."""
    return first_of(_PATTERNS, "postgresql", words, index, sql, catalogue)


def _column(one: Rejected) -> Explanation:
    name = one.found["name"].replace('"', "")
    plain_name = name.rpartition(".")[2].lower()
    if one.is_quoted and plain_name in one.names:
        return Explanation(
            "sql.object",
            f'There is no column "{name}": in double quotes a name keeps its letters, and here it is '
            f"{plain_name}.",
            name,
        )
    return no_column(one.about(name=name, quoted="quoted" if one.is_quoted else ""))


def _column_of(one: Rejected) -> Explanation:
    return no_column(one.about(name=f"{one.found['table']}.{one.found['name']}"))


def _function(one: Rejected) -> Explanation:
    return wrong_arguments(one) if one.found["name"].lower() in _TAKEN else no_function(one)


def _within_group(one: Rejected) -> Explanation:
    name = one.found["name"]
    how = "MODE()" if name == "mode" else f"{name.upper()}(part)"
    return Explanation(
        "sql.runtime",
        f"{name.upper()} is written with the column behind it: {how} WITHIN GROUP (ORDER BY x).",
        name,
    )


def _limit(one: Rejected) -> Explanation:
    return Explanation(
        "sql.syntax",
        "LIMIT n, m belongs to MySQL, MariaDB and SQLite. In PostgreSQL, write LIMIT n OFFSET m.",
        "LIMIT",
    )


_PATTERNS: Final = compiled(
    (
        (r'relation "(?P<name>.+)" does not exist', no_table),
        (r'column (?P<name>"?.+?"?) does not exist', _column),
        (r'missing FROM-clause entry for table "(?P<name>.+)"', no_owner),
        (r'invalid reference to FROM-clause entry for table "(?P<name>.+)"', no_owner),
        (r'column reference "(?P<name>.+)" is ambiguous', ambiguous),
        (r"function (?:\w+\.)?(?P<name>\w+)\((?P<types>.*)\) does not exist", _function),
        (r"(?:aggregate|procedure) (?P<name>\w+)\((?P<types>.*)\) does not exist", _function),
        (r"function (?:\w+\.)?(?P<name>\w+)\((?P<types>.*)\) is not unique", wrong_arguments),
        (r"operator does not exist: (?P<one>[\w ]+?) (?P<sign>[^\w ]+) (?P<other>[\w ]+)", types_differ),
        (r"operator does not exist: (?P<sign>[^\w ]+) (?P<one>[\w ]+)", one_sided),
        (r"malformed array literal: .*", no_list),
        (r"malformed record literal: .*", WHOLE_ROW),
        (r"(?P<name>\w+)\(\*\) must be used to call a parameterless aggregate function", COUNTS_NOTHING),
        (r"argument of (?P<clause>LIMIT|OFFSET) must be type bigint, not type .+", NO_WHOLE_NUMBER),
        (r"cross-database references are not implemented: .*|improper qualified name .*", TOO_MANY_PARTS),
        (r'syntax error at or near "(?P<near>.*)"', syntax),
        (r"syntax error at end of input", incomplete),
        (r"unterminated .*", unclosed),
        (r'trailing junk after .*? at or near "(?P<near>.*)"', syntax),
        (r'column "(?P<name>.+)" must appear in the GROUP BY clause or be used in an aggregate function', not_grouped),
        (r'subquery uses ungrouped column "(?P<name>.+)" from outer query', not_grouped),
        (r"aggregate functions are not allowed in (?P<clause>.+)", aggregate_in),
        (r"stack depth limit exceeded", TOO_DEEP),
        (r"aggregate function calls cannot be nested", nested_aggregate),
        (r"LIMIT #,# syntax is not supported", _limit),
        (
            r"WITHIN GROUP is required for ordered-set aggregate (?P<name>\w+)",
            _within_group,
        ),
        (r"window functions are not allowed in (?P<clause>.+)", window_in),
        (r"window function calls cannot be nested", window_in),
        (r"window function (?P<name>\w+) requires an OVER clause", window_without_over),
        (
            r"OVER specified, but (?P<name>\w+) is not a window function nor an aggregate function",
            plain("OVER (…) belongs to window functions and aggregates, and {name} is none.", "{name}"),
        ),
        (r"each (?P<operation>\w+) query must have the same number of columns", operands),
        (r"(?P<operation>\w+) types (?P<one>.+) and (?P<other>.+) cannot be matched", types_differ),
        (r"subquery (?:must return only one column|has too many columns)", scalar_columns),
        (r"more than one row returned by a subquery used as an expression", scalar_rows),
        (r"non-integer constant in (?P<clause>.+)", NO_KEY),
        (r"(?P<clause>ORDER BY|GROUP BY) position \d+ is not in select list", position),
        (
            r"for SELECT DISTINCT, ORDER BY expressions must appear in select list",
            plain(
                "With DISTINCT, rows are sorted only by what SELECT shows: add the key to SELECT, or take "
                "DISTINCT away.",
                "ORDER BY",
            ),
        ),
        (r"argument of (?P<clause>[\w/]+) must be type boolean, not type (?P<type>.+)", not_a_condition),
        (r"invalid input syntax for type (?P<type>[\w ]+): \"(?P<text>.*)\"", no_value_of),
        (r"invalid input value for enum .+?: \"(?P<text>.*)\"", NOT_LISTED),
        (r"date/time field value out of range: \"(?P<text>.*)\"", plain("{text!r} is no date that there is.", "{text}")),
        (r'window "(?P<name>.+)" does not exist', NO_SUCH_WINDOW),
        (r"DEFAULT is not allowed in this context", NO_DEFAULT),
        (r"VALUES lists must all be the same length", UNEQUAL_ROWS),
        (r"(?:LIMIT|OFFSET) must not be negative", LIMIT_BELOW_ZERO),
        (r'WITH query ".+" has \d+ columns available but \d+ columns specified', UNEQUAL_NAMES),
        (r"subquery has too few columns", scalar_columns),
        (r"division by zero", DIVISION_BY_ZERO),
        (r".* out of range", OUT_OF_RANGE),
        (r"cannot cast type (?P<one>.+) to (?P<other>.+)", types_differ),
        (r"CASE types (?P<one>.+) and (?P<other>.+) cannot be matched", types_differ),
        (r"COALESCE types (?P<one>.+) and (?P<other>.+) cannot be matched", types_differ),
        (
            r'table name "(?P<name>.+)" specified more than once',
            plain("Two tables in FROM are called {name}: give each an alias of its own.", "{name}"),
        ),
        (
            r'column "(?P<name>.+)" specified in USING clause does not exist in .*',
            MISSING_IN_USING,
        ),
        (
            r'recursive reference to query "(?P<name>.+)" must not appear .*',
            plain("The recursive part of a query may name {name} once, in FROM, and nowhere else.", "{name}"),
        ),
        (
            r"subquery in FROM must have an alias",
            plain("A subquery in FROM needs a name after its parenthesis: (…) AS part."),
        ),
        (
            r"SELECT \* with no tables specified is not valid",
            plain("* means all columns of the tables in FROM, and there is no FROM.", "*"),
        ),
        (r'type "(?P<name>.+)" does not exist', no_type),
        (
            r"invalid UNION/INTERSECT/EXCEPT ORDER BY clause",
            plain(
                "Combined queries are sorted only by columns that they give, by name or position.",
                "ORDER BY",
            ),
        ),
        (
            r"could not determine (?:polymorphic )?type.*|could not determine data type.*",
            plain("A value has no type here: CAST(x AS type) says which."),
        ),
        (r"bind message supplies \d+ parameters.*", PLACE_FOR_A_VALUE),
        (
            r"there is no parameter \$(?P<number>\d+)",
            plain("${number} is a place for a value, which nobody fills in here. Write the value itself.", "${number}"),
        ),
        (
            r"DISTINCT is not implemented for window functions",
            plain("A window function takes no DISTINCT.", "DISTINCT"),
        ),
        # statements that change something
        (r"duplicate key value violates unique constraint .*\. Key \((?P<what>.+?)\)=.*", NOT_UNIQUE),
        (r"could not create unique index .*\. Key \((?P<what>.+?)\)=.*", NOT_UNIQUE),
        (r'null value in column "(?P<what>.+?)" of relation .*', NEEDS_A_VALUE),
        (r'column "(?P<what>.+?)" of relation ".+?" contains null values', NEEDS_A_VALUE),
        (r'.*violates check constraint "(?P<what>.+?)".*', BREAKS_A_RULE),
        (r'check constraint "(?P<what>.+?)" of relation .* is violated by some row', BREAKS_A_RULE),
        (
            r'insert or update on table .*\. Key \((?P<key>.+?)\)=\((?P<value>.*)\) is not present in table "(?P<table>.+)"\.',
            REFERS_TO_NOTHING,
        ),
        (
            r'update or delete on table .*\. Key \((?P<key>.+?)\)=\((?P<value>.*)\) is still referenced from table "(?P<table>.+)"\.',
            STILL_REFERRED_TO,
        ),
        (r'column "(?P<name>.+)" of relation "(?P<table>.+)" does not exist', _column_of),
        (r'column "(?P<name>.+)" of relation ".+" already exists', TWICE_A_COLUMN),
        (r'column "(?P<name>.+)" specified more than once', TWICE_A_COLUMN),
        (r'(?:relation|type) "(?P<name>.+)" already exists', THERE_ALREADY),
        (r'constraint "(?P<name>.+)" for relation ".+" already exists', THERE_ALREADY),
        (r'table "(?P<name>.+)" does not exist', no_table),
        (r'(?P<kind>view|materialized view|index|sequence) "(?P<name>.+)" does not exist', NO_SUCH),
        (r'(?P<kind>constraint) "(?P<name>.+)" of relation ".+" does not exist', NO_SUCH),
        (r'"(?P<name>.+)" is not an? (?P<kind>.+)', OTHER_KIND),
        (r"cannot drop .*?(?P<name>\S+) because other objects depend on it", STILL_NEEDED),
        (r"value too long for type (?P<type>.+)", TOO_LONG),
        (r"INSERT has more .*", HOW_MANY_VALUES),
        (r'column "(?P<name>.+)" cannot be cast automatically to type (?P<type>.+)', NO_WAY_TO_CONVERT),
        (r'cannot (?P<what>[A-Z ]+) "(?P<name>.+)" because it has pending trigger events', STILL_WAITING),
        (r'cannot (?:insert into|update|delete from) view "(?P<name>.+)"', A_VIEW),
        (r'column "(?P<name>.+)" can only be updated to DEFAULT', WORKED_OUT),
        (r'cannot insert a non-DEFAULT value into column "(?P<name>.+)"', WORKED_OUT),
    )
)  # fmt: skip
