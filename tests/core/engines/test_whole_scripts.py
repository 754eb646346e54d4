"""A script that its own engine runs whole: what only that engine can work out is in the rows."""

from __future__ import annotations

import hashlib
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, QueryFailure
from jentrow.core.engines.whole_scripts import ENGINE_OF, run_whole
from jentrow.core.errors import InvalidSample
from jentrow.core.results import ResultSet
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.exports import write_script
from jentrow.core.samples.making.dataset_files import make_dataset
from jentrow.core.samples.recipes import Recipe
from jentrow.core.samples.rows.pages import RowReader
from jentrow.core.samples.scripts.mariadb import without_delimiters
from jentrow.core.samples.scripts.own_place import for_a_place_of_its_own
from jentrow.core.samples.scripts.reading import read_script
from jentrow.core.samples.scripts.views import ONLY_ELSEWHERE
from jentrow.core.samples.sources import DatasetSource
from jentrow.services.runtime.engines import engine_named

POSTGRES = r"""BEGIN;
CREATE SCHEMA rivers;
SET search_path TO rivers, public;
CREATE TYPE look AS ENUM ('clear', 'brown');
CREATE SEQUENCE number START 100;
CREATE TABLE rivers.gauges (
  gauge_id integer PRIMARY KEY DEFAULT nextval('number'), code char(4) NOT NULL UNIQUE,
  name text NOT NULL CHECK (name ~ '^[A-Z]'), tags text[] NOT NULL DEFAULT '{}', info jsonb,
  look look DEFAULT 'brown', active boolean DEFAULT true, raw bytea, took interval, place point
);
CREATE FUNCTION doubled(n integer) RETURNS integer LANGUAGE sql AS $$ SELECT 2 * n; $$;
INSERT INTO gauges (code, name, tags, info, raw, took) VALUES
 ('A1', initcap('upper ford'), ARRAY['steep','cold'], '{"a": [1,2]}', '\x00ff', '1 day 65 min');
COPY rivers.gauges (code, name, active) FROM stdin;
B2	Back\\slash	f
\.
ALTER TABLE gauges RENAME COLUMN place TO spot;
CREATE TABLE readings (gauge_id integer REFERENCES gauges, day date, level numeric(6,2),
  level_cm numeric GENERATED ALWAYS AS (level * 100) STORED);
INSERT INTO readings SELECT 100, d, doubled(3) / 4.0
  FROM generate_series(date '2026-04-01', date '2026-04-03', interval '1 day') AS d;
UPDATE readings SET level = NULL WHERE day = '2026-04-02';
CREATE TABLE kinds AS SELECT DISTINCT look, length(code) AS letters FROM gauges WHERE active;
CREATE VIEW latest AS SELECT DISTINCT ON (gauge_id) * FROM readings ORDER BY gauge_id, day DESC;
CREATE VIEW dry AS SELECT day FROM readings WHERE level IS NULL;
GRANT SELECT ON gauges TO public;
COMMIT;
"""
MYSQL = r"""/*!40101 SET NAMES utf8mb4 */;
CREATE DATABASE IF NOT EXISTS `rivers`;
USE `rivers`;
CREATE TABLE `gauges` (
  `id` int unsigned NOT NULL AUTO_INCREMENT, `code` varchar(10) NOT NULL,
  `kind` enum('stream','brook') DEFAULT 'brook', `bits` bit(4) DEFAULT b'101', `raw` varbinary(8),
  `clock` time, `info` json, `level` decimal(8,3), `letters` int GENERATED ALWAYS AS (char_length(code)),
  PRIMARY KEY (`id`), UNIQUE KEY `c` (`code`)
) ENGINE=InnoDB AUTO_INCREMENT=7;
LOCK TABLES `gauges` WRITE;
INSERT INTO `rivers`.`gauges` (code, kind, raw, clock, info, level) VALUES
 ('A1', 'stream', 0xDEAD, MAKETIME(1, 2, 3), JSON_OBJECT('b', 2), ROUND(7/3, 3)), ('B\'2', DEFAULT, x'00ff', NULL, NULL, 1e-3);
UNLOCK TABLES;
INSERT IGNORE INTO gauges (code) VALUES ('A1');
REPLACE INTO gauges (id, code) VALUES (20, CONCAT('D', LPAD(4, 2, '0')));
CREATE TABLE tall LIKE gauges;
INSERT INTO tall (code, level) SELECT code, level FROM gauges WHERE level > 1;
"""
DUCKDB = r"""CREATE SEQUENCE number START 5;
CREATE TABLE main.huts (id INTEGER PRIMARY KEY DEFAULT nextval('number'), name VARCHAR NOT NULL,
  tags VARCHAR[], dims STRUCT(w INTEGER, h DOUBLE), raw BLOB, seen TIMESTAMPTZ, span INTERVAL,
  price DECIMAL(9,2), twice INTEGER AS (id * 2));
INSERT INTO huts (name, tags, dims, raw, seen, span, price) VALUES
  ('Col, hut', ['a', 'b c'], {'w': 1, 'h': 2.5}, '\xAA\xBB'::BLOB, TIMESTAMPTZ '2026-01-02 03:04:05.5+01', INTERVAL 3 DAY, 12.50);
INSERT INTO huts (name) SELECT 'n' || i FROM range(2) AS r(i);
CREATE MACRO more(x) AS x + 1;
UPDATE huts SET price = more(price) WHERE price IS NOT NULL;
CREATE TABLE counts AS SELECT name, length(name) AS letters FROM huts;
"""

