"""What an engine rejected, and what an explanation of it is."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from difflib import get_close_matches

from jentrow.core.comparison.findings import FindingCode
from jentrow.core.engines.labels import DIALECTS, LABELS, STAND_INS
from jentrow.core.sql.skeleton import Skeleton, skeleton_of
from jentrow.core.sql.sources import Catalogue
from jentrow.core.words import listed


@dataclass(frozen=True, slots=True)
class Explanation:
    """What a rejection is, in plain words; ``near`` is the piece of the text that it is about.

    ``index`` is where that stands, where it was found in the text: the engine's place, if it gives
    one, may be that of something else.
    """

    code: FindingCode
    message: str
    near: str = ""
    index: int | None = None


@dataclass(frozen=True, slots=True)
class Rejected:
    """A rejected text: what was found in the engine's words, and where the engine points.

    ``found`` has the pieces of its words by their names; ``index`` is the place in the text, None
    where the engine gives none. ``functions`` are known to be there, whatever else is.
    """

    engine: str
    found: Mapping[str, str]
    sql: str
    index: int | None
    catalogue: Catalogue
    functions: frozenset[str] = frozenset()

    def about(self, **found: str) -> Rejected:
        """The same rejection, with other pieces found in the engine's words."""
        return replace(self, found=found)

    def of_missing_owner(self) -> Rejected:
        """The same about ``owner.column``, where the engine names the owner alone: ``name``."""
        at = self.skeleton.token_holding(self.index)
        column = self.skeleton.written(at + 2) if at is not None else ""
        return self.about(name=f"{self.found['name']}.{column or 'column'}")

    @property
    def is_quoted(self) -> bool:
        """Whether the engine points at a name in double quotes."""
        return self.index is not None and self.sql[self.index : self.index + 1] == '"'

    @property
    def label(self) -> str:
        """How people write the engine; where another stands in for it, that one is called so."""
        said = self.engine_label
        return f"The stand-in for {said}" if self.engine in STAND_INS else said

    @property
    def engine_label(self) -> str:
        """How people write the engine itself, whatever stands in for it."""
        return LABELS[self.engine]

    @property
    def label_inside(self) -> str:
        """The same inside a sentence."""
        return self.label.replace("The stand-in", "the stand-in")

    @property
    def dialect(self) -> str:
        """The parser's name for its dialect."""
        return DIALECTS[self.engine]

    @property
    def skeleton(self) -> Skeleton:
        """The words of the text."""
        return skeleton_of(self.sql, self.dialect)

    @property
    def names(self) -> frozenset[str]:
        """The sample's tables and columns, in small letters."""
        held = (name for columns in self.catalogue.values() for name in columns)
        return frozenset(name.lower() for name in (*self.catalogue, *held))


def nearest(name: str, known: Sequence[str]) -> str | None:
    """The known name that is most like this one; None where none is."""
    by_lower = {one.lower(): one for one in known}
    found = get_close_matches(name.lower(), list(by_lower), n=1, cutoff=0.6)
    return by_lower[found[0]] if found else None


def listed_names(names: Sequence[str]) -> str:
    """Names as a list in words."""
    return listed(names) if names else "no tables"
