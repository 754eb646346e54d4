"""Questions about marks: asked by learners or by instructors, and answered at the desk."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.marks.deciding import checked_comment
from jentrow.records.database import ACTOR
from jentrow.records.marks import open_questions, questions_about
from jentrow.records.models import Learner, Question, Submission
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.marking.desk import QuestionLine, question_line
from jentrow.services.scope import CourseScope, LearnerScope, course_in_scope

LONGEST: Final = 2_000


def questions_waiting(scope: CourseScope) -> list[QuestionLine]:
    """The questions that nobody has answered, the oldest first."""
    with scope.records.session() as session:
        course = course_in_scope(session)
        return [question_line(one) for one in open_questions(session, course.id)]


def ask_colleague(scope: CourseScope, slug: str, submission_id: int, text: str) -> int:
    """Asks a colleague about an answer, and the group that it stands for; returns its number."""
    with scope.records.writing() as session:
        exercise = exercise_named(session, slug)
        submission = session.get(Submission, submission_id)
        if submission is None or submission.exercise_id != exercise.id:
            raise NotFound(f"There is no answer {submission_id} to {exercise.title}.")
        number = _ask(session, submission, text, session.info.get(ACTOR, ""), by_learner=False)
    scope.runtime.queue.tell_course(scope.course_id)
    return number


def ask_about_mark(own: LearnerScope, submission_id: int, text: str) -> int:
    """A learner asks about a mark that was published.

    Raises :class:`NotTaken` for one that was not, or while another question is open.
    """
    with own.records.writing() as session:
        submission = session.get(Submission, submission_id)
        if submission is None or submission.learner_id != own.learner_id:
            raise NotFound("There is no such answer of yours.")
        if submission.sheet is None or submission.sheet.published_at is None:
            raise NotTaken("The marks of this sheet are not published: ask when they are.")
        asked = questions_about(session, [submission.id])
        if any(one.by_learner and one.answered_at is None for one in asked):
            raise NotTaken("Your question about this answer is open: wait for its answer first.")
        name = session.get_one(Learner, own.learner_id).name
        number = _ask(session, submission, text, name, by_learner=True)
    own.runtime.queue.tell_course(own.course_id)
    return number


def _ask(session: Session, submission: Submission, text: str, by: str, *, by_learner: bool) -> int:
    words = _checked(text, "question")
    question = Question(
        exercise_id=submission.exercise_id,
        submission_id=submission.id,
        by_learner=by_learner,
        asked_by=by,
        asked_at=datetime.now(UTC),
        text=words,
    )
    session.add(question)
    session.flush()
    return question.id


def answer(scope: CourseScope, question_id: int, text: str) -> None:
    """Answers a question. Raises :class:`NotTaken` where somebody else has done so."""
    with scope.records.writing() as session:
        course = course_in_scope(session)
        question = session.get(Question, question_id)
        if question is None or question.exercise.course_id != course.id:
            raise NotFound(f"There is no question {question_id}.")
        if question.answered_at is not None:
            raise NotTaken(
                f"{question.answered_by} has answered this already: “{question.answer}” "
                "Yours was not kept."
            )
        question.answer = _checked(text, "answer")
        question.answered_by = session.info.get(ACTOR, "")
        question.answered_at = datetime.now(UTC)
    scope.runtime.queue.tell_course(scope.course_id, learners=True)


def _checked(text: str, what: str) -> str:
    words = checked_comment(text, what)
    if not words:
        raise UnusableInput(f"The {what} is empty: write it first.")
    if len(words) > LONGEST:
        raise UnusableInput(f"The {what} has {len(words):,} characters; {LONGEST:,} are the most.")
    return words
