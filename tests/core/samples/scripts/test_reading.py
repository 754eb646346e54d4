from __future__ import annotations

from datetime import UTC, datetime, timedelta
from pathlib import Path

import apsw
import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.making.dataset_files import make_dataset
from jentrow.core.samples.making.unfinished import CannotMake
from jentrow.core.samples.recipes import Recipe
from jentrow.core.samples.rows.pages import RowReader
from jentrow.core.samples.schema.ddl import create_table
from jentrow.core.samples.schema.problems import schema_problems
from jentrow.core.samples.schema.tables import ColumnSchema, ForeignKey, TableSchema, read_schema
from jentrow.core.samples.scripts.dialects import guess_dialect
from jentrow.core.samples.scripts.reading import read_script
from jentrow.core.samples.scripts.tables import with_parent_keys

POSTGRES = """\
SET client_encoding = 'UTF8';
CREATE TABLE public.rivers (
    river_id integer NOT NULL,
    name character varying(30) NOT NULL,
    noted timestamp with time zone DEFAULT now()
);
CREATE TABLE public.weirs (
    code text PRIMARY KEY,
    river_id integer,
    height numeric(4,1) CHECK (height > 0),
    UNIQUE (river_id, height)
);
COPY public.rivers (river_id, name) FROM stdin;
1\tLind\\tnorth
2\tO'Sarn
3\t\\N
\\.
INSERT INTO public.weirs VALUES ('W1', 1, 2.5), ('W2', NULL, NULL);
ALTER TABLE ONLY public.rivers ADD CONSTRAINT rivers_pkey PRIMARY KEY (river_id);
ALTER TABLE ONLY public.weirs
    ADD CONSTRAINT weirs_river FOREIGN KEY (river_id) REFERENCES public.rivers ON DELETE SET NULL;
CREATE INDEX weirs_by_river ON public.weirs USING btree (river_id);
GRANT SELECT ON public.rivers TO anyone;
"""
MYSQL = """\
CREATE TABLE `rivers` (
  `river_id` int(11) NOT NULL AUTO_INCREMENT,
  `kind` enum('brook','stream') DEFAULT 'brook',
  `wet` tinyint(1) NOT NULL DEFAULT '1',
  PRIMARY KEY (`river_id`),
  KEY `by_kind` (`kind`)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;
LOCK TABLES `rivers` WRITE;
INSERT INTO `rivers` VALUES (1,'stream',0),(2,'brook',1);
UNLOCK TABLES;
"""


def made(tmp_path: Path, script: str, dialect: str) -> tuple[Dataset, list[str], list[str]]:
    path = tmp_path / "script.sql"
    path.write_text(script, encoding="utf-8")
    file = tmp_path / "made.db"
    said = make_dataset(
        Recipe("script", path=str(path), dialect=dialect), file, lambda done, total: None
    )
    dataset = Dataset.adopt(tmp_path / "dataset", file, "made")
    return dataset, [text for _, text, _ in said.left_out], list(said.notes)


def rows_of(dataset: Dataset, table: str) -> list[tuple[object, ...]]:
    return [tuple(row.values) for row in RowReader(dataset).page(table).rows]


def test_a_dump_of_another_server(tmp_path: Path) -> None:
    assert guess_dialect(POSTGRES) == "postgres"
    script = POSTGRES.replace("3\t\\N\n", "")
    dataset, left_out, notes = made(tmp_path, script, "postgres")
    rivers, weirs = dataset.table("rivers"), dataset.table("weirs")
    assert rivers.primary_key == ("river_id",)
    assert [column.type for column in rivers.columns] == [
        "INTEGER", "VARCHAR(30)", "TIMESTAMP WITH TIME ZONE",
    ]  # fmt: skip
    assert weirs.foreign_keys == (
        ForeignKey(("river_id",), "rivers", ("river_id",), "SET NULL", "NO ACTION"),
    )
    assert weirs.uniques == (("river_id", "height"),)
    assert weirs.checks == ("height > 0",)
    with dataset.reading() as db:
        assert list(db.execute("SELECT river_id, name FROM rivers")) == [
            (1, "Lind\tnorth"),
            (2, "O'Sarn"),
        ]
        assert list(db.execute("SELECT * FROM weirs")) == [("W1", 1, 2.5), ("W2", None, None)]
    assert any(text.startswith("SET client_encoding") for text in left_out)
    assert any(text.startswith("GRANT") for text in left_out)
    assert notes == []


