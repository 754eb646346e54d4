"""A course on a running server with the people in it, and what they do."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from fastapi import FastAPI
from fastapi.testclient import TestClient

from jentrow.services.runtime.runtime import Runtime
from tests.api.server import LEARNER, NOON, OTHER, person

SHEET = "/own/sheets/2-groups-order-sets/exercises"
BUSY = f"{SHEET}/08-busy-huts"
EARLY = "/own/sheets/1-choosing-rows/exercises/01-high-huts"
ENDLESS = "WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT max(i) FROM n"
SHORT = "SELECT name, region, altitude_m FROM huts WHERE altitude_m > 2000 ORDER BY altitude_m DESC"


class Clock:
    """The server's clock, set by hand."""

    def __init__(self) -> None:
        self.now = NOON

    def __call__(self) -> datetime:
        return self.now


class Class:
    """A running server with an instructor and learners on their pages."""

    def __init__(self, app: FastAPI, clock: Clock) -> None:
        self.app = app
        self.clock = clock
        self.runtime: Runtime = app.state.runtime
        self.teacher = person(app, "instructor")
        self.ada = person(app, LEARNER)
        self.tomas = person(app, OTHER)

    def graded(self) -> None:
        assert self.runtime.queue.wait_until_idle(60)

    def change(self, slug: str, **changes: Any) -> None:
        content = self.teacher.get(f"/exercises/{slug}").json()["content"]
        kept = self.teacher.put(f"/exercises/{slug}", json=content | changes)
        assert kept.status_code == 200, kept.text

    def hurry(self, slug: str) -> None:
        """Bounds answers to an exercise at a time that a test need not wait for."""
        self.change(slug, rules={"limits": {"seconds": 0.5}})

    def sheet(self, slug: str, **changes: Any) -> None:
        (found,) = [one for one in self.teacher.get("/sheets").json() if one["slug"] == slug]
        body = {name: found[name] for name in ("title", "opens", "closes", "attempts", "late")}
        body["exercises"] = [
            {"exercise": one["slug"], "points": one["points"]} for one in found["entries"]
        ]
        answer = self.teacher.put(f"/sheets/{slug}", json=body | changes)
        assert answer.status_code == 200, answer.text


def hand_in(browser: TestClient, place: str, sql: str, key: str = "") -> Any:
    key = key or f"key-{abs(hash((place, sql)))}"
    return browser.post(f"{place}/submissions", json={"sql": sql, "key": key})


def reference(here: Class, slug: str) -> str:
    return str(here.teacher.get(f"/exercises/{slug}").json()["content"]["reference"])


def told(here: Class, **feedback: Any) -> dict[str, Any]:
    here.change("01-high-huts", feedback=feedback)
    made = hand_in(here.ada, EARLY, SHORT + f" -- {sorted(feedback.items())}").json()
    here.graded()
    found: dict[str, Any] = here.ada.get(f"/own/submissions/{made['id']}").json()
    return found
