"""A script in some engine's dialect becomes a sample, and the sample has its types on every engine."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path
from typing import Any
from uuid import UUID

import pytest

from jentrow.core.engines.labels import RUNNING
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine
from jentrow.core.results import ResultSet
from jentrow.core.samples.making.dataset_files import make_dataset
from jentrow.core.samples.recipes import Recipe
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.values import Interval
from jentrow.services.runtime.engines import engine_named

PASS = UUID("5b0c3f7e-2d41-4c8a-9f06-1e7a8d2b6c90")
EIGHT = dt.datetime(2026, 6, 1, 6, tzinfo=dt.UTC)
HOUR = 3_600_000_000

SCRIPTS = {
    "postgres": f"""\
CREATE TYPE grade AS ENUM ('calm', 'wild');
CREATE DOMAIN metres AS integer CHECK (VALUE >= 0);
CREATE TABLE passes (
    code uuid PRIMARY KEY DEFAULT gen_random_uuid(), height metres, opened timestamptz NOT NULL,
    opens time, walk interval, facts jsonb, tags text[] DEFAULT '{{}}', levels integer[],
    grade grade, stamp bytea, shut boolean DEFAULT false
);
COPY passes (code, height, opened, opens, walk, facts, tags, levels, grade, stamp, shut) FROM stdin;
{PASS}\t2410\t2026-06-01 08:00:00+02\t08:30:00\t02:30:00\t{{"depth": 1.50}}\t{{steep,"a, b"}}\t{{1,NULL}}\tcalm\t\\\\x48af\tt
\\.
""",
    "duckdb": f"""\
CREATE TYPE grade AS ENUM ('calm', 'wild');
CREATE TABLE passes (
    code UUID PRIMARY KEY, height INTEGER, opened TIMESTAMPTZ, opens TIME, walk INTERVAL, facts MAP(VARCHAR, DOUBLE),
    tags VARCHAR[], levels INTEGER[], grade grade, stamp BLOB, shut BOOL
);
INSERT INTO passes VALUES ('{PASS}', 2410, TIMESTAMPTZ '2026-06-01 08:00:00+02', TIME '08:30:00', INTERVAL 150 MINUTES,
    MAP {{'depth': 1.50}}, ['steep', 'a, b'], [1, NULL]::INTEGER[], 'calm'::grade, '\\x48\\xAF'::BLOB, true);
""",
    "mysql": f"""\
CREATE TABLE `passes` (
    `code` uuid NOT NULL, `height` int unsigned, `opened` timestamp NOT NULL, `opens` time, `walk` time, `facts` json,
    `tags` json, `levels` json, `grade` enum('calm','wild') DEFAULT 'calm', `stamp` varbinary(16), `shut` bit(1),
    PRIMARY KEY (`code`)
) ENGINE=InnoDB;
INSERT INTO `passes` VALUES ('{PASS}',2410,'2026-06-01 06:00:00','08:30:00','02:30:00','{{"depth": 1.50}}',
    '["steep", "a, b"]','[1, null]',DEFAULT,0x48AF,b'1');
""",
    "tsql": f"""\
CREATE TABLE [dbo].[passes] (
    [code] UNIQUEIDENTIFIER PRIMARY KEY DEFAULT NEWID(), [height] INT, [opened] DATETIMEOFFSET(7), [opens] TIME(0), [walk] TIME,
    [facts] NVARCHAR(MAX), [tags] NVARCHAR(MAX), [levels] NVARCHAR(MAX), [grade] NVARCHAR(10), [stamp] VARBINARY(MAX), [shut] BIT
);
GO
INSERT [dbo].[passes] VALUES (N'{PASS}', 2410, CAST(N'2026-06-01T08:00:00.0000000+02:00' AS DateTimeOffset),
    CAST(N'08:30:00' AS Time), '02:30:00', N'{{"depth": 1.50}}', N'["steep", "a, b"]', N'[1, null]', N'calm', 0x48AF, 1);
GO
""",
    "oracle": f"""\
CREATE TABLE passes (
    code VARCHAR2(36 CHAR) PRIMARY KEY, height NUMBER(4), opened TIMESTAMP(6) WITH TIME ZONE, opens VARCHAR2(8),
    walk INTERVAL DAY(2) TO SECOND(0), facts CLOB, tags CLOB, levels CLOB, grade VARCHAR2(9), stamp RAW(16), shut NUMBER(1)
);
INSERT INTO passes VALUES ('{PASS}', 2410, TIMESTAMP '2026-06-01 08:00:00 +02:00', '08:30:00',
    INTERVAL '0 02:30:00' DAY TO SECOND, '{{"depth": 1.50}}', '["steep", "a, b"]', '[1, null]', 'calm', HEXTORAW('48AF'), 1);
