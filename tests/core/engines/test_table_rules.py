"""A sample's tables on an engine: enumerations in their order, and in a copy the rules of its rows."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest

from jentrow.core.engines.labels import DIALECTS, RUNNING
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, QueryFailure
from jentrow.core.engines.whole_scripts import run_whole
from jentrow.core.results import ResultSet
from jentrow.core.samples.making.dataset_files import make_dataset
from jentrow.core.samples.recipes import Made, Recipe
from jentrow.core.samples.sources import DatasetSource
from jentrow.services.runtime.engines import engine_named
from tests.core.engines.test_copies import ROOM, changed, rows_of

PIERS = {
    "postgresql": """
CREATE TYPE state AS ENUM ('wild', 'calm', 'shut');
CREATE TABLE piers (
    pier char(2) PRIMARY KEY, opened date DEFAULT now(), lit boolean DEFAULT true,
    state state NOT NULL DEFAULT 'calm', earlier state
);
CREATE TABLE rings (
    ring serial PRIMARY KEY, pier char(2) NOT NULL REFERENCES piers ON DELETE CASCADE,
    load_kg numeric(7, 1) CHECK (load_kg > 0), note text DEFAULT 'none',
    load_t numeric(9, 3) GENERATED ALWAYS AS (load_kg / 1000) STORED, seen timestamp DEFAULT now()
);
""",
    "mariadb": """
CREATE TABLE piers (
    pier CHAR(2) PRIMARY KEY, opened DATE DEFAULT CURDATE(), lit BOOLEAN DEFAULT TRUE,
    state ENUM('wild', 'calm', 'shut') NOT NULL DEFAULT 'calm', earlier ENUM('wild', 'calm', 'shut')
);
CREATE TABLE rings (
    ring INT AUTO_INCREMENT PRIMARY KEY, pier CHAR(2) NOT NULL,
    load_kg DECIMAL(7, 1) CHECK (load_kg > 0), note VARCHAR(20) DEFAULT 'none',
    load_t DECIMAL(9, 3) AS (load_kg / 1000) STORED, seen DATETIME DEFAULT NOW(),
    FOREIGN KEY (pier) REFERENCES piers (pier) ON DELETE CASCADE
);
""",
    "duckdb": """
CREATE TYPE state AS ENUM ('wild', 'calm', 'shut');
CREATE TABLE piers (
    pier CHAR(2) PRIMARY KEY, opened DATE DEFAULT current_date, lit BOOLEAN DEFAULT true,
    state state NOT NULL DEFAULT 'calm', earlier state
);
CREATE SEQUENCE numbers;
CREATE TABLE rings (
    ring INTEGER DEFAULT nextval('numbers') PRIMARY KEY, pier CHAR(2) NOT NULL REFERENCES piers,
    load_kg DECIMAL(7, 1) CHECK (load_kg > 0), note TEXT DEFAULT 'none',
    load_t DECIMAL(9, 3) GENERATED ALWAYS AS (load_kg / 1000), seen TIMESTAMP DEFAULT now()
);
""",
}
ROWS = """
INSERT INTO piers (pier, opened, lit, state) VALUES
    ('N1', '2019-05-01', true, 'wild'), ('S1', NULL, false, 'shut'), ('W1', NULL, true, 'calm');
