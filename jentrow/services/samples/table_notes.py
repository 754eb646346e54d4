"""Notes on the tables and columns of a sample, shown wherever they are."""

from __future__ import annotations

from jentrow.core.errors import UnusableInput
from jentrow.core.samples.tablenotes import notes_mapping, problem_of, with_note
from jentrow.services.samples.catalogue import open_dataset, sample_named, table_notes_of
from jentrow.services.scope import CourseScope


def note_on(scope: CourseScope, sample: str, table: str, column: str, text: str) -> None:
    """Notes something on a table, or on a column where one is named; an empty text takes it away.

    Raises :class:`UnusableInput` and :class:`~jentrow.services.errors.NotFound`.
    """
    shape = open_dataset(scope, sample, "").dataset.table(table)
    name = shape.column(column).name if column else ""
    if problem := problem_of(text):
        raise UnusableInput(f"{shape.name}{f'.{name}' if name else ''}: {problem}.")
    with scope.records.writing() as session:
        record = sample_named(session, sample)
        notes = with_note(table_notes_of(record), shape.name, name, text.strip())
        record.table_notes = notes_mapping(notes)
    scope.runtime.queue.tell_course(scope.course_id, learners=True)
