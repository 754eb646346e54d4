"""What functions and clauses of the dialects give, by the examples of their references."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.stand_ins.number_formats import dotnet_number_format, oracle_number_format
from jentrow.core.sql.stand_ins.stand_in import may_run_elsewhere, stood_in
from tests.core.engines.stand_ins import stand_ins_over

LOCKS = DatasetSource(
    "locks",
    """
    CREATE TABLE locks (lock_no INTEGER PRIMARY KEY, name VARCHAR(20), canal VARCHAR(20),
        lift_cm INTEGER, toll DECIMAL(8, 2), built DATE, is_open BOOLEAN);
    INSERT INTO locks VALUES
        (1, 'Oberau Nord', 'Lind', 310, 1234.5, '1921-07-16', true),
        (2, 'Brugg', 'Lind', 205, 0.5, '1950-01-31', false),
        (3, 'Sarn', 'Auen', 420, NULL, '1999-12-05', true);
    """,
    keep_rows=True,
)


@pytest.fixture(scope="module")
def running() -> Iterator[dict[str, tuple[Engine, LoadedDataset]]]:
    with stand_ins_over(LOCKS) as engines:
        yield engines


VALUES: list[tuple[str, str, list[Any]]] = [
    # T-SQL
    ("tsql", "AVG(lift_cm) OVER (PARTITION BY canal)", [257, 257, 420]),
    ("tsql", "AVG(lift_cm * 1.0) OVER (PARTITION BY canal)", [257.5, 257.5, 420]),
    ("tsql", "SUM(CAST(is_open AS INT)) OVER ()", [2, 2, 2]),
    ("tsql", "CAST(lift_cm - 205 AS BIT)", [1, 0, 1]),
    ("tsql", "CASE WHEN CAST(lift_cm / 300 AS BIT) = is_open THEN 'y' END", ["y", "y", "y"]),
    ("tsql", "STUFF(name, 2, 3, '-')", ["O-au Nord", "B-g", "S-"]),
    ("tsql", "STUFF(name, 6, 1, '')", ["Obera Nord", None, None]),
    ("tsql", "STUFF(name, lock_no - 1, 1, 'x')", [None, "xrugg", "Sxrn"]),
    ("tsql", "STUFF('lock', 2, 2, NULL)", ["lk"] * 3),
    ("tsql", "DATEPART(w, built)", [7, 3, 1]),
    ("tsql", "DATENAME(wk, built)", ["29", "5", "50"]),
    ("tsql", "DATEDIFF(week, '2026-07-04', '2026-07-05')", [1] * 3),
    ("tsql", "DATEDIFF(ww, '2026-07-11 23:59', '2026-07-05')", [0] * 3),
    ("db2", "WEEK(built) * 100 + WEEK('2026-01-04')", [2902, 502, 5002]),
    ("tsql", "CASE WHEN lift_cm !< 310 AND lift_cm !> 400 THEN 'y' END", ["y", None, None]),
    ("tsql", "UPPER('Großau ' + canal)", ["GROßAU LIND", "GROßAU LIND", "GROßAU AUEN"]),
    ("oracle", "UPPER('Großau')", ["GROßAU"] * 3),
    ("oracle", "REGEXP_SUBSTR(name, '[^ ]+', 1, 2)", ["Nord", None, None]),
    ("oracle", "REGEXP_SUBSTR(name, '[a-z]r', 1, 1, 'i')", ["er", "Br", "ar"]),
    ("oracle", "REGEXP_SUBSTR(name, '(.)r(.)', 1, 1, 'i', 2)", ["a", "u", "n"]),
    ("oracle", "CASE WHEN lock_no ^= 2 THEN 'y' END", ["y", None, "y"]),
    ("oracle", "CASE WHEN SYSTIMESTAMP > TIMESTAMP '2020-01-01 00:00:00' THEN 'y' END", ["y"] * 3),
    ("db2", "REGEXP_SUBSTR(name, '[[:upper:]]', 1, lock_no)", ["O", None, None]),
    ("db2", "UCASE('Großau')", ["GROßAU"] * 3),
    ("db2", "TRIM(L 'S' FROM name)", ["Oberau Nord", "Brugg", "arn"]),
    ("db2", "TRIM(B FROM ' x ')", ["x"] * 3),
    ("db2", "CASE WHEN lock_no ^= 2 AND lock_no ¬= 3 THEN 'y' END", ["y", None, None]),
    ("db2", "FIRST_VALUE(toll, 'IGNORE NULLS') OVER (ORDER BY lock_no DESC)", [0.5, 0.5, None]),
    ("db2", "LAG(lift_cm, 1, 0, 'RESPECT NULLS') OVER (ORDER BY lock_no)", [0, 310, 205]),
    ("db2", "RTRIM(CHAR(lift_cm)) || TRIM(CHAR(lock_no))", ["3101", "2052", "4203"]),
    ("db2", "YEAR('2026-11-29') + MONTH('11/29/2026') + DAY('29.11.2026')", [2066] * 3),
    ("db2", "DAYOFWEEK('2026-11-29')", [1] * 3),
    ("db2", "HOUR('12.30.00') + MINUTE('2026-11-29-08.45.10')", [57] * 3),
    ("tsql", "FORMAT(toll, 'N2')", ["1,234.50", "0.50", None]),
    ("tsql", "FORMAT(lift_cm, '#,##0')", ["310", "205", "420"]),
    ("tsql", "FORMAT(lift_cm, '00000')", ["00310", "00205", "00420"]),
    ("tsql", "STR(toll, 8, 1)", ["  1234.5", "     0.5", None]),
    ("tsql", "STR(lift_cm)", ["       310", "       205", "       420"]),
    ("tsql", "STR(lift_cm, 2)", ["**", "**", "**"]),
    ("tsql", "QUOTENAME(name)", ["[Oberau Nord]", "[Brugg]", "[Sarn]"]),
    ("tsql", "QUOTENAME('a]b')", ["[a]]b]"] * 3),
    ("tsql", "ISNUMERIC(name)", [0, 0, 0]),
    ("tsql", "ISNUMERIC(CAST(lift_cm AS VARCHAR(5)) + '.5')", [1, 1, 1]),
    ("tsql", "ISNUMERIC(NULL)", [0, 0, 0]),
    ("tsql", "PATINDEX('%[^a-z]%', name)", [7, 0, 0]),
    ("tsql", "PATINDEX('%R%', name)", [4, 2, 3]),
    ("tsql", "PATINDEX('b%', name)", [0, 1, 0]),
    ("tsql", "PATINDEX('%n', name)", [0, 0, 4]),
    ("tsql", "PATINDEX('%_g%', name)", [0, 3, 0]),
    # Oracle
    ("oracle", "TO_CHAR(toll, '9,990.00')", [" 1,234.50", "     0.50", None]),
    ("oracle", "TO_CHAR(toll, 'FM9990.99')", ["1234.5", "0.5", None]),
    ("oracle", "TO_CHAR(toll, '99.9')", ["#####", "   .5", None]),
    ("oracle", "TO_CHAR(-lift_cm, '0000')", ["-0310", "-0205", "-0420"]),
    ("oracle", "TO_CHAR(lift_cm, '$999')", [" $310", " $205", " $420"]),
    ("oracle", "TO_CHAR(built, 'Month YYYY')", ["July      1921", "January   1950", "December  1999"]),
    ("oracle", "TO_CHAR(built, 'fmDD MON YY')", ["16 JUL 21", "31 JAN 50", "5 DEC 99"]),
    ("oracle", "TO_CHAR(built, 'DY, Q, WW')", ["SAT, 3, 29", "TUE, 1, 05", "SUN, 4, 49"]),
    ("oracle", "TO_CHAR(built, 'fmDay') || '!'", ["Saturday!", "Tuesday!", "Sunday!"]),
    ("oracle", "TO_CHAR(built, 'HH:MI a.m.')", ["12:00 a.m."] * 3),
    ("oracle", "TO_DATE('31.01.85', 'DD.MM.YY')", [date(2085, 1, 31)] * 3),
    ("oracle", "TO_DATE('31.01.85', 'DD.MM.RR')", [date(1985, 1, 31)] * 3),
    ("oracle", "TO_DATE('31.01.60', 'DD.MM.RR')", [date(1960, 1, 31)] * 3),
    ("oracle", "TO_DATE('31.01.49', 'DD.MM.RR')", [date(2049, 1, 31)] * 3),
    ("oracle", "INSTR(name, 'r', -1)", [10, 2, 3]),
    ("oracle", "INSTR(name, 'x', -1, 1)", [0, 0, 0]),
    ("oracle", "SUBSTR(name, INSTR(name, ' ', -1) + 1)", ["Nord", "Brugg", "Sarn"]),
    # The examples of the reference.
    ("oracle", "INSTR('CORPORATE FLOOR', 'OR', 3, 2)", [14] * 3),
    ("oracle", "INSTR('CORPORATE FLOOR', 'OR', -3, 2)", [2] * 3),
    ("oracle", "INSTR('aaaa', 'aa', 2, 2)", [3] * 3),
    ("oracle", "INSTR(name, 'r', 0)", [0] * 3),
    ("oracle", "INSTR(name, 'r', 99)", [0] * 3),
    ("oracle", "INSTR((SELECT MAX(name) FROM locks), 'r', 1, 1)", [3] * 3),
    ("db2", "LOCATE_IN_STRING('CORPORATE FLOOR', 'OR', 1, 3)", [14] * 3),
    ("db2", "LOCATE_IN_STRING('CORPORATE FLOOR', 'OR', -1)", [14] * 3),
    ("db2", "LOCATE('OR', 'CORPORATE FLOOR', 3)", [5] * 3),
    ("db2", "DEC(7) / 2", [3.5] * 3),
    ("db2", "DECIMAL(7.9)", [7] * 3),
    ("tsql", "CHARINDEX('or', 'CORPORATE FLOOR', 3)", [5] * 3),
    ("tsql", "CHARINDEX('c', 'CORPORATE FLOOR', -3)", [1] * 3),
    ("tsql", "CHARINDEX('o', name, " * 20 + "1" + ")" * 20, [1, 0, 0]),
    ("oracle", "CASE WHEN lift_cm > ALL (200, 300) THEN 1 END", [1, None, 1]),
    ("oracle", "CASE WHEN name = ANY ('Sarn', 'Brugg') THEN 1 END", [None, 1, 1]),
    ("oracle", "built + NUMTODSINTERVAL(2, 'DAY')", [date(1921, 7, 18), date(1950, 2, 2), date(1999, 12, 7)]),
    ("oracle", "built + NUMTOYMINTERVAL(1, 'YEAR')", [date(1922, 7, 16), date(1951, 1, 31), date(2000, 12, 5)]),
    ("oracle", "LENGTHB(name)", [11, 5, 4]),
    ("oracle", "TO_CLOB(name)", ["Oberau Nord", "Brugg", "Sarn"]),
    # Whole numbers stay whole, however deep.
    *((name, value, given) for name in ("tsql", "db2") for value, given in (
        ("lift_cm / 7 / 2", [22, 14, 30]),
        ("(lift_cm / 7 + 1) / 2", [22, 15, 30]),
        ("-(lift_cm / 7) / 2", [-22, -14, -30]),
        ("CASE WHEN lock_no > 1 THEN lift_cm / 100 ELSE 5 END / 2", [2, 1, 2]),
        ("COALESCE(lift_cm / NULLIF(lock_no - 1, 0), 7) / 2", [3, 102, 105]),
        ("ABS(lift_cm / 7) / 2", [22, 14, 30]),
        ("FLOOR(lift_cm) / 100", [3, 2, 4]),
        ("POWER(lock_no, 2) / 3", [0, 1, 3]),
        ("AVG(lift_cm / 100) OVER ()", [3, 3, 3]),
        ("(SELECT AVG(lift_cm) FROM locks) / 2", [155, 155, 155]),
        ("(SELECT SUM(n) / 2 FROM (SELECT COUNT(*) AS n FROM locks GROUP BY canal) x)", [1, 1, 1]),
        ("(SELECT MAX(z) / 2 FROM (SELECT y / 2 AS z FROM (SELECT lift_cm / 10 AS y FROM locks) a) b)",
         [10, 10, 10]),
        ("lift_cm / 100.0 / 2", [1.55, 1.025, 2.1]),
        ("lift_cm * 1.0 / 100", [3.1, 2.05, 4.2]),
        ("toll / 2", [617.25, 0.25, None]),
        ("CAST(lift_cm AS FLOAT) / 100", [3.1, 2.05, 4.2]),
    )),
    ("tsql", "ISNULL(NULLIF(lock_no, 2), 7.9) / 2", [0, 3, 1]),
    ("tsql", "COALESCE(NULLIF(lock_no, 2), 7.5) / 2", [0.5, 3.75, 1.5]),
    ("tsql", "SIGN(toll) / 2", [0.5, 0.5, None]),
    ("tsql", "SQUARE(lock_no) / 2", [0.5, 2, 4.5]),
    ("tsql", "POWER(2, -1)", [0, 0, 0]),
    # Db2
    ("db2", "AVG(lift_cm) OVER ()", [311, 311, 311]),
    ("db2", "EXTRACT(DOW FROM built)", [7, 3, 1]),
    ("db2", "TRUNC(built, 'MONTH')", [date(1921, 7, 1), date(1950, 1, 1), date(1999, 12, 1)]),
    ("db2", "BITAND(lift_cm, 1)", [0, 1, 0]),
    ("db2", "ROWNUMBER() OVER (ORDER BY lift_cm)", [2, 1, 3]),
    ("db2", "DENSERANK() OVER (ORDER BY canal)", [2, 2, 1]),
    ("db2", "OCTET_LENGTH(name)", [11, 5, 4]),
    ("db2", "CAST(is_open AS INTEGER)", [1, 0, 1]),
]  # fmt: skip


@pytest.mark.parametrize(("name", "value", "given"), VALUES, ids=[f"{a} {b}" for a, b, _ in VALUES])
def test_a_value_is_that_of_its_own_engine(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, value: str, given: list[Any]
) -> None:
    engine, dataset = running[name]
    sql = f"SELECT {value} FROM locks ORDER BY lock_no"
    assert stood_in(name, sql, dataset.kinds).notes == ()
    ran = engine.run(dataset, sql, Limits())
    assert isinstance(ran, ResultSet), ran
    found = [row[0] for row in ran.rows]
    moments = [one.date() if hasattr(one, "hour") else one for one in found]
    assert moments == given


def test_the_weeks_of_t_sql_begin_on_sundays_and_with_the_year(
    running: dict[str, tuple[Engine, LoadedDataset]],
) -> None:
    engine, dataset = running["tsql"]
    first = date(2019, 12, 20)
    day = f"DATEADD(day, value, CAST('{first}' AS DATE))"
    sql = (
        f"SELECT {day}, DATEPART(week, {day}), DATEDIFF(week, '{first}', {day}) "
        "FROM GENERATE_SERIES(0, 2300) ORDER BY value"
    )
    assert stood_in("tsql", sql, dataset.kinds).notes == ()
    ran = engine.run(dataset, sql, Limits())
    assert isinstance(ran, ResultSet), ran
    number, sundays = 51, 0
    for at, (moment, *found) in enumerate(ran.rows):
        expected = first + timedelta(days=at)
        is_first = (expected.month, expected.day) == (1, 1)
        sundays += at > 0 and expected.weekday() == 6
        number = 1 if is_first else number + (at > 0 and expected.weekday() == 6)
        assert (moment.year, moment.month, moment.day, *found) == (
            expected.year, expected.month, expected.day, number, sundays
        )  # fmt: skip


QUERIES: list[tuple[str, str, list[Any]]] = [
    ("tsql", "SELECT canal, COUNT(*) FROM locks GROUP BY canal WITH ROLLUP ORDER BY 2",
     [("Auen", 1), ("Lind", 2), (None, 3)]),
    ("tsql", "SELECT AVG(DISTINCT lift_cm) FROM locks WHERE lock_no < 3", [(257,)]),
    ("tsql", "SELECT l.name, v.kind, v.n FROM locks l CROSS APPLY (VALUES ('lift', lift_cm), ('no', lock_no)) v(kind, n) "
     "WHERE l.lock_no = 2 ORDER BY v.n", [("Brugg", "no", 2), ("Brugg", "lift", 205)]),
    ("tsql", "SELECT canal, STUFF((SELECT ', ' + i.name FROM locks i WHERE i.canal = l.canal ORDER BY i.lift_cm "
     "FOR XML PATH('')), 1, 2, '') FROM locks l GROUP BY canal ORDER BY canal",
     [("Auen", "Sarn"), ("Lind", "Brugg, Oberau Nord")]),
    ("tsql", "SELECT (SELECT '<' + CAST(lock_no AS VARCHAR(3)) FROM locks WHERE lock_no < 3 ORDER BY lock_no FOR XML PATH(''))",
     [("&lt;1&lt;2",)]),
    ("tsql", "SELECT (SELECT ' & ' + i.name AS [text()] FROM locks i ORDER BY i.name DESC FOR XML PATH(''), TYPE)"
     ".value('.', 'NVARCHAR(MAX)')", [(" & Sarn & Oberau Nord & Brugg",)]),
    ("tsql", "SELECT (SELECT ',' + name FROM locks WHERE lock_no > 9 FOR XML PATH(''))", [(None,)]),
    ("oracle", "SELECT COUNT(UNIQUE canal) FROM locks", [(2,)]),
    ("oracle", "SELECT canal, SUM(lift_cm), SUM(SUM(lift_cm)) OVER (ORDER BY canal) FROM locks GROUP BY canal ORDER BY 1",
     [("Auen", 420, 420), ("Lind", 515, 935)]),
    ("oracle", "SELECT MAX(SUM(lift_cm)) FROM locks GROUP BY canal", [(515,)]),
    ("oracle", "SELECT ROWNUM * 2 FROM dual CONNECT BY ROWNUM <= 3", [(2,), (4,), (6,)]),
    ("oracle", "SELECT (SELECT MAX(ROWNUM) FROM dual CONNECT BY LEVEL <= 2) AS n FROM locks WHERE lock_no = 1", [(2,)]),
    ("oracle", "SELECT REGEXP_SUBSTR('a,b,c', '[^,]+', 1, LEVEL) FROM dual "
     "CONNECT BY REGEXP_SUBSTR('a,b,c', '[^,]+', 1, LEVEL) IS NOT NULL", [("a",), ("b",), ("c",)]),
    ("db2", "SELECT l.name, t.n FROM locks l, TABLE (SELECT COUNT(*) AS n FROM locks i WHERE i.canal = l.canal) AS t "
     "ORDER BY l.lock_no", [("Oberau Nord", 2), ("Brugg", 2), ("Sarn", 1)]),
    ("db2", "SELECT n, w FROM TABLE(VALUES (1, 'a'), (2, 'b')) AS t (n, w) ORDER BY n", [(1, "a"), (2, "b")]),
    ("tsql", "SELECT canal FROM locks GROUP BY canal HAVING AVG(lift_cm) / 2 > 128", [("Auen",)]),
    ("tsql", "WITH t(n) AS (SELECT 1 UNION ALL SELECT n + 2 FROM t WHERE n < 5) SELECT n / 2 / 2 FROM t",
     [(0,), (0,), (1,)]),
    ("tsql", "SELECT x / 2 / 2 FROM (VALUES (7), (9)) AS v(x)", [(1,), (2,)]),
    # Another value under a column's name: the column is what it was.
    ("tsql", "SELECT lock_no, lift_cm / 100 AS m, toll * 1.5 AS lift_cm FROM locks WHERE lift_cm / 100 = 2",
     [(2, 2, Decimal("0.75"))]),
    ("db2", "SELECT lift_cm / 100 AS m FROM locks WHERE lock_no IN (SELECT a.lift_cm FROM "
     "(SELECT toll * 4 AS lift_cm FROM locks) a) AND lift_cm / 100 = 2", [(2,)]),
    ("tsql", "SELECT toll / 4 FROM (SELECT lock_no, lift_cm AS toll FROM locks WHERE lock_no = 1) x", [(77,)]),
    ("tsql", "SELECT n / 2 / 2 FROM (SELECT 7 AS n UNION ALL SELECT NULL UNION ALL SELECT 9) x ORDER BY 1",
     [(None,), (1,), (2,)]),
    ("db2", "SELECT lift_cm / 2 / 2 FROM (SELECT lift_cm FROM locks WHERE lock_no = 1 UNION "
     "SELECT lock_no FROM locks WHERE lock_no = 2) x ORDER BY 1", [(0,), (77,)]),
    ("tsql", "SELECT canal, AVG(AVG(lift_cm)) OVER () FROM locks GROUP BY canal ORDER BY canal",
     [("Auen", 338), ("Lind", 338)]),
    ("oracle", "SELECT k, v FROM (SELECT lock_no, lift_cm FROM locks) "
     "UNPIVOT (v FOR k IN (lock_no, lift_cm AS 'lift')) WHERE v IN (3, 420) ORDER BY v",
     [("LOCK_NO", 3), ("lift", 420)]),
    ("oracle", "SELECT LISTAGG(DISTINCT canal, ', ') WITHIN GROUP (ORDER BY canal) FROM locks",
     [("Auen, Lind",)]),
    ("db2", "SELECT LISTAGG(DISTINCT canal, '+') WITHIN GROUP (ORDER BY canal DESC) FROM locks",
     [("Lind+Auen",)]),
    ("db2", "SELECT COVARIANCE(lock_no, lock_no), CORRELATION(lock_no, lift_cm * 0 + lock_no) FROM locks",
     [(pytest.approx(2 / 3), pytest.approx(1))]),
]  # fmt: skip


@pytest.mark.parametrize(("name", "sql", "rows"), QUERIES, ids=[f"{a} {b}" for a, b, _ in QUERIES])
def test_a_clause_means_what_it_means_on_its_own_engine(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str, rows: list[Any]
) -> None:
    engine, dataset = running[name]
    assert set(stood_in(name, sql, dataset.kinds).lost) == set()
    ran = engine.run(dataset, sql, Limits())
    assert isinstance(ran, ResultSet), ran
    assert [tuple(row) for row in ran.rows] == rows


NOT_KEPT = [
    ("tsql", "SUM(is_open) OVER ()", "takes no SUM of a BIT"),
    ("tsql", "MAX(CAST(lift_cm AS BIT)) OVER ()", "takes no MAX of a BIT"),
    ("tsql", "FORMAT(toll, 'C')", "format of a number"),
    ("tsql", "FORMAT(toll, 'N2', 'de-de')", "format of a number"),
    ("tsql", "QUOTENAME(name, '<')", "QUOTENAME"),
    ("tsql", "PATINDEX(canal, name)", "PATINDEX"),
    ("tsql", "SQUARE(lock_no) / POWER(2, 1)", "SQUARE and POWER"),
    ("tsql", "POWER(toll, 2)", "POWER of a decimal"),
    ("tsql", "TRIM('S' FROM name)", "letters in any case"),
    ("tsql", "TRANSLATE(name, 'ab', 'xy')", "letters in any case"),
    ("tsql", "GREATEST(name, 'b')", "GREATEST sorts texts"),
    ("oracle", "TO_CHAR(built, 'D')", "format"),
    ("oracle", "CASE WHEN built > '2026/01/31' THEN 1 END", "session's format"),
    ("oracle", "CASE WHEN '31-JAN-2026' < built THEN 1 END", "session's format"),
    (
        "oracle",
        "(SELECT 1 FROM dual WHERE TRUNC(SYSDATE) = '2026-01-31 10:00')",
        "session's format",
    ),
    ("db2", "CASE WHEN built > '2026/01/31' THEN 1 END", "reads texts as dates"),
    ("oracle", "EXTRACT(HOUR FROM built)", "seconds of a TIMESTAMP alone"),
    ("oracle", "TO_CHAR(lift_cm, 'RN')", "TO_CHAR with this format has no counterpart"),
    ("db2", "TRUNC(built, 'CENTURY')", "TRUNC"),
]


NOT_KEPT_CLAUSES = [
    ("tsql", "SELECT (SELECT DISTINCT ',' + canal FROM locks FOR XML PATH(''))", "FOR is not kept"),
    ("tsql", "SELECT name FROM locks FOR XML PATH('')", "FOR is not kept"),
    ("tsql", "SELECT (SELECT ',' + name FROM locks FOR XML PATH('lock'))", "FOR is not kept"),
    ("tsql", "SELECT (SELECT ',' + name FROM locks FOR XML PATH(''), TYPE)", "FOR is not kept"),
    ("tsql", "SELECT (SELECT ',' + name FROM locks FOR XML PATH(''), TYPE).query('.')", "Methods of XML"),
    ("tsql", "SELECT name.value('.', 'INT') FROM locks", "Methods of XML"),
    ("tsql", "SELECT dbo.f(name) FROM locks", "by a dot"),
    ("tsql", "SELECT table_name FROM INFORMATION_SCHEMA.TABLES", "catalogue"),
    ("tsql", "SELECT PARSE('1,5' AS DECIMAL(5, 2) USING 'de-DE') FROM locks", "PARSE"),
    ("oracle", "SELECT table_name FROM user_tables", "catalogue"),
    ("oracle", "SELECT DBTIMEZONE FROM dual", "DBTIMEZONE"),
    ("oracle", "SELECT REGEXP_SUBSTR(name, '[^r]*', 1, 2) FROM locks", "REGEXP_SUBSTR"),
    ("oracle", "SELECT REGEXP_SUBSTR(name, 'r', 3) FROM locks", "REGEXP_SUBSTR"),
    ("oracle", "SELECT TO_DATE(name DEFAULT NULL ON CONVERSION ERROR, 'YYYY') FROM locks", "CONVERSION"),
    ("oracle", "SELECT name FROM locks MODEL DIMENSION BY (lock_no) MEASURES (name) RULES ()", "MODEL"),
    ("db2", "SELECT tabname FROM syscat.tables", "catalogue"),
    ("db2", "SELECT XMLSERIALIZE(XMLAGG(XMLTEXT(name)) AS VARCHAR(100)) FROM locks", "XMLSERIALIZE"),
    ("db2", "SELECT ROW_NUMBER() OVER (ORDER BY ORDER OF locks) FROM locks", "ORDER … OF"),
    *(
        (name, "SELECT name FROM locks WHERE lift_cm BETWEEN SYMMETRIC 400 AND 300", "SYMMETRIC")
        for name in ("tsql", "oracle", "db2")
    ),
]  # fmt: skip


NOT_KEPT_CLAUSES += [(name, f"SELECT {value} FROM locks", words) for name, value, words in NOT_KEPT]


@pytest.mark.parametrize(("name", "sql", "words"), NOT_KEPT_CLAUSES)
def test_what_is_not_kept_says_so(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str, words: str
) -> None:
    notes = stood_in(name, sql, running[name][1].kinds).notes
    assert any(words in note for note in notes), notes


def test_isnull_is_as_long_as_its_column() -> None:
    buoys = DatasetSource(
        "buoys",
        """
        CREATE TABLE buoys (buoy_no INTEGER PRIMARY KEY, colour VARCHAR(5), bay CHAR(6), note VARCHAR(90));
        CREATE TABLE bays (bay CHAR(6) PRIMARY KEY, note VARCHAR(4), colour INTEGER);
        INSERT INTO buoys VALUES (1, 'green', 'Lundau', NULL), (2, NULL, NULL, NULL);
        """,
        keep_rows=True,
    )
    with stand_ins_over(buoys) as running:
        engine, dataset = running["tsql"]
        for value, due in (
            ("ISNULL(b.colour, 'none') + '!'", ["green!", "none!"]),
            ("ISNULL(bay, 'nowhere')", ["Lundau", "nowher"]),
            ("ISNULL(bay, note)", ["Lundau", None]),
            ("COALESCE(colour, 'unknown')", ["green", "unknown"]),
            ("ISNULL(note, 'none')", ["none", "none"]),
        ):
            sql = f"SELECT {value} FROM buoys b ORDER BY buoy_no"
            ran = engine.run(dataset, sql, Limits())
            assert isinstance(ran, ResultSet)
            assert [one for (one,) in ran.rows] == due, value
            assert stood_in("tsql", sql, dataset.kinds).lost == ()
        for value in ("ISNULL(note, 'nothing')", "ISNULL(colour, 'unknown')"):
            unsure = stood_in("tsql", f"SELECT {value} FROM buoys", dataset.kinds)
            assert unsure.lost, f"in {value} it is another one in another table"
        for sql, due in (
            ("SELECT ISNULL(c, 'nowhere') FROM (SELECT bay AS c FROM buoys WHERE buoy_no = 2) x", "nowher"),
            ("WITH x (c) AS (SELECT bay FROM buoys WHERE buoy_no = 2) SELECT ISNULL(c, 'nowhere') FROM x", "nowher"),
            ("SELECT ISNULL(MAX(UPPER(bay)), 'nowhere') FROM buoys WHERE buoy_no = 2", "nowher"),
            ("SELECT ISNULL((SELECT bay FROM buoys WHERE buoy_no = 9), 'nowhere')", "nowher"),
            ("SELECT ISNULL(CAST(buoy_no AS VARCHAR(3)), 'nowhere') FROM (SELECT NULL AS buoy_no) x", "now"),
            # A name that the query gives its own column is not that of what stands beside it.
            ("SELECT ISNULL(bay, 'nowhere') AS colour, ISNULL(note, 'no') AS bay FROM buoys WHERE buoy_no = 2", "nowher"),
            ("SELECT ISNULL(c, 'nowhere') FROM (SELECT CONCAT(bay, '') AS c FROM buoys WHERE buoy_no = 2) x", ""),
            ("WITH x AS (SELECT CONCAT(bay, ISNULL(bay, 'nowhere')) AS bay FROM buoys WHERE buoy_no = 2) SELECT bay FROM x", "nowher"),
            ("SELECT ISNULL(c, 'at sea') FROM (SELECT ISNULL(bay, 'nowhere') AS c FROM buoys WHERE buoy_no = 2) x", "nowher"),
            ("SELECT ISNULL(c, 0) FROM (SELECT COUNT(*) AS c FROM buoys) x", 2),
            ("SELECT ISNULL(b.bay + '!', 'nowhere at sea') FROM buoys b WHERE buoy_no = 2", "nowhere"),
            ("SELECT ISNULL(LEFT(bay, 3), 'nowhere') FROM buoys WHERE buoy_no = 2", "now"),
            ("SELECT ISNULL(SUBSTRING(bay, 2, 9), 'nowhere') FROM buoys WHERE buoy_no = 2", "nowher"),
            ("SELECT ISNULL(CASE WHEN buoy_no = 1 THEN bay WHEN buoy_no = 3 THEN 'a' END, 'nowhere') FROM buoys WHERE buoy_no = 2", "nowher"),
            ("SELECT ISNULL(IIF(buoy_no = 1, 'bay', NULL), 'nowhere') FROM buoys WHERE buoy_no = 2", "now"),
            ("SELECT ISNULL(COALESCE(bay, NULL), 'nowhere') FROM buoys WHERE buoy_no = 2", "nowher"),
            ("SELECT ISNULL(NULLIF('sea', 'sea'), 'nowhere')", "now"),
            ("SELECT ISNULL(CASE WHEN buoy_no = 1 THEN bay ELSE CONCAT(NULL, bay) END, 'nowhere') FROM buoys WHERE buoy_no = 2", ""),
            ("SELECT ISNULL(bay + REPLICATE('-', 3), 'nowhere') FROM buoys WHERE buoy_no = 2", "nowhere"),
        ):  # fmt: skip
            ran = engine.run(dataset, sql, Limits())
            assert isinstance(ran, ResultSet), ran
            assert ran.rows[0][0] == due, sql
            assert stood_in("tsql", sql, dataset.kinds).lost == (), sql


@pytest.mark.parametrize("name", ["tsql", "db2"])
@pytest.mark.parametrize(
    "sql",
    [
        "SELECT n / 2 / 2 FROM (SELECT lift_cm AS n FROM locks UNION ALL SELECT toll AS n FROM locks) x",
        "SELECT AVG(n / 2) FROM (SELECT lift_cm AS n FROM locks UNION ALL SELECT toll AS n FROM locks) x",
        # Named in its first part alone, as a set operation's columns are.
        "SELECT n / 2 / 2 FROM (SELECT lift_cm AS n FROM locks UNION ALL SELECT toll FROM locks) x",
        "SELECT lift_cm / 2 / 2 FROM (SELECT lift_cm FROM locks UNION SELECT toll FROM locks) x",
    ],
)
def test_a_division_of_what_may_be_whole_or_not_is_left_to_an_instructor(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, sql: str
) -> None:
    notes = stood_in(name, sql, running[name][1].kinds).lost
    assert any("whole numbers is not known" in note for note in notes), notes
    once = sql.replace(" / 2 / 2", " / 2").replace("n / 2)", "n)")
    assert stood_in(name, once, running[name][1].kinds).lost == ()
    ran = running[name][0].run(running[name][1], once.replace("AVG(n)", "n / 4"), Limits())
    assert isinstance(ran, ResultSet)
    assert any(value is not None and value % 1 for (value,) in ran.rows), "they have a fraction"


@pytest.mark.parametrize(
    ("name", "value"),
    [
        # Signs of money are numbers; a rest of 0 keeps its sign, or does not; no digit is shown.
        ("tsql", "ISNUMERIC('$')"),
        ("tsql", "STR(1234.567, 6, 2)"),
        ("tsql", "FORMAT(-0.001, 'N2')"),
        ("oracle", "TO_CHAR(-0.4, '990')"),
        ("oracle", "TO_CHAR(lift_cm * 0, 'FM999.99')"),
        # A float lies half-way as far as it can tell.
        ("oracle", "TO_CHAR(AVG(toll) OVER () * 0 + CAST(0.25 AS BINARY_DOUBLE), '990.0')"),
    ],
)
def test_a_text_that_nobody_can_tell_leaves_the_answer_undecided(
    running: dict[str, tuple[Engine, LoadedDataset]], name: str, value: str
) -> None:
    engine, dataset = running[name]
    sql = f"SELECT {value} FROM locks"
    ran = engine.run(dataset, sql, Limits())
    assert isinstance(ran, QueryFailure), ran
    made = stood_in(name, sql, dataset.kinds)
    assert may_run_elsewhere(name, sql, made, ran.code, ran.engine_words or ran.message)


@pytest.mark.parametrize(
    "said", ["B99", "9.9EEEE", "99MI", "S99", "9,99", "00,000", "99.", "", ".", "V99", "L99"]
)
def test_formats_of_numbers_that_oracle_knows_and_the_stand_in_does_not(said: str) -> None:
    assert oracle_number_format(said) is None


@pytest.mark.parametrize("said", ["C", "P1", "D4", "G", "0.0#", "#,#", "N10", "", "0%"])
def test_formats_of_numbers_that_t_sql_knows_and_the_stand_in_does_not(said: str) -> None:
    assert dotnet_number_format(said) is None
