"""A learner's own pages: running, handing in, feedback, drafts, deadlines, the private copy."""

from __future__ import annotations

import threading
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime, timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from jentrow.records.models import Grading, GradingTask, Submission
from jentrow.records.submissions import learners_of
from jentrow.records.tasks import HANDED_IN, SLOW, put_back
from jentrow.services.errors import TooOften
from jentrow.services.runtime import grading_queue, queue_lanes
from jentrow.services.runtime.engines import Engines
from jentrow.services.runtime.rate_limits import Pace
from jentrow.services.runtime.runtime import Runtime
from tests.api.classroom import BUSY, EARLY, ENDLESS, Class, hand_in, reference, told
from tests.api.server import LEARNER, OTHER, app_of, person

# handing in


def test_an_answer_is_handed_in_graded_and_told(here: Class) -> None:
    wrong = hand_in(here.ada, BUSY, "SELECT name FROM huts")
    assert wrong.status_code == 201
    assert wrong.json() | {"id": 0} == {
        "id": 0, "number": 1, "submitted_at": "2026-11-23T12:00:00Z", "late": False,
        "attempts_left": 4,
    }  # fmt: skip
    here.graded()
    said = here.ada.get(f"/own/submissions/{wrong.json()['id']}").json()
    assert (said["attempt"]["verdict"], said["attempt"]["number"]) == ("incorrect", 1)
    assert said["findings"]
    right = hand_in(here.ada, BUSY, reference(here, "08-busy-huts"))
    here.graded()
    shown = here.ada.get(BUSY).json()
    assert [one["verdict"] for one in shown["attempts"]] == ["incorrect", "correct"]
    assert (shown["attempts_left"], shown["attempts"][1]["mark"]) == (3, shown["points"])
    assert here.ada.get(f"/own/submissions/{right.json()['id']}").json()["findings"] == []
    (line,) = [
        one for one in here.teacher.get("/exercises").json() if one["slug"] == "08-busy-huts"
    ]
    assert line["counts"]["total"] == 2


def test_sent_twice_it_counts_once(here: Class) -> None:
    first = hand_in(here.ada, BUSY, "SELECT 1", "the-same-key")
    again = hand_in(here.ada, BUSY, "SELECT 1", "the-same-key")
    assert first.json() == again.json()
    elsewhere = hand_in(here.ada, EARLY, "SELECT 1", "the-same-key")
    assert elsewhere.status_code == 409
    assert hand_in(here.tomas, BUSY, "SELECT 1", "the-same-key").json()["id"] != first.json()["id"]
    assert len(here.ada.get(BUSY).json()["attempts"]) == 1


def test_sent_at_the_same_time_it_counts_once(here: Class) -> None:
    """Two pages with the last attempt: one of them gets it, whatever comes first."""
    for at in range(4):
        assert hand_in(here.ada, BUSY, f"SELECT {at}").status_code == 201
    together = threading.Barrier(4)

    def send(at: int) -> int:
        together.wait(10)
        while (answer := hand_in(here.ada, BUSY, f"SELECT {at}0{at}")).status_code == 429:
            pass
        return int(answer.status_code)

    with ThreadPoolExecutor(4) as pool:
        assert sorted(pool.map(send, range(1, 5))) == [201, 409, 409, 409]
    here.graded()
    shown = here.ada.get(BUSY).json()
    assert (len(shown["attempts"]), shown["attempts_left"]) == (5, 0)
    none = hand_in(here.ada, BUSY, "SELECT 99")
    assert "All 5 attempts are used" in none.json()["message"]


@pytest.mark.parametrize(
    ("sql", "key", "status", "words"),
    [
        ("  -- nothing\n", "a-good-key", 422, "no query here"),
        ("SELECT 1", "short", 422, "key of a hand-in"),
        ("SELECT 1", "with blanks in it", 422, "key of a hand-in"),
        ("SELECT '\0'", "a-good-key", 422, "characters that are no text"),
        ("SELECT 1 -- " + "x" * 100_001, "a-good-key", 422, "at most 100,000"),
    ],
)
def test_what_cannot_be_handed_in(here: Class, sql: str, key: str, status: int, words: str) -> None:
    answer = hand_in(here.ada, BUSY, sql, key)
    assert (answer.status_code, words in answer.json()["message"]) == (status, True)
    assert here.ada.get(BUSY).json()["attempts"] == []


def test_the_very_text_again_is_no_attempt(here: Class) -> None:
    assert hand_in(here.ada, BUSY, "SELECT 1", "first-key").status_code == 201
    again = hand_in(here.ada, BUSY, "SELECT 1\n", "second-key")
    assert (again.status_code, "very text of attempt 1" in again.text) == (409, True)


def test_a_server_that_stopped_in_between_grades_what_was_accepted(here: Class) -> None:
    here.runtime.queue.pause(1)
    made = [hand_in(here.ada, BUSY, f"SELECT {at}").json()["id"] for at in range(3)]
    assert {one["verdict"] for one in here.ada.get(BUSY).json()["attempts"]} == {"waiting"}
    later = Runtime(here.runtime.folder)
    try:
        later.queue.resume(1)
        later.queue.drain()
        with later.records.writing() as session:
            assert session.query(Grading).where(Grading.submission_id.in_(made)).count() == 3
            assert session.query(GradingTask).count() == 0
            assert session.query(Submission).where(Submission.id.in_(made)).count() == 3
    finally:
        later.close()


