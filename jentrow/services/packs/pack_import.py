"""Packs taken in, after a look at what would change."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Final, Literal, TypeAlias

from sqlalchemy.orm import Session

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.files.content import content_of
from jentrow.core.exercises.packs.difference import PackChange, State, compare_contents
from jentrow.core.exercises.packs.reading import Pack, opened_pack
from jentrow.core.exercises.sheets import Sheet
from jentrow.records import models
from jentrow.records.additions import add_exercise, add_sheet
from jentrow.records.contents import core_exercise, core_sheet, origin_of, put_sheet, sheet_origin
from jentrow.records.exercises import list_exercises, list_sheets
from jentrow.records.samples import list_samples
from jentrow.services.exercises.catalogue import free_slug
from jentrow.services.exercises.version_history import FileDifference, differences, keep_content
from jentrow.services.runtime.import_jobs import Import, Phase
from jentrow.services.runtime.sample_storage import (
    MadeDataset,
    datasets_of,
    keep_sample,
    undone_on_error,
)
from jentrow.services.scope import CourseScope, course_in_scope

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


def look(scope: CourseScope, one: Import) -> None:
    """Looks at a pack that was handed in, in the background."""
    if len(one.files) != 1:
        raise UnusableInput("hand in one file: the ZIP of a pack.")
    scope.runtime.import_jobs.start(one, lambda: _look(scope, one))


def _look(scope: CourseScope, one: Import) -> Phase:
    with opened_pack(one.folder / one.files[0]) as pack:
        made = _made(one, pack)
        with scope.records.session() as session:
            one.pack = PackLook(_preview(scope, session, pack, made), made)
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
    scope: CourseScope, session: Session, pack: Pack, made: Mapping[str, list[MadeDataset]]
) -> PackPreview:
    course = course_in_scope(session)
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
        [_sample_item(scope, name, made[name], samples.get(name)) for name in pack.samples],
        [exercise_item(change) for change in compare_contents(theirs, ours, origins)],
        [
            PackItem(one.id, titles[one.id], one.state, one.differing, (), USUAL[one.state])
            for one in sheet_changes
        ],
    )


def _sample_item(
    scope: CourseScope, name: str, made: list[MadeDataset], ours: models.Sample | None
) -> PackItem:
    if ours is None:
        return PackItem(name, name, "new", usual="theirs")
    here = {
        one.name: scope.runtime.reading.look(
            "fingerprint", scope.runtime.datasets.open(one).dataset.path
        )
        for one in ours.datasets
    }
    there = {one.name: scope.runtime.reading.look("fingerprint", one.file) for one in made}
    differing = tuple(
        dataset for dataset in {**here, **there} if here.get(dataset) != there.get(dataset)
    )
    state: State = "conflict" if differing else "same"
    return PackItem(name, name, state, differing, (), USUAL[state])


def take(scope: CourseScope, one: Import, choices: PackChoices) -> None:
    """Takes a pack in as chosen, in the background: all of it or nothing."""
    if one.pack is None or one.phase != "proposed":
        raise UnusableInput("this pack was not looked at, or is taken in already.")
    held: PackLook = one.pack
    chosen = _checked(held.preview, choices)
    scope.runtime.import_jobs.start(one, lambda: _take(scope, one, held, chosen))


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


def _take(scope: CourseScope, one: Import, held: PackLook, choices: PackChoices) -> Phase:
    with (
        opened_pack(one.folder / one.files[0]) as pack,
        undone_on_error() as made,
        scope.records.writing() as session,
    ):
        course = course_in_scope(session)
        samples = _take_samples(scope, session, course.id, pack, held, choices, made)
        taken = _take_exercises(session, course.id, pack, held.preview, choices, samples)
        _take_sheets(session, course.id, pack, held.preview, choices, taken)
    scope.runtime.queue.wake()
    return "kept"


def _take_samples(
    scope: CourseScope,
    session: Session,
    course_id: int,
    pack: Pack,
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
        notes = pack.samples[item.id].notes
        taken[item.id] = keep_sample(
            session, scope.runtime.folder, course_id, name, datasets, made, notes
        )
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
