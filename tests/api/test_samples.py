"""Samples over HTTP: looked at, changed, kept, made of files."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path
from runpy import run_path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jentrow.core.samples.dataset import Dataset
from jentrow.records.exercises import find_exercise
from jentrow.services.runtime.runtime import Runtime
from jentrow.services.samples import catalogue
from jentrow.services.scope import course_scope
from tests.api.server import runtime_of
from tests.api.test_exercises import got
from tests.demo_course import DEMO

OPEN = "/samples/huts/datasets/open"


def edit(client: TestClient, *edits: dict[str, Any]) -> dict[str, Any]:
    answer = client.post(f"{OPEN}/edits", json={"edits": list(edits)})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json()
    return found


def test_the_list_and_one_sample(client: TestClient) -> None:
    _, line = client.get("/samples").json()
    assert (line["name"], line["tables"], line["exercises"]) == (
        "huts",
        ["huts", "trails", "wardens", "stays"],
        10,
    )
    assert [(one["name"], one["is_open"], one["rows"]) for one in line["datasets"]] == [
        ("open", True, 74),
        ("second-season", False, 35),
    ]
    sample = client.get("/samples/huts").json()
    stays = next(table for table in sample["tables"] if table["name"] == "stays")
    assert stays["foreign_keys"][0]["table"] == "huts"
    assert {column["name"]: column["type_name"] for column in stays["columns"]}["paid_on"] == "date"
    assert stays["checks"] == ["nights > 0"]


def notes_of(client: TestClient, sample: str = "huts") -> dict[str, str]:
    """What is noted on a sample's tables and columns, by their names."""
    tables = client.get(f"/samples/{sample}").json()["tables"]
    said = {table["name"]: table["note"] for table in tables}
    said |= {
        f"{table['name']}.{one['name']}": one["note"]
        for table in tables
        for one in table["columns"]
    }
    return {name: note for name, note in said.items() if note}


def test_notes_are_kept_and_go_where_the_sample_goes(fresh: TestClient) -> None:
    begun = notes_of(fresh)
    assert begun["huts.altitude_m"] == "metres above the sea"

    def note(**given: str) -> Any:
        return fresh.put("/samples/huts/notes", json=given)

    assert note(table="HUTS", column="Beds", note=" in all rooms ").status_code == 204
    assert note(table="wardens", note="One a hut, mostly.").status_code == 204
    assert note(table="huts", column="altitude_m", note="").status_code == 204
    changed = begun | {"huts.beds": "in all rooms", "wardens": "One a hut, mostly."}
    del changed["huts.altitude_m"]
    assert notes_of(fresh) == changed
    assert note(table="hut", note="x").status_code == 422
    assert note(table="huts", column="bed", note="x").json()["message"].startswith("huts has no")
    assert note(table="huts", note="x" * 501).json()["message"] == (
        "huts: its note has 501 characters; at most 500 are kept."
    )
    assert notes_of(fresh) == changed
    assert fresh.post("/samples/huts/copies", json={"name": "cabins"}).status_code == 201
    assert notes_of(fresh, "cabins") == changed
    pack = zipfile.ZipFile(io.BytesIO(fresh.get("/samples/huts/export?format=pack").content))
    assert b"in all rooms" in pack.read("samples/huts/notes.yaml")


def test_rows_are_paged_sorted_and_narrowed(client: TestClient) -> None:
    rows = client.get(
        f"{OPEN}/tables/stays/rows",
        params={"sort": ["-nights", "guest"], "where": "meal_plan IS NULL", "limit": 2},
    ).json()
    assert (rows["total"], rows["matching"], len(rows["rows"])) == (38, 7, 2)
    first = rows["rows"][0]
    place = client.get(
        f"{OPEN}/tables/stays/rows/{first['number']}/place",
        params={"sort": ["-nights", "guest"], "where": "meal_plan IS NULL"},
    ).json()
    assert place == {"place": 0}
    profile = client.get(f"{OPEN}/tables/stays/profile").json()
    nulls = {column["name"]: column["nulls"] for column in profile["columns"]}
    assert nulls["meal_plan"] == 7
    parent = client.get(f"{OPEN}/tables/stays/rows/101/parent", params={"column": "hut_id"}).json()
    assert parent == {"table": "huts", "row": 4}
    children = client.get(f"{OPEN}/tables/huts/rows/4/children").json()
    assert {
        "table": "stays",
        "columns": ["hut_id"],
        "count": 5,
        "where": '"hut_id" = 4',
    } in children


