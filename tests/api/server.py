"""A server in the tests' own process, and the browsers of people on it."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from fastapi import FastAPI
from fastapi.testclient import TestClient

from jentrow.api.app import create_app
from jentrow.services.runtime.runtime import Runtime
from tests.demo_course import COURSE, PASSWORD

SITE = "http://testserver"
LEARNER = "ada.nkemelu@example.org"
OTHER = "tomas.wieland@example.org"
NOON = datetime(2026, 11, 23, 12, tzinfo=UTC)


@contextmanager
def running(app: FastAPI) -> Iterator[TestClient]:
    """A server, for the time of the context."""
    with TestClient(app) as server:
        # Everybody is answered in the server's one event loop; each client begins one for each request.
        app.state.portal = server.portal
        yield server


@contextmanager
def served(folder: Path, login: str | None = "instructor") -> Iterator[TestClient]:
    app = create_app(lambda: Runtime(folder, lambda: NOON))
    with running(app):
        yield person(app, login)


def person(app: FastAPI, login: str | None, course: str = COURSE) -> TestClient:
    """A browser on a course of a running server, signed in."""
    browser = TestClient(app, base_url=f"{SITE}/api/courses/{course}")
    browser.portal = app.state.portal
    if login:
        said = browser.post(f"{SITE}/api/sign-in", json={"login": login, "password": PASSWORD})
        assert said.status_code == 200, said.text
        browser.headers["X-Jentrow-Guard"] = said.json()["me"]["guard"]
    return browser


def app_of(client: TestClient) -> FastAPI:
    app = client.app
    assert isinstance(app, FastAPI)
    return app


def runtime_of(client: TestClient) -> Runtime:
    runtime: Runtime = app_of(client).state.runtime
    return runtime
