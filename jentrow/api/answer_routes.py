"""The routes about answers that are taken in from files."""

from __future__ import annotations

from jentrow.api import schemas
from jentrow.api.access import Teaching
from jentrow.api.import_routes import ImportId
from jentrow.api.routers import teaching_router
from jentrow.services.submissions import answer_files
from jentrow.services.submissions.answer_files import AnswersLook

router = teaching_router("/answers")


@router.post("/{import_id}/look")
def look(import_id: ImportId, scope: Teaching) -> AnswersLook:
    """Looks at a file of answers that was handed in: what fits, and what does not."""
    return answer_files.look(scope, scope.runtime.import_jobs.get(import_id, scope.owner))


@router.post("/{import_id}/take")
def take(import_id: ImportId, given: schemas.TakeAnswers, scope: Teaching) -> schemas.Taken:
    """Takes the answers in, all of them or none; they are graded in the background."""
    one = scope.runtime.import_jobs.get(import_id, scope.owner)
    return schemas.Taken(count=answer_files.take(scope, one, leave_out=given.leave_out))
