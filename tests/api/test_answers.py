"""Answers taken in from files: looked at, then all of them or none."""

from __future__ import annotations

import io
import json
import zipfile
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jentrow.core.exercises.submissions import matching_exercise
from tests.api.test_exercises import HUTS, got, idle

RIGHT = (
    "SELECT name, region, altitude_m FROM huts WHERE altitude_m >= 2000 ORDER BY altitude_m DESC"
)
TITLES = {"01-high-huts": "High huts", "10-three-highest": "The three highest huts", "x": "High"}


def handed_in(client: TestClient, name: str, data: bytes) -> str:
    id = got(client.post("/imports"), 201)["id"]
    got(client.put(f"/imports/{id}/files/{name}", content=data))
    return f"/answers/{id}"


def notebook(*cells: str) -> bytes:
    made = [{"cell_type": "code", "source": cell.splitlines(keepends=True)} for cell in cells]
    text = {"cell_type": "markdown", "source": ["# My answers"]}
    return json.dumps({"cells": [text, *made], "nbformat": 4}).encode()


def answers(client: TestClient) -> int:
    return len(got(client.get(HUTS))["submissions"])


def test_a_csv_file_is_looked_at_and_taken_in(fresh: TestClient) -> None:
    before = answers(fresh)
    rows = [("Ada Nkemelu", "01-high-huts", RIGHT), ("New One", "High huts", "SELECT 1"),
            ("New One", "99-nowhere", "SELECT 2"), ("", "01-high-huts", "SELECT 3")]  # fmt: skip
    text = "learner,exercise,sql\n" + "".join(
        f'{who},{exercise},"{sql}"\n' for who, exercise, sql in rows
    )
    place = handed_in(fresh, "late.csv", text.encode())
    look = got(fresh.post(f"{place}/look"))
    assert (look["answers"], look["new_learners"]) == (2, ["New One"])
    assert [one["slug"] for one in look["exercises"]] == ["01-high-huts"]
    assert [one["place"] for one in look["unmatched"]] == [
        "line 5 names no learner",
        "line 4, New One",
    ]
    refused = got(fresh.post(f"{place}/take", json={}), 422)
    assert "2 entries fit no exercise" in refused["message"]
    assert answers(fresh) == before
    assert got(fresh.post(f"{place}/take", json={"leave_out": True})) == {"count": 2}
    idle(fresh)
    lines = {one["learner"]: one for one in got(fresh.get(HUTS))["submissions"]}
    assert lines["New One"]["verdict"] == "incorrect"
    again = got(fresh.post(f"{handed_in(fresh, 'late.csv', text.encode())}/look"))
    assert (again["answers"], again["known"]) == (0, 2)


def test_a_zip_of_texts_and_notebooks(fresh: TestClient) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("in/Ada/01-high-huts.sql", RIGHT)
        archive.writestr("in/Ben/work.ipynb", notebook(f"-- 01-high-huts\n{RIGHT}", "SELECT 1"))
        archive.writestr("in/Cleo.ipynb", notebook("# three-highest\nSELECT 1"))
        archive.writestr("in/Broken.ipynb", "{}")
    place = handed_in(fresh, "all.zip", out.getvalue())
    look = got(fresh.post(f"{place}/look"))
    assert {one["slug"]: one["answers"] for one in look["exercises"]} == {
        "01-high-huts": 2,
        "10-three-highest": 1,
    }
    assert look["new_learners"] == ["Ada", "Ben", "Cleo"]
    assert [one["place"].split(" ")[0] for one in look["unmatched"]] == [
        "Ben/work.ipynb,",
        "Broken.ipynb",
    ]
    got(fresh.post(f"{place}/take", json={"leave_out": True}))
    idle(fresh)
    lines = {one["learner"]: one["verdict"] for one in got(fresh.get(HUTS))["submissions"]}
    assert (lines["Ada"], lines["Ben"]) == ("correct", "correct")


def test_one_notebook_is_one_learner_s(fresh: TestClient) -> None:
    place = handed_in(fresh, "Dara Olsen.ipynb", notebook(f"--High huts\n{RIGHT}", ""))
    look = got(fresh.post(f"{place}/look"))
    assert (look["answers"], look["new_learners"], look["unmatched"]) == (1, ["Dara Olsen"], [])


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("in.csv", b"who,what\n", "the header lacks"),
        ("in.csv", b"learner,exercise,sql\nA,b,\xff\n", "not UTF-8"),
        ("in.zip", b"PK\x05\x06" + b"\0" * 18, "no <learner>/<exercise>.sql"),
    ],
)
def test_a_file_that_cannot_be_read_says_why(
    fresh: TestClient, name: str, data: bytes, words: str
) -> None:
    id = got(fresh.post("/imports"), 201)["id"]
    handed = fresh.put(f"/imports/{id}/files/{name}", content=data)
    said: Any = handed if handed.status_code != 200 else fresh.post(f"/answers/{id}/look")
    assert said.status_code == 422
    assert words in said.json()["message"] or "not a ZIP" in said.json()["message"]


@pytest.mark.parametrize(
    ("named", "meant"),
    [
        ("01-high-huts", "01-high-huts"), ("01-HIGH-huts", "01-high-huts"),
        ("high huts", "01-high-huts"), ("high-huts", "01-high-huts"), ("1", "01-high-huts"),
        ("10", "10-three-highest"), ("high", "x"), ("2", None), ("huts", None), ("", None),
    ],
)  # fmt: skip
def test_which_exercise_is_meant(named: str, meant: str | None) -> None:
    assert matching_exercise(named, TITLES) == meant
