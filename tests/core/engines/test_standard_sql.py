"""What is the same in every dialect is the same on the stand-ins, or gets no verdict."""

from __future__ import annotations

from collections import Counter
from contextlib import closing
from itertools import product

import pytest

from jentrow.core.engines.labels import STAND_INS
from jentrow.core.engines.limits import Limits
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.stand_ins.stand_in import stood_in
from jentrow.services.runtime.engines import engine_named

# Small letters alone, no empty texts, and no text that ends in blanks: those the dialects mind.
FERRIES = DatasetSource(
    "ferries",
    """
    CREATE TABLE ferries (
        ferry_id INTEGER PRIMARY KEY, name VARCHAR(20) NOT NULL, harbour VARCHAR(20), berths INTEGER,
        fare DECIMAL(6,2), built DATE
    );
    INSERT INTO ferries VALUES (1, 'auk', 'north', 7, 4.50, '1998-04-30'),
        (2, 'avocet', 'north', 4, 3.00, '2003-11-02'), (3, 'brent', NULL, 9, NULL, NULL),
        (4, 'curlew', 'south', 4, 6.25, '2003-11-02'), (5, 'dunlin', 'south', NULL, 3.00, '2015-07-15');
    CREATE TABLE trips (trip_id INTEGER PRIMARY KEY, ferry_id INTEGER, guests INTEGER, note VARCHAR(20));
    INSERT INTO trips VALUES (1, 1, 12, 'calm'), (2, 1, NULL, 'rough, late'), (3, 2, 30, NULL),
        (4, 4, 12, '100% full'), (5, NULL, 3, 'late');
    """,
    keep_rows=True,
)

CONDITIONS = [
    "f.berths = 4", "f.berths <> 4", "f.berths < 7", "f.fare >= 4.5", "f.name = 'auk'", "f.name > 'b'",
    "f.name LIKE 'a%'", "f.name NOT LIKE 'a%'", "f.name LIKE '_u%'", "f.name NOT LIKE '%l__'",
    "f.harbour NOT LIKE 'n%'", "f.harbour LIKE '%!%%' ESCAPE '!'", "f.name NOT LIKE '%!_%' ESCAPE '!'",
    "f.harbour IS NULL", "f.harbour IS NOT NULL", "f.berths IN (4, 9)", "f.berths NOT IN (4, 9)",
    "f.berths BETWEEN 4 AND 7", "f.berths NOT BETWEEN 4 AND 7", "f.fare BETWEEN 3 AND 4.5",
    "f.ferry_id IN (SELECT t.ferry_id FROM trips t)",
    "f.ferry_id NOT IN (SELECT t.ferry_id FROM trips t)",
    "f.ferry_id NOT IN (SELECT t.ferry_id FROM trips t WHERE t.ferry_id IS NOT NULL)",
    "EXISTS (SELECT 1 FROM trips t WHERE t.ferry_id = f.ferry_id AND t.note NOT LIKE '%late%')",
    "NOT EXISTS (SELECT 1 FROM trips t WHERE t.ferry_id = f.ferry_id)",
    "f.berths > ALL (SELECT t.guests FROM trips t WHERE t.guests < 5)",
    "f.berths >= (SELECT AVG(g.fare) FROM ferries g WHERE g.harbour = f.harbour)",
    "f.built > (SELECT MIN(g.built) FROM ferries g)", "COALESCE(f.berths, 0) < 5",
    "NULLIF(f.berths, 4) IS NULL", "f.berths = 4 AND f.fare > 3 OR f.harbour IS NULL",
    "CASE WHEN f.berths > 5 THEN 1 ELSE 0 END = 1", "UPPER(f.name) LIKE 'A%'",
    "f.harbour <> (SELECT g.harbour FROM ferries g WHERE g.ferry_id = 1)",
]  # fmt: skip

