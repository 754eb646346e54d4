"""What fills an empty place in an engine, a statement or a table at a time."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Protocol

from jentrow.core.engines.answers import Tables
from jentrow.core.engines.loading.neutral import NeutralTable
from jentrow.core.engines.loading.rules import TableRules, WritesTables


class StatementFailed(Exception):
    """Raised by a loader where the engine does not take a statement or a file; its words say why."""


class Loader(WritesTables, Protocol):
    """An empty place in an engine, being filled."""

    script_dialect: str
    """The dialect that scripts are in which the engine cannot run; empty where that is unknown."""

    def run(self, sql: str) -> None:
        """Runs one statement. Raises :class:`StatementFailed`."""

    def columns(self) -> dict[str, tuple[str, dict[str, bool]]]:
        """The tables by their names in small letters: the name, and its columns.

        Of each column, by its name, whether it holds bytes.
        """

    def empty(self) -> None:
        """Deletes the rows of all tables."""

    def copy(self, table: str, columns: Sequence[str], path: Path) -> None:
        """Loads a CSV file whose header names these columns. Raises :class:`StatementFailed`."""

    def create(self, table: NeutralTable, rules: TableRules) -> None:
        """Makes a table. Raises :class:`StatementFailed`."""

    def drop(self, table: str) -> None:
        """Deletes a table that was made, if it is there."""

    def start_over(self) -> None:
        """Makes the place empty again."""

    def tables(self) -> Tables:
        """What is in it."""
