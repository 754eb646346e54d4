"""What every engine offers, and what a query's run comes to."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final, Literal, Protocol, TypeAlias

from jentrow.core.comparison.findings import FindingCode
from jentrow.core.engines.copy_answers import CopyPage
from jentrow.core.engines.limits import Limits
from jentrow.core.results import ResultSet, Row
from jentrow.core.samples.schema.tables import CountedTable
from jentrow.core.samples.sources import DatasetSource
from jentrow.core.shownrows import ResultView
from jentrow.core.sql.columnkinds import NOTHING_KNOWN, ColumnKinds
from jentrow.core.sql.text import Place

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
    """A statement that ran on a learner's own copy: its rows, or how many rows it changed.

    ``remark`` is what its author may want to know of it; mostly empty.
    """

    sql: str
    result: ResultView | None
    changed: int
    remark: str


LookedFor: TypeAlias = Literal[
    "", "explanation", "two_edits", "example", "luck", "sight", "made_to_measure", "on_rows",
    "wording", "reading",
]  # fmt: skip
"""What is looked for beside an outcome: see :mod:`jentrow.core.exercises.distinguishing`.

The wording alone is told in place of it, and runs nothing: see :mod:`jentrow.core.sql.wordings`.
A reading is the wording with the outcome.
"""


JUDGING_SECONDS: Final = 10.0


@dataclass(frozen=True, slots=True)
class Judging:
    """How answers are judged.

    ``seconds`` stops the queries of an answer earlier than the exercise does, on all datasets
    together; ``judging_seconds`` of a processor's time are for comparing, weaving and explaining it.
    ``look`` is the dataset whose rows are woven too, ``rows`` of them; ``for_learner`` leaves out
    what no learner is shown.
    ``look_for`` is what made-up rows are to tell beside; ``made`` are such rows, by table, where
    they are given. ``explained`` has what the text adds to a difference looked for: reading a text
    takes longer than running it.
    """

    seconds: float | None = None
    judging_seconds: float = JUDGING_SECONDS
    look: int | None = None
    rows: int = 400
    for_learner: bool = False
    look_for: LookedFor = ""
    made: tuple[tuple[str, tuple[Row, ...]], ...] = ()
    explained: bool = True

    @property
    def is_hurried(self) -> bool:
        """Whether an answer has less time than without hurry."""
        return self.seconds is not None or self.judging_seconds < JUDGING_SECONDS


@dataclass(frozen=True, slots=True)
class LoadedDataset:
    """A dataset made ready for queries: where the engine finds it, and what is in it.

    ``table_rows`` counts the rows of each table; ``columns`` names those of tables and views;
    ``kinds`` tells what the columns hold, where a stand-in has to know.
    """

    engine: str
    key: str
    location: str
    table_rows: tuple[tuple[str, int], ...]
    columns: tuple[tuple[str, tuple[str, ...]], ...]
    kinds: ColumnKinds = NOTHING_KNOWN


@dataclass(frozen=True, slots=True)
class DatasetParts:
    """What a dataset is loaded from: see :class:`~jentrow.core.samples.sources.DatasetSource`.

    ``tables`` are pairs of table name and CSV file; ``database`` is an SQLite file that holds it
    all already, or empty. ``as_written`` says that only the engine's own dialect will do;
    ``for_changing`` that the rows will be changed, as those of a learner's own copy are.
    """

    schema: str
    keep_rows: bool = False
    script: str = ""
    tables: tuple[tuple[str, str], ...] = ()
    database: str = ""
    as_written: bool = False
    for_changing: bool = False


class Measure(Protocol):
    """What answers are judged by, as far as an engine has to know it; it can be pickled."""

    @property
    def limits(self) -> Limits:
        """The bounds of each query."""

    @property
    def datasets(self) -> tuple[LoadedDataset, ...]:
        """The datasets that each answer runs on."""

    @property
    def marks_edits(self) -> bool:
        """Whether a mark depends on how many edits an answer is away from a right one."""

    def called(self, answer: int, dataset: int = 0) -> str:
        """What one of the right answers is called in messages, on a dataset."""


class Run(Protocol):
    """Runs one query in this process, within its limits.

    A failure is put into a learner's words unless it is not ``told``: of variants that nobody wrote
    most fail, and finding the words takes longer than running them.
    """

    def __call__(
        self, dataset: LoadedDataset, sql: str, limits: Limits, *, told: bool = True
    ) -> QueryOutcome:
        """What the query gives on a dataset."""


class Judges(Protocol):
    """What a worker process judges answers by, beside the engine that runs them."""

    def take_up(self, path: str) -> bool:
        """Makes a measure ready; false where it was so."""

    def check(self, path: str) -> str:
        """What is wrong with the rules of a measure; empty where nothing is."""

    def answers(self, path: str, texts: Sequence[str], how: Judging) -> Iterator[bytes]:
        """Each text's outcome, packed."""


@dataclass(frozen=True, slots=True)
class Lack:
    """Something of SQL that an engine has not, in words; the engine rejects the ``example``."""

    says: str
    example: str


