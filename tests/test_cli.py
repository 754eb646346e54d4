"""The headless contract, through the command line."""

from __future__ import annotations

import csv
import json
import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from typer.testing import CliRunner

from jentrow.cli import app
from jentrow.core.exercises.packs.reading import opened_pack
from jentrow.services.packs.demo import INSTRUCTOR
from tests.demo_course import ANSWERS, DEMO

SAMPLE = "CREATE TABLE gauges (name TEXT, level REAL); INSERT INTO gauges VALUES ('Auwehr', 1.5), ('Brugg', 2);"
FILES = {
    "sample.sql": SAMPLE,
    "reference.sql": "SELECT name FROM gauges",
    "answer.sql": "SELECT name FROM gauges ORDER BY name DESC;",
    "wrong.sql": "SELECT name FROM gauges WHERE level > 1.5",
    "levels.sql": "SELECT level FROM gauges",
    "broken.sql": "SELECT nome FROM gauges",
    "deletes.sql": "DELETE FROM gauges",
    "rules.yaml": "row_order: ignore\nlimits: {rows: 1}\n",
    "bad.yaml": "row_ordre: ignore\n",
    "flood.sql": "INSERT INTO gauges VALUES ('Xanten', NULL)",
    "latin.sql": b"SELECT 'caf\xe9'",
    "nul.sql": b"SELECT 'a\0b'",
    "bom.sql": b"\xef\xbb\xbfSELECT name\r\nFROM gauges\r\n",
}


@pytest.fixture
def folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    for name, text in FILES.items():
        (tmp_path / name).write_bytes(text if isinstance(text, bytes) else text.encode())
    (tmp_path / "taken").mkdir()
    (tmp_path / "taken" / "records.db").write_text("something else altogether, and long enough")
    monkeypatch.chdir(tmp_path)
    return tmp_path


def run(*words: str) -> Any:
    return CliRunner().invoke(app, list(words))


def compare(submission: str, *more: str) -> Any:
    return run(
        "compare", "--sample", "sample.sql", "--reference", "reference.sql",
        "--submission", submission, *more,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("submission", "more", "verdict", "codes"),
    [
        ("answer.sql", [], "correct", []),
        ("bom.sql", [], "correct", []),
        ("wrong.sql", [], "incorrect", ["rows.missing"]),
        ("levels.sql", [], "incorrect", ["cells.differ"]),
        ("levels.sql", ["--alternative", "levels.sql"], "correct", []),
        ("broken.sql", [], "error", ["sql.object"]),
        ("deletes.sql", [], "refused", ["policy.statement"]),
        ("answer.sql", ["--dataset", "flood.sql"], "correct", []),
    ],
)
def test_compare_prints_one_object(
    folder: Path, submission: str, more: list[str], verdict: str, codes: list[str]
) -> None:
    said = compare(submission, "--json", *more)
    assert said.exit_code == 0, said.output
    found = json.loads(said.stdout)
    assert set(found) == {
        "verdict", "mark", "findings", "expected", "actual", "near_misses", "smallest_example",
    }  # fmt: skip
    assert bool(found["smallest_example"]) == (verdict == "incorrect")
    assert found["verdict"] == verdict
    assert found["mark"] == (1.0 if verdict == "correct" else 0.0)
    if codes != ["cells.differ"]:
        assert [finding["code"] for finding in found["findings"]] == codes
    assert found["expected"]["row_count"] == 2
    if verdict in ("correct", "incorrect"):
        assert set(found["actual"]) == {"columns", "row_count"}
    else:
        assert found["actual"] is None


def test_compare_says_it_in_words(folder: Path) -> None:
    said = compare("wrong.sql")
    assert said.exit_code == 0
    assert said.stdout.splitlines()[0] == "incorrect"
    assert "rows.missing: 1 row is missing." in said.stdout
    assert "near miss: In line 1, leave out `WHERE level > 1.5`" in said.stdout
    assert "1 row made up, enough to see it:" in said.stdout
    assert "no rows" in said.stdout


