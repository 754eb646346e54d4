"""What every engine offers, and what a query's run comes to."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Final, Literal, Protocol, TypeAlias

from jentrow.core.comparison.findings import FindingCode
from jentrow.core.engines.limits import Limits
from jentrow.core.results import ResultSet
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.sql.text import Place

ENGINES: Final = ("sqlite",)
"""The engines that there are, by their names in packs."""

FailureVerdict: TypeAlias = Literal["error", "refused", "stopped"]


@dataclass(frozen=True, slots=True)
class QueryFailure:
    """A query that gave no result: rejected by the engine, refused, or stopped at a limit.

    ``message`` is in a learner's words. ``engine_words`` is what the engine said itself; it may
    quote values, so for a held-back dataset neither leaves the core.
    """

    verdict: FailureVerdict
    code: FindingCode
    message: str
    engine_words: str = ""
    place: Place | None = None
    near: str = ""


QueryOutcome: TypeAlias = ResultSet | QueryFailure


@dataclass(frozen=True, slots=True)
class StatementDone:
    """A statement that ran on a learner's own copy: its rows, or how many rows it changed."""

    sql: str
    result: ResultSet | None
    changed: int


@dataclass(frozen=True, slots=True)
class LoadedDataset:
    """A dataset made ready for queries: where the engine finds it, and what is in it.

    ``table_rows`` counts the rows of each table; ``columns`` names those of tables and views.
    """

    key: str
    location: str
    table_rows: tuple[tuple[str, int], ...]
    columns: tuple[tuple[str, tuple[str, ...]], ...]


class Engine(Protocol):
    """One database engine.

    Everything that it is asked to run is untrusted, the reference answers too: a pack may come
    from anywhere.
    """

    @property
    def name(self) -> str:
        """The engine's name in packs and on the command line."""

    @property
    def dialect(self) -> str:
        """The parser's name for the engine's dialect."""

    @property
    def version(self) -> str:
        """The version of the engine that runs."""

    def load(self, dataset: DatasetSource) -> LoadedDataset:
        """Makes a dataset ready. Raises :class:`InvalidSample` where it does not load."""

    def run(self, dataset: LoadedDataset, sql: str, limits: Limits) -> QueryOutcome:
        """Runs one query and fetches its rows."""

    def run_many(
        self, dataset: LoadedDataset, queries: Sequence[str], limits: Limits
    ) -> Iterator[tuple[int, QueryOutcome]]:
        """Runs many queries, as they come; yields each one's index and outcome once."""

    def change(
        self, copy: Path, script: str, limits: Limits, most_bytes: int
    ) -> list[StatementDone] | QueryFailure:
        """Runs statements on a learner's own copy of a dataset, all of them or none.

        The copy never grows above ``most_bytes``.
        """

    def close(self) -> None:
        """Ends the worker processes and removes what was loaded."""
