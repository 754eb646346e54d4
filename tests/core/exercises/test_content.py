from __future__ import annotations

import zipfile
from datetime import datetime, timedelta
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.errors import InvalidExercise, InvalidSheet
from jentrow.core.exercises.files.content import content_of, digest_of, read_exercise
from jentrow.core.exercises.files.sheetfile import read_sheet
from jentrow.core.exercises.packs.difference import compare_contents
from jentrow.core.exercises.packs.reading import opened_pack, read_pack
from jentrow.core.exercises.packs.writing import files_of, write_pack
from jentrow.core.exercises.sheets import Late, Sheet, SheetEntry
from jentrow.core.exercises.showing import ShownResult, glimpse
from jentrow.core.results import Column, ResultSet
from tests.demo_course import DEMO

FULL: dict[str, Any] = {
    "title": "High huts",
    "sample": "huts",
    "engine": "sqlite",
    "points": 2.5,
    "tags": ["choosing rows"],
    "rules": {"row_order": "ignore", "number_tolerance": {"absolute": 0.5, "relative": 0.0},
              "limits": {"seconds": 1.0}},
    "constructs": [{"require": "case", "points": 1, "message": "Use CASE."},
                   {"forbid": "function", "name": "iif"}],
    "layout": {"keyword_case": "upper", "spacing": True, "points": 0.5},
    "marks": {"scheme": "by_parts", "weights": {"columns": 1.0, "rows": 2.0, "order": 0.0,
              "names": 0.0, "constructs": 1.0, "layout": 0.0}},
    "feedback": {"expected": {"columns": True, "rows": "first", "first": 5}},
    "prompt": "List them.\n",
    "reference": "SELECT 1\n",
    "alternatives": [{"name": "other way", "sql": "SELECT 1 + 0\n"}],
    "trials": [{"name": "two", "sql": "SELECT 2\n", "expected": "incorrect",
                "words": ["Which number is it?", "It is the first."]},
               {"name": "one", "sql": "SELECT 1\n", "expected": "correct", "mark": 2.5}],
}  # fmt: skip


def test_a_content_comes_back_as_it_was() -> None:
    exercise = read_exercise("high", FULL, ["huts"])
    assert content_of(exercise) == FULL
    assert read_exercise("high", content_of(exercise), ["huts"]) == exercise
    assert digest_of(content_of(exercise)) == digest_of(FULL)
    assert digest_of(FULL | {"points": 3}) != digest_of(FULL)


def test_every_problem_is_named() -> None:
    content = FULL | {
        "title": " ", "sample": "hut", "points": 0, "rules": {"duplicate": 1},
        "constructs": [{"require": "cases"}], "layout": {"spacing": 1}, "tags": "x",
        "marks": {"scheme": "half"}, "feedback": {"expected": {"rows": "some"}}, "level": 3,
        "alternatives": [{"name": "a/b"}, {"name": "A"}, {"name": "a"}],
        "trials": [{"name": "one", "expected": "right"}, {"name": "x", "expected": "error", "mark": "2"},
                   {"name": "y", "expected": "error", "words": ["a", "b", "c", "d"]},
                   {"name": "z", "expected": "error", "words": {"weak": "a"}}],
    }  # fmt: skip
    with pytest.raises(InvalidExercise) as raised:
        read_exercise("high", content, ["huts"])
    told = " | ".join(raised.value.problems)
    for words in [
        "unknown name 'level'", "sample is 'hut'", "points is 0", "did you mean duplicates",
        "title is empty", "the name 'a/b'", "two are called 'a'", "trials.one.expected is 'right'",
        "trials.x.mark is '2', but must be a number, or nothing", "trials.y.words must be", "trials.z.words must be text of at most 2,000 characters or a list", "tags is 'x', but must be a list of texts", "did you mean case", "layout.spacing",
        "marks.scheme is 'half'", "feedback.expected.rows is 'some'",
    ]:  # fmt: skip
        assert words in told


def test_a_pack_that_is_written_is_the_pack(tmp_path: Path) -> None:
    whole = read_pack(DEMO)
    changed = read_exercise("full", FULL, ["huts"])
    sheet = Sheet(
        "week-1", "Week 1", (SheetEntry("full", 4.0), SheetEntry(whole.exercises[0].id)),
        datetime(2026, 11, 2, 8), datetime(2026, 11, 9, 18, 30), 3, Late("reduce", 12.5, 4),
    )  # fmt: skip
    written = tmp_path / "pack"
    for exercise in (changed, *whole.exercises):
        for path, text in files_of(exercise).items():
            file = written / "exercises" / exercise.id / path
            file.parent.mkdir(parents=True, exist_ok=True)
            file.write_text(text, encoding="utf-8")
    archive = tmp_path / "pack.zip"
    write_pack(archive, "Both", {}, [changed, *whole.exercises], [sheet], "CC0")
    with zipfile.ZipFile(archive) as opened:
        names = {name for name in opened.namelist() if name.startswith("exercises/")}
        assert names == {
            str(file.relative_to(written)) for file in written.rglob("*.*") if file.is_file()
        }
        opened.extractall(written)
    (written / "samples").symlink_to(DEMO / "samples")
    again = read_pack(written)
    assert (again.title, again.licence, again.sheets) == ("Both", "CC0", (sheet,))
    assert {one.id: content_of(one) for one in again.exercises} == {
        one.id: content_of(one) for one in (changed, *whole.exercises)
    }
    first = archive.read_bytes()
    write_pack(archive, "Both", {}, [changed, *whole.exercises], [sheet], "CC0")
    assert archive.read_bytes() == first


