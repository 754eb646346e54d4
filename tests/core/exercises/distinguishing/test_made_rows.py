"""Made-up rows: constraints kept whatever the seed, habits of the open data, values that matter."""

import apsw
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jentrow.core.samples.generated.habits import HabitCheck, habits_of
from jentrow.core.samples.generated.made_rows import RowMaker, in_order, with_parents
from jentrow.core.samples.generated.value_pools import matching, pools_for
from jentrow.core.samples.schema.tables import read_schema
from jentrow.core.sql.mentions import Mentions

DDL = """
CREATE TABLE rivers (river_id INTEGER PRIMARY KEY, name TEXT NOT NULL UNIQUE,
    length_km DECIMAL(6,1) CHECK (length_km > 0), flows_into INTEGER REFERENCES rivers);
CREATE TABLE sensors (code TEXT NOT NULL, river_id INTEGER NOT NULL REFERENCES rivers,
    kind TEXT NOT NULL CHECK (kind IN ('level', 'flow')), opened DATE NOT NULL, closed DATE,
    CHECK (closed IS NULL OR closed >= opened), PRIMARY KEY (code, river_id));
CREATE TABLE readings (code TEXT NOT NULL, river_id INTEGER NOT NULL, taken_at TIMESTAMP NOT NULL,
    value REAL, PRIMARY KEY (code, river_id, taken_at),
    FOREIGN KEY (code, river_id) REFERENCES sensors (code, river_id));
"""
HELD = {
    ("sensors", "kind"): ("level", "flow"),
    ("sensors", "code"): ("A1", "B2", "C3"),
    ("rivers", "name"): ("Kell", "Moor", "Ried", "Steg", "Au"),
}


@pytest.fixture(scope="module")
def db():
    made = apsw.Connection(":memory:")
    made.execute(DDL)
    return made


def maker(db, seed: int) -> RowMaker:
    tables = read_schema(db)

    def allowed(table, row) -> bool:
        if table.name != "sensors":
            return True
        closed = row[4]
        return row[2] in ("level", "flow") and (closed is None or closed >= row[3])

    mentions = Mentions(loose=[5, "2026-03-01"], thresholds=[3])
    pools = pools_for(tables, mentions, HELD)
    return RowMaker(tables, pools, {}, allowed, seed)


@settings(max_examples=settings.default.max_examples // 3)
@given(st.integers(min_value=0, max_value=10_000))
def test_every_constraint_is_kept(db, seed):
    datasets = maker(db, seed).datasets()
    for _ in range(12):
        rows = next(datasets)
        with db:
            db.execute("DELETE FROM readings; DELETE FROM sensors; DELETE FROM rivers")
            for table, held in rows.items():
                marks = ", ".join("?" * len(held[0])) if held else ""
                for row in held:
                    if table == "rivers" and row[2] is not None and row[2] <= 0:
                        continue
                    db.execute(f"INSERT INTO {table} VALUES ({marks})", row)
            broken = list(db.execute("PRAGMA foreign_key_check"))
        assert broken == []


def test_the_same_seed_makes_the_same_rows(db):
    one, other = maker(db, 7).datasets(), maker(db, 7).datasets()
    assert [next(one) for _ in range(20)] == [next(other) for _ in range(20)]


def test_thresholds_get_as_many_rows_and_one_more(db):
    datasets = maker(db, 1).datasets()
    sizes = {len(rows[table]) for rows in (next(datasets) for _ in range(90)) for table in rows}
    assert {0, 1, 2, 3, 4} <= sizes


def test_parents_stand_before_their_children(db):
    tables = read_schema(db)
    assert [table.name for table in in_order(list(reversed(tables)))] == [
        "rivers", "sensors", "readings",
    ]  # fmt: skip
    assert {table.name for table in with_parents(tables, {"readings"})} == {
        "rivers", "sensors", "readings",
    }  # fmt: skip


def test_a_pattern_gets_texts_that_match_it_and_such_as_nearly_do():
    texts = list(matching("%alp"))
    assert "aalp" in texts
    assert "ALP" in texts
    assert "alpa" in texts


def test_habits_are_read_from_rows_and_looked_after(db):
    table = next(one for one in read_schema(db) if one.name == "sensors")
    rows = [
        ("A1", 1, "level", "2020-01-01", "2021-01-01"),
        ("B2", 1, "flow", "2020-01-01", "2020-02-01"),
        ("C3", 2, "level", "2019-01-01", "2021-01-01"),
        ("D4", 2, "flow", "2018-01-01", "2018-01-01"),
    ]
    habits = habits_of(table, rows)
    assert "code" in habits.unique
    assert ("opened", "closed") in habits.rising
    check = HabitCheck(habits, table)
    fresh = ("E5", 1, "flow", "2020-01-01", None)
    assert check.passes(fresh, rows)
    assert not check.passes(("A1", 3, "flow", "2020-01-01", None), rows)
    assert not check.passes(("e5 ", 3, "flow", "2020-01-01", None), rows)
    assert not check.passes(("F6", 3, "flow", "2020-01-01", "2019-01-01"), rows)
    assert not check.passes(("b2", 3, "flow", "2020-01-01", None), rows)
    assert not check.passes(("F6", 3, "depth", "2020-01-01", None), rows)


def test_three_rows_are_too_few_for_a_habit(db):
    table = next(one for one in read_schema(db) if one.name == "rivers")
    habits = habits_of(table, [(1, "Kell", 2.0, None)] * 3)
    assert not habits.unique
    assert not habits.rows_differ