# deadlines


def test_late_answers_by_the_sheet_s_rule(here: Class) -> None:
    right = reference(here, "08-busy-huts")
    here.clock.now = datetime.fromisoformat("2026-11-29T20:00:00+01:00")
    on_time = hand_in(here.ada, BUSY, right)
    assert on_time.json()["late"] is False
    here.clock.now += timedelta(days=1, seconds=1)
    late = hand_in(here.tomas, BUSY, right)
    assert late.json()["late"] is True
    here.graded()
    (attempt,) = here.tomas.get(BUSY).json()["attempts"]
    assert (attempt["verdict"], attempt["late_share"], attempt["mark"]) == ("correct", 0.8, 3.2)
    (*_, last) = here.tomas.get(f"/own/submissions/{attempt['id']}").json()["ledger"]
    assert (last["part"], last["points"]) == ("late", -0.8)
    here.clock.now += timedelta(days=4)
    closed = hand_in(here.tomas, BUSY, "SELECT 1")
    assert (closed.status_code, "closed at 20:00 on 2026-12-04" in closed.text) == (409, True)
    shown = here.tomas.get(BUSY).json()
    assert shown["times"]["standing"] == "closed"
    assert here.tomas.post(f"{BUSY}/runs", json={"sql": "SELECT 1"}).status_code == 200


def test_an_extension_is_one_learner_s_own(here: Class) -> None:
    here.sheet("2-groups-order-sets", late={"rule": "refuse"})
    (ada,) = [one for one in here.teacher.get("/learners").json() if one["email"] == LEARNER]
    here.teacher.put(
        f"/learners/{ada['id']}/extensions/2-groups-order-sets",
        json={"closes": "2026-12-01T20:00"},
    )
    here.clock.now = datetime.fromisoformat("2026-11-30T12:00:00+01:00")
    assert hand_in(here.ada, BUSY, "SELECT 1").json()["late"] is False
    assert hand_in(here.tomas, BUSY, "SELECT 1").status_code == 409
    times = here.ada.get(BUSY).json()["times"]
    assert (times["extended"], times["closes"]) == (True, "2026-12-01T19:00:00Z")


def test_a_sheet_s_own_points_scale_the_mark(here: Class) -> None:
    (found,) = [
        one for one in here.teacher.get("/sheets").json() if one["slug"] == "1-choosing-rows"
    ]
    here.sheet(
        "1-choosing-rows",
        exercises=[
            {"exercise": one["slug"], "points": 10 if one["slug"] == "01-high-huts" else None}
            for one in found["entries"]
        ],
        closes="2026-12-24T20:00",
    )
    hand_in(here.ada, EARLY, reference(here, "01-high-huts") + "-- again")
    here.graded()
    shown = here.ada.get(EARLY).json()
    assert (shown["points"], shown["attempts"][-1]["mark"]) == (10, 10)
    ledger = here.ada.get(f"/own/submissions/{shown['attempts'][-1]['id']}").json()["ledger"]
    assert sum(line["points"] for line in ledger) == 10


# feedback


def test_the_levels_of_feedback(here: Class) -> None:
    verdict = told(here, level="verdict")
    assert (verdict["attempt"]["verdict"], verdict["findings"], verdict["ledger"]) == (
        "incorrect", [], [],
    )  # fmt: skip
    kind = told(here, level="kind")
    assert kind["findings"][0]["message"] == "Rows are missing."
    assert (kind["woven"], bool(kind["ledger"])) == (None, True)
    rows = told(here, level="rows")
    lines = rows["woven"]["lines"]
    assert {line["kind"] for line in lines} == {"absent"}
    assert sorted(line["due"][0] for line in lines) == ["Rotscharte", "Steinkar"]
    assert rows["woven"]["left_out"] == 6


def test_a_hint_comes_after_so_many_wrong_answers(here: Class) -> None:
    hint = {"hint": "Is the boundary in?", "hint_after": 2}
    assert told(here, level="verdict", **hint)["hint"] == ""
    assert told(here, level="kind", **hint)["hint"] == "Is the boundary in?"
    hand_in(here.ada, EARLY, reference(here, "01-high-huts"))
    here.graded()
    last = here.ada.get(EARLY).json()["attempts"][-1]
    assert here.ada.get(f"/own/submissions/{last['id']}").json()["hint"] == ""