def test_what_is_undecided_is_no_verdict_in_words_and_says_why(folder: Path) -> None:
    (folder / "comma.sql").write_text("SELECT a.name FROM gauges a JOIN gauges b")
    (folder / "twice.sql").write_text("SELECT a.name FROM gauges a, gauges b")
    said = run(
        "compare", "--sample", "sample.sql", "--reference", "twice.sql", "--submission", "comma.sql",
        "--engine", "tsql",
    )  # fmt: skip
    assert said.output.splitlines() == [
        "undecided",
        "  what ran on the stand-in may not be what the text means on its own engine, which may refuse it",
        "  T-SQL wants ON behind every JOIN.",
        "  due:   4 rows (name)",
        "  given: 4 rows (name)",
    ]
    said = run(
        "compare", "--sample", "sample.sql", "--reference", "twice.sql", "--submission", "comma.sql",
        "--engine", "tsql", "--json",
    )  # fmt: skip
    assert json.loads(said.output)["undecided"] == "translation"


def test_compare_explains_a_wrong_answer_unless_it_is_told_not_to(folder: Path) -> None:
    found = json.loads(compare("wrong.sql", "--json").stdout)
    (near,) = found["near_misses"]
    assert near == {
        "edit": "condition too many", "line": 1, "column": 24, "from": " WHERE level > 1.5",
        "to": "", "sql": "SELECT name FROM gauges", "borrows": False, "message": near["message"],
    }  # fmt: skip
    example = found["smallest_example"]
    assert set(example) == {"tables", "expected", "actual"}
    assert example["tables"]["gauges"]["columns"] == ["name", "level"]
    assert len(example["tables"]["gauges"]["rows"]) == 1
    assert len(example["expected"]["rows"]) == 1
    assert example["actual"] == {"columns": ["name"], "rows": []}
    plain = json.loads(compare("wrong.sql", "--json", "--no-explain").stdout)
    assert plain == {key: found[key] for key in plain}
    assert set(found) - set(plain) == {"near_misses", "smallest_example"}


def test_a_dataset_of_its_own_finds_what_the_open_one_does_not(folder: Path) -> None:
    (folder / "most.sql").write_text("SELECT name FROM gauges WHERE level > 0")
    assert compare("most.sql").stdout.startswith("correct")
    found = json.loads(compare("most.sql", "--dataset", "flood.sql", "--json").stdout)
    assert found["verdict"] == "incorrect"
    assert [(one["code"], one["dataset"]) for one in found["findings"]] == [
        ("held_back.differs", "flood")
    ]


def test_limits_come_from_the_rules(folder: Path) -> None:
    said = compare("answer.sql", "--rules", "rules.yaml")
    assert (said.exit_code, said.stderr.count("\n")) == (2, 1)
    assert "reference answer does not run" in said.stderr


