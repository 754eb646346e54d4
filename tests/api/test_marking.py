"""Marking: groups, decisions and their history, regrades, alternatives, marks, publishing, questions."""

from __future__ import annotations

import csv
import io
import threading
from typing import Any, Final

import pytest
from fastapi.testclient import TestClient
from openpyxl import load_workbook
from sqlalchemy import select

from jentrow.core.engines.protocol import Judging
from jentrow.core.errors import EngineInterrupted
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.outcomes import Reading
from jentrow.records.models import Grading, Person, Submission
from jentrow.services.marking import regrades
from tests.api.server import LEARNER, app_of, person, runtime_of
from tests.api.test_exercises import content_of, got, idle
from tests.api.test_grading import hand_in

SLUG = "01-high-huts"
HUTS = f"/exercises/{SLUG}"
DESK = f"/marking/{SLUG}"
SHEET = "1-choosing-rows"
LOW = "SELECT name, region, altitude_m FROM huts WHERE altitude_m < 2000 ORDER BY altitude_m DESC"
LOW_TOO = "select h.name, h.region, h.altitude_m from huts h where 2000 > h.altitude_m order by altitude_m desc"


def desk_of(client: TestClient, attempts: str = "all") -> dict[str, Any]:
    return got(client.get(f"{DESK}?attempts={attempts}"))


def add(client: TestClient, texts: list[str]) -> list[int]:
    """Hands texts in and has them graded; their numbers."""
    runtime = runtime_of(client)
    hand_in(runtime, texts)
    runtime.queue.wake()
    idle(client)
    with runtime.records.session() as session:
        ids = session.scalars(
            select(Submission.id).order_by(Submission.id.desc()).limit(len(texts))
        )
        return list(ids)[::-1]


def group_with(client: TestClient, id: int) -> dict[str, Any]:
    groups = desk_of(client)["groups"]
    return next(one for one in groups if any(each["id"] == id for each in one["answers"]))


def answer(client: TestClient, id: int) -> dict[str, Any]:
    return next(one for one in group_with(client, id)["answers"] if one["id"] == id)


def decide(client: TestClient, ids: list[int], **wish: Any) -> Any:
    seen = wish.pop("seen", None)
    seen = desk_of(client)["last_decision"] if seen is None else seen
    return client.post(f"{DESK}/decisions", json={"answers": ids, "seen": seen} | wish)


def made(said: Any) -> Any:
    return got(said, 201)


def refused(said: Any, status: int) -> str:
    assert said.status_code == status, said.text
    return str(said.json()["message"])


def test_answers_that_behave_the_same_are_one_group(fresh: TestClient) -> None:
    first, second, other, broken, broken_too = add(
        fresh, [LOW, LOW_TOO, "SELECT 1", "SELECT nope FROM huts", "SELECT nada FROM huts"]
    )
    group = group_with(fresh, first)
    assert {first, second} <= {one["id"] for one in group["answers"]}
    assert group["title"] == "Rows are missing"
    assert answer(fresh, first)["wording"] == answer(fresh, second)["wording"]
    assert other not in {one["id"] for one in group["answers"]}
    # What the engine says quotes each learner's own words: the kind makes the group.
    assert group_with(fresh, broken)["key"] == group_with(fresh, broken_too)["key"]
    keys = [one["key"] for one in desk_of(fresh)["groups"]]
    assert keys[0] == "correct"
    assert len(set(keys)) == len(keys)


def test_a_later_answer_joins_its_group_and_takes_what_was_decided(fresh: TestClient) -> None:
    (first,) = add(fresh, [LOW])
    key = group_with(fresh, first)["key"]
    decision = made(
        decide(fresh, [first], groups=[{"outcome": key}], mark=1.5, comment="Half of it.")
    )
    (later, elsewhere) = add(fresh, [LOW_TOO, "SELECT 2"])
    assert (answer(fresh, later)["mark"], answer(fresh, later)["joined"]) == (1.5, True)
    assert answer(fresh, elsewhere)["state"] == "undecided"
    marks = got(fresh.get(f"/submissions/{later}/marks"))
    assert (marks["mark"], marks["comment"]) == (1.5, "Half of it.")
    (event,) = marks["events"]
    assert (event["before"], event["mark"], event["joined"], event["by"]) == (
        0.0, 1.5, True, "Alma Rieder"
    )  # fmt: skip
    (line,) = desk_of(fresh)["history"]
    assert (line["id"], line["joined"]) == (decision["id"], line["count"] - 1)