INSERT INTO rings (pier, load_kg) VALUES ('N1', 250), ('N1', NULL), ('S1', 80.2);
"""


@pytest.fixture(scope="module", params=[one for one in RUNNING if one != "sqlite"])
def engine(request: pytest.FixtureRequest) -> Iterator[Engine]:
    running = engine_named(request.param, workers=1)
    yield running
    running.close()


def made_of(folder: Path, script: str, engine: Engine | None = None) -> tuple[DatasetSource, Made]:
    """A sample's only dataset, from a script that an engine runs, or SQLite's own."""
    # To an engine that has loaded it a file's name stands for its content.
    path, file = folder / "script.sql", folder / f"{uuid4().hex}.db"
    path.write_text(script, encoding="utf-8")
    dialect = DIALECTS[engine.name] if engine else "sqlite"
    (folder / "ran").mkdir()
    ran = run_whole(engine, script, folder / "ran") if engine else ()
    recipe = Recipe("script", path=str(path), dialect=dialect, ran=ran)
    made = make_dataset(recipe, file, lambda done, total: None)
    return DatasetSource("open", "", database=file), made


@pytest.fixture
def piers(engine: Engine, tmp_path: Path) -> DatasetSource:
    return made_of(tmp_path, PIERS[engine.name] + ROWS, engine)[0]


@pytest.fixture
def copies(engine: Engine, tmp_path: Path) -> Iterator[Any]:
    """What makes copies; they go with the test."""
    there: list[Path] = []

    def copy_of(source: DatasetSource) -> Path:
        folder = tmp_path / f"copy-{len(there)}"
        folder.mkdir()
        there.append(folder / "copy")
        engine.make_copy(source, there[-1])
        return there[-1]

    yield copy_of
    for one in there:
        engine.drop_copy(one)


def column(engine: Engine, source: DatasetSource, sql: str) -> list[Any]:
    outcome = engine.run(engine.load(source), sql, Limits())
    assert isinstance(outcome, ResultSet), outcome
    return [row[0] for row in outcome.rows]


def test_an_enumeration_is_sorted_as_it_is_listed(engine: Engine, piers: DatasetSource) -> None:
    assert column(engine, piers, "SELECT state FROM piers ORDER BY state") == [
        "wild",
        "calm",
        "shut",
    ]
    assert column(engine, piers, "SELECT state FROM piers WHERE state = 'calm'") == ["calm"]
    # Two columns of one list are of one type.
    assert column(engine, piers, "SELECT pier FROM piers WHERE state = earlier") == []


def test_computed_columns_have_the_values_of_the_script_s_engine(
    engine: Engine, piers: DatasetSource
) -> None:
    found = column(engine, piers, "SELECT load_t FROM rings ORDER BY ring")
    assert [one and float(one) for one in found] == [0.25, None, 0.08]


def test_a_copy_s_rows_have_defaults_numbers_and_computed_values(
    engine: Engine, piers: DatasetSource, copies: Any
) -> None:
    copy = copies(piers)
    changed(
        engine,
        copy,
        "INSERT INTO piers (pier) VALUES ('Z1');\nINSERT INTO rings (pier, load_kg) VALUES ('Z1', 500);",
    )
    pier, opened, lit, state, earlier = rows_of(engine, copy, "piers")[-1]
    assert (pier, bool(lit), state, earlier) == ("Z1", True, "calm", None)
    assert opened is not None
    number, _, _, note, load_t, seen = rows_of(engine, copy, "rings")[-1]
    assert (number, note, float(load_t["decimal"])) == (4, "none", 0.5)
    assert seen is not None


@pytest.mark.parametrize(
    "change",
    [
        "INSERT INTO rings (pier, load_kg) VALUES ('N1', -5)",
        "UPDATE piers SET state = 'odd'",
        "INSERT INTO piers (pier, state) VALUES ('Z1', NULL)",
        "INSERT INTO piers (pier) VALUES ('N1')",
    ],
)
def test_a_copy_refuses_rows_that_its_table_does_not_allow(
    change: str, engine: Engine, piers: DatasetSource, copies: Any
) -> None:
    copy = copies(piers)
    found = engine.change(copy, change, Limits(), ROOM)
    assert isinstance(found, QueryFailure), found
    assert found.verdict == "error"
    assert len(rows_of(engine, copy, "piers")) == 3


def test_rows_that_refer_to_a_deleted_one_go_with_it(
    engine: Engine, piers: DatasetSource, copies: Any
) -> None:
    if engine.name == "duckdb":  # has no such action, and a copy no foreign keys
        return
    copy = copies(piers)
    changed(engine, copy, "DELETE FROM piers WHERE pier = 'N1'")
    assert [row[1] for row in rows_of(engine, copy, "rings")] == ["S1"]


BY_HAND = """
CREATE TABLE "Cairns" (
    "Cairn No" INTEGER PRIMARY KEY,
    name TEXT NOT NULL DEFAULT 'a ''new'' one' CHECK (name GLOB 'A*' OR name GLOB 'a*'),
    height_cm INTEGER DEFAULT 40 CHECK (height_cm BETWEEN 1 AND 400),
    built DATE DEFAULT (date('now')),
    token TEXT DEFAULT (lower(hex(randomblob(4)))),
    firm BOOLEAN DEFAULT 1,
    stones TEXT[] DEFAULT '["flat"]',
    height_m REAL GENERATED ALWAYS AS (height_cm / 100.0) STORED,
    steps INTEGER AS (height_cm / 15)
);
INSERT INTO "Cairns" (name, height_cm, built, firm) VALUES ('Alder', 35, NULL, 0), ('Ashlar', NULL, '2020-02-02', 1);
"""


def test_a_rule_that_an_engine_does_not_take_is_left_out_alone(
    engine: Engine, tmp_path: Path, copies: Any
) -> None:
    copy = copies(made_of(tmp_path, BY_HAND)[0])
    named = "cairns" if engine.name == "postgresql" else "Cairns"
    changed(engine, copy, f"INSERT INTO {named} (height_cm) VALUES (105)")
    assert [row[0] for row in rows_of(engine, copy, named)] == [1, 2, 3]
    *_, row = rows_of(engine, copy, named)
    assert (row[1], row[2], bool(row[5])) == ("a 'new' one", 105, True)
    assert row[3] is not None
    assert row[7] == 1.05
    assert "flat" in str(row[6])
    found = engine.change(copy, f"UPDATE {named} SET height_cm = 900", Limits(), ROOM)
    assert isinstance(found, QueryFailure)


BAYS = """
CREATE TABLE coasts (coast VARCHAR(9) PRIMARY KEY);
CREATE TABLE bays (
    name VARCHAR(9), coast VARCHAR(9), FOREIGN KEY (coast) REFERENCES coasts{key}, twice INTEGER GENERATED ALWAYS AS (length(name) * 2) {stored},
    other VARCHAR(40) GENERATED ALWAYS AS ({other}) {stored}
);
INSERT INTO bays (name) VALUES ('Otter'), ('Kelp');
"""
OTHERWISE = {
    # SQLite's upper leaves what is not of ASCII; the second is a function that it lacks.
    "postgresql": ("upper(name || 'é')", ["KELPÉ", "OTTERÉ"]),
    "mariadb": ("LEFT(name, 1)", ["K", "O"]),
    "duckdb": ("upper(name || 'é')", ["KELPÉ", "OTTERÉ"]),
}


def test_what_sqlite_would_compute_otherwise_is_kept_as_it_was(
    engine: Engine, tmp_path: Path
) -> None:
    other, due = OTHERWISE[engine.name]
    # Elsewhere a reference that names no column means the primary key.
    key = " (coast)" if engine.name == "mariadb" else ""
    script = BAYS.format(key=key, other=other, stored="" if engine.name == "duckdb" else "STORED")
    source, made = made_of(tmp_path, script, engine)
    assert column(engine, source, "SELECT twice FROM bays ORDER BY name") == [8, 10]
    assert column(engine, source, "SELECT other FROM bays ORDER BY name") == due
    assert [text for _, text, _ in made.left_out]
