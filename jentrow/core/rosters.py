"""Reading rosters: CSV with learner id, name and e-mail, or the OneRoster files of a school.

OneRoster is the open format of 1EdTech; of its CSV files ``users.csv``, ``classes.csv`` and
``enrollments.csv`` are read, as versions 1.1 and 1.2 have them.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final

from jentrow.core.archives import unpacked
from jentrow.core.errors import InvalidRoster
from jentrow.core.mappings import listed
from jentrow.core.spreadsheets import rows_of_list
from jentrow.core.textfiles import read_text

ONE_ROSTER: Final = ("users.csv", "classes.csv", "enrollments.csv")
LONGEST_FIELD: Final = 200

_NAMES: Final[dict[str, str]] = {
    "learnerid": "code",
    "id": "code",
    "name": "name",
    "fullname": "name",
    "givenname": "given",
    "firstname": "given",
    "familyname": "family",
    "lastname": "family",
    "surname": "family",
    "email": "email",
    "emailaddress": "email",
    "mail": "email",
}
"""What the columns of a roster may be called, without case, blanks and signs."""

_EMAIL: Final = re.compile(r"[^@\s,;<>]+@[^@\s,;<>]+\.[^@\s,;<>]+")


@dataclass(frozen=True, slots=True)
class RosterEntry:
    """A learner as a roster has them; ``email`` may be empty."""

    code: str
    name: str
    email: str = ""


@dataclass(frozen=True, slots=True)
class RosterClass:
    """The learners of one class; the one class of a plain roster has no title."""

    id: str
    title: str
    entries: tuple[RosterEntry, ...]


@dataclass(frozen=True, slots=True)
class Roster:
    """What a file holds: classes with their learners, and what could not be read, with its line."""

    classes: tuple[RosterClass, ...]
    problems: tuple[str, ...]


def is_email(text: str) -> bool:
    """Whether a text looks like one e-mail address."""
    return bool(_EMAIL.fullmatch(text)) and len(text) <= LONGEST_FIELD


def read_roster(path: Path) -> Roster:
    """Reads a CSV file, or a folder or ZIP of OneRoster files.

    Raises :class:`InvalidRoster` or :class:`UnreadableFile` for what cannot be read at all.
    """
    if path.is_dir() or path.suffix.lower() == ".zip":
        with unpacked(path) as folder:
            return _one_roster(folder, path)
    header, records = _records(path)
    if "sourcedid" in header:
        raise InvalidRoster(
            f"{path.name}: one file of several; hand in the ZIP with {listed(ONE_ROSTER)}."
        )
    columns = [_NAMES.get(name, "") for name in header]
    if "code" not in columns or not ("name" in columns or "family" in columns):
        raise InvalidRoster(
            f"{path.name}, line 1: the header must name learner id and name, and may name e-mail; "
            f"it names {listed(header) or 'nothing'}."
        )
    problems: list[str] = []
    found: list[tuple[str, RosterEntry]] = []
    for place, row in records:
        if len(row) != len(columns):
            problems.append(f"{place} has {len(row)} fields, not {len(columns)}")
            continue
        field = dict(zip(columns, row, strict=True))
        name = field.get("name", "") or _full_name(field.get("given", ""), field.get("family", ""))
        found.append((place, RosterEntry(field["code"], name, field.get("email", ""))))
    return Roster((RosterClass("", "", _usable(found, problems)),), tuple(problems))


def _full_name(given: str, family: str) -> str:
    return f"{given} {family}".strip()


def _records(path: Path) -> tuple[list[str], list[tuple[str, list[str]]]]:
    """The names in the header, plain; and the records with their places, blanks trimmed."""
    rows = rows_of_list(read_text(path))
    try:
        header = [re.sub(r"[^a-z]", "", name.lower()) for name in next(rows, [])]
        records = [
            (f"{path.name}, line {rows.line_num}", [field.strip() for field in row])
            for row in rows
            if any(field.strip() for field in row)
        ]
    except csv.Error as problem:
        raise InvalidRoster(f"{path.name}, line {rows.line_num}: not CSV ({problem}).") from problem
    return header, records


def _usable(
    found: Sequence[tuple[str, RosterEntry]], problems: list[str]
) -> tuple[RosterEntry, ...]:
    """The entries that can be used, in their order; what is wrong is added to ``problems``."""
    entries: dict[str, RosterEntry] = {}
    for place, entry in found:
        if not entry.code:
            problems.append(f"{place} has no learner id")
        elif not entry.name:
            problems.append(f"{place} has no name")
        elif max(len(entry.code), len(entry.name)) > LONGEST_FIELD:
            problems.append(f"{place} is longer than {LONGEST_FIELD} characters")
        elif entry.email and not is_email(entry.email):
            problems.append(f"{place}: {entry.email!r} is no e-mail address")
        elif entry.code in entries:
            problems.append(f"{place}: the learner id {entry.code!r} stands twice")
        else:
            entries[entry.code] = entry
    return tuple(entries.values())


def _one_roster(folder: Path, path: Path) -> Roster:
    files = {file.name.lower(): file for file in folder.rglob("*.csv")}
    missing = [name for name in ONE_ROSTER if name not in files]
    if missing:
        raise InvalidRoster(f"{path.name}: holds no {listed(missing)}.")
    problems: list[str] = []
    users = {
        field.get("sourcedid", ""): (place, field)
        for place, field in _table(files["users.csv"], ("sourcedId", "familyName"), problems)
    }
    members: dict[str, list[tuple[str, RosterEntry]]] = {}
    for place, field in _table(
        files["enrollments.csv"], ("classSourcedId", "userSourcedId", "role"), problems
    ):
        if field["role"].lower() != "student" or _is_gone(field):
            continue
        user_id = field["usersourcedid"]
        if user_id not in users:
            problems.append(f"{place} names the user {user_id!r}, whom users.csv lacks")
            continue
        at, user = users[user_id]
        if not _is_gone(user):
            members.setdefault(field["classsourcedid"], []).append((at, _entry(user)))
    classes = []
    for _, field in _table(files["classes.csv"], ("sourcedId", "title"), problems):
        if not _is_gone(field):
            id = field["sourcedid"]
            entries = _usable(members.get(id, []), problems)
            classes.append(RosterClass(id, field["title"], entries))
    if not classes:
        raise InvalidRoster(f"{path.name}: classes.csv holds no class.")
    return Roster(tuple(classes), tuple(problems))


def _entry(user: Mapping[str, str]) -> RosterEntry:
    name = _full_name(
        user.get("preferredgivenname", "") or user.get("givenname", ""),
        user.get("preferredfamilyname", "") or user["familyname"],
    )
    return RosterEntry(user.get("identifier", "") or user["sourcedid"], name, user.get("email", ""))


def _is_gone(field: Mapping[str, str]) -> bool:
    return field.get("status", "").lower() == "tobedeleted"


def _table(
    path: Path, needed: Sequence[str], problems: list[str]
) -> list[tuple[str, dict[str, str]]]:
    header, records = _records(path)
    missing = [name for name in needed if name.lower() not in header]
    if missing:
        raise InvalidRoster(f"{path.name}, line 1: the header lacks {listed(missing)}.")
    whole = []
    for place, row in records:
        if len(row) == len(header):
            whole.append((place, dict(zip(header, row, strict=True))))
        else:
            problems.append(f"{place} has {len(row)} fields, not {len(header)}")
    return whole
