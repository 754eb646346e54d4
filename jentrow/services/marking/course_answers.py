"""The answers of a course as they stand; what did not change since the last look is not worked out anew."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, TypeVar

from sqlalchemy.orm import Session

from jentrow.records.exercises import list_sheets
from jentrow.records.marks import AnswerRow, answer_states, answers_in
from jentrow.records.models import Course, Exercise
from jentrow.services.marking.standing import Answer, Standings
from jentrow.services.scope import CourseScope

T = TypeVar("T")


@dataclass(frozen=True)
class CourseAnswers:
    """The answers of a course, by exercise; ``standings`` made them."""

    by_exercise: dict[int, list[Answer]]
    standings: Standings
    _derived: dict[int, dict[Callable[..., Any], Any]]

    def __iter__(self) -> Iterator[Answer]:
        for answers in self.by_exercise.values():
            yield from answers

    def derived(self, exercise_id: int, work: Callable[[Standings, list[Answer]], T]) -> T:
        """What is worked out from the answers to an exercise, kept for as long as they are.

        ``work`` is a function of a module, which stands for what it works out.
        """
        known = self._derived.setdefault(exercise_id, {})
        if work not in known:
            known[work] = work(self.standings, self.by_exercise.get(exercise_id, []))
        found: T = known[work]
        return found


@dataclass(frozen=True)
class _Kept:
    state: tuple[Any, ...]
    answers: list[Answer]
    derived: dict[Callable[..., Any], Any] = field(default_factory=dict)


def standings_of(
    scope: CourseScope, session: Session, course: Course, exercises: Sequence[Exercise]
) -> Standings:
    """What works out the standing of answers to some exercises of a course."""
    measures = {one.id: scope.runtime.graders.made_with(one).measure for one in exercises}
    return Standings(session, course, list_sheets(session, course.id), exercises, measures)


def course_answers(
    scope: CourseScope, session: Session, course: Course, exercises: Sequence[Exercise]
) -> CourseAnswers:
    """All answers of a course as they stand. ``exercises`` are all of its exercises."""
    standings = standings_of(scope, session, course, exercises)
    kept = scope.runtime.standings
    states = {
        id: (*state, standings.measures.get(id), standings.signature)
        for id, state in answer_states(session, course.id).items()
    }
    found: dict[int, list[Answer]] = {}
    derived: dict[int, dict[Callable[..., Any], Any]] = {}
    stale: list[int] = []
    for one in exercises:
        known: _Kept | None = kept.get(one.id)
        if one.id in states and known is not None and known.state == states[one.id]:
            found[one.id] = known.answers
            derived[one.id] = known.derived
        elif one.id in states:
            stale.append(one.id)
    rows: dict[int, list[AnswerRow]] = {id: [] for id in stale}
    for row in answers_in(session, stale) if stale else ():
        rows[row.exercise_id].append(row)
    for id, own in rows.items():
        found[id] = standings.of(own)
        kept[id] = _Kept(states[id], found[id])
        derived[id] = kept[id].derived
    return CourseAnswers(found, standings, derived)