def rows_due(client: TestClient) -> int:
    content = client.get("/exercises/01-high-huts").json()["content"]
    proof = client.post("/exercises/01-high-huts/proof", json=content).json()
    return int(proof["reference"]["result"]["row_count"])


def test_an_edit_reaches_the_exercises_and_is_undone(fresh: TestClient) -> None:
    before = rows_due(fresh)
    added = edit(
        fresh,
        {"do": "insert", "table": "huts",
         "values": {"name": "Neu", "region": "North", "altitude_m": "2500", "beds": "4"}},
    )  # fmt: skip
    assert added == {"version": 2, "added": [13]}
    assert rows_due(fresh) == before + 1
    assert fresh.get(OPEN).json()["undo"] == "row added to huts"
    assert fresh.post(f"{OPEN}/undo").json()["kind"] == "undo"
    assert rows_due(fresh) == before
    assert fresh.post(f"{OPEN}/redo").json()["number"] == 4
    versions = fresh.get(f"{OPEN}/versions").json()
    assert [version["kind"] for version in versions] == ["redo", "undo", "edit", "made"]
    content = fresh.get("/exercises/01-high-huts").json()["content"]
    trials = fresh.post("/exercises/01-high-huts/proof/trials", json=content).json()
    assert all(trial["holds"] for trial in trials["trials"])


def test_pages_of_other_sites_change_nothing(fresh: TestClient) -> None:
    edit(fresh, {"do": "delete", "table": "stays", "rows": [101]})
    answer = fresh.post(f"{OPEN}/undo", headers={"Sec-Fetch-Site": "cross-site"})
    assert answer.status_code == 403
    assert fresh.get(OPEN, headers={"Sec-Fetch-Site": "cross-site"}).json()["version"] == 2
    assert fresh.post(f"{OPEN}/undo", headers={"Sec-Fetch-Site": "same-origin"}).status_code == 200


def test_a_refused_edit_names_its_cell(fresh: TestClient) -> None:
    answer = fresh.post(
        f"{OPEN}/edits",
        json={
            "edits": [{"do": "update", "table": "stays", "row": 101, "values": {"hut_id": "99"}}]
        },
    )
    assert answer.status_code == 422
    assert answer.json() == {
        "message": "there is no row in huts with hut_id 99.",
        "edit": 0,
        "table": "stays",
        "column": "hut_id",
    }
    answer = fresh.post(f"{OPEN}/edits", json={"edits": [{"do": "shout", "table": "stays"}]})
    assert answer.status_code == 422
    assert "edits.0" in answer.json()["message"]


def test_versions_are_woven_and_restored(fresh: TestClient) -> None:
    edit(
        fresh,
        {"do": "update", "table": "huts", "row": 1, "values": {"beds": "7"}},
        {"do": "delete", "table": "stays", "rows": [101]},
        {"do": "insert", "table": "trails",
         "values": {"from_hut": "1", "to_hut": "12", "hours": "2.5"}},
    )  # fmt: skip
    tables = {one["table"]: one for one in fresh.get(f"{OPEN}/versions/1/to/2").json()}
    (line,) = tables["huts"]["woven"]["lines"]
    assert (line["kind"], line["wrong"]) == ("differs", [4])
    assert (line["due"][1], line["due"][4], line["given"][4]) == ("Silberhorn", 42, 7)
    assert tables["stays"]["woven"]["lines"][0]["kind"] == "absent"
    assert tables["trails"]["woven"]["lines"][0]["given"] == [1, 12, 2.5, None]
    assert fresh.post(f"{OPEN}/versions/1/restore").json()["number"] == 3
    assert fresh.get(f"{OPEN}/versions/1/to/3").json() == []
    for path in ("versions/9/restore", "versions/3/restore"):
        assert fresh.post(f"{OPEN}/{path}").status_code == 422


def test_what_is_missing_is_suggested(fresh: TestClient) -> None:
    showing = {one["id"]: one for one in fresh.get(f"{OPEN}/showing").json()}
    assert (
        showing["boundary:huts:altitude_m:2000"]["words"] == "altitude_m exactly 2000 (High huts)"
    )
    missing = next(one for one in showing.values() if not one["present"])
    found = fresh.get(f"{OPEN}/suggestion", params={"id": missing["id"]}).json()
    edit(fresh, *({"do": "insert", **row} for row in found["rows"]))
    again = {one["id"]: one for one in fresh.get(f"{OPEN}/showing").json()}
    assert again[missing["id"]]["present"]
    assert fresh.get(f"{OPEN}/suggestion", params={"id": "nothing"}).status_code == 404


