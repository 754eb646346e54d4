"""Blind spots on the bench, explanations at the desk, hints and examples on a learner's page."""

from __future__ import annotations

from typing import Any

import pytest

from tests.api.classroom import (
    BUSY,
    EARLY,
    SHORT,
    Class,
    hand_in,
    reference,
    told,
)

WIDER = {"reference": "SELECT name FROM huts WHERE beds > 50", "trials": [], "alternatives": []}


def content(here: Class, slug: str, **changes: Any) -> dict[str, Any]:
    found: dict[str, Any] = here.teacher.get(f"/exercises/{slug}").json()["content"]
    return found | changes


def spots(here: Class, written: dict[str, Any]) -> list[tuple[str, str]]:
    said = here.teacher.post("/exercises/01-high-huts/proof/sight", json=written).json()
    assert said["trouble"] == ""
    return [(one["old"], one["new"]) for one in said["sight"]["blind_spots"]]


@pytest.mark.parametrize("into", ["held-back", "open"])
def test_a_blind_spot_is_closed_by_the_rows_that_show_it(here: Class, into: str) -> None:
    written = content(here, "01-high-huts", **WIDER)
    assert (">", ">=") in spots(here, written)
    shown = here.teacher.post(
        "/exercises/01-high-huts/proof/rows",
        json={"content": written, "sql": "SELECT name FROM huts WHERE beds >= 50"},
    ).json()
    assert shown["example"]["row_count"] == 1
    assert shown["example"]["woven"]["counts"]["extra"] == 1
    (table,) = shown["rows"]
    assert (table["table"], table["rows"][0][-1]) == ("huts", "50")
    taken = here.teacher.post(
        "/samples/huts/made-rows",
        json={"datasets": [shown["rows"]], "into": into, "name": "fifty beds"},
    )
    assert taken.status_code == 201, taken.text
    assert taken.json()["names"] == (["fifty beds"] if into == "held-back" else ["open"])
    assert (">", ">=") not in spots(here, written)


def test_datasets_made_to_measure_are_looked_at_and_taken_in(here: Class) -> None:
    written = content(here, "01-high-huts", **WIDER)
    made = here.teacher.post("/exercises/01-high-huts/proof/datasets", json=written).json()
    assert made["told"] >= 0.95 * made["edits"] > 0
    wanted = {"datasets": made["datasets"], "into": "held-back", "name": "measured"}
    taken = here.teacher.post("/samples/huts/made-rows", json=wanted).json()["names"]
    assert len(taken) == len(made["datasets"])
    sample = here.teacher.get("/samples/huts").json()
    assert [one["name"] for one in sample["datasets"]][-len(taken) :] == taken
    assert spots(here, written) == []


def test_rows_that_break_a_constraint_are_refused_and_leave_no_dataset(here: Class) -> None:
    before = len(here.teacher.get("/samples/huts").json()["datasets"])
    row = ["1", "Hut", "North", "2000", "0"]
    table = {
        "table": "huts", "columns": ["hut_id", "name", "region", "altitude_m", "beds"],
        "rows": [row],
    }  # fmt: skip
    wanted = {"datasets": [[table]], "into": "held-back", "name": "no beds"}
    refused = here.teacher.post("/samples/huts/made-rows", json=wanted)
    assert refused.status_code == 422
    assert "breaks the check" in refused.json()["message"]
    assert len(here.teacher.get("/samples/huts").json()["datasets"]) == before
    ragged = [[table | {"rows": [row[:-1]]}]]
    short = here.teacher.post("/samples/huts/made-rows", json=wanted | {"datasets": ragged})
    assert "more or fewer values" in short.json()["message"]
    nothing = here.teacher.post("/samples/huts/made-rows", json=wanted | {"datasets": []})
    assert nothing.status_code == 422


def test_a_reference_that_does_not_run_has_no_sight(here: Class) -> None:
    written = content(here, "01-high-huts", reference="SELECT nme FROM huts")
    said = here.teacher.post("/exercises/01-high-huts/proof/sight", json=written).json()
    assert said["sight"] is None
    assert "does not run" in said["trouble"]


def test_a_wrong_answer_is_explained_at_the_desk_and_what_is_known_is_kept(here: Class) -> None:
    made = hand_in(here.ada, EARLY, SHORT).json()
    here.graded()
    page = f"/submissions/{made['id']}/explanation"
    said = here.teacher.get(page).json()
    (near,) = said["near_misses"]
    assert (near["old"], near["new"], near["borrows"]) == (">", ">=", False)
    assert SHORT[near["start"] : near["end"]] == ">"
    assert said["example"]["row_count"] <= 2
    assert not said["example"]["agrees"]
    assert said["rows"]
    assert said["luck"] is None
    assert here.teacher.get(page).json() == said


