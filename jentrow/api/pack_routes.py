"""The routes about packs: looking at one that was handed in, taking it in, writing one."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from jentrow.api import pack_schemas as schemas
from jentrow.api.access import Teaching
from jentrow.api.import_routes import ImportId, import_view
from jentrow.api.routers import teaching_router
from jentrow.api.sample_routes import held
from jentrow.core.slugs import plain_name
from jentrow.services.packs import pack_export, pack_import
from jentrow.services.runtime.import_jobs import Import
from jentrow.services.runtime.sample_storage import scratch_folder

router = teaching_router("/packs")


def _view(one: Import) -> schemas.PackImport:
    preview = schemas.PackPreview.model_validate(one.pack.preview) if one.pack else None
    return schemas.PackImport(state=import_view(one), preview=preview)


@router.get("/export", response_class=FileResponse)
def export(scope: Teaching, exercise: Annotated[list[str] | None, Query()] = None) -> FileResponse:
    """Exercises with their samples and sheets as a pack in a ZIP: those named, or all."""
    sent = held(scratch_folder(scope.runtime.folder))
    folder = next(sent)
    try:
        title = pack_export.export(scope, folder / "pack.zip", exercise or ())
    except BaseException:
        sent.close()
        raise
    return FileResponse(
        folder / "pack.zip",
        filename=plain_name(title, (), "pack") + ".zip",
        background=BackgroundTask(sent.close),
    )


@router.get("/{import_id}")
def state(import_id: ImportId, scope: Teaching) -> schemas.PackImport:
    """Where an import of a pack stands."""
    return _view(scope.runtime.import_jobs.get(import_id, scope.owner))


@router.post("/{import_id}/look", status_code=202)
def look(import_id: ImportId, scope: Teaching) -> schemas.PackImport:
    """Looks at a pack in the background: what is new, changed, in conflict."""
    one = scope.runtime.import_jobs.get(import_id, scope.owner)
    pack_import.look(scope, one)
    return _view(one)


@router.post("/{import_id}/take", status_code=202)
def take(import_id: ImportId, given: schemas.PackChoices, scope: Teaching) -> schemas.PackImport:
    """Takes a pack in as chosen, in the background: all of it or nothing."""
    one = scope.runtime.import_jobs.get(import_id, scope.owner)
    pack_import.take(scope, one, pack_import.PackChoices(**given.model_dump()))
    return _view(one)
