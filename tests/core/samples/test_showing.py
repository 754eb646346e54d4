from __future__ import annotations

import pytest

from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.rows.edits import Delete, Insert, Update, make_edits
from jentrow.core.samples.rows.pages import RowReader
from jentrow.core.samples.rows.showing import Showing, Wanted, what_rows_show
from jentrow.core.samples.rows.suggestions import suggest
from jentrow.core.sql.boundaries import Boundary, boundaries_in
from tests.core.samples.conftest import MakeDataset

COLUMNS = [("huts", ["hut_id", "altitude_m", "name"]), ("stays", ["hut_id", "arrival"])]


@pytest.mark.parametrize(
    ("sql", "found"),
    [
        ("SELECT name FROM huts WHERE altitude_m >= 2000", [("huts", "altitude_m", "2000", False)]),
        ("SELECT 1 FROM huts h WHERE 9000 > h.altitude_m", [("huts", "altitude_m", "9000", True)]),
        ("SELECT 1 FROM huts WHERE altitude_m BETWEEN -5 AND 7.5",
         [("huts", "altitude_m", "-5", False), ("huts", "altitude_m", "7.5", False)]),
        ("SELECT 1 FROM stays WHERE arrival < CAST('2026-07-01' AS DATE)",
         [("stays", "arrival", "2026-07-01", True)]),
        ("SELECT 1 FROM huts, stays WHERE hut_id > 1", []),  # either table's
        ("SELECT 1 FROM huts WHERE altitude_m = 1 OR name > altitude_m", []),
        ("SELECT '> 5' -- altitude_m > 3", []),
        ("SELEC", []),
        ("", []),
    ],
)  # fmt: skip
def test_boundaries_are_read_from_queries(
    sql: str, found: list[tuple[str, str, str, bool]]
) -> None:
    assert boundaries_in(sql, COLUMNS, "sqlite") == [Boundary(*one) for one in found]


def by_id(dataset: Dataset, wanted: list[Wanted] | None = None) -> dict[str, Showing]:
    return {one.id: one for one in what_rows_show(dataset, wanted or [])}


def test_what_the_weirs_show(weirs: Dataset) -> None:
    found = by_id(weirs)
    counts = {
        "null:rivers:basin:": 1,
        "empty:rivers:basin:": 1,
        "case:rivers:name:": 0,
        "tie:weirs:height_m:": 1,
        "null:weirs:height_m:": 1,
        "child_alone:weirs:river_id:rivers": 1,
        "parent_alone:rivers:river_id:weirs": 1,
        "parent_with_one:rivers:river_id:weirs": 1,
        "parent_with_one:weirs:weir:gates": 1,
        "duplicate:notes:text:weight:raw:any:": 2,
        "group_of_one:weirs:open:": 1,
    }
    assert {id: found[id].count for id in counts} == counts
    assert "duplicate:weirs:code:river_id:height_m:built:open:" not in found  # its key forbids it
    assert "null:rivers:name:" not in found
    assert not any("twice" in one.columns for one in found.values())


def test_every_missing_kind_of_the_huts_can_be_added(huts_kept: Dataset) -> None:
    wanted = [Wanted(Boundary("huts", "altitude_m", "2500", False), "High huts")]
    reader = RowReader(huts_kept)
    for id, one in by_id(huts_kept, wanted).items():
        if one.present:
            assert reader.page(one.table, where=one.where).matching >= 1
            continue
        suggestion = suggest(huts_kept, one)
        assert suggestion.rows, (id, suggestion.why)
        make_edits(huts_kept, suggestion.rows)
        assert by_id(huts_kept, wanted)[id].present, id
        huts_kept.undo()


def test_a_row_with_one_partner_may_need_two_new_rows(make_of: MakeDataset) -> None:
    dataset = make_of(
        "CREATE TABLE p (a INTEGER PRIMARY KEY, n TEXT UNIQUE);"
        "CREATE TABLE c (a INTEGER NOT NULL REFERENCES p (a), d DATE UNIQUE);"
        "INSERT INTO p VALUES (1, 'one');"
        "INSERT INTO c VALUES (1, '2026-01-01'), (1, '2026-01-02');"
    )
    missing = by_id(dataset)["parent_with_one:p:a:c"]
    suggestion = suggest(dataset, missing)
    assert [row.table for row in suggestion.rows] == ["p", "c"]
    make_edits(dataset, suggestion.rows)
    assert by_id(dataset)["parent_with_one:p:a:c"].count == 1


def test_what_constraints_forbid_is_said(make_of: MakeDataset) -> None:
    dataset = make_of(
        "CREATE TABLE t (kind TEXT CHECK (kind >= 'a')); INSERT INTO t VALUES ('a'), ('a');"
    )
    suggestion = suggest(dataset, by_id(dataset)["empty:t:kind:"])
    assert suggestion.rows == ()
    assert "breaks the check kind >= 'a'" in suggestion.why
    make_edits(dataset, [Delete("t", (1, 2))])
    nothing = suggest(dataset, by_id(dataset)["null:t:kind:"])
    assert "no row to make it from" in nothing.why


def test_listed_texts_lack_nothing_that_the_list_lacks(make_of: MakeDataset) -> None:
    dataset = make_of(
        "CREATE TABLE t (kind TEXT CHECK (kind IN ('a', 'b')), odd TEXT, CHECK (odd IN ('', 'x ', 'X')));"
        "INSERT INTO t VALUES ('a', ''), ('a', 'X');"
    )
    shown = by_id(dataset)
    assert not {"empty:t:kind:", "blank:t:kind:", "case:t:kind:"} & set(shown)
    assert shown["null:t:kind:"].count == 0
    assert (shown["empty:t:odd:"].count, shown["blank:t:odd:"].count) == (1, 0)


def test_boundaries_come_from_exercises_and_checks(weirs: Dataset) -> None:
    wanted = [
        Wanted(Boundary("weirs", "height_m", "1.5", False), "Low weirs"),
        Wanted(Boundary("weirs", "built", "1970-01-01", True), "Old weirs"),
        Wanted(Boundary("weirs", "built", "nonsense", True), "never"),
    ]
    found = by_id(weirs, wanted)
    assert found["boundary:weirs:height_m:1.5"].count == 2
    assert found["boundary:weirs:built:1970-01-01"].words == "built exactly 1970-01-01 (Old weirs)"
    assert not any("nonsense" in id for id in found)
    make_edits(weirs, [Update("weirs", 1, {"built": "1970-01-01"})])
    assert by_id(weirs, wanted)["boundary:weirs:built:1970-01-01"].present


def test_a_value_far_from_the_others(make_of: MakeDataset) -> None:
    dataset = make_of("CREATE TABLE t (n INTEGER);")
    make_edits(dataset, [Insert("t", {"n": str(at % 3)}) for at in range(30)])
    assert by_id(dataset)["extreme:t:n:"].count == 0
    make_edits(dataset, [Insert("t", {"n": "1000"})])
    assert by_id(dataset)["extreme:t:n:"].count == 1
