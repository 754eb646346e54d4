"""What comes in is bounded: how large a request may be, and how long it may take to arrive."""

from __future__ import annotations

import asyncio
import re
from contextlib import suppress
from typing import Final

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from uvicorn.protocols.http.h11_impl import H11Protocol

from jentrow.services.runtime.settings import Settings

_UPLOAD: Final = re.compile(r"/api/courses/[^/]+/imports/[^/]+/files/[^/]+")
HEAD_SECONDS: Final = 20.0
"""How long the head of a request may take to arrive."""
LONGEST_PATH: Final = 2_000


class NotTakenIn(Exception):
    """Raised to the application when no more of a request is taken; its answer is made here."""


class Intake:
    """Refuses requests that are too large, and ends those that do not go on."""

    def __init__(self, app: ASGIApp, settings: Settings) -> None:
        self._app = app
        self._settings = settings

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """One request."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        upload = _UPLOAD.fullmatch(scope["path"])
        most = self._settings.upload_mb << 20 if upload else self._settings.body_kb << 10
        if len(scope["path"]) > LONGEST_PATH or "\0" in scope["path"]:
            await _say(404, "There is nothing at this address.")(scope, receive, send)
            return
        declared = Headers(scope=scope).get("Content-Length", "0")
        if not declared.isdigit() or int(declared) > most:
            await self._refuse(most)(scope, receive, send)
            return
        size, begun, whole = 0, False, False
        answer: JSONResponse | None = None

        async def bounded() -> Message:
            nonlocal size, whole, answer
            if whole:  # what comes now is that the page has gone
                return await receive()
            try:
                async with asyncio.timeout(self._settings.request_seconds):
                    message = await receive()
            except TimeoutError as problem:
                answer = _say(408, "The rest of the request did not come: send it again.")
                raise NotTakenIn from problem
            size += len(message.get("body", b""))
            whole = not message.get("more_body", False)
            if size > most:
                answer = self._refuse(most)
                raise NotTakenIn
            return message

        async def noted(message: Message) -> None:
            nonlocal begun
            # Whatever the application makes of it, this is what is said.
            if answer is None or begun:
                begun = True
                await send(message)

        with suppress(NotTakenIn):
            await self._app(scope, bounded, noted)
        if answer is not None and not begun:
            await answer(scope, receive, send)

    def _refuse(self, most: int) -> JSONResponse:
        return _say(413, f"This is larger than the {most >> 10:,} KiB that are taken here.")


def _say(status: int, message: str) -> JSONResponse:
    return JSONResponse({"message": message}, status_code=status, headers={"Connection": "close"})


class PatientProtocol(H11Protocol):
    """HTTP as uvicorn speaks it, but a connection on which no request arrives is closed."""

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """A browser, or somebody, has connected."""
        super().connection_made(transport)
        self.loop.call_later(HEAD_SECONDS, self._end_if_idle)

    def _end_if_idle(self) -> None:
        if getattr(self, "cycle", None) is None and not self.transport.is_closing():
            self.transport.close()
