"""The routes of a learner's own pages: nothing here tells of anybody else, or of what is right."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator, Callable
from contextlib import suppress
from dataclasses import replace
from functools import partial
from typing import Annotated, Final, TypeVar

from anyio import CapacityLimiter, to_thread
from fastapi import Path, Query, Request
from sse_starlette import EventSourceResponse, ServerSentEvent

from jentrow.api import learning_schemas as schemas
from jentrow.api.access import Learning, Number, SignedIn, Slug
from jentrow.api.grading_routes import changes_for
from jentrow.api.marking_schemas import Asked, Asking
from jentrow.api.proof_schemas import Layout
from jentrow.api.query_schemas import RunName, Tried
from jentrow.api.routers import learning_router
from jentrow.api.step_schemas import StepQuery, StepRows, Trace
from jentrow.core.exercises.files.exercisefile import MOST_WORDS
from jentrow.core.shownrows import shown_cell
from jentrow.services.accounts.sessions import Who
from jentrow.services.learners import (
    comparisons,
    drafts,
    hand_ins,
    hints,
    pages,
    private_copies,
    runs,
    tidying,
)
from jentrow.services.learners.feedback import difference
from jentrow.services.learners.hand_ins import HandedIn
from jentrow.services.marking import questions
from jentrow.services.marking.feedback_pages import FeedbackPage
from jentrow.services.runtime.lanes import HURRIED, UNHURRIED, Lane, TakesLong
from jentrow.services.runtime.rate_limits import Pace
from jentrow.services.samples.tried_queries import HistoryLine
from jentrow.services.scope import LearnerScope

router = learning_router("/own")

Offset = Annotated[int, Query(ge=0, le=2**53)]
Limit = Annotated[int, Query(ge=0, le=500)]
_ONE = "/sheets/{sheet}/exercises/{slug}"


_SHORT: Final = CapacityLimiter(4)
_LONG: Final = CapacityLimiter(4)

T = TypeVar("T")


async def _as_a_run(pace: Pace, own: LearnerScope, work: Callable[[Lane], T]) -> T:
    """Does work that may last, in threads of its own: pages never wait for those.

    Raises :class:`TooOften`.
    """
    slow = own.runtime.slow_learners
    with pace.turn(own.learner_id):
        if not slow.are_runs_slow(own.learner_id):
            with suppress(TakesLong):
                return await to_thread.run_sync(work, HURRIED, limiter=_SHORT)
            slow.note_run(own.learner_id)
        return await to_thread.run_sync(work, UNHURRIED, limiter=_LONG)


@router.get("")
def own_course(own: Learning) -> schemas.OwnCourse:
    """The learner's sheets, and how far they are."""
    return schemas.OwnCourse.model_validate(pages.own_course(own))


@router.get(_ONE)
def own_exercise(sheet: Slug, slug: Slug, own: Learning) -> schemas.OwnExercise:
    """An exercise with its tables, the learner's attempts and draft."""
    return schemas.OwnExercise.model_validate(pages.own_exercise(own, sheet, slug))


@router.get(_ONE + "/tables/{table}/rows")
def own_rows(
    sheet: Slug, slug: Slug, table: str, own: Learning, offset: Offset = 0, limit: Limit = 100
) -> schemas.OwnRows:
    """Rows of a table of the open dataset."""
    _, page = pages.own_rows(own, sheet, slug, table, offset=offset, limit=limit)
    rows = [[shown_cell(value) for value in row.values] for row in page.rows]
    return schemas.OwnRows(total=page.total, offset=offset, rows=rows)


@router.put(_ONE + "/draft")
def keep_draft(sheet: Slug, slug: Slug, given: schemas.Text, own: Learning) -> schemas.Saved:
    """Keeps what is typed."""
    return schemas.Saved(saved_at=drafts.keep_draft(own, sheet, slug, given.sql))


@router.post(_ONE + "/runs", tags=["asks"])
async def run(sheet: Slug, slug: Slug, given: schemas.Text, own: Learning) -> Tried:
    """Runs a query on the open dataset, for trying."""
    work = partial(runs.run_query, own, sheet, slug, given.sql)
    ran = await _as_a_run(own.runtime.rates.runs, own, work)
    return Tried.model_validate(ran)


