"""What is said of statements that change rows and tables, the same for every engine."""

from __future__ import annotations

from typing import Final

from jentrow.core.engines.rejections.common import plain

NOT_UNIQUE: Final = plain(
    "A row with the same value is there already: {what} must differ from row to row."
)
NEEDS_A_VALUE: Final = plain("{what} needs a value: it must not be NULL.")
BREAKS_A_RULE: Final = plain("A value breaks the rule that the table makes: {what}.")
NO_PARTNER: Final = plain(
    "A row would refer to a row of another table that is not there, or a row that others refer to would go."
)
REFERS_TO_NOTHING: Final = plain(
    "A row would refer to a row of {table} that is not there: none has {key} {value}."
)
STILL_REFERRED_TO: Final = plain(
    "Rows of {table} still refer to the row with {key} {value}: change or delete those first."
)
REFERS_BEYOND: Final = plain("A row would refer to a row of {table} that is not there.")
REFERRED_TO: Final = plain(
    "Rows of {table} still refer to a row that would go or change: change or delete those first."
)
THERE_ALREADY: Final = plain("There is something called {name} already.", "{name}")
TWICE_A_COLUMN: Final = plain("Two columns are called {name}.", "{name}")
A_VIEW: Final = plain("{name} is a view: change the tables that it reads.", "{name}")
WORKED_OUT: Final = plain(
    "{name} is worked out from other columns: it cannot be written.", "{name}"
)
OTHER_KIND: Final = plain("{name} is no {kind}.", "{name}")
NO_SUCH: Final = plain("There is no {kind} {name}.", "{name}")
STILL_NEEDED: Final = plain(
    "{name} cannot go while something else rests on it. DROP … CASCADE takes that away with it.",
    "{name}",
)
TOO_LONG: Final = plain("A text is longer than {type} takes.")
HOW_MANY_VALUES: Final = plain(
    "INSERT wants a value for each of its columns, and no more: name the columns after the table, in the "
    "order of the values.",
    "INSERT",
)
NO_WAY_TO_CONVERT: Final = plain(
    "The values of {name} cannot become {type} by themselves: ALTER … TYPE {type} USING … says how.",
    "{name}",
)
STILL_WAITING: Final = plain(
    "{what} cannot follow in the same run on changes of {name} that are looked at only when all is done: "
    "put it first, or run it by itself.",
    "{name}",
)
