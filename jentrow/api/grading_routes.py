"""The routes about grading: where it stands, stopped and gone on with; events for the pages."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager, suppress

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool
from sse_starlette import EventSourceResponse, ServerSentEvent

from jentrow.api import schemas
from jentrow.api.access import OpenDesk, SignedIn
from jentrow.services.access import may_listen
from jentrow.services.desk import Desk
from jentrow.services.signin import Who

router = APIRouter()

AT_MOST_EVERY = 0.2
"""Seconds between two events: a page that is told more often shows nothing more."""

LOOK_AGAIN_SECONDS = 15.0
"""How long a stream may go on unasked whether the sign-in that opened it still stands."""


@router.get("/grading")
def state(desk: OpenDesk) -> schemas.Grading:
    """Where the course's grading stands."""
    return _state(desk)


@router.post("/grading/pause")
def pause(desk: OpenDesk) -> schemas.Grading:
    """Stops the course's grading after what is in hand; what waits goes on waiting."""
    desk.queue.pause(desk.course_id)
    return _state(desk)


@router.post("/grading/resume")
def resume(desk: OpenDesk) -> schemas.Grading:
    """Goes on grading."""
    desk.queue.resume(desk.course_id)
    return _state(desk)


@router.get("/events", response_class=EventSourceResponse)
async def events(desk: OpenDesk, one: SignedIn) -> EventSourceResponse:
    """Events for the pages: ``grading`` with where the course's grading stands, now and when it changes."""
    return EventSourceResponse(_grading_events(desk, one), ping=15)


def _state(desk: Desk) -> schemas.Grading:
    return schemas.Grading.model_validate(desk.queue.state_of(desk.course_id))


async def _grading_events(desk: Desk, one: Who) -> AsyncIterator[ServerSentEvent]:
    told = ""
    async for _ in changes_for(desk, one):
        state = _state(desk).model_dump_json()
        if state != told:
            told = state
            yield ServerSentEvent(state, event="grading")


async def changes_for(desk: Desk, one: Who) -> AsyncIterator[None]:
    """Goes on now, and whenever the queue's state changes, until the sign-in that asks ends."""
    async with changes_of(desk) as changed:
        while True:
            with suppress(TimeoutError):
                await asyncio.wait_for(changed.wait(), LOOK_AGAIN_SECONDS)
            changed.clear()
            if not await run_in_threadpool(may_listen, desk, one):
                return
            yield
            await asyncio.sleep(AT_MOST_EVERY)


@asynccontextmanager
async def changes_of(desk: Desk) -> AsyncIterator[asyncio.Event]:
    """An event that is set now, and whenever the state of the queue changes."""
    loop = asyncio.get_running_loop()
    changed = asyncio.Event()
    changed.set()
    unsubscribe = desk.queue.subscribe(lambda: _wake(loop, changed))
    try:
        yield changed
    finally:
        unsubscribe()


def _wake(loop: asyncio.AbstractEventLoop, changed: asyncio.Event) -> None:
    if not loop.is_closed():
        loop.call_soon_threadsafe(changed.set)