def test_queries_are_run_kept_and_compared(fresh: TestClient) -> None:
    tried = fresh.post(f"{OPEN}/queries", json={"sql": "SELECT region FROM huts"}).json()
    assert (tried["verdict"], tried["result"]["row_count"]) == ("ran", 12)
    edit(fresh, {"do": "delete", "table": "stays", "rows": [101]})
    counted = fresh.post(f"{OPEN}/queries", json={"sql": "SELECT count(*) FROM stays"}).json()
    assert counted["result"]["rows"] == [[37]]
    wrong = fresh.post(f"{OPEN}/queries", json={"sql": "SELECT\nregon FROM huts"}).json()
    assert (wrong["verdict"], wrong["place"]) == ("error", {"line": 2, "column": 1})
    refused = fresh.post(f"{OPEN}/queries", json={"sql": "DELETE FROM stays"}).json()
    assert refused["verdict"] == "refused"
    fresh.post(f"{OPEN}/queries", json={"sql": "DELETE FROM stays"})
    history = fresh.get("/samples/huts/queries").json()
    assert [one["rows"] for one in history] == [None, None, 1, 12]
    both = {"first": "SELECT region FROM huts", "second": "SELECT DISTINCT region FROM huts"}
    compared = fresh.post(f"{OPEN}/queries/comparison", json=both).json()
    assert compared["same"] is False
    assert compared["woven"]["counts"]["times"] == 4
    both["second"] = "SELECT h.region FROM huts AS h"
    assert fresh.post(f"{OPEN}/queries/comparison", json=both).json()["same"] is True
    both["first"] = "SELECT"
    assert fresh.post(f"{OPEN}/queries/comparison", json=both).status_code == 422


def test_datasets_and_samples_are_added_copied_and_deleted(fresh: TestClient) -> None:
    add = "/samples/huts/datasets"
    for body in (
        {"name": "third", "copy_of": "open"},
        {"name": "none", "copy_of": "open", "empty": True},
    ):
        assert fresh.post(add, json=body).status_code == 201
    assert fresh.post(add, json={"name": "THIRD", "copy_of": "open"}).status_code == 422
    assert fresh.post(add, json={"name": "a/b", "copy_of": "open"}).status_code == 422
    rows = {one["name"]: one["rows"] for one in fresh.get("/samples").json()[-1]["datasets"]}
    assert rows == {"open": 74, "second-season": 35, "third": 74, "none": 0}
    assert fresh.get("/exercises/01-high-huts").json()["datasets"][-1] == "none"
    assert fresh.delete(f"{add}/none").status_code == 204
    assert fresh.delete(f"{add}/open").status_code == 422
    assert fresh.post("/samples/huts/copies", json={"name": "huts two"}).status_code == 201
    assert fresh.patch("/samples/huts two", json={"name": "HUTS"}).status_code == 422
    assert fresh.patch("/samples/huts two", json={"name": "cabins"}).json() == {"name": "cabins"}
    copy = fresh.get("/samples/cabins").json()
    assert [one["version"] for one in copy["datasets"]] == [1, 1, 1]
    assert fresh.delete("/samples/huts").json()["message"].startswith("huts is needed by")
    assert fresh.delete("/samples/cabins").status_code == 204
    assert fresh.get("/samples/cabins").status_code == 404


def test_a_new_dataset_is_never_taken_for_a_deleted_one(fresh: TestClient) -> None:
    add = "/samples/huts/datasets"
    for empty, stays in ((False, 38), (True, 0)):
        fresh.post(add, json={"name": "third", "copy_of": "open", "empty": empty})
        counted = fresh.post(f"{add}/third/queries", json={"sql": "SELECT count(*) FROM stays"})
        assert counted.json()["result"]["rows"] == [[stays]]
        assert fresh.delete(f"{add}/third").status_code == 204


def finished(client: TestClient, id: str) -> dict[str, Any]:
    """Where an import stands once its work has ended."""
    runtime_of(client).import_jobs._under_way[id].thread.join(60)
    found: dict[str, Any] = client.get(f"/imports/{id}").json()
    return found


def handed_in(client: TestClient, **files: bytes) -> dict[str, Any]:
    id = client.post("/imports").json()["id"]
    for name, data in files.items():
        answer = client.put(f"/imports/{id}/files/{name.replace('__', '.')}", content=data)
        assert answer.status_code == 200, answer.text
    assert client.post(f"/imports/{id}/look", json={}).status_code == 202
    return finished(client, id)


