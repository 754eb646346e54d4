"""Scripts in Db2 SQL."""

from __future__ import annotations

from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from jentrow.core.samples.scripts.db2 import with_semicolons
from jentrow.core.samples.scripts.dialects import guess_dialect
from jentrow.core.samples.scripts.reading import read_script
from jentrow.core.samples.scripts.reasons import is_lost
from tests.core.samples.scripts.test_reading import made, rows_of

SCRIPT = """\
CONNECT TO alps;
--#SET TERMINATOR @
CREATE OR REPLACE PROCEDURE clear () BEGIN DELETE FROM stays; DELETE FROM huts; END@
--#SET TERMINATOR ;
SET CURRENT SCHEMA = 'ALPS';
CREATE TABLE regions (code CHAR(3) NOT NULL, name VARCHAR(40 OCTETS) NOT NULL WITH DEFAULT, PRIMARY KEY (code))
  IN userspace1 ORGANIZE BY ROW;
CREATE TABLE huts (
  hut_id INTEGER NOT NULL GENERATED ALWAYS AS IDENTITY (START WITH 100, INCREMENT BY 10, NO CACHE),
  name VARCHAR(60) NOT NULL,
  code CHAR(3) REFERENCES regions ON DELETE SET NULL ENFORCED,
  beds SMALLINT NOT NULL WITH DEFAULT 4,
  price DECFLOAT(16), bits CHAR(2) FOR BIT DATA, words CLOB(1M) INLINE LENGTH 100, more LONG VARCHAR,
  opened DATE WITH DEFAULT CURRENT DATE,
  CONSTRAINT pk PRIMARY KEY (hut_id),
  CONSTRAINT few CHECK (beds BETWEEN 0 AND 100) ENFORCED ENABLE QUERY OPTIMIZATION
) IN ts1 INDEX IN ts2 COMPRESS YES;
CREATE UNIQUE INDEX by_name ON huts (name ASC) INCLUDE (beds) ALLOW REVERSE SCANS;
INSERT INTO regions VALUES ('NOR', 'North'), ('SOU', 'South; and @ more');
INSERT INTO huts (name, code, beds, price, opened) VALUES
  ('Kar', 'NOR', 12, 12.75, DATE('2024-05-01')), ('Fir', 'SOU', DEFAULT, NULL, '05/02/2024');
INSERT INTO huts (hut_id, name, opened) VALUES (DEFAULT, 'Top', DATE('2024-05-01') + 3 DAYS), (DEFAULT, 'Low', '04.05.2024');
INSERT INTO huts (hut_id, name, opened) OVERRIDING SYSTEM VALUE VALUES (170, 'OVERRIDING SYSTEM VALUE', '2024-05-05');
COMMENT ON TABLE huts IS 'Where one sleeps';
LABEL ON TABLE huts IS 'Huts';
RUNSTATS ON TABLE alps.huts;
COMMIT;
TERMINATE;
"""


def test_a_script_in_db2_sql(tmp_path: Path) -> None:
    assert guess_dialect(SCRIPT) == "db2"
    dataset, left_out, _ = made(tmp_path, SCRIPT, "db2")
    huts = dataset.table("huts")
    assert [(one.name, one.type) for one in huts.columns] == [
        ("hut_id", "INTEGER"), ("name", "VARCHAR(60)"), ("code", "CHAR(3)"), ("beds", "INTEGER"),
        ("price", "DECIMAL"), ("bits", "BLOB"), ("words", "TEXT"), ("more", "TEXT"), ("opened", "DATE"),
    ]  # fmt: skip
    assert [(*row[:5], row[8]) for row in rows_of(dataset, "huts")] == [
        (100, "Kar", "NOR", 12, 12.75, "2024-05-01"),
        (110, "Fir", "SOU", 4, None, "2024-05-02"),
        (120, "Top", None, 4, None, "2024-05-04"),
        (130, "Low", None, 4, None, "2024-05-04"),
        (170, "OVERRIDING SYSTEM VALUE", None, 4, None, "2024-05-05"),
    ]
    assert rows_of(dataset, "regions") == [("NOR", "North"), ("SOU", "South; and @ more")]
    assert [one.split()[0] for one in left_out if one.split()[0].isupper()][:3] == [
        "CONNECT", "CREATE", "SET",
    ]  # fmt: skip
    assert not any(
        is_lost(one.why) for one in read_script(SCRIPT, "db2").left_out if "LABEL" in one.text
    )


@given(st.text(alphabet="--#SET TERMINATOR@;\n'BEGIN x", max_size=60))
def test_every_line_stays_where_it_was(script: str) -> None:
    assert with_semicolons(script, lambda *_: None).count("\n") == script.count("\n")
