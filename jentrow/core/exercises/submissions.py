"""Reading submissions: a CSV file, a folder or ZIP of ``<learner>/<exercise>.sql``, notebooks."""

from __future__ import annotations

import csv
import json
import re
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Final

from jentrow.core.archives import unpacked
from jentrow.core.errors import InvalidSubmissions
from jentrow.core.mappings import listed
from jentrow.core.spreadsheets import rows_of_list
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
    found = read_answers(path)
    if found.problems:
        raise InvalidSubmissions(f"{path}: {_some(found.problems)}.")
    strange = [
        f"{place} names the exercise {submission.exercise!r}"
        for submission, place in zip(found.submissions, found.places, strict=True)
        if submission.exercise not in exercises
    ]
    if strange:
        raise InvalidSubmissions(
            f"{path}: {_some(strange)}; the pack has {listed(sorted(exercises))}."
        )
    return found.submissions


@dataclass(frozen=True)
class FoundAnswers:
    """Submissions as they stand in a file, each with its place; ``problems`` are what does not."""

    submissions: list[Submission]
    places: list[str]
    problems: list[str]


def read_answers(path: Path) -> FoundAnswers:
    """Reads submissions in their order, whatever exercises they name.

    Raises :class:`InvalidSubmissions` or :class:`UnreadableFile` for what cannot be read at all.
    """
    ending = path.suffix.lower()
    if ending == ".ipynb":
        found = FoundAnswers([], [], [])
        _add_notebook(found, path, path.stem, path.name)
    elif path.is_dir() or ending == ".zip":
        found = _from_folder(path)
    else:
        found = _from_csv(path)
    return found


def _from_csv(path: Path) -> FoundAnswers:
    rows = rows_of_list(read_text(path))
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
    return FoundAnswers(submissions, places, problems)


def _time(text: str, place: str, problems: list[str]) -> datetime | None:
    if not text.strip():
        return None
    try:
        return datetime.fromisoformat(text.strip())
    except ValueError:
        problems.append(f"{place} has submitted_at {text!r}, which is no ISO date and time")
        return None


def _from_folder(path: Path) -> FoundAnswers:
    found = FoundAnswers([], [], [])
    with unpacked(path) as folder:
        for file in sorted(folder.glob("*/*.sql")):
            found.submissions.append(Submission(file.parent.name, file.stem, read_text(file)))
            found.places.append(f"{file.parent.name}/{file.name}")
        for file in sorted(folder.rglob("*.ipynb")):
            at_top = file.parent == folder
            learner = file.stem if at_top else file.parent.name
            _add_notebook(found, file, learner, str(file.relative_to(folder)))
    if not found.submissions and not found.problems:
        raise InvalidSubmissions(f"{path}: no <learner>/<exercise>.sql and no notebook in it.")
    return found


_NAMED: Final = re.compile(r"^\s*(?:--|#|%%\w*)\s*(?P<name>[^\n]+?)\s*$")


def _add_notebook(found: FoundAnswers, path: Path, learner: str, place: str) -> None:
    """Adds the cells of a notebook whose first line is a comment with an exercise's name."""
    try:
        cells = json.loads(read_text(path))["cells"]
        codes = ["".join(cell["source"]) for cell in cells if cell["cell_type"] == "code"]
    except (ValueError, KeyError, TypeError, RecursionError) as problem:
        found.problems.append(f"{place} is no notebook that can be read ({type(problem).__name__})")
        return
    for number, code in enumerate(codes, start=1):
        first, _, rest = code.strip().partition("\n")
        named = _NAMED.match(first)
        if not code.strip():
            continue
        if named is None:
            found.problems.append(
                f"{place}, cell {number} does not begin with a comment that names its exercise"
            )
            continue
        found.submissions.append(Submission(learner, named["name"], rest.strip() + "\n"))
        found.places.append(f"{place}, cell {number}")


def matching_exercise(named: str, exercises: Mapping[str, str]) -> str | None:
    """The exercise that somebody means: by its id, its title, or its id without the number.

    ``exercises`` are titles by id. None where none is meant, or more than one could be.
    """
    if named in exercises:
        return named
    wanted = named.strip().lower()
    for meant in (
        lambda slug, title: slug.lower() == wanted,
        lambda slug, title: title.lower() == wanted,
        lambda slug, title: slug.lower().lstrip("0123456789-_ ") == wanted,
        lambda slug, title: (
            _number(slug) is not None and _number(slug) == _number(wanted, whole=True)
        ),
    ):
        found = [slug for slug, title in exercises.items() if meant(slug, title)]
        if found:
            return found[0] if len(found) == 1 else None
    return None


def _number(name: str, *, whole: bool = False) -> int | None:
    """The number that a name begins with; with ``whole`` only where it is all of it."""
    found = re.match(r"(\d+)", name)
    if found is None or (whole and found.end() != len(name)):
        return None
    return int(found[1])


def _some(problems: list[str]) -> str:
    shown = "; ".join(problems[:SHOWN_PROBLEMS])
    more = len(problems) - SHOWN_PROBLEMS
    return shown + (f"; and {more} more" if more > 0 else "")
