"""Dialects whose engines cannot run here: what is run in their place, and what is left undecided."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from contextlib import closing
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Any

import pytest

from jentrow.core.engines.labels import STAND_INS
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.exercises.exercise import Exercise, NamedQuery
from jentrow.core.exercises.grader import Grader
from jentrow.core.exercises.grading.expectations import expect
from jentrow.core.exercises.warnings import warnings_of
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource, SampleSource
from jentrow.core.sql.columnkinds import ColumnKinds
from jentrow.core.sql.stand_ins.stand_in import may_be_the_stand_in, stood_in
from jentrow.services.runtime.engines import engine_named
from tests.core.engines.stand_ins import stand_ins_over

BUOYS = DatasetSource(
    "buoys",
    """
    CREATE TABLE buoys (buoy_id INTEGER PRIMARY KEY, name TEXT NOT NULL, bay TEXT, depth_m INTEGER);
    INSERT INTO buoys VALUES
        (1, 'Gull', 'North', 7), (2, 'gull', '', 4), (3, 'Tern', NULL, 9), (4, 'Auk', 'North', 4);
    """,
    keep_rows=True,
)


@pytest.fixture(scope="module")
def running() -> Iterator[dict[str, tuple[Engine, LoadedDataset]]]:
    with stand_ins_over(BUOYS) as running:
        yield running


SAME: list[tuple[str, str, list[Any]]] = [
    ("tsql", "SELECT name FROM buoys WHERE name NOT LIKE 'g%' ORDER BY name", [("Auk",), ("Tern",)]),
    ("tsql", "SELECT name FROM buoys WHERE name LIKE '[a-f]%'", [("Auk",)]),
    (
        "tsql",
        "SELECT name FROM buoys WHERE name NOT LIKE '[^G]_l%' ORDER BY buoy_id",
        [("Gull",), ("gull",), ("Tern",), ("Auk",)],
    ),
    ("tsql", "SELECT 1 WHERE 'a_c' LIKE 'a[_]c' AND 'abc' NOT LIKE 'a[_]c'", [(1,)]),
    (
        "tsql",
        "SELECT name FROM buoys WHERE name COLLATE Latin1_General_CS_AS LIKE '[G]%'",
        [("Gull",)],
    ),
    ("tsql", "SELECT CAST(depth_m / 2 AS VARCHAR(5)) FROM buoys WHERE buoy_id = 1", [("3",)]),
    ("tsql", "SELECT CONCAT(AVG(depth_m), '') FROM buoys", [("6",)]),
    ("tsql", "SELECT CAST(1.50 AS VARCHAR(5)), CONCAT(depth_m, name) FROM buoys WHERE buoy_id = 3", [("1.50", "9Tern")]),
    ("tsql", "SELECT NCHAR(66)", [("B",)]),
    ("oracle", "SELECT TO_CHAR(9.00), 'x' || 0.50, TO_CHAR(100), 1.25 || '' FROM dual", [("9", "x.5", "100", "1.25")]),
    ("oracle", "SELECT TO_CHAR(depth_m / 2) FROM buoys WHERE buoy_id IN (1, 2) ORDER BY 1", [("2",), ("3.5",)]),
    ("oracle", "SELECT CAST(depth_m AS VARCHAR2(5)) || ' m' FROM buoys WHERE buoy_id = 1", [("7 m",)]),
    ("oracle", "SELECT LENGTH(depth_m), LENGTH(12.50), LENGTH(name), LPAD(depth_m, 3, '0') FROM buoys WHERE buoy_id = 1", [(1, 4, 4, "007")]),
    ("oracle", "SELECT MOD(7, 0), MOD(7, 4), MOD(-7, 4) FROM dual", [(7, 3, -3)]),
    (
        "oracle",
        "SELECT REPLACE('abc', 'b', ''), REPLACE('abc', 'abc'), NVL(TRIM('  '), '-'), SUBSTR('abc', 5) FROM dual",
        [("ac", None, "-", None)],
    ),
    ("db2", "SELECT VARCHAR(depth_m / 2), WEEK_ISO(DATE('2026-01-04')) FROM buoys WHERE buoy_id = 1", [("3", 1)]),
    (
        "db2",
        "SELECT TO_DATE('31.01.2026', 'DD.MM.YYYY') FROM SYSIBM.SYSDUMMY1",
        [(datetime(2026, 1, 31),)],
    ),
    ("tsql", "SELECT TOP 2 name FROM dbo.buoys ORDER BY depth_m DESC", [("Tern",), ("Gull",)]),
    ("tsql", "SELECT 7 / 2, 7 / 2.0", [(3, 3.5)]),
    ("tsql", "SELECT AVG(depth_m) FROM buoys WHERE buoy_id < 3", [(5,)]),
    ("tsql", "SELECT COUNT(*) FROM buoys WHERE name = 'GULL'", [(2,)]),
    ("tsql", "SELECT COUNT(DISTINCT name) FROM buoys", [(3,)]),
    ("tsql", "SELECT COUNT(*) FROM buoys WHERE name LIKE 'g%'", [(2,)]),
    ("tsql", "SELECT [name] + ' buoy' FROM buoys WHERE buoy_id = 3", [("Tern buoy",)]),
    ("tsql", "SELECT depth_m + 1 FROM buoys WHERE buoy_id = 3", [(10,)]),
    ("tsql", "SELECT ISNULL(bay, N'none') FROM buoys WHERE buoy_id = 3", [("none",)]),
    ("tsql", "SELECT TOP 1 bay FROM buoys ORDER BY bay", [(None,)]),
    (
        "tsql",
        "SELECT name FROM buoys ORDER BY buoy_id OFFSET 1 ROWS FETCH NEXT 2 ROWS ONLY",
        [("gull",), ("Tern",)],
    ),
    ("oracle", "SELECT 7 / 2 FROM dual", [(3.5,)]),
    ("oracle", "SELECT name FROM buoys ORDER BY 'bay', buoy_id DESC FETCH FIRST 1 ROW ONLY", [("Auk",)]),
    (
        "oracle",
        "SELECT DATE '2026-07-03' - TRUNC(DATE '2026-07-03', 'MM'), "
        "ADD_MONTHS(DATE '2026-07-03', 1) - DATE '2026-07-03' FROM dual",
        [(2, 31)],
    ),
    (
        "oracle",
        "SELECT COUNT(*) FROM dual WHERE SYSDATE - DATE '2026-07-03' > 100.5 AND DATE '2026-07-03' - SYSDATE < 0",
        [(1,)],
    ),
    (
        "oracle",
        "SELECT CAST(DATE '2026-07-03' AS TIMESTAMP) - CAST(DATE '2026-07-01' AS TIMESTAMP) FROM dual",
        [(timedelta(days=2),)],
    ),
    ("oracle", "SELECT COUNT(*) FROM buoys WHERE bay IS NULL", [(2,)]),
    ("oracle", "SELECT COUNT(*) FROM buoys WHERE bay = ''", [(0,)]),
    ("oracle", "SELECT name || bay FROM buoys WHERE buoy_id = 3", [("Tern",)]),
    ("oracle", "SELECT NVL(bay, 'none') FROM buoys WHERE buoy_id = 2", [("none",)]),
    (
        "oracle",
        "SELECT DECODE(depth_m, 9, 'deep', 'flat') FROM buoys WHERE buoy_id = 3",
        [("deep",)],
    ),
    ("oracle", "SELECT COUNT(*) FROM (SELECT name FROM buoys WHERE ROWNUM <= 3)", [(3,)]),
    (
        "oracle",
        "SELECT name FROM (SELECT name FROM buoys ORDER BY depth_m DESC) WHERE ROWNUM <= 2",
        [("Tern",), ("Gull",)],
    ),
    (
        "oracle",
        "SELECT name FROM buoys MINUS SELECT name FROM buoys WHERE buoy_id > 1",
        [("Gull",)],
    ),
    ("oracle", "SELECT bay FROM buoys ORDER BY bay FETCH FIRST 1 ROW ONLY", [("North",)]),
    (
        "db2",
        "SELECT ADD_MONTHS(DATE('2026-02-28'), 1), ADD_MONTHS(DATE('2026-01-30'), 1), "
        "ADD_MONTHS(DATE('2026-02-27'), 1) FROM SYSIBM.SYSDUMMY1",
        [(date(2026, 3, 31), date(2026, 2, 28), date(2026, 3, 27))],
    ),
    ("db2", "SELECT 7 / 2 FROM SYSIBM.SYSDUMMY1", [(3,)]),
    ("db2", "SELECT name FROM buoys ORDER BY depth_m DESC FETCH FIRST 1 ROWS ONLY", [("Tern",)]),
    ("db2", "SELECT COUNT(*) FROM buoys WHERE bay = ''", [(1,)]),
    ("tsql", "SELECT LEN('ab  '), LEN(name) FROM buoys WHERE buoy_id = 1", [(2, 4)]),
    ("tsql", "SELECT DATEPART(weekday, CAST('2026-07-05' AS DATE))", [(1,)]),
    ("tsql", "SELECT CONVERT(VARCHAR(10), CAST('2026-07-05' AS DATE), 120)", [("2026-07-05",)]),
    ("tsql", "SELECT CONVERT(VARCHAR(7), CAST('2026-07-05' AS DATE), 120)", [("2026-07",)]),
    ("tsql", "SELECT CAST(name AS VARCHAR(2)) FROM buoys WHERE buoy_id = 3", [("Te",)]),
    (
        "tsql",
        "SELECT name + ' (' + CAST(depth_m AS VARCHAR(10)) + ')' FROM buoys WHERE buoy_id = 3",
        [("Tern (9)",)],
    ),
    ("tsql", "SELECT CHOOSE(2, 'a', 'b'), VAR(depth_m) FROM buoys WHERE depth_m < 8", [("b", 3.0)]),
    (
        "tsql",
        "WITH n AS (SELECT 1 AS i UNION ALL SELECT i + 1 FROM n WHERE i < 3) SELECT i FROM n ORDER BY i",
        [(1,), (2,), (3,)],
    ),
    (
        "tsql",
        "SELECT b.name, x.n FROM buoys b CROSS APPLY (SELECT COUNT(*) AS n FROM buoys o WHERE o.bay = b.bay) x WHERE b.buoy_id = 1",
        [("Gull", 2)],
    ),
    (
        "tsql",
        "SELECT b.name, x.name FROM buoys b OUTER APPLY (SELECT TOP 1 name FROM buoys o WHERE o.depth_m > b.depth_m ORDER BY o.depth_m) x WHERE b.buoy_id IN (1, 3) ORDER BY b.buoy_id",
        [("Gull", "Tern"), ("Tern", None)],
    ),
    ("oracle", "SELECT TO_CHAR(DATE '2026-07-05', 'DD.MM.YYYY') FROM dual", [("05.07.2026",)]),
    ("oracle", "SELECT EXTRACT(DAY FROM TRUNC(DATE '2026-07-05', 'MM')) FROM dual", [(1,)]),
    ("oracle", "SELECT GREATEST(1, NULL, 3), LEAST(2, 1) FROM dual", [(None, 1)]),
    (
        "tsql",
        "SELECT CAST(3.7 AS INT), CONVERT(INT, -3.7), CAST('3' AS INT), CAST(depth_m AS INT) FROM buoys WHERE buoy_id = 3",
        [(3, -3, 3, 9)],
    ),
    ("tsql", "SELECT v.n FROM (VALUES (1, 'a'), (2, 'b')) v (n, s) WHERE v.s = 'B'", [(2,)]),
    (
        "tsql",
        "WITH n AS (SELECT 1 AS i UNION ALL SELECT i + 1 FROM n WHERE i < 2) SELECT COUNT(*) FROM n OPTION (MAXRECURSION 10)",
        [(2,)],
    ),
    (
        "tsql",
        "SELECT CAST(0.1 AS FLOAT), CONVERT(FLOAT, 0.1), CAST(name AS NVARCHAR(MAX)) FROM buoys WHERE buoy_id = 3",
        [(0.1, 0.1, "Tern")],
    ),
    ("db2", "SELECT CAST(3.7 AS INTEGER) FROM SYSIBM.SYSDUMMY1", [(3,)]),
    ("oracle", "SELECT CAST(3.7 AS INTEGER) FROM dual", [(4,)]),
    ("tsql", "SELECT CHARINDEX('T', name) FROM buoys WHERE buoy_id = 3", [(1,)]),
    (
        "tsql",
        "SELECT CHARINDEX('ERN', name), POWER(depth_m, 2) FROM buoys WHERE buoy_id = 3",
        [(2, 81.0)],
    ),
    ("oracle", "SELECT SUBSTR('hello', 0, 3), CONCAT('a', NULL) FROM dual", [("hel", "a")]),
    ("oracle", "SELECT STDDEV(depth_m) FROM buoys WHERE buoy_id = 1", [(0.0,)]),
    ("db2", "SELECT TRANSLATE('abc', 'XY', 'ab') FROM SYSIBM.SYSDUMMY1", [("XYc",)]),
    ("db2", "SELECT depth_m - buoy_id FROM buoys WHERE buoy_id = 3", [(6,)]),
    ("oracle", "SELECT CAST('3.25' AS NUMBER), REPLACE('abca', 'a') FROM dual", [(3.25, "bc")]),
    ("tsql", "SELECT SUBSTRING('abc', -1, 4), SUBSTRING('abc', 1 - 3, 3), SUBSTRING('abc', 0, 3), CHARINDEX('', 'abc')", [("ab", "", "ab", 0)]),
    ("tsql", "SELECT bay, SUBSTRING(bay, LEN(bay) - 6, 7) FROM (VALUES ('Sund'), ('Northern Sound'), (NULL)) b(bay)", [("Sund", "Sund"), ("Northern Sound", "n Sound"), (None, None)]),
    *(
        ("tsql", f"SELECT DATEDIFF({unit}, '2026-01-31', DATEADD({unit}, 40, '2026-01-31'))", [(40,)])
        for unit in ["yy", "q", "m", "dayofyear", "dy", "y", "d", "weekday", "dw", "w", "hh", "mi", "n", "ss", "s"]
    ),
    *(
        ("tsql", f"SELECT DATEADD({unit}, 1, '2026-01-31')", [(datetime(2026, 2, 1),)])
        for unit in ("day", "dayofyear", "dy", "y", "weekday", "dw", "w")
    ),
    ("tsql", "SELECT DATEPART(hour, '2026-03-05 10:11:12'), DATEPART(dw, '20260305'), DATEPART(y, '2026-02-01'), DATEPART(ms, '2026-03-05 10:11:12.345')", [(10, 5, 32, 345)]),
    *(
        ("tsql", f"SELECT DATENAME({unit}, '2026-03-05 07:08:09')", [(due,)])
        for unit, due in (
            ("year", "2026"), ("yy", "2026"), ("quarter", "1"), ("q", "1"), ("month", "March"), ("m", "March"),
            ("dayofyear", "64"), ("dy", "64"), ("y", "64"), ("day", "5"), ("d", "5"), ("weekday", "Thursday"),
            ("dw", "Thursday"), ("w", "Thursday"), ("hour", "7"), ("hh", "7"), ("mi", "8"), ("n", "8"), ("ss", "9"),
        )
    ),
    ("db2", "SELECT DATE(DAYS(DATE('2026-02-28')) + 1), DATE(1) FROM SYSIBM.SYSDUMMY1", [(date(2026, 3, 1), date(1, 1, 1))]),
    ("db2", "SELECT 9 - 1 - 1 - 1 - 1 - 1 - 1, DAYS(DATE('2026-03-01')) - DAYS(DATE('2026-02-01')) FROM SYSIBM.SYSDUMMY1", [(3, 28)]),
    *(
        ("oracle", f"SELECT buoy_id FROM buoys WHERE {condition}", [(at,) for at in range(1, rows + 1)])
        for condition, rows in (
            ("ROWNUM = 1", 1), ("ROWNUM = 2", 0), ("ROWNUM > 1", 0), ("ROWNUM > 0", 4), ("2 >= ROWNUM", 2),
            ("ROWNUM >= 1 AND ROWNUM < 3", 2), ("ROWNUM BETWEEN 1 AND 3", 3), ("ROWNUM BETWEEN 2 AND 3", 0),
            ("ROWNUM > 2 AND ROWNUM <= 4", 0), ("ROWNUM < 0", 0),
        )
    ),
    ("oracle", "SELECT name FROM (SELECT name FROM buoys ORDER BY buoy_id DESC) WHERE ROWNUM = 1", [("Auk",)]),
    ("oracle", "SELECT REGEXP_REPLACE('abca', '[ac]', ''), REGEXP_REPLACE('abca', 'a', NULL) FROM dual", [("b", "bc")]),
    ("oracle", "SELECT LISTAGG(n, '') WITHIN GROUP (ORDER BY n) FROM (SELECT 'a' AS n FROM dual UNION SELECT 'b' FROM dual)", [("ab",)]),
    (
        "oracle",
        "WITH n (i) AS (SELECT 1 FROM dual UNION ALL SELECT i + 1 FROM n WHERE i < 2) SELECT i FROM n ORDER BY i",
        [(1,), (2,)],
    ),
    ("db2", "SELECT name CONCAT '!' FROM buoys WHERE buoy_id = 3 WITH UR", [("Tern!",)]),
    (
        "db2",
        "SELECT DAYS(DATE '2026-07-05') - DAYS(DATE '2026-07-01') FROM SYSIBM.SYSDUMMY1",
        [(4,)],
    ),
    (
        "db2",
        "SELECT MONTH(DATE '2026-07-05' + 2 MONTHS), DAY(DATE '2026-07-05' - 4 DAYS) FROM SYSIBM.SYSDUMMY1",
        [(9, 1)],
    ),
    ("db2", "SELECT DAYOFWEEK(DATE '2026-07-05') FROM SYSIBM.SYSDUMMY1", [(1,)]),
    (
        "db2",
        "SELECT INTEGER(3.9), DECIMAL(3.149, 5, 2), DOUBLE(7) / 2 FROM SYSIBM.SYSDUMMY1",
        [(3, 3.14, 3.5)],
    ),
    (
        "db2",
        "SELECT VALUE(bay, 'none'), POSSTR(name, 'e') FROM buoys WHERE buoy_id = 3",
        [("none", 2)],
    ),
    ("db2", "SELECT STDDEV(depth_m) FROM buoys WHERE buoy_id IN (1, 3)", [(1.0,)]),
    (
        "db2",
        "SELECT VARCHAR_FORMAT(DATE '2026-07-05', 'YYYY-MM') FROM SYSIBM.SYSDUMMY1",
        [("2026-07",)],
    ),
    ("oracle", "SELECT MAX(COUNT(*)) FROM buoys GROUP BY depth_m", [(2,)]),
    (
        "oracle",
        "SELECT MAX(COUNT(*)), ROUND(AVG(SUM(depth_m)), 1) AS a FROM buoys WHERE depth_m > 3 GROUP BY depth_m HAVING COUNT(*) > 0",
        [(2, 8.0)],
    ),
    ("oracle", "SELECT dummy FROM dual", [("X",)]),
    ("oracle", "SELECT d.dummy FROM buoys CROSS JOIN dual d WHERE buoy_id = 1", [("X",)]),
    ("oracle", "SELECT LISTAGG(name) WITHIN GROUP (ORDER BY name DESC) FROM buoys", [("gullTernGullAuk",)]),
    ("oracle", "SELECT CAST(2.5 AS INTEGER), CAST(-2.5 AS INTEGER) FROM dual", [(3, -3)]),
    ("oracle", "SELECT COUNT(*) FROM dual WHERE SYSDATE - 7 < SYSDATE - 1 / 24", [(1,)]),
    ("tsql", "SELECT CAST(2.5 AS DECIMAL), CAST('0123456789012345678901234567890123' AS VARCHAR)", [(3, "012345678901234567890123456789")]),
    ("tsql", "SELECT COUNT(*) WHERE GETDATE() - 1 < GETDATE()", [(1,)]),
    ("db2", "SELECT LISTAGG(name) WITHIN GROUP (ORDER BY buoy_id) FROM buoys", [("GullgullTernAuk",)]),
    ("db2", "SELECT LOG(EXP(2)), CAST(2.7 AS DECIMAL), CAST(2.79 AS DECIMAL(5, 1)) FROM SYSIBM.SYSDUMMY1", [(2.0, 2, 2.7)]),
    ("db2", "VALUES (1, 'a'), (2, 'b')", [(1, "a"), (2, "b")]),
    ("db2", "SELECT ibmreqd FROM sysibm.sysdummy1", [("Y",)]),
    ("tsql", "SELECT COUNT(*) FROM (SELECT TOP 1 WITH TIES name FROM buoys ORDER BY depth_m) AS t", [(2,)]),
    ("tsql", "SELECT COUNT(*) FROM (SELECT TOP (3) WITH TIES name, depth_m AS d FROM buoys ORDER BY d DESC) AS t", [(4,)]),
    ("tsql", "SELECT COUNT(*) FROM (SELECT TOP 1 WITH TIES name FROM buoys ORDER BY bay) AS t", [(1,)]),
    ("tsql", "SELECT TOP 2 WITH TIES name, depth_m FROM buoys ORDER BY 2 DESC", [("Tern", 9), ("Gull", 7)]),
    ("oracle", "SELECT COUNT(*) FROM (SELECT name FROM buoys ORDER BY bay FETCH FIRST 1 ROW WITH TIES)", [(2,)]),
    ("oracle", "SELECT COUNT(*) FROM (SELECT bay, COUNT(*) AS n FROM buoys GROUP BY bay ORDER BY n DESC FETCH FIRST ROW WITH TIES)", [(2,)]),
    ("oracle", "SELECT ROWNUM AS place, name FROM (SELECT name FROM buoys ORDER BY depth_m DESC, name) WHERE ROWNUM <= 2", [(1, "Tern"), (2, "Gull")]),
    ("oracle", "SELECT t.*, ROWNUM FROM (SELECT name, depth_m AS d FROM buoys ORDER BY d, name DESC) t", [("gull", 4, 1), ("Auk", 4, 2), ("Gull", 7, 3), ("Tern", 9, 4)]),
    ("oracle", "SELECT name FROM (SELECT t.*, ROWNUM rn FROM (SELECT name FROM buoys ORDER BY 1 DESC) t WHERE ROWNUM <= 3) WHERE rn > 1", [("Tern",), ("Gull",)]),
    ("oracle", "SELECT 10 * ROWNUM - 1 AS n FROM (SELECT bay, COUNT(*) FROM buoys GROUP BY bay ORDER BY COUNT(*) DESC, bay)", [(9,), (19,)]),
    ("oracle", "SELECT LEVEL, DATE '2026-01-30' + LEVEL AS d FROM dual CONNECT BY LEVEL <= 2", [(1, dt.date(2026, 1, 31)), (2, dt.date(2026, 2, 1))]),
    ("oracle", "SELECT name, LEVEL FROM buoys START WITH buoy_id = 1 CONNECT BY buoy_id = PRIOR buoy_id + 1 AND LEVEL < 4 ORDER BY LEVEL DESC", [("Tern", 3), ("gull", 2), ("Gull", 1)]),
    ("oracle", "SELECT * FROM buoys b WHERE LEVEL = 2 START WITH b.name = 'Gull' CONNECT BY PRIOR b.buoy_id = b.buoy_id - 2", [(3, "Tern", None, 9)]),
    ("oracle", "SELECT PRIOR name, CONNECT_BY_ROOT depth_m AS d, SYS_CONNECT_BY_PATH(name, '/') AS way FROM buoys START WITH buoy_id < 3 "
        "CONNECT BY buoy_id = PRIOR buoy_id + 2 ORDER BY way", [(None, 7, "/Gull"), ("Gull", 7, "/Gull/Tern"), (None, 4, "/gull"), ("gull", 4, "/gull/Auk")]),
    ("oracle", "SELECT name, LEVEL FROM buoys START WITH buoy_id = 1 CONNECT BY NOCYCLE PRIOR bay = bay ORDER BY LEVEL", [("Gull", 1), ("Auk", 2)]),
    ("oracle", "SELECT b.name, o.name FROM buoys b, buoys o WHERE o.buoy_id (+) = b.buoy_id + 2 ORDER BY b.buoy_id", [("Gull", "Tern"), ("gull", "Auk"), ("Tern", None), ("Auk", None)]),
    ("oracle", "SELECT * FROM buoys o, buoys b WHERE o.buoy_id(+) = b.depth_m - 5 AND o.depth_m(+) > 4 AND b.buoy_id > 2 ORDER BY b.buoy_id", [(None, None, None, None, 3, "Tern", None, 9), (None, None, None, None, 4, "Auk", "North", 4)]),
    ("oracle", "SELECT b.name FROM buoys b, buoys o WHERE b.buoy_id = o.depth_m(+) AND o.buoy_id IS NULL ORDER BY 1", [("Gull",), ("Tern",), ("gull",)]),
    ("oracle", "SELECT a.buoy_id, b.buoy_id, c.buoy_id FROM buoys a, buoys c, buoys b WHERE c.buoy_id(+) = b.buoy_id + 1 AND b.buoy_id(+) = a.buoy_id + 1 ORDER BY 1", [(1, 2, 3), (2, 3, 4), (3, 4, None), (4, None, None)]),
    ("oracle", "SELECT a.name, b.name FROM buoys a, buoys b, buoys o WHERE a.buoy_id = b.buoy_id AND o.buoy_id(+) = a.buoy_id + 9 AND a.depth_m = 4 ORDER BY 1", [("Auk", "Auk"), ("gull", "gull")]),
    ("oracle", "SELECT x.n FROM (SELECT b.bay, COUNT(o.buoy_id) AS n FROM buoys b, buoys o WHERE b.bay = o.bay(+) GROUP BY b.bay) x ORDER BY 1", [(0,), (4,)]),
    ("oracle", "SELECT TO_NUMBER('12.5') * 2 AS n FROM dual", [(25,)]),
    ("db2", "VALUES 1, 2 + 3, ABS(-4)", [(1,), (5,), (4,)]),
    ("db2", "WITH t (n) AS (VALUES 1 UNION ALL SELECT n + 1 FROM t WHERE n < 3) SELECT n FROM t ORDER BY n", [(1,), (2,), (3,)]),
    ("db2", "SELECT x FROM (VALUES 'a', CONCAT('b', 'c')) AS v (x) WHERE x IN (VALUES 'bc', 'd')", [("bc",)]),
    ("db2", "SELECT COUNT_BIG(*) AS c, COUNT_BIG(DISTINCT bay) AS d FROM buoys", [(4, 2)]),
    ("oracle", "SELECT name, CONNECT_BY_ISLEAF AS leaf FROM buoys START WITH depth_m = 4 CONNECT BY buoy_id = PRIOR buoy_id + 1 ORDER SIBLINGS BY name", [("Auk", 1), ("gull", 0), ("Tern", 0), ("Auk", 1)]),
    ("oracle", "SELECT b.name n FROM buoys b START WITH b.buoy_id = 1 CONNECT BY LEVEL < 3 AND b.buoy_id > PRIOR b.buoy_id ORDER SIBLINGS BY b.depth_m DESC, n", [("Gull",), ("Tern",), ("Auk",), ("gull",)]),
    ("oracle", "SELECT name FROM buoys WHERE CONNECT_BY_ISLEAF = 1 START WITH buoy_id < 3 CONNECT BY buoy_id = PRIOR buoy_id + 2", [("Tern",), ("Auk",)]),
    ("oracle", "SELECT buoy_id FROM buoys START WITH buoy_id = 1 CONNECT BY buoy_id = PRIOR buoy_id + 1 AND LEVEL <= 2 ORDER SIBLINGS BY 1", [(1,), (2,)]),
    ("oracle", "SELECT bay, MAX(name) KEEP (DENSE_RANK FIRST ORDER BY depth_m) AS m FROM buoys WHERE bay IS NOT NULL GROUP BY bay", [("North", "Auk")]),
    ("oracle", "SELECT MIN(buoy_id) KEEP (DENSE_RANK FIRST ORDER BY depth_m) AS a, MAX(buoy_id) KEEP (DENSE_RANK FIRST ORDER BY depth_m) AS b, MAX(name) KEEP (DENSE_RANK LAST ORDER BY bay, depth_m DESC) AS c FROM buoys", [(2, 4, "gull")]),
    ("oracle", "SELECT DISTINCT MAX(buoy_id) KEEP (DENSE_RANK LAST ORDER BY depth_m) OVER (PARTITION BY bay) AS m FROM buoys ORDER BY m", [(1,), (3,)]),
    ("tsql", "SELECT name FROM buoys WHERE name COLLATE Latin1_General_CS_AS = 'gull'", [("gull",)]),
    ("tsql", "SELECT name FROM buoys WHERE name = 'GULL' COLLATE SQL_Latin1_General_CP1_CI_AI ORDER BY buoy_id", [("Gull",), ("gull",)]),
    ("tsql", "SELECT name FROM buoys WHERE 'Gull' COLLATE Latin1_General_CS_AS = name", [("Gull",)]),
    ("tsql", "SELECT name FROM buoys WHERE name COLLATE Latin1_General_BIN2 LIKE 'g%'", [("gull",)]),
    ("tsql", "SELECT COUNT(DISTINCT name COLLATE Latin1_General_CS_AS) AS a, COUNT(DISTINCT name) AS b FROM buoys", [(4, 3)]),
    ("tsql", "SELECT name FROM buoys ORDER BY name COLLATE Latin1_General_BIN", [("Auk",), ("Gull",), ("Tern",), ("gull",)]),
    ("tsql", "SELECT TOP 30 PERCENT name FROM buoys ORDER BY depth_m DESC", [("Tern",), ("Gull",)]),
    ("tsql", "SELECT TOP (50) PERCENT WITH TIES buoy_id FROM buoys ORDER BY depth_m", [(2,), (4,)]),
    ("tsql", "WITH deep AS (SELECT TOP 75 PERCENT * FROM buoys ORDER BY depth_m DESC, name) SELECT TOP 34 PERCENT name FROM deep ORDER BY buoy_id DESC", [("Auk",), ("Tern",)]),
    ("tsql", "SELECT DISTINCT TOP 40 PERCENT depth_m FROM buoys ORDER BY depth_m DESC", [(9,), (7,)]),
    ("oracle", "SELECT depth_m, COUNT(*) FROM buoys GROUP BY depth_m ORDER BY 2 DESC, 1 FETCH FIRST 1 PERCENT ROWS ONLY", [(4, 2)]),
    ("oracle", "SELECT name FROM (SELECT name FROM buoys UNION SELECT bay FROM buoys WHERE bay > 'A') ORDER BY 1 OFFSET 1 ROWS FETCH NEXT 40 PERCENT ROWS ONLY", [("Gull",), ("North",)]),
    ("oracle", "SELECT COUNT(*) FROM (SELECT buoy_id FROM buoys WHERE depth_m < 9) CONNECT BY PRIOR buoy_id < buoy_id", [(7,)]),
    ("oracle", "SELECT name FROM buoys WHERE buoy_id IN (SELECT buoy_id FROM buoys START WITH buoy_id = 3 CONNECT BY buoy_id = PRIOR buoy_id + 1) ORDER BY name", [("Auk",), ("Tern",)]),
    ("oracle", "SELECT RATIO_TO_REPORT(depth_m) OVER () FROM buoys WHERE buoy_id IN (2, 4)", [(0.5,), (0.5,)]),
    ("oracle", "SELECT bay, 24 * RATIO_TO_REPORT(SUM(depth_m)) OVER () FROM buoys GROUP BY bay ORDER BY bay", [("North", 11.0), (None, 13.0)]),
    ("db2", "SELECT RATIO_TO_REPORT(depth_m - depth_m) OVER () FROM buoys WHERE buoy_id = 1", [(None,)]),
    ("oracle", "SELECT REGEXP_SUBSTR(name, '[a-z]+'), REGEXP_SUBSTR(name, '[0-9]') FROM buoys WHERE buoy_id = 1", [("ull", None)]),
    ("oracle", "SELECT COUNT(*) FROM buoys WHERE LNNVL(bay = 'North')", [(2,)]),
    ("tsql", "SELECT value FROM STRING_SPLIT('b a', ' ') ORDER BY value", [("a",), ("b",)]),
    ("tsql", "SELECT ordinal, p.value FROM STRING_SPLIT('b a', ' ', 1) AS p ORDER BY ordinal", [(1, "b"), (2, "a")]),
    ("tsql", "SELECT COUNT(*) FROM STRING_SPLIT(NULL, ' ')", [(0,)]),
    (
        "tsql",
        "SELECT b.name, s.value FROM buoys b CROSS APPLY STRING_SPLIT(b.name, 'l') AS s WHERE b.buoy_id = 1",
        [("Gull", "Gu"), ("Gull", ""), ("Gull", "")],
    ),
    (
        "tsql",
        "SELECT n.value, b.name FROM GENERATE_SERIES(5, 3) AS n LEFT JOIN buoys b ON b.buoy_id = n.value ORDER BY n.value",
        [(3, "Tern"), (4, "Auk"), (5, None)],
    ),
    ("tsql", "SELECT value FROM GENERATE_SERIES(1, 6, 4) ORDER BY value", [(1,), (5,)]),
    ("tsql", "SELECT PATINDEX('%L%', name) FROM buoys WHERE buoy_id IN (1, 4) ORDER BY buoy_id", [(3,), (0,)]),
    ("tsql", "SELECT ROUND(9.96, 1, 1), ROUND(9.96, 1, 0), ROUND(-9.96, 0, 1)", [(9.9, 10.0, -9.0)]),
    ("tsql", "SELECT TIMEFROMPARTS(1, 2, 3, 0, 0)", [(time(1, 2, 3),)]),
    (
        "oracle",
        "SELECT ROUND(DATE '2026-07-01', 'YYYY'), ROUND(DATE '2026-06-30', 'YYYY'), ROUND(DATE '2026-02-16', 'MM'), "
        "ROUND(DATE '2026-02-15', 'MONTH') FROM dual",
        [(datetime(2027, 1, 1), datetime(2026, 1, 1), datetime(2026, 3, 1), datetime(2026, 2, 1))],
    ),
    (
        "oracle",
        "SELECT ROUND(TIMESTAMP '2026-02-15 11:59:59'), ROUND(TIMESTAMP '2026-02-15 12:00:00', 'DD') FROM dual",
        [(datetime(2026, 2, 15), datetime(2026, 2, 16))],
    ),
    ("oracle", "SELECT ROUND(2.5), ROUND(2.45, 1) FROM dual", [(3.0, 2.5)]),
    (
        "oracle",
        "SELECT TIMESTAMP '2026-02-15 11:59:59', TIMESTAMP '2026-02-15 11:59:59.5' FROM dual",
        [(datetime(2026, 2, 15, 11, 59, 59), datetime(2026, 2, 15, 11, 59, 59, 500000))],
    ),
    (
        "oracle",
        "SELECT INSTR('a b c', ' ', 1, 2), INSTR('a b c', ' ', 1, 3), INSTR(bay, 'r', 1, 1) FROM buoys WHERE buoy_id IN (1, 3) ORDER BY buoy_id",
        [(4, 0, 3), (4, 0, None)],
    ),
    (
        "oracle",
        "SELECT WIDTH_BUCKET(depth_m, 4, 9, 5) FROM buoys UNION ALL SELECT WIDTH_BUCKET(3.9, 4, 9, 5) FROM dual UNION ALL SELECT WIDTH_BUCKET(NULL, 4, 9, 5) FROM dual",
        [(4,), (1,), (6,), (1,), (0,), (None,)],
    ),
    ("oracle", "SELECT BITAND(depth_m, 5) * 2 FROM buoys WHERE buoy_id = 1", [(10,)]),
    (
        "db2",
        "SELECT STRIP('  a ') || '.', STRIP(name, LEADING, 'G'), STRIP(name, T, 'l') FROM buoys WHERE buoy_id = 1",
        [("a.", "ull", "Gu")],
    ),
    ("db2", "SELECT MIDNIGHT_SECONDS(TIMESTAMP('2026-07-03 01:01:01')) FROM buoys WHERE buoy_id = 1", [(3661,)]),
    (
        "db2",
        "SELECT DAYS_BETWEEN(DATE('2026-07-03'), DATE('2026-06-30')), YEARS_BETWEEN(DATE('2025-07-02'), DATE('2026-07-03')), "
        "HOURS_BETWEEN(TIMESTAMP('2026-07-03 11:59:00'), TIMESTAMP('2026-07-03 10:00:00')) FROM buoys WHERE buoy_id = 1",
        [(3, -1, 1)],
    ),
    ("db2", "SELECT MAX(depth_m, 5), MIN(depth_m, 5), MAX(depth_m, NULL) FROM buoys WHERE buoy_id = 2", [(5, 4, None)]),
    ("db2", "SELECT MAX(MAX(depth_m), 3), MAX(depth_m) FROM buoys", [(9, 9)]),
]  # fmt: skip


@pytest.mark.parametrize(("name", "sql", "rows"), SAME, ids=[f"{a} {b}" for a, b, _ in SAME])
def test_what_is_the_same(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str, rows: list[Any]
) -> None:
    engine, buoys = running[name]
    outcome = engine.run(buoys, sql, Limits())
    assert isinstance(outcome, ResultSet), outcome
    assert [
        tuple(float(one) if isinstance(one, Decimal) else one for one in row)
        for row in outcome.rows
    ] == rows
    assert not stood_in(engine.dialect, sql, buoys.kinds).notes


@pytest.mark.parametrize(
    ("name", "sql", "note"),
    [
        (
            "tsql",
            "SELECT name, (SELECT TOP 1 PERCENT o.name FROM buoys o WHERE o.bay = b.bay) AS n FROM buoys b",
            "PERCENT",
        ),
        ("tsql", "SELECT name FROM buoys ORDER BY name COLLATE Latin1_General_CS_AS", "COLLATE"),
        ("tsql", "SELECT name FROM buoys WHERE name COLLATE Danish_Norwegian = 'x'", "COLLATE"),
        (
            "oracle",
            "SELECT name FROM buoys CONNECT BY PRIOR buoy_id = depth_m ORDER SIBLINGS BY LEVEL, name",
            "SIBLINGS",
        ),
        (
            "oracle",
            "SELECT name FROM buoys UNION SELECT bay FROM buoys ORDER BY 1 FETCH FIRST 40 PERCENT ROWS ONLY",
            "PERCENT",
        ),
        (
            "oracle",
            "SELECT b.name FROM buoys b, buoys o WHERE b.buoy_id = o.depth_m(+) OR b.buoy_id = 1",
            "sign (+)",
        ),
        (
            "oracle",
            "SELECT name FROM buoys b, (SELECT buoy_id AS n FROM buoys) o WHERE buoy_id = n(+)",
            "sign (+)",
        ),
        (
            "oracle",
            "SELECT b.name FROM buoys b, buoys o WHERE b.buoy_id(+) = o.buoy_id AND o.depth_m(+) = b.depth_m",
            "sign (+)",
        ),
        (
            "oracle",
            "SELECT b.name FROM buoys b JOIN buoys o ON b.buoy_id = o.depth_m(+)",
            "sign (+)",
        ),
        (
            "oracle",
            "SELECT b.name FROM buoys b WHERE EXISTS (SELECT 1 FROM buoys o WHERE o.depth_m(+) = b.buoy_id)",
            "sign (+)",
        ),
        ("oracle", "SELECT SUM(depth_m) KEEP (DENSE_RANK FIRST ORDER BY bay) FROM buoys", "KEEP"),
        ("oracle", "SELECT ROUND(DATE '2026-07-01', 'Q') FROM dual", "ROUND"),
        ("tsql", "SELECT ROUND(depth_m, 1, buoy_id) FROM buoys", "ROUND"),
        ("tsql", "SELECT TIMEFROMPARTS(1, 2, 3, 5, 1)", "TIMEFROMPARTS"),
        (
            "oracle",
            "SELECT name, CONNECT_BY_ISLEAF AS leaf FROM buoys START WITH buoy_id = 1 CONNECT BY NOCYCLE PRIOR bay = bay",
            "NOCYCLE",
        ),
        (
            "oracle",
            "SELECT * FROM buoys START WITH buoy_id = 1 CONNECT BY PRIOR buoy_id = depth_m ORDER SIBLINGS BY 2",
            "SIBLINGS",
        ),
        ("tsql", "SELECT DISTINCT TOP 1 WITH TIES name FROM buoys ORDER BY depth_m", "WITH TIES"),
        (
            "oracle",
            "SELECT name FROM buoys ORDER BY bay OFFSET 1 ROW FETCH FIRST 1 ROW WITH TIES",
            "WITH TIES",
        ),
        ("tsql", "SELECT name FROM buoys WHERE name LIKE '[A-G]!%' ESCAPE '!'", "set of letters"),
        ("tsql", "SELECT CAST(name AS VARCHAR(2)) FROM buoys", "cut off"),
        ("tsql", "SELECT AVG(DISTINCT x) OVER () FROM (SELECT name AS x FROM buoys) b", "average"),
        ("tsql", "SELECT '5' + 3", "adds them"),
        ("tsql", "SELECT rowid FROM buoys", "ROWID"),
        ("oracle", "SELECT TO_CHAR(SYSDATE, 'Day') FROM dual", "format"),
        ("oracle", "SELECT TRUNC(SYSDATE, 'D') FROM dual", "unit"),
        ("db2", "SELECT CURRENT DATE + (1 + 1) DAYS FROM SYSIBM.SYSDUMMY1", "duration"),
        ("db2", "SELECT CHAR(depth_m) FROM buoys", "CHAR"),
        ("tsql", "SELECT REPLACE(name, 'g', 'x') FROM buoys", "any case"),
        ("tsql", "SELECT name FROM buoys FOR XML PATH", "option"),
        ("db2", "SELECT POWER(2, -1) FROM SYSIBM.SYSDUMMY1", "whole number"),
        ("db2", "SELECT name FROM buoys MINUS SELECT bay FROM buoys", "MINUS"),
        ("oracle", "SELECT name FROM buoys WHERE first_seen > '2026-07-03'", "session's format"),
        (
            "oracle",
            "SELECT name FROM buoys WHERE first_seen BETWEEN '2026-07-03' AND SYSDATE",
            "session's format",
        ),
        ("db2", "SELECT LISTAGG(DISTINCT bay, ',') FROM buoys", "DISTINCT"),
        ("oracle", "SELECT ROWNUM, name FROM buoys", "ROWNUM"),
        (
            "oracle",
            "SELECT ROWNUM, name FROM (SELECT name FROM buoys ORDER BY name) WHERE name > 'B'",
            "ROWNUM",
        ),
        ("oracle", "SELECT MAX(ROWNUM) FROM (SELECT name FROM buoys ORDER BY name)", "ROWNUM"),
        ("oracle", "SELECT name FROM buoys WHERE ROWNUM <= 1 ORDER BY depth_m", "ROWNUM"),
    ],
)
def test_what_is_not_kept_is_noted(name: str, sql: str, note: str) -> None:
    made = stood_in(name, sql)
    assert any(note in one for one in made.notes), made


@pytest.mark.parametrize(
    ("name", "sql", "code", "words"),
    [
        ("tsql", "SELECT name FROM buoys LIMIT 1", "sql.syntax", "LIMIT"),
        ("tsql", "SELECT nmae FROM buoys", "sql.object", "Did you mean name?"),
        ("tsql", "SELECT 1 / 0", "sql.runtime", "divided by zero"),
        ("tsql", "SELECT name, COUNT(*) FROM buoys", "sql.runtime", "GROUP BY"),
        ("oracle", "SELECT name FROM buoys LIMIT 1", "sql.syntax", "LIMIT"),
        ("oracle", "SELECT 1 / 0 FROM dual", "sql.runtime", "divided by zero"),
        ("db2", "SELECT name FROM", "sql.syntax", "breaks off"),
        ("oracle", "DELETE FROM buoys", "policy.statement", "Not a query"),
        ("tsql", "SELECT current_setting('threads')", "policy.function", "current_setting"),
    ],
)
def test_what_does_not_run_says_why(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str, code: str, words: str
) -> None:
    engine, buoys = running[name]
    outcome = engine.run(buoys, sql, Limits())
    assert isinstance(outcome, QueryFailure)
    assert (outcome.code, words in outcome.message) == (code, True), outcome


@pytest.mark.parametrize("name", sorted(STAND_INS))
@pytest.mark.parametrize("call", ["SQRT(depth_m - 5)", "LN(depth_m - 4)", "LOG(10, depth_m - 4)"])
def test_what_has_no_root_and_no_logarithm_is_an_error(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, call: str
) -> None:
    call = call.replace("LN(", "LOG(") if name == "tsql" else call
    call = call.replace("LOG(10, ", "LN(") if name == "db2" else call
    engine, dataset = running[name]
    found = engine.run(dataset, f"SELECT {call} FROM buoys", Limits())
    assert isinstance(found, QueryFailure)
    assert "logarithm" in found.message
    assert not may_be_the_stand_in(found.engine_words)
    some = engine.run(dataset, f"SELECT {call} FROM buoys WHERE depth_m > 5", Limits())
    assert isinstance(some, ResultSet)
    assert len(some.rows) == 2


@pytest.mark.parametrize(
    ("name", "sql"),
    [
        ("tsql", "SELECT CAST(CAST(1 AS FLOAT) AS VARCHAR(9))"),
        ("tsql", "SELECT CONCAT(depth_m / 2.0, '') FROM buoys"),
        ("oracle", "SELECT TO_CHAR(1 / 3) FROM dual"),
        ("oracle", "SELECT DATE '2026-07-03' || '' FROM dual"),
        ("oracle", "SELECT CAST(DATE '2026-07-03' AS VARCHAR2(20)) FROM dual"),
        ("db2", "SELECT VARCHAR(DOUBLE(depth_m)) FROM buoys"),
        ("db2", "SELECT name || CURRENT TIMESTAMP FROM buoys"),
    ],
)
def test_a_text_that_nobody_can_tell_gets_no_verdict(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str
) -> None:
    engine, dataset = running[name]
    found = engine.run(dataset, sql, Limits())
    assert isinstance(found, QueryFailure)
    assert may_be_the_stand_in(found.engine_words)
    assert "text" in found.message


def test_the_difference_of_dates_is_left_to_an_instructor() -> None:
    logs = DatasetSource(
        "logs", "CREATE TABLE logs (a DATE, b DATE); INSERT INTO logs VALUES ('2026-07-03', '2026-08-03')",
        keep_rows=True,
    )  # fmt: skip
    with closing(engine_named("db2", workers=1)) as engine:
        exercise = Exercise("days", "", "", "logs", "SELECT DAYS(b) - DAYS(a) FROM logs", "db2")
        grader = Grader(engine, exercise, SampleSource("logs", (logs,)))
        assert grader.grade("SELECT DAYS(b) - DAYS(a) FROM logs WHERE 1 = 1").standing == "correct"
        assert grader.grade("SELECT b - a FROM logs").standing == "undecided"


VISITS = """
    CREATE TABLE visits (visit_id INTEGER, day DATE, seen {moment}, depth REAL);
    INSERT INTO visits VALUES (1, '2026-07-03', '2026-07-03 18:30:00', 1.25), (2, '2026-08-31', '2026-09-01 06:00:00', 2.5);
