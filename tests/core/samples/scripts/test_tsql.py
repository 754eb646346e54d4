"""Scripts in T-SQL as they are written, and as programs write them."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.samples.scripts.dialects import guess_dialect
from jentrow.core.samples.scripts.reading import read_script
from jentrow.core.samples.scripts.reasons import is_lost
from jentrow.core.samples.scripts.tsql import separated
from tests.core.samples.scripts.test_reading import made, rows_of

BY_HAND = """\
USE huts
GO
SET NOCOUNT ON
IF OBJECT_ID('dbo.stays') IS NOT NULL DROP TABLE dbo.stays
IF OBJECT_ID('dbo.huts') IS NOT NULL
BEGIN
  DROP TABLE dbo.huts
END
go
CREATE TABLE huts (
  hut_id INT IDENTITY PRIMARY KEY,
  name NVARCHAR(40) NOT NULL,
  opened DATE
)
CREATE TABLE stays (
  hut_id INT NOT NULL FOREIGN KEY REFERENCES huts(hut_id) ON DELETE CASCADE,
  guest VARCHAR(20), nights INT
)
INSERT INTO huts VALUES (N'Karr''s; GO', '20240501')
INSERT huts (name) VALUES ('Low Fir')   -- no day is known
INSERT INTO stays
  SELECT 1, 'Ada' + ' N.', 2
  UNION ALL
  SELECT 2, CASE WHEN 1 = 1 THEN 'Bo' ELSE 'Cy' END, NULL
UPDATE stays SET nights = 3 WHERE nights IS NULL
ALTER TABLE huts ADD beds INT NULL
UPDATE huts SET beds = 12, name = name + N'!' WHERE hut_id = 2
DELETE stays WHERE guest = 'nobody'
PRINT 'filled'
SELECT * FROM huts
EXEC sp_help huts
GO
CREATE VIEW long_stays AS SELECT guest FROM stays WHERE nights > 2
GO
CREATE PROCEDURE clear AS
BEGIN
  DELETE FROM stays;
  DELETE FROM huts;
