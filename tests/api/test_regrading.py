"""Gradings know what they were made with; tasks are claimed, and none is lost or graded for ever."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import func, select

from jentrow.core.exercises.grader import Grader
from jentrow.records.claims import SET_ASIDE, begin, claim_batch, drop_tasks, release_stale
from jentrow.records.models import Exercise, Grading, GradingTask, Submission
from jentrow.records.submissions import gradings_of
from jentrow.records.tasks import HANDED_IN, SLOW, add_tasks
from jentrow.services.runtime.runtime import Runtime
from tests.api.server import runtime_of
from tests.api.test_grading import HUTS, content_of, counts, got, hand_in, idle

WRONG = "SELECT 1"


def ids_of(runtime: Runtime, texts: list[str]) -> list[int]:
    with runtime.records.session() as session:
        found = session.execute(select(Submission.sql, Submission.id).order_by(Submission.id))
        last = {row.sql: row.id for row in found}
    return [last[text] for text in texts]


def view_of(client: TestClient, id: int) -> dict[str, Any]:
    return got(client.get(f"/submissions/{id}"))


class Meanwhile:
    """Does something once while a batch is being graded, before it is kept."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch, do: Any) -> None:
        judged = Grader.judged
        self.done = False

        def judged_and_more(grader: Grader, texts: Any) -> Any:
            found = list(judged(grader, texts))
            if not self.done:
                self.done = True
                do()
            return iter(found)

        monkeypatch.setattr(Grader, "judged", judged_and_more)


