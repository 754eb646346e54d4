"""Exercise sheets as they are written."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import date, datetime
from pathlib import Path
from typing import Annotated, Any, Final

from annotated_types import Ge, Le
from pydantic import AfterValidator, Field, PlainValidator, WithJsonSchema

from jentrow.core.declared import Declared, OrAlone, list_of, mapping_of, names, unread_names, wrong
from jentrow.core.errors import InvalidSheet
from jentrow.core.exercises.files.exercisefile import POINTS, TITLE
from jentrow.core.exercises.sheets import (
    MOST_ATTEMPTS,
    MOST_WEIGHT,
    Counting,
    Late,
    Sheet,
    SheetEntry,
)
from jentrow.core.mappings import unknown_name


def _time(value: object) -> datetime | None:
    if value is None or value == "":
        return None
    if isinstance(value, datetime):
        time = value
    elif isinstance(value, date):
        time = datetime(value.year, value.month, value.day)
    else:
        try:
            time = datetime.fromisoformat(str(value))
        except ValueError:
            raise wrong(f"{value!r} must be a time such as 2026-11-23 18:00") from None
    if time.tzinfo is not None:
        raise wrong(f"{value} is not taken: times have no zone, they are the course's own")
    return time


_TIME: Final = Annotated[
    datetime,
    PlainValidator(_time),
    WithJsonSchema(
        {"type": "string", "description": "a time of the course, such as 2026-11-23 18:00"}
    ),
]
_ENTRY: Final = Annotated[
    names("SheetEntry", {"exercise": str, "points": POINTS | None}, "exercise"),
    AfterValidator(lambda written: SheetEntry(**written)),
    OrAlone("exercise"),
]
SHEET: Final = Declared[dict[str, Any]](
    Annotated[
        names(
            "Sheet",
            {
                "title": TITLE,
                "opens": _TIME,
                "closes": _TIME,
                "attempts": Annotated[int, Ge(1), Le(MOST_ATTEMPTS)] | None,
                "late": mapping_of(Late) | None,
                "counting": Counting,
                "best_of": Annotated[int, Ge(1)] | None,
                "weight": Annotated[float, Ge(0), Le(MOST_WEIGHT)] | None,
                "exercises": list_of(_ENTRY),
            },
        ),
        Field(json_schema_extra={"required": ["title", "exercises"]}),
    ],
    dict,
)
"""What a file of a pack's sheets may hold."""


def read_sheet(path: Path, mapping: Mapping[str, Any], exercises: Mapping[str, float]) -> Sheet:
    """Reads a sheet of a pack, whose exercises are known with their points.

    Raises :class:`InvalidSheet` with every problem.
    """
    problems: list[str] = []
    sheet = sheet_from(path.stem, mapping, exercises, problems)
    if problems:
        raise InvalidSheet(f"{path}: " + "; ".join(problems) + ".")
    return sheet


def sheet_from(
    id: str, mapping: Mapping[str, Any], exercises: Mapping[str, float], problems: list[str]
) -> Sheet:
    """Reads a sheet; what is wrong is added to ``problems``."""
    parts = SHEET.read(mapping, problems)
    missed = unread_names(mapping, parts)
    title = parts.pop("title", "").strip()
    if not title and "title" not in missed:
        problems.append("title is empty: give the sheet a name")
    opens, closes = parts.get("opens"), parts.get("closes")
    if opens and closes and opens >= closes:
        problems.append(f"it closes at {closes}, before it opens at {opens}")
    if mapping.get("exercises") is None:
        problems.append("exercises is missing: list the exercises of the sheet, or [] for none yet")
    entries: dict[str, SheetEntry] = {}
    for one in parts.pop("exercises", ()):
        if one.exercise not in exercises:
            problems.append(unknown_name("exercise", one.exercise, list(exercises)))
        elif one.exercise in entries:
            problems.append(f"the exercise {one.exercise} stands twice on the sheet")
        else:
            entries[one.exercise] = one
    best_of = parts.get("best_of")
    if best_of is not None and best_of > len(entries) and "exercises" not in missed:
        problems.append(
            f"best_of is {best_of}, but must be from 1 to {len(entries)}, the number of exercises on "
            "the sheet"
        )
        parts["best_of"] = None
    if parts.get("late") is None:
        parts.pop("late", None)
    return Sheet(id, title, tuple(entries.values()), **parts)