@pytest.mark.parametrize("format", ["pack", "csv", "script", "database"])
def test_what_is_exported_is_imported_the_same(fresh: TestClient, format: str) -> None:
    exported = fresh.get("/samples/huts/export", params={"format": format})
    assert exported.status_code == 200
    name = exported.headers["content-disposition"].split('"')[1]
    one = handed_in(fresh, **{name.replace(".", "__"): exported.content})
    assert one["phase"] == "made", one
    kept = fresh.post(f"/imports/{one['id']}/make", json={"name": "again"}).json()
    assert (kept["phase"], kept["sample"]) == ("kept", "again")
    first, second = (fresh.get(f"/samples/{name}").json() for name in ("huts", "again"))
    # A script and a database file have no room for notes.
    assert notes_of(fresh, "again") == (notes_of(fresh) if format in ("pack", "csv") else {})
    for table in [*first["tables"], *second["tables"]]:
        table["note"] = ""
        for column in table["columns"]:
            column["note"] = ""
    assert second["tables"] == first["tables"]
    datasets = ["open", "second-season"] if format in ("pack", "csv") else ["open"]
    assert [dataset["name"] for dataset in second["datasets"]] == datasets
    for dataset in datasets:
        for table in ("huts", "trails", "wardens", "stays"):
            path = f"datasets/{dataset}/tables/{table}/rows"
            before, after = (
                [row["cells"] for row in fresh.get(f"/samples/{name}/{path}").json()["rows"]]
                for name in ("huts", "again")
            )
            assert after == before


def planned(proposal: dict[str, Any]) -> list[dict[str, Any]]:
    """A proposal taken as it is."""
    names = {"integer": "INTEGER", "text": "TEXT", "date": "DATE", "decimal": "DECIMAL"}
    return [
        {
            "table": {
                "name": table["name"],
                "columns": [
                    {"name": one["name"], "type": names[one["type"]["name"]],
                     "not_null": one["not_null"]}
                    for one in table["columns"]
                ],
                "primary_key": table["primary_key"],
                "foreign_keys": [
                    {"columns": [key["column"]], "table": key["table"], "to": [key["to"]]}
                    for key in table["foreign_keys"]
                ],
            },
            "filled": {
                "file": table["file"],
                "format": table["format"],
                "sources": [one["source"] for one in table["columns"]],
                "types": [one["type"] for one in table["columns"]],
            },
        }
        for table in proposal["tables"]
    ]  # fmt: skip


def test_csv_files_become_a_sample_as_corrected(fresh: TestClient) -> None:
    one = handed_in(
        fresh,
        rivers__csv=b"river_id;name;since\n1;Lind;1.4.1961\n2;Sarn;31.12.1999\n",
        weirs__csv=b"code,river_id\nW1,1\nW2,2\nW3,x\n",
    )
    assert one["phase"] == "proposed"
    rivers, weirs = one["tables"]
    assert rivers["format"]["delimiter"] == ";"
    assert rivers["columns"][2]["type"] == {"name": "date", "form": "d.m.y"}
    assert weirs["columns"][1]["type"]["name"] == "text"
    plan = planned(one)
    plan[1]["table"]["columns"][1]["type"] = "INTEGER"
    plan[1]["filled"]["types"][1] = {"name": "integer", "form": ""}
    make = f"/imports/{one['id']}/make"
    assert fresh.post(make, json={"name": "rivers", "tables": plan}).status_code == 202
    failed = finished(fresh, one["id"])
    assert failed["phase"] == "failed"
    assert failed["problems"] == [
        {
            "file": "weirs.csv",
            "row": 4,
            "column": "river_id",
            "message": "'x' is not a whole number.",
        }
    ]
    assert [line["name"] for line in fresh.get("/samples").json()] == ["gauges", "huts"]
    plan[1]["filled"]["types"][1] = plan[1]["filled"]["types"][0]
    plan[1]["table"]["columns"][1]["type"] = "TEXT"
    assert fresh.post(make, json={"name": "rivers", "tables": plan}).status_code == 202
    made = finished(fresh, one["id"])
    assert (made["phase"], made["sample"]) == ("kept", "rivers")
    rows = fresh.get("/samples/rivers/datasets/open/tables/rivers/rows").json()["rows"]
    assert rows[1]["cells"] == [2, "Sarn", "1999-12-31"]
    assert fresh.delete(f"/imports/{one['id']}").status_code == 204
    assert fresh.get(f"/imports/{one['id']}").status_code == 404


