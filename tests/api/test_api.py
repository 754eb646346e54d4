from __future__ import annotations

import pytest
from fastapi.testclient import TestClient

from jentrow.api.refusals import STATUS_OF, status_of
from jentrow.core import errors
from jentrow.core.engines.labels import ENGINES
from jentrow.core.errors import JentrowError
from tests.api.server import SITE


def test_about_names_the_engine_that_runs(client: TestClient) -> None:
    import apsw

    about = client.get("/about").json()
    engine = about["engines"][0]
    assert [one["name"] for one in about["engines"]] == list(ENGINES)
    assert not [one["reason"] for one in about["engines"] if one["reason"]]
    assert (engine["label"], engine["version"]) == ("SQLite", apsw.sqlite_lib_version())
    assert "coalesce" in engine["functions"]
    assert "load_extension" not in engine["functions"]
    assert about["course"] == "Alpine data course"


def test_the_list_counts_every_submission_once(client: TestClient) -> None:
    lines = client.get("/exercises").json()
    assert [line["slug"][:2] for line in lines] == [f"{number:02}" for number in range(1, 19)]
    answered = [line for line in lines if line["counts"]["total"]]
    assert [line["slug"] for line in answered] == [
        "01-high-huts",
        "06-meal-plans",
        "14-huts-and-nights",
    ]
    for line in answered:
        detail = client.get(f"/exercises/{line['slug']}").json()
        counts = line["counts"]
        assert counts["total"] == len(detail["submissions"]) >= 12
        for verdict in ("correct", "incorrect", "error", "refused", "stopped", "waiting"):
            counted = sum(one["verdict"] == verdict for one in detail["submissions"])
            assert counts[verdict] == counted
        assert counts["correct"]
        assert counts["incorrect"]
        assert counts["error"]
        assert line["kinds"]


def test_an_exercise_with_all_that_belongs_to_it(client: TestClient) -> None:
    exercise = client.get("/exercises/14-huts-and-nights").json()
    assert (exercise["version"], exercise["draft"]) == (1, None)
    assert exercise["content"]["rules"] == {"limits": {"seconds": 1.0}}
    assert exercise["datasets"] == ["open", "second-season"]
    assert exercise["sheets"] == [
        {"slug": "3-joins-and-beyond", "title": "Joins and beyond", "place": 1}
    ]


def submission_with(client: TestClient, exercise: str, part: str) -> int:
    for line in client.get(f"/exercises/{exercise}").json()["submissions"]:
        found = client.get(f"/submissions/{line['id']}").json()
        if part in found["sql"]:
            return int(found["id"])
    raise AssertionError(f"no submission with {part}")


def test_a_wrong_submission_is_woven(client: TestClient) -> None:
    found_id = submission_with(client, "14-huts-and-nights", "INNER JOIN")
    found = client.get(f"/submissions/{found_id}").json()
    assert found["verdict"] == "incorrect"
    woven = found["woven"]
    assert woven["counts"] == {"agrees": 10, "absent": 2}
    absent = [line["due"][0] for line in woven["lines"] if line["kind"] == "absent"]
    assert absent == ["Hochwand", "Rotscharte"]
    other = client.get(f"/submissions/{found_id}", params={"dataset": "second-season"}).json()
    assert other["shown_dataset"] == "second-season"
    assert [line["due"][0] for line in other["woven"]["lines"] if line["kind"] == "absent"] == [
        "Kreuzjoch",
        "Talschluss",
    ]


def test_missing_columns_are_part_of_the_weave(client: TestClient) -> None:
    found_id = submission_with(client, "01-high-huts", "SELECT name, region\n")
    woven = client.get(f"/submissions/{found_id}").json()["woven"]
    assert [(one["due"], one["given"]) for one in woven["columns"]] == [
        ("name", "name"),
        ("region", "region"),
        ("altitude_m", None),
    ]
    assert woven["lines"][0]["due"] == ["Gratwacht", "South", 3102]
    found_id = submission_with(client, "01-high-huts", "SELECT *")
    woven = client.get(f"/submissions/{found_id}").json()["woven"]
    assert {one["given"] for one in woven["columns"] if one["due"] is None} == {"hut_id", "beds"}


def test_a_submission_in_error_shows_what_was_due(client: TestClient) -> None:
    found_id = submission_with(client, "14-huts-and-nights", "NVL")
    found = client.get(f"/submissions/{found_id}").json()
    assert (found["verdict"], found["woven"]) == ("error", None)
    assert found["expected"]["row_count"] == 12
    assert found["findings"][0]["evidence"]["line"] == 1


@pytest.mark.parametrize(
    ("path", "status", "words"),
    [
        ("/exercises/nowhere", 404, "no exercise 'nowhere'"),
        ("/submissions/9999", 404, "no submission 9999"),
        ("/submissions/1?dataset=nowhere", 404, "no dataset 'nowhere'"),
        ("/nowhere", 404, ""),
        ("/submissions/many", 422, ""),
    ],
)
def test_what_is_not_there_is_said_in_words(
    client: TestClient, path: str, status: int, words: str
) -> None:
    answer = client.get(path)
    assert answer.status_code == status
    if words:
        assert words in answer.json()["message"]


def test_the_pages_are_served_and_carry_no_foreign_content(client: TestClient) -> None:
    for path in ("/", "/exercises/01-high-huts", "/answers/3"):
        page = client.get(SITE + path)
        assert page.status_code == 200
        assert '<div id="app">' in page.text
        assert "default-src 'self'" in page.headers["Content-Security-Policy"]
    assert client.get(f"{SITE}/../pyproject.toml").text == client.get(f"{SITE}/").text


def test_every_error_has_a_status() -> None:
    from jentrow.api.server import CannotServe
    from jentrow.core.samples.making.database_build import BuildProblem
    from jentrow.core.samples.making.process import Stopped

    kinds = [JentrowError]
    for kind in kinds:
        kinds += kind.__subclasses__()

    # Never raised while a request is answered: one at the start, one inside a worker process.
    mapped = {kind for kind in kinds if status_of(kind.__new__(kind)) != 500}
    assert set(kinds) - mapped == {JentrowError, CannotServe, BuildProblem, Stopped}
    assert STATUS_OF[errors.UnusableInput] == 422