def test_feedback_after_the_sheet_closes(here: Class) -> None:
    here.change("08-busy-huts", feedback={"when": "after_close", "level": "rows"})
    made = hand_in(here.ada, BUSY, "SELECT name FROM huts").json()
    here.graded()
    before = here.ada.get(f"/own/submissions/{made['id']}").json()
    assert (before["attempt"]["verdict"], before["attempt"]["mark"]) == ("held", None)
    assert (before["findings"], before["woven"], before["opens"]) == (
        [], None, "2026-12-04T19:00:00Z",
    )  # fmt: skip
    (sheet,) = [one for one in here.ada.get("/own").json()["sheets"] if one["slug"].startswith("2")]
    (line,) = [one for one in sheet["exercises"] if one["slug"] == "08-busy-huts"]
    assert (line["best"], line["waiting"]) == (None, False)
    here.clock.now = datetime.fromisoformat("2026-12-04T20:00:01+01:00")
    after = here.ada.get(f"/own/submissions/{made['id']}").json()
    assert (after["attempt"]["verdict"], after["opens"]) == ("incorrect", None)
    assert after["woven"]["lines"]


BY_CHANCE = (
    "SELECT name, region, altitude_m FROM huts WHERE altitude_m >= 2000 "
    "ORDER BY altitude_m * (RANDOM() IS NOT NULL) DESC"
)


def test_what_a_sheet_comes_to_is_what_counts_of_it(here: Class) -> None:
    right = reference(here, "08-busy-huts")
    for sql in (right, "SELECT 1", right + " -- again", "SELECT 2"):
        hand_in(here.ada, BUSY, sql)
        here.graded()
    slug = "2-groups-order-sets"
    sheet = next(one for one in here.teacher.get("/sheets").json() if one["slug"] == slug)
    exercises = [{"exercise": one["slug"], "points": one["points"]} for one in sheet["entries"]]
    settings = {name: sheet[name] for name in ("title", "opens", "closes", "attempts", "late")}

    def comes_to(**changes: Any) -> tuple[float, float, float]:
        asked = settings | {"exercises": exercises} | changes
        assert here.teacher.put(f"/sheets/{slug}", json=asked).status_code == 200
        own = next(one for one in here.ada.get("/own").json()["sheets"] if one["slug"] == slug)
        line = next(one for one in own["exercises"] if one["slug"] == "08-busy-huts")
        assert line["best"]["verdict"] == "correct"
        rows = here.teacher.get("/marks").json()["rows"]
        (row,) = [one for one in rows if one["name"] == "Ada Nkemelu"]
        assert own["earned"] in row["sums"], "as on the page of marks"
        return line["mark"], own["earned"], own["points"]

    own = next(one for one in here.ada.get("/own").json()["sheets"] if one["slug"] == slug)
    points = next(one["points"] for one in own["exercises"] if one["slug"] == "08-busy-huts")
    whole = sum(one["points"] for one in own["exercises"])
    assert comes_to(counting="best") == (points, points, whole)
    assert comes_to(counting="last") == (0, 0, whole)
    assert comes_to(counting="all") == (points / 2, points / 2, whole)
    assert comes_to(counting="best", best_of=1) == (points, points, points)


def test_an_undecided_answer_waits_for_the_instructor(here: Class) -> None:
    here.change(
        "08-busy-huts",
        reference=BY_CHANCE,
        alternatives=[],
        feedback={"level": "rows", "hint": "Look again."},
    )
    turned = BY_CHANCE.partition("ORDER")[0] + "ORDER BY name DESC; -- z to a"
    made = hand_in(here.ada, BUSY, turned).json()
    here.graded()
    said = here.ada.get(f"/own/submissions/{made['id']}").json()
    assert (said["attempt"]["verdict"], said["attempt"]["mark"]) == ("undecided", None)
    assert (said["findings"], said["ledger"], said["woven"], said["hint"]) == ([], [], None, "")
    assert said["opens"] is None
    (sheet,) = [one for one in here.ada.get("/own").json()["sheets"] if one["slug"].startswith("2")]
    (line,) = [one for one in sheet["exercises"] if one["slug"] == "08-busy-huts"]
    assert (line["best"]["verdict"], line["best"]["mark"]) == ("undecided", None)
    # The instructor sees it counted apart, and why.
    exercise = here.teacher.get("/exercises/08-busy-huts").json()
    assert exercise["counts"]["undecided"] == 1
    assert exercise["submissions"][-1]["verdict"] == "undecided"
    submission = here.teacher.get(f"/submissions/{made['id']}").json()
    assert submission["verdict"] == "undecided"
    assert "change places" in submission["undecided"]
    assert [one["verdict"] for one in submission["datasets"]] == ["undecided", "undecided"]
    assert {line["kind"] for line in submission["woven"]["lines"]} == {"agrees", "moved"}
    # With a reference that says its order, the very answer is decided.
    here.change("08-busy-huts", reference=turned)
    assert here.teacher.post("/exercises/08-busy-huts/regrade").status_code == 200
    here.graded()
    assert here.ada.get(f"/own/submissions/{made['id']}").json()["attempt"]["verdict"] == "correct"


def test_what_the_reference_calls_a_column_without_an_alias_is_not_told(here: Class) -> None:
    secret = "SELECT name, CASE WHEN beds < 21 THEN 1 ELSE 2 END FROM huts"
    here.change(
        "01-high-huts", reference=secret, feedback={"level": "rows", "expected": {"rows": "all"}}
    )
    texts = [secret.replace("21", "30"), "SELECT name FROM huts", "SELECT name, 1, 2 FROM huts"]
    for sql in texts:
        made = hand_in(here.ada, EARLY, sql).json()
        here.graded()
        told = here.ada.get(f"/own/submissions/{made['id']}").text
        assert '"incorrect"' in told
        assert "beds < 21" not in told
    assert "beds < 21" not in here.ada.get(EARLY).text
    assert '"column 2"' in here.ada.get(EARLY).text