def test_an_answer_that_is_right_by_luck_shows_the_rows_that_tell(here: Class) -> None:
    lucky = SHORT.replace("> 2000", ">= 2000 AND beds < 1000")
    made = hand_in(here.ada, EARLY, lucky).json()
    here.graded()
    said = here.teacher.get(f"/submissions/{made['id']}/explanation").json()
    assert said["luck"]["grade"] == "usual"
    assert said["luck"]["tried"] > 0
    assert said["example"]["woven"]["counts"]["absent"] == 1
    wanted = {"datasets": [said["rows"]], "into": "held-back", "name": "many beds"}
    assert here.teacher.post("/samples/huts/made-rows", json=wanted).status_code == 201
    preview = here.teacher.get("/exercises/01-high-huts/regrade").json()
    assert [one["after"] for one in preview["losses"] if one["submission"] == made["id"]] == [
        "incorrect"
    ]
    right = hand_in(here.tomas, EARLY, reference(here, "01-high-huts") + "-- mine").json()
    here.graded()
    none = here.teacher.get(f"/submissions/{right['id']}/explanation").json()
    assert none["luck"]["grade"] == ""
    assert none["example"] is None


def test_the_answers_of_a_course_are_explained_in_the_background(here: Class) -> None:
    hand_in(here.ada, EARLY, SHORT)
    here.graded()
    began = here.teacher.post("/analysis?exercise=01-high-huts")
    assert began.status_code == 202
    here.runtime.analyses.wait(1)
    state = here.teacher.get("/analysis").json()
    assert (state["running"], state["problem"]) == (False, "")
    assert state["done"] == state["total"] >= 1
    here.teacher.post("/analysis?exercise=01-high-huts")
    here.runtime.analyses.wait(1)
    assert here.teacher.get("/analysis").json()["total"] == 0
    assert here.teacher.post("/analysis?exercise=nowhere").status_code == 404
    here.teacher.post("/analysis")
    assert here.teacher.delete("/analysis").status_code == 204
    here.runtime.analyses.wait(1)
    assert here.teacher.get("/analysis").json()["running"] is False


def test_an_answer_one_or_two_edits_away_earns_its_share(here: Class) -> None:
    here.change("01-high-huts", marks={"one_edit": 0.5, "two_edits": 0.25}, points=4)
    one = hand_in(here.ada, EARLY, SHORT).json()["id"]
    two = hand_in(here.ada, EARLY, SHORT.replace("DESC", "")).json()["id"]
    far = hand_in(here.ada, EARLY, "SELECT guest FROM stays").json()["id"]
    here.graded()
    marks = {}
    for number in (one, two, far):
        said = here.teacher.get(f"/submissions/{number}").json()
        marks[number] = said["mark"]
        assert sum(line["points"] for line in said["ledger"]) == said["mark"]
        assert said["verdict"] == "incorrect"
    assert (marks[one], marks[two], marks[far]) == (2, 1, 0)
    edits = here.teacher.post(f"/submissions/{two}/explanation/two-edits").json()
    assert {each["new"].strip() for each in edits} == {">=", "DESC"}


def test_a_share_for_near_misses_is_below_the_whole(here: Class) -> None:
    found = content(here, "01-high-huts", marks={"one_edit": 1, "two_edit": 0.2})
    refused = here.teacher.put("/exercises/01-high-huts", json=found)
    assert refused.status_code == 422
    assert "marks.one_edit is 1, but must be a number at least 0, below 1" in refused.text
    assert "two_edit" in refused.text


def test_hints_open_as_far_as_the_exercise_says(here: Class) -> None:
    closed = told(here)
    number = closed["attempt"]["id"]
    assert (closed["near_miss"], closed["example"]) == ("none", False)
    assert here.ada.get(f"/own/submissions/{number}/hints/kind").status_code == 404
    assert here.ada.get(f"/own/submissions/{number}/example").status_code == 404
    where = told(here, near_miss="where")
    number = where["attempt"]["id"]
    kind = here.ada.get(f"/own/submissions/{number}/hints/kind").json()
    assert kind["found"]
    assert "boundary" in kind["mistake"]
    assert (kind["start"], kind["new"]) == (None, None)
    place = here.ada.get(f"/own/submissions/{number}/hints/where").json()
    assert where["attempt"]["sql"][place["start"] : place["end"]] == ">"
    assert place["new"] is None
    assert here.ada.get(f"/own/submissions/{number}/hints/what").status_code == 404
    what = told(here, near_miss="what", near_miss_after=9)
    number = what["attempt"]["id"]
    assert what["near_miss_in"] > 0
    assert here.ada.get(f"/own/submissions/{number}/hints/kind").status_code == 404
    here.change("01-high-huts", feedback={"near_miss": "what"})
    said = here.ada.get(f"/own/submissions/{number}/hints/what").json()
    assert (said["old"], said["new"]) == (">", ">=")
    assert here.tomas.get(f"/own/submissions/{number}/hints/what").status_code == 404


