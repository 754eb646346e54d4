"""What a learner sees of what came of an answer: never more than the exercise's level allows."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from fractions import Fraction
from typing import Any, Final

from jentrow.core.comparison.findings import FINDING_WORDS, is_difference
from jentrow.core.comparison.woven import WovenView
from jentrow.core.errors import JentrowError
from jentrow.core.exercises.deadlines import Window, mark_on_sheet
from jentrow.core.exercises.markscheme import LedgerLine
from jentrow.core.exercises.outcomes import OPEN
from jentrow.core.exercises.showing import Feedback
from jentrow.records.contents import core_exercise
from jentrow.records.models import Exercise, Grading, SheetEntry, Submission
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
    ``undecided`` where the instructor has to decide; ``mark`` is None then. ``late_share`` is what lateness leaves of the mark, 1 for in time.
    """

    id: int
    number: int
    submitted_at: datetime
    sql: str
    verdict: str
    mark: float | None
    late: bool
    late_share: float


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
    """

    attempt: AttemptLine
    opens: datetime | None
    findings: list[FindingLine]
    ledger: list[LedgerLine]
    shows_rows: bool
    hint: str
    woven: WovenView | None = None


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
) -> AttemptLine:
    """One attempt; its verdict and mark only where they are ``told`` by now."""
    share = window.share(submission.submitted_at)
    grading = submission.grading
    shown = grading if told else None
    return AttemptLine(
        submission.id,
        number,
        submission.submitted_at,
        submission.sql,
        shown.standing if shown else "held" if grading else "waiting",
        mark_on_sheet(shown.mark, exercise.points, entry.points, share)
        if shown and not shown.undecided
        else None,
        window.closes is not None and submission.submitted_at > window.closes,
        float(share),
    )


def feedback_view(
    submission: Submission,
    attempt: AttemptLine,
    entry: SheetEntry,
    window: Window,
    wrong_before: int,
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
    return FeedbackView(
        attempt,
        None,
        _findings(grading, feedback),
        [] if feedback.level == "verdict" else _ledger(grading, submission, entry, attempt),
        # Only a query that runs has rows, and one that was stopped is not to be run again.
        feedback.level == "rows" and grading.verdict == "incorrect",
        hint,
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


def _ledger(
    grading: Grading, submission: Submission, entry: SheetEntry, attempt: AttemptLine
) -> list[LedgerLine]:
    points = submission.exercise.points
    scale = (
        Fraction(1) if entry.points is None else Fraction(str(entry.points)) / Fraction(str(points))
    )
    lines = [
        LedgerLine(
            one["part"],
            one["message"],
            round(float(Fraction(str(one["points"])) * scale), 2),
            None if one["possible"] is None else round(one["possible"] * float(scale), 2),
        )
        for one in grading.ledger
    ]
    full = mark_on_sheet(grading.mark, points, entry.points, Fraction(1))
    if attempt.late and attempt.mark is not None and attempt.mark != full:
        words = f"handed in late: {attempt.late_share:.0%} of the mark counts"
        lines.append(LedgerLine("late", words, round(attempt.mark - full, 2), None))
    return lines


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
