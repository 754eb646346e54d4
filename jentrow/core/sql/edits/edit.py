"""What an edit is: one stretch of a text replaced by another, and the mistake that it stands for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from jentrow.core.sql.text import Place, place_at

LIKELY: Final = 0.6
"""From here on a mistake counts as one that learners make often."""

_SHOWN: Final = 60


@dataclass(frozen=True, slots=True)
class EditKind:
    """A kind of edit.

    ``name`` stands in JSON and in links. ``label`` names the part of a query, in few words.
    ``mistake`` says in a learner's words what is wrong where such an edit mends it. ``repeats``
    tells that what was written once wrongly is often written so everywhere.
    """

    name: str
    label: str
    mistake: str
    repeats: bool = False


@dataclass(frozen=True, slots=True)
class Change:
    """``sql[start:end]`` becomes ``new``.

    ``likelihood`` (0 to 1) is how often learners write the one for the other; ``borrows`` tells
    that ``new`` was taken from another query's text.
    """

    start: int
    end: int
    new: str
    likelihood: float
    borrows: bool = False


@dataclass(frozen=True, slots=True)
class Edit:
    """A change of a text, of a kind; ``sql`` is the text as it was."""

    kind: EditKind
    sql: str
    start: int
    end: int
    new: str
    likelihood: float
    borrows: bool = False

    @property
    def edited(self) -> str:
        """The text with the edit made; all else stays as it is written."""
        return self.sql[: self.start] + self.new + self.sql[self.end :]

    @property
    def old(self) -> str:
        """What stands there before."""
        return self.sql[self.start : self.end]

    @property
    def place(self) -> Place:
        """The line and column where it begins."""
        return place_at(self.sql, self.start)

    @property
    def size(self) -> int:
        """How many characters go and come: the smaller, the more exact an explanation."""
        return len(self.old.strip()) + len(self.new.strip())

    @property
    def in_words(self) -> str:
        """What is done, without a stop: write `<=` instead of `<`."""
        old, new = _shown(self.old), _shown(self.new)
        if not old:
            return f"add `{new}`"
        if not new:
            return f"leave out `{old}`"
        return f"write `{new}` instead of `{old}`"


def _shown(text: str) -> str:
    """A stretch of a text in one line, cut where it is long."""
    said = " ".join(text.split())
    return said if len(said) <= _SHOWN else said[: _SHOWN - 1] + "…"
