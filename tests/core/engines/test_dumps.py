"""Scripts as the servers' own programs write them: run whole by their engine, read, and loaded."""

from __future__ import annotations

from pathlib import Path

import pytest

from jentrow.core.engines.limits import Limits
from jentrow.core.engines.whole_scripts import run_whole
from jentrow.core.results import ResultSet
from jentrow.core.samples.dataset import Dataset
from jentrow.core.samples.making.process import make
from jentrow.core.samples.recipes import Recipe
from jentrow.core.samples.scripts.dialects import guess_dialect
from jentrow.core.samples.scripts.reasons import is_lost
from jentrow.core.samples.sources import DatasetSource
from jentrow.services.runtime.engines import engine_named
from tests.core.samples.scripts.test_reading import rows_of

DUMPS = Path(__file__).parents[1] / "samples" / "scripts" / "dumps"
CASES = [
    ("postgresql", "postgresql.sql", ["type of spot", "type of addr", "type of rng", "PARTITION", "TYPE", "TRIGGER", "FUNCTION"]),
    ("postgresql", "postgresql-inserts.sql", ["type of spot", "type of addr", "type of rng", "PARTITION", "TYPE", "TRIGGER", "FUNCTION"]),
    ("mariadb", "mariadb.sql", ["type of big", "type of tags", "SETVAL", "TRIGGER", "FUNCTION", "PROCEDURE"]),
]  # fmt: skip
"""The engine, its dump, and words of all that may be lost of it."""

FIRST = {
    "name": {"Kar's; -- \\ tab\tx", "Kar's; -- \\ tab\tx /* y */"}, "code": {"NOR"}, "beds": {12},
    "price": {12.5}, "weight": {1e100}, "rate": {1.1}, "open": {1}, "opened": {"2024-05-01"},
    "seen": {"2024-05-01 10:00:00.123456"}, "at": {"2024-05-01 08:00:00+00", "2024-05-01 10:00:00"},
    "clock": {"10:00:00", "36:30:00"}, "tone": {"wild", "it's wild"}, "doc": {'{"a": [1, null]}'},
    "raw": {b"\xde\xad\xbe\xef", b"\xde\xad\xbe\xef\x00"}, "bits": {"101", 5}, "twice": {25},
    "big": {2**63 - 1, float(2**64 - 1)}, "order": {3},
}  # fmt: skip
"""A value of each type that both servers have, as each of them may write it."""


@pytest.mark.parametrize("is_whole", [True, False], ids=["run whole", "read"])
@pytest.mark.parametrize(("engine", "file", "lost"), CASES)
def test_a_sample_is_made_of_a_dump(
    tmp_path: Path, engine: str, file: str, lost: list[str], is_whole: bool
) -> None:
    script = (DUMPS / file).read_text(encoding="utf-8")
    running = engine_named(engine, workers=1)
    try:
        assert guess_dialect(script) == running.dialect
        ran = run_whole(running, script, tmp_path) if is_whole else ()
    finally:
        running.close()
    recipe = Recipe("script", path=str(DUMPS / file), dialect=running.dialect, ran=ran)
    said = make(recipe, tmp_path / "made.db")
    dataset = Dataset.adopt(tmp_path / "dataset", tmp_path / "made.db", "made")
    tables = {one.name for one in dataset.tables}
    assert {"regions", "huts", "part", "big"} <= tables
    assert [row[0].rstrip() for row in rows_of(dataset, "regions")] == ["NOR", "SO"]
    names = [one.name for one in dataset.table("huts").columns]
    first, second = (dict(zip(names, row, strict=True)) for row in rows_of(dataset, "huts"))
    assert {name for name, values in FIRST.items() if first[name] not in values} == set()
    assert first["Odd name"] in ("line1\nline2", 'q"q')
    assert (second["name"], second["code"], second["open"], second["Odd name"]) == ("", None, 0, "")
    with dataset.reading() as db:
        found = db.execute("SELECT region FROM big").fetchall()
    assert [region for (region,) in found] == ["North"]
    for _, text, why in said.left_out:
        assert not is_lost(why) or any(one in f"{text} {why}" for one in lost), (text, why)


@pytest.mark.parametrize(("engine", "file", "lost"), CASES)
def test_a_dump_is_loaded_as_it_stands(engine: str, file: str, lost: list[str]) -> None:
    running = engine_named(engine, workers=1)
    try:
        script = (DUMPS / file).read_text(encoding="utf-8")
        dataset = running.load(DatasetSource("dump", script, keep_rows=True))
        counts = dict(dataset.table_rows)
        assert (counts["regions"], counts["huts"]) == (2, 2)
        assert counts["part"] > 0
        assert "s" not in counts  # a sequence, which MariaDB keeps as a table
        found = running.run(dataset, "SELECT region FROM big", Limits())
        assert isinstance(found, ResultSet), found
        assert [tuple(row) for row in found.rows] == [("North",)]
    finally:
        running.close()
