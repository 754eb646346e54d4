"""What comes in is bounded, and nobody's requests hold up anybody else's."""

from __future__ import annotations

import asyncio
import json
import re
import shutil
import socket
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jentrow.api import intake
from jentrow.api.app import create_app
from jentrow.api.intake import PatientProtocol
from jentrow.core.engines.limits import Limits
from jentrow.core.errors import UnusableInput
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.runtime.settings import Settings, read_settings
from tests.api.server import LEARNER, SITE, app_of, person, runtime_of
from tests.api.test_exercises import content_of, got
from tests.api.test_grading import HUTS
from tests.demo_course import PASSWORD
from tests.serving import listening


def test_a_body_has_a_size(client: TestClient) -> None:
    url = HUTS + "/draft"
    answer = client.put(url, json={"prompt": "x" * 5_000_000})
    assert (answer.status_code, "KiB" in answer.json()["message"]) == (413, True)

    def parts() -> Iterator[bytes]:
        yield b'{"prompt": "'
        for _ in range(80):
            yield b"x" * 65_536
        yield b'"}'

    unsaid = client.put(url, content=parts(), headers={"Content-Type": "application/json"})
    assert (unsaid.status_code, "KiB" in unsaid.json()["message"]) == (413, True)


@pytest.mark.parametrize(
    "path",
    ["/%00", "/" + "a" * 1_000, "/" + "a" * 5_000, "/a/%00/b", "/%ff%fe", "/../../etc/passwd"],
)
def test_an_odd_path_is_no_fault_of_the_server(client: TestClient, path: str) -> None:
    for prefix in ("", "/api", "/api/courses", "/assets"):
        assert client.get(SITE + prefix + path).status_code in (200, 401, 404)


@pytest.mark.parametrize(
    "url",
    [
        "/exercises/01-high-huts/versions/-1/restore",
        "/samples/huts/datasets/open/versions/-3/restore",
        f"/exercises/01-high-huts/versions/{2**70}/restore",
    ],
)
def test_numbers_of_versions_that_there_are_not(fresh: TestClient, url: str) -> None:
    assert fresh.post(url).status_code in (404, 422)


def test_versions_of_rows_that_there_are_not(client: TestClient) -> None:
    for older, newer in ((0, 1), (0, 2**40), (1, 99)):
        answer = client.get(f"/samples/gauges/datasets/open/versions/{older}/to/{newer}")
        assert (answer.status_code, "there is no version" in answer.text) == (422, True)


@pytest.mark.parametrize("name", ["a%00b.csv", "é" * 150 + ".csv", ".csv", "%0a.csv"])
def test_names_that_no_file_has(fresh: TestClient, name: str) -> None:
    id = got(fresh.post("/imports"), 201)["id"]
    answer = fresh.put(f"/imports/{id}/files/{name}", content=b"a,b\n1,2\n")
    assert answer.status_code in (404, 422)


@pytest.fixture
def served(demo_folder: Path, tmp_path: Path) -> Iterator[tuple[str, int]]:
    folder = Path(shutil.copytree(demo_folder, tmp_path / "data"))
    settings = Settings(request_seconds=0.3)
    app = create_app(lambda: Runtime(folder), settings)
    with listening(app, log_level="warning", http=PatientProtocol) as place:
        yield place


def test_half_a_request_ends(served: tuple[str, int], monkeypatch: pytest.MonkeyPatch) -> None:
    with socket.create_connection(served, timeout=20) as half:
        half.sendall(
            b"POST /api/sign-in HTTP/1.1\r\nHost: here\r\nContent-Type: application/json\r\n"
            b"Content-Length: 100\r\n\r\n{"
        )
        assert half.recv(4_096).startswith(b"HTTP/1.1 408")
    monkeypatch.setattr(intake, "HEAD_SECONDS", 0.2)
    with socket.create_connection(served, timeout=20) as silent:
        silent.sendall(b"GET /api/me HTTP/1.1\r\nHost: he")
        assert silent.recv(4_096) == b""