def test_a_script_of_another_dialect_tells_what_was_left_out(fresh: TestClient) -> None:
    one = handed_in(
        fresh, dump__sql=b"CREATE SEQUENCE s;\nCREATE TABLE a (id serial PRIMARY KEY, t text);"
    )
    assert (one["phase"], one["dialect"]) == ("made", "postgres")
    assert 1 in [note["line"] for note in one["made"][0]["notes"]]
    again = fresh.post(f"/imports/{one['id']}/look", json={"dialect": "sqlite"})
    assert again.status_code == 202
    assert finished(fresh, one["id"])["problems"][0]["file"] == "dump.sql"


COMPUTED = """CREATE TABLE huts (name VARCHAR, tags VARCHAR[], seen TIMESTAMPTZ);
INSERT INTO huts SELECT upper('n' || i), [i::VARCHAR], NULL FROM range(3) AS r(i);
CREATE TABLE counts AS SELECT count(*) AS n FROM huts;
"""


def test_a_script_is_run_whole_by_its_own_engine(fresh: TestClient) -> None:
    one = handed_in(fresh, huts__sql=COMPUTED.encode())
    assert (one["phase"], one["dialect"]) == ("made", "duckdb")
    assert [note["why"] for note in one["made"][0]["notes"]] == [
        "DuckDB ran the script: the rows are as it gave them."
    ]
    fresh.post(f"/imports/{one['id']}/make", json={"name": "computed"})
    assert finished(fresh, one["id"])["phase"] == "kept"
    rows = fresh.get("/samples/computed/datasets/open/tables/huts/rows").json()["rows"]
    assert [row["cells"][:2] for row in rows] == [[f"N{at}", f'["{at}"]'] for at in range(3)]


def test_what_no_engine_takes_of_a_script_is_told_in_its_own_words_first(
    fresh: TestClient,
) -> None:
    broken = COMPUTED + "INSERT INTO counts VALUES (nothing_of_the_kind(1));\n"
    one = handed_in(fresh, huts__sql=broken.encode())
    assert one["phase"] == "failed"
    first = one["problems"][0]["message"]
    assert first.startswith("DuckDB did not run the script: line 4: ")
    assert "nothing_of_the_kind" in first


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("notes.docx", b"words", "none of them"),
        ("x.db", b"no database", "although its name says so"),
        (".hidden", b"", "is no name of a file"),
        ("nul.sql", b"CREATE TABLE a (x int);\n\0", "nul.sql: holds a NUL character (line 2)"),
    ],
)
def test_files_that_are_no_use_are_refused(
    fresh: TestClient, name: str, data: bytes, words: str
) -> None:
    id = fresh.post("/imports").json()["id"]
    answer = fresh.put(f"/imports/{id}/files/{name}", content=data)
    assert answer.status_code == 422
    assert words in answer.json()["message"]
    assert "/" not in answer.json()["message"]
    assert fresh.post(f"/imports/{id}/look", json={}).status_code == 422


def test_zips_of_other_things(fresh: TestClient) -> None:
    def zipped(**files: str) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            for name, text in files.items():
                archive.writestr(name.replace("__", "."), text)
        return out.getvalue()

    files = {"a__csv": "x,y\n1,2\n", "old/a__csv": "z\nq\n", "new/a__csv": "z\nr\n"}
    one = handed_in(fresh, x__zip=zipped(**files))
    assert [table["name"] for table in one["tables"]] == ["a", "new_a", "old_a"]
    nothing = handed_in(fresh, x__zip=zipped(readme__md="words"))
    assert "neither a schema.sql nor a CSV" in nothing["problems"][0]["message"]


def test_tables_are_made_by_hand(fresh: TestClient) -> None:
    table = {
        "name": "gates",
        "columns": [
            {"name": "id", "type": "INTEGER"},
            {"name": "width", "type": "DECIMAL(4,1)", "default": "1.5", "not_null": True},
        ],
        "primary_key": ["id"],
        "checks": ["width > 0"],
    }
    made = fresh.post("/samples", json={"name": "by hand", "tables": [table]})
    assert made.status_code == 201
    path = "/samples/by hand/datasets/open"
    row = {"do": "insert", "table": "gates", "values": {}}
    assert fresh.post(f"{path}/edits", json={"edits": [row]}).json()["added"] == [1]
    rows = fresh.get(f"{path}/tables/gates/rows").json()["rows"]
    assert rows == [{"number": 1, "cells": [1, 1.5]}]
    table["checks"] = ["width >"]
    bad = fresh.post("/samples", json={"name": "worse", "tables": [table]})
    assert bad.status_code == 422
    assert "the check 'width >' cannot be read" in bad.json()["message"]
    assert fresh.post("/samples", json={"name": "none", "tables": []}).status_code == 422


