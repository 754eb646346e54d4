"""Wrong, right and lucky answers written by hand over the demo's samples: what is found of each."""

import sqlite3
from collections import Counter
from itertools import islice

import pytest
from hypothesis import settings

from jentrow.core.exercises.distinguishing.near_misses import near_misses
from jentrow.core.exercises.distinguishing.right_by_luck import right_by_luck
from jentrow.core.exercises.distinguishing.smallest_example import smallest_example
from jentrow.core.exercises.distinguishing.two_edits import two_edits
from tests.core.exercises.distinguishing.benches import CORPUS, SAMPLES, laboratory

OTHER_SEED = 4711
ROWS_AT_MOST = 6

ENTRIES = [pytest.param(entry, id=entry["reference"][:60]) for entry in CORPUS]


def held_by_plain_sqlite(sample: str, tables: dict) -> sqlite3.Connection:
    """The rows of an example, put in by nothing of ours, with every constraint looked after."""
    db = sqlite3.connect(":memory:")
    db.executescript((SAMPLES / sample / "schema.sql").read_text("utf-8"))
    for name, table in tables.items():
        marks = ", ".join("?" for _ in table["columns"])
        names = ", ".join(table["columns"])
        db.executemany(f"INSERT INTO {name} ({names}) VALUES ({marks})", table["rows"])
    assert db.execute("PRAGMA foreign_key_check").fetchall() == []
    return db


def is_right_on_other_rows(lab, sql: str, count: int) -> bool:
    """Whether a text is right on datasets that were not used to find it."""
    made = lab.bench.making([lab.bench.draft(sql)], seed=OTHER_SEED)
    for dataset in islice(made, count):
        lab.bench.scratch.fill(dataset.rows)
        if not lab.bench.is_right(lab.bench.run(sql), dataset.due):
            return False
    return True


@pytest.mark.parametrize("entry", ENTRIES)
def test_every_wrong_answer_has_a_small_example(entry, engine):
    lab = laboratory(engine, entry["sample"], entry["reference"])
    for sql in (*entry["wrong"], *entry.get("far", ())):
        example = smallest_example(lab.bench, sql)
        assert example is not None, sql
        assert 1 <= example.row_count <= ROWS_AT_MOST, sql
        said = example.to_json()
        db = held_by_plain_sqlite(entry["sample"], said["tables"])
        due, given = ([list(row) for row in db.execute(text)] for text in (entry["reference"], sql))
        in_order = "ORDER BY" in entry["reference"]
        assert given != due if in_order else Counter(map(repr, given)) != Counter(map(repr, due))
        assert Counter(map(repr, said["expected"]["rows"])) == Counter(map(repr, due))
        assert Counter(map(repr, said["actual"]["rows"])) == Counter(map(repr, given))


@pytest.mark.parametrize("entry", ENTRIES)
def test_one_mistake_is_mended_by_one_edit_that_is_right_in_general(entry, engine):
    lab = laboratory(engine, entry["sample"], entry["reference"])
    tried = settings.default.max_examples * 3 // 2
    for sql in entry["wrong"]:
        if lab.standing(sql) != "incorrect":
            continue
        found = near_misses(lab.bench, sql, lab.is_right)
        assert found, f"no near miss: {sql}"
        for one in found:
            assert one.sql == sql[: one.start] + one.new + sql[one.end :]
            assert lab.is_right(one.sql)
            assert is_right_on_other_rows(lab, one.sql, tried), one.sql


@pytest.mark.parametrize("entry", [one for one in ENTRIES if "far" in one.values[0]])
def test_two_mistakes_are_not_explained_by_one_edit(entry, engine):
    lab = laboratory(engine, entry["sample"], entry["reference"])
    for sql in entry["far"]:
        assert near_misses(lab.bench, sql, lab.is_right) == ()


def test_two_mistakes_are_mended_by_two_edits_one_after_the_other(engine):
    lab = laboratory(engine, "huts", "SELECT hut_id FROM stays EXCEPT SELECT hut_id FROM wardens")
    wrong = "SELECT hut_id FROM stays WHERE hut_id NOT IN (SELECT hut_id FROM wardens)"
    first, second = two_edits(lab.bench, wrong, lab.is_right)
    assert second.sql == first.sql[: second.start] + second.new + first.sql[second.end :]
    assert {first.label, second.label} == {"DISTINCT", "rows without a value"}
    assert lab.is_right(second.sql)
    assert not lab.is_right(first.sql)


def test_where_two_edits_do_not_do_nothing_is_said(engine):
    lab = laboratory(engine, "huts", "SELECT name FROM huts WHERE beds > 20 ORDER BY altitude_m")
    assert two_edits(lab.bench, "SELECT guest FROM stays", lab.is_right) == ()


@pytest.mark.parametrize("entry", ENTRIES)
def test_what_passes_by_luck_is_found(entry, engine):
    lab = laboratory(engine, entry["sample"], entry["reference"], only_open=True)
    lucky = [
        sql for sql in (*entry["wrong"], *entry.get("lucky", ())) if lab.standing(sql) == "correct"
    ]
    for sql in lucky:
        luck = right_by_luck(lab.bench, sql)
        assert luck.grade, sql
        assert luck.example is not None


@pytest.mark.parametrize("entry", ENTRIES)
def test_a_right_rewriting_raises_no_alarm(entry, engine):
    lab = laboratory(engine, entry["sample"], entry["reference"])
    for sql in entry["right"][:1]:
        assert lab.standing(sql) == "correct", sql
        luck = right_by_luck(lab.bench, sql)
        assert luck.grade is None, (sql, luck.rows)
        assert luck.tried > 100
