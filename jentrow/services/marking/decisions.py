"""Deciding about answers: for one, for some, for a whole group; undone, and seen in the history."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import Final

from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.marks.deciding import checked_comment, checked_mark, ledger_sum
from jentrow.core.words import counted
from jentrow.records.database import ACTOR
from jentrow.records.decisions import (
    Markable,
    decided_marks_of,
    decided_since,
    find_decision,
    give_marks,
    markable_named,
    take_back,
    undecided_answers,
)
from jentrow.records.marks import phrases_of, questions_about
from jentrow.records.models import Decision, Exercise, Phrase
from jentrow.records.submissions import find_submission
from jentrow.services.errors import NotFound, NotTaken
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.marking.feedback_pages import AskedLine, asked_line
from jentrow.services.scope import CourseScope, course_in_scope

MOST_ANSWERS: Final = 20_000


@dataclass(frozen=True)
class GroupPart:
    """An outcome group, or the part of it with one wording or with the same kinds of findings."""

    outcome: str
    wording: str = ""
    codes: str = ""


@dataclass(frozen=True)
class Wish:
    """What is to be decided.

    ``mark`` None keeps the mark that grading gave each answer; a ``ledger`` says its mark itself.
    ``seen`` is the number of the last decision that whoever decides has seen.
    """

    answers: Sequence[int]
    groups: Sequence[GroupPart]
    mark: float | None
    ledger: Sequence[LedgerLine]
    comment: str
    reason: str
    seen: int


@dataclass(frozen=True)
class Decided:
    """A decision that was made: for how many answers, and how many more that are in their groups."""

    id: int
    count: int
    along: int


@dataclass(frozen=True)
class MarkEvent:
    """A mark in the history of one answer: ``before`` is what stood until then.

    ``undone_at`` says when the decision was undone, if it was.
    """

    at: datetime
    by: str
    before: float | None
    mark: float
    comment: str
    reason: str
    joined: bool
    undone_at: datetime | None
    undone_by: str


def decide(scope: CourseScope, slug: str, wish: Wish) -> Decided:
    """Decides about answers to an exercise, and about those that will join their groups.

    Answers that are in one of the groups and for which nothing was decided are decided too, whether
    they count or not. Raises :class:`UnusableInput`, and :class:`NotTaken` where somebody else has
    decided about any of them meanwhile.
    """
    comment, reason = checked_comment(wish.comment), checked_comment(wish.reason, "reason")
    with scope.records.writing() as session:
        exercise = exercise_named(session, slug)
        mark = None if wish.mark is None else checked_mark(wish.mark, exercise.points)
        if wish.ledger:
            mark = ledger_sum(wish.ledger, exercise.points)
        named = _named(session, exercise, wish.answers)
        _see_others(session, named, wish.seen)
        groups = [asdict(one) for one in wish.groups]
        joining = _others_of(session, exercise, groups, {one.id for one in named})
        decision = Decision(
            exercise_id=exercise.id,
            at=datetime.now(UTC),
            by=session.info.get(ACTOR, ""),
            groups=groups,
            measure=_measure_of([*named, *joining]),
            mark=mark,
            ledger=[line.to_json() for line in wish.ledger],
            comment=comment,
            reason=reason,
        )
        session.add(decision)
        session.flush()
        give_marks(session, decision, named, joined=False)
        give_marks(session, decision, joining, joined=True)
        decided = Decided(decision.id, len(named), len(joining))
    scope.runtime.queue.tell_course(scope.course_id)
    return decided


def _named(session: Session, exercise: Exercise, ids: Iterable[int]) -> list[Markable]:
    wanted = list(dict.fromkeys(ids))
    if not wanted:
        raise UnusableInput("No answer was chosen: choose a group, a wording or an answer first.")
    if len(wanted) > MOST_ANSWERS:
        raise UnusableInput(f"At most {MOST_ANSWERS:,} answers can be decided at one stroke.")
    found = markable_named(session, exercise.id, wanted)
    if missing := len(wanted) - len(found):
        raise NotTaken(
            f"{counted(missing, 'answer')} of these are not graded now, or are no more: look again "
            "when grading is done. Nothing was decided."
        )
    return found


def _see_others(session: Session, named: Sequence[Markable], seen: int) -> None:
    since = decided_since(session, [one.id for one in named], seen)
    if not since:
        return
    last = since[-1]
    what = "undid a decision" if last.undone_at else "decided"
    mark = "the marks of grading" if last.mark is None else f"a mark of {last.mark:g}"
    who = last.undone_by or last.by
    if who == session.info.get(ACTOR, ""):
        who = "You, on another page,"
    raise NotTaken(
        f"{who} {what} about these answers meanwhile"
        + ("" if last.undone_at else f" ({mark})")
        + ". Nothing of yours was kept: the desk shows it now, look and decide again."
    )


def _others_of(
    session: Session, exercise: Exercise, groups: Sequence[dict[str, str]], named: set[int]
) -> list[Markable]:
    """What is in the groups beside the answers that were named, and still open."""
    if not groups:
        return []
    return [
        one
        for one in undecided_answers(session, exercise.id)
        if one.id not in named and any(one.is_in(group) for group in groups)
    ]


def _measure_of(answers: Sequence[Markable]) -> str:
    """What most of the answers were graded with: those that join later are to be graded so too."""
    return Counter(one.measure for one in answers).most_common(1)[0][0]


def undo(scope: CourseScope, slug: str, decision_id: int) -> int:
    """Undoes a decision: what it decided is as it was before; returns for how many answers.

    Raises :class:`NotTaken` where it was undone already.
    """
    with scope.records.writing() as session:
        exercise = exercise_named(session, slug)
        decision = find_decision(session, exercise.id, decision_id)
        if decision is None:
            raise NotFound(f"There is no decision {decision_id} about {exercise.title}.")
        if decision.undone_at is not None:
            raise NotTaken(f"{decision.undone_by or 'Somebody'} has undone this decision already.")
        count = take_back(session, decision, session.info.get(ACTOR, ""))
    scope.runtime.queue.tell_course(scope.course_id)
    return count


@dataclass(frozen=True)
class AnswerMarks:
    """What was decided about one answer, with its history (the last first), and what was asked.

    ``mark`` is None where nothing was decided.
    """

    mark: float | None
    comment: str
    events: list[MarkEvent]
    questions: list[AskedLine]


def answer_marks(scope: CourseScope, submission_id: int) -> AnswerMarks:
    """What was decided about one answer. Raises :class:`NotFound`."""
    with scope.records.session() as session:
        submission = find_submission(session, submission_id)
        if submission is None or submission.exercise.course_id != course_in_scope(session).id:
            raise NotFound(f"There is no submission {submission_id}.")
        decided = submission.decided
        return AnswerMarks(
            decided.mark if decided else None,
            decided.decision.comment if decided else "",
            _events(session, submission_id),
            [asked_line(one) for one in questions_about(session, [submission_id])],
        )


def _events(session: Session, submission_id: int) -> list[MarkEvent]:
    found = decided_marks_of(session, submission_id)
    marks = {one.id: one.mark for one in found}
    return [
        MarkEvent(
            one.decision.at,
            one.decision.by,
            marks.get(one.before_id or 0, one.grading.mark if one.grading else None),
            one.mark,
            one.decision.comment,
            one.decision.reason,
            one.joined,
            one.decision.undone_at,
            one.decision.undone_by,
        )
        for one in found
    ]


def keep_phrase(scope: CourseScope, text: str) -> list[str]:
    """Keeps a comment to be used again in the course; returns all that are kept."""
    kept = checked_comment(text, "phrase")
    if not kept:
        raise UnusableInput("There is nothing to keep: write the comment first.")
    with scope.records.writing() as session:
        course = course_in_scope(session)
        if kept not in {one.text for one in phrases_of(session, course.id)}:
            session.add(Phrase(course_id=course.id, text=kept))
            session.flush()
        return [one.text for one in phrases_of(session, course.id)]


def delete_phrase(scope: CourseScope, text: str) -> list[str]:
    """Deletes a kept comment; returns those that are left. What was written with it stays."""
    with scope.records.writing() as session:
        course = course_in_scope(session)
        for one in phrases_of(session, course.id):
            if one.text == text:
                session.delete(one)
        session.flush()
        return [one.text for one in phrases_of(session, course.id)]
