"""Tables of a sample changed in place: what exercises use of them, and the datasets made anew."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.core.samples.tablenotes import TableNote, TableNotes, notes_mapping
from jentrow.core.sql.written_names import WrittenNames, written_names
from jentrow.records.contents import core_exercise
from jentrow.records.samples import exercises_over
from jentrow.services.runtime.sample_storage import (
    MadeDataset,
    new_folder,
    notes_of,
    undone_on_error,
)
from jentrow.services.samples.catalogue import dataset_named, notes_on, open_dataset, sample_named
from jentrow.services.samples.planned_tables import PlannedTable
from jentrow.services.scope import CourseScope


@dataclass(frozen=True)
class ExerciseUse:
    """An exercise, and what its texts use of what is changed: ``huts.beds``, or ``huts`` whole."""

    exercise: str
    title: str
    uses: list[str]


@dataclass(frozen=True, slots=True)
class _Change:
    """A column that is no longer what it was, or a whole table where ``column`` is empty."""

    table: str
    column: str

    def is_met_by(self, written: WrittenNames) -> bool:
        if self.table.casefold() not in written.names:
            return False
        whole = not self.column or written.takes_all
        return whole or self.column.casefold() in written.names

    def __str__(self) -> str:
        return f"{self.table}.{self.column}" if self.column else self.table


def exercise_uses(
    scope: CourseScope, sample: str, planned: Sequence[PlannedTable]
) -> list[ExerciseUse]:
    """The exercises over a sample whose texts use what a plan renames, retypes or drops.

    Their reference answers, alternatives and trials are read; what only mentions a name counts too.
    """
    tables = open_dataset(scope, sample, "").dataset.tables
    changes = list(_changes(tables, planned))
    found = []
    with scope.records.session() as session:
        for record in exercises_over(session, sample_named(session, sample).id):
            exercise = core_exercise(record)
            dialect = scope.runtime.engines.state(exercise.engine).dialect
            texts = [exercise.reference, *(one.sql for one in exercise.alternatives)]
            texts += [one.sql for one in exercise.trials]
            written = [written_names(sql, dialect) for sql in texts]
            uses = [str(one) for one in changes if any(map(one.is_met_by, written))]
            if uses:
                found.append(ExerciseUse(record.slug, record.title, uses))
    return found


def _changes(tables: Sequence[TableSchema], planned: Sequence[PlannedTable]) -> Iterator[_Change]:
    after = {plan.table.name.casefold(): plan for plan in planned}
    for table in tables:
        plan = after.get(table.name.casefold())
        if plan is None:
            yield _Change(table.name, "")
            continue
        declared = {one.name.casefold(): one.type.casefold() for one in plan.table.columns}
        sources = dict(zip(declared, plan.filled.sources, strict=False)) if plan.filled else {}
        for column in table.columns:
            name = column.name.casefold()
            is_carried = sources.get(name, "").casefold() == name
            if not is_carried or declared.get(name) != column.type.casefold():
                yield _Change(table.name, column.name)


def carried_notes(scope: CourseScope, sample: str, planned: Sequence[PlannedTable]) -> TableNotes:
    """What is noted on a sample's tables, under the names that they get."""
    before = {name.casefold(): said for name, said in notes_on(scope, sample).items()}
    found = {}
    for plan in planned:
        if plan.filled is None:
            continue
        said = before.get(plan.filled.file.casefold(), TableNote())
        texts = {name.casefold(): text for name, text in said.columns.items()}
        columns = {
            column.name: texts.get(source.casefold(), "")
            for column, source in zip(plan.table.columns, plan.filled.sources, strict=True)
        }
        found[plan.table.name] = replace(said, columns=columns)
    return found


def replace_datasets(
    scope: CourseScope, name: str, datasets: Sequence[MadeDataset], notes: TableNotes
) -> str:
    """Puts datasets that were made in the place of a sample's; gives its name.

    Their versions are counted on; earlier ones had other tables, and cannot be brought back.
    Raises :class:`UnusableInput` where the sample has got another dataset meanwhile.
    """
    with undone_on_error() as made, scope.records.writing() as session:
        sample = sample_named(session, name)
        if {one.name for one in sample.datasets} != {one.name for one in datasets}:
            raise UnusableInput(
                f"{name} has got other datasets meanwhile, and was not changed; begin again."
            )
        old: list[str] = []
        for one in datasets:
            record = dataset_named(sample, one.name)
            number = scope.runtime.datasets.open(record).dataset.version + 1
            old.append(record.folder)
            record.folder = new_folder(sample, record)
            made.append(scope.runtime.folder / record.folder)
            Dataset.adopt(made[-1], one.file, one.summary, number)
        sample.notes = [note for one in datasets[:1] for note in notes_of(one.made)]
        sample.table_notes = notes_mapping(notes)
    scope.runtime.datasets.remove(old)
    scope.runtime.queue.tell_course(scope.course_id, learners=True)
    return name
