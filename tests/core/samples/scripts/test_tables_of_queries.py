"""Tables that a script makes of a query's rows."""

from __future__ import annotations

from pathlib import Path

import pytest

from jentrow.core.samples.scripts.reading import read_script
from jentrow.core.samples.scripts.reasons import OF_A_QUERY
from tests.core.samples.scripts.test_reading import made, rows_of

WEIRS = """
CREATE TABLE weirs (weir_no INT PRIMARY KEY, river VARCHAR(20) NOT NULL, drop_cm INT, toll DECIMAL(6, 2), built DATE);
INSERT INTO weirs VALUES (1, 'Lind', 310, 2.50, '1921-07-16');
INSERT INTO weirs VALUES (2, 'Lind', 205, NULL, '1950-01-31');
INSERT INTO weirs VALUES (3, 'Sarn', 420, 1.25, NULL);
CREATE TABLE rivers (river VARCHAR(20), length_km INT);
INSERT INTO rivers VALUES ('Lind', 40);
INSERT INTO rivers VALUES ('Sarn', 66);
"""
WRITTEN = {
    "tsql": "SELECT {items} INTO dbo.{name} FROM {rest};",
    "oracle": "CREATE TABLE {name} AS SELECT {items} FROM {rest};",
    "db2": "CREATE TABLE {name} AS (SELECT {items} FROM {rest}) WITH DATA;",
    "postgres": "CREATE TABLE {name} AS SELECT {items} FROM {rest};",
    "mysql": "CREATE TABLE {name} AS SELECT {items} FROM {rest};",
}


def script(dialect: str, name: str, items: str, rest: str) -> str:
    dated = WEIRS.replace("'1921", "DATE '1921").replace("'1950", "DATE '1950")
    before = dated if dialect == "oracle" else WEIRS
    return before + WRITTEN[dialect].format(name=name, items=items, rest=rest)


@pytest.mark.parametrize("dialect", sorted(WRITTEN))
def test_a_table_is_made_of_a_query_with_its_rows(tmp_path: Path, dialect: str) -> None:
    text = script(
        dialect,
        "drops",
        "w.weir_no, UPPER(w.river) AS named, w.drop_cm * 2 AS twice, w.toll, r.length_km, 'x' AS kind",
        "weirs w JOIN rivers r ON r.river = w.river WHERE w.drop_cm > 300",
    )
    dataset, left_out, _ = made(tmp_path, text, dialect)
    assert left_out == []
    columns = {one.name: one.type_name for one in dataset.table("drops").columns}
    assert columns == {
        "weir_no": "integer", "named": "text", "twice": "integer", "toll": "decimal",
        "length_km": "integer", "kind": "text",
    }  # fmt: skip
    assert rows_of(dataset, "drops") == [
        (1, "LIND", 620, 2.5, 40, "x"), (3, "SARN", 840, 1.25, 66, "x"),
    ]  # fmt: skip


@pytest.mark.parametrize("dialect", sorted(WRITTEN))
def test_groups_and_all_columns_of_a_table(tmp_path: Path, dialect: str) -> None:
    grouped = script(
        dialect,
        "by_river",
        "river, COUNT(*) AS n, SUM(drop_cm) AS total, SUM(toll) AS tolls, MIN(built) AS first_one",
        "weirs GROUP BY river",
    )
    whole = WRITTEN[dialect].format(name="all_of_them", items="*", rest="by_river")
    dataset, left_out, _ = made(tmp_path, grouped + "\n" + whole, dialect)
    assert left_out == []
    for table in ("by_river", "all_of_them"):
        types = [one.type_name for one in dataset.table(table).columns]
        assert types == ["text", "integer", "integer", "decimal", "date"]
        assert rows_of(dataset, table) == [
            ("Lind", 2, 515, 2.5, "1921-07-16"), ("Sarn", 1, 420, 1.25, None),
        ]  # fmt: skip


@pytest.mark.parametrize(
    ("dialect", "text"),
    [
        ("tsql", "SELECT * INTO weirs_empty FROM weirs WHERE 1 = 0"),
        ("db2", "CREATE TABLE weirs_empty AS (SELECT * FROM weirs) DEFINITION ONLY"),
        ("postgres", "CREATE TABLE weirs_empty AS SELECT * FROM weirs WITH NO DATA"),
    ],
)
def test_a_table_without_rows(tmp_path: Path, dialect: str, text: str) -> None:
    dataset, left_out, _ = made(tmp_path, f"{WEIRS}{text};", dialect)
    assert left_out == []
    assert [one.name for one in dataset.table("weirs_empty").columns] == [
        "weir_no", "river", "drop_cm", "toll", "built",
    ]  # fmt: skip
    assert rows_of(dataset, "weirs_empty") == []


def test_the_statement_may_name_the_columns(tmp_path: Path) -> None:
    text = WEIRS + "CREATE TABLE named (a, b) AS SELECT river, length_km FROM rivers;"
    dataset, left_out, _ = made(tmp_path, text, "postgres")
    assert left_out == []
    assert [one.name for one in dataset.table("named").columns] == ["a", "b"]
    assert rows_of(dataset, "named") == [("Lind", 40), ("Sarn", 66)]


def test_whole_numbers_divide_as_they_do_on_their_engine(tmp_path: Path) -> None:
    items = "weir_no, drop_cm / 100 AS m"
    dataset, left_out, _ = made(tmp_path, script("tsql", "metres", items, "weirs"), "tsql")
    assert left_out == []
    assert rows_of(dataset, "metres") == [(1, 3), (2, 2), (3, 4)]
    # Where they have a fraction, what that is declared as is not plain.
    read = read_script(script("oracle", "metres", items, "weirs"), "oracle")
    assert [one.why for one in read.left_out] == [OF_A_QUERY]


@pytest.mark.parametrize(
    ("items", "rest"),
    [
        ("ROUND(toll / 3, 1) AS third", "weirs"),
        ("AVG(drop_cm) AS average", "weirs"),
        ("COUNT(*)", "weirs"),
        ("w.*, r.river", "weirs w JOIN rivers r ON r.river = w.river"),
        ("x.river", "(SELECT river FROM weirs) x"),
        ("river", "nowhere"),
        ("CASE WHEN drop_cm > 300 THEN 'high' ELSE drop_cm END AS odd", "weirs"),
    ],
)
def test_what_is_not_plain_is_told(items: str, rest: str) -> None:
    read = read_script(script("oracle", "made", items, rest), "oracle")
    assert [one.why for one in read.left_out] == [OF_A_QUERY]
    assert read.table("made") is None


def test_a_name_that_is_taken_is_told() -> None:
    read = read_script(script("tsql", "rivers", "river", "weirs"), "tsql")
    assert [one.why for one in read.left_out] == [OF_A_QUERY]
