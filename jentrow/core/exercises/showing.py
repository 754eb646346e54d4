"""What learners see of the expected result before they hand in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Final, Literal, TypeAlias, get_args

from jentrow.core.mappings import listed, unknown_name
from jentrow.core.results import ResultSet, Row

ShownRows: TypeAlias = Literal["none", "first", "all"]
MOST_FIRST: Final = 100


@dataclass(frozen=True, slots=True)
class ShownResult:
    """Which parts of the expected result learners see: column names, row count, rows."""

    columns: bool = False
    row_count: bool = False
    rows: ShownRows = "none"
    first: int = 3

    def to_mapping(self) -> dict[str, Any]:
        """What differs from showing nothing, as it stands in a pack."""
        usual = ShownResult()
        return {
            name: getattr(self, name)
            for name in self.__slots__
            if getattr(self, name) != getattr(usual, name)
        }


@dataclass(frozen=True, slots=True)
class Glimpse:
    """The part of an expected result that learners see; None for what they do not."""

    columns: tuple[str, ...] | None
    row_count: int | None
    rows: tuple[Row, ...] | None


def glimpse(expected: ResultSet, shown: ShownResult) -> Glimpse:
    """What learners see of a result. Rows bring the names and, all of them, the count along."""
    rows: tuple[Row, ...] | None = None
    if shown.rows != "none":
        rows = tuple(expected.rows if shown.rows == "all" else expected.rows[: shown.first])
    return Glimpse(
        expected.names if shown.columns or rows is not None else None,
        len(expected.rows) if shown.row_count or shown.rows == "all" else None,
        rows,
    )


def read_feedback(value: object, problems: list[str]) -> ShownResult:
    """Reads ``{expected: {columns, row_count, rows, first}}``; adds to ``problems``."""
    if value is None:
        return ShownResult()
    if not isinstance(value, Mapping):
        problems.append("feedback must be a mapping with expected")
        return ShownResult()
    problems.extend(
        unknown_name("name in feedback", name, ("expected",))
        for name in value
        if name != "expected"
    )
    expected = value.get("expected")
    if expected is None:
        return ShownResult()
    if not isinstance(expected, Mapping):
        problems.append(f"feedback.expected must be a mapping with {listed(ShownResult.__slots__)}")
        return ShownResult()
    chosen: dict[str, Any] = {}
    for name, given in expected.items():
        where = f"feedback.expected.{name}"
        if name not in ShownResult.__slots__:
            problems.append(unknown_name("name in feedback.expected", name, ShownResult.__slots__))
        elif name == "rows" and given not in get_args(ShownRows):
            problems.append(f"{where} is {given!r}, but must be {listed(get_args(ShownRows))}")
        elif name == "first" and (
            isinstance(given, bool) or not isinstance(given, int) or not 1 <= given <= MOST_FIRST
        ):
            problems.append(
                f"{where} is {given!r}, but must be a whole number from 1 to {MOST_FIRST}"
            )
        elif name in ("columns", "row_count") and not isinstance(given, bool):
            problems.append(f"{where} is {given!r}, but must be true or false")
        else:
            chosen[name] = given
    return ShownResult(**chosen)
