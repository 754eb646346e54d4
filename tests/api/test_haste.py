"""Whoever asks too often is answered at the door until the time that they were told is over."""

from __future__ import annotations

import json
from typing import Any

from starlette.responses import JSONResponse
from starlette.testclient import TestClient
from starlette.types import Receive, Scope, Send

from jentrow.api.access import COOKIE
from jentrow.api.haste import Haste
from tests.api.classroom import BUSY, Class
from tests.api.server import SITE

PLACE = "/api/courses/rivers/own/runs"


class _Server:
    """An application that says the same to everybody, and counts who comes to it."""

    def __init__(self, status: int, wait: str) -> None:
        self.status, self.wait, self.asked = status, wait, 0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        self.asked += 1
        answer = JSONResponse({}, status_code=self.status, headers={"Retry-After": self.wait})
        await answer(scope, receive, send)


class _Clock:
    now = 100.0

    def __call__(self) -> float:
        return self.now


def _browser(server: Any, clock: _Clock) -> TestClient:
    return TestClient(Haste(server, clock), base_url=SITE)


def _ask(browser: TestClient, token: str | None = "ada", path: str = PLACE) -> Any:
    cookies = {} if token is None else {"Cookie": f"other=1; {COOKIE}={token}"}
    return browser.post(path, json={"sql": "SELECT 1"}, headers=cookies)


def test_who_was_told_to_wait_is_told_so_again_until_the_time_is_over() -> None:
    server, clock = _Server(429, "30"), _Clock()
    browser = _browser(server, clock)
    for _ in range(3):
        assert _ask(browser).status_code == 429
    assert server.asked == 1
    clock.now += 12.5
    answer = _ask(browser)
    assert answer.headers["Retry-After"] == "18"
    assert json.loads(answer.text)["message"].endswith("wait 18 seconds.")
    # Nobody else is, and nothing else that they ask.
    for token, path in (("tomas", PLACE), (None, PLACE), ("ada", PLACE + "/else")):
        before = server.asked
        _ask(browser, token, path)
        assert server.asked == before + 1
    server.status = 200
    clock.now += 17.5
    assert _ask(browser).status_code == 200


def test_what_is_still_at_work_may_be_done_at_any_moment() -> None:
    server = _Server(429, "1")
    browser = _browser(server, _Clock())
    for _ in range(3):
        assert _ask(browser).status_code == 429
    assert server.asked == 3


def test_signing_in_has_a_throttle_of_its_own() -> None:
    server = _Server(429, "30")
    browser = _browser(server, _Clock())
    for _ in range(2):
        _ask(browser, path="/api/sign-in")
    assert server.asked == 2


def test_a_learner_who_goes_on_running_is_told_how_long_to_wait(here: Class) -> None:
    said = [here.ada.post(f"{BUSY}/runs", json={"sql": "SELECT 1"}) for _ in range(43)]
    assert [one.status_code for one in said] == [200] * 40 + [429] * 3
    assert "40 times within a minute" in said[40].json()["message"]
    assert "wait" in said[42].json()["message"]
    assert here.tomas.post(f"{BUSY}/runs", json={"sql": "SELECT 1"}).status_code == 200
