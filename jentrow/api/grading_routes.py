"""The routes about grading: where it stands, stopped and gone on with; events for the pages."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress

from fastapi.concurrency import run_in_threadpool
from sse_starlette import EventSourceResponse, ServerSentEvent

from jentrow.api import schemas
from jentrow.api.access import SignedIn, Teaching
from jentrow.api.routers import teaching_router
from jentrow.services.accounts.access import may_listen
from jentrow.services.accounts.sessions import Who
from jentrow.services.scope import CourseScope

router = teaching_router()

AT_MOST_EVERY = 0.2
"""Seconds between two events: a page that is told more often shows nothing more."""

LOOK_AGAIN_SECONDS = 15.0
"""How long a stream may go on unasked whether the sign-in that opened it still stands."""


@router.get("/grading")
def state(scope: Teaching) -> schemas.Grading:
    """Where the course's grading stands."""
    return _state(scope)


@router.post("/grading/pause")
def pause(scope: Teaching) -> schemas.Grading:
    """Stops the course's grading after what is in hand; what waits goes on waiting."""
    scope.runtime.queue.pause(scope.course_id)
    return _state(scope)


@router.post("/grading/resume")
def resume(scope: Teaching) -> schemas.Grading:
    """Goes on grading."""
    scope.runtime.queue.resume(scope.course_id)
    return _state(scope)


@router.get("/events", response_class=EventSourceResponse)
async def events(scope: Teaching, one: SignedIn) -> EventSourceResponse:
    """Events for the pages: ``grading`` with where the course's grading stands, now and when it changes."""
    return EventSourceResponse(_grading_events(scope, one), ping=15)


def _state(scope: CourseScope) -> schemas.Grading:
    return schemas.Grading.model_validate(scope.runtime.queue.state_of(scope.course_id))


async def _grading_events(scope: CourseScope, one: Who) -> AsyncIterator[ServerSentEvent]:
    told = ""
    async for _ in changes_for(scope, one):
        state = _state(scope).model_dump_json()
        if state != told:
            told = state
            yield ServerSentEvent(state, event="grading")


async def changes_for(scope: CourseScope, one: Who) -> AsyncIterator[None]:
    """Goes on now, and whenever the queue's state changes, until the sign-in that asks ends."""
    async with changes_of(scope) as changed:
        while True:
            with suppress(TimeoutError):
                await asyncio.wait_for(changed.wait(), LOOK_AGAIN_SECONDS)
            changed.clear()
            if not await run_in_threadpool(may_listen, scope, one):
                return
            yield
            await asyncio.sleep(AT_MOST_EVERY)


@asynccontextmanager
async def changes_of(scope: CourseScope) -> AsyncIterator[asyncio.Event]:
    """An event that is set now, and whenever the state of the queue changes."""
    loop = asyncio.get_running_loop()
    changed = asyncio.Event()
    changed.set()
    unsubscribe = scope.runtime.queue.subscribe(lambda: _wake(loop, changed))
    try:
        yield changed
    finally:
        unsubscribe()


def _wake(loop: asyncio.AbstractEventLoop, changed: asyncio.Event) -> None:
    if not loop.is_closed():
        loop.call_soon_threadsafe(changed.set)
