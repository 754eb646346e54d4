"""The routes of the exercise bench: writing, versions, and the proof that an exercise works."""

from __future__ import annotations

from typing import Annotated, Any, Final

from fastapi import Path

from jentrow.api import exercise_schemas as schemas
from jentrow.api import proof_schemas, step_schemas
from jentrow.api.access import Number, Teaching
from jentrow.api.routers import teaching_router
from jentrow.api.row_schemas import Refused
from jentrow.api.schemas import Problem
from jentrow.core.sql.constructs import CONSTRUCTS
from jentrow.services.exercises import (
    blind_spots,
    catalogue,
    drafts,
    engine_moves,
    proof,
    version_history,
)
from jentrow.services.exercises.blind_spots import MeasuredView
from jentrow.services.exercises.examples import MadeTable
from jentrow.services.exercises.overview import exercise_view
from jentrow.services.exercises.version_history import FileDifference, VersionLine
from jentrow.services.samples import steps

router = teaching_router()

Slug = Annotated[str, Path(max_length=200)]
EngineName = Annotated[str, Path(max_length=40)]
_ONE = "/exercises/{slug}"


@router.get("/constructs")
def constructs() -> list[schemas.ConstructWords]:
    """The closed list of constructs that can be asked for or forbidden."""
    return [
        schemas.ConstructWords(id=id, words=one.words, named=one.named)
        for id, one in CONSTRUCTS.items()
    ]


@router.post("/exercises", status_code=201)
def new_exercise(given: schemas.NewExercise, scope: Teaching) -> schemas.Slug:
    """Begins an exercise."""
    return schemas.Slug(slug=catalogue.new_exercise(scope, given.title, given.sample))


@router.get(_ONE)
def exercise(slug: Slug, scope: Teaching) -> schemas.Exercise:
    """An exercise with its draft and the answers to it."""
    return schemas.Exercise.model_validate(exercise_view(scope, slug))


@router.put(_ONE)
def keep(slug: Slug, content: schemas.Content, scope: Teaching) -> schemas.Kept:
    """Keeps a content as the next version; every problem is named where it cannot be."""
    return schemas.Kept(version=version_history.keep(scope, slug, content.to_mapping()))


@router.delete(_ONE, status_code=204)
def delete(slug: Slug, scope: Teaching, with_answers: bool = False) -> None:
    """Deletes an exercise, and the answers to it only where that is asked for."""
    catalogue.delete_exercise(scope, slug, with_answers=with_answers)


@router.post(_ONE + "/copies", status_code=201)
def copy(slug: Slug, given: schemas.NewTitle, scope: Teaching) -> schemas.Slug:
    """Begins another exercise with the same content."""
    return schemas.Slug(slug=catalogue.copy_exercise(scope, slug, given.title))


@router.put(_ONE + "/draft")
def keep_draft(slug: Slug, content: schemas.Content, scope: Teaching) -> schemas.Drafted:
    """Keeps what is typed, whatever is wrong with it."""
    return schemas.Drafted(drafted_at=drafts.keep_draft(scope, slug, content.to_mapping()))


@router.delete(_ONE + "/draft", status_code=204)
def drop_draft(slug: Slug, scope: Teaching) -> None:
    """Forgets the draft."""
    drafts.drop_draft(scope, slug)


@router.get(_ONE + "/versions")
def versions(slug: Slug, scope: Teaching) -> list[VersionLine]:
    """The versions of an exercise, the last first."""
    return version_history.versions(scope, slug)


@router.get(_ONE + "/versions/comparison")
def compare_versions(
    slug: Slug, older: Number, newer: Number, scope: Teaching
) -> list[FileDifference]:
    """What differs between two versions."""
    return version_history.compare_versions(scope, slug, older, newer)


@router.post(_ONE + "/versions/{number}/restore")
def restore(slug: Slug, number: Number, scope: Teaching) -> schemas.Kept:
    """Makes an old version the next one."""
    return schemas.Kept(version=version_history.restore(scope, slug, number))


@router.post(_ONE + "/proof", tags=["asks"])
def prove(slug: Slug, content: schemas.Content, scope: Teaching) -> proof_schemas.Proof:
    """Looks at a content that need not be kept: problems, reference answer, alternatives."""
    return proof_schemas.Proof.model_validate(proof.prove(scope, slug, content.to_mapping()))


