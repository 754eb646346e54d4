"""The routes as they are documented, and whose they are."""

from __future__ import annotations

import json

from tests.demo_course import ROOT

OPENAPI = json.loads((ROOT / "frontend" / "openapi.json").read_text("utf-8"))
"""The document of the routes as it is kept; the checks before the tests make it anew and compare."""

IN_A_COURSE = "/api/courses/{course}/"


def is_a_learner_s(path: str) -> bool:
    """Whether a route of a course is for its learners, and not for those who teach it."""
    return path.startswith(f"{IN_A_COURSE}own")
