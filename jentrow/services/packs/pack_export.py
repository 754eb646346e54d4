"""Packs written: of a course, or of a data folder that nobody serves."""

from __future__ import annotations

import sqlite3
import tempfile
import zipfile
from collections.abc import Sequence
from contextlib import closing
from pathlib import Path

from sqlalchemy import select

from jentrow.core.errors import UnusableFolder, UnusableInput
from jentrow.core.exercises.packs.writing import write_pack
from jentrow.records import models
from jentrow.records.contents import core_exercise, core_sheet
from jentrow.records.database import FILE as RECORDS
from jentrow.records.exercises import list_exercises, list_sheets
from jentrow.records.samples import list_samples
from jentrow.services.errors import NotFound
from jentrow.services.runtime.data_folder import SAMPLES
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.runtime.sample_storage import scratch_folder
from jentrow.services.samples.new_samples import write_sample_files
from jentrow.services.scope import CourseScope, course_in_scope, course_scope


def export(scope: CourseScope, target: Path, slugs: Sequence[str] = ()) -> str:
    """Writes exercises with their samples as a pack, all of them where none are named.

    Sheets come along whose exercises all do. Returns the pack's title. Raises
    :class:`~jentrow.core.samples.exports.CannotExport` or :class:`NotFound`.
    """
    with scope.records.session() as session:
        course = course_in_scope(session)
        records = list(list_exercises(session, course.id))
        known = {record.slug for record in records}
        for slug in slugs:
            if slug not in known:
                raise NotFound(f"There is no exercise {slug!r}.")
        wanted = [record for record in records if not slugs or record.slug in slugs]
        ids = {record.slug for record in wanted}
        sheets = [core_sheet(sheet) for sheet in list_sheets(session, course.id)]
        used = {record.sample_id: record.sample for record in wanted}
        if not slugs:
            used = {sample.id: sample for sample in list_samples(session, course.id)}
        title = course.title if len(wanted) != 1 else wanted[0].title
        exercises = [core_exercise(record) for record in wanted]
        names = [sample.name for sample in used.values()]
    with scratch_folder(scope.runtime.folder) as scratch:
        samples = {name: scratch / f"{at}.zip" for at, name in enumerate(names)}
        for name, file in samples.items():
            write_sample_files(scope, name, file)
        whole = [s for s in sheets if s.entries and all(one.exercise in ids for one in s.entries)]
        write_pack(target, title, samples, exercises, whole)
    return title


def export_folder(folder: Path, target: Path, course: str | None = None) -> str:
    """Writes all exercises of a course as a pack: a ZIP, or a folder of files.

    Raises :class:`UnusableInput` where something is there already, or where there are several
    courses and none is named.
    """
    if target.exists() and (not target.is_dir() or any(target.iterdir())):
        raise UnusableInput(f"{target}: is there already; name a new file or folder.")
    if not target.parent.is_dir():
        raise UnusableInput(f"{target}: there is no folder {target.parent}.")
    with tempfile.TemporaryDirectory(prefix="jentrow-") as name:
        scratch = Path(name)
        _copy(folder, scratch / "data")
        runtime = Runtime(scratch / "data")
        try:
            archive = target if target.suffix.lower() == ".zip" else scratch / "pack.zip"
            title = export(_in_course(runtime, course), archive)
        finally:
            runtime.close()
        if archive is not target:
            with zipfile.ZipFile(archive) as files:
                files.extractall(target)
    return title


def _in_course(runtime: Runtime, slug: str | None) -> CourseScope:
    with runtime.records.session() as session:
        courses = {one.slug: one.id for one in session.scalars(select(models.Course))}
    if slug is None and len(courses) == 1:
        (slug,) = courses
    if slug not in courses:
        if not courses:
            raise UnusableInput("there is no course yet, and nothing to write.")
        said = "there are several courses" if slug is None else f"there is no course {slug!r}"
        raise UnusableInput(f"{said}: name one with --course ({', '.join(courses)}).")
    return course_scope(runtime, courses[slug], "")


def _copy(folder: Path, target: Path) -> None:
    """Copies a data folder, which a running server may be using."""
    if not (folder / RECORDS).is_file():
        raise UnusableFolder(f"{folder}: holds no records; name the data folder with --data.")
    for path in [folder / RECORDS, *(folder / SAMPLES).rglob("*.db")]:
        copy = target / path.relative_to(folder)
        copy.parent.mkdir(parents=True, exist_ok=True)
        with closing(sqlite3.connect(path)) as ours, closing(sqlite3.connect(copy)) as theirs:
            ours.backup(theirs)