def test_what_a_pack_would_change() -> None:
    theirs = {
        name: FULL | {"title": name} for name in ("new", "same", "changed", "conflict", "ours")
    }
    ours = {
        "same": FULL | {"title": "same"},
        "changed": FULL | {"title": "before", "points": 1},
        "conflict": FULL | {"title": "edited here"},
        "ours": FULL | {"title": "made here"},
        "other": FULL,
    }
    origins = {"changed": digest_of(ours["changed"]), "conflict": digest_of(FULL)}
    changes = compare_contents(theirs, ours, origins)
    assert [(change.id, change.state, change.differing) for change in changes] == [
        ("new", "new", ()), ("same", "same", ()), ("changed", "changed", ("title", "points")),
        ("conflict", "conflict", ("title",)), ("ours", "conflict", ("title",)),
    ]  # fmt: skip


RESULT = ResultSet((Column("a"), Column("b")), [(1, 2), (3, 4), (5, 6)])


@pytest.mark.parametrize(
    ("shown", "seen"),
    [
        (ShownResult(), (None, None, None)),
        (ShownResult(columns=True), (("a", "b"), None, None)),
        (ShownResult(row_count=True), (None, 3, None)),
        (ShownResult(rows="first", first=2), (("a", "b"), None, ((1, 2), (3, 4)))),
        (ShownResult(rows="all"), (("a", "b"), 3, ((1, 2), (3, 4), (5, 6)))),
    ],
)
def test_what_learners_see(shown: ShownResult, seen: object) -> None:
    found = glimpse(RESULT, shown)
    assert (found.columns, found.row_count, found.rows) == seen


@pytest.mark.parametrize(
    ("late", "hours", "share"),
    [
        (Late(), 0, 1), (Late(), 0.1, None), (Late("accept"), 900, 1),
        (Late("accept", days=2), 48, 1), (Late("accept", days=2), 48.1, None),
        (Late("reduce", 10), 0.1, Fraction(9, 10)), (Late("reduce", 10), 25, Fraction(8, 10)),
        (Late("reduce", 12.5), 24, Fraction(7, 8)), (Late("reduce", 40), 99, 0),
        (Late("reduce", 40, 3), 99, None), (Late("reduce", 10), -5, 1),
    ],
)  # fmt: skip
def test_what_late_means(late: Late, hours: float, share: object) -> None:
    assert late.share(timedelta(hours=hours)) == share


@given(
    hours=st.floats(0, 900), more=st.floats(0, 900), percent=st.floats(0.5, 100),
    days=st.none() | st.integers(1, 30),
)  # fmt: skip
def test_later_is_never_better(hours: float, more: float, percent: float, days: int | None) -> None:
    late = Late("reduce", percent, days)
    first, second = (late.share(timedelta(hours=h)) or 0 for h in (hours, hours + more))
    assert first >= second


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"title": ""}, "title is empty"),
        ({"exercises": ["one", "won"]}, "did you mean one"),
        ({"exercises": ["one", "one"]}, "stands twice"),
        (
            {"exercises": [{"exercise": "one", "points": -1}]},
            "exercises, number 1, points is -1, but must be a number from 0",
        ),
        ({"opens": "2026-11-09", "closes": "2026-11-02"}, "before it opens"),
        ({"closes": "next week"}, "a time such as"),
        ({"closes": "2026-11-02 10:00+01:00"}, "times have no zone"),
        ({"attempts": 0}, "attempts is 0"),
        ({"late": {"rule": "never"}}, "refuse, accept, reduce"),
        ({"late": {"rule": "reduce", "percent_a_day": 0}}, "percent_a_day is 0"),
        ({"late": {"rule": "accept", "days": 0}}, "late.days is 0"),
        ({"close": "x"}, "did you mean closes"),
        ({"exercises": None}, "exercises is missing"),
        (
            {"exercises": [3], "best_of": 1},
            r"number 1, exercise is 3, but must be text \(in quotes\)\.$",
        ),
        ({"best_of": 2}, "best_of is 2, but must be from 1 to 1"),
        ({"weight": True}, "weight is True, but must be a number from 0 to 1,000, or nothing"),
    ],
)
def test_a_sheet_that_does_not_fit(change: dict[str, Any], words: str) -> None:
    mapping = {"title": "Week 1", "exercises": ["one"]} | change
    with pytest.raises(InvalidSheet, match=words):
        read_sheet(Path("sheets/week-1.yaml"), mapping, {"one": 3.0})


def test_a_pack_with_only_a_sample_has_no_exercises(tmp_path: Path) -> None:
    (tmp_path / "pack.yaml").write_text("format: jentrow-pack/1\ntitle: Huts\n")
    (tmp_path / "samples").symlink_to(DEMO / "samples")
    with opened_pack(tmp_path) as pack:
        assert (pack.exercises, pack.sheets, list(pack.samples)) == ((), (), ["gauges", "huts"])
