"""What an instructor has changed of an exercise and not saved."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any, Final

from jentrow.core.errors import UnusableInput
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.scope import CourseScope

DRAFT_LENGTH: Final = 1_000_000


def keep_draft(scope: CourseScope, slug: str, content: Mapping[str, Any]) -> datetime:
    """Keeps a content as it was typed, whatever is wrong with it."""
    with scope.records.writing() as session:
        exercise = exercise_named(session, slug)
        if len(str(content)) > DRAFT_LENGTH:
            raise UnusableInput("the draft is longer than 1,000,000 characters; shorten it.")
        exercise.draft = dict(content)
        exercise.drafted_at = datetime.now(UTC)
        return exercise.drafted_at


def drop_draft(scope: CourseScope, slug: str) -> None:
    """Forgets the draft: the exercise is as it was kept."""
    with scope.records.writing() as session:
        exercise = exercise_named(session, slug)
        exercise.draft = exercise.drafted_at = None