def test_a_dump_with_a_null_where_none_may_be_names_the_statement(tmp_path: Path) -> None:
    with pytest.raises(CannotMake, match=r"line 13: NOT NULL constraint failed: rivers\.name"):
        made(tmp_path, POSTGRES, "postgres")


def test_backticks_and_engine_options(tmp_path: Path) -> None:
    assert guess_dialect(MYSQL) == "mysql"
    dataset, left_out, _ = made(tmp_path, MYSQL, "mysql")
    table = dataset.table("rivers")
    assert [column.type for column in table.columns] == ["INTEGER", "ENUM_TEXT", "BOOLEAN"]
    assert table.checks == ("\"kind\" IN ('brook', 'stream')",)
    with dataset.reading() as db:
        assert list(db.execute("SELECT * FROM rivers")) == [(1, "stream", 0), (2, "brook", 1)]
    assert any("ENGINE" in text for text in left_out)
    assert any(text.startswith("LOCK TABLES") for text in left_out)


def test_what_cannot_be_read_is_left_out_and_the_rest_kept() -> None:
    read = read_script(
        "CREATE TABLE a (x int);\nCREATE GARBAGE (((;\nINSERT INTO a VALUES (1);", "postgres"
    )
    assert [table.name for table in read.tables] == ["a"]
    assert [line for line, _ in read.statements] == [3]
    assert [one.line for one in read.left_out] == [2]


def test_tables_kept_without_row_numbers_and_triggers(tmp_path: Path) -> None:
    script = """
        CREATE TABLE codes (code TEXT PRIMARY KEY, n INT CHECK (n > 0)) WITHOUT ROWID;
        INSERT INTO codes VALUES ('a', 1);
        CREATE INDEX by_n ON codes (n);
        CREATE TRIGGER t AFTER INSERT ON codes BEGIN DELETE FROM codes; END;
        INSERT INTO codes VALUES ('b', 2);
    """
    dataset, left_out, notes = made(tmp_path, script, "sqlite")
    with dataset.reading() as db:
        assert list(db.execute("SELECT rowid, * FROM codes")) == []
        names = {name for (name,) in db.execute("SELECT name FROM sqlite_schema")}
    assert names == {"codes", "by_n", "sqlite_autoindex_codes_1"}
    assert left_out == ["TRIGGER t"]
    assert "codes" in notes[0]


@pytest.mark.parametrize(
    ("script", "words"),
    [
        ("CREATE TABLE a (x);\nINSERT INTO b VALUES (1);", "script.sql, line 2: no such table: b"),
        ("CREATE TABLE a (x PRIMARY KEY);\nINSERT INTO a VALUES (NULL);", "the key is NULL in row"),
        ("SELECT 1;", "there is no table in it"),
        ('CREATE TABLE "a/b" (x);', "the table 'a/b': its name is to be a file's name too"),
        ("ATTACH 'x.db' AS x;", "not authorized"),
        ("CREATE TABLE a (x);\nINSERT INTO a SELECT load_extension('x');", "not authorized"),
    ],
)
def test_a_script_that_does_not_run_says_where(tmp_path: Path, script: str, words: str) -> None:
    with pytest.raises(CannotMake, match=words):
        made(tmp_path, script, "sqlite")


def test_broken_foreign_keys_are_told_not_refused(tmp_path: Path) -> None:
    script = "CREATE TABLE p (a INTEGER PRIMARY KEY); CREATE TABLE c (a REFERENCES p (a)); "
    _, _, notes = made(tmp_path, script + "INSERT INTO c VALUES (1), (2), (NULL);", "sqlite")
    assert notes == ["2 rows of c refer to a row of p that is not there (first: row 1)."]


names = st.text("abç d'\"xé", min_size=1, max_size=6).filter(lambda text: text.strip())


