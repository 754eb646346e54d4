"""The routes about imports: handing files in, correcting what is proposed, making a sample."""

from __future__ import annotations

from typing import Annotated

from fastapi import Path, Request
from starlette.concurrency import run_in_threadpool

from jentrow.api import making_schemas
from jentrow.api import sample_schemas as schemas
from jentrow.api.access import Teaching
from jentrow.api.routers import teaching_router
from jentrow.api.sample_routes import planned_table
from jentrow.core.errors import UnusableInput
from jentrow.core.samples.csvfiles import CSVFormat
from jentrow.core.samples.rows.reading_room import TableCount
from jentrow.core.samples.schema.decimals import decimal_columns
from jentrow.services.runtime.import_jobs import Import
from jentrow.services.runtime.sample_storage import notes_of
from jentrow.services.samples import new_samples

router = teaching_router("/imports")

ImportId = Annotated[str, Path(max_length=64)]


def import_view(one: Import) -> making_schemas.Import:
    """An import as the pages show it."""
    return making_schemas.Import(
        id=one.id,
        phase=one.phase,
        kind=one.kind,
        files=one.files,
        dialect=one.dialect,
        done=one.done,
        total=one.total,
        tables=[
            making_schemas.ProposedTable.model_validate(table)
            for table in (one.proposal.tables if one.proposal else ())
        ],
        made=[
            making_schemas.MadeDataset(
                name=made.name,
                tables=[TableCount(name=name, rows=rows) for name, rows in made.made.table_rows],
                notes=[schemas.Note(**note) for note in notes_of(made.made)],
            )
            for made in one.made
        ],
        problems=[making_schemas.MakingProblem.model_validate(problem) for problem in one.problems],
        problem_count=one.problem_count,
        sample=one.sample,
        decimals=decimal_columns(one.made[0].made.schema) if one.made else [],
    )


@router.post("", status_code=201)
def begin(scope: Teaching) -> making_schemas.Import:
    """Begins an import; files are handed in next."""
    return import_view(scope.runtime.import_jobs.begin(scope.owner))


@router.get("/{import_id}")
def state(import_id: ImportId, scope: Teaching) -> making_schemas.Import:
    """Where an import stands."""
    return import_view(scope.runtime.import_jobs.get(import_id, scope.owner))


@router.put(
    "/{import_id}/files/{name}",
    openapi_extra={
        "requestBody": {
            "content": {"application/octet-stream": {"schema": {"type": "string"}}},
            "required": True,
        }
    },
)
async def hand_in(
    import_id: ImportId, name: str, request: Request, scope: Teaching
) -> making_schemas.Import:
    """Takes a file: its bytes are the body. It goes to the disk as it comes."""
    one = scope.runtime.import_jobs.get(import_id, scope.owner)
    path = scope.runtime.import_jobs.place_for(one, name)
    size = 0
    with path.open("wb") as out:
        async for part in request.stream():
            size += len(part)
            if size > scope.runtime.import_jobs.largest_file:
                break
            await run_in_threadpool(out.write, part)
    if size > scope.runtime.import_jobs.largest_file:
        path.unlink()
        raise UnusableInput(
            f"{name}: larger than {scope.runtime.import_jobs.largest_file >> 20} MB."
        )
    await run_in_threadpool(scope.runtime.import_jobs.add, one, name)
    return import_view(one)


@router.post("/{import_id}/look", status_code=202)
def look(import_id: ImportId, given: making_schemas.Look, scope: Teaching) -> making_schemas.Import:
    """Looks at the files in the background: proposes tables, or reads what needs no questions."""
    one = scope.runtime.import_jobs.get(import_id, scope.owner)
    formats = {name: CSVFormat(**format.model_dump()) for name, format in given.formats.items()}
    scope.runtime.import_jobs.look(one, formats, given.dialect)
    return import_view(one)


@router.post("/{import_id}/make", status_code=202)
def make(import_id: ImportId, given: making_schemas.Plan, scope: Teaching) -> making_schemas.Import:
    """Makes the sample of corrected tables in the background, or keeps what was read."""
    one = scope.runtime.import_jobs.get(import_id, scope.owner)
    planned = [planned_table(table) for table in given.tables or ()]
    if given.tables is None:
        new_samples.keep_import(scope, one, given.name, real_decimals=given.real_decimals)
    elif given.of_sample:
        new_samples.make_changed(
            scope, one, given.of_sample, given.name, planned, in_place=given.in_place
        )
    else:
        new_samples.make_planned(scope, one, given.name, planned)
    return import_view(one)


@router.post("/{import_id}/stop")
def stop(import_id: ImportId, scope: Teaching) -> making_schemas.Import:
    """Stops the work that is going on; the files stay."""
    one = scope.runtime.import_jobs.get(import_id, scope.owner)
    scope.runtime.import_jobs.stop(one)
    return import_view(one)


@router.delete("/{import_id}", status_code=204)
def end(import_id: ImportId, scope: Teaching) -> None:
    """Ends an import and removes what is left of it."""
    scope.runtime.import_jobs.end(scope.runtime.import_jobs.get(import_id, scope.owner))
