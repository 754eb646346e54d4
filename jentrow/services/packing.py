"""Packs taken in, after a look at what would change, and packs written."""

from __future__ import annotations

import sqlite3
import tempfile
import zipfile
from collections.abc import Mapping, Sequence
from contextlib import closing
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Final, Literal, TypeAlias

from sqlalchemy import select
from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableFolder, UnusableInput
from jentrow.core.exercises.content import content_of
from jentrow.core.exercises.packdiff import PackChange, State, compare_contents
from jentrow.core.exercises.packs import Pack, opened_pack
from jentrow.core.exercises.packwriter import PackedSample, write_pack
from jentrow.core.exercises.sheets import Sheet
from jentrow.records import models
from jentrow.records.database import FILE as RECORDS
from jentrow.records.exercises import list_exercises, list_sheets
from jentrow.records.samples import list_samples
from jentrow.services.bench import FileDifference, differences, free_slug, keep_content
from jentrow.services.contents import core_exercise, core_sheet, origin_of, put_sheet, sheet_origin
from jentrow.services.datafolder import SAMPLES
from jentrow.services.desk import Desk
from jentrow.services.errors import NotFound
from jentrow.services.importing import add_exercise, add_sheet
from jentrow.services.imports import Import, Phase
from jentrow.services.keeping import MadeDataset, datasets_of, keep_sample, undone_on_error
from jentrow.services.views import the_open_course

Choice: TypeAlias = Literal["theirs", "ours", "both"]
"""What becomes of a thing that is here already: the pack's takes its place, ours stays, or the
pack's is taken in beside it under another name."""

USUAL: Final[dict[State, Choice]] = {
    "new": "theirs", "same": "ours", "changed": "theirs", "conflict": "ours",
}  # fmt: skip


@dataclass(frozen=True)
class PackItem:
    """A thing of a pack against what is here."""

    id: str
    title: str
    state: State
    differing: Sequence[str] = ()
    differences: Sequence[FileDifference] = ()
    usual: Choice = "theirs"


@dataclass(frozen=True)
class PackPreview:
    """What taking a pack in would do."""

    title: str
    licence: str
    samples: list[PackItem]
    exercises: list[PackItem]
    sheets: list[PackItem]


@dataclass(frozen=True)
class PackChoices:
    """What is chosen for each thing, by its id; what is not named goes its usual way."""

    samples: Mapping[str, Choice] = field(default_factory=dict)
    exercises: Mapping[str, Choice] = field(default_factory=dict)
    sheets: Mapping[str, Choice] = field(default_factory=dict)


@dataclass(frozen=True)
class PackLook:
    """What an import of a pack holds between the look and the taking in."""

    preview: PackPreview
    made: Mapping[str, list[MadeDataset]]


def look(desk: Desk, one: Import) -> None:
    """Looks at a pack that was handed in, in the background."""
    if len(one.files) != 1:
        raise UnusableInput("hand in one file: the ZIP of a pack.")
    desk.imports.start(one, lambda: _look(desk, one))


def _look(desk: Desk, one: Import) -> Phase:
    with opened_pack(one.folder / one.files[0]) as pack:
        made = _made(one, pack)
        with desk.records.session() as session:
            one.pack = PackLook(_preview(desk, session, pack, made), made)
    return "proposed"


def _made(one: Import, pack: Pack) -> dict[str, list[MadeDataset]]:
    """Makes the datasets of a pack's samples; they wait in the import's folder."""
    found: dict[str, list[MadeDataset]] = {}
    for number, (name, source) in enumerate(pack.samples.items()):
        found[name] = []
        for made in datasets_of(source, one.folder, one.watch):
            kept = one.folder / f"sample-{number}-{len(found[name])}.db"
            made.file.replace(kept)
            found[name].append(MadeDataset(made.name, kept, made.made, made.summary))
    return found