def test_what_an_engine_rejects_is_told_at_every_level(here: Class) -> None:
    here.change("08-busy-huts", feedback={"level": "verdict"})
    made = hand_in(here.ada, BUSY, "SELECT nme FROM huts").json()
    here.graded()
    (finding,) = here.ada.get(f"/own/submissions/{made['id']}").json()["findings"]
    assert (finding["line"], finding["column"], finding["near"]) == (1, 8, "nme")
    assert "no column nme" in finding["message"]


# drafts and runs


def test_a_draft_survives_and_ends_with_the_hand_in(here: Class) -> None:
    assert here.ada.put(f"{BUSY}/draft", json={"sql": "SELECT na"}).status_code == 200
    again = person(here.app, LEARNER)
    assert again.get(BUSY).json()["draft"]["sql"] == "SELECT na"
    assert here.tomas.get(BUSY).json()["draft"] is None
    (line,) = [
        one
        for sheet in again.get("/own").json()["sheets"]
        for one in sheet["exercises"]
        if one["slug"] == "08-busy-huts"
    ]
    assert line["has_draft"] is True
    hand_in(again, BUSY, "SELECT name FROM huts")
    assert again.get(BUSY).json()["draft"] is None
    again.put(f"{BUSY}/draft", json={"sql": "SELECT x"})
    again.put(f"{BUSY}/draft", json={"sql": " "})
    assert again.get(BUSY).json()["draft"] is None


def test_a_run_says_rows_or_what_is_wrong(here: Class) -> None:
    def run(sql: str) -> Any:
        return here.ada.post(f"{BUSY}/runs", json={"sql": sql}).json()

    ran = run("SELECT hut_id FROM huts")
    assert (ran["verdict"], ran["result"]["row_count"]) == ("ran", 12)
    assert run("DELETE FROM huts")["verdict"] == "refused"
    wrong = run("SELECT *\nFROM hutz")
    assert (wrong["verdict"], wrong["place"]["line"]) == ("error", 2)
    assert run(ENDLESS)["verdict"] == "stopped"
    assert here.teacher.get("/exercises/08-busy-huts").json()["counts"]["total"] == 0


def test_a_run_on_a_stand_in_shows_what_was_run(here: Class) -> None:
    here.sheet("3-joins-and-beyond", opens=None)

    def run(place: str, sql: str) -> Any:
        return here.ada.post(f"{place}/runs", json={"sql": sql}).json()

    roomier = "/own/sheets/3-joins-and-beyond/exercises/16-roomier-than-usual"
    ran = run(roomier, "SELECT name FROM huts WHERE NVL(beds, 0) > 60")
    assert (ran["verdict"], ran["result"]["row_count"]) == ("ran", 1)
    assert "COALESCE(beds, 0)" in ran["runs_as"]
    wrong = run(roomier, "SELECT NVL(bedz, 0) FROM huts")
    assert wrong["verdict"] == "error"
    assert "COALESCE(bedz, 0)" in wrong["runs_as"]
    assert ran["doubts"] == wrong["doubts"] == []
    rejected = "SELECT name || ' of ' || DATE '2026-07-03' FROM huts"
    alone = run(roomier, rejected)
    assert alone["verdict"] == "error"
    (doubt,) = alone["doubts"]
    assert "its own engine may take it" in doubt
    made = hand_in(here.ada, roomier, rejected).json()
    here.graded()
    looked = here.teacher.get(f"/submissions/{made['id']}").json()
    assert (looked["verdict"], looked["doubts"]) == ("undecided", [doubt])
    judged = here.teacher.post(
        "/exercises/16-roomier-than-usual/proof/answer",
        json={
            "content": here.teacher.get("/exercises/16-roomier-than-usual").json()["content"],
            "sql": rejected,
        },
    ).json()
    assert (judged["verdict"], judged["doubts"]) == ("undecided", [doubt])
    doubtful = run(roomier, "SELECT name FROM huts WHERE LEN(name) > 4")
    assert doubtful["verdict"] == "ran"
    assert doubtful["doubts"] == [
        "Oracle SQL has no function LEN that is known here. It belongs to Transact-SQL; here one "
        "writes LENGTH(text)."
    ]
    plain = run(BUSY, "SELECT name FROM huts")
    assert (plain["runs_as"], plain["doubts"]) == ("", [])


