"""A single edit of a text, as it is told to people and programs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from jentrow.core.sql.edits.edit import Edit


@dataclass(frozen=True, slots=True, kw_only=True)
class ToldEdit:
    """An edit with its words, and where it stands in the text that it changes.

    ``line`` and ``column`` are where it begins, ``start`` and ``end`` the stretch that it replaces;
    ``sql`` is the text with the edit, ``mistake`` what it stands for in a learner's words.
    """

    kind: str
    label: str
    mistake: str
    start: int
    end: int
    line: int
    column: int
    old: str
    new: str
    sql: str
    message: str

    def to_json(self) -> dict[str, Any]:
        """The edit as the command line's ``--json`` prints it."""
        return {
            "edit": self.kind,
            "line": self.line,
            "column": self.column,
            "from": self.old,
            "to": self.new,
            "sql": self.sql,
            "message": self.message,
        }


def placed(edit: Edit) -> dict[str, Any]:
    """What is told of every edit, by the names of :class:`ToldEdit`; the message is the caller's."""
    return {
        "kind": edit.kind.name,
        "label": edit.kind.label,
        "mistake": edit.kind.mistake,
        "start": edit.start,
        "end": edit.end,
        "line": edit.place.line,
        "column": edit.place.column,
        "old": edit.old,
        "new": edit.new,
        "sql": edit.edited,
    }