def _preview(
    desk: Desk, session: Session, pack: Pack, made: Mapping[str, list[MadeDataset]]
) -> PackPreview:
    course = the_open_course(session)
    samples = {sample.name: sample for sample in list_samples(session, course.id)}
    records = {record.slug: record for record in list_exercises(session, course.id)}
    ours = {slug: content_of(core_exercise(record)) for slug, record in records.items()}
    theirs = {exercise.id: content_of(exercise) for exercise in pack.exercises}
    origins = {slug: record.origin for slug, record in records.items()}
    names = [*samples, *pack.samples]

    def exercise_item(change: PackChange) -> PackItem:
        told: list[FileDifference] = []
        if change.id in ours:
            told = differences(change.id, ours[change.id], theirs[change.id], names)
        title = pack.exercise(change.id).title
        return PackItem(change.id, title, change.state, change.differing, told, USUAL[change.state])

    sheets = {sheet.slug: sheet for sheet in list_sheets(session, course.id)}
    kept_sheets = {slug: core_sheet(sheet).to_mapping() for slug, sheet in sheets.items()}
    sheet_changes = compare_contents(
        {sheet.id: sheet.to_mapping() for sheet in pack.sheets},
        kept_sheets,
        {slug: sheet.origin for slug, sheet in sheets.items()},
    )
    titles = {sheet.id: sheet.title for sheet in pack.sheets}
    return PackPreview(
        pack.title,
        pack.licence,
        [_sample_item(desk, name, made[name], samples.get(name)) for name in pack.samples],
        [exercise_item(change) for change in compare_contents(theirs, ours, origins)],
        [
            PackItem(one.id, titles[one.id], one.state, one.differing, (), USUAL[one.state])
            for one in sheet_changes
        ],
    )


def _sample_item(
    desk: Desk, name: str, made: list[MadeDataset], ours: models.Sample | None
) -> PackItem:
    if ours is None:
        return PackItem(name, name, "new", usual="theirs")
    here = {
        one.name: desk.reading.look("fingerprint", desk.shelf.open(one).dataset.path)
        for one in ours.datasets
    }
    there = {one.name: desk.reading.look("fingerprint", one.file) for one in made}
    differing = tuple(
        dataset for dataset in {**here, **there} if here.get(dataset) != there.get(dataset)
    )
    state: State = "conflict" if differing else "same"
    return PackItem(name, name, state, differing, (), USUAL[state])


# taking in


def take(desk: Desk, one: Import, choices: PackChoices) -> None:
    """Takes a pack in as chosen, in the background: all of it or nothing."""
    if one.pack is None or one.phase != "proposed":
        raise UnusableInput("this pack was not looked at, or is taken in already.")
    held: PackLook = one.pack
    chosen = _checked(held.preview, choices)
    desk.imports.start(one, lambda: _take(desk, one, held, chosen))


def _checked(preview: PackPreview, choices: PackChoices) -> PackChoices:
    """The choices completed. Raises :class:`UnusableInput` for one that cannot be."""
    whole: dict[str, dict[str, Choice]] = {}
    for what in ("samples", "exercises", "sheets"):
        items: list[PackItem] = getattr(preview, what)
        given: Mapping[str, Choice] = getattr(choices, what)
        unknown = given.keys() - {item.id for item in items}
        if unknown:
            raise UnusableInput(f"the pack has no {what[:-1]} {', '.join(sorted(unknown))}.")
        whole[what] = {item.id: given.get(item.id, item.usual) for item in items}
        for item in items:
            choice = whole[what][item.id]
            if what == "samples" and item.state == "conflict" and choice == "theirs":
                raise UnusableInput(
                    f"the sample {item.id} is in use: keep ours, or take the pack's in beside it."
                )
            if what == "sheets" and choice == "both":
                raise UnusableInput(f"the sheet {item.id}: keep ours, or take the pack's.")
    return PackChoices(**whole)


def _take(desk: Desk, one: Import, held: PackLook, choices: PackChoices) -> Phase:
    with (
        opened_pack(one.folder / one.files[0]) as pack,
        undone_on_error() as made,
        desk.records.writing() as session,
    ):
        course = the_open_course(session)
        samples = _take_samples(desk, session, course.id, held, choices, made)
        taken = _take_exercises(session, course.id, pack, held.preview, choices, samples)
        _take_sheets(session, course.id, pack, held.preview, choices, taken)
    desk.queue.wake()
    return "kept"


def _take_samples(
    desk: Desk,
    session: Session,
    course_id: int,
    held: PackLook,
    choices: PackChoices,
    made: list[Path],
) -> dict[str, models.Sample]:
    """The sample that each of the pack's becomes, by its name in the pack."""
    here = {sample.name: sample for sample in list_samples(session, course_id)}
    taken: dict[str, models.Sample] = {}
    for item in held.preview.samples:
        if choices.samples[item.id] == "ours" and item.id in here:
            taken[item.id] = here[item.id]
            continue
        name = item.id
        number = 1
        while name in here:
            number += 1
            name = f"{item.id} {number}"
        datasets = held.made[item.id]
        taken[item.id] = keep_sample(session, desk.folder, course_id, name, datasets, made)
        here[name] = taken[item.id]
    return taken