WHOLE: dict[str, tuple[str, dict[str, list[tuple[Any, ...]]]]] = {
    "postgres": (POSTGRES, {
        "gauges": [
            (100, "A1", "Upper Ford", '["steep", "cold"]', '{"a": [1, 2]}', "brown", 1, b"\0\xff", "1 day 1 hour 5 minutes", None),
            (101, "B2", "Back\\slash", "[]", None, "brown", 0, None, None, None),
        ],
        "readings": [(100, "2026-04-01", 1.5, 150), (100, "2026-04-03", 1.5, 150), (100, "2026-04-02", None, None)],
        "kinds": [("brown", 2)],
        "dry": [("2026-04-02",)],
        "latest": [],
    }),
    "mysql": (MYSQL, {
        "gauges": [
            (7, "A1", "stream", 5, b"\xde\xad", "01:02:03", '{"b": 2}', 2.333, 2),
            (8, "B'2", "brook", 5, b"\0\xff", None, None, 0.001, 3),
            (20, "D04", "brook", 5, None, None, None, None, 3),
        ],
        "tall": [(1, "A1", "brook", 5, None, None, None, 2.333, 2)],
    }),
    "duckdb": (DUCKDB, {
        "huts": [
            (5, "Col, hut", '["a", "b c"]', '{"w":1,"h":2.5}', b"\xaa\xbb", "2026-01-02 02:04:05.5+00", "3 days", 13.5, 10),
            (6, "n0", None, None, None, None, None, None, 12),
            (7, "n1", None, None, None, None, None, None, 14),
        ],
        "counts": [("Col, hut", 8), ("n0", 2), ("n1", 2)],
    }),
}  # fmt: skip


@pytest.fixture(params=sorted(WHOLE), scope="module")
def own(request: pytest.FixtureRequest) -> Any:
    engine = engine_named(ENGINE_OF[request.param], workers=1)
    yield engine
    engine.close()


def made(engine: Engine, script: str, folder: Path) -> tuple[Dataset, list[str]]:
    path = folder / "script.sql"
    path.write_text(script, encoding="utf-8")
    recipe = Recipe(
        "script", path=str(path), dialect=engine.dialect, ran=run_whole(engine, script, folder)
    )
    said = make_dataset(recipe, folder / "made.db", lambda done, total: None)
    dataset = Dataset.adopt(folder / "dataset", folder / "made.db", "made")
    return dataset, [text for _, text, _ in said.left_out]


def as_its_content(folder: Path) -> Path:
    """The dataset's file under a name that stands for what is in it."""
    file = folder / "dataset" / "data.db"
    return file.rename(folder / f"{hashlib.sha256(file.read_bytes()).hexdigest()[:32]}.db")


def test_the_rows_are_as_the_engine_gives_them(own: Engine, tmp_path: Path) -> None:
    script, tables = WHOLE[own.dialect]
    dataset, left_out = made(own, script, tmp_path)
    assert {one.name for one in dataset.tables} == set(tables)
    found = {
        name: [row.values for row in RowReader(dataset).page(name, limit=10).rows]
        for name in tables
    }
    assert found == tables
    # What is in the rows is not told as left out; what the sample does not have is.
    assert not [text for text in left_out if text.startswith(("INSERT", "CREATE TABLE", "UPDATE"))]
    if own.dialect == "postgres":
        assert "VIEW latest" not in left_out
        assert dataset.table("gauges").columns[-1].name == "spot"
        assert dataset.table("gauges").primary_key == ("gauge_id",)


