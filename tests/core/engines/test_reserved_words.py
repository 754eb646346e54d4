"""Columns whose names are words of the engine's own, written without quotes."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from jentrow.core.engines.labels import DIALECTS, RUNNING
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Engine, LoadedDataset, QueryFailure
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.spellings.reserved_words import RESERVED
from jentrow.services.runtime.engines import engine_named

COLUMNS = {
    "sqlite": ("order", "group", "from", "to", "limit", "index", "when"),
    "duckdb": ("order", "from", "limit", "desc", "end", "window", "offset", "default"),
    "postgresql": ("order", "from", "to", "limit", "desc", "end", "offset", "default"),
    "mariadb": ("order", "to", "key", "condition", "interval", "range", "usage", "left", "default"),
}
QUERIES = (
    "SELECT {} FROM visits",
    "SELECT id, {}, id + {} FROM visits",
    "SELECT v.id FROM visits AS v WHERE {} > 3",
    "SELECT id FROM visits WHERE id > 1 AND {} = 2",
    "SELECT id FROM visits ORDER BY {}",
    "SELECT SUM({}) FROM visits",
    "SELECT id FROM visits WHERE id = {}",
    "SELECT {}, COUNT(*) FROM visits GROUP BY {}",
)
ELSEWHERE = (
    "SELECT id FROM visits ORDER BY",
    "SELECT , id FROM visits",
    "SELECT id FROM visits WHERE id > 1 LIMIT",
    "SELECT id FROM visits id id",
    "SELECT id FROM visits GROUP BY id HAVING ORDER BY id",
)
"""Mistakes of another kind, over tables that have such columns."""


@pytest.fixture(scope="module", params=RUNNING)
def engine(request: pytest.FixtureRequest) -> Iterator[Engine]:
    running = engine_named(request.param, workers=1)
    yield running
    running.close()


@pytest.fixture(scope="module")
def visits(engine: Engine) -> LoadedDataset:
    mark = "`" if engine.name == "mariadb" else '"'
    columns = ", ".join(f"{mark}{one}{mark} INTEGER" for one in COLUMNS[engine.name])
    return engine.load(DatasetSource("visits", f"CREATE TABLE visits (id INTEGER, {columns});"))


@pytest.mark.parametrize("query", QUERIES)
def test_a_name_that_is_a_word_of_sql_is_said_to_need_quotes(
    query: str, engine: Engine, visits: LoadedDataset
) -> None:
    mark = "`" if engine.name == "mariadb" else '"'
    for column in COLUMNS[engine.name]:
        found = engine.run(visits, query.format(column, column), Limits())
        assert isinstance(found, QueryFailure), column
        assert "is a word of SQL" in found.message, (column, found.message)
        assert f"{mark}{column}{mark}" in found.message
        quoted = f"{mark}{column}{mark}"
        mended = engine.run(visits, query.format(quoted, quoted), Limits())
        assert not isinstance(mended, QueryFailure), mended


@pytest.mark.parametrize("query", ELSEWHERE)
def test_a_word_that_stands_where_it_belongs_is_not_called_a_name(
    query: str, engine: Engine, visits: LoadedDataset
) -> None:
    found = engine.run(visits, query, Limits())
    assert isinstance(found, QueryFailure)
    assert "is a word of SQL" not in found.message, found.message


def test_every_word_of_the_list_is_one_to_the_engine(engine: Engine, visits: LoadedDataset) -> None:
    mark = "`" if engine.name == "mariadb" else '"'
    for word in sorted(RESERVED[DIALECTS[engine.name]]):
        name = word.lower()
        held = f"(SELECT 1 AS {mark}{name}{mark}) AS held"
        assert isinstance(
            engine.run(visits, f"SELECT {name} FROM {held}", Limits()), QueryFailure
        ), word
        quoted = engine.run(visits, f"SELECT {mark}{name}{mark} FROM {held}", Limits())
        assert not isinstance(quoted, QueryFailure), (word, quoted)