@router.get(_ONE + "/runs")
def earlier_runs(sheet: Slug, slug: Slug, own: Learning) -> list[HistoryLine]:
    """What the learner ran for an exercise, the last first."""
    return runs.earlier_runs(own, sheet, slug)


@router.post(_ONE + "/layout", tags=["asks"])
def tidy_text(sheet: Slug, slug: Slug, given: schemas.Text, own: Learning) -> Layout:
    """The learner's text as it could be laid out."""
    with own.runtime.rates.looks.turn(own.learner_id):
        return Layout.model_validate(tidying.tidy_text(own, sheet, slug, given.sql))


@router.post(_ONE + "/comparisons", tags=["asks"])
async def compare_own(
    sheet: Slug, slug: Slug, given: schemas.TwoTexts, own: Learning
) -> schemas.OwnComparison:
    """Two texts of the learner's own held against each other on the open dataset."""
    work = partial(comparisons.compare_own, own, sheet, slug, given.first, given.second)
    with own.runtime.rates.runs.turn(own.learner_id):
        found = await to_thread.run_sync(work, limiter=_LONG)
    return schemas.OwnComparison.model_validate(found)


@router.post(_ONE + "/trace", tags=["asks"])
async def trace_own(sheet: Slug, slug: Slug, given: schemas.Text, own: Learning) -> Trace:
    """Takes a query apart on the open dataset, its rows counted at each step."""
    work = partial(runs.trace_own, own, sheet, slug, given.sql, UNHURRIED)
    with own.runtime.rates.runs.turn(own.learner_id):
        found = await to_thread.run_sync(work, limiter=_LONG)
    return Trace.model_validate(found)


@router.post(_ONE + "/trace/rows", tags=["asks"])
async def own_step_rows(sheet: Slug, slug: Slug, given: StepQuery, own: Learning) -> StepRows:
    """The rows of a step."""
    work = partial(runs.own_step_rows, own, sheet, slug, given.asked(), UNHURRIED)
    with own.runtime.rates.looks.turn(own.learner_id):
        found = await to_thread.run_sync(work, limiter=_LONG)
    return StepRows.model_validate(found)


@router.put(_ONE + "/runs/{run_id}")
def name_run(sheet: Slug, slug: Slug, run_id: Number, given: RunName, own: Learning) -> HistoryLine:
    """Gives a run a name, by which it is kept."""
    return runs.name_run(own, sheet, slug, run_id, given.name)


@router.post(_ONE + "/submissions", status_code=201)
def hand_in(
    sheet: Slug, slug: Slug, given: schemas.ToHandIn, own: Learning, request: Request
) -> HandedIn:
    """Takes an answer; when this is answered, it is on the disk."""
    return hand_ins.hand_in(own, sheet, slug, given.sql, given.key, request.state.arrived)


@router.get("/submissions/{submission_id}")
async def own_feedback(
    submission_id: Annotated[int, Path(ge=1, le=2**53)], own: Learning
) -> schemas.FeedbackView:
    """What the learner may see of one of their attempts."""
    found, submission = await to_thread.run_sync(hand_ins.own_feedback, own, submission_id)
    if found.shows_rows:
        work = partial(difference, own, submission)
        found = replace(found, woven=await _as_a_run(own.runtime.rates.feedback, own, work))
    return schemas.FeedbackView.model_validate(found)


@router.get("/submissions/{submission_id}/hints/{strength}")
async def own_hint(
    submission_id: Annotated[int, Path(ge=1, le=2**53)], strength: hints.Strength, own: Learning
) -> schemas.Hint:
    """A hint of the one edit that would mend an attempt."""
    with own.runtime.rates.looks.turn(own.learner_id):
        found = await to_thread.run_sync(
            hints.own_hint, own, submission_id, strength, limiter=_LONG
        )
    return schemas.Hint.model_validate(found)