STAYS = """CREATE TABLE stays (id integer PRIMARY KEY, hut varchar(20), arrival date, nights integer,
  guests integer, price numeric(8,2));
INSERT INTO stays VALUES (1, 'Fell', '2026-05-30', 3, 2, 10.50), (2, 'fell', '2026-06-02', 5, 2, 20.25),
  (3, 'Tarn', '2026-06-09', 1, 4, NULL);
"""
VIEWS = {
    "postgres": [
        "SELECT id, nights / guests AS per FROM stays",
        "SELECT id FROM stays WHERE hut LIKE 'f%'",
        "SELECT date_trunc('month', arrival)::date AS m, count(*)\n\nFROM stays -- by month; each\nGROUP BY 1",
        "SELECT extract(year from arrival) AS y, sum(price) AS s FROM stays GROUP BY 1",
        "SELECT string_agg(hut, ', ' ORDER BY id) AS huts FROM public.stays",
        "SELECT arrival + interval '1 day' AS d FROM stays",
        "SELECT to_char(arrival, 'YYYY-MM') AS m FROM stays",
    ],
    "mysql": [
        "SELECT id, nights / guests AS per, nights DIV guests AS d FROM stays",
        "SELECT id FROM stays WHERE hut = 'fell'",
        "SELECT YEAR(arrival) AS y, IFNULL(price, 0) AS p FROM stays",
        "SELECT CONCAT(hut, id) AS c, IF(nights > 2, 'long', 'short') AS l FROM stays",
        "SELECT DATE_ADD(arrival, INTERVAL nights DAY) AS d FROM stays",
    ],
    "duckdb": [
        "SELECT nights // guests AS d FROM stays",
        "SELECT list(hut) AS l FROM stays",
        "SELECT * EXCLUDE (price) FROM stays",
        "SELECT hut, count(*) FROM stays GROUP BY ALL",
        "SELECT median(nights) AS m FROM stays",
    ],
}


@pytest.mark.parametrize(
    ("dialect", "view"), [(dialect, view) for dialect, views in VIEWS.items() for view in views]
)
def test_a_view_gives_on_its_own_engine_what_its_author_meant(
    dialect: str, view: str, tmp_path: Path
) -> None:
    engine = engine_named(ENGINE_OF[dialect], workers=1)
    script = f"{STAYS}CREATE VIEW seen AS {view};\nCREATE VIEW over_it AS SELECT * FROM seen;\n"
    dataset, left_out = made(engine, script, tmp_path)
    assert not left_out
    exported = tmp_path / "exported.sql"
    write_script(dataset, exported)
    plain = for_a_place_of_its_own(script, dialect)
    written = engine.load(DatasetSource("written", plain, keep_rows=True, as_written=True))
    again = exported.read_text(encoding="utf-8")
    for kept in (
        DatasetSource("kept", "", database=as_its_content(tmp_path)),
        DatasetSource("exported", again, keep_rows=True),
    ):
        loaded = engine.load(kept)
        for name in ("seen", "over_it"):
            wanted, found = (
                engine.run(one, f"SELECT * FROM {name}", Limits()) for one in (written, loaded)
            )
            assert isinstance(wanted, ResultSet)
            assert isinstance(found, ResultSet), found
            assert [one.name for one in found.columns] == [one.name for one in wanted.columns]
            assert sorted(map(repr, found.rows)) == sorted(map(repr, wanted.rows))
    engine.close()


def test_a_view_that_only_another_engine_reads_has_columns_and_a_note(tmp_path: Path) -> None:
    engine = engine_named("duckdb", workers=1)
    script = f"{STAYS}CREATE VIEW seen AS SELECT * EXCLUDE (price) FROM stays;"
    path = tmp_path / "script.sql"
    path.write_text(script, encoding="utf-8")
    recipe = Recipe(
        "script", path=str(path), dialect="duckdb", ran=run_whole(engine, script, tmp_path)
    )
    said = make_dataset(recipe, tmp_path / "made.db", lambda done, total: None)
    engine.close()
    assert said.table_notes == {"seen": {"note": ONLY_ELSEWHERE}}
    assert said.notes == (f"The view seen: {ONLY_ELSEWHERE}",)
    assert "--   CREATE VIEW seen AS SELECT * EXCLUDE (price) FROM stays" in said.schema
    dataset = Dataset.adopt(tmp_path / "dataset", tmp_path / "made.db", "made")
    assert [one.name for one in dataset.table("seen").columns] == [
        "id", "hut", "arrival", "nights", "guests",
    ]  # fmt: skip
    assert [one.name for one in dataset.tables if one.stands_in] == ["seen"]
    # Nothing is made of it where no words of it are understood: the tables are there all the same.
    other = engine_named("postgresql", workers=1)
    loaded = other.load(DatasetSource("kept", "", database=as_its_content(tmp_path)))
    assert isinstance(other.run(loaded, "SELECT count(*) FROM stays", Limits()), ResultSet)
    failure = other.run(loaded, "SELECT * FROM seen", Limits())
    other.close()
    assert isinstance(failure, QueryFailure)
    assert failure.code == "sql.object"


