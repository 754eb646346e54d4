"""Engines that cannot run here, with DuckDB standing in for them."""

from __future__ import annotations

from dataclasses import replace
from typing import Final

from jentrow.core.engines.dialects.facts import FACTS, STAND_IN
from jentrow.core.engines.dialects.room import TYPED_COLUMNS
from jentrow.core.engines.duckdb.capabilities import capabilities
from jentrow.core.engines.duckdb.engine import DuckDBEngine
from jentrow.core.engines.labels import LABELS
from jentrow.core.engines.limits import Limits
from jentrow.core.engines.protocol import Capabilities, LoadedDataset
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.columnkinds import column_kinds
from jentrow.core.sql.stand_ins.stand_in import RUNS_ON, stood_in

NO_COPIES: Final = (
    "A private copy runs on SQLite: what stands in for {label} answers queries, and its rows cannot be "
    "changed here."
)


class StandInEngine(DuckDBEngine):
    """Runs translations of queries on DuckDB files."""

    def __init__(self, name: str, *args: object, **options: object) -> None:
        """See :class:`PooledEngine`; ``name`` is the dialect's."""
        self.name = name
        self.ending = f".{name}.duckdb"
        super().__init__(*args, **options)  # type: ignore[arg-type]

    @property
    def capabilities(self) -> Capabilities:
        """What it is called, and what is the same on its stand-in."""
        return Capabilities(
            self.name,
            LABELS[self.name],
            self.dialect,
            capabilities().functions,
            (),
            no_copies=NO_COPIES.format(label=LABELS[self.name]),
            stand_in=STAND_IN,
            facts=FACTS[self.name],
        )

    @property
    def version(self) -> str:
        """What stands in."""
        return f"on DuckDB {super().version}"

    def _build(self, key: str, dataset: DatasetSource) -> LoadedDataset:
        loaded = super()._build(key, dataset)
        found = self.run(replace(loaded, engine=RUNS_ON), TYPED_COLUMNS, Limits())
        assert isinstance(found, ResultSet), found
        columns = ((str(name), str(type), str(notes)) for name, type, notes in found.rows)
        return replace(loaded, kinds=column_kinds(columns))

    def as_run(self, dataset: LoadedDataset, sql: str) -> tuple[LoadedDataset, str, str]:
        """The translation, as DuckDB runs it."""
        made = stood_in(self.dialect, sql, dataset.kinds)
        return replace(dataset, engine=RUNS_ON), made.sql or sql, RUNS_ON
