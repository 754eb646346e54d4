"""MariaDB's rejections in a learner's words."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from jentrow.core.engines.rejections.changes import (
    A_VIEW,
    BREAKS_A_RULE,
    HOW_MANY_VALUES,
    NEEDS_A_VALUE,
    NO_SUCH,
    NOT_UNIQUE,
    OTHER_KIND,
    REFERRED_TO,
    REFERS_BEYOND,
    THERE_ALREADY,
    TWICE_A_COLUMN,
    WORKED_OUT,
)
from jentrow.core.engines.rejections.common import (
    MISSING_IN_USING,
    NO_SUCH_WINDOW,
    OUT_OF_RANGE,
    TOO_DEEP,
    TOO_MANY_TABLES,
    UNEQUAL_NAMES,
    UNEQUAL_ROWS,
    compiled,
    first_of,
    incomplete,
    no_type,
    no_value_of,
    not_grouped,
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
from jentrow.core.sql.skeleton import Skeleton
from jentrow.core.sql.sources import Catalogue, sources_in
from jentrow.core.sql.tokens import tokens_of


def explained(
    words: str, detail: str, index: int | None, sql: str, catalogue: Catalogue
) -> Explanation:
    """What MariaDB's words mean; ``detail`` is the number of its error."""
    return first_of(_PATTERNS, "mariadb", words, index, sql, catalogue)


def _syntax(one: Rejected) -> Explanation:
    """MariaDB quotes the text from where it stopped on."""
    rest = one.found["near"]
    if not rest:
        return incomplete(one)
    if rest[0] in "'\"`" and rest.count(rest[0]) == 1:
        at = one.sql.rfind(rest[0])
        return unclosed(Rejected(one.engine, {}, one.sql, at, one.catalogue))
    at = one.sql.rfind(rest)
    first = next(iter(tokens_of(rest[:200], one.dialect)), None)
    near = rest[first.start : first.end] if first else rest[:20]
    # What it quotes goes on to the end of the text, unless that is far.
    is_rest = at >= 0 and (one.sql.endswith(rest) or one.sql.find(rest) == at)
    # It may begin with blanks, and comments.
    index = at + (first.start if first else 0) if is_rest else None
    return syntax(Rejected(one.engine, {"near": near}, one.sql, index, one.catalogue))


def _unknown_column(one: Rejected) -> Explanation:
    """MariaDB says in which clause a column stands, and not where."""
    clause = one.found["clause"].split()[0].upper()
    owner, _, name = one.found["name"].rpartition(".")
    words = one.skeleton
    if clause == "FROM" and f" USING ( {name.upper()} " in words.text:
        return MISSING_IN_USING(one.about(name=name))
    begun = -1 if clause in ("SELECT", "FIELD") else _first(words, clause, -1)
    at = None if begun is None else _first(words, (owner or name).upper(), begun)
    here = one if at is None else replace(one, index=words.tokens[at].start)
    said = no_column(here)
    sources = sources_in(words, one.catalogue)
    columns = {column.lower() for it in sources for column in one.catalogue[it.table]}
    if clause == "HAVING" and name.lower() in columns:
        message = (
            f"HAVING sees what SELECT gives and GROUP BY groups by, and {name} is neither: a condition "
            "on rows belongs in WHERE."
        )
        said = replace(said, message=message)
    return replace(said, index=here.index)


def _first(words: Skeleton, written: str, after: int) -> int | None:
    """The first token after a place that is this word or name, in capitals."""
    return next(
        (
            at
            for at in range(after + 1, len(words.tokens))
            if words.written(at).strip("`").upper() == written
        ),
        None,
    )


def _no_variable(one: Rejected) -> Explanation:
    """A name where LIMIT or OFFSET wants a number: it can only be a variable of a program."""
    name = one.found["name"]
    words = one.skeleton
    for at in range(1, len(words.tokens)):
        if words.written(at) == name and words.word(at - 1) in ("LIMIT", "OFFSET", ","):
            before = words.nearest_before(at, ("LIMIT", "OFFSET"))
            if before:
                message = f"{before} takes a number, and {name} is none."
                return Explanation("sql.runtime", message, name, words.tokens[at].start)
    return Explanation("sql.runtime", f"There is no variable {name}.", name)


def _no_such(one: Rejected) -> Explanation:
    return NO_SUCH(_in_small_letters(one))


def _other_kind(one: Rejected) -> Explanation:
    return OTHER_KIND(_in_small_letters(one))


def _in_small_letters(one: Rejected) -> Rejected:
    """MariaDB writes the kinds of things in capitals."""
    return replace(one, found={**one.found, "kind": one.found["kind"].lower()})


