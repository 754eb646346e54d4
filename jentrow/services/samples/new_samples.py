"""Making samples: of corrected proposals, by hand, of what was read; and giving them away again."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Final, Literal, TypeAlias

from jentrow.core.errors import UnusableInput
from jentrow.core.exercises.packs.writing import write_notes, write_pack
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.making.process import make
from jentrow.core.samples.recipes import Carried, ColumnSource, CSVSource, Recipe
from jentrow.core.samples.schema.ddl import create_table
from jentrow.core.samples.schema.decimals import with_real_decimals
from jentrow.core.samples.schema.problems import schema_problems
from jentrow.core.samples.schema.tables import TableSchema
from jentrow.services.runtime.import_jobs import Import
from jentrow.services.runtime.sample_storage import MadeDataset, scratch_folder
from jentrow.services.samples.catalogue import notes_on, open_datasets
from jentrow.services.samples.library import add_sample, check_name
from jentrow.services.samples.planned_tables import PlannedTable
from jentrow.services.samples.table_changes import carried_notes, replace_datasets
from jentrow.services.scope import CourseScope

ExportFormat: TypeAlias = Literal["pack", "csv", "script", "database"]
ENDINGS: Final[dict[ExportFormat, str]] = {
    "pack": ".pack.zip",
    "csv": ".csv.zip",
    "script": ".sql",
    "database": ".db",
}


def schema_of(tables: Sequence[TableSchema]) -> str:
    """The script of some tables. Raises :class:`UnusableInput`, naming every problem at once."""
    problems = schema_problems(tables)
    if not tables:
        problems = ["a sample needs at least one table"]
    if problems:
        raise UnusableInput("; ".join(problems) + ".")
    return "".join(f"{create_table(table)};\n\n" for table in tables)


def make_by_hand(scope: CourseScope, name: str, tables: Sequence[TableSchema]) -> str:
    """Makes a sample of empty tables. Raises :class:`UnusableInput`."""
    check_name(name, "sample")
    recipe = Recipe("tables", schema_of(tables))
    with scratch_folder(scope.runtime.folder) as scratch:
        made = make(recipe, scratch / "made.db")
        dataset = MadeDataset("open", scratch / "made.db", made, "made by hand")
        return add_sample(scope, name, [dataset])


def make_planned(
    scope: CourseScope, one: Import, name: str, planned: Sequence[PlannedTable]
) -> None:
    """Makes a sample of CSV files as they were corrected, in the background."""
    name = check_name(name, "sample")
    schema = schema_of([plan.table for plan in planned])
    sources = []
    for plan in planned:
        filled = plan.filled
        if filled is None:
            continue
        if filled.file not in one.files:
            raise UnusableInput(f"there is no file {filled.file!r} in this import.")
        columns = tuple(
            ColumnSource(source, column.name, type)
            for source, type, column in zip(
                filled.sources, filled.types, plan.table.columns, strict=True
            )
            if source
        )
        if columns:
            path = str(one.folder / filled.file)
            sources.append(CSVSource(plan.table.name, path, columns, filled.format))
    recipe = Recipe("tables", schema, tuple(sources))
    files = ", ".join(one.files[:3]) + (" …" if len(one.files) > 3 else "")
    scope.runtime.import_jobs.make_all(
        one,
        lambda: [("open", recipe)],
        f"made from {files}" if files else "made by hand",
        lambda done: add_sample(scope, name, done.made),
    )


def make_changed(
    scope: CourseScope,
    one: Import,
    of_sample: str,
    name: str,
    planned: Sequence[PlannedTable],
    *,
    in_place: bool = False,
) -> None:
    """Makes a sample of another one with its tables changed, all datasets, in the background.

    ``in_place`` puts it where the other one is, under its name.

    What fills a planned table is a table of the other sample; columns without a source stay at
    their default.
    """
    name = of_sample if in_place else check_name(name, "sample")
    schema = schema_of([plan.table for plan in planned])
    notes = carried_notes(scope, of_sample, planned)
    keep = replace_datasets if in_place else add_sample
    datasets = open_datasets(scope, of_sample)
    opened, *_ = datasets.values()
    carried = _carried(opened, planned)

    def recipes() -> Iterator[tuple[str, Recipe]]:
        for number, (dataset, kept) in enumerate(datasets.items()):
            copy = one.folder / f"from-{number}.db"
            kept.copy_to(copy)
            yield dataset, Recipe("database", schema, path=str(copy), carried=carried)

    scope.runtime.import_jobs.make_all(
        one,
        recipes,
        "tables changed" if in_place else f"made from {of_sample}",
        lambda done: keep(scope, name, done.made, notes),
    )


def _carried(opened: Dataset, planned: Sequence[PlannedTable]) -> tuple[Carried, ...]:
    """What the planned tables take over of a dataset's."""
    carried = []
    for plan in planned:
        if plan.filled is None:
            continue
        before = opened.table(plan.filled.file)
        columns = tuple(
            ColumnSource(before.column(source).name, column.name, type)
            for source, type, column in zip(
                plan.filled.sources, plan.filled.types, plan.table.columns, strict=True
            )
            if source
        )
        if columns:
            carried.append(Carried(plan.table.name, before.name, columns))
    return tuple(carried)


