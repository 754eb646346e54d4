"""How the command line shows rows."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from rich.console import Console
from rich.table import Table

from jentrow.core.values import printed
from jentrow.core.words import counted

if TYPE_CHECKING:
    from jentrow.core.exercises.distinguishing.smallest_example import SmallestExample


def print_example(example: SmallestExample) -> None:
    """The rows on which an answer is wrong, what is due on them, and what it gives."""
    console = Console(highlight=False, markup=False)
    console.print(f"  {counted(example.row_count, 'row')} made up, enough to see it:")
    for table in example.tables:
        _print(console, table.name, table.columns, table.rows)
    _print(console, "due", example.expected.names, example.expected.rows)
    _print(console, "given", example.actual.names, example.actual.rows)


def _print(
    console: Console, title: str, columns: Sequence[str], rows: Sequence[Sequence[Any]]
) -> None:
    table = Table(title=title, title_justify="left", box=None, pad_edge=True, show_edge=False)
    for column in columns:
        table.add_column(column)
    for row in rows:
        table.add_row(*("NULL" if value is None else printed(value) for value in row))
    console.print(table)
    if not rows:
        console.print("   no rows")