def test_a_sample_is_made_of_another_with_its_tables_changed(fresh: TestClient) -> None:
    def columns(*names: str) -> list[dict[str, Any]]:
        return [{"name": name, "type": type} for name, type in (one.split(":") for one in names)]

    def filled(file: str, *sources: str, **types: str) -> dict[str, Any]:
        return {
            "file": file,
            "format": {},
            "sources": list(sources),
            "types": [{"name": types[one]} if one in types else None for one in sources],
        }

    plan = [
        {
            "table": {
                "name": "cabins",
                "columns": columns("id:INTEGER", "title:TEXT", "open:BOOLEAN"),
                "primary_key": ["id"],
            },
            "filled": filled("huts", "hut_id", "name", ""),
        },
        {
            "table": {"name": "plans", "columns": columns("plan:INTEGER")},
            "filled": filled("stays", "meal_plan", meal_plan="integer"),
        },
    ]
    id = fresh.post("/imports").json()["id"]
    make = f"/imports/{id}/make"
    asked = {"name": "cabins", "tables": plan, "of_sample": "huts"}
    assert fresh.post(make, json=asked).status_code == 202
    failed = finished(fresh, id)
    assert failed["problem_count"] == 31
    assert failed["problems"][0] == {
        "file": "stays", "row": 101, "column": "meal_plan",
        "message": "'half' is not a whole number.",
    }  # fmt: skip
    asked["tables"] = plan[:1]
    assert fresh.post(make, json=asked).status_code == 202
    assert finished(fresh, id)["phase"] == "kept"
    made = fresh.get("/samples/cabins").json()
    assert [(one["name"], one["rows"]) for one in made["datasets"]] == [
        ("open", 12),
        ("second-season", 8),
    ]
    rows = fresh.get("/samples/cabins/datasets/open/tables/cabins/rows").json()["rows"]
    assert rows[0]["cells"] == [1, "Silberhorn", None]
    plan[0]["filled"]["sources"][0] = "nowhere"
    assert "no column 'nowhere'" in fresh.post(make, json=asked).json()["message"]


def test_decimals_are_kept_as_real_numbers_where_that_is_wanted(fresh: TestClient) -> None:
    script = (
        b"CREATE TABLE boats (name TEXT PRIMARY KEY, price DECIMAL(6,2), length_m INTEGER);\n"
        b"INSERT INTO boats VALUES ('Auk', 25.00, 9), ('Tern', NULL, 12);\n"
        b"CREATE VIEW dear AS SELECT name FROM boats WHERE price > 20;"
    )
    halves = {}
    for real in (False, True):
        one = handed_in(fresh, boats__sql=script)
        assert one["decimals"] == ["price"]
        name = f"boats {real}"
        asked = fresh.post(f"/imports/{one['id']}/make", json={"name": name, "real_decimals": real})
        assert asked.status_code == 202, asked.text
        assert finished(fresh, one["id"])["sample"] == name
        tables = fresh.get(f"/samples/{name}").json()["tables"]
        assert [table["name"] for table in tables] == ["boats", "dear"]
        ran = fresh.post(
            f"/samples/{name}/datasets/open/queries",
            json={"sql": "SELECT price / 2, length_m / 2 FROM boats"},
        )
        halves[tables[0]["columns"][1]["type"]] = ran.json()["result"]["rows"]
    assert halves == {"DECIMAL(6,2)": [[12, 4], [None, 6]], "REAL(6,2)": [[12.5, 4], [None, 6]]}


def tables_as_they_are(client: TestClient, sample: str) -> list[dict[str, Any]]:
    """A plan that changes nothing."""
    return [
        {
            "table": {
                "name": table["name"],
                "columns": [
                    {name: one[name] for name in ("name", "type", "not_null", "default")}
                    for one in table["columns"]
                ],
                **{
                    name: table[name]
                    for name in ("primary_key", "uniques", "foreign_keys", "checks")
                },
            },
            "filled": {
                "file": table["name"],
                "format": {},
                "sources": [one["name"] for one in table["columns"]],
                "types": [None for _ in table["columns"]],
            },
        }
        for table in client.get(f"/samples/{sample}").json()["tables"]
    ]