""",
}
TEXTS = {
    "facts": '{"depth": 1.50}', "tags": '["steep", "a, b"]', "levels": "[1, null]", "opens": "08:30:00",
}  # fmt: skip
RICH: dict[str, Any] = {
    "code": PASS, "height": 2410, "opened": EIGHT, "opens": dt.time(8, 30),
    "walk": dt.timedelta(hours=2, minutes=30), "facts": {"depth": Decimal("1.50")},
    "tags": ["steep", "a, b"], "levels": [1, None], "grade": "calm", "stamp": b"H\xaf", "shut": True,
}  # fmt: skip


def due(script: str, engine: str) -> dict[str, Any]:
    """What each column of the only row ought to be."""
    values = dict(RICH)
    if script == "mysql":
        values |= {"opened": EIGHT.replace(tzinfo=None), "walk": dt.time(2, 30)}
        values |= {"tags": ["steep", "a, b"], "levels": [1, None]}
    elif script == "tsql":
        values |= TEXTS | {"opens": dt.time(8, 30), "walk": dt.time(2, 30)}
    elif script == "oracle":
        values |= TEXTS | {"code": str(PASS), "height": Decimal(2410), "shut": Decimal(1)}
    for name, value in values.items():
        if engine == "postgresql" and isinstance(value, dt.timedelta):
            values[name] = Interval(0, 0, int(value / dt.timedelta(microseconds=1)))
        if engine == "mariadb":
            if name == "opened":
                values[name] = EIGHT.replace(tzinfo=None)
            if isinstance(value, dt.timedelta):
                values[name] = {"postgres": "02:30:00", "duckdb": "150 minutes"}.get(
                    script, "0 days 02:30:00"
                )
            if isinstance(value, UUID):
                values[name] = str(value)
            if isinstance(value, dict | list):
                values[name] = TEXTS[name]
            if value is True:
                values[name] = 1
    return values


@pytest.fixture(scope="module", params=[one for one in RUNNING if one != "sqlite"])
def engine(request: pytest.FixtureRequest) -> Iterator[Engine]:
    running = engine_named(request.param, workers=1)
    yield running
    running.close()


def sample_of(folder: Path, name: str, script: str, dialect: str) -> DatasetSource:
    """A sample's only dataset, as a script makes it; its file's name stands for its content."""
    path = folder / f"{name}.sql"
    path.write_text(script, encoding="utf-8")
    made = folder / f"{name}.db"
    make_dataset(Recipe("script", path=str(path), dialect=dialect), made, lambda done, total: None)
    return DatasetSource("open", "", database=made)


@pytest.mark.parametrize("script", SCRIPTS)
def test_a_script_s_types_are_those_of_each_engine(
    script: str, engine: Engine, tmp_path: Path
) -> None:
    loaded = engine.load(sample_of(tmp_path, script, SCRIPTS[script], script))
    outcome = engine.run(loaded, "SELECT * FROM passes", Limits())
    assert isinstance(outcome, ResultSet), outcome
    (row,) = outcome.rows
    assert dict(zip(RICH, row, strict=True)) == due(script, engine.name)


MOMENTS = {
    "day": ("DATE", "2026-06-01", dt.date(2026, 6, 1)),
    "with_clock": ("DATE", "2026-06-01 10:30:00", dt.datetime(2026, 6, 1, 10, 30)),
    "fraction": ("TIMESTAMP", "2026-06-01 10:30:00.125", dt.datetime(2026, 6, 1, 10, 30, 0, 125_000)),
    "past_a_day": ("TIME", "36:30:00", dt.timedelta(hours=36, minutes=30)),
}  # fmt: skip


@pytest.mark.parametrize("name", MOMENTS)
def test_a_type_that_is_too_narrow_for_its_values_is_widened(
    name: str, engine: Engine, tmp_path: Path
) -> None:
    declared, text, value = MOMENTS[name]
    script = f"CREATE TABLE t (one {declared}); INSERT INTO t VALUES ('{text}');"
    loaded = engine.load(sample_of(tmp_path, name, script, "sqlite"))
    outcome = engine.run(loaded, "SELECT one FROM t", Limits())
    assert isinstance(outcome, ResultSet), outcome
    if engine.name == "postgresql" and isinstance(value, dt.timedelta):
        value = Interval(0, 0, int(value / dt.timedelta(microseconds=1)))
    assert [tuple(row) for row in outcome.rows] == [(value,)]
