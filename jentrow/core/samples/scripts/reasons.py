"""Why something of a script was not taken over: said to whoever makes a sample of it."""

from __future__ import annotations

from typing import Final

SETS_UP: Final = "it sets up the server it was written for"
NO_ROWS: Final = "it makes no table and no row"
NO_STATEMENT: Final = "it is not a statement that can be taken over"
CANNOT_BE_READ: Final = "it cannot be read: {why}"
PROGRAM: Final = "it is a program of the server: rows of a sample change only as you change them"
OF_A_QUERY: Final = (
    "it makes a table of a query's rows, which only its own engine works out: write the table's "
    "columns and rows"
)
OF_A_SERVER: Final = "a setting of another engine, of no effect here"
OF_NO_DATA: Final = "a change that rows do not depend on"
LINE: Final = "it is a line for the program that runs the script"
CONDITION: Final = "a condition: what stands under it is taken over, as the sample begins empty"
DROPS: Final = "it drops what is there already: a sample begins empty"
FAILING: Final = "it is done only where a statement before it fails"
DECIDES: Final = "what it does hangs on a condition, which only its own server can decide"
TRIGGER: Final = "a trigger: rows of a sample change only as you change them"
VIRTUAL: Final = "a virtual table"
ONCE: Final = "the statements before it are taken over once"

NOT_TAKEN: Final = (
    "it makes no",
    "it makes a table of",
    "it is not a statement",
    "it cannot be read",
    "it sets up",
    "there is no table",
)
"""How it begins why a whole statement was left out."""

_OF_NO_EFFECT: Final = frozenset(
    {SETS_UP, NO_ROWS, OF_A_SERVER, OF_NO_DATA, LINE, CONDITION, DROPS, FAILING}
)


def is_lost(why: str) -> bool:
    """Whether something of the sample may be missing for this reason; else it is of no effect."""
    return why not in _OF_NO_EFFECT and "of no effect" not in why