def test_columns_are_changed_in_place_with_the_exercises_that_use_them_named(
    fresh: TestClient,
) -> None:
    plan = tables_as_they_are(fresh, "huts")
    assert fresh.post("/samples/huts/uses", json={"tables": plan}).json() == []
    huts = plan[0]
    region, beds = huts["table"]["columns"][2], huts["table"]["columns"][4]
    region["name"] = "massif"
    beds["type"] = "TEXT"
    huts["table"]["columns"].append(
        {"name": "opened", "type": "DATE", "not_null": False, "default": None}
    )
    huts["filled"]["sources"].append("")
    huts["filled"]["types"].append(None)
    uses = fresh.post("/samples/huts/uses", json={"tables": plan}).json()
    told = {one["exercise"]: one["uses"] for one in uses}
    assert told["01-high-huts"] == ["huts.region"]
    assert "08-busy-huts" not in told, "it reads another table"
    assert {use for one in uses for use in one["uses"]} == {"huts.region", "huts.beds"}

    fresh.put(
        "/samples/huts/notes", json={"table": "huts", "column": "region", "note": "A massif."}
    )
    edit = {"do": "update", "table": "huts", "row": 1, "values": {"beds": "43"}}
    edited = fresh.post("/samples/huts/datasets/open/edits", json={"edits": [edit]})
    assert edited.status_code == 200, edited.text
    id = fresh.post("/imports").json()["id"]
    asked = {"name": "-", "tables": plan, "of_sample": "huts", "in_place": True}
    assert fresh.post(f"/imports/{id}/make", json=asked).status_code == 202
    assert finished(fresh, id)["sample"] == "huts"

    sample = fresh.get("/samples/huts").json()
    assert [one["name"] for one in fresh.get("/samples").json()] == ["gauges", "huts"]
    columns = [(one["name"], one["type"]) for one in sample["tables"][0]["columns"]]
    assert columns[2:] == [
        ("massif", "TEXT"),
        ("altitude_m", "INTEGER"),
        ("beds", "TEXT"),
        ("opened", "DATE"),
    ]
    assert notes_of(fresh)["huts.massif"] == "A massif."
    assert [(one["name"], one["version"], one["rows"]) for one in sample["datasets"]] == [
        ("open", 3, 74),
        ("second-season", 2, 35),
    ]
    path = "/samples/huts/datasets/open"
    rows = fresh.get(f"{path}/tables/huts/rows").json()["rows"]
    assert rows[0]["cells"] == [1, "Silberhorn", "North", 2210, "43", None]
    assert fresh.get(path).json()["undo"] == ""
    assert "nothing to undo" in fresh.post(f"{path}/undo").json()["message"]
    # Earlier versions had other tables; later ones are kept as ever.
    refused = fresh.post(f"{path}/versions/1/restore")
    assert (
        refused.json()["message"]
        == "version 1 had other tables, which were changed with version 3."
    )
    edit = {"do": "update", "table": "huts", "row": 1, "values": {"massif": "East"}}
    assert fresh.post(f"{path}/edits", json={"edits": [edit]}).status_code == 200
    assert fresh.post(f"{path}/undo").status_code == 200
    assert fresh.get(path).json()["redo"]
    assert fresh.post(f"{path}/redo").status_code == 200
    assert fresh.post(f"{path}/versions/3/restore").status_code == 200
    assert fresh.get(f"{path}/versions").json()[-1]["number"] == 3
    # What is graded with it is measured anew.
    content = fresh.get("/exercises/01-high-huts").json()["content"]
    proof = fresh.post("/exercises/01-high-huts/proof", json=content).json()
    assert "region" in proof["reference"]["message"]


def test_unfinished_imports_leave_nothing_behind(tmp_path: Path, demo_folder: Path) -> None:
    import shutil

    folder = tmp_path / "data"
    shutil.copytree(demo_folder, folder)
    (folder / "samples" / "99").mkdir()
    (folder / "imports" / "x").mkdir(parents=True)
    (folder / "imports" / "x" / "half.db").write_bytes(b"half made")
    runtime = Runtime(folder)
    assert not (folder / "samples" / "99").exists()
    assert not (folder / "imports" / "x").exists()
    runtime.close()


def test_samples_kept_as_csv_become_datasets(tmp_path: Path) -> None:
    """A data folder of the version before this one."""
    import shutil

    from jentrow.records.database import Records
    from jentrow.records.models import Course, Sample

    folder = tmp_path / "data"
    records = Records(folder)
    shutil.copytree(DEMO / "samples" / "huts", folder / "samples" / "1-huts")
    with records.writing() as session:
        session.add(Course(id=1, slug="old", title="Old"))
        session.add(Sample(course_id=1, name="huts", folder="samples/1-huts"))
    records.close()
    runtime = Runtime(folder)
    (line,) = catalogue.sample_lines(course_scope(runtime, 1, ""))
    runtime.close()
    assert [one.rows for one in line.datasets] == [74, 35]


