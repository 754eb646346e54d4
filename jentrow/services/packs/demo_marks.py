"""Marks of the demo: its instructor has decided about some answers, and published a sheet."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from pathlib import Path
from typing import Final

from jentrow.core.yamlfiles import read_yaml
from jentrow.records.exercises import list_sheets
from jentrow.records.models import Sheet, Submission
from jentrow.services.marking.decisions import GroupPart, Wish, decide, keep_phrase
from jentrow.services.marking.desk import desk_view
from jentrow.services.marking.desk_groups import OutcomeGroup
from jentrow.services.marking.publishing import publish
from jentrow.services.marking.questions import ask_about_mark, ask_colleague
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.scope import CourseScope, LearnerScope, course_scope

LEARNER_ASKS: Final = "I get the same number of rows as the others. What is wrong with them?"
COLLEAGUE_ASKS: Final = "Half a point for the right columns? I would like a second pair of eyes."
_PHRASES: Final = (
    "In {column}, {due} is due and you give {given}: work this one out by hand.",
    "Well written: one condition a line is easy to read.",
)


def mark_answers(
    runtime: Runtime, course_id: int, comments: Path, instructor: str, now: datetime
) -> None:
    """Decides about the answers to the sheets that have closed, and about some to the next.

    ``now`` is in the course's own time.
    """
    said = {code: str(words) for code, words in read_yaml(comments).items()}
    scope = course_scope(runtime, course_id, instructor)
    for phrase in _PHRASES:
        keep_phrase(scope, phrase)
    with scope.records.session() as session:
        sheets = list(list_sheets(session, course_id))
    for sheet in sheets:
        if sheet.closes is None or sheet.closes < now:
            for entry in sheet.entries:
                _decide_groups(scope, entry.exercise.slug, said, leave=0)
            publish(scope, sheet.slug)
            _ask(scope, sheet)
        elif sheet.opens is None or sheet.opens < now:
            _begin(scope, sheet, said)


def _ask(scope: CourseScope, sheet: Sheet) -> None:
    """A learner asks about a mark, and the instructor asks a colleague about a group."""
    asked = 0
    for entry in sheet.entries:
        desk = desk_view(scope, entry.exercise.slug)
        group = next((one for one in desk.groups if one.verdict == "incorrect"), None)
        if group is None:
            continue
        with scope.records.session() as session:
            learner = session.get_one(Submission, group.typical).learner_id
        if asked == 0:
            own = LearnerScope(
                scope.runtime, scope.records, scope.course_id, scope.person_id, learner
            )
            ask_about_mark(own, group.typical, LEARNER_ASKS)
        else:
            ask_colleague(scope, entry.exercise.slug, group.typical, COLLEAGUE_ASKS)
            return
        asked += 1


def _begin(scope: CourseScope, sheet: Sheet, said: Mapping[str, str]) -> None:
    """Two exercises are under way: the one but for its small groups, of the other the largest."""
    first, second = (entry.exercise.slug for entry in sheet.entries[:2])
    _decide_groups(scope, first, said, leave=2)
    _decide_groups(scope, second, said, leave=1)


def _decide_groups(scope: CourseScope, slug: str, said: Mapping[str, str], *, leave: int) -> None:
    desk = desk_view(scope, slug)
    wrong = [group for group in desk.groups if group.decided < group.size]
    for group in wrong[: len(wrong) - leave]:
        decide(scope, slug, _wish(group, said))


def _wish(group: OutcomeGroup, said: Mapping[str, str]) -> Wish:
    codes = group.splits[0].codes.split()
    comment = said.get(codes[0], "") if codes else ""
    answers = [one.id for one in group.answers if one.state == "undecided"]
    return Wish(answers, [GroupPart(group.key)], None, (), comment, "", seen=2**31)
