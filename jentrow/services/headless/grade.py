"""Grading a whole file of submissions against a pack, and writing the marks."""

from __future__ import annotations

import csv
import json
import os
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.outcomes import Outcome
from jentrow.core.exercises.packs.reading import Pack, opened_pack
from jentrow.core.exercises.submissions import Submission, read_submissions
from jentrow.services.runtime.engines import opened_engine
from jentrow.services.runtime.grading_queue import Progress


@dataclass(frozen=True)
class Marked:
    """A submission with what it came to."""

    submission: Submission
    outcome: Outcome
    points: float

    def to_json(self) -> dict[str, Any]:
        """One entry of the marks in JSON."""
        submitted = self.submission.submitted_at
        return {
            "learner": self.submission.learner,
            "exercise": self.submission.exercise,
            "submitted_at": submitted.isoformat() if submitted else None,
            "verdict": self.outcome.verdict,
            "undecided": self.outcome.undecided,
            "mark": self.outcome.mark,
            "points": self.points,
            "findings": [finding.to_json() for finding in self.outcome.findings],
            "ledger": [line.to_json() for line in self.outcome.ledger],
        }


def grade_pack(
    pack: Path, submissions: Path, progress: Progress = lambda done, total: None
) -> list[Marked]:
    """Grades submissions, in their order. Raises :class:`UnusableInput` (one of its kinds)."""
    with opened_pack(pack) as opened:
        read = read_submissions(submissions, [exercise.id for exercise in opened.exercises])
        return grade_submissions(opened, read, progress)


def grade_submissions(
    pack: Pack, submissions: Sequence[Submission], progress: Progress
) -> list[Marked]:
    """Grades submissions to the exercises of a pack that is open."""
    marked: dict[int, Marked] = {}
    for exercise in pack.exercises:
        places = [at for at, one in enumerate(submissions) if one.exercise == exercise.id]
        if not places:
            continue
        with opened_engine(exercise.engine) as engine:
            grader = Grader(engine, exercise, pack.samples[exercise.sample])
            for at, outcome in grader.grade_many([submissions[at].sql for at in places]):
                place = places[at]
                marked[place] = Marked(submissions[place], outcome, exercise.points)
                progress(len(marked), len(submissions))
    return [marked[at] for at in range(len(submissions))]


COLUMNS = (
    "learner", "exercise", "submitted_at", "verdict", "undecided", "mark", "points", "codes", "findings",
)  # fmt: skip


def check_target(path: Path) -> str:
    """The ending of a file of marks that can be written, before any work is done for it.

    Raises :class:`UnusableInput`.
    """
    ending = path.suffix.lower()
    if ending not in (".csv", ".json"):
        raise UnusableInput(f"{path}: marks are written as .csv or .json.")
    if path.is_dir() or not os.access(path if path.exists() else path.parent, os.W_OK):
        raise UnusableInput(f"{path}: cannot be written; is there such a folder?")
    return ending


def write_marks(marked: Sequence[Marked], path: Path) -> None:
    """Writes marks as CSV or JSON, by the ending. Raises :class:`UnusableInput`."""
    ending = check_target(path)
    entries = [one.to_json() for one in marked]
    try:
        with path.open("w", encoding="utf-8", newline="") as out:
            if ending == ".json":
                json.dump({"marks": entries}, out, ensure_ascii=False, indent=2)
                out.write("\n")
            else:
                _write_csv(entries, out)
    except OSError as problem:
        raise UnusableInput(f"{path}: cannot be written ({problem.strerror}).") from problem


def _write_csv(entries: list[dict[str, Any]], out: Any) -> None:
    writer = csv.writer(out)
    writer.writerow(COLUMNS)
    for entry in entries:
        findings = entry["findings"]
        writer.writerow(
            [
                entry["learner"],
                entry["exercise"],
                entry["submitted_at"] or "",
                entry["verdict"],
                entry["undecided"],
                f"{entry['mark']:g}",
                f"{entry['points']:g}",
                " ".join(dict.fromkeys(finding["code"] for finding in findings)),
                " ".join(finding["message"] for finding in findings),
            ]
        )