def test_one_learner_s_endless_query_holds_up_nobody(here: Class) -> None:
    here.hurry("01-high-huts")
    begun = threading.Event()

    def endless() -> str:
        begun.set()
        return str(here.ada.post(f"{BUSY}/runs", json={"sql": ENDLESS}).json()["verdict"])

    with ThreadPoolExecutor(1) as pool:
        first = pool.submit(endless)
        begun.wait(10)
        # While it runs, another learner's run and hand-in come to their end.
        assert here.tomas.post(f"{BUSY}/runs", json={"sql": "SELECT 1"}).json()["verdict"] == "ran"
        slow = hand_in(here.ada, EARLY, ENDLESS).json()["id"]
        quick = hand_in(here.tomas, BUSY, "SELECT name FROM huts").json()["id"]
        here.graded()
        assert first.result(60) == "stopped"
    said = [
        browser.get(f"/own/submissions/{id}").json()["attempt"]["verdict"]
        for browser, id in ((here.ada, slow), (here.tomas, quick))
    ]
    assert said == ["stopped", "incorrect"]


def test_what_takes_long_leaves_the_short_lane(here: Class) -> None:
    lanes: list[str] = []
    look = Engines.get

    def noted(engines: Engines, name: str, *, fresh: bool = False, use: Any = "steady") -> Any:
        if use in ("runs", "long-runs"):
            lanes.append(use)
        return look(engines, name, fresh=fresh, use=use)

    def ask(where: str, sql: str, whose: TestClient = here.ada) -> list[str]:
        lanes.clear()
        whose.post(f"{BUSY}/{where}", json={"sql": sql})
        return list(lanes)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Engines, "get", noted)
        for where in ("runs", "copy/runs"):
            assert ask(where, "SELECT 1") == ["runs"]
            assert ask(where, "SELECT nowhere") == ["runs"]
            assert ask(where, ENDLESS) == ["runs", "long-runs"]
        # Who did so twice begins there, and nobody else.
        assert ask("runs", "SELECT 1") == ["long-runs"]
        assert ask("runs", "SELECT 1", here.tomas) == ["runs"]


def test_whose_answers_take_long_waits_among_those(here: Class) -> None:
    here.hurry("01-high-huts")
    here.runtime.queue.pause(1)
    slow = [hand_in(here.ada, EARLY, f"{ENDLESS} -- {at}").json()["id"] for at in range(3)]
    quick = [hand_in(here.tomas, EARLY, "SELECT name FROM huts").json()["id"]]
    moved: list[Sequence[int]] = []

    def note(session: Session, ids: Sequence[int], priority: int) -> None:
        moved.append(ids)
        put_back(session, ids, priority)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(grading_queue, "put_back", note)
        here.runtime.queue.resume(1)
        here.graded()
    # One was tried in each lane at most: the others were moved with the first.
    assert len(next(ids for ids in moved if ids)) >= len(slow) - len(queue_lanes.HURRIED) + 1
    with here.runtime.records.session() as session:
        (ada,), (tomas,) = (learners_of(session, ids) for ids in (slow[:1], quick))
    assert [here.runtime.queue.priority_of(one) for one in (ada, tomas)] == [SLOW, HANDED_IN]
    late = hand_in(here.ada, EARLY, "SELECT name FROM huts").json()["id"]
    here.graded()
    assert here.ada.get(f"/own/submissions/{late}").json()["attempt"]["verdict"] == "incorrect"


def test_the_pace_of_one_learner() -> None:
    now = [0.0]
    pace = Pace("query", 2, lambda: now[0])
    with pace.turn(1):
        with pytest.raises(TooOften, match="still at work"), pace.turn(1):
            pass
        with pace.turn(2):
            pass
    with pace.turn(1):
        pass
    with pytest.raises(TooOften, match="2 times within a minute") as problem, pace.turn(1):
        pass
    assert problem.value.wait == 60
    now[0] = 60.0
    with pace.turn(1):
        pass


# the private copy


def test_what_is_noted_on_a_table_is_shown_with_it(here: Class) -> None:
    here.teacher.put("/samples/huts/notes", json={"table": "stays", "note": "One row a stay."})
    for path in (BUSY, f"{BUSY}/copy"):
        tables = {one["table"]["name"]: one["table"] for one in here.ada.get(path).json()["tables"]}
        assert tables["stays"]["note"] == "One row a stay."
        columns = {one["name"]: one["note"] for one in tables["huts"]["columns"]}
        assert columns["altitude_m"] == "metres above the sea"


def copied(here: Class, sql: str) -> Any:
    return here.ada.post(f"{BUSY}/copy/runs", json={"sql": sql}).json()


def test_everything_may_be_changed_in_a_copy(here: Class) -> None:
    said = copied(
        here,
        "CREATE TABLE tents (id INTEGER PRIMARY KEY, of_hut INTEGER REFERENCES huts);\n"
        "INSERT INTO tents SELECT hut_id, hut_id FROM huts;\n"
        "UPDATE tents SET of_hut = 1 WHERE id > 3; DELETE FROM tents WHERE id > 6;\n"
        "ALTER TABLE tents ADD COLUMN colour TEXT DEFAULT 'red';\n"
        "ALTER TABLE tents RENAME COLUMN of_hut TO hut;\n"
        "SELECT count(*), min(hut), max(colour) FROM tents; -- that is all",
    )
    assert said["verdict"] == "ran", said
    assert [one["changed"] for one in said["done"]] == [0, 12, 9, 6, 0, 0, 0]
    assert said["done"][-1]["result"]["rows"] == [[6, 1, "red"]]
    tables = {
        one["table"]["name"]: one["rows"] for one in here.ada.get(f"{BUSY}/copy").json()["tables"]
    }
    assert tables["tents"] == 6
    rows = here.ada.get(f"{BUSY}/copy/tables/tents/rows?limit=2").json()
    assert (rows["total"], rows["rows"]) == (6, [[1, 1, "red"], [2, 2, "red"]])
    # Neither the sample, nor grading, nor anybody else sees any of it.
    assert "tents" not in here.ada.get(BUSY).text
    assert (
        here.ada.post(f"{BUSY}/runs", json={"sql": "SELECT * FROM tents"}).json()["verdict"]
        == "error"
    )
    assert "tents" not in here.tomas.get(f"{BUSY}/copy").text
    assert "tents" not in here.ada.post(f"{BUSY}/copy/reset").text


