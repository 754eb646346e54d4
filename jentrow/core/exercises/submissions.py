"""Reading submissions from a CSV file, or from a folder or ZIP of ``<learner>/<exercise>.sql``."""

from __future__ import annotations

import csv
import io
from collections.abc import Collection
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Final

from jentrow.core.archives import unpacked
from jentrow.core.errors import InvalidSubmissions
from jentrow.core.mappings import listed
from jentrow.core.textfiles import read_text

HEADER: Final = ("learner", "exercise", "sql")
SHOWN_PROBLEMS: Final = 5


@dataclass(frozen=True, slots=True)
class Submission:
    """One query that a learner handed in to an exercise."""

    learner: str
    exercise: str
    sql: str
    submitted_at: datetime | None = None


def read_submissions(path: Path, exercises: Collection[str]) -> list[Submission]:
    """Reads submissions in their order. All must name one of ``exercises``.

    Raises :class:`InvalidSubmissions` or :class:`UnreadableFile`, with the lines in question.
    """
    if path.suffix.lower() == ".csv" or not (path.is_dir() or path.suffix.lower() == ".zip"):
        submissions, places = _from_csv(path)
    else:
        submissions, places = _from_folder(path)
    strange = [
        f"{place} names the exercise {submission.exercise!r}"
        for submission, place in zip(submissions, places, strict=True)
        if submission.exercise not in exercises
    ]
    if strange:
        raise InvalidSubmissions(
            f"{path}: {_some(strange)}; the pack has {listed(sorted(exercises))}."
        )
    return submissions


def _from_csv(path: Path) -> tuple[list[Submission], list[str]]:
    csv.field_size_limit(2**30)
    rows = csv.reader(io.StringIO(read_text(path), newline=""), strict=True)
    submissions: list[Submission] = []
    places: list[str] = []
    problems: list[str] = []
    try:
        header = [name.strip().lower() for name in next(rows, [])]
        missing = [name for name in HEADER if name not in header]
        if missing:
            raise InvalidSubmissions(
                f"{path}, line 1: the header lacks {listed(missing)}; it must name "
                "learner,exercise,sql and may name submitted_at."
            )
        for row in rows:
            if not any(row):
                continue
            place = f"line {rows.line_num}"
            if len(row) != len(header):
                problems.append(f"{place} has {len(row)} fields, not {len(header)}")
                continue
            field = dict(zip(header, row, strict=True))
            if not field["learner"].strip():
                problems.append(f"{place} names no learner")
                continue
            submissions.append(
                Submission(
                    field["learner"].strip(),
                    field["exercise"].strip(),
                    field["sql"],
                    _time(field.get("submitted_at", ""), place, problems),
                )
            )
            places.append(place)
    except csv.Error as problem:
        raise InvalidSubmissions(f"{path}, line {rows.line_num}: not CSV ({problem}).") from problem
    if problems:
        raise InvalidSubmissions(f"{path}: {_some(problems)}.")
    return submissions, places


def _time(text: str, place: str, problems: list[str]) -> datetime | None:
    if not text.strip():
        return None
    try:
        return datetime.fromisoformat(text.strip())
    except ValueError:
        problems.append(f"{place} has submitted_at {text!r}, which is no ISO date and time")
        return None


def _from_folder(path: Path) -> tuple[list[Submission], list[str]]:
    submissions: list[Submission] = []
    places: list[str] = []
    with unpacked(path) as folder:
        for file in sorted(folder.glob("*/*.sql")):
            submissions.append(Submission(file.parent.name, file.stem, read_text(file)))
            places.append(f"{file.parent.name}/{file.name}")
    if not submissions:
        raise InvalidSubmissions(f"{path}: no <learner>/<exercise>.sql in it.")
    return submissions, places


def _some(problems: list[str]) -> str:
    shown = "; ".join(problems[:SHOWN_PROBLEMS])
    more = len(problems) - SHOWN_PROBLEMS
    return shown + (f"; and {more} more" if more > 0 else "")
