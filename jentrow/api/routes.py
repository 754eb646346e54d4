"""The routes. Each calls one use case; errors are mapped in one place, :mod:`jentrow.api.app`."""

from __future__ import annotations

from fastapi import APIRouter

from jentrow import __version__
from jentrow.api import schemas
from jentrow.api.access import Number, OpenDesk
from jentrow.services.views import (
    course_title,
    exercise_lines,
    submission_view,
)

router = APIRouter()


@router.get("/about")
def about(desk: OpenDesk) -> schemas.About:
    """The versions of the program and its engines, and the course."""
    return schemas.About(
        version=__version__, engines=desk.engine_versions(), course=course_title(desk)
    )


@router.get("/exercises")
def list_of_exercises(desk: OpenDesk) -> list[schemas.ExerciseLine]:
    """All exercises with how many answers are right, wrong, in error."""
    return [schemas.ExerciseLine.model_validate(line) for line in exercise_lines(desk)]


@router.get("/submissions/{submission_id}")
def submission(
    submission_id: Number, desk: OpenDesk, dataset: str | None = None
) -> schemas.Submission:
    """One submission, woven with what is due on a dataset (the open one unless named)."""
    return schemas.Submission.model_validate(submission_view(desk, submission_id, dataset))
