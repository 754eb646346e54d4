"""DECIMAL columns kept as real numbers."""

from __future__ import annotations

from pathlib import Path

import apsw
import pytest

from jentrow.core.samples.schema.decimals import decimal_columns, with_real_decimals

SCHEMA = """
CREATE TABLE boats (
    name TEXT DEFAULT 'a DECIMAL', price DECIMAL(6, 2) NOT NULL CHECK (CAST(price AS DECIMAL) > 0),
    "berth fee" NUMERIC, decimal INTEGER, -- numeric DECIMAL
    PRIMARY KEY (name));
CREATE TEMP TABLE aside (x dec(4,1));
CREATE VIEW cheap AS SELECT name, CAST(price AS DECIMAL) AS price FROM boats;
"""


def test_only_the_types_of_columns_are_changed() -> None:
    assert decimal_columns(SCHEMA) == ["price", "berth fee", "x"]
    changed = with_real_decimals(SCHEMA)
    assert changed == (
        SCHEMA.replace("price DECIMAL(6, 2)", "price REAL(6, 2)")
        .replace('fee" NUMERIC', 'fee" REAL')
        .replace("dec(4,1)", "REAL(4,1)")
    )
    assert with_real_decimals(changed) == changed
    assert decimal_columns(changed) == []


@pytest.mark.parametrize(
    "schema", ["", "DECIMAL", "CREATE TABLE", "CREATE TABLE t (DECIMAL", "(a DEC,"]
)
def test_any_text_is_read(schema: str) -> None:
    decimal_columns(schema)
    with_real_decimals(schema)


def test_such_a_column_divides_as_elsewhere(tmp_path: Path) -> None:
    answers = []
    for schema in (
        "CREATE TABLE t (price DECIMAL(6,2))",
        with_real_decimals("CREATE TABLE t (price DECIMAL(6,2))"),
    ):
        db = apsw.Connection(":memory:")
        db.execute(schema)
        db.execute("INSERT INTO t VALUES (25.00), ('24')")
        answers.append([value for (value,) in db.execute("SELECT price / 2 FROM t")])
        db.close()
    assert answers == [[12, 12], [12.5, 12.0]]
