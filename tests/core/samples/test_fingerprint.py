from __future__ import annotations

from pathlib import Path

import apsw

from jentrow.core.samples.fingerprint import fingerprint

TABLE = "CREATE TABLE huts (name TEXT, beds INTEGER);"


def made(path: Path, script: str) -> str:
    db = apsw.Connection(str(path))
    db.execute(script)
    db.close()
    return fingerprint(path)


def test_the_same_rows_in_whatever_order_are_the_same(tmp_path: Path) -> None:
    rows = ["('Murgel', 8)", "('Ferner', 6)", "('Ferner', 6)"]
    one = made(tmp_path / "1.db", f"{TABLE} INSERT INTO huts VALUES {', '.join(rows)}")
    two = made(tmp_path / "2.db", f"{TABLE} INSERT INTO huts VALUES {', '.join(rows[::-1])}")
    assert one == two


def test_another_value_type_repeat_or_column_is_not(tmp_path: Path) -> None:
    scripts = [
        f"{TABLE} INSERT INTO huts VALUES ('Murgel', 8)",
        f"{TABLE} INSERT INTO huts VALUES ('Murgel', 8), ('Murgel', 8)",
        f"{TABLE} INSERT INTO huts VALUES ('Murgel', 8.5)",
        f"{TABLE} INSERT INTO huts VALUES ('Murgel', NULL)",
        f"{TABLE} INSERT INTO huts VALUES ('Murgel', '')",
        "CREATE TABLE huts (name TEXT NOT NULL, beds INTEGER); INSERT INTO huts VALUES ('Murgel', 8)",
        TABLE,
    ]
    found = {made(tmp_path / f"{at}.db", script) for at, script in enumerate(scripts)}
    assert len(found) == len(scripts)
