"""The routes of the marking desk: groups, decisions, questions, alternatives, regrades."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query

from jentrow.api import marking_schemas as schemas
from jentrow.api.access import Number, Slug, Teaching
from jentrow.api.exercise_schemas import Count
from jentrow.api.routers import teaching_router
from jentrow.core.exercises.distinguishing.near_misses import NearMiss
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.services.marking import (
    accepting,
    course_analysis,
    decisions,
    desk,
    explanations,
    new_marks,
    parting,
    questions,
    regrades,
    sheetless,
)
from jentrow.services.marking.accepting import Accepted, AlternativeLook
from jentrow.services.marking.decisions import AnswerMarks, Decided, GroupPart, Wish
from jentrow.services.marking.desk import Attempts, DeskLine, DeskView, QuestionLine
from jentrow.services.marking.regrades import RegradePreview
from jentrow.services.runtime.background_jobs import JobState

router = teaching_router()

_ONE = "/marking/{slug}"
_EXERCISE = "/exercises/{slug}"


@router.get("/marking")
def desk_lines(scope: Teaching) -> list[DeskLine]:
    """What there is to mark, exercise by exercise."""
    return desk.desk_lines(scope)


@router.get(_ONE)
def desk_view(slug: Slug, scope: Teaching, attempts: Attempts = "counting") -> DeskView:
    """The answers to an exercise in their outcome groups."""
    return desk.desk_view(scope, slug, attempts)


@router.put(_ONE + "/sheet")
def put_answers_on_sheet(slug: Slug, given: schemas.ToPutOnSheet, scope: Teaching) -> Count:
    """Puts the answers to an exercise that are on no sheet on one that has it."""
    return Count(count=sheetless.put_answers_on_sheet(scope, slug, given.sheet))


@router.get("/submissions/{submission_id}/explanation")
def explanation(submission_id: Number, scope: Teaching) -> schemas.Explanation:
    """What explains an answer: near misses, its smallest example, whether it was right by luck."""
    return schemas.Explanation.model_validate(explanations.explanation_view(scope, submission_id))


@router.post("/submissions/{submission_id}/explanation/two-edits", tags=["asks"])
def two_edits(submission_id: Number, scope: Teaching) -> list[NearMiss]:
    """Two edits, one after the other, that together would make an answer right."""
    return list(explanations.two_edits_of(scope, submission_id))


@router.get("/analysis")
def analysis(scope: Teaching) -> JobState:
    """How far the course's answers are explained in the background."""
    return course_analysis.analysis_state(scope)


@router.post("/analysis", status_code=202)
def start_analysis(
    scope: Teaching, exercise: Annotated[str, Query(max_length=200)] = ""
) -> JobState:
    """Begins to explain the answers to an exercise, or to all of them."""
    course_analysis.start_analysis(scope, exercise)
    return course_analysis.analysis_state(scope)


@router.delete("/analysis", status_code=204)
def stop_analysis(scope: Teaching) -> None:
    """Ends it; what was found stays."""
    course_analysis.stop_analysis(scope)


@router.post(_ONE + "/decisions", status_code=201)
def decide(slug: Slug, given: schemas.ToDecide, scope: Teaching) -> Decided:
    """Decides about answers, and about those that will join their groups."""
    wish = Wish(
        given.answers,
        [GroupPart(one.outcome, one.wording, one.codes) for one in given.groups],
        given.mark,
        [LedgerLine(one.part, one.message, one.points, one.possible) for one in given.ledger],
        given.comment,
        given.reason,
        given.seen,
    )
    return decisions.decide(scope, slug, wish)


@router.post(_ONE + "/new-marks", status_code=201)
def take_new_marks(slug: Slug, given: schemas.ToTakeNewMarks, scope: Teaching) -> Count:
    """Gives answers that were decided before a later grading the marks that it came to."""
    return Count(count=new_marks.take_new_marks(scope, slug, given.seen))


