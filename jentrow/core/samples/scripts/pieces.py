"""A script that is changed in places, in which every line stays where it was."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeAlias

from jentrow.core.sql.tokens import blanked

LeaveOut: TypeAlias = Callable[[int, str, str], None]
"""Told what is not taken over: its line, its text, and why."""


class Pieces:
    """The text as it comes to be: statements get their ends, other things become blank.

    Places are told in the order in which they stand in the script.
    """

    def __init__(self, script: str, leave_out: LeaveOut) -> None:
        self._script, self._leave_out = script, leave_out
        self._parts: list[str] = []
        self._at = self._line_at = 0
        self._line = 1

    def end_statement(self, at: int) -> None:
        """Puts a semicolon behind what ends here."""
        self._parts += [self._script[self._at : at], ";"]
        self._at = at

    def blank(self, start: int, end: int) -> None:
        """Takes a stretch out: blanks and ends of lines are left of it."""
        self._parts += [self._script[self._at : start], blanked(self._script[start:end])]
        self._at = end

    def leave(self, start: int, end: int, why: str) -> None:
        """Takes a stretch out, and tells so."""
        self._leave_out(self.line_of(start), self._script[start:end], why)
        self.blank(start, end)

    def line_of(self, at: int) -> int:
        """The line of a place behind those that were asked for before."""
        self._line += self._script.count("\n", self._line_at, at)
        self._line_at = at
        return self._line

    def text(self) -> str:
        """The script as it is now."""
        return "".join([*self._parts, self._script[self._at :]])