def test_a_keep_while_answers_are_graded_grades_them_again(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    content = content_of(fresh)
    changed = content | {"reference": WRONG}
    Meanwhile(monkeypatch, lambda: got(fresh.put(HUTS, json=changed)))
    hand_in(runtime, [WRONG])
    runtime.queue.wake()
    idle(fresh)
    (id,) = ids_of(runtime, [WRONG])
    view = view_of(fresh, id)
    assert (view["verdict"], view["graded_version"], view["version"]) == ("correct", 2, 2)
    assert view["outdated"] is False
    with runtime.records.session() as session:
        kept = gradings_of(session, id)
        assert [(one.verdict, one.exercise_version) for one in kept] == [
            ("correct", 2), ("incorrect", 1)
        ]  # fmt: skip
        assert kept[0].measure != kept[1].measure
        assert [one["digest"] for one in kept[0].datasets] == [
            one["digest"] for one in kept[1].datasets
        ]


def test_a_regrade_while_answers_are_graded_is_not_lost(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    seen: list[int] = []

    def again() -> None:
        got(fresh.post(f"{HUTS}/regrade"))
        with runtime.records.session() as session:
            seen.extend(session.scalars(select(GradingTask.generation)))

    Meanwhile(monkeypatch, again)
    graded = runtime.queue.state_of(1).graded
    hand_in(runtime, ["SELECT 2"])
    runtime.queue.wake()
    idle(fresh)
    assert max(seen) == 2
    # Once for the hand-in, and once for each answer to the exercise by the regrade.
    answers = len(got(fresh.get(HUTS))["submissions"])
    assert runtime.queue.state_of(1).graded == graded + 1 + answers
    assert counts(runtime)[2] == 0


def test_edited_rows_while_answers_are_graded_grade_them_again(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    rows = got(fresh.get("/samples/huts/datasets/open/tables/huts/rows"))["rows"]
    edit = {"do": "update", "table": "huts", "row": rows[0]["number"], "values": {"beds": "99"}}
    url = "/samples/huts/datasets/open/edits"
    Meanwhile(monkeypatch, lambda: got(fresh.post(url, json={"edits": [edit]})))
    hand_in(runtime, ["SELECT 3"])
    runtime.queue.wake()
    idle(fresh)
    (id,) = ids_of(runtime, ["SELECT 3"])
    assert view_of(fresh, id)["outdated"] is False
    with runtime.records.session() as session:
        versions = [one.dataset_versions["open"] for one in gradings_of(session, id)]
    assert len(set(versions)) == len(versions) == 2


def test_what_is_out_of_date_is_found_by_comparing(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    view = got(fresh.get(HUTS))
    answers = len(view["submissions"])
    assert view["outdated"] == 0
    content = content_of(fresh)
    got(fresh.put(HUTS, json=content | {"prompt": "Another prompt."}))
    assert got(fresh.get(HUTS))["outdated"] == 0
    got(fresh.put(HUTS, json=content | {"reference": WRONG}))
    assert got(fresh.get(HUTS))["outdated"] == answers
    # The page shows what was kept, and says so; only the table is of now.
    line = next(one for one in view["submissions"] if one["verdict"] == "correct")
    shown = view_of(fresh, line["id"])
    assert (shown["verdict"], shown["outdated"]) == ("correct", True)
    assert (shown["graded_version"], shown["version"]) == (1, 3)
    assert shown["woven"]["counts"] != {}
    got(fresh.put(HUTS, json=content))
    assert got(fresh.get(HUTS))["outdated"] == 0
    assert view_of(fresh, line["id"])["outdated"] is False
    with runtime.records.session() as session:
        before = session.scalar(select(func.count(Grading.id)))
    got(fresh.post(f"{HUTS}/regrade"))
    idle(fresh)
    with runtime.records.session() as session:
        after = session.scalar(select(func.count(Grading.id)))
    # Another version's gradings stand beside those of the first.
    assert after == (before or 0) + answers


def test_an_ungraded_answer_has_a_page(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    runtime.queue.pause(1)
    hand_in(runtime, ["SELECT 4"])
    (id,) = ids_of(runtime, ["SELECT 4"])
    view = view_of(fresh, id)
    assert (view["verdict"], view["mark"], view["findings"], view["ledger"]) == (
        "waiting", None, [], []
    )  # fmt: skip
    assert view["woven"] is not None


def test_a_task_that_takes_its_worker_down_is_set_aside(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    deadly = "SELECT 'deadly'"
    judged = Grader.judged
    asked: list[int] = []

    def lose(grader: Grader, texts: list[str]) -> Any:
        if deadly in texts:
            asked.append(len(texts))
        for places, outcome in judged(grader, texts):
            yield places, None if texts[places[0]] == deadly else outcome

    monkeypatch.setattr(Grader, "judged", lose)
    hand_in(runtime, [WRONG, deadly, "SELECT 2"])
    runtime.queue.wake()
    idle(fresh)
    assert asked == [3, 1]
    lines = {one["learner"]: one for one in got(fresh.get(HUTS))["submissions"]}
    assert [lines[f"Learner {at}"]["verdict"] for at in range(3)] == [
        "incorrect", "waiting", "incorrect"
    ]  # fmt: skip
    assert lines["Learner 1"]["summary"] == SET_ASIDE
    assert view_of(fresh, lines["Learner 1"]["id"])["problem"] == SET_ASIDE
    assert got(fresh.get("/grading"))["blocked"] == 1
    monkeypatch.undo()
    got(fresh.post(f"{HUTS}/regrade"))
    idle(fresh)
    assert view_of(fresh, lines["Learner 1"]["id"])["verdict"] == "incorrect"


def test_claims_of_a_server_that_was_killed_are_taken_over(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    runtime.queue.pause(1)
    hand_in(runtime, ["SELECT 5", "SELECT 6"])
    runtime.queue.close()
    later = Runtime(runtime.folder)
    later.queue.resume(1)
    hands: list[list[str]] = []
    for round_ in range(6):
        if round_ == 2:
            hand_in(later, ["SELECT 7"])
        with later.records.writing() as session:
            release_stale(session, f"server {round_}")
        with later.records.writing() as session:
            batch = claim_batch(session, f"server {round_}", 10, range(4))
            assert batch is not None
            if round_ == 0:  # a server that ends before it judges tells nothing of the answers
                release_stale(session, "another")
                assert set(session.scalars(select(GradingTask.tries))) == {0}
                batch = claim_batch(session, f"server {round_}", 10, range(4))
                assert batch is not None
            begin(session, list(batch.generations))
            hands.append([one.sql for one in batch.claimed])
    # Together, then each alone. What was in hand at an end comes after what was not, so that nobody is
    # held up, and no answer is in hand at every end because it came first.
    both = ["SELECT 5", "SELECT 6"]
    assert hands == [both, ["SELECT 5"], ["SELECT 7"], ["SELECT 6"], ["SELECT 7"], ["SELECT 5"]]
    with later.records.session() as session:
        found = session.scalars(select(GradingTask).order_by(GradingTask.submission_id))
        assert [(one.tries, one.problem) for one in found] == [(2, ""), (2, ""), (2, "")]
    with later.records.writing() as session:
        release_stale(session, "the last server")
    with later.records.session() as session:
        found = session.scalars(select(GradingTask).order_by(GradingTask.submission_id))
        assert [(one.tries, one.problem) for one in found] == [(3, SET_ASIDE), (2, ""), (2, "")]
    later.queue.drain()
    assert counts(later)[2] == 1
    later.close()


def test_learners_take_turns(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)
    idle(fresh)
    runtime.queue.pause(1)
    runtime.queue.close()
    later = Runtime(runtime.folder)
    later.queue.resume(1)
    handed_in: list[int] = []

    def hand_in(*who: int) -> None:
        with later.records.writing() as session:
            exercise = session.scalars(select(Exercise).order_by(Exercise.id)).first()
            assert exercise is not None
            learners = list(session.scalars(select(Submission.learner_id).distinct().limit(3)))
            at = datetime(2026, 11, 1, tzinfo=UTC) + timedelta(seconds=len(handed_in))
            made = [
                Submission(
                    exercise_id=exercise.id, learner_id=learners[one], submitted_at=at,
                    sql=f"SELECT {len(handed_in) + nth}",
                )
                for nth, one in enumerate(who)
            ]  # fmt: skip
            session.add_all(made)
            session.flush()
            add_tasks(session, made, HANDED_IN)
            handed_in.extend(one.id for one in made)

    def claim(most: int = 10) -> list[int]:
        with later.records.writing() as session:
            batch = claim_batch(session, "me", most, (HANDED_IN, SLOW))
            if batch is None:
                return []
            drop_tasks(session, batch.generations)
            return [handed_in.index(one.submission_id) for one in batch.claimed]

    hand_in(0, 0, 0, 0, 1, 1, 1)
    assert [claim(1), claim(1), claim(1)] == [[0], [4], [1]]
    # The first of somebody who comes later is not behind the rest of those who came before.
    hand_in(2, 2)
    assert [claim(1), claim(1)] == [[7], [5]]
    assert [claim(), claim(), claim()] == [[2, 6, 8], [3], []]
    later.close()


def test_four_keeps_at_once(fresh: TestClient) -> None:
    content = content_of(fresh)

    def keep(at: int) -> int:
        changed = content | {"prompt": f"Prompt {at}.", "reference": f"SELECT {at}"}
        return fresh.put(HUTS, json=changed).status_code

    with ThreadPoolExecutor(4) as pool:
        statuses = list(pool.map(keep, range(40)))
    assert set(statuses) <= {200, 409, 503}
    assert statuses.count(200) == 40
    assert got(fresh.get(HUTS))["version"] == 41


def test_an_outcome_says_the_same_as_the_page(fresh: TestClient) -> None:
    """List and page show one and the same grading."""
    idle(fresh)
    lines = got(fresh.get("/exercises/14-huts-and-nights"))["submissions"]
    for line in lines[:6]:
        view = view_of(fresh, line["id"])
        assert (view["verdict"], view["mark"]) == (line["verdict"], line["mark"])
