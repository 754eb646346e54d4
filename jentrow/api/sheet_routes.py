"""The routes about exercise sheets."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Path

from jentrow.api import sheet_schemas as schemas
from jentrow.api.access import Teaching
from jentrow.api.exercise_schemas import MovedExercise
from jentrow.api.routers import teaching_router
from jentrow.services.exercises import engine_moves, sheets

router = teaching_router("/sheets")

Slug = Annotated[str, Path(max_length=200)]
EngineName = Annotated[str, Path(max_length=40)]


def _mapping(given: schemas.SheetContent) -> dict[str, Any]:
    out = given.model_dump()
    if out["late"]["rule"] != "reduce":
        out["late"].pop("percent_a_day")
    return out


@router.get("")
def list_of_sheets(scope: Teaching) -> list[schemas.Sheet]:
    """All sheets with their exercises, in their order."""
    return [schemas.Sheet.model_validate(sheet) for sheet in sheets.sheets(scope)]


@router.post("", status_code=201)
def new_sheet(given: schemas.SheetContent, scope: Teaching) -> schemas.Sheet:
    """Makes a sheet."""
    return schemas.Sheet.model_validate(sheets.new_sheet(scope, _mapping(given)))


@router.put("/{slug}")
def change_sheet(slug: Slug, given: schemas.SheetContent, scope: Teaching) -> schemas.Sheet:
    """Changes a sheet."""
    return schemas.Sheet.model_validate(sheets.change_sheet(scope, slug, _mapping(given)))


@router.get("/{slug}/engines/{engine}")
def look_at_move(slug: Slug, engine: EngineName, scope: Teaching) -> list[MovedExercise]:
    """Looks at the exercises of a sheet on another engine; nothing is kept."""
    found = engine_moves.moved_sheet(scope, slug, engine)
    return [MovedExercise.model_validate(one) for one in found]


@router.put("/{slug}/engines/{engine}")
def move(slug: Slug, engine: EngineName, scope: Teaching) -> list[MovedExercise]:
    """Moves those exercises of a sheet that hold on the other engine."""
    found = engine_moves.move_sheet(scope, slug, engine)
    return [MovedExercise.model_validate(one) for one in found]


@router.delete("/{slug}", status_code=204)
def delete_sheet(slug: Slug, scope: Teaching) -> None:
    """Deletes a sheet; its exercises stay."""
    sheets.delete_sheet(scope, slug)