@pytest.mark.parametrize(
    ("words", "message"),
    [
        (["compare", "--submission", "nowhere.sql"], "nowhere.sql: no such file"),
        (["compare", "--submission", "latin.sql"], "not UTF-8"),
        (["compare", "--submission", "nul.sql"], "NUL"),
        (["compare", "--submission", "."], "a folder"),
        (["compare", "--reference", "broken.sql"], "the reference answer does not run"),
        (["compare", "--reference", "deletes.sql"], "Not a query"),
        (["compare", "--alternative", "broken.sql"], "the accepted alternative broken"),
        (["compare", "--rules", "bad.yaml"], "did you mean row_order?"),
        (["compare", "--rules", "nowhere.yaml"], "no such file"),
        (["compare", "--engine", "sqlit"], "no engine 'sqlit'"),
        (["compare", "--sample", "answer.sql"], "no such table: gauges"),
        (["compare", "--sample", "nowhere"], "no such file"),
        (["compare", "--dataset", "answer.sql", "--sample", "levels.sql"], "no such table"),
        (
            ["grade", "nowhere", "--submissions", "x.csv", "--out", "m.csv"],
            "no such file or folder",
        ),
        (["grade", ".", "--submissions", "x.csv", "--out", "m.csv"], "pack.yaml: no such file"),
        (["grade", str(DEMO), "--submissions", "x.csv", "--out", "m.csv"], "x.csv: no such file"),
        (["grade", str(DEMO), "--submissions", "x.csv", "--out", "m.txt"], ".csv or .json"),
        (
            ["grade", str(DEMO), "--submissions", "x.csv", "--out", "nowhere/m.csv"],
            "nowhere/m.csv: cannot be written",
        ),
        (["serve", "--data", "sample.sql", "--port", "0"], "cannot be used as a data folder"),
        (["serve", "--data", "taken", "--port", "0"], "not records that this version"),
        (["demo", "--data", ".", "--port", "0"], "not empty"),
    ],
)
def test_unusable_input_is_one_clear_line(folder: Path, words: list[str], message: str) -> None:
    if words[0] == "compare":
        usual = {
            "--sample": "sample.sql",
            "--reference": "reference.sql",
            "--submission": "answer.sql",
        }
        given = dict(zip(words[1::2], words[2::2], strict=True))
        words = ["compare", *(part for pair in (usual | given).items() for part in pair)]
    said = run(*words)
    assert said.exit_code == 2, said.output
    assert said.stderr.count("\n") == 1
    assert message in said.stderr
    assert said.stdout == ""


@pytest.mark.parametrize("ending", ["csv", "json"])
def test_grade_writes_a_mark_for_every_submission(folder: Path, ending: str) -> None:
    out = folder / f"marks.{ending}"
    said = run("grade", str(DEMO), "--submissions", str(ANSWERS), "--out", str(out))
    assert said.exit_code == 0, said.output
    if ending == "csv":
        with out.open(encoding="utf-8", newline="") as file:
            marks: list[Any] = list(csv.DictReader(file))
    else:
        marks = json.loads(out.read_text())["marks"]
    with ANSWERS.open(encoding="utf-8", newline="") as file:
        submissions = list(csv.DictReader(file))
    assert [(one["learner"], one["exercise"]) for one in marks] == [
        (one["learner"], one["exercise"]) for one in submissions
    ]
    verdicts = {one["verdict"] for one in marks}
    assert verdicts == {"correct", "incorrect", "error", "refused"}
    for one in marks:
        assert (float(one["mark"]) == float(one["points"])) == (one["verdict"] == "correct")