def _take_exercises(
    session: Session,
    course_id: int,
    pack: Pack,
    preview: PackPreview,
    choices: PackChoices,
    samples: Mapping[str, models.Sample],
) -> dict[str, models.Exercise]:
    """The exercise that each of the pack's becomes, by its id in the pack."""
    here = {record.slug: record for record in list_exercises(session, course_id)}
    why = f"from the pack {pack.title}"
    taken: dict[str, models.Exercise] = {}
    for item in preview.exercises:
        choice = choices.exercises[item.id]
        theirs = pack.exercise(item.id)
        sample = samples[theirs.sample]
        content = replace(theirs, sample=sample.name)
        if item.id not in here:
            taken[item.id] = add_exercise(
                session, course_id, content, sample, why, origin_of(theirs)
            )
        elif choice == "both":
            slug = free_slug(session, course_id, item.id)
            beside = replace(content, id=slug)
            taken[item.id] = add_exercise(session, course_id, beside, sample, why)
        else:
            record = taken[item.id] = here[item.id]
            if choice == "theirs":
                keep_content(session, record, content_of(content), why)
                record.origin = origin_of(theirs)
    return taken


def _take_sheets(
    session: Session,
    course_id: int,
    pack: Pack,
    preview: PackPreview,
    choices: PackChoices,
    exercises: dict[str, models.Exercise],
) -> None:
    here = {sheet.slug: sheet for sheet in list_sheets(session, course_id)}
    by_id: dict[str, Sheet] = {sheet.id: sheet for sheet in pack.sheets}
    for item in preview.sheets:
        if choices.sheets[item.id] == "ours":
            continue
        sheet = by_id[item.id]
        if item.id in here:
            put_sheet(session, here[item.id], sheet, exercises)
            here[item.id].origin = sheet_origin(sheet)
        else:
            add_sheet(session, course_id, sheet, exercises)


# writing


def export(desk: Desk, target: Path, slugs: Sequence[str] = ()) -> str:
    """Writes exercises with their samples as a pack, all of them where none are named.

    Sheets come along whose exercises all do. Returns the pack's title. Raises
    :class:`~jentrow.core.samples.exports.CannotExport` or :class:`NotFound`.
    """
    with desk.records.session() as session:
        course = the_open_course(session)
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
        samples = {sample.name: _packed(desk, sample) for sample in used.values()}
        title = course.title if len(wanted) != 1 else wanted[0].title
        write_pack(
            target,
            title,
            samples,
            [core_exercise(record) for record in wanted],
            [s for s in sheets if s.entries and all(entry.exercise in ids for entry in s.entries)],
        )
        return title


def _packed(desk: Desk, sample: models.Sample) -> PackedSample:
    datasets = {one.name: desk.shelf.open(one).dataset for one in sample.datasets}
    opened, *_ = datasets.values()
    return PackedSample(opened, dict(list(datasets.items())[1:]))


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
        desk = Desk(scratch / "data")
        try:
            archive = target if target.suffix.lower() == ".zip" else scratch / "pack.zip"
            title = export(_in_course(desk, course), archive)
        finally:
            desk.close()
        if archive is not target:
            with zipfile.ZipFile(archive) as files:
                files.extractall(target)
    return title


def _in_course(desk: Desk, slug: str | None) -> Desk:
    with desk.records.session() as session:
        courses = {one.slug: one.id for one in session.scalars(select(models.Course))}
    if slug is None and len(courses) == 1:
        (slug,) = courses
    if slug not in courses:
        if not courses:
            raise UnusableInput("there is no course yet, and nothing to write.")
        said = "there are several courses" if slug is None else f"there is no course {slug!r}"
        raise UnusableInput(f"{said}: name one with --course ({', '.join(courses)}).")
    return desk.in_course(courses[slug], "")


def _copy(folder: Path, target: Path) -> None:
    """Copies a data folder, which a running server may be using."""
    if not (folder / RECORDS).is_file():
        raise UnusableFolder(f"{folder}: holds no records; name the data folder with --data.")
    for path in [folder / RECORDS, *(folder / SAMPLES).rglob("*.db")]:
        copy = target / path.relative_to(folder)
        copy.parent.mkdir(parents=True, exist_ok=True)
        with closing(sqlite3.connect(path)) as ours, closing(sqlite3.connect(copy)) as theirs:
            ours.backup(theirs)
