"""Values of every type, from each engine to Python and to JSON: nothing lost, nothing that cannot cross."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from decimal import Decimal
from typing import Any
from uuid import UUID

import pytest

from jentrow.core.engines.labels import RUNNING
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.values import (
    DateText,
    Interval,
    TimestampText,
    TimeText,
    family_of,
    printed,
    to_json,
)
from jentrow.services.runtime.engines import engine_named

NOON = dt.datetime(2026, 8, 30, 12)
INSTANT = dt.datetime(2026, 8, 30, 10, tzinfo=dt.UTC)
ID = UUID("12345678-1234-5678-1234-567812345678")
HOUR = 3_600_000_000

CASES: dict[str, list[tuple[str, Any]]] = {
    "sqlite": [
        ("9007199254740993", 9007199254740993),
        ("0.1", 0.1),
        ("'é'", "é"),
        ("x'AA'", b"\xaa"),
        ("1 = 1", 1),
    ],
    "duckdb": [
        ("TRUE", True),
        ("170141183460469231731687303715884105727::HUGEINT", 2**127 - 1),
        ("255::UTINYINT", 255),
        ("1.10::DECIMAL(5, 2)", Decimal("1.10")),
        ("0.1::DOUBLE", 0.1),
        ("DATE '2026-08-30'", dt.date(2026, 8, 30)),
        ("'0044-03-15 (BC)'::DATE", DateText("0044-03-15 (BC)")),
        ("DATE '9999-12-31'", dt.date(9999, 12, 31)),
        ("DATE 'infinity'", DateText("infinity")),
        ("TIMESTAMP '-infinity'", TimestampText("-infinity")),
        ("TIMESTAMPTZ 'infinity'", TimestampText("infinity", True)),
        ("TIMESTAMP '12000-01-01'", TimestampText("12000-01-01 00:00:00")),
        ("TIME '24:00'", TimeText("24:00:00")),
        ("TIMESTAMP_NS '2026-08-30 12:00:00'", NOON),
        (
            "TIMESTAMP_NS '2026-08-30 12:00:00.000000001'",
            TimestampText("2026-08-30 12:00:00.000000001"),
        ),
        ("TIME '12:05:00'", dt.time(12, 5)),
        ("TIMETZ '12:05:00+02'", dt.time(12, 5, tzinfo=dt.timezone(dt.timedelta(hours=2)))),
        ("TIMESTAMP '2026-08-30 12:00:00'", NOON),
        ("TIMESTAMPTZ '2026-08-30 12:00:00+02'", INSTANT),
        ("INTERVAL 36 HOURS", Interval(0, 0, 36 * HOUR)),
        ("INTERVAL '1 month 2 days 3 hours'", Interval(1, 2, 3 * HOUR)),
        ("INTERVAL '-1 year 2 months -00:00:00.5'", Interval(-10, 0, -500_000)),
        ("AGE(DATE '2026-03-31', DATE '2025-01-30')", Interval(14, 1, 0)),
        ("NULL::INTERVAL", None),
        ("[1, NULL]", [1, None]),
        ("[[DATE '2026-08-30']]", [[dt.date(2026, 8, 30)]]),
        ("[TIMESTAMPTZ '2026-08-30 12:00:00+02']", [INSTANT]),
        ("[[TIMESTAMPTZ '2026-08-30 12:00:00+02']]", [[INSTANT]]),
        ("{'at': TIMESTAMPTZ '2026-08-30 12:00:00+02', 'b': [1.5]}", {"at": INSTANT, "b": [Decimal("1.5")]}),
        ("MAP {1: TIMESTAMPTZ '2026-08-30 12:00:00+02'}", {"1": INSTANT}),
        ("[1, 2]::INTEGER[2]", [1, 2]),
        ("[INTERVAL 1 MONTH]", [Interval(1, 0, 0)]),
        ("{'a b': [INTERVAL 1 MONTH, NULL]}", {"a b": [Interval(1, 0, 0), None]}),
        ("MAP {INTERVAL 1 MONTH: DATE 'infinity'}", {"1 month": DateText("infinity")}),
        ("MAP {[1]: INTERVAL 1 MONTH}", {"[1]": Interval(1, 0, 0)}),
        ("ROW(1, NULL, INTERVAL 1 MONTH)", [1, None, Interval(1, 0, 0)]),
        ("""'{"a": 1.50}'::JSON""", {"a": Decimal("1.50")}),
        ("""['{"a": 1.50}'::JSON, NULL]""", [{"a": Decimal("1.50")}, None]),
        (f"'{ID}'::UUID", ID),
        (f"['{ID}'::UUID]", [ID]),
        (r"'\xAA'::BLOB", b"\xaa"),
        ("'x'::ENUM('x')", "x"),
        ("'101'::BIT", "101"),
        ("union_value(n := 2)", 2),
    ],
    "postgresql": [
        ("true", True),
        ("9007199254740993::bigint", 9007199254740993),
        ("1.10::numeric(5, 2)", Decimal("1.10")),
        ("'Infinity'::numeric", Decimal("Infinity")),
        ("'-1234567.5'::money", Decimal("-1234567.50")),
        ("ARRAY['0.5'::money, NULL]", [Decimal("0.50"), None]),
        ("0.1::real", 0.1),
        ("'ab  '::char(4)", "ab"),
        ("date '2026-08-30'", dt.date(2026, 8, 30)),
        ("'infinity'::date", DateText("infinity")),
        ("'-infinity'::timestamp", TimestampText("-infinity")),
        ("'infinity'::timestamptz", TimestampText("infinity", True)),
        ("date '0044-03-15 BC'", DateText("0044-03-15 BC")),
        ("time '12:05'", dt.time(12, 5)),
        ("time '24:00'", TimeText("24:00:00")),
        ("timetz '24:00+02'", TimeText("24:00:00+02", True)),
        ("timestamp '2026-08-30 12:00'", NOON),
        ("timestamptz '2026-08-30 12:00+02'", INSTANT),
        ("interval '1 month 2 days 03:00'", Interval(1, 2, 3 * HOUR)),
        ("interval '36 hours'", Interval(0, 0, 36 * HOUR)),
        ("interval '-1 year 2 mons -00:00:00.5'", Interval(-10, 0, -500_000)),
        ("ARRAY[interval '1 month']", [Interval(1, 0, 0)]),
        ("ARRAY[1, NULL]", [1, None]),
        ("ARRAY[['a', 'b']]", [["a", "b"]]),
        ("ARRAY[timestamptz '2026-08-30 12:00+02']", [INSTANT]),
        ("ARRAY['ab '::char(4)]", ["ab"]),
        ("""'{"a": 1.50, "b": [null]}'::jsonb""", {"a": Decimal("1.50"), "b": [None]}),
        (f"'{ID}'::uuid", ID),
        (r"'\xAA'::bytea", b"\xaa"),
        ("int4range(1, 5)", "[1,5)"),
        ("B'101'", "101"),
        ("'10.0.0.1'::inet", "10.0.0.1"),
    ],
    "mariadb": [
        ("TRUE", 1),
        ("18446744073709551615", 18446744073709551615),
        ("CAST(1.10 AS DECIMAL(5, 2))", Decimal("1.10")),
        ("0.1e0", 0.1),
        ("'é'", "é"),
        ("CAST('2026-08-30' AS DATE)", dt.date(2026, 8, 30)),
        ("CAST('0000-00-00' AS DATE)", DateText("0000-00-00")),
        ("CAST('12:05' AS TIME)", dt.time(12, 5)),
        ("CAST('36:05' AS TIME)", dt.timedelta(hours=36, minutes=5)),
        ("CAST('2026-08-30 12:00' AS DATETIME)", NOON),
        ("x'AA'", b"\xaa"),
        ("b'101'", b"\x05"),
        ("JSON_OBJECT('a', 1.50)", '{"a": 1.50}'),
    ],
}  # fmt: skip


@pytest.fixture(scope="module", params=RUNNING)
def typed(request: pytest.FixtureRequest) -> Iterator[tuple[Engine, LoadedDataset]]:
    running = engine_named(request.param, workers=1)
    yield running, running.load(DatasetSource("one", "CREATE TABLE one (a INTEGER)"))
    running.close()


def test_values_of_every_type_come_as_they_are(typed: tuple[Engine, LoadedDataset]) -> None:
    engine, dataset = typed
    cases = CASES[engine.name]
    texts = [f"SELECT {expression} AS one" for expression, _ in cases]
    found = dict(engine.run_many(dataset, texts, Limits()))
    for at, (expression, due) in enumerate(cases):
        outcome = found[at]
        assert isinstance(outcome, ResultSet), (expression, outcome)
        value = outcome.rows[0][0]
        assert (type(value), value) == (type(due), due), expression
        assert printed(value) == printed(due), expression
        assert to_json(value) == to_json(due), expression
        assert family_of(value) == family_of(due), expression
