"""What a translation makes of an expression may stand wherever the expression may."""

from __future__ import annotations

import re
from contextlib import closing
from itertools import product

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.stand_ins.stand_in import stood_in
from jentrow.services.runtime.engines import engine_named

MILLS = DatasetSource(
    "mills",
    """
    CREATE TABLE mills (mill_id INTEGER PRIMARY KEY, name VARCHAR(20), brook VARCHAR(20), wheels INTEGER,
        toll DECIMAL(6,2), built DATE, mark CHAR(4));
    INSERT INTO mills VALUES (1, 'Aumuhle', 'North', 30, 12.50, '1890-05-01', 'AB'),
        (2, 'Bach', 'North', 12, 9.00, '1901-11-30', 'ABCD'), (3, 'Klamm', 'South', 45, 15.25, '1885-02-28', 'C'),
        (4, 'Dorn', 'South', 12, NULL, NULL, 'D');
    """,
    keep_rows=True,
)

EXPRESSIONS = {
    "tsql": [
        "YEAR(built)", "wheels / 10", "wheels % 7", "name + '!'", "LEFT(name, 1)", "ISNULL(toll, 0)",
        "CAST(wheels AS VARCHAR(5))", "CAST(wheels / 2 AS VARCHAR(5))", "CONCAT(brook, '-', wheels)",
        "IIF(wheels > 20, 'big', 'small')", "LEN(name)", "DATEPART(quarter, built)", "CONVERT(VARCHAR(7), built, 120)",
        "CHARINDEX('a', name)", "DATEADD(month, 1, built)", "CHOOSE(mill_id, 'a', 'b', 'c', 'd')", "RTRIM(mark)", "mark",
        "CASE WHEN name LIKE '[A-C]%' THEN 1 ELSE 0 END", "CAST(toll AS INT)",
    ],
    "oracle": [
        "EXTRACT(YEAR FROM built)", "TO_CHAR(built, 'YYYY-MM')", "TRUNC(built, 'MM')", "ROUND(built, 'YYYY')",
        "wheels / 10", "FLOOR(wheels / 10) * 10", "MOD(wheels, 7)", "name || '!'", "SUBSTR(name, 1, 1)", "NVL(toll, 0)",
        "NVL2(toll, 1, 0)", "DECODE(brook, 'North', 1, 2)", "TO_CHAR(wheels)", "CAST(wheels AS VARCHAR2(5))",
        "ADD_MONTHS(built, 1)", "built + 1", "GREATEST(wheels, 20)", "TRIM(brook)", "REPLACE(name, 'a', '')",
        "LPAD(wheels, 5, '0')", "SUBSTR(wheels, 1, 1)", "REGEXP_SUBSTR(name, '[a-z]+')", "mark",
    ],
    "db2": [
        "YEAR(built)", "wheels / 10", "MOD(wheels, 7)", "name || '!'", "SUBSTR(name, 1, 1)", "VALUE(toll, 0)",
        "VARCHAR(wheels)", "INTEGER(toll)", "DECIMAL(toll, 5, 1)", "LOCATE('a', name)", "built + 1 MONTH", "DAYS(built)",
        "VARCHAR_FORMAT(built, 'YYYY-MM')", "MAX(wheels, 20)", "STRIP(brook)", "DAYOFWEEK(built)", "mark",
    ],
}  # fmt: skip

PLACES = [
    "SELECT {} AS k, COUNT(*) AS n FROM mills GROUP BY {}",
    "SELECT {} AS k FROM mills GROUP BY {} HAVING COUNT(*) > 0 ORDER BY {}",
    "SELECT {} AS k, SUM(wheels) AS s FROM mills GROUP BY {} ORDER BY SUM(wheels) DESC, {}",
    "SELECT {} AS k, COUNT(*) AS n FROM mills GROUP BY ROLLUP ({})",
    "SELECT DISTINCT {} AS k FROM mills ORDER BY {}",
    "SELECT brook, MAX({}) AS m FROM mills GROUP BY brook",
    "SELECT COUNT(DISTINCT {}) AS n FROM mills",
    "SELECT name, RANK() OVER (PARTITION BY {} ORDER BY mill_id) AS r FROM mills",
    "SELECT name, RANK() OVER (ORDER BY {}) AS r FROM mills",
    "SELECT {} AS k FROM mills UNION SELECT {} FROM mills",
    "WITH q AS (SELECT {} AS k, mill_id FROM mills) SELECT k, COUNT(*) AS n FROM q GROUP BY k",
    "SELECT name FROM mills WHERE mill_id IN (SELECT mill_id FROM mills WHERE {} IS NOT NULL)",
]


@pytest.mark.parametrize("name", sorted(EXPRESSIONS))
def test_an_expression_stands_wherever_it_may(name: str) -> None:
    texts = [re.sub(r"\{\}", one, place) for place, one in product(PLACES, EXPRESSIONS[name])]
    with closing(engine_named(name, workers=1)) as engine:
        dataset = engine.load(MILLS)
        for at, found in engine.run_many(dataset, texts, Limits()):
            assert stood_in(name, texts[at], dataset.kinds).notes == (), texts[at]
            assert isinstance(found, ResultSet), (texts[at], found)