@pytest.mark.parametrize(
    ("sql", "verdict", "words"),
    [
        ("DELETE FROM stays; SELECT * FROM nowhere", "error", "no table nowhere"),
        ("UPDATE stays SET hut_id = 99", "error", "refer to a row"),
        ("DELETE FROM stays; COMMIT", "refused", "one transaction already"),
        ("SAVEPOINT a", "refused", "one transaction already"),
        ("PRAGMA foreign_keys = OFF", "refused", "PRAGMA"),
        ("ATTACH '/tmp/x.db' AS x", "refused", "Only this copy"),
        ("VACUUM INTO '/tmp/x.db'", "error", ""),
        ("CREATE TRIGGER t AFTER INSERT ON huts BEGIN SELECT 1; END", "refused", "Triggers"),
        ("CREATE VIRTUAL TABLE v USING fts5(a)", "refused", "Virtual tables"),
        ("CREATE TEMP TABLE t(a)", "refused", "not allowed"),
        ("SELECT load_extension('x')", "refused", "function"),
        ("DELETE FROM sqlite_schema", "error", "sqlite_master"),
        ("CREATE TABLE big AS " + ENDLESS.replace("max(i)", "i"), "stopped", "Nothing was changed"),
        (ENDLESS, "stopped", "too long"),
        ("-- nothing", "error", "no statement"),
        ("SELEC 1", "error", ""),
    ],
)
def test_a_script_on_a_copy_is_done_wholly_or_not_at_all(
    here: Class, sql: str, verdict: str, words: str
) -> None:
    before = here.ada.get(f"{BUSY}/copy").json()
    said = copied(here, sql)
    assert (said["verdict"], words in said["message"], said["done"]) == (verdict, True, []), said
    after = here.ada.get(f"{BUSY}/copy").json()
    assert after["tables"] == before["tables"]


def test_a_copy_for_an_exercise_on_duckdb_is_duckdbs_own(here: Class) -> None:
    rivers = BUSY.replace("08-busy-huts", "09-long-rivers")
    page = here.ada.get(rivers).json()
    assert "foreign keys" in page["copy_note"]
    assert here.ada.get(BUSY).json()["copy_note"] == ""
    script = (
        "CREATE TABLE buoys AS FROM range(3) AS n(buoy); INSERT INTO buoys VALUES (7) RETURNING buoy; "
        "SELECT buoy, list_value(buoy, 1) AS pair FROM buoys ORDER BY ALL"
    )
    said = here.ada.post(f"{rivers}/copy/runs", json={"sql": script}).json()
    assert (said["verdict"], said["message"]) == ("ran", "")
    assert [one["changed"] for one in said["done"]] == [0, 1, 0]
    tables = {one["table"]["name"]: one for one in here.ada.get(f"{rivers}/copy").json()["tables"]}
    assert tables["buoys"]["rows"] == 4
    keyed = [one["table"]["primary_key"] for name, one in tables.items() if name == "rivers"]
    assert keyed == [["river_id"]]
    rows = here.ada.get(f"{rivers}/copy/tables/buoys/rows?limit=2").json()
    assert (rows["rows"], rows["total"]) == ([[0], [1]], 4)
    assert here.ada.get(f"{rivers}/copy/tables/boats/rows").status_code == 404
    # The copy of the other engine is another one, and so is everybody else's.
    assert "buoys" not in here.ada.get(f"{BUSY}/copy").text
    assert "buoys" not in here.tomas.get(f"{rivers}/copy").text
    wrong = here.ada.post(
        f"{rivers}/copy/runs", json={"sql": "DELETE FROM buoys;\nSET threads = 9"}
    ).json()
    assert (wrong["verdict"], wrong["place"]["line"]) == ("refused", 2)
    assert "Settings cannot be changed" in wrong["message"]
    assert here.ada.get(f"{rivers}/copy").json()["tables"] == list(tables.values())
    assert "buoys" not in here.ada.post(f"{rivers}/copy/reset").text


