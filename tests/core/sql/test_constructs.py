from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from jentrow.core.engines.protocol import LoadedDataset
from jentrow.core.sql.constructs import CONSTRUCTS, Reading, find_construct, read_query
from jentrow.core.sql.scopes import table_columns
from tests.cases import read_cases

CASES = read_cases(Path(__file__).parent / "cases" / "constructs.yaml")
NAMES = {"function": ("count", "coalesce", "ifnull", "iif", "if", "concat"), "table": ("huts",)}


def read(sql: str, huts: LoadedDataset) -> Reading:
    reading = read_query(sql, "sqlite", table_columns(huts.columns))
    assert reading is not None
    return reading


def shown(construct: str, name: str) -> str:
    return f"{construct}:{name}" if name else construct


@pytest.mark.parametrize("case", CASES, ids=lambda case: case["sql"][:70])
def test_exactly_the_constructs_that_are_there(case: Any, huts: LoadedDataset) -> None:
    reading = read(case["sql"], huts)
    found = {
        shown(construct, name)
        for construct in CONSTRUCTS
        for name in NAMES.get(construct, ("",))
        if find_construct(reading, construct, name)
    }
    assert found == set(case["found"])


def test_every_construct_is_found_somewhere() -> None:
    found = {name.split(":")[0] for case in CASES for name in case["found"]}
    assert found == set(CONSTRUCTS)


@pytest.mark.parametrize(
    ("construct", "sql", "text"),
    [
        ("case", "SELECT 'CASE',\n  CASE WHEN beds > 1 THEN 1 END FROM huts", "CASE"),
        ("in", "SELECT 'IN' FROM huts\nWHERE beds\n  IN (1, 2)", "IN"),
        ("outer_join", "SELECT 1 FROM huts JOIN trails ON 1\nLEFT JOIN stays ON 1", "JOIN"),
        ("having", "SELECT 1 /* HAVING */ FROM huts\nGROUP BY region HAVING 1", "HAVING"),
        ("null_comparison", "SELECT 1 FROM huts WHERE beds = 1 AND\nregion = NULL", "="),
        ("wildcard", "SELECT COUNT(*) FROM huts UNION\nSELECT * FROM huts", "*"),
        ("by_position", "SELECT name, 2 FROM huts\nORDER BY 2", "2"),
    ],
)
def test_the_place_is_that_of_the_construct(
    construct: str, sql: str, text: str, huts: LoadedDataset
) -> None:
    (spot,) = find_construct(read(sql, huts), construct)
    line = sql.split("\n")[spot.place.line - 1]
    assert line[spot.place.column - 1 : spot.place.column - 1 + spot.length] == text
    assert spot.place.line > 1


def test_what_cannot_be_read_is_not_guessed_at() -> None:
    assert read_query("SELECT CASE FROM FROM", "sqlite") is None


def test_the_sign_of_an_outer_join_is_one() -> None:
    sql = "SELECT 1 FROM huts h, stays s\nWHERE h.hut_id = s.hut_id (+)"
    reading = read_query(sql, "oracle")
    assert reading is not None
    (spot,) = find_construct(reading, "outer_join")
    assert (spot.place.line, spot.place.column) == (2, 27)
    plain = read_query(sql.removesuffix(" (+)"), "oracle")
    assert plain is not None
    assert not find_construct(plain, "outer_join")
