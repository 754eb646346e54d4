"""Every route, asked anything: no fault of the server, no status or shape that is not documented."""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import requests
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from schemathesis.checks import CheckFunction
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from jentrow.api.app import create_app
from jentrow.services.runtime.runtime import Runtime
from tests.api.routes import IN_A_COURSE, OPENAPI, is_a_learner_s
from tests.api.server import LEARNER, NOON
from tests.demo_course import COURSE, PASSWORD
from tests.serving import listening

LEFT_OUT = ("/events", "/sign-out", "/sign-out-everywhere", "/password")
"""Streams that do not end, and what would sign us out."""

SLOW = ("/export", "/sign-in", "/needs/trials", "/queries/engines")
"""What writes whole archives, takes a password's digest, or runs a query on every engine."""

KNOWN = {
    "course": [COURSE],
    "slug": ["01-high-huts", "08-busy-huts", "1-choosing-rows"],
    "sheet": ["1-choosing-rows", "2-groups-order-sets"],
    "sample": ["huts", "gauges"],
    "dataset": ["open"],
    "table": ["huts", "stations"],
}
"""Names that there are: without them nearly every question ends at the door."""

CHECKS: list[CheckFunction] = [
    schemathesis.checks.not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
]


@pytest.fixture(scope="module")
def address(tmp_path_factory: pytest.TempPathFactory, demo_folder: Path) -> Iterator[str]:
    folder = tmp_path_factory.mktemp("contract") / "data"
    shutil.copytree(demo_folder, folder)
    app = create_app(lambda: Runtime(folder, lambda: NOON))
    with listening(app, log_level="critical") as place:
        yield f"http://127.0.0.1:{place[1]}"


SESSIONS: dict[tuple[str, str], requests.Session] = {}
"""Those that signed in: a password's digest is slow on purpose."""


def signed_in(address: str, login: str) -> requests.Session:
    if known := SESSIONS.get((address, login)):
        return known
    SESSIONS[address, login] = browser = requests.Session()
    said = browser.post(f"{address}/api/sign-in", json={"login": login, "password": PASSWORD})
    assert said.status_code == 200, said.text
    browser.headers["X-Jentrow-Guard"] = said.json()["me"]["guard"]
    return browser


SCHEMA = schemathesis.openapi.from_dict(OPENAPI)
OPERATIONS = [
    found
    for result in SCHEMA.get_all_operations()
    if not (found := result.ok()).path.endswith(LEFT_OUT)
]


def is_let_in(login: str, path: str) -> bool:
    """Whether a route of a course is this person's: whoever is stopped at its door is test_access's."""
    return not path.startswith(IN_A_COURSE) or is_a_learner_s(path) == (login == LEARNER)


@pytest.mark.parametrize(
    ("operation", "login"),
    [
        pytest.param(one, login, id=f"{one.method} {one.path}-{login}")
        for one in OPERATIONS
        for login in ("instructor", LEARNER)
        if is_let_in(login, one.path)
    ],
)
def test_every_route(address: str, operation: Any, login: str) -> None:
    browser = signed_in(address, login)

    @settings(
        max_examples=1 if operation.path.endswith(SLOW) else settings.default.max_examples // 20,
        deadline=None,
        derandomize=settings.default.derandomize,
        database=None,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(case=operation.as_strategy())
    def ask(case: Any) -> None:
        for at, (name, known) in enumerate(KNOWN.items()):
            if name in case.path_parameters:
                size = len(json.dumps(case.path_parameters, default=str)) + at
                case.path_parameters[name] = known[size % len(known)]
        response = case.call(base_url=address, session=browser, timeout=120)
        case.validate_response(response, checks=CHECKS)

    ask()
    still = browser.get(f"{address}/api/me", timeout=120)
    assert still.status_code == 200
    if not still.json()["me"]:  # what was asked has signed it out
        del SESSIONS[address, login]