@given(st.lists(names, min_size=1, max_size=4, unique_by=str.lower), st.data())
def test_a_table_written_as_ddl_reads_back_the_same(
    columns: list[str], data: st.DataObject
) -> None:
    key = data.draw(st.lists(st.sampled_from(columns), unique=True, max_size=2))
    table = TableSchema(
        "order",
        tuple(
            ColumnSchema(
                name,
                data.draw(st.sampled_from(["INTEGER", "DECIMAL(8,2)", "TEXT", "DATE", ""])),
                data.draw(st.booleans()),
                data.draw(st.sampled_from([None, "1", "'it''s'", "NULL", "-2.5"])),
                collation=data.draw(st.sampled_from(["", "NOCASE"])),
            )
            for name in columns
        ),
        primary_key=tuple(key),
        uniques=((columns[0],),) if data.draw(st.booleans()) and columns[:1] != key else (),
        checks=("1 > 0",),
    )
    assert schema_problems([table]) == []
    db = apsw.Connection(":memory:")
    db.execute(create_table(table))
    assert read_schema(db) == [table]


def test_every_problem_of_a_made_up_schema_is_named_at_once() -> None:
    table = TableSchema(
        "a",
        (ColumnSchema("x", "INT; DROP"), ColumnSchema("x"), ColumnSchema("d", default="1 +")),
        primary_key=("y",),
        foreign_keys=(ForeignKey(("x",), "nowhere", ("z",)),),
        checks=("x > 0; DROP TABLE a", ""),
    )
    words = " ".join(schema_problems([table]))
    for part in (
        "is no type",
        "two columns have the same name",
        "the default cannot be read",
        "names the column 'y'",
        "'nowhere', and there is no such table",
        "the check 'x > 0; DROP TABLE a' cannot be read",
        "it is empty",
    ):
        assert part in words


def test_a_key_that_names_no_columns_means_the_parent_s() -> None:
    read = read_script(
        "CREATE TABLE p (a int PRIMARY KEY); CREATE TABLE c (b int REFERENCES p)", "postgres"
    )
    assert with_parent_keys(read.tables)[1].foreign_keys[0].to == ("a",)


@pytest.mark.parametrize(
    ("dialect", "value"),
    [
        ("tsql", "N'2026-01-31'"),
        ("oracle", "TO_DATE('2026-01-31', 'YYYY-MM-DD')"),
        ("oracle", "DATE '2026-01-31'"),
    ],
)
def test_a_text_of_another_dialect_is_the_text_itself(dialect: str, value: str) -> None:
    read = read_script(f"CREATE TABLE seen (at DATE); INSERT INTO seen VALUES ({value});", dialect)
    assert [sql for _, sql in read.statements] == [
        "INSERT INTO seen (\"at\") VALUES ('2026-01-31')"
    ]
    assert not read.left_out


NOTED = {
    "tsql": """\
CREATE TABLE dbo.rivers (river_id int PRIMARY KEY, name nvarchar(40))
GO
EXEC sys.sp_addextendedproperty @name=N'MS_Description', @value=N'Where water''s gauged',
  @level0type=N'SCHEMA', @level0name=N'dbo', @level1type=N'TABLE', @level1name=N'rivers'
GO
EXEC sys.sp_addextendedproperty @name=N'MS_Description', @value=N'as on the map',
  @level0type=N'SCHEMA', @level0name=N'dbo', @level1type=N'TABLE', @level1name=N'rivers',
  @level2type=N'COLUMN', @level2name=N'name'
""",
    "postgres": """\
CREATE TABLE public.rivers (river_id integer PRIMARY KEY, name text);
COMMENT ON TABLE public.rivers IS 'Where water''s gauged';
COMMENT ON COLUMN public.rivers.name IS 'as on the map';
COMMENT ON COLUMN public.weirs.name IS 'of another script';
""",
    "mysql": """\
CREATE TABLE `rivers` (`river_id` int PRIMARY KEY, `name` text COMMENT 'as on the map')
    COMMENT='Where water''s gauged';
""",
}


