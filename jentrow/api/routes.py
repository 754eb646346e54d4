"""The routes. Each calls one use case; errors are mapped in one place, :mod:`jentrow.api.app`."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query

from jentrow import __version__
from jentrow.api import schemas
from jentrow.api.access import Number, Teaching
from jentrow.api.routers import teaching_router
from jentrow.core.comparison.woven import SHOWN_ROWS
from jentrow.services.exercises.overview import course_title, exercise_lines
from jentrow.services.submissions.details import submission_view

router = teaching_router()

WovenRows = Annotated[int, Query(ge=1, le=20_000)]


@router.get("/about")
def about(scope: Teaching) -> schemas.About:
    """The versions of the program and its engines, and the course."""
    engines = [schemas.EngineLine.model_validate(engine) for engine in scope.runtime.engines.all()]
    return schemas.About(version=__version__, engines=engines, course=course_title(scope))


@router.get("/exercises")
def list_of_exercises(scope: Teaching) -> list[schemas.ExerciseLine]:
    """All exercises with how many answers are right, wrong, in error."""
    return [schemas.ExerciseLine.model_validate(line) for line in exercise_lines(scope)]


@router.get("/submissions/{submission_id}")
def submission(
    submission_id: Number, scope: Teaching, dataset: str | None = None, rows: WovenRows = SHOWN_ROWS
) -> schemas.Submission:
    """One submission, woven with what is due on a dataset (the open one unless named)."""
    return schemas.Submission.model_validate(submission_view(scope, submission_id, dataset, rows))
