from __future__ import annotations

import shutil
import zipfile
from collections import Counter
from itertools import pairwise
from pathlib import Path

import pytest

from jentrow.core.engines.sqlite.engine import SQLiteEngine
from jentrow.core.errors import InvalidPack, InvalidRules, InvalidSubmissions, UnreadableFile
from jentrow.core.exercises.exercise import Exercise
from jentrow.core.exercises.files.rulefile import read_rules
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.packs.reading import opened_pack, read_pack
from jentrow.core.exercises.packs.writing import files_of
from jentrow.core.exercises.submissions import read_submissions
from jentrow.core.exercises.trials import run_trials
from jentrow.services.runtime.engines import opened_engine
from tests.demo_course import ANSWERS, DEMO

PACK = read_pack(DEMO)


@pytest.fixture
def pack(tmp_path: Path) -> Path:
    return Path(shutil.copytree(DEMO, tmp_path / "pack"))


@pytest.mark.parametrize("exercise", PACK.exercises, ids=lambda exercise: exercise.id)
def test_the_trials_of_the_demo_hold(exercise: Exercise) -> None:
    with opened_engine(exercise.engine, workers=1) as engine:
        results = run_trials(Grader(engine, exercise, PACK.samples[exercise.sample]))
    assert len(results) >= 3
    assert [one.trial.name for one in results if not one.holds] == []


def test_the_demo_sample_is_deliberate(engine: SQLiteEngine) -> None:
    for dataset in PACK.samples["huts"].datasets:
        sizes = dict(engine.load(dataset).table_rows)
        assert set(sizes) == {"huts", "trails", "wardens", "stays"}
        assert all(8 <= rows <= 60 for rows in sizes.values())


def test_a_zip_of_a_pack_is_the_pack(pack: Path, tmp_path: Path) -> None:
    archive = shutil.make_archive(str(tmp_path / "zipped"), "zip", pack.parent, pack.name)
    with opened_pack(Path(archive)) as opened:
        assert [one.id for one in opened.exercises] == [one.id for one in PACK.exercises]
        assert opened.exercise("01-high-huts").trials == PACK.exercise("01-high-huts").trials


def test_words_of_a_trial_come_from_a_pack_and_go_back(pack: Path) -> None:
    by_name = {one.name: one for one in read_pack(pack).exercise("08-busy-huts").trials}
    assert len(by_name["more-than-two"].words) == 2
    head = pack / "exercises" / "08-busy-huts" / "exercise.yaml"
    text = head.read_text("utf-8")
    head.write_text(
        text.replace("paid-only: incorrect", "paid-only: {verdict: incorrect, words: Who pays}")
    )
    exercise = read_pack(pack).exercise("08-busy-huts")
    assert exercise.trials[-1].words == ("Who pays",)
    assert "words: Who pays" in files_of(exercise)["exercise.yaml"]
    head.write_text(
        text.replace("paid-only: incorrect", "paid-only: {verdict: incorrect, hint: x}")
    )
    with pytest.raises(InvalidPack, match=r"trials\.paid-only: unknown name 'hint'"):
        read_pack(pack)


def test_a_zip_that_would_write_elsewhere_is_refused(tmp_path: Path) -> None:
    archive = tmp_path / "bad.zip"
    with zipfile.ZipFile(archive, "w") as out:
        out.writestr("../outside.sql", "SELECT 1")
    with pytest.raises(InvalidPack, match="outside its folder"), opened_pack(archive):
        pass
    assert not (tmp_path.parent / "outside.sql").exists()


@pytest.mark.parametrize(
    ("file", "text", "words"),
    [
        ("pack.yaml", "format: jentrow-pack/2\ntitel: x", "jentrow-pack/1.*did you mean title"),
        ("pack.yaml", "title: x", r"yaml: format is missing: it must be jentrow-pack/1\.$"),
        ("pack.yaml", "title: x\nformat:", r"yaml: format is empty, but must be jentrow-pack/1\.$"),
        ("pack.yaml", "- a", "expected a mapping"),
        ("pack.yaml", "{", "not YAML"),
        # Nine lines of these would be a thousand million values.
        (
            "pack.yaml",
            "a: &a [x, x, x, x, x, x, x, x, x, x]\n"
            + "".join(
                f"{b}: &{b} [{', '.join([f'*{a}'] * 10)}]\n" for a, b in pairwise("abcdefghi")
            ),
            r"not YAML \(an alias \(\*a\); write the value out",
        ),
        ("pack.yaml", "x: " + "[" * 5_000, "not YAML"),
        ("pack.yaml", "x: " + "[" * 40 + "]" * 40, "too many things inside one another"),
        ("pack.yaml", "x: 2026-13-45", "not YAML"),
        ("pack.yaml", "x: !!python/object/apply:os.getcwd []", "not YAML"),
        ("pack.yaml", "x: " + "y" * 600_000, "at most 500,000"),
        (
            "exercises/01-high-huts/exercise.yaml",
            "sample: hut\npoints: -1\nrules: {duplicate: ignore}\ntrials: {nowhere: right}",
            r"points is -1.*did you mean duplicates.*trials\.nowhere\.verdict is 'right'.*one of correct.*stopped; sample is 'hut'",
        ),
        ("exercises/01-high-huts/exercise.yaml", "sample: huts\nlevel: 3", "unknown name 'level'"),
        ("exercises/01-high-huts/exercise.yaml", "sample: huts", "has no verdict under trials"),
    ],
)
def test_a_broken_pack_names_every_problem(pack: Path, file: str, text: str, words: str) -> None:
    (pack / file).write_text(text)
    with pytest.raises(InvalidPack, match=words):
        read_pack(pack)