@router.post(_ONE + "/proof/trials", tags=["asks"])
def prove_trials(slug: Slug, content: schemas.Content, scope: Teaching) -> proof_schemas.Trials:
    """Runs the trials of a content, and looks for what there is to know."""
    return proof_schemas.Trials.model_validate(
        proof.prove_trials(scope, slug, content.to_mapping())
    )


@router.post(_ONE + "/proof/answers", tags=["asks"])
def prove_answers(slug: Slug, content: schemas.Content, scope: Teaching) -> proof_schemas.Changes:
    """Which submissions would come out otherwise under a content."""
    return proof_schemas.Changes.model_validate(
        proof.prove_answers(scope, slug, content.to_mapping())
    )


@router.post(_ONE + "/proof/answer", tags=["asks"])
def judge(slug: Slug, given: proof_schemas.ToJudge, scope: Teaching) -> proof_schemas.Judged:
    """Holds one query against a content."""
    found = proof.judge(
        scope,
        slug,
        given.content.to_mapping(),
        given.sql,
        dataset=given.dataset,
        alone=given.alone,
    )
    return proof_schemas.Judged.model_validate(found)


@router.post(_ONE + "/engines/{engine}", tags=["asks"])
def move(
    slug: Slug, engine: EngineName, content: schemas.Content, scope: Teaching
) -> schemas.MovedExercise:
    """Looks at a content on another engine: translated, run on both, nothing kept."""
    found = engine_moves.moved_exercise(scope, slug, content.to_mapping(), engine)
    return schemas.MovedExercise.model_validate(found)


@router.get(_ONE + "/sight")
def sight_of_kept(slug: Slug, scope: Teaching) -> proof_schemas.Sight:
    """What the datasets of an exercise as it is kept tell apart, and its blind spots."""
    return proof_schemas.Sight.model_validate(blind_spots.sight_of_kept(scope, slug))


@router.post(_ONE + "/proof/sight", tags=["asks"])
def sight(slug: Slug, content: schemas.Content, scope: Teaching) -> proof_schemas.Sight:
    """The same of a content that need not be kept."""
    return proof_schemas.Sight.model_validate(blind_spots.sight(scope, slug, content.to_mapping()))


@router.post(_ONE + "/proof/rows", tags=["asks"])
def spot_rows(slug: Slug, given: proof_schemas.ToShow, scope: Teaching) -> proof_schemas.Spot:
    """The fewest rows that were found which tell a query from the reference answer."""
    found = blind_spots.spot_rows(scope, slug, given.content.to_mapping(), given.sql)
    return proof_schemas.Spot.model_validate(found)


@router.post(_ONE + "/proof/datasets", tags=["asks"])
def made_to_measure(slug: Slug, content: schemas.Content, scope: Teaching) -> MeasuredView:
    """A few small datasets that together see every likely mistake that can be seen."""
    return blind_spots.made_to_measure(scope, slug, content.to_mapping())


@router.post("/samples/{sample}/made-rows", status_code=201)
def take_in(sample: str, given: proof_schemas.ToTakeIn, scope: Teaching) -> proof_schemas.TakenIn:
    """Puts made-up rows into the open dataset, or into held-back ones of their own."""
    datasets = [
        [MadeTable(one.table, one.columns, one.rows) for one in dataset]
        for dataset in given.datasets
    ]
    names = blind_spots.take_in(scope, sample, datasets, given.into, given.name)
    return proof_schemas.TakenIn(names=names)


_DATASET = "/samples/{sample}/datasets/{dataset}"
_REFUSED_ROW: Final[dict[int | str, dict[str, Any]]] = {422: {"model": Refused | Problem}}


@router.post(_DATASET + "/trace", tags=["asks"], responses=_REFUSED_ROW)
def trace(
    sample: str, dataset: str, given: step_schemas.TraceQuery, scope: Teaching
) -> step_schemas.Trace:
    """Takes a query apart on a dataset, its rows counted at each step."""
    return step_schemas.Trace.model_validate(
        steps.trace(scope, given.stage(sample, dataset), given.sql)
    )


@router.post(_DATASET + "/trace/rows", tags=["asks"], responses=_REFUSED_ROW)
def step_rows(
    sample: str, dataset: str, given: step_schemas.StepQueryOn, scope: Teaching
) -> step_schemas.StepRows:
    """The rows of a step."""
    found = steps.step_rows(scope, given.stage(sample, dataset), given.asked())
    return step_schemas.StepRows.model_validate(found)