@dataclass(frozen=True, slots=True)
class StandInFacts:
    """What a stand-in keeps of its engine, what it leaves to an instructor, and what is otherwise on it."""

    same: tuple[str, ...]
    undecided: tuple[str, ...]
    other: tuple[str, ...]


NO_FACTS: Final = StandInFacts((), (), ())
"""Of an engine that runs here itself."""


@dataclass(frozen=True, slots=True)
class Capabilities:
    """What an engine is called, and what it can and cannot do.

    ``name`` stands in packs and on the command line, ``label`` is how people write it, ``dialect``
    is the parser's name for its dialect. ``functions`` are those that queries may call, in small
    letters. ``no_copies`` says why learners have no private copies on it; empty where they have.
    ``copies_lack`` says what such copies have not that the sample has.
    ``stand_in`` says what runs in place of an engine that cannot run here, and ``facts`` what is
    the same there and what is not.
    """

    name: str
    label: str
    dialect: str
    functions: tuple[str, ...]
    lacks: tuple[Lack, ...]
    no_copies: str = ""
    copies_lack: str = ""
    stand_in: str = ""
    facts: StandInFacts = NO_FACTS


class ReadingEngine(Protocol):
    """A database engine that answers queries on datasets, which nothing changes.

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
    def capabilities(self) -> Capabilities:
        """What it is called, and what it can and cannot do."""

    @property
    def version(self) -> str:
        """The version of the engine that runs."""

    def ask_version(self) -> str:
        """The same, asked for now. Raises :class:`EngineUnavailable` where it does not answer."""

    def as_run(self, dataset: LoadedDataset, sql: str) -> tuple[LoadedDataset, str, str]:
        """What is really run of a text: where, the text, and the parser's name of its dialect.

        They are others than those given where another engine stands in for this one.
        """

    def load(self, dataset: DatasetSource) -> LoadedDataset:
        """Makes a dataset ready. Raises :class:`InvalidSample` where it does not load."""

    def run(self, dataset: LoadedDataset, sql: str, limits: Limits) -> QueryOutcome:
        """Runs one query and fetches its rows. Raises :class:`EngineInterrupted`."""

    def run_many(
        self, dataset: LoadedDataset, queries: Sequence[str], limits: Limits
    ) -> Iterator[tuple[int, QueryOutcome]]:
        """Runs many queries, as they come; yields each one's index and outcome once."""

    def show(
        self, dataset: LoadedDataset, sql: str, limits: Limits, most: int
    ) -> ResultView | QueryFailure:
        """Runs one query whose first rows are looked at; no others leave the engine."""

    def same_rows(
        self, dataset: LoadedDataset, queries: tuple[str, str], limits: Limits
    ) -> bool | QueryFailure:
        """Whether two queries give the same rows, in any order, by value; no row leaves the engine."""

    def keep_measure(self, measure: Measure) -> Path:
        """Lays a measure where the worker processes find it, until that file is deleted.

        Raises :class:`ReferenceFails` where its rules cannot be used.
        """

    def judge(
        self, measure: Measure, path: Path, texts: Sequence[str], how: Judging
    ) -> Iterator[tuple[int, Any]]:
        """Runs and judges answers where the data is; yields each one's index and outcome once.

        An outcome is an :class:`~jentrow.core.exercises.grading.outcomes.Outcome`; a
        :class:`~jentrow.core.exercises.grading.outcomes.Looked` where somebody looks at its rows; a
        :class:`QueryFailure` where it was stopped from outside; None where it was lost with its
        process, twice, and nothing is known of it.
        """

    def close(self) -> None:
        """Ends the worker processes and removes what was loaded."""


class CopyEngine(Protocol):
    """A database engine that keeps learners' own copies of datasets: a file holds each, or names it.

    What is done on a server raises :class:`EngineUnavailable` where that does not answer.
    """

    def make_copy(self, source: DatasetSource, copy: Path) -> None:
        """Makes a copy of a dataset at a path where none is. Raises :class:`InvalidSample`."""

    def drop_copy(self, copy: Path) -> None:
        """Deletes a copy, if it is there."""

    def copy_began(self, source: DatasetSource, copy: Path) -> int:
        """How many bytes a copy of a dataset began with."""

    def copy_bytes(self, copy: Path) -> int:
        """How many bytes a copy takes up."""

    def change(
        self, copy: Path, script: str, limits: Limits, most_bytes: int
    ) -> list[StatementDone] | QueryFailure:
        """Runs statements on a copy, all of them or none.

        The copy never grows above ``most_bytes``. Raises :class:`EngineInterrupted` where nobody
        knows whether they were done.
        """

    def copy_tables(self, copy: Path) -> list[CountedTable]:
        """The tables of a copy, with their rows counted. Raises :class:`UnusableInput`."""

    def copy_rows(self, copy: Path, table: str, offset: int, limit: int) -> CopyPage | None:
        """Rows of a table of a copy as they are shown, and how many there are; None without it."""


class Engine(ReadingEngine, CopyEngine, Protocol):
    """A database engine as a server holds it: for queries, and for copies."""
