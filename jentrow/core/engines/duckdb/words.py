"""DuckDB's rejections in a learner's words."""

from __future__ import annotations

import json
from typing import Final

from jentrow.core.engines.rejections.changes import (
    BREAKS_A_RULE,
    HOW_MANY_VALUES,
    NEEDS_A_VALUE,
    NO_PARTNER,
    NO_SUCH,
    NOT_UNIQUE,
    OTHER_KIND,
    STILL_NEEDED,
    THERE_ALREADY,
    TWICE_A_COLUMN,
)
from jentrow.core.engines.rejections.common import (
    CHAINED,
    DIVISION_BY_ZERO,
    LIMIT_BELOW_ZERO,
    MISSING_IN_USING,
    NO_DEFAULT,
    NO_KEY,
    NO_SUCH_WINDOW,
    OUT_OF_RANGE,
    PLACE_FOR_A_VALUE,
    STAR,
    TOO_DEEP,
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
from jentrow.core.sql.spellings.spellings import found_forms, slip_in
from jentrow.core.sql.stand_ins.oracle.hierarchies import CIRCLE, TIE


def explained(
    words: str,
    detail: str,
    index: int | None,
    sql: str,
    catalogue: Catalogue,
    *,
    engine: str = "duckdb",
) -> Explanation:
    """What DuckDB's words mean; ``detail`` is what it tells apart beside them, as JSON.

    ``engine`` is another one where DuckDB stands in for it.
    """
    said = json.loads(detail) if detail.startswith("{") else {}
    found = first_of(_PATTERNS, engine, words, index, sql, catalogue)
    if said.get("sort") == "Parser" and found.code == "sql.runtime":
        return Explanation("sql.syntax", found.message, found.near)
    return found


def _column(one: Rejected) -> Explanation:
    quoted = "quoted" if one.is_quoted else ""
    return no_column(one.about(name=one.found["name"], quoted=quoted))


def _column_of(one: Rejected) -> Explanation:
    return no_column(one.about(name=f"{one.found['table']}.{one.found['name']}"))


def _arguments(one: Rejected) -> Explanation:
    """DuckDB takes IN without parentheses for a question of what a list contains."""
    words = one.skeleton
    is_bare = any(
        words.word(at) == "IN" and words.kind(at + 1) in ("number", "text")
        for at in range(len(words.tokens))
    )
    if one.found["name"].lower() == "contains" and is_bare:
        return Explanation("sql.object", "IN takes its values in parentheses: IN (1, 2).", "IN")
    return wrong_arguments(one)


def _out_of_range(one: Rejected) -> Explanation:
    """A sign apart from its other half is a factorial to DuckDB: x ! = 3."""
    slip = slip_in(one.skeleton, one.engine, one.engine_label)
    return Explanation("sql.runtime", slip) if slip else OUT_OF_RANGE(one)


def _chained(one: Rejected) -> Explanation:
    """A comparison of what a comparison gives: && and || bind closer than those do."""
    for form, _, _ in found_forms(one.skeleton, one.engine):
        if form.name in ("&&", "|| between conditions"):
            return Explanation("sql.syntax", form.says(one.engine, one.engine_label))
    return Explanation("sql.syntax", CHAINED)


def _near_end(one: Rejected) -> Explanation:
    """DuckDB points at the last word where something is missing after it."""
    at = one.skeleton.token_holding(one.index)
    words = [token.word for token in one.skeleton.tokens]
    is_last = at is not None and at == len(words) - 1
    if is_last and (words[-1] in _OPENING or words.count("(") > words.count(")")):
        return incomplete(one)
    return syntax(one)


_NO_SUCH_CAST: Final = plain("A value of the type {type} cannot become one of the type {other}.")


def _truth(one: Rejected) -> Explanation:
    """A value where a condition is due, unless the text itself asks for a truth of it."""
    words = [token.word for token in one.skeleton.tokens]
    asked = {"CAST", "TRY_CAST", "::", "BOOLEAN", "BOOL"}.intersection(words)
    return (_NO_SUCH_CAST if asked else not_a_condition)(one)


_OPENING: Final = frozenset(
    """
    WHERE FROM BY AND OR ON SELECT HAVING JOIN IN LIMIT OFFSET LIKE BETWEEN THEN ELSE WHEN CASE NOT
    , ( = < > <= >= <> != % + - /
    """.split()  # noqa: SIM905
)

_PATTERNS: Final = compiled(
    (
        (r'Referenced column "?(?P<name>[^"]+?)"? not found in FROM clause(?:!| and can).*', _column),
        (
            r'Could not ORDER BY column "(?P<name>.+?)":.*',
            plain(
                "Combined queries are sorted only by columns that they give, by name or position: {name} is none.",
                "{name}",
            ),
        ),
        (r'Referenced column "(?P<name>.+?)" was not found because the FROM clause is missing.*', _column),
        (r'Table "(?P<table>.+?)" does not have a column named "(?P<name>.+?)".*', _column_of),
        (r'Values list "(?P<table>.+?)" does not have a column named "(?P<name>.+?)".*', _column_of),
        (r'Referenced table "(?P<name>.+?)" not found!.*', no_owner),
        (r"Table with name (?P<name>\S+) does not exist!.*", no_table),
        (r'Table with name "(?P<name>[^"]+)" does not exist because schema .*', no_table),
        (r"Chained comparisons are not supported.*", _chained),
        (
            r'Unknown ordered aggregate "(?P<name>\w+)".*',
            plain(
                "{name} has no WITHIN GROUP in {label}: the order stands inside the parentheses, as in "
                "STRING_AGG(x, ', ' ORDER BY y).",
                "{name}",
            ),
        ),
        (r"(?:Scalar|Aggregate|Table|Window|Macro)(?: Macro)? Function with name (?P<name>\S+) does not exist!.*", no_function),
        (r'Ambiguous reference to column name "(?P<name>.+?)".*', ambiguous),
        (
            r"No function matches the given name and argument types '(?P<name>\w+)\((?P<types>.*?)\)'.*",
            _arguments,
        ),
        (
            r"No function matches the given name and argument types '(?P<sign>[^\w']+)\((?P<one>(?:ENUM\([^)]*\)|.+?)), (?P<other>.+?)\)'.*",
            types_differ,
        ),
        (r"No function matches the given name and argument types '(?P<sign>[^\w']+)\((?P<one>[^,]+?)\)'.*", one_sided),
        (
            r"Could not choose a best candidate function for the function call \"(?P<sign>[^\w\"]+)\((?P<one>.+?), (?P<other>.+?)\)\".*",
            types_differ,
        ),
        (
            r"Could not choose a best candidate function for the function call \"(?P<name>\w+)\((?P<types>.*?)\)\".*",
            wrong_arguments,
        ),
        (r"Cannot compare values of type (?P<one>.+?) and (?:type )?(?P<other>.+?) .*", types_differ),
        (r"Cannot mix values of type (?P<one>.+?) and (?P<other>.+?) in .*", types_differ),
        (r'syntax error at or near "(?P<near>.*)"', _near_end),
        (r"syntax error at end of input", incomplete),
        (r"unterminated .*", unclosed),
        (
            r'column "?(?P<name>.+?)"? must appear in the GROUP BY clause or (?:must )?be (?:part of|used in) an aggregate function.*',
            not_grouped,
        ),
        (r"(?P<clause>WHERE|GROUP BY|JOIN|FILTER|LIMIT)(?: clause)? cannot contain aggregates!.*", aggregate_in),
        (r"Max expression depth limit of \d+ exceeded.*|.*[Mm]aximum (?:recursion|tree) depth.*", TOO_DEEP),
        (r"aggregate function calls cannot be nested.*", nested_aggregate),
        (r"aggregates are not (?:supported|allowed) .*", aggregate_in),
        (r".*(?:clause )?cannot contain window functions!.*", window_in),
        (r"[A-Z ]+ clause cannot contain DEFAULT clause", NO_DEFAULT),
        (
            TIE,
            plain(
                "ORDER SIBLINGS BY leaves rows under the same one in any sequence: add a key that tells them apart.",
                "ORDER SIBLINGS BY",
            ),
        ),
        (CIRCLE, plain("A row comes below itself: CONNECT BY goes in a circle.", "CONNECT BY")),
        (
            r"Window functions are not supported here",
            plain(
                "A window function needs OVER (…), and stands only in SELECT and ORDER BY: to filter by it, "
                "put the query into a subquery."
            ),
        ),
        (r"Set operations can only apply to expressions with the same number of result columns", operands),
        (r"(?:Subquery returns \d+ columns - expected \d+.*|.*subquery.* must return.* one column.*)", scalar_columns),
        (r"More than one row returned by a subquery used as an expression.*", scalar_rows),
        (r"(?P<clause>ORDER BY|GROUP BY) non-integer literal .*", NO_KEY),
        (r"(?P<clause>ORDER|GROUP BY) term out of range.*", position),
        (r"Could not convert string '(?P<text>.*?)' to ENUM.*", plain("{text!r} is none of the values that such a column may have.", "{text}")),
        (r"Could not convert string '(?P<text>.*?)' to (?P<type>\w+).*", no_value_of),
        (r'Could not convert string "(?P<text>.*?)" to (?P<type>\w+).*', no_value_of),
        (r'invalid date field format: "(?P<text>.*)", .*', plain("{text!r} is no date: 2026-01-31 is one.", "{text}")),
        (r'date field value out of range: "(?P<text>.*)".*', plain("{text!r} is no date that there is.", "{text}")),
        (r'(?:timestamp|time) field value out of range: "(?P<text>.*)".*', plain("{text!r} is no time that there is.", "{text}")),
        (r'invalid timestamp field format: "(?P<text>.*)".*', plain("{text!r} is no date and time.", "{text}")),
        (r"STAR expression is (?:not supported|only allowed) .*", STAR),
        (
            r"DISTINCT requires at least one argument.*",
            plain("Nothing stands after DISTINCT: COUNT(DISTINCT x) counts the different values of x.", "DISTINCT"),
        ),
        (r"UNNEST\(\) can only be applied to .*", no_list),
        (r"Unimplemented type for cast \((?:STRUCT\(.*|.+ -> STRUCT\(.*)", WHOLE_ROW),
        (r"Type .* can't be cast to the destination type STRUCT\(.*", WHOLE_ROW),
        (r"Unimplemented type for cast \((?P<type>\w+) -> (?P<other>BOOLEAN)\).*", _truth),
        (r"Unimplemented type for cast \((?P<type>.+?) -> (?P<other>.+?)\).*", _NO_SUCH_CAST),
        (
            r'extract specifier "(?P<name>.+)" not recognized.*',
            plain("{name} is no part of a date or time: YEAR, MONTH, DAY and HOUR are some.", "{name}"),
        ),
        (r'window "(?P<name>.+)" does not exist', NO_SUCH_WINDOW),
        (r"VALUES lists must all be the same length.*", UNEQUAL_ROWS),
        (r"LIMIT/OFFSET cannot be negative.*", LIMIT_BELOW_ZERO),
        (r"Failed to cast value: Could not convert string '(?P<text>.*?)' to (?P<type>\w+).*", no_value_of),
        (r'Cannot extract field \'(?P<name>.+?)\' from expression "(?P<table>\w+)" .*', _column_of),
        (
            r"Cannot extract field '(?P<name>.+?)' from expression .*",
            plain("Before the point there is no table that has a column {name}.", "{name}"),
        ),
        (r"Divide by zero|Division by zero in .*", DIVISION_BY_ZERO),
        (
            r"Not implemented: dates",
            plain("A date less a date is no number of days there, and it is not worked out here: DAYS(a) - DAYS(b) is one."),
        ),
        (
            r"There is no such root or logarithm",
            plain("Only what is not below 0 has a root, and what is above 0 a logarithm."),
        ),
        (r"The text does not fit", plain("A value is longer, as a text, than its type holds.")),
        (
            r"The text is not known",
            plain("A fraction, or a moment, becomes a text here, and what text is the engine's own."),
        ),
        (r"Overflow in .*", _out_of_range),
        (r".* out of range.*", _out_of_range),
        (
            r"at least one window function must appear in .*",
            plain("QUALIFY filters by a window function, and there is none: filter rows by WHERE.", "QUALIFY"),
        ),
        (
            r'Duplicate alias "(?P<name>.+)" in query!.*',
            plain("Two tables in FROM are called {name}: give each an alias of its own.", "{name}"),
        ),
        (
            r'Column "(?P<name>.+)" does not exist on (?:left|right) side of join!.*',
            MISSING_IN_USING,
        ),
        (
            r"SELECT clause without selection list",
            plain("SELECT is followed by what is to be shown.", "SELECT"),
        ),
        (
            r"\* expression without FROM clause!.*|SELECT \* requires a FROM clause.*",
            plain("* means all columns of the tables in FROM, and there is no FROM.", "*"),
        ),
        (
            r"Type with name (?P<name>\S+) does not exist!.*",
            no_type,
        ),
        (
            r"(?:Values were not provided for|Invalid Input Error: Values were not provided).*",
            PLACE_FOR_A_VALUE,
        ),
        # statements that change something
        (r'Duplicate key "(?P<what>[^:"]+): .*" violates (?:primary key|unique) constraint.*', NOT_UNIQUE),
        (r'NOT NULL constraint failed: (?:.+\.)?"?(?P<what>[^".]+)"?', NEEDS_A_VALUE),
        (r'CHECK constraint failed on table "?.+?"? with expression CHECK\((?P<what>.+)\)', BREAKS_A_RULE),
        (r"Violates foreign key constraint because key .*", NO_PARTNER),
        (r'(?:Table|View|Index|Type|Sequence) with name "?(?P<name>[^"]+?)"? already exists.*', THERE_ALREADY),
        (r'Column with name "?(?P<name>[^"]+?)"? already exists.*', TWICE_A_COLUMN),
        (r'Table "(?P<table>.+?)" does not have a column with name "(?P<name>.+?)".*', _column_of),
        (r"Referenced update column (?P<name>\S+) not found in table!.*", _column),
        (r"(?P<kind>View|Index|Sequence) with name (?P<name>\S+) does not exist.*", NO_SUCH),
        (r'Existing object "?(?P<name>[^"]+?)"? is of type \w+, trying to (?:drop|replace with) type (?P<kind>\w+)', OTHER_KIND),
        (r"table .* has \d+ columns but \d+ values were supplied", HOW_MANY_VALUES),
        (r"(?:Cannot|Could not) drop entry \"?(?P<name>[^\" ]+)\"? because there are entries that depend on it.*", STILL_NEEDED),
    )
)  # fmt: skip