def test_the_whole_process(folder: Path) -> None:
    command = [str(Path(sys.executable).parent / "jentrow")]
    version = subprocess.run([*command, "--version"], capture_output=True, text=True, check=True)
    assert version.stdout.startswith("jentrow 0.1.0, SQLite 3.")
    done = subprocess.run(
        [*command, "compare", "--sample", "sample.sql", "--reference", "reference.sql",
         "--submission", "nowhere.sql"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert (done.returncode, done.stdout) == (2, "")
    assert done.stderr == "jentrow: nowhere.sql: no such file.\n"


def test_a_command_on_one_engine_loads_no_other() -> None:
    loads = (
        "import sys\n"
        "from jentrow.services.runtime.engines import opened_engine\n"
        "with opened_engine('sqlite', workers=1): pass\n"
        "print([one for one in ('duckdb', 'psycopg', 'pymysql', 'numpy') if one in sys.modules])"
    )
    found = subprocess.run(
        [sys.executable, "-c", loads], capture_output=True, text=True, check=True
    )
    assert found.stdout.strip() == "[]"


def test_demo_says_at_once_that_its_port_is_taken(folder: Path) -> None:
    import socket

    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        said = run("demo", "--port", str(port), "--data", "new")
    assert said.exit_code == 2
    assert f"127.0.0.1:{port} cannot be listened on" in said.stderr
    assert not (folder / "new").exists()


def test_a_pack_without_submissions_is_loaded_all_the_same(folder: Path) -> None:
    import shutil

    from jentrow.services.packs.demo import load_demo

    archive = shutil.make_archive(str(folder / "pack"), "zip", DEMO.parent, DEMO.name)
    loaded = load_demo(folder / "data", Path(archive), lambda done, total: None)
    assert (loaded.exercises, loaded.submissions) == (18, 0)


def test_check_tells_what_holds(folder: Path) -> None:
    import shutil

    pack = Path(shutil.copytree(DEMO, folder / "pack"))
    said = run("check", str(pack), "--exercise", "12-guests-without-a-warden", "--json")
    assert said.exit_code == 0, said.output
    (entry,) = json.loads(said.stdout)["exercises"]
    assert (entry["id"], entry["reference"]) == ("12-guests-without-a-warden", "ok")
    assert [warning["code"] for warning in entry["warnings"]] == ["reference.one_row"]
    assert {"name": "both", "expected": "incorrect", "actual": "incorrect", "holds": True} in entry[
        "trials"
    ]
    here = pack / "exercises" / "12-guests-without-a-warden"
    (here / "trials" / "both.sql").write_text(
        "SELECT hut_id FROM stays EXCEPT SELECT hut_id FROM wardens"
    )
    said = run("check", str(pack), "--exercise", "12-guests-without-a-warden")
    assert said.exit_code == 1
    assert "trial both: correct, ought to be incorrect" in said.stdout
    assert "reference.one_row:" in said.stdout
    (here / "reference.sql").write_text("SELECT nope FROM huts")
    said = run("check", str(pack), "--json", "--exercise", "12-guests-without-a-warden")
    assert said.exit_code == 1
    (entry,) = json.loads(said.stdout)["exercises"]
    assert "does not run (line 1)" in entry["reference"]
    assert entry["trials"] == []
    (here / "exercise.yaml").write_text("sample: nowhere")
    said = run("check", str(pack))
    assert (said.exit_code, said.stdout) == (2, "")
    assert run("check", str(DEMO), "--exercise", "nowhere").exit_code == 2


@pytest.mark.parametrize("name", ["pack.zip", "pack"])
def test_export_writes_all_of_a_data_folder(folder: Path, demo_folder: Path, name: str) -> None:
    shutil.copytree(demo_folder, folder / "data")
    said = run("export", "--data", str(folder / "data"), "--out", name)
    assert said.exit_code == 0, said.output
    assert run("check", name, "--exercise", "08-busy-huts").exit_code == 0
    with opened_pack(folder / name) as read, opened_pack(DEMO) as shipped:
        assert {one.id for one in read.exercises} == {one.id for one in shipped.exercises}
    again = run("export", "--data", str(folder / "data"), "--out", name)
    assert (again.exit_code, "is there already" in again.stderr) == (2, True)
    assert run("export", "--data", "nowhere", "--out", "x.zip").exit_code == 2
    assert not (folder / "nowhere").exists()


def test_a_link_to_sign_in_and_a_course_to_export(folder: Path, demo_folder: Path) -> None:
    shutil.copytree(demo_folder, folder / "data")
    data = ["--data", str(folder / "data")]
    link = run("sign-in-link", INSTRUCTOR[0], *data)
    assert link.stdout.startswith("/links/")
    assert "There is an instructor already" in run("sign-in-link", *data).stdout
    assert "nobody with the sign-in name" in run("sign-in-link", "nobody", *data).stderr
    assert "holds no records" in run("sign-in-link", "--data", "nowhere").stderr
    out = str(folder / "out.zip")
    wrong = run("export", "--course", "rivers", "--out", out, *data)
    assert (wrong.exit_code, "no course 'rivers'" in wrong.stderr) == (2, True)
    assert run("export", "--course", "alpine-data-course", "--out", out, *data).exit_code == 0
