"""The application: routes, the one mapping of errors to HTTP, and the built front end."""

from __future__ import annotations

import logging
import math
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from pathlib import Path
from typing import Any, Final

from anyio import to_thread
from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from starlette.datastructures import Headers, MutableHeaders
from starlette.staticfiles import StaticFiles
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from jentrow import __version__
from jentrow.api.answer_routes import router as answers
from jentrow.api.course_routes import router as course
from jentrow.api.exercise_routes import router as exercises
from jentrow.api.grading_routes import router as grading
from jentrow.api.haste import Haste
from jentrow.api.import_routes import router as imports
from jentrow.api.intake import Intake
from jentrow.api.learning_routes import router as own
from jentrow.api.marking_routes import router as marking
from jentrow.api.marks_routes import router as marks
from jentrow.api.pack_routes import router as packs
from jentrow.api.query_routes import router as queries
from jentrow.api.refusals import status_of
from jentrow.api.routes import router
from jentrow.api.row_routes import router as rows
from jentrow.api.sample_routes import router as samples
from jentrow.api.sheet_routes import router as sheets
from jentrow.api.signin_routes import public
from jentrow.api.signin_routes import router as signing
from jentrow.core.errors import JentrowError
from jentrow.core.samples.rows.edits import RefusedEdit
from jentrow.services.errors import TooOften
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.runtime.settings import Settings, read_settings

WEB: Final = Path(__file__).resolve().parents[1] / "web"
THREADS: Final = 16
"""Requests that are worked on at once: with more, each waits longer for its turn at Python."""

_LOG: Final = logging.getLogger(__name__)

_HEADERS: Final = {
    "Content-Security-Policy": (
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; "
        "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
    ),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "same-origin",
}


class _Guard:
    """Refuses changes on behalf of other sites, and adds the headers that every answer carries.

    Written for ASGI itself: Starlette's middleware for functions does not tell a stream of events
    that its page has gone.
    """

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        if _is_from_elsewhere(scope):
            message = "A page of another site may not change anything here."
            await JSONResponse({"message": message}, status_code=403)(scope, receive, send)
            return

        # A deadline looks at when a request came, not at how long it waited for its turn.
        scope.setdefault("state", {})["arrived"] = scope["app"].state.runtime.now()

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers.setdefault(name, value)
                if scope["path"].startswith("/api/"):
                    headers.setdefault("Cache-Control", "no-store")
            await send(message)

        await self._app(scope, receive, send_with_headers)


class _Assets(StaticFiles):
    """The front end's files, whose names change with what they hold: a browser asks once for each."""

    def file_response(self, *parts: Any, **more: Any) -> Response:
        """A file, or that it has not changed."""
        response = super().file_response(*parts, **more)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def _is_from_elsewhere(scope: Scope) -> bool:
    """Whether a browser sends a change on behalf of a page that is not ours."""
    site = Headers(scope=scope).get("Sec-Fetch-Site", "none")
    return scope["method"] not in ("GET", "HEAD") and site not in ("same-origin", "none")


def create_app(open_runtime: Callable[[], Runtime], settings: Settings | None = None) -> FastAPI:
    """The application. ``open_runtime`` is called when it starts; the runtime is closed when it ends."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        app.state.runtime = open_runtime()
        app.state.runtime.queue.start()
        to_thread.current_default_thread_limiter().total_tokens = THREADS
        yield
        app.state.runtime.close()

    app = FastAPI(
        title="Jentrow",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    for routes in (
        public, signing, router, exercises, marking, marks, sheets, packs, samples, rows, queries, imports,
        answers, grading, course, own,
    ):  # fmt: skip
        app.router.routes.extend(routes.routes)

    _answer_problems(app)
    app.add_middleware(Haste)
    app.add_middleware(_Guard)
    app.add_middleware(Intake, settings=settings or read_settings())
    _serve_front_end(app)
    return app


def _answer_problems(app: FastAPI) -> None:
    """Every problem becomes an answer here, and nowhere else."""

    @app.exception_handler(RefusedEdit)
    def _say_where(_: Request, problem: RefusedEdit) -> Response:
        said = problem.refusal
        return JSONResponse(
            {
                "message": said.message,
                "edit": said.edit,
                "table": said.table,
                "column": said.column,
            },
            status_code=status_of(problem),
        )

    @app.exception_handler(RequestValidationError)
    def _say_what_does_not_fit(_: Request, problem: RequestValidationError) -> Response:
        said = [
            f"{'.'.join(str(part) for part in one['loc'][1:])}: {one['msg']}"
            for one in problem.errors()
        ]
        return JSONResponse({"message": "; ".join(said) + "."}, status_code=422)

    @app.exception_handler(TooOften)
    def _say_how_long(_: Request, problem: TooOften) -> Response:
        return JSONResponse(
            {"message": str(problem)},
            status_code=status_of(problem),
            headers={"Retry-After": str(math.ceil(problem.wait))},
        )

    @app.exception_handler(OSError)
    def _say_what_the_disk_says(_: Request, problem: OSError) -> Response:
        message = (
            f"The server's disk cannot be read or written now ({problem.strerror or problem}): "
            "nothing of this was kept, and all before it is safe. Tell the administrator, and "
            "try again."
        )
        _LOG.exception("the disk cannot be used", exc_info=problem)
        return JSONResponse({"message": message}, status_code=503)

    @app.exception_handler(JentrowError)
    def _say(_: Request, problem: JentrowError) -> Response:
        return JSONResponse({"message": str(problem)}, status_code=status_of(problem))


def _serve_front_end(app: FastAPI) -> None:
    if not (WEB / "index.html").exists():
        return
    app.mount("/assets", _Assets(directory=WEB / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def _page(path: str) -> Response:
        if path.startswith("api/"):
            return JSONResponse({"message": f"There is nothing at /{path}."}, status_code=404)
        with suppress(OSError, ValueError):  # a name that no file can have
            file = (WEB / path).resolve()
            if path and file.is_file() and file.is_relative_to(WEB):
                return FileResponse(file)
        return FileResponse(WEB / "index.html", headers={"Cache-Control": "no-cache"})