def test_the_gauges_are_the_same_every_time(tmp_path: Path) -> None:
    run_path(str(DEMO / "make_gauges.py"))["write_gauges"](tmp_path / "gauges")
    kept = DEMO / "samples" / "gauges"
    files = sorted(path.relative_to(kept) for path in kept.rglob("*.*"))
    assert len(files) == 10
    for file in files:
        made = (tmp_path / "gauges" / file).read_text(encoding="utf-8")
        assert made == (kept / file).read_text(encoding="utf-8"), file


def test_demo_data_with_gauges(client: TestClient) -> None:
    names = [line["name"] for line in client.get("/samples").json()]
    assert {"gauges", "huts"} <= set(names)
    rows = client.get(
        "/samples/gauges/datasets/open/tables/readings/rows",
        params={"sort": ["-value"], "offset": 20_000, "limit": 1},
    ).json()
    assert rows["total"] > 40_000
    sensors = client.get("/samples/gauges/datasets/open/tables/sensors/rows").json()
    assert sensors["rows"][0]["cells"][4] is True


def test_a_query_that_changes_from_run_to_run_runs_every_time(fresh: TestClient) -> None:
    rows = [
        fresh.post(f"{OPEN}/queries", json={"sql": "SELECT RANDOM()"}).json()["result"]["rows"]
        for _ in range(3)
    ]
    assert len({row[0][0] if isinstance(row[0][0], int) else str(row[0][0]) for row in rows}) == 3


def test_a_number_that_is_used_again_shows_nothing_of_before(fresh: TestClient) -> None:
    """The records use the number of a deleted sample again, and so its folder."""
    for name in ("first", "second"):
        table = {
            "name": f"{name}_table", "columns": [{"name": "a", "type": "INTEGER"}],
            "primary_key": ["a"], "foreign_keys": [],
        }  # fmt: skip
        got(fresh.post("/samples", json={"name": name, "tables": [table]}), 201)
        for _ in range(4):  # whichever process is asked
            rows = fresh.get(f"/samples/{name}/datasets/open/tables/{name}_table/rows")
            assert got(rows)["rows"] == []
            profile = fresh.get(f"/samples/{name}/datasets/open/tables/{name}_table/profile")
            assert got(profile)["rows"] == 0
        assert fresh.delete(f"/samples/{name}").status_code == 204


def test_a_page_that_looks_while_tables_are_changed_spoils_nothing(
    fresh: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked: dict[str, Any] = {"name": "second", "copy_of": "open"}
    got(fresh.post("/samples/huts/datasets", json=asked), 201)
    plan = tables_as_they_are(fresh, "huts")
    plan[0]["table"]["columns"][2]["name"] = "massif"
    adopt = Dataset.adopt
    looked: list[int] = []

    def looked_at_meanwhile(*parts: Any) -> Dataset:
        # The records are being written: whoever looks sees them as they were.
        looked.append(fresh.get("/samples").status_code)
        return adopt(*parts)

    monkeypatch.setattr(Dataset, "adopt", looked_at_meanwhile)
    id = fresh.post("/imports").json()["id"]
    asked = {"name": "-", "tables": plan, "of_sample": "huts", "in_place": True}
    assert fresh.post(f"/imports/{id}/make", json=asked).status_code == 202
    assert finished(fresh, id)["sample"] == "huts"
    assert looked == [200] * len(looked)
    assert len(looked) > 1
    assert fresh.get("/samples").status_code == 200
    columns = [one["name"] for one in fresh.get("/samples/huts").json()["tables"][0]["columns"]]
    assert columns[2] == "massif"


def test_a_dataset_that_follows_a_deleted_one_grades_as_another(fresh: TestClient) -> None:
    runtime = runtime_of(fresh)

    def added() -> str:
        asked = {"name": "second", "copy_of": "open"}
        assert fresh.post("/samples/huts/datasets", json=asked).status_code == 201
        with runtime.records.session() as session:
            exercise = find_exercise(session, 1, "01-high-huts")
            assert exercise is not None
            return runtime.graders.made_with(exercise).measure

    first = added()
    assert fresh.delete("/samples/huts/datasets/second").status_code == 204
    assert added() != first, "the records use its number again, and its version is the first too"
