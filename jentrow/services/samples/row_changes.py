"""Rows of a sample, changed and undone, in versions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from jentrow.core.samples.dataset import Version
from jentrow.core.samples.rows.edits import Edit, Edited
from jentrow.records.tasks import renew_sample
from jentrow.services.samples.catalogue import open_dataset, record_of
from jentrow.services.scope import CourseScope


def edit(scope: CourseScope, sample: str, dataset: str, edits: Sequence[Edit]) -> Edited:
    """Changes rows as one new version. Raises :class:`RefusedEdit`."""
    edited: Edited = _changed(scope, sample, dataset, "edit", tuple(edits))
    return edited


def undo(scope: CourseScope, sample: str, dataset: str) -> Version:
    """Takes back the last change."""
    version: Version = _changed(scope, sample, dataset, "undo")
    return version


def redo(scope: CourseScope, sample: str, dataset: str) -> Version:
    """Makes the change that was undone last once more."""
    version: Version = _changed(scope, sample, dataset, "redo")
    return version


def restore(scope: CourseScope, sample: str, dataset: str, version: int) -> Version:
    """Brings the rows of a version back."""
    made: Version = _changed(scope, sample, dataset, "restore", version)
    return made


def _changed(scope: CourseScope, sample: str, dataset: str, what: str, *given: Any) -> Any:
    """What came of a change of rows; answers that wait over them are graded by the new ones."""
    record = record_of(scope, sample, dataset)
    found = scope.runtime.datasets.open(record).change(what, *given)
    with scope.records.writing() as session:
        renew_sample(session, record.sample_id)
    scope.runtime.queue.wake()
    return found


def versions(scope: CourseScope, sample: str, dataset: str) -> list[Version]:
    """All versions of a dataset's rows, the last first."""
    return open_dataset(scope, sample, dataset).dataset.versions()[::-1]