@pytest.mark.parametrize("dialect", NOTED)
def test_what_a_script_notes_on_tables_and_columns_is_noted(tmp_path: Path, dialect: str) -> None:
    path = tmp_path / "script.sql"
    path.write_text(NOTED[dialect], encoding="utf-8")
    said = make_dataset(
        Recipe("script", path=str(path), dialect=dialect), tmp_path / "made.db", lambda *_: None
    )
    notes = {"note": "Where water's gauged", "columns": {"name": "as on the map"}}
    assert said.table_notes == {"rivers": notes}
    assert [why for _, _, why in said.left_out] == ["it makes no table and no row"] * (
        dialect == "postgres"
    )


TRUTHS = """\
CREATE TABLE public.weirs (code text PRIMARY KEY, is_open boolean, since date DEFAULT now());
COPY public.weirs (code, is_open) FROM stdin;
W1\tt
W2\tf
W3\t\\N
\\.
"""


def test_truths_of_a_dump_are_truths(tmp_path: Path) -> None:
    dataset, _, _ = made(tmp_path, TRUTHS, "postgres")
    with dataset.reading() as db:
        assert list(db.execute("SELECT code FROM weirs WHERE is_open")) == [("W1",)]
        assert list(db.execute("SELECT code FROM weirs WHERE NOT is_open")) == [("W2",)]


VALUES = [
    ("postgres", "timestamp", "CAST('2026-06-01T08:00:00.5000000' AS timestamp)", "2026-06-01 08:00:00.5"),
    ("tsql", "DATETIME2", "CAST(N'2026-06-01T08:00:00.0000000' AS DATETIME2)", "2026-06-01 08:00:00"),
    ("tsql", "DATE", "CONVERT(DATE, N'2026-06-01', 23)", "2026-06-01"),
    ("oracle", "DATE", "TO_DATE('01.06.2026', 'DD.MM.YYYY')", "2026-06-01"),
    ("oracle", "INTERVAL YEAR(2) TO MONTH", "INTERVAL '1-2' YEAR TO MONTH", "1 year 2 months"),
    ("oracle", "INTERVAL DAY(2) TO SECOND(6)", "INTERVAL '-3 02:30:00' DAY TO SECOND", "-3 days -02:30:00"),
    ("oracle", "VARCHAR2(30 BYTE)", "q'[it's]'", "it's"),
    ("mysql", "TIME", "TIME '36:30:00'", "36:30:00"),
    ("mysql", "BIT(3)", "b'101'", 5),
    ("mysql", "BIGINT", "-7", -7),
    ("mysql", "JSON", "JSON_OBJECT('a', 1.50, 'b', NULL)", '{"a": 1.50, "b": null}'),
    ("postgres", "bit varying(5)", "B'101'", "101"),
    ("postgres", "text", "E'two\\nlines'", "two\nlines"),
    ("postgres", "bytea", "decode('48AF', 'hex')", b"H\xaf"),
    ("postgres", "text[]", "ARRAY['a', NULL, 'b, c']::text[]", '["a", null, "b, c"]'),
    ("postgres", "integer[][]", "'{{1,2},{3,4}}'", "[[1, 2], [3, 4]]"),
    ("postgres", "numeric[]", "ARRAY[]::numeric[]", "[]"),
    ("duckdb", "STRUCT(x DOUBLE, tags VARCHAR[])", "{'x': 1.50, 'tags': ['a']}", '{"x": 1.50, "tags": ["a"]}'),
    ("duckdb", "INTERVAL", "to_hours(3)", "3 hours"),
    ("duckdb", "UUID", "'5B0C3F7E-2D41-4C8A-9F06-1E7A8D2B6C90'", "5b0c3f7e-2d41-4c8a-9f06-1e7a8d2b6c90"),
]  # fmt: skip


@pytest.mark.parametrize(("dialect", "declared", "written", "value"), VALUES)
def test_a_value_of_another_dialect_keeps_its_meaning(
    tmp_path: Path, dialect: str, declared: str, written: str, value: object
) -> None:
    script = f"CREATE TABLE t (one {declared});\nINSERT INTO t VALUES ({written});"
    dataset, _, _ = made(tmp_path, script, dialect)
    with dataset.reading() as db:
        assert list(db.execute("SELECT one FROM t")) == [(value,)]


