"""What a later grading came to, in place of marks that were decided before it."""

from __future__ import annotations

from typing import Final

from jentrow.core.errors import UnusableInput
from jentrow.records.decisions import comments_on
from jentrow.records.marks import answers_to
from jentrow.records.models import Course
from jentrow.services.exercises.overview import exercise_named
from jentrow.services.marking.course_answers import standings_of
from jentrow.services.marking.decisions import Wish, decide
from jentrow.services.scope import CourseScope

REASON: Final = "a later grading came to another mark"


def take_new_marks(scope: CourseScope, slug: str, seen: int) -> int:
    """Decides for every answer that a later grading contradicts: the mark that it has by now.

    Each keeps the comment that it has; answers with one comment are one decision, to be undone as
    any other. ``seen`` is the last decision that whoever decides has seen. Returns for how many
    answers. Raises :class:`UnusableInput` where none is contradicted, and :class:`NotTaken`.
    """
    with scope.records.session() as session:
        exercise = exercise_named(session, slug)
        course = session.get_one(Course, exercise.course_id)
        answers = standings_of(scope, session, course, [exercise]).of(
            answers_to(session, exercise.id)
        )
        contradicted = [one.row.id for one in answers if one.contradicted]
        comments = comments_on(session, contradicted)
    if not contradicted:
        raise UnusableInput("No decided mark is contradicted by a later grading.")
    together: dict[str, list[int]] = {}
    for id in contradicted:
        together.setdefault(comments.get(id, ""), []).append(id)
    for comment, ids in together.items():
        decide(scope, slug, Wish(ids, [], None, [], comment, REASON, seen))
    return len(contradicted)