END
GO
"""

BY_A_PROGRAM = """\
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
CREATE TABLE [dbo].[huts](
\t[hut_id] [int] IDENTITY(100,10) NOT NULL,
\t[name] [nvarchar](40) COLLATE Latin1_General_CI_AS NOT NULL,
\t[price] [decimal](8, 2) NULL,
\t[open] [bit] NOT NULL,
\t[seen] [datetime2](7) NULL,
 CONSTRAINT [PK_huts] PRIMARY KEY CLUSTERED
(
\t[hut_id] ASC
)WITH (PAD_INDEX = OFF, STATISTICS_NORECOMPUTE = OFF, ALLOW_ROW_LOCKS = ON) ON [PRIMARY],
 CONSTRAINT [UQ_huts] UNIQUE NONCLUSTERED ([name] DESC)
) ON [PRIMARY] TEXTIMAGE_ON [PRIMARY]
GO
CREATE TABLE [dbo].[stays]([hut_id] [int] NULL, [guest] [varchar](20) SPARSE NULL) ON [PRIMARY]
GO
SET IDENTITY_INSERT [dbo].[huts] ON
INSERT [dbo].[huts] ([hut_id], [name], [price], [open], [seen]) VALUES (1, N'Kar', CAST(12.50 AS Decimal(8, 2)), 1, CAST(N'2024-05-01T10:00:00.0000000' AS DateTime2))
INSERT [dbo].[huts] ([hut_id], [name], [price], [open], [seen]) VALUES (2, N'Fir', NULL, 0, CAST(0x0000901A00A4CB80 AS DateTime))
SET IDENTITY_INSERT [dbo].[huts] OFF
INSERT [dbo].[stays] ([hut_id], [guest]) VALUES (2, N'Ada')
GO
CREATE UNIQUE NONCLUSTERED INDEX [IX_huts] ON [dbo].[huts] ([seen] ASC) INCLUDE ([price]) WITH (FILLFACTOR = 80) ON [PRIMARY]
GO
ALTER TABLE [dbo].[huts] ADD  CONSTRAINT [DF_open]  DEFAULT ((1)) FOR [open]
GO
ALTER TABLE [dbo].[stays]  WITH CHECK ADD  CONSTRAINT [FK_stays] FOREIGN KEY([hut_id])
REFERENCES [dbo].[huts] ([hut_id])
GO
ALTER TABLE [dbo].[stays] CHECK CONSTRAINT [FK_stays]
GO
ALTER TABLE [dbo].[huts]  WITH NOCHECK ADD CHECK (([price]>=(0)))
GO
EXEC sys.sp_addextendedproperty @name=N'MS_Description', @value=N'x', @level0type=N'SCHEMA',@level0name=N'dbo'
GO
"""


def test_statements_without_semicolons(tmp_path: Path) -> None:
    assert guess_dialect(BY_HAND) == "tsql"
    dataset, left_out, _ = made(tmp_path, BY_HAND, "tsql")
    assert [one.name for one in dataset.tables] == ["huts", "stays", "long_stays"]
    assert rows_of(dataset, "huts") == [
        (1, "Karr's; GO", "2024-05-01", None), (2, "Low Fir!", None, 12),
    ]  # fmt: skip
    assert rows_of(dataset, "stays") == [(1, "Ada N.", 2), (2, "Bo", 3)]
    with dataset.reading() as db:
        assert db.execute("SELECT * FROM long_stays").fetchall() == [("Bo",)]
    (key,) = dataset.table("stays").foreign_keys
    assert (key.table, key.to, key.on_delete) == ("huts", ("hut_id",), "CASCADE")
    assert [one.split(" ")[0] for one in left_out] == [
        "USE", "SET", "IF", "IF", "PRINT", "SELECT", "EXEC", "CREATE",
    ]  # fmt: skip


def test_a_script_that_a_program_wrote(tmp_path: Path) -> None:
    assert guess_dialect(BY_A_PROGRAM) == "tsql"
    dataset, left_out, _ = made(tmp_path, BY_A_PROGRAM, "tsql")
    huts = dataset.table("huts")
    assert [(one.name, one.type, one.not_null) for one in huts.columns] == [
        ("hut_id", "INTEGER", True), ("name", "VARCHAR(40)", True), ("price", "DECIMAL(8,2)", False),
        ("open", "BOOLEAN", True), ("seen", "TIMESTAMP", False),
    ]  # fmt: skip
    assert huts.primary_key == ("hut_id",)
    assert ("name",) in huts.uniques
    assert huts.column("open").default == "1"
    assert huts.checks == ('"price" >= (0)',) or huts.checks == ('("price" >= (0))',)
    assert [key.table for key in dataset.table("stays").foreign_keys] == ["huts"]
    assert rows_of(dataset, "huts") == [
        (1, "Kar", 12.5, 1, "2024-05-01 10:00:00"), (2, "Fir", None, 0, "2001-01-01 10:00:00"),
    ]  # fmt: skip
    assert not any("TABLE" in one and "CHECK CONSTRAINT" not in one for one in left_out)


STATEMENTS = [
    "CREATE TABLE a (x INT, y VARCHAR(9) DEFAULT 'SELECT; GO')",
    "CREATE TABLE [b] ([select] INT NOT NULL, CHECK ([select] IN (1, 2)))",
    "INSERT INTO a VALUES (1, 'DELETE')",
    "INSERT INTO a (x) SELECT 1 UNION SELECT 2 EXCEPT SELECT CASE WHEN 1=1 THEN 3 END",
    "INSERT b SELECT TOP (1) x FROM a",
    "WITH c AS (SELECT 1 AS x) INSERT INTO a (x) SELECT x FROM c",
    "UPDATE a SET x = (SELECT 2), y = 'SET' WHERE x IN (SELECT x FROM a)",
    "UPDATE t SET x = 1 FROM a AS t",
    "DELETE FROM a WHERE x = CASE WHEN x = 1 THEN 1 ELSE 2 END",
    "ALTER TABLE a ADD z INT",
    "ALTER TABLE a ALTER COLUMN z BIGINT",
    "ALTER TABLE b ADD CONSTRAINT f FOREIGN KEY (x) REFERENCES a (x) ON DELETE SET NULL ON UPDATE CASCADE",
    "DROP TABLE IF EXISTS a",
    "DROP TABLE b",
    "TRUNCATE TABLE a",
    "CREATE INDEX i ON a (x)",
    "SET NOCOUNT ON",
    "GRANT SELECT, INSERT, UPDATE ON a TO PUBLIC",
    "DECLARE @x INT = 1",
    "EXEC p 1, 'SELECT'",
    "BEGIN TRAN",
    "COMMIT",
    "SELECT x FROM a UNION ALL SELECT x FROM b",
    "SELECT x INTO c FROM a",
]


@pytest.mark.parametrize("statement", STATEMENTS)
def test_a_statement_alone_is_not_cut(statement: str) -> None:
    assert separated(statement, lambda *told: pytest.fail(str(told))) == f"{statement};"


JOINS = ["\n", "\n\n", " -- and; so on\n", " /* GO\n; SELECT */ "]


@given(st.lists(st.tuples(st.sampled_from(STATEMENTS), st.sampled_from(JOINS)), max_size=8))
def test_a_statement_ends_where_the_next_begins(parts: list[tuple[str, str]]) -> None:
    """Semicolons, batches and nothing at all cut a script at the same places."""
    # A WITH has to have a semicolon before it: the engine wants one, too.
    bare = "".join(
        f";{text}{join}" if text.startswith("WITH") else text + join for text, join in parts
    )
    cut = ";\n".join(text for text, _ in parts)
    batches = "\nGO\n".join(text for text, _ in parts)
    found = [_said(one) for one in (bare, cut, batches)]
    assert found[0] == found[1] == found[2]


def _said(script: str) -> object:
    read = read_script(script, "tsql")
    left_out = sorted((one.text, one.why) for one in read.left_out)
    return (
        read.tables,
        [sql for _, sql in read.statements],
        [sql for _, sql in read.indexes],
        left_out,
    )


def test_rows_are_changed_over_joined_tables(tmp_path: Path) -> None:
    script = """
        CREATE TABLE huts (hut_id INT PRIMARY KEY, region CHAR(1), beds INT)
        CREATE TABLE regions (code CHAR(1) PRIMARY KEY, high BIT)
        INSERT huts VALUES (1, 'N', 4), (2, 'N', 5), (3, 'S', 6)
        INSERT regions VALUES ('N', 1), ('S', 0)
        UPDATE h SET h.beds = h.beds + 10 FROM huts AS h INNER JOIN regions r ON r.code = h.region WHERE r.high = 1
        UPDATE h SET beds = 0 FROM huts h WHERE h.hut_id = 2
        DELETE h FROM huts h JOIN regions r ON r.code = h.region WHERE r.high = 0
        DELETE TOP_OF FROM huts TOP_OF WHERE TOP_OF.hut_id = 9
        DELETE regions WHERE code = 'S'
        INSERT huts (hut_id) SELECT n FROM (VALUES (7), (8)) AS v (n)
        WITH more AS (SELECT 20 AS n) INSERT huts (hut_id) SELECT n FROM more
    """.replace("        WITH", "        ;WITH")
    dataset, left_out, _ = made(tmp_path, script, "tsql")
    assert left_out == []
    assert rows_of(dataset, "huts") == [
        (1, "N", 14), (2, "N", 0), (7, None, None), (8, None, None), (20, None, None),
    ]  # fmt: skip
    assert rows_of(dataset, "regions") == [("N", 1)]


@given(st.text(alphabet="GO\n ;'[]()-/*BEGINEDIF sx1.,", max_size=60))
def test_every_line_stays_where_it_was(script: str) -> None:
    told: list[int] = []
    cut = separated(script, lambda line, text, why: told.append(line))
    assert cut.count("\n") == script.count("\n")
    assert all(1 <= line <= script.count("\n") + 1 for line in told)


@pytest.mark.parametrize(
    ("script", "statements"),
    [
        ("IF NOT EXISTS (SELECT * FROM sys.tables) CREATE TABLE a (x INT) INSERT a VALUES (1)", 1),
        ("IF OBJECT_ID('a') IS NULL\nBEGIN\n  CREATE TABLE a (x INT)\n  INSERT a VALUES (1)\nEND\nINSERT a VALUES (2)", 2),
        ("CREATE TABLE a (x INT) IF EXISTS (SELECT 1 FROM a) DELETE FROM a INSERT a VALUES (1)", 1),
        ("CREATE TABLE a (x INT) IF @@ROWCOUNT > 0 BEGIN DELETE FROM a; END ELSE INSERT a VALUES (2) INSERT a VALUES (1)", 1),
        ("CREATE TABLE a (x INT) WHILE 1 = 0 BEGIN INSERT a VALUES (2) END INSERT a VALUES (1)", 1),
        ("CREATE TABLE a (x INT) BEGIN TRY INSERT a VALUES (1) END TRY BEGIN CATCH INSERT a VALUES (2); THROW; END CATCH", 1),
        ("BEGIN TRANSACTION\nCREATE TABLE a (x INT)\nINSERT a VALUES (1)\nCOMMIT TRANSACTION", 1),
    ],
)  # fmt: skip
def test_what_hangs_on_a_condition(script: str, statements: int) -> None:
    read = read_script(script, "tsql")
    assert [one.name for one in read.tables] == ["a"]
    assert len(read.statements) == statements
    assert not any("cannot be read" in one.why for one in read.left_out)


@pytest.mark.parametrize(
    ("script", "lost"),
    [
        ("IF OBJECT_ID('dbo.a') IS NOT NULL DROP TABLE dbo.a;", False),
        ("IF EXISTS (SELECT * FROM sys.tables WHERE name = 'a') BEGIN PRINT 'again'; DROP TABLE a; END", False),
        ("IF DB_ID('Alps') IS NOT NULL BEGIN ALTER DATABASE Alps SET SINGLE_USER WITH ROLLBACK IMMEDIATE; DROP DATABASE Alps END", False),
        ("IF OBJECT_ID('a') IS NOT NULL ALTER TABLE a DROP CONSTRAINT few", False),
        ("CREATE DATABASE Alps CONTAINMENT = NONE ON PRIMARY (NAME = N'Alps', SIZE = 8192KB)", False),
        ("BEGIN TRY PRINT 'now' END TRY BEGIN CATCH PRINT 'no'; INSERT a VALUES (2) END CATCH", False),
        ("IF OBJECT_ID('dbo.a') IS NOT NULL DROP TABLE dbo.a ELSE INSERT a VALUES (2)", True),
        ("IF @@ROWCOUNT > 0 BEGIN DROP TABLE b; INSERT a VALUES (2) END", True),
    ],
)  # fmt: skip
def test_nobody_misses_what_only_clears_the_way(script: str, lost: bool) -> None:
    read = read_script(f"{script}\nGO\nCREATE TABLE a (x INT)\nINSERT a VALUES (1)", "tsql")
    assert [one.name for one in read.tables] == ["a"]
    assert len(read.statements) == 1
    assert any(is_lost(one.why) for one in read.left_out) is lost


JOINED = """\
CREATE TABLE huts (
  name NVARCHAR(20) NOT NULL CHECK (name <> N''), region VARCHAR(10), beds INT,
  label AS (name + N' (' + CONVERT(varchar(10), beds) + N')'), place AS (name + region) PERSISTED,
  twice AS (beds + beds), CONSTRAINT few CHECK (N'x' + name <> N'xNone')
)
INSERT huts (name, region, beds) VALUES (N'Kar', 'North', 12)
UPDATE huts SET region = region + name
INSERT huts (name, region, beds) SELECT name + region, region, beds + 1 FROM huts
GO
CREATE VIEW named AS SELECT name + region AS both_names, beds + 1 AS more FROM huts
"""


def test_texts_of_columns_are_joined_by_a_plus(tmp_path: Path) -> None:
    dataset, left_out, _ = made(tmp_path, JOINED, "tsql")
    assert rows_of(dataset, "huts") == [
        ("Kar", "NorthKar", 12, "Kar (12)", "KarNorthKar", 24),
        ("KarNorthKar", "NorthKar", 13, "KarNorthKar (13)", "KarNorthKarNorthKar", 26),
    ]
    assert rows_of(dataset, "named") == [("KarNorthKar", 13), ("KarNorthKarNorthKar", 14)]
    assert not any("SQLite does not take" in one for one in left_out)
    assert "'x' || name <> 'xNone'" in dataset.table("huts").checks


def test_a_batch_that_is_run_several_times_is_told_of() -> None:
    read = read_script("CREATE TABLE a (x INT)\nGO\nINSERT a VALUES (1)\nGO 5\n", "tsql")
    assert len(read.statements) == 1
    assert [(one.line, one.text) for one in read.left_out] == [(4, "GO 5")]


@pytest.mark.parametrize(
    ("rows", "numbers"),
    [
        ("INSERT t VALUES ('a'), ('b')", [100, 110]),
        ("INSERT t (name) VALUES ('a') INSERT t (name) SELECT name FROM t INSERT t VALUES ('c'), ('d')", [100, 110, 120, 130]),
        ("INSERT t (n, name) VALUES (300, 'a') INSERT t VALUES ('b')", [300, 310]),
    ],
)  # fmt: skip
def test_rows_are_numbered_as_the_server_numbers_them(
    tmp_path: Path, rows: str, numbers: list[int]
) -> None:
    script = f"CREATE TABLE t (n INT IDENTITY(100, 10), name VARCHAR(9)) {rows}"
    dataset, _, _ = made(tmp_path, script, "tsql")
    assert [row[0] for row in rows_of(dataset, "t")] == numbers


def test_types_under_another_name(tmp_path: Path) -> None:
    script = """
        CREATE TYPE dbo.Code FROM VARCHAR(10) NOT NULL
        GO
        CREATE TYPE [dbo].[Metres] FROM DECIMAL(8, 2)
        GO
        CREATE TABLE gauges (code dbo.Code, depth Metres, height [dbo].[Metres] NULL)
        INSERT INTO gauges VALUES ('A1', 1.5, NULL)
    """
    dataset, left_out, _ = made(tmp_path, script, "tsql")
    assert left_out == []
    columns = dataset.table("gauges").columns
    assert [(one.type, one.not_null) for one in columns] == [
        ("VARCHAR(10)", True), ("DECIMAL(8,2)", False), ("DECIMAL(8,2)", False),
    ]  # fmt: skip
    assert rows_of(dataset, "gauges") == [("A1", 1.5, None)]