@pytest.mark.parametrize(
    ("engine", "key", "day_after", "yes"),
    [
        ("postgresql", "serial PRIMARY KEY", "seen + 1", True),
        ("mariadb", "INT AUTO_INCREMENT PRIMARY KEY", "DATE_ADD(seen, INTERVAL 1 DAY)", 1),
    ],
)
def test_a_copy_for_an_exercise_on_a_server_is_there(
    here: Class, engine: str, key: str, day_after: str, yes: Any
) -> None:
    here.ada.post(f"{BUSY}/copy/runs", json={"sql": "CREATE TABLE tents (a)"})
    here.change("08-busy-huts", engine=engine)
    assert here.ada.get(BUSY).json()["copy_note"] == ""
    page = here.ada.get(f"{BUSY}/copy").json()
    assert "tents" not in {one["table"]["name"] for one in page["tables"]}, "that one is SQLite's"
    assert 0 < page["bytes"] < page["room"]
    script = (
        f"CREATE TABLE caves (cave {key}, dry boolean NOT NULL DEFAULT true, seen date);"
        "INSERT INTO caves (seen) VALUES ('2026-11-01'), (NULL) RETURNING cave, dry;"
        f"SELECT {day_after} AS later, CASE WHEN dry THEN 1 ELSE 0 END FROM caves ORDER BY cave"
    )
    said = here.ada.post(f"{BUSY}/copy/runs", json={"sql": script}).json()
    assert (said["verdict"], said["message"]) == ("ran", "")
    assert said["done"][1]["result"]["rows"] == [[1, yes], [2, yes]]
    assert said["done"][2]["result"]["rows"][0] == [{"date": "2026-11-02"}, 1]
    (caves,) = [
        one
        for one in here.ada.get(f"{BUSY}/copy").json()["tables"]
        if one["table"]["name"] == "caves"
    ]
    assert (caves["rows"], caves["table"]["primary_key"]) == (2, ["cave"])
    rows = here.ada.get(f"{BUSY}/copy/tables/caves/rows?limit=1").json()
    assert (rows["rows"], rows["total"]) == ([[1, yes, {"date": "2026-11-01"}]], 2)
    wrong = here.ada.post(
        f"{BUSY}/copy/runs", json={"sql": "DELETE FROM caves;\nSET max_statement_time = 0"}
    ).json()
    assert (wrong["verdict"], wrong["place"]["line"]) == ("refused", 2)
    assert "caves" not in here.tomas.get(f"{BUSY}/copy").text
    assert "caves" not in here.ada.post(f"{BUSY}/copy/reset").text


def test_a_copy_is_limited_in_size(here: Class) -> None:
    fill = (
        "CREATE TABLE big AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n LIMIT 40) "
        "SELECT i, randomblob(900000) AS b FROM n"
    )
    said = copied(here, fill)
    assert (said["verdict"], "Your copy is full" in said["message"]) == ("stopped", True), said
    found = here.ada.get(f"{BUSY}/copy").json()
    assert found["bytes"] <= found["room"]


def test_a_view_without_an_end_holds_up_no_page(here: Class) -> None:
    assert copied(here, f"CREATE VIEW endless AS {ENDLESS}")["verdict"] == "ran"
    tables = here.ada.get(f"{BUSY}/copy").json()["tables"]
    assert {one["table"]["name"]: one["rows"] for one in tables}["endless"] is None
    assert here.ada.get(f"{BUSY}/copy/tables/endless/rows").status_code == 404


def test_the_instructor_sees_what_lateness_makes_of_a_mark(here: Class) -> None:
    on_time = hand_in(here.ada, BUSY, reference(here, "08-busy-huts")).json()["id"]
    here.clock.now = datetime.fromisoformat("2026-12-01T12:00:00+01:00")
    late = hand_in(here.tomas, BUSY, reference(here, "08-busy-huts")).json()["id"]
    here.graded()
    assert here.teacher.get(f"/submissions/{on_time}").json()["late"] is None
    assert here.teacher.get(f"/submissions/{late}").json()["late"] == {
        "sheet": "Groups, order and sets", "share": 0.8, "mark": 3.2,
    }  # fmt: skip


def test_a_sheet_with_answers_stays(here: Class) -> None:
    refused = here.teacher.delete("/sheets/1-choosing-rows")
    assert (refused.status_code, "were handed in to Choosing rows" in refused.text) == (409, True)
    empty = here.teacher.post("/sheets", json={"title": "Nothing yet", "exercises": []}).json()
    assert here.teacher.delete(f"/sheets/{empty['slug']}").status_code == 204


def test_runs_are_found_again_and_kept_under_a_name(fresh: TestClient) -> None:
    ada = person(app_of(fresh), LEARNER)
    path = "/own/sheets/2-groups-order-sets/exercises/08-busy-huts/runs"
    for sql in ("SELECT 1 AS one", "SELECT nmae FROM huts", "SELECT name FROM huts"):
        assert ada.post(path, json={"sql": sql}).status_code == 200
    found = ada.get(path).json()
    assert [(one["sql"], one["rows"]) for one in found] == [
        ("SELECT name FROM huts", 12),
        ("SELECT nmae FROM huts", None),
        ("SELECT 1 AS one", 1),
    ]
    assert "Did you mean name?" in found[1]["said"]
    first = found[2]["id"]
    assert ada.put(f"{path}/{first}", json={"name": "  the  first "}).json()["name"] == "the first"
    # The same text once more is the same run, with its name.
    ada.post(path, json={"sql": "SELECT 1 AS one"})
    ada.post(path, json={"sql": "SELECT 1 AS one"})
    names = [(one["sql"], one["name"]) for one in ada.get(path).json()]
    assert names[0] == ("SELECT 1 AS one", "")
    assert names.count(("SELECT 1 AS one", "")) == 1
    assert ("SELECT 1 AS one", "the first") in names
    # Nobody else's, and no other exercise's.
    other = person(app_of(fresh), OTHER)
    assert other.get(path).json() == []
    assert other.put(f"{path}/{first}", json={"name": "mine"}).status_code == 404
    assert ada.get(path.replace("08-busy-huts", "07-missing-values")).json() == []
    assert ada.put(f"{path}/{first}", json={"name": "x" * 81}).status_code == 422


