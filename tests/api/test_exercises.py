"""The exercise bench over HTTP: writing, versions, proof, sheets, packs."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import yaml
from fastapi.testclient import TestClient
from hypothesis import given, settings
from hypothesis import strategies as st

from jentrow.core.exercises.packs.reading import opened_pack
from tests.api.server import runtime_of

HUTS = "/exercises/01-high-huts"
OPEN = "/samples/huts/datasets/open"


def got(answer: Any, status: int = 200) -> Any:
    assert answer.status_code == status, answer.text
    return answer.json() if answer.content else None


def idle(client: TestClient) -> None:
    runtime = runtime_of(client)
    assert runtime.queue.wait_until_idle()


def content_of(client: TestClient, address: str = HUTS) -> dict[str, Any]:
    content: dict[str, Any] = got(client.get(address))["content"]
    return content


# writing


def test_from_nothing_to_a_trial_that_holds(fresh: TestClient) -> None:
    begun = {"title": "Höchste Hütte?", "sample": "huts"}
    assert got(fresh.post("/exercises", json=begun), 201) == {"slug": "hochste-hutte"}
    assert got(fresh.post("/exercises", json=begun), 201) == {"slug": "hochste-hutte-2"}
    place = "/exercises/hochste-hutte"
    content = content_of(fresh, place)
    proof = got(fresh.post(f"{place}/proof", json=content))
    assert proof["problems"] == ["there is no reference answer yet"]
    content |= {
        "reference": "SELECT name FROM huts WHERE altitude_m = (SELECT MAX(altitude_m) FROM huts)",
        "alternatives": [{"name": "sorted", "sql": "SELECT name FROM huts ORDER BY 1 LIMIT 1"}],
        "trials": [{"name": "lowest", "sql": "SELECT name FROM huts", "expected": "incorrect"}],
    }
    proof = got(fresh.post(f"{place}/proof", json=content))
    assert (proof["problems"], proof["trouble"]) == ([], "")
    assert proof["reference"]["result"]["rows"] == [["Gratwacht"]]
    assert [one["verdict"] for one in proof["alternatives"]] == ["incorrect"]
    assert proof["constructs"] == ["subquery"]
    trials = got(fresh.post(f"{place}/proof/trials", json=content))
    assert [(one["name"], one["holds"]) for one in trials["trials"]] == [("lowest", True)]
    assert trials["warnings"][0]["code"] == "reference.one_row"
    assert got(fresh.put(place, json=content)) == {"version": 2}
    assert got(fresh.put(place, json=content)) == {"version": 2}  # nothing changed
    assert content_of(fresh, place)["trials"][0]["expected"] == "incorrect"


def test_a_draft_is_kept_whatever_is_wrong_with_it(fresh: TestClient) -> None:
    content = content_of(fresh) | {"title": "", "points": None, "reference": "SELECT nope FROM"}
    assert "drafted_at" in got(fresh.put(f"{HUTS}/draft", json=content))
    refused = got(fresh.put(HUTS, json=content), 422)["message"]
    assert "title is empty" in refused
    assert "points is empty" in refused
    found = got(fresh.get(HUTS))
    assert found["draft"]["reference"] == "SELECT nope FROM"
    assert found["content"]["title"] == "High huts"
    assert next(one["has_draft"] for one in got(fresh.get("/exercises"))) is True
    fresh.delete(f"{HUTS}/draft")
    assert got(fresh.get(HUTS))["draft"] is None


def test_versions_are_listed_compared_and_restored(fresh: TestClient) -> None:
    before = content_of(fresh)
    content = before | {"reference": before["reference"].replace(" DESC", ""), "points": 2.5}
    assert got(fresh.put(HUTS, json=content)) == {"version": 2}
    listed = got(fresh.get(f"{HUTS}/versions"))
    assert [(one["number"], one["summary"]) for one in listed] == [
        (2, "points, reference"),
        (1, "from the pack Alpine data course"),
    ]
    parts = got(fresh.get(f"{HUTS}/versions/comparison?older=1&newer=2"))
    told = {part["part"]: (part["before"], part["after"]) for part in parts}
    assert told["reference.sql"] == (before["reference"], content["reference"])
    assert "points: 2.5" in told["exercise.yaml"][1]
    assert "points: 2.5" not in told["exercise.yaml"][0]
    assert got(fresh.post(f"{HUTS}/versions/1/restore")) == {"version": 3}
    assert content_of(fresh) == before
    got(fresh.post(f"{HUTS}/versions/9/restore"), 404)


def test_copying_and_deleting(fresh: TestClient) -> None:
    assert got(fresh.post(f"{HUTS}/copies", json={"title": "Low huts"}), 201) == {
        "slug": "low-huts"
    }
    assert content_of(fresh, "/exercises/low-huts")["title"] == "Low huts"
    got(fresh.delete("/exercises/low-huts"), 204)
    assert "18 answers" in got(fresh.delete(HUTS), 422)["message"]
    got(fresh.delete(HUTS, params={"with_answers": True}), 204)
    got(fresh.get(HUTS), 404)


# proof


def test_a_turned_rule_shows_what_changes(fresh: TestClient) -> None:
    content = content_of(fresh) | {"rules": {"row_order": "ignore"}}
    trials = got(fresh.post(f"{HUTS}/proof/trials", json=content))
    assert [one["name"] for one in trials["trials"] if not one["holds"]] == [
        "lowest-first",
        "not-ordered",
    ]
    changes = got(fresh.post(f"{HUTS}/proof/answers", json=content))
    assert changes["answers"] == 18
    assert {(one["before"], one["after"]) for one in changes["changes"]} == {
        ("incorrect", "correct")
    }
    # Nothing is kept by looking; kept, the answers are graded anew only when that is asked for.
    assert got(fresh.get(HUTS))["counts"]["correct"] < 18
    got(fresh.put(HUTS, json=content))
    before = got(fresh.get(HUTS))["counts"]["correct"]
    assert got(fresh.post(f"{HUTS}/regrade")) == {"count": 18}
    idle(fresh)
    assert got(fresh.get(HUTS))["counts"]["correct"] == before + len(changes["changes"])


def test_what_is_wrong_with_a_reference_has_its_place(client: TestClient) -> None:
    content = content_of(client) | {"reference": "SELECT name,\n  hight FROM huts"}
    proof = got(client.post(f"{HUTS}/proof", json=content))
    assert proof["reference"]["place"] == {"line": 2, "column": 3}
    assert proof["reference"]["near"] == "hight"
    assert "hight" in proof["trouble"]
    for part in ("trials", "answers"):
        assert "hight" in got(client.post(f"{HUTS}/proof/{part}", json=content))["trouble"]


def test_an_undecided_trial_says_why(client: TestClient) -> None:
    place = "/exercises/16-roomier-than-usual"
    content = got(client.get(place))["content"]
    joined = (
        "SELECT h.name, h.region, h.beds FROM huts h JOIN (SELECT region, AVG(beds) usual FROM huts "
        "GROUP BY region) u {} u.region = h.region AND h.beds > u.usual"
    )
    whole, half = (
        got(
            client.post(
                f"{place}/proof/answer", json={"content": content, "sql": joined.format(word)}
            )
        )
        for word in ("ON", "WHERE")
    )
    assert (whole["verdict"], whole["doubts"]) == ("correct", [])
    assert (half["verdict"], half["doubts"]) == (
        "undecided",
        ["Oracle SQL wants ON behind every JOIN."],
    )
    assert "CROSS JOIN" in half["runs_as"] or "," in half["runs_as"]


def test_an_answer_is_judged_with_its_ledger_and_layout(client: TestClient) -> None:
    place = "/exercises/17-rising-water"
    content = content_of(client, place)
    sql = content["alternatives"][0]["sql"].replace("SELECT now", "select now")
    judged = got(client.post(f"{place}/proof/answer", json={"content": content, "sql": sql}))
    assert (judged["verdict"], judged["mark"]) == ("correct", 3.0)
    assert [(line["part"], line["points"]) for line in judged["ledger"]] == [
        ("result", 6.0),
        ("constructs", -2.0),
        ("layout", -0.5),
        ("layout", -0.5),
    ]
    assert judged["layout"]["text"].startswith("SELECT now")
    assert {finding["code"] for finding in judged["findings"]} == {
        "construct.required",
        "style.layout",
    }
    other = got(
        client.post(
            f"{place}/proof/answer",
            json={"content": content, "sql": "SELECT 1", "dataset": "dry-year", "alone": True},
        )
    )
    assert other["shown_dataset"] == "dry-year"
    assert other["woven"]["due_rows"] == 6


def test_the_expected_result_as_learners_see_it(client: TestClient) -> None:
    content = content_of(client) | {"feedback": {"expected": {"rows": "first", "first": 2}}}
    shown = got(client.post(f"{HUTS}/proof", json=content))["shown"]
    assert shown["columns"] == ["name", "region", "altitude_m"]
    assert shown["row_count"] is None
    assert len(shown["result"]["rows"]) == 2


def test_a_query_step_by_step(client: TestClient) -> None:
    sql = "SELECT region, COUNT(*) FROM huts WHERE beds > 10 GROUP BY region ORDER BY 2"
    trace = got(client.post(f"{OPEN}/trace", json={"sql": sql}))
    assert [(step["kind"], step["rows"]) for step in trace["steps"]] == [
        ("from", 12), ("where", 9), ("group", 4), ("select", 4), ("order", 4),
    ]  # fmt: skip
    where = trace["steps"][1]
    rows = got(client.post(f"{OPEN}/trace/rows", json={"sql": where["sql"], "beside": True}))
    assert [column["name"] for column in rows["result"]["columns"]][-1] == "beds"
    assert (len(rows["beside"]), sum(rows["beside"])) == (12, 9)
    narrowed = {"sql": where["sql"], "beside": True, "only": "false"}
    rows = got(client.post(f"{OPEN}/trace/rows", json=narrowed))
    assert rows["beside"] == [0, 0, 0]
    two = "SELECT name FROM huts WHERE beds > 40 AND region = 'North'"
    (_, where, _) = got(client.post(f"{OPEN}/trace", json={"sql": two}))["steps"]
    asked = {"sql": where["sql"], "beside": True, "telling": where["telling"], "told": 2}
    rows = got(client.post(f"{OPEN}/trace/rows", json=asked))
    assert next(one["name"] for one in rows["result"]["columns"]) == "hut_id"
    assert {(min(told), beside) for told, beside in zip(rows["told"], rows["beside"], strict=True)} == {
        (0, 0), (1, 1),
    }  # fmt: skip
    rows = got(client.post(f"{OPEN}/trace/rows", json=asked | {"telling": "SELECT nope"}))
    assert (rows["told"], len(rows["beside"])) == ([], 12)
    broken = got(client.post(f"{OPEN}/trace/rows", json={"sql": "SELECT nope"}))
    assert (broken["result"], "nope" in broken["message"]) == (None, True)


def test_a_row_is_added_for_as_long_as_somebody_looks(client: TestClient) -> None:
    sql = "SELECT name FROM huts WHERE beds > 1000"
    new = {
        "table": "huts",
        "values": {
            "hut_id": "99",
            "name": "Grat",
            "region": "North",
            "altitude_m": "2000",
            "beds": "1001",
        },
    }
    asked = {"sql": sql, "added": [new]}
    before = got(client.post(f"{OPEN}/trace", json={"sql": sql}))
    after = got(client.post(f"{OPEN}/trace", json=asked))
    counts = [[step["rows"] for step in one["steps"]] for one in (before, after)]
    assert counts[0][1:] == [0, 0]
    assert counts[1] == [counts[0][0] + 1, 1, 1]
    last = after["steps"][-1]["sql"]
    rows = got(client.post(f"{OPEN}/trace/rows", json=asked | {"sql": last}))
    assert rows["result"]["rows"] == [["Grat"]]
    # Nobody else sees it, not even who looks without it.
    again = got(client.post(f"{OPEN}/trace/rows", json={"sql": last}))
    assert again["result"]["rows"] == []
    refused = client.post(
        f"{OPEN}/trace", json=asked | {"added": [new, {"table": "huts", "values": {"hut_id": "1"}}]}
    )
    assert refused.status_code == 422
    said = refused.json()
    assert (said["edit"], said["table"]) == (1, "huts")
    nowhere = client.post(f"{OPEN}/trace", json=asked | {"added": [new | {"table": "barns"}]})
    assert nowhere.status_code == 422
    assert "barns" in nowhere.json()["message"]
    for engine in ("duckdb", "oracle"):
        other = got(client.post(f"{OPEN}/trace", json=asked | {"engine": engine}))
        assert [step["rows"] for step in other["steps"]] == counts[1]


def test_the_list_of_constructs(client: TestClient) -> None:
    found = {one["id"]: one for one in got(client.get("/constructs"))}
    assert found["function"]["named"] is True
    assert found["case"]["words"] == "CASE"


# sheets


def test_sheets_are_made_changed_and_deleted(fresh: TestClient) -> None:
    assert [one["points"] for one in got(fresh.get("/sheets"))] == [22, 27, 33]
    body: dict[str, Any] = {
        "title": "Extra",
        "opens": "2026-12-14 08:00",
        "closes": "2026-12-20 20:00",
        "attempts": 2,
        "late": {"rule": "reduce", "percent_a_day": 20, "days": 3},
        "exercises": [{"exercise": "09-long-rivers"}, {"exercise": "01-high-huts", "points": 1}],
    }
    made = got(fresh.post("/sheets", json=body), 201)
    assert (made["slug"], made["points"]) == ("extra", 4)
    body["exercises"].reverse()
    changed = got(fresh.put("/sheets/extra", json=body | {"closes": None, "attempts": None}))
    assert [entry["slug"] for entry in changed["entries"]] == ["01-high-huts", "09-long-rivers"]
    assert (changed["closes"], changed["attempts"]) == (None, None)
    wrong = body | {"closes": "2026-12-01 20:00", "exercises": [{"exercise": "x"}]}
    message = got(fresh.put("/sheets/extra", json=wrong), 422)["message"]
    assert "before it opens" in message
    assert "unknown exercise 'x'" in message
    got(fresh.delete("/sheets/extra"), 204)
    got(fresh.delete("/sheets/extra"), 404)


# packs


def handed_in(client: TestClient, data: bytes) -> str:
    id = got(client.post("/imports"), 201)["id"]
    got(client.put(f"/imports/{id}/files/pack.zip", content=data))
    got(client.post(f"/packs/{id}/look"), 202)
    return str(id)


def finished(client: TestClient, id: str) -> Any:
    runtime = runtime_of(client)
    thread = runtime.import_jobs._under_way[id].thread
    assert thread is not None
    thread.join(60)
    return got(client.get(f"/packs/{id}"))


def repacked(data: bytes, change: Callable[[dict[str, str]], None]) -> bytes:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        files = {name: archive.read(name).decode() for name in archive.namelist()}
    change(files)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, text in files.items():
            archive.writestr(name, text)
    return out.getvalue()


def exported(client: TestClient, *slugs: str) -> bytes:
    answer = client.get("/packs/export", params={"exercise": list(slugs)})
    assert answer.status_code == 200
    return answer.content


def test_a_whole_pack_comes_back_as_it_was(fresh: TestClient, tmp_path: Path) -> None:
    data = exported(fresh)
    (tmp_path / "pack.zip").write_bytes(data)
    with opened_pack(tmp_path / "pack.zip") as pack:
        assert len(pack.exercises) == 18
        assert [len(sheet.entries) for sheet in pack.sheets] == [6, 7, 5]
        assert set(pack.samples) == {"huts", "gauges"}
    preview = finished(fresh, handed_in(fresh, data))["preview"]
    items = [*preview["samples"], *preview["exercises"], *preview["sheets"]]
    assert {item["state"] for item in items} == {"same"}


def test_a_pack_with_new_changed_and_conflicting_exercises(fresh: TestClient) -> None:
    data = exported(fresh, "01-high-huts", "03-open-bills", "04-hut-sizes")
    assert {name.split("/")[1] for name in zipfile.ZipFile(io.BytesIO(data)).namelist()
            if name.startswith("samples/")} == {"huts"}  # fmt: skip

    def change(files: dict[str, str]) -> None:
        for slug in ("01-high-huts", "03-open-bills"):
            files[f"exercises/{slug}/prompt.md"] = "Another prompt.\n"
        for name in [name for name in files if "/04-hut-sizes/" in name]:
            files[name.replace("04-hut-sizes", "19-new-one")] = files[name]

    ours = content_of(fresh, "/exercises/03-open-bills") | {"prompt": "Changed here."}
    got(fresh.put("/exercises/03-open-bills", json=ours))
    id = handed_in(fresh, repacked(data, change))
    found = finished(fresh, id)
    states = {one["id"]: one["state"] for one in found["preview"]["exercises"]}
    assert states == {
        "01-high-huts": "changed",
        "03-open-bills": "conflict",
        "04-hut-sizes": "same",
        "19-new-one": "new",
    }
    conflict = found["preview"]["exercises"][1]
    assert (conflict["differing"], conflict["usual"]) == (["prompt"], "ours")
    assert conflict["differences"] == [
        {"part": "prompt.md", "before": "Changed here.\n", "after": "Another prompt.\n"}
    ]
    # Nothing is done by looking.
    assert "Another" not in content_of(fresh)["prompt"]
    choices = {"exercises": {"03-open-bills": "both"}}
    got(fresh.post(f"/packs/{id}/take", json={"exercises": {"x": "ours"}}), 422)
    got(fresh.post(f"/packs/{id}/take", json=choices), 202)
    assert finished(fresh, id)["state"]["phase"] == "kept"
    assert content_of(fresh)["prompt"] == "Another prompt.\n"
    assert content_of(fresh, "/exercises/03-open-bills")["prompt"] == "Changed here."
    beside = content_of(fresh, "/exercises/03-open-bills-2")
    assert beside["prompt"] == "Another prompt.\n"
    listed = [line["slug"] for line in got(fresh.get("/exercises"))]
    assert listed[-2:] == ["03-open-bills-2", "19-new-one"]
    assert got(fresh.get(f"{HUTS}/versions"))[0]["summary"].startswith("from the pack")


def test_a_sample_that_differs_is_taken_in_beside_ours(fresh: TestClient) -> None:
    def change(files: dict[str, str]) -> None:
        name = "samples/huts/open/huts.csv"
        files[name] = files[name].replace("3102", "3103")

    id = handed_in(fresh, repacked(exported(fresh, "01-high-huts"), change))
    preview = finished(fresh, id)["preview"]
    assert [(one["state"], one["differing"]) for one in preview["samples"]] == [
        ("conflict", ["open"])
    ]
    refused = fresh.post(f"/packs/{id}/take", json={"samples": {"huts": "theirs"}})
    assert "is in use" in got(refused, 422)["message"]
    choices = {"samples": {"huts": "both"}, "exercises": {"01-high-huts": "both"}}
    got(fresh.post(f"/packs/{id}/take", json=choices), 202)
    assert finished(fresh, id)["state"]["phase"] == "kept"
    assert content_of(fresh, "/exercises/01-high-huts-2")["sample"] == "huts 2"
    assert content_of(fresh)["sample"] == "huts"


def test_a_broken_pack_changes_nothing_and_says_why(fresh: TestClient) -> None:
    def change(files: dict[str, str]) -> None:
        head = yaml.safe_load(files["exercises/01-high-huts/exercise.yaml"])
        files["exercises/01-high-huts/exercise.yaml"] = yaml.safe_dump(head | {"points": -3})

    id = handed_in(fresh, repacked(exported(fresh, "01-high-huts"), change))
    found = finished(fresh, id)
    assert (found["state"]["phase"], found["preview"]) == ("failed", None)
    assert "points is -3" in found["state"]["problems"][0]["message"]
    got(fresh.post(f"/packs/{id}/take", json={}), 422)
    got(fresh.delete(f"/imports/{id}"), 204)
    got(fresh.get("/packs/export?exercise=nowhere"), 404)


# anything that may be typed

JUNK = st.sampled_from(
    [
        "", " ", "x\0y", "SELECT", "SELECT 1; SELECT 2", "DELETE FROM huts", "VALUES (1)",
        "SELECT * FROM huts, huts", "WITH a AS (SELECT 1) SELECT * FROM a ORDER BY 1 LIMIT 1",
        "SELECT ((((", "é" * 50, "a/b", "../x", "SELECT name FROM huts -- '", "SELECT RANDOM()",
    ]
)  # fmt: skip
VALUES = st.none() | st.booleans() | st.floats() | st.integers(-5, 10**9) | JUNK
NAMES = st.sampled_from(
    ["require", "forbid", "name", "points", "message", "scheme", "weights", "rows", "expected",
     "row_order", "limits", "number_tolerance", "spacing", "keyword_case", "first", "x"]
)  # fmt: skip
MAPPINGS = st.dictionaries(NAMES, VALUES | st.dictionaries(NAMES, VALUES, max_size=2), max_size=3)
CONTENTS = st.fixed_dictionaries(
    {},
    optional={
        "title": JUNK, "sample": JUNK, "engine": JUNK, "prompt": JUNK, "reference": JUNK,
        "points": st.none() | st.floats(allow_nan=False, allow_infinity=False),
        "tags": st.lists(JUNK, max_size=3), "rules": MAPPINGS, "layout": MAPPINGS,
        "marks": MAPPINGS, "feedback": MAPPINGS, "constructs": st.lists(MAPPINGS, max_size=2),
        "alternatives": st.lists(st.fixed_dictionaries({"name": JUNK, "sql": JUNK}), max_size=2),
    },
)  # fmt: skip


@settings(max_examples=settings.default.max_examples * 3 // 4)
@given(changes=CONTENTS, sql=JUNK, part=st.sampled_from(["", "/trials", "/answers", "/answer"]))
def test_nothing_that_is_typed_makes_the_server_fail(
    client: TestClient, changes: dict[str, Any], sql: str, part: str
) -> None:
    content = content_of(client) | json.loads(json.dumps(changes).replace("NaN", "0"))
    body = {"content": content, "sql": sql} if part == "/answer" else content
    text = json.dumps(body).replace("Infinity", "1e300")
    answer = client.post(
        f"{HUTS}/proof{part}", content=text, headers={"Content-Type": "application/json"}
    )
    assert answer.status_code in (200, 422), answer.text
    if answer.status_code == 422:
        assert answer.json()["message"]