def test_a_pack_without_a_file_says_which(pack: Path) -> None:
    (pack / "exercises/01-high-huts/reference.sql").unlink()
    with pytest.raises(UnreadableFile, match=r"01-high-huts/reference.sql: no such file"):
        read_pack(pack)


def test_rules_name_every_problem_at_once() -> None:
    with pytest.raises(InvalidRules) as raised:
        read_rules(
            {
                "row_orders": "any",
                "duplicates": "never",
                "number_tolerance": {"absolute": "x", "ratio": 1},
                "limits": {"seconds": 0, "rows": 1.5},
            },
            "RULES.yaml",
        )
    for words in (
        "did you mean row_order?",
        "duplicates is 'never', but must be one of count, ignore",
        "number_tolerance.absolute is 'x', but must be a number",
        "'ratio'",
        "limits.seconds is 0",
        "limits.rows is 1.5, but must be a whole number",
    ):
        assert words in str(raised.value)


def test_rules_survive_being_written_and_read() -> None:
    written = {
        "row_order": "as_listed",
        "number_tolerance": {"absolute": 0.5, "relative": 0.0},
        "null_equals": "zero",
    }
    assert read_rules(written).comparison.to_mapping() == written
    assert read_rules({"limits": {"rows": 9}}).limits.to_mapping() == {"rows": 9}


IDS = [exercise.id for exercise in PACK.exercises]


def test_the_demo_submissions_are_many_and_varied() -> None:
    read = read_submissions(ANSWERS, IDS)
    assert len(read) >= 40
    assert min(Counter(one.exercise for one in read).values()) >= 12
    assert all(one.submitted_at for one in read)


def test_submissions_from_a_folder(tmp_path: Path) -> None:
    for learner in ("Ada", "Tomas"):
        (tmp_path / "in" / learner).mkdir(parents=True)
        (tmp_path / "in" / learner / f"{IDS[0]}.sql").write_text("\ufeffSELECT 1")
    shutil.make_archive(str(tmp_path / "zipped"), "zip", tmp_path / "in")
    for path in (tmp_path / "in", tmp_path / "zipped.zip"):
        read = read_submissions(path, IDS)
        assert [(one.learner, one.sql) for one in read] == [
            ("Ada", "SELECT 1"),
            ("Tomas", "SELECT 1"),
        ]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"learner,sql\nAda,SELECT 1\n", "lacks exercise"),
        (b"", "lacks learner, exercise, sql"),
        (b"learner,exercise,sql\nAda,nowhere,SELECT 1\n", "line 2 names the exercise 'nowhere'"),
        (b"learner,exercise,sql\nAda,x\n", "line 2 has 2 fields"),
        (b"learner,exercise,sql\n,01-high-huts,SELECT 1\n", "line 2 names no learner"),
        (b'learner,exercise,sql\nAda,x,"SELECT\n', "not CSV"),
        (b"learner,exercise,sql,submitted_at\nAda,01-high-huts,SELECT 1,noon\n", "no ISO date"),
    ],
)
def test_unusable_submissions_say_where(tmp_path: Path, data: bytes, words: str) -> None:
    path = tmp_path / "in.csv"
    path.write_bytes(data)
    with pytest.raises(InvalidSubmissions, match=words):
        read_submissions(path, IDS)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"learner,exercise,sql\nAda,x,\xff\n", "not UTF-8 .byte 0xff in line 2"),
        (b"learner,exercise,sql\nAda,x,a\0b\n", "holds a NUL character .line 2"),
        ("learner".encode("utf-16"), "UTF-16"),
    ],
)
def test_text_that_cannot_be_read_says_where(tmp_path: Path, data: bytes, words: str) -> None:
    path = tmp_path / "in.csv"
    path.write_bytes(data)
    with pytest.raises(UnreadableFile, match=words):
        read_submissions(path, IDS)
