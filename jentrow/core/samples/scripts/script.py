"""What a script came to: its tables, its rows, and what of it was left out."""

from __future__ import annotations

from dataclasses import dataclass, field

from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.samples.scripts.calls import Sequences
from jentrow.core.samples.scripts.numbering import Numberings
from jentrow.core.samples.scripts.statements import beginning
from jentrow.core.samples.scripts.types import ScriptTypes
from jentrow.core.samples.scripts.views import ScriptView


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Something of a script that was not taken over: its line, its beginning, and why."""

    line: int
    text: str
    why: str


@dataclass
class ReadScript:
    """What a script came to: tables, statements for SQLite in their order, what was left out."""

    dialect: str
    tables: list[TableSchema] = field(default_factory=list)
    statements: list[tuple[int, str]] = field(default_factory=list)
    indexes: list[tuple[int, str]] = field(default_factory=list)
    views: list[ScriptView] = field(default_factory=list)
    left_out: list[LeftOut] = field(default_factory=list)
    sequences: Sequences = field(default_factory=Sequences)
    types: ScriptTypes = field(init=False)
    numberings: Numberings = field(init=False)

    def __post_init__(self) -> None:
        self.types = ScriptTypes(self.dialect)
        self.numberings = Numberings(self.dialect)

    def leave_out(self, line: int, text: str, why: str) -> None:
        """Notes what is not taken over."""
        self.left_out.append(LeftOut(line, beginning(text), why))

    def table(self, name: str) -> TableSchema | None:
        """The table of this name, in whatever letters; None where the script made none."""
        return next((one for one in self.tables if one.name.lower() == name.lower()), None)
