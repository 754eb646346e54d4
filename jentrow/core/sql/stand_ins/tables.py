"""Tables that a dialect names otherwise: with an owner, of one row, or of the engine's own catalogue."""

from __future__ import annotations

import re
from typing import Final

from sqlglot import exp

from jentrow.core.sql.columnkinds import ColumnKinds


def bare_tables(tree: exp.Expr, kinds: ColumnKinds, notes: list[str]) -> exp.Expr:
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
