"""When a submission came, held against its sheet's times and the learner's extension."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from jentrow.core.exercises.deadlines import Window, mark_on_sheet, window, zone_named
from jentrow.core.exercises.sheets import Late
from jentrow.records.models import Course, Sheet, SheetEntry, Submission
from jentrow.records.practice import bare_sheet, extension_of


@dataclass(frozen=True, slots=True)
class LateView:
    """A late submission: what is left of its mark, and the mark that this comes to."""

    sheet: str
    share: float
    mark: float


def window_of(sheet: Sheet, course: Course, extended: datetime | None) -> Window:
    """When a learner's answers to a sheet are taken."""
    zone = zone_named(course.zone)
    return window(sheet.opens, sheet.closes, Late(**sheet.late), zone, extended)


def lateness(
    session: Session, course: Course, submission: Submission, mark: float
) -> LateView | None:
    """What lateness makes of the mark of a submission; None for one in time, or on no sheet."""
    if submission.sheet_id is None:
        return None
    sheet = bare_sheet(session, submission.sheet_id)
    extension = extension_of(session, submission.learner_id, sheet.id)
    times = window_of(sheet, course, extension.closes if extension else None)
    if times.closes is None or submission.submitted_at <= times.closes:
        return None
    share = times.share(submission.submitted_at)
    return LateView(sheet.title, float(share), mark_on_sheet(mark, 1, None, share))


def worth(entry: SheetEntry) -> float:
    """What an exercise is worth on a sheet."""
    return entry.exercise.points if entry.points is None else entry.points