"""

DAYS: list[tuple[str, str, list[Any] | None]] = [
    ("oracle", "SELECT TRUNC(seen), TRUNC(seen) - day FROM visits WHERE visit_id = 1", [(datetime(2026, 7, 3), 0)]),
    ("oracle", "SELECT visit_id FROM visits WHERE TRUNC(seen) = day", [(1,)]),
    ("oracle", "SELECT TRUNC(depth) FROM visits", [(1,), (2,)]),
    ("oracle", "SELECT seen + 1, seen - 0.5, 1 + day FROM visits WHERE visit_id = 1", [(datetime(2026, 7, 4, 18, 30), datetime(2026, 7, 3, 6, 30), date(2026, 7, 4))]),
    ("oracle", "SELECT day + 1 / 24 FROM visits WHERE visit_id = 1", [(datetime(2026, 7, 3, 1),)]),
    ("oracle", "SELECT x.d + 1 FROM (SELECT MAX(day) AS d FROM visits) x", [(date(2026, 9, 1),)]),
    ("oracle", "SELECT MAX(day) - MIN(day) FROM visits", [(59,)]),
    ("oracle", "SELECT seen - day FROM visits", None),
    ("oracle", "SELECT SYSDATE - seen FROM visits", None),
    ("tsql", "SELECT visit_id FROM visits WHERE day > '20260801'", [(2,)]),
    ("tsql", "SELECT visit_id FROM visits WHERE day BETWEEN '20260701' AND '20260731'", [(1,)]),
    ("tsql", "SELECT DATEADD(day, 1, day) FROM visits WHERE visit_id = 1", [(datetime(2026, 7, 4),)]),
    ("tsql", "SELECT visit_id FROM visits WHERE day > '08/01/2026'", None),
    ("tsql", "SELECT day + 1 FROM visits", None),
    ("tsql", "SELECT d - 1 FROM (SELECT MAX(day) AS d FROM visits) x", None),
    ("tsql", "SELECT day - day FROM visits", None),
    ("tsql", "SELECT seen - seen FROM visits", None),
    ("tsql", "SELECT CAST(seen AS VARCHAR(20)) FROM visits", None),
    ("tsql", "SELECT CAST(depth AS VARCHAR(20)) FROM visits", None),
    ("db2", "SELECT visit_id FROM visits WHERE day > '08/01/2026' OR day = '03.07.2026'", [(1,), (2,)]),
    ("db2", "SELECT DATE(seen), TIME(seen) FROM visits WHERE visit_id = 1", [(date(2026, 7, 3), time(18, 30))]),
    ("db2", "SELECT day + 1 FROM visits", None),
    ("db2", "SELECT day + 1 DAY FROM visits WHERE visit_id = 1", [(datetime(2026, 7, 4),)]),
]  # fmt: skip


@pytest.mark.parametrize(("name", "sql", "rows"), DAYS, ids=[f"{a} {b}" for a, b, _ in DAYS])
def test_days_are_counted_by_what_the_columns_hold(
    running: dict[str, tuple[Engine, LoadedDataset]],
    name: str,
    sql: str,
    rows: list[Any] | None,
) -> None:
    engine, _ = running[name]
    visits = engine.load(
        DatasetSource(
            "visits",
            VISITS.format(moment="DATETIME" if name == "tsql" else "TIMESTAMP"),
            keep_rows=True,
        )
    )
    ran = engine.run(visits, sql, Limits())
    notes = stood_in(engine.dialect, sql, visits.kinds).notes
    if rows is None:
        assert notes or (isinstance(ran, QueryFailure) and may_be_the_stand_in(ran.engine_words))
    else:
        assert isinstance(ran, ResultSet), ran
        assert (list(ran.rows), notes) == (rows, ())


@pytest.mark.parametrize("name", ["oracle", "db2"])
def test_a_list_of_different_values_is_not_said_to_take_one_value(name: str) -> None:
    notes = stood_in(name, "SELECT LISTAGG(DISTINCT bay, ', ') AS bays FROM buoys").notes
    assert notes == ("A list of DISTINCT values is not kept.",)


def test_ties_are_told_by_what_runs(running: dict[str, tuple[Engine, LoadedDataset]]) -> None:
    engine, buoys = running["tsql"]
    sql = "SELECT TOP 1 name FROM buoys ORDER BY depth_m"
    found = expect(engine, buoys, sql, Limits(), "the reference answer")
    assert found.ordered
    assert found.cuts_a_tie
    assert found.result.columns[0].named


def test_answers_are_graded_and_left_undecided_where_the_meaning_may_be_lost(
    running: dict[str, tuple[Engine, LoadedDataset]],
) -> None:
    engine, _ = running["tsql"]
    exercise = Exercise(
        "deep", "", "", "buoys", "SELECT TOP 2 name FROM buoys ORDER BY depth_m DESC", "tsql",
        alternatives=(
            NamedQuery("offset", "SELECT name FROM buoys ORDER BY depth_m DESC OFFSET 0 ROWS FETCH NEXT 2 ROWS ONLY"),
        ),
    )  # fmt: skip
    grader = Grader(engine, exercise, SampleSource("buoys", (BUOYS,)))
    standing = [
        grader.grade(sql).standing
        for sql in (
            "SELECT TOP (2) [name] FROM dbo.buoys ORDER BY depth_m DESC",
            "SELECT TOP 2 name FROM buoys ORDER BY depth_m",
            "SELECT TOP 2 name FROM buoys WHERE depth_m IN (SELECT TOP 50 PERCENT depth_m FROM buoys ORDER BY depth_m DESC)",
            "SELECT TOP 2 QUOTENAME(name, '<') FROM buoys",
            # No types are changed by themselves on the stand-in, and it reads less.
            "SELECT TOP 2 name FROM buoys WHERE CAST('2026-07-05' AS DATE) LIKE '2026%'",
            "SELECT name FROM buoys FOR JSON PATH",
            "SELECT TOP 2 CAST(depth_m * 100 AS VARCHAR(2)) FROM buoys",
            "SELECT nothing FROM buoys",
            "SELECT name FROM buoys LIMIT 2",
            "SELECT name FROM",
        )
    ]
    assert standing[:2] == ["correct", "incorrect"]
    assert set(standing[2:7]) == {"undecided"}
    assert standing[7:] == ["error", "error", "error"]


def test_the_siblings_of_a_hierarchy_come_in_their_order(
    running: dict[str, tuple[Engine, LoadedDataset]],
) -> None:
    engine, _ = running["oracle"]
    tree = "SELECT name FROM buoys START WITH buoy_id < 3 CONNECT BY buoy_id = PRIOR buoy_id + 2 ORDER SIBLINGS BY {}"
    exercise = Exercise("one", "One", "", "buoys", tree.format("name"), engine="oracle")
    grader = Grader(engine, exercise, SampleSource("buoys", (BUOYS,)))
    assert grader.grade(tree.format("depth_m DESC")).standing == "correct"
    wrong = grader.grade(tree.format("depth_m"))
    assert (wrong.standing, [one.code for one in wrong.findings]) == ("incorrect", ["rows.order"])
    assert "has no ORDER BY" not in wrong.findings[0].message
    plain = grader.grade(tree.partition(" ORDER")[0])
    assert plain.standing == "incorrect"
    assert "has no ORDER BY" in plain.findings[0].message
    # Which comes first where they tie, the stand-in would have to choose.
    tie = grader.grade(tree.format("MOD(depth_m, 1)"))
    assert tie.standing == "undecided"
    assert "add a key that tells them apart" in tie.findings[0].message


def test_a_hierarchy_that_goes_in_a_circle_is_an_error(
    running: dict[str, tuple[Engine, LoadedDataset]],
) -> None:
    engine, buoys = running["oracle"]
    found = engine.run(
        buoys, "SELECT name FROM buoys START WITH buoy_id = 1 CONNECT BY PRIOR bay = bay", Limits()
    )
    assert isinstance(found, QueryFailure)
    assert (found.verdict, found.near) == ("error", "CONNECT BY")
    assert "comes below itself" in found.message


FOREIGN: list[tuple[str, str]] = [
    (dialect, sql)
    for dialects, sql in (
        ("tsql oracle db2", "SELECT depth_m * 2 AS twice FROM buoys WHERE twice > 10"),
        ("tsql oracle db2", "SELECT bay AS b, COUNT(*) AS n FROM buoys GROUP BY b"),
        ("tsql", "SELECT name, ROW_NUMBER() OVER (ORDER BY 'x') FROM buoys"),
        ("tsql", "SELECT name, ROW_NUMBER() OVER (PARTITION BY bay ORDER BY 1) FROM buoys"),
        ("tsql", "SELECT name FROM buoys ORDER BY 1 + 0"),
        ("tsql oracle", "SELECT CASE WHEN depth_m THEN 1 END FROM buoys"),
        ("oracle", "SELECT CAST('2026-01-31' AS DATE) FROM buoys"),
        ("tsql oracle db2", "SELECT b.name, x.n FROM buoys b JOIN (SELECT COUNT(*) AS n FROM buoys o WHERE o.bay = b.bay) x ON x.n > 0"),
        ("tsql oracle db2", "SELECT b.name, x.n FROM buoys b, (SELECT COUNT(*) AS n FROM buoys o WHERE o.bay = b.bay) x"),
        ("tsql oracle db2", "SELECT name FROM buoys UNION BY NAME SELECT bay AS name FROM buoys"),
        ("tsql db2", "SELECT name FROM buoys WHERE buoy_id IN (WITH a AS (SELECT buoy_id FROM buoys) SELECT buoy_id FROM a)"),
        ("tsql db2", "SELECT LEFT(name, -1) FROM buoys"),
        ("tsql db2", "SELECT SUBSTRING(name, 1, -1) FROM buoys"),
        ("oracle", "SELECT name FROM buoys WHERE (buoy_id, name) = (1, 'Gull')"),
        ("tsql", "SELECT STRING_AGG(name, ',' ORDER BY name) FROM buoys"),
        ("oracle db2", "SELECT LISTAGG(name, ',' ORDER BY name) FROM buoys"),
        ("tsql oracle db2", "SELECT TRIM(name, 'G') FROM buoys"),
        ("tsql oracle db2", "WITH t (n) AS (SELECT depth_m FROM buoys UNION SELECT n + 1 FROM t WHERE n < 9) SELECT n FROM t"),
        ("oracle db2", "WITH t AS (SELECT depth_m AS n FROM buoys UNION ALL SELECT n + 1 FROM t WHERE n < 9) SELECT n FROM t"),
        ("tsql oracle db2", "SELECT SUM(depth_m) OVER (ORDER BY buoy_id GROUPS BETWEEN 1 PRECEDING AND CURRENT ROW) FROM buoys"),
        ("tsql oracle db2", "SELECT SUM(depth_m) OVER (ORDER BY buoy_id ROWS BETWEEN 1 PRECEDING AND CURRENT ROW EXCLUDE TIES) FROM buoys"),
        ("tsql", "SELECT SUM(depth_m) OVER (ORDER BY buoy_id RANGE BETWEEN 1 PRECEDING AND CURRENT ROW) FROM buoys"),
        ("tsql db2", "SELECT COUNT(DISTINCT bay) OVER () FROM buoys"),
        ("oracle", "SELECT COUNT(DISTINCT bay) OVER (ORDER BY buoy_id) FROM buoys"),
        ("tsql db2", "SELECT SUM((SELECT MAX(o.depth_m) FROM buoys o WHERE o.bay = b.bay)) FROM buoys b"),
        ("tsql oracle db2", "SELECT COUNT(*) FROM buoys b GROUP BY (SELECT MAX(o.depth_m) FROM buoys o WHERE o.bay = b.bay)"),
        ("tsql", "SELECT PERCENTILE_CONT(0.5) WITHIN GROUP (ORDER BY depth_m) FROM buoys"),
        ("tsql", "SELECT name FROM buoys OFFSET 1 ROWS"),
        ("tsql", "SELECT TOP 2 name FROM buoys ORDER BY name OFFSET 1 ROWS"),
        ("tsql oracle db2", "SELECT name FROM buoys ORDER BY name OFFSET 0 ROWS FETCH FIRST 2 ROWS"),
        ("tsql oracle db2", "SELECT name FROM buoys UNION SELECT bay FROM buoys ORDER BY UPPER(name)"),
        ("tsql oracle", "SELECT name FROM buoys INTERSECT ALL SELECT bay FROM buoys"),
        ("tsql oracle", "SELECT name FROM buoys WHERE (depth_m > 5) IS NULL"),
        ("oracle db2", "SELECT name || depth_m + 1 FROM buoys"),
        ("tsql", "SELECT name AS plan FROM buoys"),
        ("tsql", "SELECT [order].name FROM buoys [order] JOIN buoys key ON key.name = [order].name"),
        ("oracle", "SELECT name AS date FROM buoys"),
        ("oracle", "SELECT name size FROM buoys"),
        ("tsql oracle db2", "SELECT bay, COUNT(*) AS n FROM buoys GROUP BY bay HAVING n > 1"),
        ("tsql oracle db2", "SELECT depth_m AS d, d + 1 AS e FROM buoys"),
        ("tsql oracle db2", "SELECT bay, COUNT(*) AS n FROM buoys GROUP BY 1"),
        ("tsql oracle db2", "SELECT bay, COUNT(*) AS n FROM buoys GROUP BY ALL"),
        ("tsql oracle db2", "SELECT 7 DIV 2 AS x FROM buoys"),
        ("tsql oracle", "SELECT SUM(depth_m > 4) AS deep FROM buoys"),
        ("tsql oracle", "SELECT name FROM buoys ORDER BY depth_m > 4, name"),
        ("tsql oracle", "SELECT CASE WHEN bay IS NULL THEN 0 ELSE (depth_m > 4) END AS c FROM buoys"),
        ("tsql oracle", "SELECT COUNT(*) AS n FROM buoys GROUP BY depth_m > 4"),
        ("oracle", "SELECT REGEXP_LIKE(name, '^G') AS g FROM buoys"),
        ("tsql oracle db2", "SELECT name FROM buoys WHERE name REGEXP 'G'"),
        ("tsql oracle db2", "SELECT name FROM buoys WHERE depth_m == 4"),
        ("tsql oracle db2", "SELECT name FROM buoys WHERE depth_m <=> 4"),
        ("tsql oracle db2", "SELECT COUNT(*) FILTER (WHERE depth_m > 4) AS n FROM buoys"),
        ("tsql oracle db2", "SELECT DISTINCT ON (bay) bay, name FROM buoys"),
        ("tsql oracle db2", "SELECT name, FROM buoys"),
        ("tsql oracle db2", "FROM buoys"),
        ("tsql oracle db2", "SELECT * EXCLUDE (name) FROM buoys"),
        ("tsql oracle db2", "SELECT name.upper() AS n FROM buoys"),
        ("tsql oracle db2", "SELECT {'a': 1} AS x FROM buoys"),
        ("tsql oracle db2", "SELECT list(name) AS names FROM buoys"),
        ("tsql oracle db2", "SELECT group_concat(name) AS names FROM buoys"),
        ("tsql oracle db2", "SELECT strptime('2026', '%Y') AS x FROM buoys"),
        (
            "tsql oracle db2",
            "WITH RECURSIVE r AS (SELECT 1 AS n FROM buoys UNION ALL SELECT n + 1 FROM r WHERE n < 2) SELECT n FROM r",
        ),
        ("tsql oracle", "SELECT depth_m > 4 AS deep FROM buoys"),
        ("tsql oracle", "SELECT name FROM buoys WHERE (depth_m > 4) = TRUE"),
        ("tsql oracle", "SELECT name FROM buoys WHERE depth_m"),
        ("tsql oracle", "SELECT name FROM buoys ORDER BY name OFFSET 1"),
        ("tsql", "SELECT a.name FROM buoys a NATURAL JOIN buoys b"),
        ("tsql", "SELECT name + depth_m AS n FROM buoys"),
        ("tsql", "SELECT a.name FROM buoys a JOIN buoys b USING (buoy_id)"),
        ("tsql", "SELECT name FROM buoys INTERSECT ALL SELECT name FROM buoys"),
        ("tsql", "SELECT name FROM buoys ORDER BY bay NULLS LAST"),
        ("tsql", "SELECT name FROM buoys ORDER BY name FETCH FIRST 1 ROWS ONLY"),
        ("tsql", "SELECT name FROM (SELECT name FROM buoys)"),
        ("tsql", "SELECT name FROM buoys WHERE (buoy_id, depth_m) IN (SELECT buoy_id, depth_m FROM buoys)"),
        ("tsql", "SELECT name || bay AS both FROM buoys"),
        ("tsql", "SELECT LENGTH(name) AS n FROM buoys"),
        ("tsql", "SELECT SUBSTRING(name FROM 2) AS n FROM buoys"),
        ("tsql", "SELECT CURRENT_DATE AS today FROM buoys"),
        ("oracle", "SELECT b.name FROM buoys AS b"),
        ("oracle", "SELECT depth_m % 3 AS x FROM buoys"),
        ("oracle db2", "SELECT 1 AS one"),
        ("oracle db2", "SELECT CONCAT(name, bay, 'x') AS n FROM buoys"),
        ("oracle db2", "SELECT IIF(depth_m > 4, 1, 0) AS x FROM buoys"),
        ("tsql oracle db2", "SELECT a.name FROM buoys a JOIN buoys b"),
        ("tsql oracle db2", "SELECT a.name FROM buoys a LEFT JOIN buoys b WHERE a.buoy_id = b.depth_m"),
        ("tsql oracle db2", "SELECT a.name FROM buoys a JOIN buoys b ON a.buoy_id = b.buoy_id INNER JOIN buoys c"),
        ("tsql oracle db2", "SELECT a.name FROM buoys a SEMI JOIN buoys b ON a.buoy_id = b.depth_m"),
        ("tsql oracle db2", "SELECT COUNT(DISTINCT name, bay) AS n FROM buoys"),
        ("tsql oracle db2", "SELECT COUNT() AS n FROM buoys"),
        ("tsql oracle db2", "SELECT COUNT(buoys.*) AS n FROM buoys"),
        ("tsql oracle", "SELECT MAX(depth_m, 3) AS n FROM buoys"),
        ("tsql oracle db2", "SELECT COALESCE(bay) AS b FROM buoys"),
        ("tsql oracle db2", "SELECT name FROM buoys UNION SELECT depth_m FROM buoys"),
        ("tsql oracle db2", "SELECT DISTINCT bay FROM buoys ORDER BY depth_m"),
        ("tsql oracle db2", "SELECT RANK() OVER (PARTITION BY bay) AS r FROM buoys"),
        ("tsql oracle db2", "SELECT LAG(name) OVER () AS before FROM buoys"),
        ("tsql oracle db2", "SELECT name FROM buoys WHERE bay IN ('North', 'South',)"),
        ("tsql oracle db2", "SELECT name FROM buoys WHERE EXISTS (SELECT 1 AS one FROM buoys) = 1"),
        ("tsql oracle db2", "SELECT 'a' 'b' AS x FROM buoys"),
        ("tsql oracle db2", "SELECT CAST(depth_m AS STRING) AS d FROM buoys"),
        ("tsql oracle db2", "SELECT CAST(depth_m AS SIGNED) AS d FROM buoys"),
        ("tsql oracle db2", "SELECT name FROM buoys WHERE name LIKE ANY ('G%')"),
        ("tsql oracle db2", "SELECT USER AS me FROM buoys"),
        ("tsql oracle", "SELECT ROW_NUMBER() OVER () AS r FROM buoys"),
        ("tsql oracle", "SELECT name FROM buoys WHERE buoy_id IN (SELECT buoy_id FROM buoys ORDER BY name)"),
        ("tsql oracle", "SELECT * FROM (SELECT a.name, b.name FROM buoys a JOIN buoys b ON a.buoy_id = b.buoy_id) x"),
        ("tsql oracle", "SELECT CAST(depth_m AS BOOLEAN) AS d FROM buoys"),
        ("tsql oracle", "SELECT name FROM buoys WHERE (SELECT 1 AS one FROM buoys WHERE buoy_id = 1)"),
        ("tsql db2", "WITH x AS (SELECT bay, COUNT(*) FROM buoys GROUP BY bay) SELECT bay FROM x"),
        ("oracle db2", "SELECT *, depth_m * 2 AS d FROM buoys"),
        ("oracle db2", "SELECT name AS 'Name' FROM buoys"),
        ("oracle db2", 'SELECT "name" FROM buoys'),
        ("oracle db2", 'SELECT name AS "Called" FROM buoys ORDER BY called'),
        ("oracle db2", "SELECT SUM(depth_m) OVER w AS s FROM buoys WINDOW w AS (ORDER BY buoy_id)"),
        ("oracle db2", "SELECT depth_m ^ 2 AS x FROM buoys"),
        ("tsql", "SELECT name FROM (SELECT name FROM buoys ORDER BY name) x"),
        ("tsql", "WITH x AS (SELECT name FROM buoys ORDER BY name) SELECT name FROM x"),
        ("tsql", "SELECT n FROM (SELECT COUNT(*), 1 AS n FROM buoys) x"),
        ("tsql", "SELECT FIRST_VALUE(name) OVER (PARTITION BY bay) AS f FROM buoys"),
        ("tsql", "SELECT depth_m * 2 AS d FROM buoys ORDER BY d + 1"),
        ("tsql", "SELECT ROUND(depth_m) AS d FROM buoys"),
        ("tsql", "SELECT SUBSTRING(name, 2) AS s FROM buoys"),
        ("tsql", "SELECT STRING_AGG(name) AS s FROM buoys"),
        ("tsql", "SELECT name FROM buoys WHERE GETDATE() > DATE '2026-07-03'"),
        ("tsql", "SELECT CAST(depth_m AS DOUBLE) AS d FROM buoys"),
        ("oracle", "SELECT CAST(depth_m AS VARCHAR) AS d FROM buoys"),
        ("oracle", "SELECT name FROM buoys START WITH buoy_id = 1 CONNECT BY PRIOR buoy_id < buoy_id AND LEVEL < 3 ORDER SIBLINGS BY bay"),
        ("oracle", "SELECT name FROM buoys EXCEPT SELECT name FROM buoys WHERE depth_m > 4"),
        ("oracle", "SELECT a.buoy_id FROM buoys a JOIN buoys b USING (buoy_id)"),
        ("oracle", "SELECT SYSDATE + INTERVAL '1 day' AS d FROM dual"),
        ("oracle", "SELECT name FROM buoys WHERE bay IS NOT DISTINCT FROM 'North'"),
        ("oracle", "SELECT bay, MAX(COUNT(*)) AS n FROM buoys GROUP BY bay"),
        ("oracle", "SELECT LOG(100) AS l FROM dual"),
        ("db2", "SELECT a.name FROM buoys a NATURAL JOIN buoys b"),
        ("db2", "SELECT name FROM buoys WHERE 1 = 1 AND 1"),
    )
    for dialect in dialects.split()
]  # fmt: skip


@pytest.mark.parametrize(("name", "sql"), FOREIGN, ids=[f"{name} {sql}" for name, sql in FOREIGN])
def test_what_the_engine_itself_may_not_take_gets_no_verdict(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str
) -> None:
    engine, dataset = running[name]
    ran = engine.run(dataset, sql, Limits())
    notes = stood_in(engine.dialect, sql, dataset.kinds).notes
    assert notes or (isinstance(ran, QueryFailure) and ran.verdict == "error")


OWN: list[tuple[str, str]] = [
    ("tsql", "SELECT name, ROW_NUMBER() OVER (ORDER BY (SELECT NULL)) AS n FROM buoys ORDER BY 1"),
    ("oracle", "SELECT name FROM buoys ORDER BY 'name', NULL"),
    ("oracle", "WITH t (n) AS (SELECT depth_m FROM buoys UNION ALL SELECT n + 1 FROM t WHERE n < 9) SELECT n FROM t"),
    ("oracle", "SELECT LISTAGG(name, ',') WITHIN GROUP (ORDER BY name) OVER (PARTITION BY bay) AS names FROM buoys"),
    ("oracle", "SELECT COUNT(DISTINCT bay) OVER () AS n, (depth_m - 1) || name || (depth_m + 1) AS x FROM buoys"),
    ("oracle", "SELECT name AS \"date\", depth_m AS depth FROM buoys"),
    ("oracle", "SELECT name FROM buoys MINUS SELECT bay FROM buoys ORDER BY name"),
    ("oracle", "SELECT DATE '2026-01-31' AS d, CAST('12' AS NUMBER) AS n, CAST(DATE '2026-01-31' AS TIMESTAMP) AS m FROM buoys"),
    ("tsql", "SELECT STRING_AGG(name, ',') WITHIN GROUP (ORDER BY name) AS names, SUM(depth_m) AS [plan] FROM buoys"),
    ("tsql", "SELECT name FROM buoys ORDER BY name OFFSET 1 ROWS FETCH NEXT 1 ROWS ONLY"),
    ("tsql", "SELECT b.name, x.n FROM buoys b CROSS APPLY (SELECT COUNT(*) AS n FROM buoys o WHERE o.bay = b.bay) x"),
    ("tsql", "SELECT b.name, (SELECT MAX(x.d) FROM (SELECT o.depth_m AS d FROM buoys o WHERE o.bay = b.bay) x) AS d FROM buoys b"),
    ("tsql", "SELECT x.name, y.n FROM (SELECT b.name, b.bay FROM buoys b) x JOIN (SELECT b.bay, COUNT(*) AS n FROM buoys b GROUP BY b.bay) y ON y.bay = x.bay"),
    ("oracle", "SELECT b.name, x.n FROM buoys b CROSS JOIN LATERAL (SELECT COUNT(*) AS n FROM buoys o WHERE o.bay = b.bay) x WHERE (b.buoy_id, b.name) IN ((1, 'Gull'))"),
    ("db2", "SELECT b.name, x.n FROM buoys b, LATERAL (SELECT COUNT(*) AS n FROM buoys o WHERE o.bay = b.bay) x"),
    ("db2", "SELECT b.name, x.n FROM buoys b, TABLE (SELECT COUNT(*) AS n FROM buoys o WHERE o.bay = b.bay) x"),
    ("tsql", "SELECT name, (SELECT COUNT(*) FROM buoys) AS n FROM buoys ORDER BY (SELECT MAX(o.depth_m) FROM buoys o WHERE o.bay = buoys.bay), name"),
    ("db2", "SELECT name AS date, SUM(depth_m) OVER (ORDER BY buoy_id RANGE BETWEEN 1 PRECEDING AND CURRENT ROW) AS total FROM buoys"),
    ("tsql", "SELECT TOP 3 b.name, COUNT(*) AS n FROM dbo.buoys AS b JOIN buoys o ON o.bay = b.bay GROUP BY b.name HAVING COUNT(*) > 1 ORDER BY n DESC, b.name"),
    ("tsql", "WITH deep (name, d) AS (SELECT name, depth_m FROM buoys) SELECT name FROM deep WHERE d > 4 AND name NOT IN ('x')"),
    ("tsql", "SELECT SUM(IIF(depth_m > 4 AND bay IS NOT NULL, 1, 0)) AS n FROM buoys ORDER BY CASE WHEN COUNT(*) > 1 THEN 1 ELSE 2 END"),
    ("oracle", "SELECT SUM(CASE WHEN REGEXP_LIKE(name, '^G') OR depth_m > ANY (SELECT 1 FROM dual) THEN 1 ELSE 0 END) AS n FROM buoys WHERE (depth_m, bay) NOT IN (SELECT 1, 'x' FROM dual)"),
    ("tsql", "SELECT UPPER(name) AS name FROM buoys WHERE name LIKE 'G%' GROUP BY name"),
    ("tsql", "SELECT CAST(depth_m AS DECIMAL(6, 2)) AS d, ROW_NUMBER() OVER (PARTITION BY bay ORDER BY depth_m) AS r FROM buoys"),
    ("tsql", "SELECT b.name, x.n FROM buoys b CROSS APPLY (SELECT COUNT(*) AS n FROM buoys o WHERE o.bay = b.bay) AS x"),
    ("tsql", "SELECT IIF(depth_m > 4, 'deep', 'flat') AS kind, LEN(name) AS n, DATEPART(year, GETDATE()) AS y FROM buoys WHERE NOT (depth_m = 4 OR bay IS NULL)"),
    ("tsql", "SELECT CASE WHEN depth_m > 4 THEN 1 ELSE 0 END AS deep FROM buoys WHERE EXISTS (SELECT 1 FROM buoys WHERE depth_m > 8)"),
    ("oracle", "SELECT b.name, NVL(b.bay, 'none') bay FROM buoys b WHERE b.depth_m > ALL (SELECT 1 FROM dual) ORDER BY bay NULLS FIRST"),
    ("oracle", "SELECT bay, LISTAGG(name, ', ') WITHIN GROUP (ORDER BY name) AS names FROM buoys GROUP BY bay HAVING COUNT(*) > 1"),
    ("oracle", "SELECT name || ' ' || bay AS label FROM buoys WHERE (bay, depth_m) IN (SELECT bay, MIN(depth_m) FROM buoys GROUP BY bay)"),
    ("oracle", "SELECT name FROM buoys NATURAL JOIN (SELECT buoy_id FROM buoys WHERE ROWNUM <= 2) MINUS SELECT name FROM buoys WHERE MOD(depth_m, 2) = 0"),
    ("db2", "SELECT name, DECIMAL(depth_m, 6, 2) AS d, SUBSTR(name, 1, 2) AS s FROM buoys FETCH FIRST 2 ROWS ONLY"),
    ("db2", "SELECT b.name FROM buoys AS b LEFT JOIN buoys AS o ON o.buoy_id = b.depth_m WHERE o.buoy_id IS NULL ORDER BY b.name"),
    ("tsql", "SELECT x.name FROM (SELECT TOP 2 name FROM buoys ORDER BY depth_m DESC) AS x (name) CROSS JOIN (SELECT 1 AS one) AS y"),
    ("tsql", "SELECT DISTINCT bay, depth_m AS d FROM buoys ORDER BY d, bay DESC"),
    ("tsql", "SELECT a.name, b.name AS other FROM buoys a LEFT OUTER JOIN buoys b INNER JOIN buoys c ON c.buoy_id = b.buoy_id ON b.buoy_id = a.depth_m, buoys d WHERE d.buoy_id = 1"),
    ("tsql", "SELECT CONVERT(VARCHAR(20), depth_m) AS t, ROUND(depth_m, 0) AS r, COUNT(bay) OVER (PARTITION BY name) AS n FROM buoys"),
    ("oracle", 'SELECT b.name AS "Called", "B"."BAY" FROM buoys b ORDER BY "Called"'),
    ("oracle", "SELECT t.*, depth_m * 2 AS twice FROM (SELECT buoy_id, COUNT(*) AS n FROM buoys GROUP BY buoy_id ORDER BY n) t JOIN buoys USING (buoy_id) CROSS JOIN dual"),
    ("oracle", "SELECT DISTINCT bay FROM buoys ORDER BY 1, bay NULLS FIRST"),
    ("oracle", "SELECT CAST(depth_m AS NUMBER(9, 2)) AS n, SYSDATE + INTERVAL '1' DAY AS d FROM buoys"),
    ("db2", "SELECT ROW_NUMBER() OVER () AS r, x.* FROM (SELECT name, COUNT(*) AS n FROM buoys GROUP BY name ORDER BY name) AS x"),
    ("db2", "SELECT CAST(depth_m AS DECIMAL(7, 2)) AS d, CAST(depth_m AS VARCHAR) AS t FROM buoys ORDER BY d"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "sql"), OWN, ids=[f"{name} {sql}" for name, sql in OWN])
def test_what_is_the_dialect_s_own_runs_and_leaves_no_doubt(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str
) -> None:
    assert stood_in(name, sql, ColumnKinds(frozenset({"name", "bay"}))).notes == ()
    engine, dataset = running[name]
    assert isinstance(engine.run(dataset, sql, Limits()), ResultSet)


@pytest.mark.parametrize(
    ("name", "sql", "words"),
    [
        ("tsql", "SELECT name FROM buoys LIMIT 1", "In T-SQL, TOP n stands behind SELECT."),
        ("oracle", "SELECT TOP 1 name FROM buoys", "In Oracle SQL, FETCH FIRST n ROWS ONLY"),
        ("tsql", "SELECT CHECKSUM(name) FROM buoys", "The stand-in for T-SQL has no function CHECKSUM."),
        ("db2", "SELECT name FROM buoys WHERE name < depth_m AND", "breaks off"),
    ],
)  # fmt: skip
def test_no_advice_is_the_stand_in_s_own(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str, words: str
) -> None:
    engine, dataset = running[name]
    ran = engine.run(dataset, sql, Limits())
    assert isinstance(ran, QueryFailure)
    assert words in ran.message
    assert "DuckDB" not in ran.message


def test_a_reference_that_its_own_engine_may_refuse_is_warned_of() -> None:
    engine = engine_named("tsql", workers=1)
    try:
        for sql, due in (
            ("SELECT name FROM buoys WHERE LENGTH(name) > 3", 1),
            ("SELECT name FROM buoys WHERE LEN(name) > 3", 0),
        ):
            grader = Grader(
                engine,
                Exercise("long", "", "", "buoys", sql, "tsql"),
                SampleSource("buoys", (BUOYS,)),
            )
            told = [one for one in warnings_of(grader) if one.code == "reference.translated"]
            assert len(told) == due
            assert all("LENGTH" in one.message for one in told)
    finally:
        engine.close()


@pytest.mark.parametrize(
    ("name", "opened", "closed"),
    [
        ("oracle", "GREATEST(", ", 2)"),
        ("db2", "LEAST(", ", 2)"),
        ("oracle", "STDDEV(", ")"),
        ("tsql", "CAST(1 + LEN(", ") AS VARCHAR(9))"),
        ("db2", "CAST(1 + LENGTH(", ") AS VARCHAR(9))"),
        ("db2", "MAX(", ", 2)"),
        ("oracle", "WIDTH_BUCKET(", ", 1, 2, 3)"),
        ("oracle", "ROUND(", ", 'MM')"),
    ],
)
def test_calls_inside_each_other_make_no_text_without_end(
    name: str, opened: str, closed: str
) -> None:
    for deep in (1, 3, 40):
        sql = f"SELECT {opened * deep}depth_m{closed * deep} AS x FROM buoys"
        made = stood_in(name, sql, ColumnKinds(frozenset({"name"})))
        assert len(made.sql) < 200 * len(sql)
        assert bool(made.notes) == (deep == 40)


@pytest.mark.parametrize(
    "difference",
    [
        "laid - DATE '2026-01-01'",
        "laid - DATE('2026-01-01')",
        "CURRENT DATE - laid",
        "MAX(laid) - MIN(laid)",
        "laid - '2026-01-01'",
        "(laid + 1 DAY) - laid",
        "LAST_DAY(laid) - laid",
        "TIMESTAMP('2026-01-01 10:00:00') - TIMESTAMP('2026-01-01 00:00:00')",
        "YEAR(CURRENT DATE - laid)",
    ],
)
def test_a_date_less_a_date_has_no_verdict_on_db2(difference: str) -> None:
    kinds = ColumnKinds(dates=frozenset({"laid"}))
    assert stood_in("db2", f"SELECT {difference} FROM buoys", kinds).lost
    assert not stood_in("db2", "SELECT laid - 1 DAY, DAYS(laid) - 1 FROM buoys", kinds).lost


@pytest.mark.parametrize("counted", ["COUNT(*)", "MAX(buoy_id)", "COUNT(*) OVER ()"])
def test_rows_that_are_taken_before_they_are_counted_have_no_verdict_on_oracle(
    counted: str,
) -> None:
    assert stood_in("oracle", f"SELECT {counted} FROM buoys WHERE ROWNUM <= 2").lost