@router.get("/submissions/{submission_id}/words/{opened}")
async def own_words(
    submission_id: Annotated[int, Path(ge=1, le=2**53)],
    opened: Annotated[int, Path(ge=0, le=MOST_WORDS)],
    own: Learning,
) -> hints.TrialWords:
    """What the instructor wrote for answers that behave as an attempt does, the first ``opened``."""
    with own.runtime.rates.looks.turn(own.learner_id):
        return await to_thread.run_sync(hints.own_words, own, submission_id, opened, limiter=_LONG)


@router.get("/submissions/{submission_id}/example")
async def own_example(
    submission_id: Annotated[int, Path(ge=1, le=2**53)], own: Learning
) -> schemas.OwnExample:
    """The fewest made-up rows that were found on which an attempt is wrong."""
    with own.runtime.rates.looks.turn(own.learner_id):
        found = await to_thread.run_sync(hints.own_example, own, submission_id, limiter=_LONG)
    return schemas.OwnExample.model_validate({"example": found})


@router.post("/submissions/{submission_id}/example/runs", tags=["asks"])
async def run_on_example(
    submission_id: Annotated[int, Path(ge=1, le=2**53)], given: schemas.Text, own: Learning
) -> schemas.OwnExample:
    """Runs another text on the rows of an attempt's example."""
    with own.runtime.rates.runs.turn(own.learner_id):
        found = await to_thread.run_sync(
            hints.own_example, own, submission_id, given.sql, limiter=_LONG
        )
    return schemas.OwnExample.model_validate({"example": found})


@router.get("/marks/{sheet}")
def own_marks(sheet: Slug, own: Learning) -> FeedbackPage:
    """The learner's marks and comments on a sheet that is published."""
    return pages.own_marks(own, sheet)


@router.post("/questions", status_code=201)
def ask_about_mark(given: Asked, own: Learning) -> Asking:
    """Asks about a mark; the question stands at the desk until it is answered."""
    return Asking(id=questions.ask_about_mark(own, given.submission, given.text))


@router.get(_ONE + "/copy")
def private_copy(sheet: Slug, slug: Slug, own: Learning) -> schemas.PrivateCopy:
    """The tables of the learner's private copy, which is made where there is none yet."""
    return schemas.PrivateCopy.model_validate(private_copies.copy_view(own, sheet, slug))


@router.get(_ONE + "/copy/tables/{table}/rows")
def copy_rows(
    sheet: Slug, slug: Slug, table: str, own: Learning, offset: Offset = 0, limit: Limit = 100
) -> schemas.OwnRows:
    """Rows of a table of the private copy."""
    rows, total = private_copies.copy_rows(own, sheet, slug, table, offset=offset, limit=limit)
    return schemas.OwnRows(total=total, offset=offset, rows=rows)


@router.post(_ONE + "/copy/runs", tags=["asks"])
async def run_on_copy(
    sheet: Slug, slug: Slug, given: schemas.Text, own: Learning
) -> schemas.CopyRun:
    """Runs statements on the private copy, all of them or none."""
    work = partial(private_copies.run_on_copy, own, sheet, slug, given.sql)
    ran = await _as_a_run(own.runtime.rates.runs, own, work)
    return schemas.CopyRun.model_validate(ran)


@router.post(_ONE + "/copy/reset", tags=["asks"])
def reset_copy(sheet: Slug, slug: Slug, own: Learning) -> schemas.PrivateCopy:
    """Begins again with a new copy."""
    return schemas.PrivateCopy.model_validate(private_copies.reset_copy(own, sheet, slug))


@router.get("/events", response_class=EventSourceResponse)
async def events(own: Learning, one: SignedIn) -> EventSourceResponse:
    """Events for the learner's pages: ``news`` when something of theirs was graded."""
    return EventSourceResponse(_news(own, one), ping=15)


async def _news(own: LearnerScope, one: Who) -> AsyncIterator[ServerSentEvent]:
    told = None
    async for _ in changes_for(own, one):
        graded = own.runtime.queue.graded_of(own.learner_id)
        news = graded, own.runtime.queue.state_of(own.course_id).news_of_learners
        if news != told:
            told = news
            yield ServerSentEvent(json.dumps({"graded": graded}), event="news")