def test_many_sign_ins_at_once_hold_up_no_page(served: tuple[str, int]) -> None:
    body = json.dumps({"login": LEARNER, "password": PASSWORD}).encode()
    head = (
        "POST /api/sign-in HTTP/1.1\r\nHost: here\r\nConnection: close\r\n"
        f"Content-Type: application/json\r\nContent-Length: {len(body)}\r\n\r\n"
    )

    async def ask(request: bytes) -> tuple[bytes, float]:
        began = time.monotonic()
        reader, writer = await asyncio.open_connection(*served)
        writer.write(request)
        said = await reader.read()
        writer.close()
        return said.split(b" ", 2)[1], time.monotonic() - began

    async def run() -> tuple[list[Any], list[Any]]:
        signing = [asyncio.create_task(ask(head.encode() + body)) for _ in range(60)]
        page = b"GET /api/me HTTP/1.1\r\nHost: here\r\nConnection: close\r\n\r\n"
        pages = [await ask(page) for _ in range(5)]
        still = [task for task in signing if not task.done()]
        assert still  # the pages were asked for in the middle of it
        return pages, list(await asyncio.gather(*signing))

    pages, signed = asyncio.run(run())
    assert {status for status, _ in pages} == {b"200"}
    assert {status for status, _ in signed} == {b"200"}
    # No page waited for all the passwords to be looked at.
    assert max(took for _, took in pages) < max(took for _, took in signed)


def test_nobody_locks_somebody_else_out(fresh: TestClient) -> None:
    app = app_of(fresh)
    own, other = person(app, LEARNER), person(app, None)

    def attempt(browser: TestClient, password: str) -> int:
        body = {"login": LEARNER, "password": password}
        return browser.post(f"{SITE}/api/sign-in", json=body).status_code

    for _ in range(6):
        attempt(other, "guessing at it")
    assert attempt(other, PASSWORD) == 429
    assert attempt(own, PASSWORD) == 200
    # A browser that is known has its own count; what it was given for one is no good for another.
    for _ in range(5):
        assert attempt(own, "forgotten it") == 401
    assert attempt(own, PASSWORD) == 429


def test_limits_have_bounds(fresh: TestClient) -> None:
    content = content_of(fresh)
    beyond = content | {"rules": {"limits": {"seconds": 300, "memory_mb": 4_000}}}
    refused = fresh.put(HUTS, json=beyond)
    assert refused.status_code == 422
    assert "this server allows at most 60" in refused.json()["message"]
    assert "limits.memory_mb is 4000" in refused.json()["message"]
    proof = got(fresh.post(HUTS + "/proof", json=beyond))
    assert any("allows at most 60" in one for one in proof["problems"])
    assert Settings().capped(Limits(seconds=300)).seconds == 60


def test_settings_that_cannot_be_used_are_named(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("JENTROW_LIMIT_SECONDS", "many")
    with pytest.raises(UnusableInput, match="JENTROW_LIMIT_SECONDS"):
        read_settings()


def test_an_import_is_of_a_course_and_a_person(fresh: TestClient) -> None:
    id = got(fresh.post("/imports"), 201)["id"]
    assert fresh.get(f"/imports/{id}").status_code == 200
    runtime = runtime_of(fresh)
    with pytest.raises(Exception, match="This import is over"):
        runtime.import_jobs.get(id, (1, 999))
    with pytest.raises(Exception, match="This import is over"):
        runtime.import_jobs.get(id, (2, 1))


def test_files_whose_names_change_are_asked_for_once(client: TestClient) -> None:
    page = client.get(f"{SITE}/")
    (name,) = re.findall(r'src="(/assets/[^"]+)"', page.text)[:1]
    asset = client.get(f"{SITE}{name}")
    assert asset.status_code == 200
    assert "immutable" in asset.headers["Cache-Control"]
    assert page.headers["Cache-Control"] == "no-cache", "it names them, and is asked for each time"
