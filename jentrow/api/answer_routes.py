"""The routes about answers that are taken in from files."""

from __future__ import annotations

from fastapi import APIRouter

from jentrow.api import schemas
from jentrow.api.access import OpenDesk
from jentrow.api.import_routes import ImportId
from jentrow.services import taking

router = APIRouter(prefix="/answers")


@router.post("/{import_id}/look")
def look(import_id: ImportId, desk: OpenDesk) -> schemas.AnswersLook:
    """Looks at a file of answers that was handed in: what fits, and what does not."""
    return schemas.AnswersLook.model_validate(
        taking.look(desk, desk.imports.get(import_id, desk.owner))
    )


@router.post("/{import_id}/take")
def take(import_id: ImportId, given: schemas.TakeAnswers, desk: OpenDesk) -> schemas.Taken:
    """Takes the answers in, all of them or none; they are graded in the background."""
    one = desk.imports.get(import_id, desk.owner)
    return schemas.Taken(count=taking.take(desk, one, leave_out=given.leave_out))
