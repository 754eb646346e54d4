from __future__ import annotations

from typing import Any

import pytest

from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.files.exercisefile import CONTENT
from jentrow.core.exercises.files.rulefile import read_rules
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.warnings import (
    WARNING_WORDS,
    asks_for_order,
    unlimited_attempts,
    warnings_of,
)
from jentrow.core.samples.sources import SampleSource
from tests.core.exercises.test_grading import HELD_BACK, OPEN

SOURCE = SampleSource("gauges", (OPEN, HELD_BACK))


def grader(engine: SQLiteEngine, reference: str, id: str = "one", **more: Any) -> Grader:
    prompt = more.pop("prompt", "")
    exercise = Exercise(id, id.title(), prompt, "gauges", reference, **more)
    return Grader(engine, exercise, SOURCE)


CASES: list[tuple[str, dict[str, Any], list[str]]] = [
    ("SELECT name, level FROM gauges", {}, []),
    ("SELECT name FROM gauges WHERE level > 99", {}, ["reference.no_rows"] * 2),
    ("SELECT name FROM gauges WHERE level = 9", {}, ["reference.no_rows", "reference.one_row"]),
    ("SELECT level FROM gauges ORDER BY name > 'A' LIMIT 1", {},
     ["reference.one_row"] * 2 + ["limit.cuts_tie"] * 2),
    ("SELECT name FROM gauges", {"prompt": "Sort them by name."}, ["order.missing"]),
    ("SELECT name FROM gauges ORDER BY name", {"prompt": "Sort them by name."}, []),
    ("SELECT DISTINCT level FROM gauges ORDER BY CASE WHEN RANDOM() THEN level END", {},
     ["order.unknown_ties"] * 2 + ["function.changes"]),
    ("SELECT name FROM gauges ORDER BY name", {"rules": read_rules({"order_case": "ignore"})}, []),
    ("SELECT name FROM gauges", {"rules": read_rules({"order_case": "ignore"})}, ["order.case"]),
    ("SELECT name, DATE() FROM gauges", {}, ["function.changes"]),
    ("SELECT name, DATE('2026-04-01', '+1 day') FROM gauges", {}, []),
    ("SELECT name, STRFTIME('%Y', 'now') FROM gauges", {}, ["function.changes"]),
    ("SELECT name, CURRENT_DATE FROM gauges", {}, ["function.changes"]),
    ("SELECT name FROM gauges GLOB WHERE level > 0", {}, ["text.unread"]),
    ("SELECT name, level AS Name FROM gauges", {}, ["columns.same_name"]),
    ("SELECT level > 0, name, COUNT(*) FROM gauges GROUP BY level > 0", {},
     ["reference.one_row"] * 2 + ["reference.arbitrary"]),
    ("SELECT name, basin / 2 FROM gauges", {}, ["reference.whole_division"]),
    ("SELECT name FROM gauges",
     {"constructs": [{"require": "case"}, {"forbid": "table", "name": "gauges"}]},
     ["constructs.broken"] * 2),
]  # fmt: skip


@pytest.mark.parametrize(("reference", "more", "codes"), CASES, ids=[one[0] for one in CASES])
def test_what_is_warned_of(
    reference: str, more: dict[str, Any], codes: list[str], engine: SQLiteEngine
) -> None:
    more = dict(more)
    if "constructs" in more:
        more |= CONTENT.read({"constructs": more["constructs"]}, [])
    found = warnings_of(grader(engine, reference, **more))
    assert [warning.code for warning in found] == codes


def test_two_references_that_agree_by_accident(engine: SQLiteEngine) -> None:
    every = grader(engine, "SELECT name FROM gauges")
    basins = grader(engine, "SELECT name FROM gauges WHERE basin > 0", "basins")
    again = grader(engine, "select name\nfrom gauges;", "again")
    (warning,) = warnings_of(every, [every, basins, again])
    assert warning.code == "datasets.same_result"
    assert "open data" in warning.message
    assert "Basins" in warning.message


def test_any_number_of_attempts_beside_held_back_data() -> None:
    assert unlimited_attempts(["open"], ["First sheet"]) == ()
    assert unlimited_attempts(["open", "flood"], []) == ()
    (warning,) = unlimited_attempts(["open", "flood"], ["First sheet", "Second"])
    assert warning.code == "attempts.unlimited"
    assert "On First sheet, Second there is any number" in warning.message


def test_every_warning_is_tried() -> None:
    tried = {code for _, _, codes in CASES for code in codes} | {
        "datasets.same_result",
        "attempts.unlimited",
        "like.case",  # of other engines, tried there
        "reference.translated",
    }
    assert tried == set(WARNING_WORDS)


@pytest.mark.parametrize(
    ("prompt", "asks"),
    [
        ("List the huts, **the highest first**.", True),
        ("Order the stays by arrival.", True),
        ("Show the names in alphabetical order.", True),
        ("Sorted by beds, descending.", True),
        ("The order of the rows does not matter.", False),
        ("Rows may come in any order.", False),
        ("Show the first arrival of each guest.", False),
        ("Which hut is the highest?", False),
        ("Group the stays by meal plan.", False),
    ],
)
def test_whether_a_prompt_asks_for_order(prompt: str, asks: bool) -> None:
    assert asks_for_order(prompt) is asks