def test_a_trial_s_words_reach_whose_answer_behaves_the_same(here: Class) -> None:
    def words(sql: str) -> list[str]:
        number = hand_in(here.ada, BUSY, sql).json()["id"]
        here.graded()
        assert here.ada.get(f"/own/submissions/{number}").json()["words"]
        none = here.ada.get(f"/own/submissions/{number}/words/0").json()
        said = here.ada.get(f"/own/submissions/{number}/words/{none['strengths']}").json()
        assert (none["says"], len(said["says"])) == ([], none["strengths"])
        assert here.tomas.get(f"/own/submissions/{number}/words/1").status_code == 404
        return list(said["says"])

    # Written otherwise than the trial, with the same rows.
    third = words("SELECT hut_id, COUNT(*), SUM(nights) FROM stays GROUP BY 1 HAVING COUNT(*) >= 3")
    assert [one.split()[0] for one in third] == ["Read", "Is"]
    assert (
        words("SELECT hut_id, COUNT(*), SUM(nights) FROM stays GROUP BY 1 HAVING COUNT(*) > 3")
        == []
    )
    trial = {
        "name": "lost",
        "sql": "SELECT nome FROM stays",
        "expected": "error",
        "words": ["See the columns."],
    }
    here.change("08-busy-huts", trials=[trial])
    assert words("select  nome from stays") == ["See the columns."]
    assert words("SELECT noma FROM stays") == []


def test_words_about_a_text_reach_answers_of_which_the_same_is_said(here: Class) -> None:
    nested = "SELECT * FROM ({}) WHERE stays >= 2".format(
        "SELECT hut_id, COUNT(*) AS stays, SUM(nights) FROM stays GROUP BY hut_id"
    )
    trial = {"name": "nested", "sql": nested, "expected": "correct", "words": ["HAVING does it."]}
    here.change("08-busy-huts", trials=[trial])
    made = hand_in(here.ada, BUSY, nested.replace(">= 2", "> 1")).json()
    here.graded()
    feedback = here.ada.get(f"/own/submissions/{made['id']}").json()
    assert (feedback["attempt"]["verdict"], feedback["words"]) == ("correct", True)
    said = here.ada.get(f"/own/submissions/{made['id']}/words/3").json()
    assert said["says"] == ["HAVING does it."]


def test_what_is_borrowed_is_told_only_where_the_exercise_says(here: Class) -> None:
    here.change("08-busy-huts", feedback={"near_miss": "what"})
    sql = "SELECT hut_id, COUNT(*) AS stays, SUM(nights) AS nights FROM stays GROUP BY hut_id"
    made = hand_in(here.ada, BUSY, sql).json()
    here.graded()
    hidden = here.ada.get(f"/own/submissions/{made['id']}/hints/what").json()
    assert (hidden["found"], hidden["withheld"], hidden["new"]) == (False, True, None)
    here.change("08-busy-huts", feedback={"near_miss": "what", "borrowed": True})
    told_now = here.ada.get(f"/own/submissions/{made['id']}/hints/what").json()
    assert "HAVING" in told_now["new"]


def test_a_text_is_mended_on_the_rows_of_the_example(here: Class) -> None:
    feedback = told(here, example=True)
    number = feedback["attempt"]["id"]
    assert feedback["example"]
    example = here.ada.get(f"/own/submissions/{number}/example").json()["example"]
    assert not example["agrees"]
    (table,) = example["tables"]
    assert table["name"] == "huts"
    runs = f"/own/submissions/{number}/example/runs"
    again = here.ada.post(runs, json={"sql": SHORT}).json()["example"]
    assert again["tables"] == example["tables"]
    mended = here.ada.post(runs, json={"sql": SHORT.replace(">", ">=")}).json()["example"]
    assert mended["agrees"]
    broken = here.ada.post(runs, json={"sql": "SELECT nme FROM huts"}).json()
    assert broken["example"] is None
