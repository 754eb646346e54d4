"""Exercises and sheets between the records and the core."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any, Final

from sqlalchemy.orm import Session

from jentrow.core.exercises.exercise import Exercise as CoreExercise
from jentrow.core.exercises.files.content import content_of, digest_of, read_exercise
from jentrow.core.exercises.files.rulefile import read_rules
from jentrow.core.exercises.ruleset import RuleSet
from jentrow.core.exercises.sheets import Late
from jentrow.core.exercises.sheets import Sheet as CoreSheet
from jentrow.core.exercises.sheets import SheetEntry as CoreEntry
from jentrow.core.mappings import plain_number
from jentrow.records.database import ACTOR
from jentrow.records.models import (
    Alternative,
    Exercise,
    ExerciseVersion,
    Sheet,
    SheetEntry,
    Trial,
)

_PARTS: Final = ("tags", "rules", "constructs", "layout", "marks", "feedback")


def record_content(exercise: Exercise) -> dict[str, Any]:
    """The content of an exercise of the records, as versions and packs hold it."""
    content: dict[str, Any] = {
        "title": exercise.title,
        "sample": exercise.sample.name,
        "engine": exercise.engine,
        "points": plain_number(exercise.points),
    }
    content |= {part: getattr(exercise, part) for part in _PARTS if getattr(exercise, part)}
    return content | {
        "prompt": exercise.prompt,
        "reference": exercise.reference,
        "alternatives": [{"name": one.name, "sql": one.sql} for one in exercise.alternatives],
        "trials": [
            {"name": one.name, "sql": one.sql, "expected": one.expected}
            | ({} if one.mark is None else {"mark": one.mark})
            | ({"words": one.words} if one.words else {})
            for one in exercise.trials
        ],
    }


def core_exercise(exercise: Exercise) -> CoreExercise:
    """The exercise of the records as the core knows it."""
    return read_exercise(exercise.slug, record_content(exercise), [exercise.sample.name])


def rules_of(exercise: Exercise) -> RuleSet:
    """The rules of an exercise of the records, without the rest of it."""
    return read_rules(exercise.rules)


def put_content(session: Session, record: Exercise, exercise: CoreExercise) -> None:
    """Puts an exercise of the core into its record; the sample is the caller's to set."""
    content = content_of(exercise)
    record.title = exercise.title
    record.prompt = exercise.prompt
    record.engine = exercise.engine
    record.points = exercise.points
    record.reference = exercise.reference
    for part in _PARTS:
        setattr(record, part, content.get(part, [] if part in ("tags", "constructs") else {}))
    record.alternatives.clear()
    record.trials.clear()
    session.flush()  # the old ones go first: names are used again
    record.alternatives.extend(
        Alternative(position=at, name=one.name, sql=one.sql)
        for at, one in enumerate(exercise.alternatives)
    )
    record.trials.extend(
        Trial(
            position=at,
            name=one.name,
            sql=one.sql,
            expected=one.expected,
            mark=one.mark,
            words=list(one.words),
        )
        for at, one in enumerate(exercise.trials)
    )


def new_version(
    session: Session, record: Exercise, number: int, content: Mapping[str, Any], summary: str
) -> ExerciseVersion:
    """A version of an exercise, to be added to the records."""
    return ExerciseVersion(
        exercise_id=record.id,
        number=number,
        content=dict(content),
        summary=summary,
        by=session.info.get(ACTOR, ""),
        made_at=datetime.now(UTC),
    )


def origin_of(exercise: CoreExercise) -> str:
    """The digest by which a later pack is compared with what is here."""
    return digest_of(content_of(exercise))


def sheet_origin(sheet: CoreSheet) -> str:
    """The digest of a sheet."""
    return digest_of(sheet.to_mapping())


def core_sheet(sheet: Sheet) -> CoreSheet:
    """The sheet of the records as the core knows it."""
    return CoreSheet(
        sheet.slug,
        sheet.title,
        tuple(CoreEntry(one.exercise.slug, one.points) for one in sheet.entries),
        sheet.opens,
        sheet.closes,
        sheet.attempts,
        Late(**sheet.late),
        sheet.counting,  # type: ignore[arg-type]
        sheet.best_of,
        sheet.weight,
    )


def put_sheet(
    session: Session, record: Sheet, sheet: CoreSheet, exercises: dict[str, Exercise]
) -> None:
    """Puts a sheet of the core into its record."""
    record.title = sheet.title
    record.opens = sheet.opens
    record.closes = sheet.closes
    record.attempts = sheet.attempts
    record.late = sheet.late.to_mapping()
    record.counting = sheet.counting
    record.best_of = sheet.best_of
    record.weight = sheet.weight
    record.entries.clear()
    session.flush()
    record.entries.extend(
        SheetEntry(exercise=exercises[one.exercise], position=at, points=one.points)
        for at, one in enumerate(sheet.entries)
    )