@router.post(_ONE + "/undo")
def undo(slug: Slug, given: schemas.ToUndo, scope: Teaching) -> Count:
    """Undoes a decision; what it decided is as it was before."""
    return Count(count=decisions.undo(scope, slug, given.decision))


@router.get("/submissions/{submission_id}/marks")
def answer_marks(submission_id: Number, scope: Teaching) -> AnswerMarks:
    """What was decided about one answer, and what was asked."""
    return decisions.answer_marks(scope, submission_id)


@router.get(_ONE + "/parting/{submission_id}")
def parting_of(
    slug: Slug, submission_id: Number, scope: Teaching, dataset: str = ""
) -> schemas.Parting:
    """Where an answer parts from the reference, step by step."""
    return schemas.Parting.model_validate(parting.parting(scope, slug, submission_id, dataset))


@router.get(_ONE + "/alternatives/{submission_id}")
def look_at_alternative(slug: Slug, submission_id: Number, scope: Teaching) -> AlternativeLook:
    """What accepting an answer as a further alternative would change."""
    return accepting.look_at_alternative(scope, slug, submission_id)


@router.post(_ONE + "/alternatives", status_code=201)
def accept_alternative(slug: Slug, given: schemas.ToAccept, scope: Teaching) -> Accepted:
    """Accepts an answer as a further alternative; all answers are graded anew."""
    return accepting.accept_alternative(scope, slug, given.submission, given.name)


@router.post(_ONE + "/trials", status_code=201)
def make_trial(slug: Slug, given: schemas.ToTry, scope: Teaching) -> Accepted:
    """Makes an answer a trial of its exercise."""
    return accepting.make_trial(scope, slug, given.submission, given.name, given.expected)


@router.post(_ONE + "/questions", status_code=201)
def ask_colleague(slug: Slug, given: schemas.Asked, scope: Teaching) -> schemas.Asking:
    """Asks a colleague about an answer and the group that it stands for."""
    return schemas.Asking(id=questions.ask_colleague(scope, slug, given.submission, given.text))


@router.get("/questions")
def questions_waiting(scope: Teaching) -> list[QuestionLine]:
    """The questions that nobody has answered."""
    return questions.questions_waiting(scope)


@router.post("/questions/{question_id}/answer", status_code=204)
def answer_question(question_id: Number, given: schemas.ToAnswer, scope: Teaching) -> None:
    """Answers a question."""
    questions.answer(scope, question_id, given.text)


@router.post("/phrases", status_code=201)
def keep_phrase(given: schemas.ToKeep, scope: Teaching) -> list[str]:
    """Keeps a comment, to be used again; answers with all that are kept."""
    return decisions.keep_phrase(scope, given.text)


@router.post("/phrases/delete")
def delete_phrase(given: schemas.ToKeep, scope: Teaching) -> list[str]:
    """Deletes a kept comment; answers with those that are left."""
    return decisions.delete_phrase(scope, given.text)


@router.get(_EXERCISE + "/regrade")
def preview_regrade(
    slug: Slug,
    scope: Teaching,
    begin: Annotated[int, Query(ge=0, le=10_000_000)] = 0,
    seconds: Annotated[float | None, Query(gt=0, le=60)] = None,
) -> RegradePreview:
    """What grading the answers to an exercise anew would change, from one of them on."""
    return regrades.preview(scope, slug, begin, seconds)


@router.post(_EXERCISE + "/regrade")
def regrade(slug: Slug, scope: Teaching) -> Count:
    """Grades every answer to an exercise anew, as it is kept now."""
    return Count(count=regrades.regrade(scope, slug))


@router.post(_EXERCISE + "/regrades/{regrade_id}/take-back")
def take_regrade_back(slug: Slug, regrade_id: Number, scope: Teaching) -> Count:
    """Lets the gradings stand again that did before a regrade."""
    return Count(count=regrades.take_back(scope, slug, regrade_id))