def test_defaults_and_types_of_the_script_s_own(tmp_path: Path) -> None:
    script = """
        CREATE TYPE tone AS ENUM ('calm', 'it''s wild');
        CREATE DOMAIN metres AS integer NOT NULL DEFAULT 7 CHECK (VALUE BETWEEN 0 AND 9);
        CREATE TABLE t (id int PRIMARY KEY, tone tone, depth metres, tags text[] DEFAULT '{a}');
        INSERT INTO t VALUES (1, 'it''s wild', DEFAULT, DEFAULT);
    """
    dataset, left_out, _ = made(tmp_path, script, "postgres")
    table = dataset.table("t")
    assert left_out == []
    assert [column.type for column in table.columns] == [
        "INTEGER",
        "ENUM_TEXT",
        "INTEGER",
        "TEXT[]",
    ]
    assert table.column("depth").not_null
    assert table.checks == (
        "\"tone\" IN ('calm', 'it''s wild')",
        '"depth" BETWEEN 0 AND 9',
    )
    with dataset.reading() as db:
        assert list(db.execute("SELECT * FROM t")) == [(1, "it's wild", 7, '["a"]')]


@pytest.mark.parametrize(
    ("script", "dialect"),
    [
        ("CREATE TABLE t (a jsonb)", "postgres"),
        ("CREATE TYPE tone AS ENUM ('calm')", "postgres"),
        ("CREATE TABLE t (a text[])", "postgres"),
        ("CREATE TABLE t (a UBIGINT, b VARCHAR[])", "duckdb"),
        ("CREATE TABLE t (a STRUCT(x INTEGER))", "duckdb"),
        ("CREATE TABLE t (a UNIQUEIDENTIFIER)", "tsql"),
        ("CREATE TABLE t (a DATETIME2(3))", "tsql"),
        ("CREATE TABLE t (a DATE, b TEXT)", "sqlite"),
    ],
)
def test_a_script_s_dialect_is_told_by_its_types(script: str, dialect: str) -> None:
    assert guess_dialect(script) == dialect


WORKED_OUT = {
    "tsql": r"""USE rivers;
GO
CREATE SEQUENCE dbo.s START WITH 5 INCREMENT BY 2;
CREATE TABLE [dbo].[gauges] ([id] INT NOT NULL PRIMARY KEY CLUSTERED, [code] NVARCHAR(10) UNIQUE NONCLUSTERED,
  [built] DATETIME2, [price] MONEY, [words] NVARCHAR(40));
GO
INSERT INTO [dbo].[gauges] VALUES (NEXT VALUE FOR dbo.s, N'A''1', CONVERT(DATETIME, '20260102', 112), $12.50, N'costs $5, ' + N'or so');
INSERT [dbo].[gauges] ([id], [code], [built]) VALUES (NEXT VALUE FOR dbo.s, CONCAT('B', N'2'), '20260103 08:30:00');
INSERT INTO dbo.gauges (id, built) VALUES (NEXT VALUE FOR dbo.s, GETDATE() - 1);
CREATE VIEW dbo.odd AS SELECT DATALENGTH(code) AS n FROM dbo.gauges;
GO
""",
    "oracle": r"""CREATE SEQUENCE s START WITH 5 INCREMENT BY 2;
CREATE TABLE gauges (id NUMBER(10) PRIMARY KEY, code VARCHAR2(10) UNIQUE, built DATE, price NUMBER(8,2), words VARCHAR2(40));
INSERT INTO gauges VALUES (s.NEXTVAL, 'A''1', TO_DATE('2026-01-02', 'YYYY-MM-DD'), 12.5, 'costs $5, ' || 'or so');
INSERT ALL INTO gauges (id, code, built) VALUES (s.NEXTVAL, 'B' || 2, TIMESTAMP '2026-01-03 08:30:00') SELECT * FROM dual;
/
INSERT INTO gauges (id, built) SELECT 9, SYSDATE - 1 FROM dual;
CREATE VIEW odd AS SELECT ROWNUM AS n FROM gauges;
/
""",
}  # fmt: skip