def test_what_it_does_not_take_is_told_with_its_line(own: Engine, tmp_path: Path) -> None:
    script = WHOLE[own.dialect][0]
    broken = f"{script}INSERT INTO nowhere\nVALUES (1);\n"
    with pytest.raises(InvalidSample, match=f"^line {script.count(chr(10)) + 1}: .*nowhere"):
        run_whole(own, broken, tmp_path)


def test_a_type_that_a_script_made_has_no_number_for_a_name() -> None:
    engine = engine_named("postgresql", workers=1)
    script = "CREATE TYPE look AS ENUM ('clear'); CREATE TABLE rivers (look look, length int);"
    outcome = engine.run(
        engine.load(DatasetSource("rivers", script)), "SELECT * FROM rivers", Limits()
    )
    engine.close()
    assert isinstance(outcome, ResultSet)
    assert [one.declared for one in outcome.columns] == ["", "int4"]


def test_a_script_that_only_the_parser_reads_is_not_run_whole(own: Engine, tmp_path: Path) -> None:
    # SQLite takes it, and so the same sample could be loaded by what is read of it.
    foreign = "CREATE TABLE huts (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT);"
    with pytest.raises(InvalidSample, match=r"^line 1: "):
        run_whole(own, foreign, tmp_path)


@pytest.mark.parametrize("dialect", sorted(WHOLE))
def test_what_sets_up_a_server_goes_and_each_line_stays(dialect: str) -> None:
    script = WHOLE[dialect][0]
    text = for_a_place_of_its_own(script, dialect)
    assert text.count("\n") == script.count("\n")
    for word in (
        "SCHEMA",
        "DATABASE",
        "USE ",
        "GRANT",
        "LOCK ",
        "search_path",
        "stdin",
        "main.huts",
        "rivers.",
    ):
        assert word not in text
    assert "gauges" in text or "huts" in text


PROGRAMS = """CREATE TABLE huts (id INT PRIMARY KEY, name VARCHAR(20), beds INT);
DELIMITER //
CREATE TRIGGER full BEFORE INSERT ON huts FOR EACH ROW
BEGIN
  SET NEW.beds = NEW.beds + 1;
END //
CREATE TABLE stays (hut INT)//
delimiter ;
INSERT INTO huts VALUES (1, 'Auk; //', 4);
DELIMITER ;;
/*!50003 CREATE*/ /*!50003 TRIGGER again BEFORE UPDATE ON huts FOR EACH ROW SET NEW.beds = 0 */;;
DELIMITER ;
INSERT INTO stays VALUES (1);
INSERT INTO nowhere VALUES (1);
"""


def test_programs_between_delimiters_are_left_out_and_named_with_their_line() -> None:
    """What ends a statement is another sign there: the semicolons inside end nothing."""
    text, programs = without_delimiters(PROGRAMS)
    assert text.count("\n") == PROGRAMS.count("\n")
    assert [(line, said.split()[0]) for line, said in programs] == [(3, "CREATE"), (11, "/*!50003")]
    assert "DELIMITER" not in text.upper()
    assert "CREATE TABLE stays (hut INT);" in text
    assert "'Auk; //'" in text
    read = read_script(PROGRAMS, "mysql")
    assert [table.name for table in read.tables] == ["huts", "stays"]
    assert [(one.line, one.why) for one in read.left_out if "program" in one.why] == [
        (3, "it is a program of the server: rows of a sample change only as you change them"),
        (11, "it is a program of the server: rows of a sample change only as you change them"),
    ]


def test_a_script_with_programs_is_run_whole_without_them(tmp_path: Path) -> None:
    engine = engine_named("mariadb", workers=1)
    try:
        with pytest.raises(InvalidSample, match=r"^line 14: .*nowhere"):
            run_whole(engine, PROGRAMS, tmp_path)
        script = PROGRAMS.replace("INSERT INTO nowhere VALUES (1);", "")
        dataset, left_out = made(engine, script, tmp_path)
    finally:
        engine.close()
    assert RowReader(dataset).page("huts", limit=10).rows[0].values == (1, "Auk; //", 4)
    assert len(RowReader(dataset).page("stays", limit=10).rows) == 1
    assert sum("TRIGGER" in one for one in left_out) == 2


NAMES = st.sampled_from(["public", "rivers", "gauges", '"public"', '"a.b"', "'public.x'", "x"])


@given(names=st.lists(NAMES, min_size=1, max_size=6), quiet=st.booleans())
def test_only_names_of_schemas_go(names: list[str], quiet: bool) -> None:
    script = f"SELECT {', '.join(names)} FROM public.gauges{'' if quiet else ' -- public.x'}"
    text = for_a_place_of_its_own(script, "postgres")
    assert text == script.replace("FROM public.gauges", "FROM gauges")