SHAPES = [
    "SELECT f.name FROM ferries f WHERE {}",
    "SELECT f.name FROM ferries f WHERE NOT ({})",
    "SELECT f.name, CASE WHEN {} THEN 'yes' ELSE 'no' END AS told FROM ferries f",
    "SELECT COUNT(*) AS n, SUM(f.berths) AS s FROM ferries f WHERE {}",
    "SELECT f.harbour, COUNT(*) AS n FROM ferries f WHERE {} GROUP BY f.harbour HAVING COUNT(*) > 1",
    "SELECT f.name, t.guests FROM ferries f LEFT JOIN trips t ON t.ferry_id = f.ferry_id WHERE {}",
]

WHOLE = [
    "SELECT f.name, t.note FROM ferries f LEFT JOIN trips t ON t.ferry_id = f.ferry_id AND t.note NOT LIKE 'r%'",
    "SELECT f.name, t.note FROM ferries f FULL JOIN trips t ON t.ferry_id = f.ferry_id",
    "SELECT f.name, g.name FROM ferries f JOIN ferries g ON g.harbour = f.harbour AND g.ferry_id > f.ferry_id",
    "SELECT DISTINCT f.harbour FROM ferries f",
    "SELECT f.harbour FROM ferries f UNION SELECT t.note FROM trips t",
    "SELECT f.berths FROM ferries f INTERSECT SELECT t.guests - 3 FROM trips t",
    "SELECT f.name, RANK() OVER (PARTITION BY f.harbour ORDER BY f.fare) AS place FROM ferries f WHERE f.fare IS NOT NULL",
    "SELECT f.name, SUM(f.fare) OVER (ORDER BY f.ferry_id) AS so_far FROM ferries f",
    "SELECT f.name, LAG(f.name) OVER (ORDER BY f.ferry_id) AS before FROM ferries f",
    "WITH busy AS (SELECT t.ferry_id, SUM(t.guests) AS guests FROM trips t GROUP BY t.ferry_id) "
    "SELECT f.name, b.guests FROM ferries f JOIN busy b ON b.ferry_id = f.ferry_id WHERE b.guests > 12",
    "SELECT f.harbour, MIN(f.fare) AS a, MAX(f.fare) AS b, COUNT(f.berths) AS c, COUNT(DISTINCT f.berths) AS d "
    "FROM ferries f GROUP BY f.harbour",
    "SELECT x.h, x.n FROM (SELECT f.harbour AS h, COUNT(*) AS n FROM ferries f GROUP BY f.harbour) x WHERE x.h IS NOT NULL",
    "SELECT f.name, (SELECT COUNT(*) FROM trips t WHERE t.ferry_id = f.ferry_id) AS n FROM ferries f",
    "SELECT f.name, ROUND(f.fare * 1.1, 1) AS more, f.berths * 2 - 1 AS odd, ABS(f.berths - 5) AS off FROM ferries f",
    "SELECT UPPER(f.name) AS u, LOWER(f.harbour) AS l FROM ferries f",
    "SELECT f.name, CASE f.harbour WHEN 'north' THEN 1 WHEN 'south' THEN 2 END AS told FROM ferries f",
    "SELECT f.harbour, f.berths, SUM(f.fare) AS s FROM ferries f GROUP BY GROUPING SETS ((f.harbour, f.berths), (f.harbour), ())",
]  # fmt: skip

QUERIES = [shape.format(condition) for shape, condition in product(SHAPES, CONDITIONS)] + WHOLE


@pytest.mark.parametrize("name", sorted(STAND_INS))
def test_the_same_rows_come_of_the_same_words(name: str) -> None:
    with (
        closing(engine_named("duckdb", workers=1)) as standard,
        closing(engine_named(name, workers=1)) as engine,
    ):
        plain, dataset = standard.load(FERRIES), engine.load(FERRIES)
        due = dict(standard.run_many(plain, QUERIES, Limits()))
        kept = [sql for sql in QUERIES if not stood_in(name, sql, dataset.kinds).notes]
        given = dict(engine.run_many(dataset, kept, Limits()))
        told = {at: due[QUERIES.index(sql)] for at, sql in enumerate(kept)}
    assert len(kept) > 0.9 * len(QUERIES)
    for at, sql in enumerate(kept):
        one, other = told[at], given[at]
        assert isinstance(one, ResultSet), (sql, one)
        assert isinstance(other, ResultSet), (sql, other)
        assert Counter(one.rows) == Counter(other.rows), sql