def test_old_runs_are_forgotten_unless_they_have_a_name(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("jentrow.services.runtime.run_history.KEPT", 3)
    ada = person(app_of(fresh), LEARNER)
    path = "/own/sheets/2-groups-order-sets/exercises/08-busy-huts/runs"
    ada.post(path, json={"sql": "SELECT 0"})
    (kept,) = ada.get(path).json()
    ada.put(f"{path}/{kept['id']}", json={"name": "kept"})
    for at in range(1, 6):
        ada.post(path, json={"sql": f"SELECT {at}"})
    found = [one["sql"] for one in ada.get(path).json()]
    assert found == ["SELECT 5", "SELECT 4", "SELECT 3", "SELECT 0"]


def test_a_learner_s_own_query_is_taken_apart(fresh: TestClient) -> None:
    ada = person(app_of(fresh), LEARNER)
    place = "/own/sheets/2-groups-order-sets/exercises/08-busy-huts"
    sql = "SELECT hut_id FROM stays WHERE meal_plan <> 'half' GROUP BY hut_id"
    trace = ada.post(f"{place}/trace", json={"sql": sql}).json()
    steps = {one["kind"]: one for one in trace["steps"]}
    assert (steps["from"]["rows"], steps["where"]["parts"]) == (
        38,
        {"kept": 14, "false": 17, "unknown": 7},
    )
    asked = {"sql": steps["where"]["sql"], "beside": True, "only": "unknown"}
    rows = ada.post(f"{place}/trace/rows", json=asked).json()
    assert rows["result"]["row_count"] == 7
    assert ada.post(f"{place}/trace", json={"sql": "SELECT nmae FROM huts"}).status_code == 200
    # An exercise may say that it does not.
    assert ada.get(place).json()["steps"] is True
    content = fresh.get("/exercises/08-busy-huts").json()["content"]
    content["feedback"]["steps"] = False
    assert fresh.put("/exercises/08-busy-huts", json=content).status_code == 200
    assert ada.get(place).json()["steps"] is False
    for path, body in (("trace", {"sql": sql}), ("trace/rows", asked)):
        said = ada.post(f"{place}/{path}", json=body)
        assert said.status_code == 409
        assert "does not show queries step by step" in said.json()["message"]


def test_a_text_is_laid_out_tidily(here: Class) -> None:
    loose = "select hut_id from huts where beds>1 order by hut_id"
    said = here.ada.post(f"{BUSY}/layout", json={"sql": loose})
    assert said.status_code == 200, said.text
    assert said.json()["text"].splitlines() == [
        "SELECT hut_id", "FROM huts", "WHERE beds > 1", "ORDER BY hut_id"
    ]  # fmt: skip
    assert said.json()["changes"]
    for same in (said.json()["text"], "select from where"):
        again = here.ada.post(f"{BUSY}/layout", json={"sql": same}).json()
        assert (again["text"], again["changes"]) == (same, [])
    assert here.ada.post(f"{BUSY}/layout", json={"sql": "\0"}).status_code == 422
    long = here.ada.post(f"{BUSY}/layout", json={"sql": "SELECT 1" + " + 1" * 3_000})
    assert long.status_code == 422
    assert "8,000 characters" in long.text


def test_two_texts_of_one_s_own_are_compared(here: Class) -> None:
    def compared(first: str, second: str) -> dict[str, Any]:
        body = {"first": first, "second": second}
        found: dict[str, Any] = here.ada.post(f"{EARLY}/comparisons", json=body).json()
        return found

    wide = "SELECT name\nFROM huts\nWHERE beds > 30"
    narrow = wide.replace("> 30", "> 40")
    found = compared(wide, narrow)
    assert (found["same"], found["woven"]["counts"]["absent"] > 0) == (False, True)
    assert compared(wide, wide.replace(">", " > "))["same"]
    broken = compared("SELECT nome FROM huts", wide)
    assert broken["woven"] is None
    assert broken["message"].startswith("The first text does not run: ")
    assert "The second" in compared(wide, "SELECT nome FROM huts")["message"]
    writes = here.ada.post(
        f"{EARLY}/comparisons", json={"first": wide, "second": "DROP TABLE huts"}
    )
    assert writes.json()["woven"] is None
    assert here.teacher.post(f"{EARLY}/comparisons", json={}).status_code == 403