_PATTERNS: Final = compiled(
    (
        (r"Table '(?:.+?\.)?(?P<name>[^.']+)' doesn't exist", no_table),
        (
            r"Incorrect usage of ALL and DISTINCT",
            plain("DISTINCT and ALL say the opposite of each other: write one of them.", "DISTINCT"),
        ),
        (r"Unknown table '(?P<name>.+?)' in SELECT", no_owner),
        (r"Unknown table '(?:.+\.)?(?P<name>.+?)'", no_table),
        (r"Unknown column '\d+' in '(?P<clause>(?i:order|group)).*'", position),
        (r"Unknown column '(?P<name>.+)' in '(?P<clause>.*)'", _unknown_column),
        (r"Unknown data type: '(?P<name>.+)'", no_type),
        (r"Undeclared variable: (?P<name>.+)", _no_variable),
        (r"Column '(?P<name>.+)' in .* is ambiguous", ambiguous),
        (r"FUNCTION (?:.+\.)?(?P<name>\w+) does not exist", no_function),
        (r"execute command denied to user .* for routine '(?:.+\.)?(?P<name>\w+)'", no_function),
        (r"Incorrect parameter count in the call to native function '(?P<name>\w+)'", wrong_arguments),
        (r"Incorrect parameters in the call to (?:native|stored) function [`'](?P<name>\w+)[`']", wrong_arguments),
        (
            r"You have an error in your SQL syntax; check the manual that corresponds to your .* "
            r"for the right syntax to use near '(?P<near>.*)' at line \d+",
            _syntax,
        ),
        (
            r"Invalid use of group function",
            plain(
                "An aggregate stands where it cannot: a condition on one belongs in HAVING, not in WHERE, "
                "and one aggregate cannot stand inside another."
            ),
        ),
        (
            r"'(?P<name>.+)' isn't in GROUP BY|(?:Expression #\d+ of .*?contains nonaggregated column '|.*nonaggregated column ')(?P<other>[^']+)'.*",
            lambda one: not_grouped(
                Rejected(
                    one.engine,
                    {"name": (one.found["name"] or one.found["other"]).rpartition(".")[2]},
                    one.sql, one.index, one.catalogue,
                )
            ),
        ),
        (r"Window function is allowed only in SELECT list and ORDER BY clause", window_in),
        (r"Window functions? .*not allowed.*", window_in),
        (r"'?(?P<name>\w+)'? .*without OVER.*", window_without_over),
        (r"The used SELECT statements have a different number of columns", operands),
        (r"Operand should contain \d+ column\(s\)", scalar_columns),
        (r"Illegal parameter data types \w+ and row for operation .*", scalar_columns),
        (
            r"Illegal parameter data types (?P<one>[\w ]+) and (?P<other>[\w ]+) for operation '(?P<sign>.+)'",
            types_differ,
        ),
        (r"Window specification with name '(?P<name>.+)' is not defined", NO_SUCH_WINDOW),
        (r"The used table value constructor has a different number of values", UNEQUAL_ROWS),
        (r"WITH column list and SELECT field list have different column counts", UNEQUAL_NAMES),
        (r"Subquery returns more than 1 row", scalar_rows),
        (r"Incorrect (?P<type>\w+) value: '(?P<text>.*)'.*", no_value_of),
        (r"Truncated incorrect (?P<type>\w+) value: '(?P<text>.*)'", no_value_of),
        (r".* value is out of range in '.*'", OUT_OF_RANGE),
        (
            r"Not unique table/alias: '(?P<name>.+)'",
            plain("Two tables in FROM are called {name}: give each an alias of its own.", "{name}"),
        ),
        (
            r"Every derived table must have its own alias",
            plain("A subquery in FROM needs a name after its parenthesis: (…) AS part."),
        ),
        (
            r"No tables used",
            plain("* means all columns of the tables in FROM, and there is no FROM.", "*"),
        ),
        (
            r"Mixing of GROUP columns \(.*\) with no GROUP columns is illegal if there is no GROUP BY clause",
            plain("A column stands beside an aggregate without GROUP BY: group by it, or put it into an aggregate."),
        ),
        (
            r"Expression #\d+ of ORDER BY contains aggregate function and applies to .*",
            plain("Combined queries are sorted only by columns that they give.", "ORDER BY"),
        ),
        (
            r"Table '(?P<name>.+)' from one of the SELECTs cannot be used in .*",
            plain("Combined queries are sorted only by columns that they give, without a table's name.", "ORDER BY"),
        ),
        (
            r"Illegal mix of collations .*",
            plain("Two texts are compared that sort by different rules: COLLATE says which is meant."),
        ),
        (
            r"This version of .* doesn't yet support '(?P<what>.+)'",
            plain("{label} does not have this: {what}."),
        ),
        (
            r"(?:Got a packet bigger than|Regex error).*",
            plain("A value is too large, or a pattern cannot be read."),
        ),
        (
            r"No database selected",
            plain("A table is named without its sample: write its name alone."),
        ),
        (r"Too high level of nesting for select|Too many WITH elements in WITH clause|Thread stack overrun.*", TOO_DEEP),
        (r"Too many tables; .* can only use (?P<most>\d+) tables in a join", TOO_MANY_TABLES),
        (r"Illegal double '(?P<name>.+)' value found during parsing", OUT_OF_RANGE),
        # statements that change something
        (r"Duplicate entry '.*' for key '.+' \((?P<what>.+)\)", NOT_UNIQUE),
        (r"Duplicate entry '.*' for key '(?P<what>.+)'", NOT_UNIQUE),
        (r"Column '(?P<what>.+)' cannot be null", NEEDS_A_VALUE),
        (r"Field '(?P<what>.+)' doesn't have a default value", NEEDS_A_VALUE),
        (r"Data truncated for column '(?P<what>.+)' at row \d+", plain("A value does not fit into {what}.")),
        (r"Out of range value for column '(?P<what>.+)' at row \d+", plain("A number is too large or too small for {what}.")),
        (r"Data too long for column '(?P<what>.+)' at row \d+", plain("A value is longer than {what} takes.")),
        (r"CONSTRAINT `.+` failed for `.+` \((?P<what>.+)\)", BREAKS_A_RULE),
        (r"CONSTRAINT `(?P<what>.+)` failed for `.+`", BREAKS_A_RULE),
        (r"Cannot add or update a child row: .* REFERENCES `(?P<table>.+?)` .*", REFERS_BEYOND),
        (r"Cannot delete or update a parent row: a foreign key constraint fails \(`(?P<table>.+?)`, .*", REFERRED_TO),
        (
            r"Cannot delete or update a parent row: a foreign key constraint fails",
            plain("A foreign key of another table refers to it: that table goes first, or the key."),
        ),
        (
            r"Cannot truncate a table referenced in a foreign key constraint \(`(?P<table>.+?)`.*",
            plain("TRUNCATE cannot empty what {table} refers to: DELETE can, row by row."),
        ),
        (r"Table '(?P<name>.+)' already exists", THERE_ALREADY),
        (r"Duplicate (?:key|foreign key constraint|CHECK constraint|index) name '(?P<name>.+)'", THERE_ALREADY),
        (r"Duplicate column name '(?P<name>.+)'", TWICE_A_COLUMN),
        (r"Column '(?P<name>.+)' specified twice", TWICE_A_COLUMN),
        (r"Column count doesn't match value count at row \d+", HOW_MANY_VALUES),
        (r"Can't DROP (?P<kind>[A-Z ]+) `(?P<name>.+)`; check that it exists", _no_such),
        (r"Unknown (?P<kind>VIEW): '(?P<name>.+)'", _no_such),
        (r"'(?P<name>.+)' is not of type '(?P<kind>.+)'", _other_kind),
        (r"The target table (?P<name>.+) of the \w+ is not (?:insertable-into|updatable)", A_VIEW),
        (r"The value specified for generated column '(?P<name>.+)' in table '.+' .*", WORKED_OUT),
        (r"Key column '(?P<name>.+)' doesn't exist in table", plain("The table has no column {name}.", "{name}")),
        (r"Multiple primary key defined", plain("The table has a primary key already.")),
        (
            r"Can't create table .*Foreign key constraint is incorrectly formed.*",
            plain(
                "A foreign key refers to a key of a table that is there, column by column of the same type: "
                "here something of that is not so."
            ),
        ),
        (
            r"Cannot drop (?:column|index) '?(?P<name>\w+)'?: needed in a foreign key constraint.*",
            plain("{name} cannot go while a foreign key rests on it.", "{name}"),
        ),
        (
            r"Incorrect table definition; there can be only one auto column and it must be defined as a key",
            plain("A table has one AUTO_INCREMENT column at most, and that one is a key."),
        ),
        (
            r"(?:BLOB/TEXT|BLOB) column '(?P<name>.+)' used in key specification without a key length",
            plain("A key on the text {name} says how much of it counts: {name}(20), or VARCHAR(20) as its type.", "{name}"),
        ),
        (
            r"Table '(?P<name>.+)' is specified twice, both as a target for '\w+' and as a separate source for data",
            plain("A statement that changes {name} cannot read it in a subquery as well.", "{name}"),
        ),
    )
)  # fmt: skip