def test_a_decision_for_one_wording_waits_until_that_of_an_answer_is_told(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, otherwise = add(fresh, [LOW, LOW.replace("< 2000", "<= 1999")])
    group = group_with(fresh, first)
    assert answer(fresh, otherwise)["wording"] != answer(fresh, first)["wording"]
    wording = group["wordings"][answer(fresh, first)["wording"]]["key"]
    part = {"outcome": group["key"], "wording": wording}
    made(decide(fresh, [first], groups=[part], mark=1))

    told = Grader.readings
    waiting = threading.Event()
    monkeypatch.setattr(Grader, "readings", held_up(waiting))
    (later,) = add(fresh, [LOW_TOO])
    assert waiting.is_set()
    assert answer(fresh, later)["state"] == "undecided"
    assert len(group_with(fresh, later)["wordings"]) == 1  # nobody knows them all
    monkeypatch.setattr(Grader, "readings", told)
    (third,) = add(fresh, [LOW.replace("< 2000", "<= 1999") + " -- again"])
    assert (answer(fresh, later)["mark"], answer(fresh, later)["joined"]) == (1, True)
    assert answer(fresh, third)["state"] == "undecided"


def held_up(waiting: threading.Event) -> Any:
    """In the place of the readings of texts: notes that they were asked for, and fails."""

    def readings(grader: Grader, texts: Any) -> list[Reading]:
        waiting.set()
        raise EngineInterrupted("not now")

    return readings


PICKS: Final = (
    "SELECT name, region, altitude_m FROM huts WHERE altitude_m < 2000 GROUP BY region "
    "ORDER BY altitude_m DESC"
)
"""The engine picks a hut of each region."""


def test_what_a_text_explains_is_told_after_the_verdicts_of_a_file(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    told = Grader.readings
    waiting = threading.Event()
    monkeypatch.setattr(Grader, "readings", held_up(waiting))
    (first,) = add(fresh, [PICKS])
    assert waiting.is_set()
    before = got(fresh.get(f"/submissions/{first}"))
    assert before["verdict"] == "incorrect"
    codes = [one["code"] for one in before["findings"]]
    assert codes
    assert "cells.arbitrary" not in codes
    # What was decided for what is found so far is not decided for what may still be found.
    group = group_with(fresh, first)["key"]
    parts = [{"outcome": group, "codes": " ".join(dict.fromkeys(codes))}]
    made(decide(fresh, [first], groups=parts, mark=1))
    (second,) = add(fresh, [f"{PICKS} -- again"])
    assert answer(fresh, second)["state"] == "undecided"
    monkeypatch.setattr(Grader, "readings", told)
    runtime_of(fresh).queue.wake()
    idle(fresh)
    after = got(fresh.get(f"/submissions/{first}"))
    assert [one["code"] for one in after["findings"]] == [*codes, "cells.arbitrary"]
    assert answer(fresh, second)["state"] == "undecided"
    with runtime_of(fresh).records.session() as session:
        kept = session.scalars(select(Grading).where(Grading.submission_id == first)).all()
    assert [(one.explained, bool(one.wording)) for one in kept] == [(True, True)]


def on_no_sheet(client: TestClient) -> dict[str, int]:
    needs = got(client.get("/needs"))
    return {one["exercise"]: one["count"] for one in needs if one["kind"] == "sheetless"}


def columns(client: TestClient) -> dict[tuple[str, str], int]:
    """How many marks stand in each column of the page of marks, by sheet and exercise."""
    book = got(client.get("/marks"))
    places = [
        (sheet["slug"], one["slug"]) for sheet in book["sheets"] for one in sheet["exercises"]
    ]
    return {
        place: sum(row["answers"][at] > 0 for row in book["rows"])
        for at, place in enumerate(places)
    }


def test_answers_on_no_sheet_are_told_and_count_once_it_is_known_where(fresh: TestClient) -> None:
    before = on_no_sheet(fresh)
    made_of = {"title": "Low huts"}
    slug = got(fresh.post(f"{HUTS}/copies", json=made_of), 201)["slug"]
    hand_in(runtime_of(fresh), ["SELECT 1", "SELECT 2"], slug)
    runtime_of(fresh).queue.wake()
    idle(fresh)
    assert on_no_sheet(fresh) == before | {slug: 2}
    body = {"title": "Extra", "exercises": [{"exercise": slug}]}
    got(fresh.post("/sheets", json=body), 201)
    assert on_no_sheet(fresh) == before
    assert columns(fresh)["extra", slug] == 2
    # On two sheets nobody can tell: it waits for somebody who says so.
    got(fresh.post("/sheets", json=body | {"title": "More"}), 201)
    hand_in(runtime_of(fresh), ["SELECT 3"], slug)
    runtime_of(fresh).queue.wake()
    idle(fresh)
    assert on_no_sheet(fresh) == before | {slug: 1}
    columns(fresh)
    place = f"/marking/{slug}/sheet"
    assert "not on" in refused(fresh.put(place, json={"sheet": SHEET}), 409)
    assert "no sheet" in refused(fresh.put(place, json={"sheet": "nowhere"}), 404)
    assert got(fresh.put(place, json={"sheet": "more"})) == {"count": 1}
    assert (columns(fresh)["extra", slug], columns(fresh)["more", slug]) == (2, 1)
    assert on_no_sheet(fresh) == before
    # What is on a sheet stays there, whichever sheets have the exercise later.
    got(fresh.put("/sheets/extra", json=body | {"exercises": [{"exercise": "01-high-huts"}]}))
    got(fresh.put("/sheets/extra", json=body))
    assert columns(fresh)["extra", slug] == 2


def test_an_answer_joins_no_decision_that_was_made_under_other_rules(fresh: TestClient) -> None:
    (first,) = add(fresh, [LOW])
    key = group_with(fresh, first)["key"]
    made(decide(fresh, [first], groups=[{"outcome": key}], mark=1))
    content = content_of(fresh) | {"points": 5}
    got(fresh.put(HUTS, json=content))
    (later,) = add(fresh, [LOW_TOO])
    assert group_with(fresh, later)["key"] == key
    assert answer(fresh, later)["state"] == "undecided"


def test_a_decision_is_undone_and_stays_in_the_history(fresh: TestClient) -> None:
    (id,) = add(fresh, [LOW])
    first = made(decide(fresh, [id], mark=1))["id"]
    second = made(decide(fresh, [id], mark=2, reason="the join is right"))["id"]
    assert answer(fresh, id)["mark"] == 2
    # What stood before may be undone before what came after it.
    assert got(fresh.post(f"{DESK}/undo", json={"decision": first}))["count"] == 0
    assert answer(fresh, id)["mark"] == 2
    assert got(fresh.post(f"{DESK}/undo", json={"decision": second}))["count"] == 1
    assert answer(fresh, id)["state"] == "undecided"
    assert "undone this decision already" in refused(
        fresh.post(f"{DESK}/undo", json={"decision": second}), 409
    )
    events = got(fresh.get(f"/submissions/{id}/marks"))["events"]
    assert [(one["before"], one["mark"], one["undone_by"]) for one in events] == [
        (1.0, 2.0, "Alma Rieder"), (0.0, 1.0, "Alma Rieder"),
    ]  # fmt: skip


def test_the_second_of_two_instructors_sees_what_the_first_did(fresh: TestClient) -> None:
    (id,) = add(fresh, [LOW])
    seen = desk_of(fresh)["last_decision"]
    made(decide(fresh, [id], mark=1, seen=seen))
    with runtime_of(fresh).records.writing() as session:
        session.scalars(select(Person).where(Person.login == "instructor")).one().name = "Bo Lund"
    said = refused(decide(fresh, [id], mark=2, seen=seen), 409)
    assert said.startswith("Alma Rieder decided about these answers meanwhile (a mark of 1).")
    assert answer(fresh, id)["mark"] == 1
    made(decide(fresh, [id], mark=2))
    assert answer(fresh, id)["mark"] == 2


@pytest.mark.parametrize(
    ("wish", "words"),
    [
        ({"mark": 4}, "A mark of 4 cannot be given: this exercise has 3 points."),
        ({"mark": -1}, "Give 0 to 3"),
        ({"mark": 0.125}, "more than two decimals"),
        ({"comment": "x" * 1_000_000}, "1,000,000 characters, but at most 10,000 are kept"),
        ({"comment": "\0"}, "characters that are no text"),
        ({"ledger": [{"part": "rows", "message": "rows", "points": 2},
                     {"part": "order", "message": "order", "points": 2}]}, "A mark of 4 cannot"),
        ({"answers": []}, "No answer was chosen"),
    ],
)  # fmt: skip
def test_what_cannot_be_decided_is_told_and_changes_nothing(
    client: TestClient, wish: dict[str, Any], words: str
) -> None:
    before = desk_of(client)
    id = before["groups"][-1]["answers"][0]["id"]
    said = decide(client, wish.pop("answers", [id]), **wish)
    assert words in refused(said, 422)
    assert desk_of(client) == before


def test_a_changed_ledger_makes_the_mark(fresh: TestClient) -> None:
    (id,) = add(fresh, [LOW])
    lines = [
        {"part": "rows", "message": "The rows: half.", "points": 1.5, "possible": 2},
        {"part": "style", "message": "Hard to read.", "points": -0.25, "possible": None},
    ]
    made(decide(fresh, [id], ledger=lines))
    assert answer(fresh, id)["mark"] == 1.25
    assert desk_of(fresh)["history"][0]["ledger"] == lines


def test_phrases_are_kept_once_and_deleted(fresh: TestClient) -> None:
    phrase = {"text": "In {column}, {due} is due."}
    assert made(fresh.post("/phrases", json=phrase)) == [phrase["text"]]
    assert made(fresh.post("/phrases", json=phrase)) == [phrase["text"]]
    assert desk_of(fresh)["phrases"] == [phrase["text"]]
    assert got(fresh.post("/phrases/delete", json=phrase)) == []
    assert "nothing to keep" in refused(fresh.post("/phrases", json={"text": " "}), 422)


def test_an_answer_becomes_an_alternative_in_one_step(fresh: TestClient) -> None:
    text = "SELECT name, region, altitude_m / 1000.0 AS km FROM huts WHERE altitude_m >= 2000 ORDER BY 3 DESC"
    one, same, wrong = add(fresh, [text, text.replace("/ 1000.0", "* 0.001"), LOW])
    made(decide(fresh, [wrong], mark=1))
    look = got(fresh.get(f"{DESK}/alternatives/{one}"))
    assert (look["problem"], look["broken"]) == ("", [])
    assert {change["submission"] for change in look["changes"]["gains"]} == {one, same}
    assert look["changes"]["losses"] == []
    accepted = made(fresh.post(f"{DESK}/alternatives", json={"submission": one, "name": "in km"}))
    idle(fresh)
    assert accepted["version"] == 2
    assert content_of(fresh)["alternatives"][-1] == {"name": "in-km", "sql": text}
    assert [answer(fresh, id)["state"] for id in (one, same)] == ["decided", "decided"]
    assert answer(fresh, wrong)["mark"] == 1


def test_an_alternative_that_contradicts_a_trial_is_refused(fresh: TestClient) -> None:
    trial = next(one for one in content_of(fresh)["trials"] if one["expected"] == "incorrect")
    (id,) = add(fresh, [trial["sql"]])
    assert trial["name"] in got(fresh.get(f"{DESK}/alternatives/{id}"))["broken"][0]
    said = refused(fresh.post(f"{DESK}/alternatives", json={"submission": id}), 409)
    assert f"contradicts the trial {trial['name']}" in said
    assert got(fresh.get(HUTS))["version"] == 1
    unusable = add(fresh, ["SELECT nope FROM huts"])[0]
    assert "nope" in got(fresh.get(f"{DESK}/alternatives/{unusable}"))["problem"]
    assert fresh.post(f"{DESK}/alternatives", json={"submission": unusable}).status_code == 422


def test_an_answer_becomes_a_trial(fresh: TestClient) -> None:
    (id,) = add(fresh, [LOW])
    body = {"submission": id, "name": "Looks down", "expected": "incorrect"}
    made(fresh.post(f"{DESK}/trials", json=body))
    assert content_of(fresh)["trials"][-1] == {
        "name": "looks-down", "sql": LOW, "expected": "incorrect", "mark": None, "words": [],
    }  # fmt: skip
    assert desk_of(fresh)["outdated"] == 0


def test_a_regrade_is_seen_before_applied_and_taken_back(fresh: TestClient) -> None:
    free, decided = add(fresh, [LOW, LOW_TOO])
    made(decide(fresh, [decided], mark=1, comment="Look at the border."))
    got(
        fresh.put(
            HUTS, json=content_of(fresh) | {"reference": LOW, "alternatives": [], "trials": []}
        )
    )
    assert desk_of(fresh)["outdated"] > 2
    preview = got(fresh.get(f"{HUTS}/regrade"))
    gains = {one["submission"]: one for one in preview["gains"]}
    assert (gains[free]["mark_before"], gains[free]["mark_after"]) == (0.0, 3.0)
    assert preview["losses"]
    assert all(one["mark_after"] < one["mark_before"] for one in preview["losses"])
    (kept,) = preview["kept"]
    assert (kept["submission"], kept["decided"], kept["mark_after"]) == (decided, 1.0, 3.0)
    assert answer(fresh, free)["mark"] == 0.0, "a preview changes nothing"

    got(fresh.post(f"{HUTS}/regrade"))
    idle(fresh)
    desk = desk_of(fresh)
    assert (desk["outdated"], desk["contradicted"]) == (0, 1)
    assert (answer(fresh, free)["mark"], answer(fresh, decided)["mark"]) == (3.0, 1.0)
    assert answer(fresh, decided)["contradicted"]

    # The new marks are taken at one stroke; what was said of an answer stays, and it is undone.
    stale = fresh.post(f"{DESK}/new-marks", json={"seen": 0})
    assert "look and decide again" in refused(stale, 409)
    seen = {"seen": desk["last_decision"]}
    assert got(fresh.post(f"{DESK}/new-marks", json=seen), 201) == {"count": 1}
    assert (desk_of(fresh)["contradicted"], answer(fresh, decided)["mark"]) == (0, 3.0)
    marks = got(fresh.get(f"/submissions/{decided}/marks"))
    assert (marks["comment"], marks["events"][0]["before"]) == ("Look at the border.", 1.0)
    assert "later grading" in marks["events"][0]["reason"]
    again = fresh.post(f"{DESK}/new-marks", json={"seen": desk_of(fresh)["last_decision"]})
    assert "No decided mark is contradicted" in refused(again, 422)
    undone = {"decision": desk_of(fresh)["last_decision"]}
    got(fresh.post(f"{DESK}/undo", json=undone))
    assert (answer(fresh, decided)["mark"], desk_of(fresh)["contradicted"]) == (1.0, 1)

    taken = got(fresh.post(f"{HUTS}/regrades/{desk['regrades'][0]['id']}/take-back"))
    assert taken["count"] == desk["regrades"][0]["count"]
    desk = desk_of(fresh)
    assert desk["outdated"] == desk["total"]
    assert answer(fresh, free)["mark"] == 0.0
    said = fresh.post(f"{HUTS}/regrades/{desk['regrades'][0]['id']}/take-back")
    assert "taken back already" in refused(said, 409)


def test_a_regrade_is_previewed_bit_by_bit(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    add(fresh, [LOW, LOW_TOO])
    changed = content_of(fresh) | {"reference": LOW, "alternatives": [], "trials": []}
    got(fresh.put(HUTS, json=changed))
    whole = got(fresh.get(f"{HUTS}/regrade"))
    assert whole["done"] == whole["total"] > 8
    monkeypatch.setattr(regrades, "AT_ONCE", 8)
    parts = []
    begin = 0
    while begin < whole["total"]:
        asked = {"begin": begin, "seconds": 0.000_001}
        parts.append(got(fresh.get(f"{HUTS}/regrade", params=asked)))
        assert parts[-1]["done"] == min(begin + 8, whole["total"])
        begin = parts[-1]["done"]
    assert sum(one["unchanged"] for one in parts) == whole["unchanged"]
    for name in ("gains", "losses", "same_mark", "kept"):
        assert [change for one in parts for change in one[name]] == whole[name]
    past = got(fresh.get(f"{HUTS}/regrade", params={"begin": 10_000}))
    assert (past["gains"], past["losses"], past["unchanged"]) == ([], [], 0)


def test_a_regrade_while_answers_come_in_loses_none(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    judged = Grader._judged
    came: list[int] = []

    def one_more(grader: Grader, texts: Any, how: Judging) -> Any:
        if not came:
            came.append(1)
            hand_in(runtime_of(fresh), [LOW])
            runtime_of(fresh).queue.wake()
        return judged(grader, texts, how)

    monkeypatch.setattr(Grader, "_judged", one_more)
    count = got(fresh.post(f"{HUTS}/regrade"))["count"]
    idle(fresh)
    desk = desk_of(fresh)
    assert desk["total"] == count + 1
    assert all(one["state"] != "waiting" for group in desk["groups"] for one in group["answers"])


def book_row(client: TestClient, name: str = "Ada Nkemelu") -> dict[str, Any]:
    return next(one for one in got(client.get("/marks"))["rows"] if one["name"] == name)


def sheet_content(client: TestClient, **changes: Any) -> dict[str, Any]:
    sheet = next(one for one in got(client.get("/sheets")) if one["slug"] == SHEET)
    content = {
        name: sheet[name]
        for name in (
            "title",
            "opens",
            "closes",
            "attempts",
            "late",
            "counting",
            "best_of",
            "weight",
        )
    }
    content["exercises"] = [
        {"exercise": one["slug"], "points": one["points"]} for one in sheet["entries"]
    ]
    return content | changes


def test_marks_follow_what_the_sheet_says_counts(fresh: TestClient) -> None:
    book = got(fresh.get("/marks"))
    assert book["sheets"][0]["slug"] == SHEET
    columns = sum(len(one["exercises"]) for one in book["sheets"])
    for row in book["rows"]:
        assert len(row["marks"]) == len(row["signs"]) == len(row["answers"]) == columns
        first = len(book["sheets"][0]["exercises"])
        assert row["sums"][0] == pytest.approx(sum(mark or 0 for mark in row["marks"][:first]))
    for text in (LOW, content_of(fresh)["reference"], LOW_TOO):
        add(fresh, [text])  # the same learner each time
    by_way = {}
    for counting in ("best", "last", "all"):
        got(fresh.put(f"/sheets/{SHEET}", json=sheet_content(fresh, counting=counting)))
        by_way[counting] = [row["sums"][0] for row in got(fresh.get("/marks"))["rows"]]
    assert all(best >= other for best, other in zip(by_way["best"], by_way["last"], strict=True))
    assert sum(by_way["best"]) > sum(by_way["all"])
    got(
        fresh.put(
            f"/sheets/{SHEET}", json=sheet_content(fresh, best_of=2, weight=30, counting="best")
        )
    )
    book = got(fresh.get("/marks"))
    assert (book["sheets"][0]["points"], book["total_points"]) == (9.0, 30.0)
    assert "from 1 to 6" in refused(
        fresh.put(f"/sheets/{SHEET}", json=sheet_content(fresh, best_of=7)), 422
    )


def test_extra_marks_and_excuses_have_a_reason_and_can_be_taken_back(fresh: TestClient) -> None:
    before = book_row(fresh)
    wish = {"learner": before["id"], "sheet": SHEET, "reason": "a fine question in class"}
    extra = made(fresh.post("/marks/adjustments", json=wish | {"points": 1.5}))["id"]
    assert book_row(fresh)["sums"][0] == before["sums"][0] + 1.5
    excuse = made(fresh.post("/marks/adjustments", json=wish | {"excused": SLUG}))["id"]
    row = book_row(fresh)
    assert row["signs"][0] == "e"
    assert row["total_points"] == before["total_points"] - 3
    for id in (extra, excuse):
        assert fresh.delete(f"/marks/adjustments/{id}").status_code == 204
    assert book_row(fresh) == before
    assert "taken this back already" in refused(fresh.delete(f"/marks/adjustments/{extra}"), 409)
    assert "Say why" in refused(
        fresh.post("/marks/adjustments", json=wish | {"points": 1, "reason": " "}), 422
    )
    assert "any number but 0" in refused(fresh.post("/marks/adjustments", json=wish), 422)
    elsewhere = wish | {"excused": "10-three-highest"}
    assert "is not on" in refused(fresh.post("/marks/adjustments", json=elsewhere), 422)


def test_totals_are_rounded_as_the_course_says(fresh: TestClient) -> None:
    got(fresh.put(f"/sheets/{SHEET}", json=sheet_content(fresh, weight=10)))
    assert fresh.put("/marks/rounding", json={"step": 0.5}).status_code == 204
    book = got(fresh.get("/marks"))
    assert all((row["total"] * 2).is_integer() for row in book["rows"])
    assert "choose 0.01, 0.1, 0.25, 0.5 and 1" in refused(
        fresh.put("/marks/rounding", json={"step": 0.3}), 422
    )


def settled(client: TestClient) -> None:
    """Accepts the marks of grading for all that is open on the first sheet."""
    for line in got(client.get("/marking")):
        if not line["undecided"]:
            continue
        desk = got(client.get(f"/marking/{line['slug']}"))
        for group in desk["groups"]:
            ids = [one["id"] for one in group["answers"] if one["state"] == "undecided"]
            if ids:
                wish = {"answers": ids, "groups": [{"outcome": group["key"]}], "seen": 2**40}
                made(client.post(f"/marking/{line['slug']}/decisions", json=wish))


def test_marks_and_comments_are_told_when_published(fresh: TestClient) -> None:
    app = app_of(fresh)
    ada = person(app, LEARNER)
    with runtime_of(fresh).records.session() as session:
        found = session.scalars(select(Submission).join(Submission.learner)).all()
        own = next(
            one for one in found
            if one.learner.email == LEARNER and one.exercise_id == 1 and one.sheet_id == 1
        )  # fmt: skip
    made(decide(fresh, [own.id], mark=2, comment="Look at the boundary."))

    def feedback() -> dict[str, Any]:
        return got(ada.get(f"/own/submissions/{own.id}"))

    before = feedback()
    assert (before["comment"], before["published"], before["attempt"]["decided"]) == (
        "",
        False,
        False,
    )
    assert ada.get(f"/own/marks/{SHEET}").status_code == 404
    question = {"submission": own.id, "text": "Which boundary?"}
    assert "not published" in refused(ada.post("/own/questions", json=question), 409)

    assert "undecided: nothing was published" in refused(
        fresh.post(f"/sheets/{SHEET}/publish", json={}), 409
    )
    settled(fresh)
    (look,) = got(fresh.get(f"/sheets/{SHEET}/feedback?learner={own.learner_id}"))
    assert fresh.post(f"/sheets/{SHEET}/publish", json={}).status_code == 204
    assert "published already" in refused(fresh.post(f"/sheets/{SHEET}/publish", json={}), 409)
    told = feedback()
    assert (told["comment"], told["attempt"]["mark"], told["attempt"]["decided"]) == (
        "Look at the boundary.", 2.0, True
    )  # fmt: skip
    page = got(ada.get(f"/own/marks/{SHEET}"))
    assert page["mark"] == look["mark"]
    assert sum(one["mark"] or 0 for one in page["exercises"]) == pytest.approx(page["mark"])
    assert [one["published"] for one in got(ada.get("/own"))["sheets"] if one["slug"] == SHEET] == [
        True
    ]

    made(fresh.post(f"{DESK}/questions", json=question | {"text": "Too strict?"}))
    assert "Too strict?" not in ada.get(f"/own/marks/{SHEET}").text
    made(ada.post("/own/questions", json=question))
    assert "is open" in refused(ada.post("/own/questions", json=question), 409)
    waiting = next(one for one in got(fresh.get("/questions")) if one["by_learner"])
    assert (waiting["asked_by"], waiting["text"]) == ("Ada Nkemelu", "Which boundary?")
    said = {"text": "2000 itself."}
    assert fresh.post(f"/questions/{waiting['id']}/answer", json=said).status_code == 204
    assert "has answered this already: “2000 itself.”" in refused(
        fresh.post(f"/questions/{waiting['id']}/answer", json={"text": "Another."}), 409
    )
    asked = got(ada.get(f"/own/marks/{SHEET}"))["exercises"][0]["questions"]
    assert [(one["text"], one["answer"]) for one in asked] == [("Which boundary?", "2000 itself.")]

    assert fresh.post(f"/sheets/{SHEET}/unpublish").status_code == 204
    assert feedback()["comment"] == ""
    assert ada.get(f"/own/marks/{SHEET}").status_code == 404


def test_nobody_asks_about_an_answer_of_somebody_else(fresh: TestClient) -> None:
    app = app_of(fresh)
    ada = person(app, LEARNER)
    assert fresh.post(f"/sheets/{SHEET}/publish", json={"anyway": True}).status_code == 204
    with runtime_of(fresh).records.session() as session:
        other = next(
            one for one in session.scalars(select(Submission)) if one.learner.email != LEARNER
        )
    said = ada.post("/own/questions", json={"submission": other.id, "text": "Why?"})
    assert refused(said, 404) == "There is no such answer of yours."


def test_what_needs_somebody_leads_to_its_place(fresh: TestClient) -> None:
    (id,) = add(fresh, [LOW])
    made(fresh.post(f"{DESK}/questions", json={"submission": id, "text": "Half a point?"}))
    kinds = {(one["kind"], one["exercise"]): one for one in got(fresh.get("/needs"))}
    question = kinds["question", SLUG]
    assert (question["submission"], question["says"], question["urgent"]) == (
        id,
        "Half a point?",
        True,
    )
    assert kinds["undecided", SLUG]["count"] > 0
    assert ("outdated", SLUG) not in kinds
    content = content_of(fresh)
    got(fresh.put(HUTS, json=content | {"reference": content["reference"].replace("2000", "2001")}))
    kinds = {(one["kind"], one["exercise"]): one for one in got(fresh.get("/needs"))}
    assert kinds["outdated", SLUG]["urgent"]
    failing = {one["exercise"]: one for one in got(fresh.get("/needs/trials"))}
    assert failing[SLUG]["count"] >= 1
    assert len(failing) == 1


def test_a_sheet_on_which_all_is_decided_can_be_published(fresh: TestClient) -> None:
    assert not [one for one in got(fresh.get("/needs")) if one["kind"] == "publish"]
    settled(fresh)
    (ready,) = [one for one in got(fresh.get("/needs")) if one["kind"] == "publish"]
    assert ready["sheet"] == SHEET


def test_exports_say_what_the_page_says(client: TestClient) -> None:
    book = got(client.get("/marks"))
    said = client.get("/marks/export?format=csv")
    rows = list(csv.reader(io.StringIO(said.content.decode("utf-8-sig"))))
    assert said.headers["content-disposition"].endswith("alpine-data-course-marks.csv")
    assert len(rows) == len(book["rows"]) + 1
    assert [float(row[-2]) for row in rows[1:]] == [row["total"] for row in book["rows"]]
    page = load_workbook(io.BytesIO(client.get("/marks/export?format=xlsx").content)).active
    assert page is not None
    assert [cell.value for cell in page[1]] == rows[0]
    assert client.get("/marks/export?format=oneroster").content[:2] == b"PK"
    assert client.get("/marks/export?format=pdf").status_code == 422


def test_plots_count_what_is_there(client: TestClient) -> None:
    plots = got(client.get("/marks/plots"))
    book = got(client.get("/marks"))
    columns = [
        (sheet["slug"], one["slug"]) for sheet in book["sheets"] for one in sheet["exercises"]
    ]
    assert [(one["sheet"], one["slug"]) for one in plots["exercises"]] == columns
    for at, one in enumerate(plots["exercises"]):
        handed_in = sum(row["signs"][at] not in " -" for row in book["rows"])
        bars = sum(bar["decided"] + bar["undecided"] for bar in one["marks"])
        assert one["handed_in"] == handed_in == bars
        rights = [point["right"] for point in one["by_attempt"]]
        assert rights == sorted(rights)
        tried = [point["tried"] for point in one["by_attempt"]]
        assert tried == sorted(tried, reverse=True)
    behind = plots["exercises"][0]["by_attempt"][0]["answers"]
    named = got(client.post("/marks/plots/answers", json={"ids": behind}))
    assert sorted(one["id"] for one in named) == sorted(behind)


def test_where_an_answer_parts_from_the_reference(fresh: TestClient) -> None:
    where, order, right = add(
        fresh,
        [
            "SELECT name, region, altitude_m FROM huts WHERE altitude_m > 2000 ORDER BY altitude_m DESC",
            "SELECT name, region, altitude_m FROM huts WHERE altitude_m >= 2000 ORDER BY altitude_m",
            content_of(fresh)["reference"],
        ],
    )
    found = got(fresh.get(f"{DESK}/parting/{where}"))
    step = found["steps"][found["first"]]
    assert (step["kind"], step["due"] - step["given"]) == ("where", 2)
    woven = found["woven"]
    assert [line["kind"] for line in woven["lines"]].count("absent") == 2
    assert "jentrow_beside" not in [one["due"] for one in woven["columns"]]
    found = got(fresh.get(f"{DESK}/parting/{order}"))
    assert found["steps"][found["first"]]["kind"] == "order"
    found = got(fresh.get(f"{DESK}/parting/{right}"))
    assert (found["first"], found["woven"]) == (None, None)
    assert fresh.get(f"{DESK}/parting/{right}?dataset=nope").status_code == 404
