"""Whoever was told how long to wait, and does not, is told so again without being asked who it is.

Finding out who asks, and for which exercise, takes the server many times as long: a page, or a
script, that asks on and on would take that from everybody else.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from http.cookies import CookieError, SimpleCookie
from typing import Final, TypeAlias

from cachetools import TLRUCache
from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jentrow.api.access import COOKIE
from jentrow.core.words import counted

REMEMBERED: Final = 10_000

_Asked: TypeAlias = tuple[str, str, str]
"""The token of a browser, and what it asked: the method, and the path."""


class Haste:
    """Answers in place of the application until the wait is over that it gave."""

    def __init__(self, app: ASGIApp, clock: Callable[[], float] = time.monotonic) -> None:
        """``clock`` gives seconds."""
        self._app = app
        self._clock = clock
        self._until: TLRUCache[_Asked, float] = TLRUCache(
            REMEMBERED, ttu=lambda _, until, now: until, timer=clock
        )

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        # Signing in has a throttle of its own, by the name that is given.
        is_work = scope["type"] == "http" and scope["path"].startswith("/api/courses/")
        token = _token(scope) if is_work else ""
        if not token:
            await self._app(scope, receive, send)
            return
        asked = (token, scope["method"], scope["path"])
        until = self._until.get(asked)
        if until is not None:
            await _read_on(receive)
            await _told(until - self._clock())(scope, receive, send)
            return

        async def noted(message: Message) -> None:
            if message["type"] == "http.response.start" and message["status"] == 429:
                wait = int(Headers(raw=message["headers"]).get("Retry-After", "0"))
                if wait > 1:  # less is said of what is still at work, and may be done at any moment
                    self._until[asked] = self._clock() + wait
            await send(message)

        await self._app(scope, receive, noted)


def _token(scope: Scope) -> str:
    """The token of a browser that is signed in, as it says; empty where it says nothing."""
    try:
        cookie = SimpleCookie(Headers(scope=scope).get("Cookie", "")).get(COOKIE)
    except CookieError:
        return ""
    return cookie.value if cookie else ""


async def _read_on(receive: Receive) -> None:
    """Takes in the rest of a request, so that its connection can be used again."""
    while (await receive()).get("more_body", False):
        pass


def _told(seconds: float) -> JSONResponse:
    wait = max(1, math.ceil(seconds))
    message = f"That was too often within a minute: wait {counted(wait, 'second')}."
    return JSONResponse({"message": message}, status_code=429, headers={"Retry-After": str(wait)})
