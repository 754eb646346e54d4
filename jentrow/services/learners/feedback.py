"""What a learner sees of what came of an answer: never more than the exercise's level allows."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Final

from jentrow.core.comparison.findings import FINDING_WORDS, is_difference
from jentrow.core.comparison.woven import WovenView
from jentrow.core.errors import JentrowError
from jentrow.core.exercises.deadlines import Window, mark_on_sheet
from jentrow.core.exercises.grading.outcomes import OPEN, UNDECIDED
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.exercises.showing import Feedback
from jentrow.core.exercises.trials import has_words
from jentrow.records.contents import core_exercise
from jentrow.records.models import Exercise, Grading, SheetEntry, Submission
from jentrow.services.marking.ledgers import ledger_on_sheet
from jentrow.services.runtime.lanes import Lane
from jentrow.services.scope import CourseScope

ALWAYS: Final = datetime(1970, 1, 1, tzinfo=UTC)
DIFFERING: Final = 50
"""Rows that are shown of a difference: enough to see what it is."""

SHOWN_VERDICTS: Final = ("error", "refused", "stopped")
"""What a Run would tell as well: why the query does not run is no secret of the exercise."""


@dataclass(frozen=True)
class AttemptLine:
    """One attempt in a list, numbered from 1.

    ``verdict`` is ``waiting`` as long as it is not graded, ``held`` where it is told later only,
    ``undecided`` where the instructor has to decide; ``mark`` is None then. ``late_share`` is what
    lateness leaves of the mark, 1 for in time. ``decided`` says that an instructor gave the mark.
    """

    id: int
    number: int
    submitted_at: datetime
    sql: str
    verdict: str
    mark: float | None
    late: bool
    late_share: float
    decided: bool


@dataclass(frozen=True)
class FindingLine:
    """One thing found, in words; nothing of what a held-back dataset holds."""

    code: str
    message: str
    line: int | None
    column: int | None
    near: str


@dataclass(frozen=True)
class FeedbackView:
    """An attempt with what its learner may see. ``opens`` says from when, where that is not yet.

    ``shows_rows`` says that the rows that differ, ``woven``, belong to it: see :func:`difference`.
    ``comment`` is the instructor's, ``published`` that the sheet's marks are. With ``example`` its
    smallest example can be looked at; ``near_miss`` is the strongest hint that can be opened, after
    ``near_miss_in`` more wrong answers where that is not yet: see :mod:`jentrow.services.learners.hints`.
    With ``words`` there may be such as the instructor wrote for this mistake.
    """

    attempt: AttemptLine
    opens: datetime | None
    findings: list[FindingLine]
    ledger: list[LedgerLine]
    shows_rows: bool
    hint: str
    example: bool = False
    near_miss: str = "none"
    near_miss_in: int = 0
    words: bool = False
    woven: WovenView | None = None
    comment: str = ""
    published: bool = False


def feedback_opens(feedback: Feedback, window: Window) -> datetime:
    """From when on a learner is told what came of their answers to a sheet."""
    if feedback.when == "at_once" or window.closes is None:
        return ALWAYS
    return window.ends or window.closes


def attempt_line(
    submission: Submission,
    number: int,
    exercise: Exercise,
    entry: SheetEntry,
    window: Window,
    *,
    told: bool,
    published: bool,
) -> AttemptLine:
    """One attempt; its verdict and mark only where they are ``told`` by now.

    What an instructor decided is told where the sheet's marks are ``published``.
    """
    share = window.share(submission.submitted_at)
    grading = submission.grading
    shown = grading if told or published else None
    decided = submission.decided if published else None
    mark = shown.mark if shown and not shown.undecided else None
    if decided is not None:
        mark = decided.mark
    verdict = shown.standing if shown else "held" if grading else "waiting"
    if decided is not None and verdict == UNDECIDED:
        verdict = "correct" if decided.mark == exercise.points else "incorrect"
    return AttemptLine(
        submission.id,
        number,
        submission.submitted_at,
        submission.sql,
        verdict,
        None if mark is None else mark_on_sheet(mark, exercise.points, entry.points, share),
        window.closes is not None and submission.submitted_at > window.closes,
        float(share),
        decided is not None,
    )


def feedback_view(
    submission: Submission,
    attempt: AttemptLine,
    entry: SheetEntry,
    window: Window,
    wrong_before: int,
    *,
    published: bool,
) -> FeedbackView:
    """What a learner may see of an attempt.

    ``wrong_before`` counts the attempts up to this one that are not correct.
    """
    exercise = core_exercise(submission.exercise)
    grading = submission.grading
    feedback = exercise.feedback
    if attempt.mark is None or grading is None:
        opens = feedback_opens(feedback, window) if attempt.verdict == "held" else None
        return FeedbackView(attempt, opens, [], [], shows_rows=False, hint="")
    wrong = grading.verdict != "correct"
    hint = feedback.hint if wrong and wrong_before >= feedback.hint_after else ""
    decided = submission.decided if published else None
    decision = decided.decision if decided else None
    shows_ledger = feedback.level != "verdict" or decision is not None
    return FeedbackView(
        attempt,
        None,
        _findings(grading, feedback),
        ledger_on_sheet(
            grading,
            decision,
            decided.mark if decided else grading.mark,
            entry,
            window.share(submission.submitted_at),
        )
        if shows_ledger
        else [],
        # Only a query that runs has rows, and one that was stopped is not to be run again.
        feedback.level == "rows" and grading.verdict == "incorrect",
        hint,
        example=feedback.example and grading.standing == "incorrect",
        near_miss=feedback.near_miss if grading.standing == "incorrect" else "none",
        near_miss_in=max(0, feedback.near_miss_after - wrong_before),
        words=has_words(exercise) and (wrong or grading.mark < exercise.points),
        comment=decision.comment if decision else "",
        published=published,
    )


def _findings(grading: Grading, feedback: Feedback) -> list[FindingLine]:
    if feedback.level == "verdict" and grading.verdict not in SHOWN_VERDICTS:
        return []
    return [_finding(one, feedback) for one in grading.findings]


def _finding(one: dict[str, Any], feedback: Feedback) -> FindingLine:
    code, message = one["code"], one["message"]
    is_open = one.get("dataset", OPEN) == OPEN
    evidence = one.get("evidence", {}) if is_open else {}
    if is_difference(code) and feedback.level == "kind":
        evidence = {}  # the place of a likely cause is more than the kind of difference
        words = FINDING_WORDS[code]
        message = f"{words[0].upper()}{words[1:]}."
    return FindingLine(
        code, message, evidence.get("line"), evidence.get("column"), evidence.get("near", "")
    )


def difference(scope: CourseScope, submission: Submission, lane: Lane) -> WovenView | None:
    """The rows of the open dataset that differ; those that agree are no news.

    Raises :class:`TakesLong`.
    """
    exercise = submission.exercise
    engine = scope.runtime.engines.get(exercise.engine, use=lane.use)
    try:
        grader = scope.runtime.graders.of(exercise).elsewhere(engine, lane.judging)
        looked = grader.look(submission.sql, rows=DIFFERING, for_learner=True)
    except JentrowError:
        return None
    for one in looked.outcome.datasets:
        lane.check(one.failure)
    return looked.woven if looked.outcome.datasets[0].verdict != "correct" else None
