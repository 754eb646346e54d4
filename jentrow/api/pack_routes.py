"""The routes about packs: looking at one that was handed in, taking it in, writing one."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from jentrow.api import exercise_schemas as schemas
from jentrow.api.access import OpenDesk
from jentrow.api.import_routes import ImportId, import_view
from jentrow.api.sample_routes import held
from jentrow.services import packing
from jentrow.services.imports import Import
from jentrow.services.keeping import scratch_folder
from jentrow.services.slugs import plain_name

router = APIRouter(prefix="/packs")


def _view(one: Import) -> schemas.PackImport:
    preview = schemas.PackPreview.model_validate(one.pack.preview) if one.pack else None
    return schemas.PackImport(state=import_view(one), preview=preview)


@router.get("/export", response_class=FileResponse)
def export(desk: OpenDesk, exercise: Annotated[list[str] | None, Query()] = None) -> FileResponse:
    """Exercises with their samples and sheets as a pack in a ZIP: those named, or all."""
    sent = held(scratch_folder(desk.folder))
    folder = next(sent)
    try:
        title = packing.export(desk, folder / "pack.zip", exercise or ())
    except BaseException:
        sent.close()
        raise
    return FileResponse(
        folder / "pack.zip",
        filename=plain_name(title, (), "pack") + ".zip",
        background=BackgroundTask(sent.close),
    )


@router.get("/{import_id}")
def state(import_id: ImportId, desk: OpenDesk) -> schemas.PackImport:
    """Where an import of a pack stands."""
    return _view(desk.imports.get(import_id, desk.owner))


@router.post("/{import_id}/look", status_code=202)
def look(import_id: ImportId, desk: OpenDesk) -> schemas.PackImport:
    """Looks at a pack in the background: what is new, changed, in conflict."""
    one = desk.imports.get(import_id, desk.owner)
    packing.look(desk, one)
    return _view(one)


@router.post("/{import_id}/take", status_code=202)
def take(import_id: ImportId, given: schemas.PackChoices, desk: OpenDesk) -> schemas.PackImport:
    """Takes a pack in as chosen, in the background: all of it or nothing."""
    one = desk.imports.get(import_id, desk.owner)
    packing.take(desk, one, packing.PackChoices(**given.model_dump()))
    return _view(one)
