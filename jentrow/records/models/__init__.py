"""The tables of the records; each module has those of one subject."""

from __future__ import annotations

from jentrow.records.models.base import Base, Instant, Setting
from jentrow.records.models.exercises import (
    Alternative,
    Exercise,
    ExerciseVersion,
    Explanation,
    Trial,
)
from jentrow.records.models.marks import (
    Adjustment,
    DecidedMark,
    Decision,
    Phrase,
    Question,
    Regrade,
)
from jentrow.records.models.people import (
    Course,
    Instructor,
    Learner,
    Link,
    LinkEvent,
    Person,
    SignIn,
    Throttle,
)
from jentrow.records.models.samples import Dataset, Sample, TriedQuery
from jentrow.records.models.sheets import Extension, Sheet, SheetEntry
from jentrow.records.models.submissions import AnswerDraft, Grading, GradingTask, Submission

__all__ = [
    "Adjustment",
    "Alternative",
    "AnswerDraft",
    "Base",
    "Course",
    "Dataset",
    "DecidedMark",
    "Decision",
    "Exercise",
    "ExerciseVersion",
    "Explanation",
    "Extension",
    "Grading",
    "GradingTask",
    "Instant",
    "Instructor",
    "Learner",
    "Link",
    "LinkEvent",
    "Person",
    "Phrase",
    "Question",
    "Regrade",
    "Sample",
    "Setting",
    "Sheet",
    "SheetEntry",
    "SignIn",
    "Submission",
    "Throttle",
    "Trial",
    "TriedQuery",
]
