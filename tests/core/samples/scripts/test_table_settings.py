"""What a server's settings behind tables, columns, keys and indexes are taken for: for nothing."""

from __future__ import annotations

import pytest

from jentrow.core.samples.scripts.reading import OF_A_SERVER, read_script

PLAIN = (
    "CREATE TABLE a (x INT {of_column}, y VARCHAR(9) NOT NULL, "
    "CONSTRAINT k PRIMARY KEY {before_keys} (x) {of_key}, CHECK (x > 0) {of_check} {part}) {of_table}"
)
SETTINGS = [
    ("tsql", "of_column", "SPARSE"),
    ("tsql", "of_column", "ROWGUIDCOL"),
    ("tsql", "of_column", "INDEX ix"),
    ("tsql", "before_keys", "CLUSTERED"),
    ("tsql", "before_keys", "NONCLUSTERED"),
    ("tsql", "of_key", "WITH (PAD_INDEX = OFF, FILLFACTOR = 80, DATA_COMPRESSION = PAGE ON PARTITIONS (1)) ON [PRIMARY]"),
    ("tsql", "of_key", "WITH FILLFACTOR = 80"),
    ("tsql", "of_key", "NOT FOR REPLICATION"),
    ("tsql", "part", ", INDEX ix NONCLUSTERED (y) INCLUDE (x)"),
    ("tsql", "of_table", "ON [PRIMARY] TEXTIMAGE_ON [PRIMARY]"),
    ("tsql", "of_table", "WITH (SYSTEM_VERSIONING = ON (HISTORY_TABLE = dbo.h))"),
    ("oracle", "of_column", "VISIBLE"),
    ("oracle", "of_key", "USING INDEX PCTFREE 10 STORAGE (INITIAL 64K NEXT 1M) TABLESPACE users ENABLE"),
    ("oracle", "of_key", "DEFERRABLE INITIALLY DEFERRED"),
    ("oracle", "of_key", "NOT DEFERRABLE ENABLE NOVALIDATE"),
    ("oracle", "of_check", "DISABLE"),
    ("oracle", "of_check", "ENABLE VALIDATE"),
    ("oracle", "part", ", SUPPLEMENTAL LOG GROUP g (x, y) ALWAYS"),
    ("oracle", "of_table", "SEGMENT CREATION IMMEDIATE STORAGE (INITIAL 64K) TABLESPACE users"),
    ("oracle", "of_table", "ORGANIZATION INDEX PCTTHRESHOLD 50"),
    ("db2", "of_key", "NOT ENFORCED"),
    ("db2", "of_check", "ENFORCED ENABLE QUERY OPTIMIZATION"),
    ("db2", "of_column", "IMPLICITLY HIDDEN"),
    ("db2", "of_table", "IN ts1 INDEX IN ts2 ORGANIZE BY ROW COMPRESS YES"),
]  # fmt: skip
PLACES = ("of_column", "before_keys", "of_key", "of_check", "part", "of_table")


@pytest.mark.parametrize(("dialect", "place", "setting"), SETTINGS)
def test_a_setting_changes_no_table_and_is_told_of(dialect: str, place: str, setting: str) -> None:
    nothing = dict.fromkeys(PLACES, "")
    plain = read_script(PLAIN.format(**nothing), dialect)
    read = read_script(PLAIN.format(**nothing | {place: setting}), dialect)
    assert plain.tables
    assert not plain.left_out
    assert read.tables == plain.tables
    (left_out,) = read.left_out
    assert left_out.why == OF_A_SERVER
    assert left_out.text.split()[0] in setting


@pytest.mark.parametrize("dialect", ["tsql", "oracle", "db2"])
def test_columns_may_be_called_as_settings_are(dialect: str) -> None:
    names = [
        "sparse",
        "enable",
        "visible",
        "logged",
        "compact",
        "hidden",
        "deferrable",
        "clustered_by",
    ]
    read = read_script(f"CREATE TABLE a ({', '.join(f'{one} INT' for one in names)})", dialect)
    assert [one.name for one in read.tables[0].columns] == names
    assert not read.left_out


@pytest.mark.parametrize(
    ("dialect", "index"),
    [
        ("tsql", "CREATE UNIQUE NONCLUSTERED INDEX i ON dbo.a (x ASC) INCLUDE (y) WHERE x > 1 WITH (FILLFACTOR = 80) ON [PRIMARY]"),
        ("oracle", "CREATE UNIQUE INDEX s.i ON s.a (x ASC) TABLESPACE users COMPUTE STATISTICS"),
        ("db2", "CREATE UNIQUE INDEX i ON a (x ASC) INCLUDE (y) ALLOW REVERSE SCANS"),
    ],
)  # fmt: skip
def test_an_index_keeps_its_keys_and_its_condition(dialect: str, index: str) -> None:
    read = read_script(index, dialect)
    where = " WHERE x > 1" if dialect == "tsql" else ""
    assert [sql for _, sql in read.indexes] == [f"CREATE UNIQUE INDEX i ON a(x ASC){where}"]


CHANGES = [
    ("tsql", "ALTER TABLE a ALTER COLUMN y VARCHAR(30) NOT NULL", ("y", "VARCHAR(30)", True, None)),
    ("tsql", "ALTER TABLE dbo.a ADD CONSTRAINT d DEFAULT ('x') FOR [y]", ("y", "VARCHAR(9)", False, "'x'")),
    ("tsql", "ALTER TABLE a ADD DEFAULT 3 FOR x WITH VALUES", ("x", "INTEGER", False, "3")),
    ("oracle", "ALTER TABLE a MODIFY (y NOT NULL, x DEFAULT 3)", ("x", "INTEGER", False, "3")),
    ("oracle", "ALTER TABLE a MODIFY y VARCHAR2(30)", ("y", "VARCHAR(30)", False, None)),
    ("mysql", "ALTER TABLE a MODIFY COLUMN y VARCHAR(30) NOT NULL", ("y", "VARCHAR(30)", True, None)),
    ("postgres", "ALTER TABLE a ALTER COLUMN x TYPE text, ALTER COLUMN y TYPE char(3)", ("y", "CHAR(3)", False, None)),
    ("db2", "ALTER TABLE a ALTER COLUMN y SET DATA TYPE VARCHAR(30)", ("y", "VARCHAR(30)", False, None)),
    ("tsql", "ALTER TABLE a ADD z INT NULL, w CHAR(2)", ("w", "CHAR(2)", False, None)),
    ("oracle", "ALTER TABLE a ADD (z NUMBER(3), w CHAR(2 CHAR))", ("w", "CHAR(2)", False, None)),
    ("db2", "ALTER TABLE a ADD COLUMN z DATE NOT NULL WITH DEFAULT CURRENT DATE", ("z", "DATE", True, "CURRENT_DATE")),
]  # fmt: skip


@pytest.mark.parametrize(("dialect", "change", "column"), CHANGES)
def test_a_table_that_is_changed_afterwards(
    dialect: str, change: str, column: tuple[str, str, bool, str | None]
) -> None:
    read = read_script(f"CREATE TABLE a (x INT, y VARCHAR(9)); {change}", dialect)
    found = {one.name: one for one in read.tables[0].columns}[column[0]]
    assert (found.name, found.type, found.not_null, found.default) == column
    assert not read.left_out