def keep_import(scope: CourseScope, one: Import, name: str, *, real_decimals: bool = False) -> None:
    """Keeps what an import has made, under a name. Raises :class:`UnusableInput`.

    With ``real_decimals`` it is made once more, in the background, its decimal columns declared as
    real numbers.
    """
    if one.phase != "made":
        raise UnusableInput("nothing is made yet that could be kept.")
    if not real_decimals:
        one.sample = add_sample(scope, name, one.made, one.notes)
        one.phase = "kept"
        return
    name = check_name(name, "sample")
    made = list(one.made)

    def recipes() -> Iterator[tuple[str, Recipe]]:
        for number, before in enumerate(made):
            read = one.folder / f"read-{number}.db"
            before.file.replace(read)
            schema = with_real_decimals(before.made.schema)
            yield before.name, Recipe("database", schema, path=str(read))

    scope.runtime.import_jobs.make_all(
        one, recipes, made[0].summary, lambda done: add_sample(scope, name, done.made, one.notes)
    )


def export(
    scope: CourseScope, sample: str, dataset: str, format: ExportFormat, scratch: Path
) -> tuple[Path, str]:
    """Writes a sample or one of its datasets as a file; gives it with a name for it.

    Raises :class:`~jentrow.core.samples.exports.CannotExport`.
    """
    target = scratch / "export"
    name = sample
    match format:
        case "pack":
            files = scratch / "sample.zip"
            write_sample_files(scope, sample, files)
            write_pack(target, sample, {sample: files})
        case "csv":
            write_sample_files(scope, sample, target)
        case _:
            datasets = open_datasets(scope, sample)
            opened, *_ = datasets.values()
            if dataset not in datasets:
                known = ", ".join(datasets)
                raise UnusableInput(f"there is no dataset {dataset!r}; there are {known}.")
            name = sample if datasets[dataset] is opened else f"{sample}-{dataset}"
            scope.runtime.reading.look("export", datasets[dataset].folder, format, str(target), {})
    return target, name.replace(" ", "-") + ENDINGS[format]


def write_sample_files(scope: CourseScope, sample: str, target: Path) -> None:
    """Writes a sample as a ZIP of its schema, CSV files and notes; its rows are read in a reading worker.

    Raises :class:`~jentrow.core.samples.exports.CannotExport`.
    """
    opened, *others = open_datasets(scope, sample).items()
    held_back = {name: str(one.folder) for name, one in others}
    scope.runtime.reading.look("export", opened[1].folder, "csv", str(target), held_back)
    write_notes(target, notes_on(scope, sample))
