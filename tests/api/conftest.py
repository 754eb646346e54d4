from __future__ import annotations

import json
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from jentrow.api.app import create_app
from jentrow.services.runtime.runtime import Runtime
from tests.demo_course import COURSE, PASSWORD, ROOT

SITE = "http://testserver"
LEARNER = "ada.nkemelu@example.org"
OTHER = "tomas.wieland@example.org"
NOON = datetime(2026, 11, 23, 12, tzinfo=UTC)
OPENAPI = json.loads((ROOT / "frontend" / "openapi.json").read_text("utf-8"))
"""The document of the routes as it is kept; the checks before the tests make it anew and compare."""

IN_A_COURSE = "/api/courses/{course}/"


def is_a_learner_s(path: str) -> bool:
    """Whether a route of a course is for its learners, and not for those who teach it."""
    return path.startswith(f"{IN_A_COURSE}own")


def person(app: FastAPI, login: str | None, course: str = COURSE) -> TestClient:
    """A browser on a course of a running server, signed in."""
    browser = TestClient(app, base_url=f"{SITE}/api/courses/{course}")
    if login:
        said = browser.post(f"{SITE}/api/sign-in", json={"login": login, "password": PASSWORD})
        assert said.status_code == 200, said.text
        browser.headers["X-Jentrow-Guard"] = said.json()["me"]["guard"]
    return browser


@contextmanager
def served(folder: Path, login: str | None = "instructor") -> Iterator[TestClient]:
    app = create_app(lambda: Runtime(folder, lambda: NOON))
    with TestClient(app):
        yield person(app, login)


@pytest.fixture(scope="session")
def client(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """An instructor's browser, on data that is not to be changed."""
    folder = shutil.copytree(demo_folder, tmp_path_factory.mktemp("api") / "data")
    with served(folder) as running:
        yield running


@pytest.fixture
def fresh(tmp_path: Path, demo_folder: Path) -> Iterator[TestClient]:
    """An instructor's browser, on demo data of its own, to be changed at will."""
    shutil.copytree(demo_folder, tmp_path / "data")
    with served(tmp_path / "data") as running:
        yield running