@pytest.mark.parametrize("dialect", sorted(WORKED_OUT))
def test_what_a_server_works_out_is_worked_out_here(tmp_path: Path, dialect: str) -> None:
    dataset, left_out, _ = made(tmp_path, WORKED_OUT[dialect], dialect)
    rows = [row.values for row in RowReader(dataset).page("gauges").rows]
    assert rows[:2] == [
        (5, "A'1", "2026-01-02", 12.5, "costs $5, or so"),
        (7, "B2", "2026-01-03 08:30:00", None, None),
    ]
    yesterday = datetime.now(UTC) - timedelta(days=1)
    assert abs(datetime.fromisoformat(f"{rows[2][2]}+00:00") - yesterday) < timedelta(minutes=5)
    assert "VIEW odd" in left_out
    assert [one.name for one in dataset.tables] == ["gauges"]


def test_a_condition_that_sqlite_does_not_know_goes_and_the_table_stays(tmp_path: Path) -> None:
    script = "CREATE TABLE gauges (code text CHECK (code ~ '^A'), n int DEFAULT 1); INSERT INTO gauges (code) VALUES ('A1')"
    dataset, left_out, _ = made(tmp_path, script, "postgres")
    (row,) = RowReader(dataset).page("gauges").rows
    assert row.values[0] == "A1"
    assert "of the table gauges" in left_out


@pytest.mark.parametrize(
    ("dialect", "more"),
    [
        ("mysql", "CREATE TABLE tall LIKE gauges"),
        ("postgres", "CREATE TABLE tall (LIKE gauges INCLUDING ALL)"),
        ("postgres", "CREATE TABLE tall () INHERITS (gauges)"),
        ("postgres", "CREATE TABLE tall PARTITION OF gauges DEFAULT"),
    ],
)
def test_a_table_may_be_like_another(tmp_path: Path, dialect: str, more: str) -> None:
    script = (
        f"CREATE TABLE gauges (a INT PRIMARY KEY, b TEXT); {more}; INSERT INTO tall VALUES (1, 'x')"
    )
    dataset, _, _ = made(tmp_path, script, dialect)
    assert [one.name for one in dataset.table("tall").columns] == ["a", "b"]
    assert [row.values for row in RowReader(dataset).page("tall").rows] == [(1, "x")]


def test_a_table_without_columns_is_left_out(tmp_path: Path) -> None:
    dataset, left_out, _ = made(tmp_path, "CREATE TABLE a (x int); CREATE TABLE b ();", "postgres")
    assert [one.name for one in dataset.tables] == ["a"]
    assert left_out == ["CREATE TABLE b ()"]


def test_an_index_that_replaces_one_is_made_as_any_other() -> None:
    script = "CREATE TABLE huts (name INT); CREATE OR REPLACE INDEX by_name ON huts (name);"
    (made,) = read_script(script, "mysql").indexes
    assert made[1].startswith("CREATE INDEX by_name ON huts")


def test_a_timestamp_of_a_script_that_fills_it_is_a_moment() -> None:
    """In T-SQL the word is a row's version, which nobody fills in."""
    script = (
        "CREATE TABLE dives (dive_no INT, begun TIMESTAMP NOT NULL, ended timestamp(3) NULL,\n"
        "  logged TIMESTAMP WITH TIME ZONE, timestamp INT, changed ROWVERSION);\n"
        "ALTER TABLE dives ADD seen TIMESTAMP"
    )
    found = read_script(script, "tsql")
    types = {one.name: one.type for one in found.tables[0].columns}
    assert types == {
        "dive_no": "INTEGER", "begun": "TIMESTAMP", "ended": "TIMESTAMP",
        "logged": "TIMESTAMP WITH TIME ZONE", "timestamp": "INTEGER", "changed": "TEXT",
        "seen": "TIMESTAMP",
    }  # fmt: skip
    assert [one.text for one in found.left_out] == ["ROWVERSION"]
